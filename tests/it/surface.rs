//! Promise: answers are small, and compare by what they say; what is built says so if it is dropped.

use std::mem::size_of;

use tidy_lever::reading::{AxisReading, ButtonReading, GaugeReading, PointerReading, StickReading, SweepReading};
use tidy_lever::seat::{InputBytes, SeatInput};
use tidy_lever::{Axis, Button, Event, Happening};

use crate::common::{Bench, us};

#[test]
fn answers_stay_small() {
    assert!(size_of::<ButtonReading>() <= 48, "{}", size_of::<ButtonReading>());
    assert!(size_of::<AxisReading>() <= 64, "{}", size_of::<AxisReading>());
    let others = [size_of::<StickReading>(), size_of::<GaugeReading>(), size_of::<SweepReading>()];
    assert!(others.iter().all(|size| *size <= 80), "{others:?}");
    assert!(size_of::<PointerReading>() <= 96, "{}", size_of::<PointerReading>());
    assert!(size_of::<SeatInput>() <= 32 && size_of::<InputBytes>() <= 17, "{}", size_of::<SeatInput>());
    assert!(size_of::<Event>() <= 40 && size_of::<Happening>() <= 64);
}

#[test]
fn answers_that_say_the_same_are_the_same() {
    let body = "[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n\
                [action.dive]\nkind = \"axis\"\npad = \"left-trigger\"\nrange = { low = -10, rest = 0, high = 10 }\n";
    let (mut one, mut other) = (Bench::new(body), Bench::new(body));
    // Pressed for as long, at other moments and after other presses.
    one.level(1_000, "keys:Space", 1.0).to(9_000);
    other.level(1_000, "keys:KeyQ", 1.0).level(5_000, "pad:left-trigger", 0.5).level(6_000, "pad:left-trigger", 0.0);
    other.level(21_000, "keys:Space", 1.0);
    other.seat.advance(us(20_000));
    other.seat.advance(us(29_000));
    let (hop, dive): (Button, Axis) = (one.find("hop"), one.find("dive"));
    assert!(one.seat.button(hop).pulled());
    assert_eq!(one.seat.button(hop), other.seat.button(hop));
    assert_eq!(one.seat.axis(dive).value(), other.seat.axis(dive).value());
    other.seat.advance(us(30_000));
    assert_ne!(one.seat.button(hop), other.seat.button(hop), "held for longer, and no press of this tick");
}
