//! The limits: what fits, and what is said of what doesn't.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::time::Duration;

use tidy_lever::event::MOST_DEVICES;
use tidy_lever::linkage::MOST_ACTIONS;
use tidy_lever::profile::{Action, Profile};
use tidy_lever::seat::{Room, Untaken};
use tidy_lever::table::{MOST_SEATS, Table};
use tidy_lever::{Button, Control, Device, Event, Family, Gauge, Linkage, Moment};

const YEAR: Duration = Duration::from_secs(365 * 24 * 60 * 60);

/// So many buttons over all keys, with cues of every sort that waits.
fn many(count: usize) -> Profile {
    let keys: Vec<String> = Control::all(Family::Keys).map(|key| key.name().to_string()).collect();
    (0..count).fold(Profile::new("many"), |profile, number| {
        let cue = ["press", "hold 300ms", "2 taps 240ms apart", "mash 3 within 1s"][number % 4];
        profile.action(Action::button(&format!("act-{number}")).keys(keys[number % keys.len()].as_str()).cue(cue))
    })
}

#[test]
fn ten_thousand_actions_play_and_one_too_many_is_told() {
    let linkage = Linkage::build(&many(10_000)).unwrap();
    let mut seat = linkage.seat(Moment::ZERO);
    let last = linkage.action("act-9996").unwrap().controls()[0].control;
    seat.feed(Event::button(Moment::from_millis(1), Device::default(), last, true)).unwrap();
    seat.advance(Moment::from_millis(16));
    assert_eq!(seat.button(linkage.find("act-9996").unwrap()).pulls(), 1);
    let told = Linkage::build(&many(MOST_ACTIONS + 1)).unwrap_err().to_string();
    assert!(told.contains("a profile can have at most 65000 actions") && told.contains("found 65001"), "{told}");
}

#[test]
fn ten_thousand_events_in_one_moment_are_played_or_handed_back() {
    let profile = Profile::new("storm").action(Action::button("hop").keys(["KeyJ", "KeyK"]));
    let linkage = Linkage::build(&profile).unwrap();
    let hop: Button = linkage.find("hop").unwrap();
    let key: Control = "keys:KeyJ".parse().unwrap();
    let event = |n: u64| Event::button(Moment::from_millis(5), Device::default(), key, n.is_multiple_of(2));
    // With room for them each plays, a microsecond behind the one before.
    let mut seat = linkage.seat_with(Moment::ZERO, Room::default().with_waiting(10_000)).unwrap();
    (0..10_000).for_each(|n| seat.feed(event(n)).unwrap());
    seat.advance(Moment::from_millis(20));
    assert_eq!((seat.button(hop).presses(), seat.stats().moved_on), (5_000, 9_999));
    // Without, what doesn't fit comes back, and none is lost that was taken.
    let mut seat = linkage.seat(Moment::ZERO);
    let refused = (0..10_000).filter_map(|n| seat.feed(event(n)).err()).collect::<Vec<_>>();
    assert_eq!((refused.len(), refused[0].why), (10_000 - 1_024, Untaken::Full));
    assert!(refused[0].to_string().contains("advance"), "{}", refused[0]);
    seat.advance(Moment::from_millis(20));
    assert_eq!((seat.button(hop).presses(), seat.stats().handed_back), (512, 10_000 - 1_024));
}

#[test]
fn a_year_passes_in_one_advance() {
    let text = include_str!("../../../demo/otter-post.toml");
    let linkage = Linkage::build(&Profile::from_toml(text).unwrap()).unwrap();
    let mut seat = linkage.seat(Moment::ZERO);
    let press =
        |at, control: &str| Event::button(Moment::from_millis(at), Device::default(), control.parse().unwrap(), true);
    seat.set_mode(linkage.find("afloat").unwrap(), true).unwrap();
    for control in ["keys:KeyE", "keys:KeyK", "keys:KeyD"] {
        seat.feed(press(5, control)).unwrap();
    }
    seat.advance(Moment::ZERO + YEAR);
    let paddle: Gauge = linkage.find("paddle").unwrap();
    assert_eq!(seat.gauge(paddle).value(), 1.0, "faded long since");
    let bag: Button = linkage.find("open-bag").unwrap();
    assert_eq!((seat.button(bag).pulls(), seat.button(bag).held_for()), (1, YEAR - Duration::from_millis(5)));
    assert_eq!(seat.played(), Moment::ZERO + YEAR);
}

#[test]
fn sixty_four_devices_and_eight_seats_and_no_more() {
    let profile = Profile::new("crowd").action(Action::button("hop").pad("south"));
    let linkage = Linkage::build(&profile).unwrap();
    let hop: Button = linkage.find("hop").unwrap();
    let press = |number| Event::button(Moment::from_millis(5), Device::new(number).unwrap(), Control::PAD_SOUTH, true);
    let mut seat = linkage.seat_with(Moment::ZERO, Room::default().with_devices(MOST_DEVICES)).unwrap();
    (0..MOST_DEVICES).for_each(|number| seat.feed(press(number)).unwrap());
    seat.advance(Moment::from_millis(16));
    // More at once than a moment has room for: what is met first pulls first.
    assert_eq!((seat.button(hop).presses(), seat.button(hop).pulls()), (64, 64));
    assert_eq!(Device::new(MOST_DEVICES), None);
    // A seat has room for eight unless it is told.
    let mut seat = linkage.seat(Moment::ZERO);
    let refused: Vec<_> = (0..12).filter_map(|number| seat.feed(press(number)).err()).collect();
    assert!(refused.len() == 4 && refused.iter().all(|error| error.why == Untaken::TooManyDevices));
    let mut table = Table::new(&linkage, 99);
    let places: Vec<_> = (0..10).map(|number| table.sit(&linkage, &[Device::new(number).unwrap()])).collect();
    assert_eq!(places.iter().flatten().count(), MOST_SEATS);
    for number in 0..10 {
        table.feed(press(number)).unwrap();
    }
    table.advance(Moment::from_millis(16));
    assert!(table.seats().all(|(_, seat)| seat.button(hop).pulls() == 1));
}
