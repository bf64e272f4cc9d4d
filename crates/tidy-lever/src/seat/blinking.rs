//! The rule of the tests alone, from a profile's line to a pull: nothing but its file and its line knows of it.

use alloc::string::ToString;
use alloc::vec::Vec;

use crate::cue::{Cue, nearest_rule};
use crate::event::{Device, Event};
use crate::handle::Button;
use crate::linkage::Linkage;
use crate::profile::Profile;
use crate::time::Moment;

#[test]
fn a_profile_says_it_and_a_seat_plays_it() {
    let text = "tidy-lever = 1\n[action.wink]\nkind = \"button\"\nkeys = \"KeyW\"\ncue = \"blink\"\n";
    let linkage = Linkage::build(&Profile::from_toml(text).unwrap()).unwrap();
    let (mut seat, wink) = (linkage.seat(Moment::ZERO), linkage.find::<Button>("wink").unwrap());
    let key = |millis, down| {
        Event::button(Moment::from_millis(millis), Device::default(), "keys:KeyW".parse().unwrap(), down)
    };
    let mut pulls = Vec::new();
    for (down, up) in [(10, 40), (100, 170), (200, 240)] {
        seat.feed(key(down, true)).unwrap();
        seat.feed(key(up, false)).unwrap();
        seat.advance(Moment::from_millis(up));
        pulls.push(seat.button(wink).pulls());
    }
    assert_eq!(pulls, [1, 0, 1]);
    assert_eq!(Cue::read("hop blink").unwrap().to_string(), "hop blink");
    assert_eq!(nearest_rule("blik"), Some("blink"));
}
