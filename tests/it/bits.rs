//! Promise: handles and controls have numbers that other languages can hold, and none that mean something else.

use std::collections::HashSet;

use tidy_lever::handle::{AnyHandle, Handle};
use tidy_lever::profile::Action;
use tidy_lever::{Button, Control, Device, Event, Fact, Family, Linkage, Mode, Moment, Profile, Stick};

#[test]
fn every_control_has_a_number_of_its_own_and_no_other_number_has_a_control() {
    let all: Vec<Control> = Family::ALL.into_iter().flat_map(Control::all).collect();
    let bits: HashSet<u16> = all.iter().map(|control| control.to_bits()).collect();
    assert_eq!((bits.len(), bits.contains(&0)), (all.len(), false));
    assert!(all.iter().all(|control| Control::from_bits(control.to_bits()) == Some(*control)));
    // Of all numbers only those, and the patches and the place of a touch panel, are controls; each has a name.
    let known: Vec<Control> = (0..=u16::MAX).filter_map(Control::from_bits).collect();
    assert!(known.iter().all(|control| all.contains(control) || control.family() == Family::Touch));
    assert!(known.iter().all(|control| !control.to_string().is_empty()) && known.len() < 400);
}

#[test]
fn a_handles_number_is_good_wherever_the_name_is() {
    let text = "tidy-lever = 1\n[modes]\nhop = {}\n[facts]\nhop = true\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n\
                [action.steer]\nkind = \"stick\"\npad = \"left-stick\"\n";
    let linkage = Linkage::build(&Profile::from_toml(text).unwrap()).unwrap();
    let (hop, fact): (Button, Fact) = (linkage.find("hop").unwrap(), linkage.find("hop").unwrap());
    let (mode, steer): (Mode, Stick) = (linkage.find("hop").unwrap(), linkage.find("steer").unwrap());
    let all = [hop.to_bits(), fact.to_bits(), mode.to_bits(), steer.to_bits()];
    assert_eq!(all.iter().collect::<HashSet<_>>().len(), 4, "one name, three things");
    assert!(Button::from_bits(fact.to_bits()).is_none() && Stick::from_bits(hop.to_bits()).is_none());
    let again = Button::from_bits(hop.to_bits()).unwrap();
    assert_eq!(
        (again.to_bits(), linkage.name_of(again), linkage.name_of(hop)),
        (hop.to_bits(), Some("hop"), Some("hop"))
    );

    // On another profile with the name, and after a relink.
    let other = Linkage::build(
        &Profile::new("other").action(Action::button("toss")).action(Action::button("hop").keys("KeyH")),
    );
    let other = other.unwrap();
    let mut seat = linkage.seat(Moment::ZERO);
    let press = |seat: &mut tidy_lever::Seat, at, key: &str| {
        seat.feed(Event::button(Moment::from_millis(at), Device::default(), key.parse().unwrap(), true)).unwrap();
        seat.advance(Moment::from_millis(at));
        seat.button(again).pulls()
    };
    assert_eq!(press(&mut seat, 5, "keys:Space"), 1);
    seat.relink(&other, &mut []);
    assert_eq!(press(&mut seat, 10, "keys:KeyH"), 1);
    assert_eq!(seat.latest().pulls(again).count(), 1);

    // What names nothing is at rest, and counted.
    for bits in [0, 1, u64::MAX, 9 << 48] {
        assert!(AnyHandle::from_bits(bits).is_none());
    }
    let nothing = Button::from_bits(1 << 48 | 12_345).unwrap();
    assert!(!seat.knows(nothing) && !seat.button(nothing).is_down() && seat.linkage().name_of(nothing).is_none());
    assert_eq!((seat.stats().foreign, seat.try_button(nothing)), (0, None), "a question changes nothing");
}
