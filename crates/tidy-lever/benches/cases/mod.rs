//! What the benches play.
#![allow(dead_code, unreachable_pub, clippy::unwrap_used, reason = "shared by benches that each need a part of it")]

use tidy_lever::profile::{Action, Profile};
use tidy_lever::{Control, Device, Event, Linkage, Moment, Seat};

pub const DEMO: &str = include_str!("../../../../demo/otter-post.toml");
/// Events in one round.
pub const EVENTS: u64 = 1_000;

pub fn demo() -> Linkage {
    Linkage::build(&Profile::from_toml(DEMO).unwrap()).unwrap()
}

/// Keys go down and up, one after another, 8 ms apart.
pub fn taps(names: &[&str]) -> Vec<Event> {
    let keyboard = Device::new(0).unwrap();
    let controls: Vec<Control> = names.iter().map(|name| name.parse().unwrap()).collect();
    let event = |n: u64| {
        let at = Moment::from_micros(8_000 * (n + 1));
        Event::button(at, keyboard, controls[(n / 2) as usize % controls.len()], n.is_multiple_of(2))
    };
    (0..EVENTS).map(event).collect()
}

/// A thumb that goes round and about.
pub fn thumb() -> Vec<Event> {
    let mut dice = fastrand::Rng::with_seed(4);
    let mut angle = 0.0f32;
    let event = |n: u64| {
        angle += (dice.f32() - 0.3) * 0.6;
        let (y, x) = angle.sin_cos();
        Event::pair(Moment::from_micros(8_000 * (n + 1)), Device::new(1).unwrap(), Control::LEFT_STICK, x, y)
    };
    (0..EVENTS).map(event).collect()
}

/// Plays a round behind everything that was played already, each event in a tick of its own.
pub fn play(seat: &mut Seat, events: &[Event]) {
    let begin = seat.played() - Moment::ZERO;
    for event in events {
        let at = event.at + begin;
        seat.feed(Event { at, ..*event }).unwrap();
        seat.advance(at);
    }
}

/// One button that is pressed, among so many that are not.
pub fn untouched(count: usize) -> Linkage {
    let mut profile = Profile::new("untouched").action(Action::button("act").keys("KeyJ"));
    let keys: Vec<String> = Control::all(tidy_lever::Family::Keys).map(|key| key.name().to_string()).collect();
    let others: Vec<&String> = keys.iter().filter(|key| *key != "KeyJ").collect();
    for number in 0..count {
        let cue = ["press", "hold 300ms", "2 taps 240ms apart", "toggle"][number % 4];
        let action = Action::button(&format!("other-{number}")).keys(others[number % others.len()].as_str()).cue(cue);
        profile = profile.action(action);
    }
    Linkage::build(&profile).unwrap()
}

/// What one event is made of: a name, and a round of them on the demo's profile.
pub fn events() -> Vec<(&'static str, Vec<Event>)> {
    vec![
        ("a key that walks", taps(&["keys:KeyD"])),
        ("a key that tosses", taps(&["keys:KeyJ"])),
        ("keys in turn", taps(&["keys:KeyD", "keys:Space", "keys:KeyE", "keys:KeyG", "keys:KeyL", "keys:KeyQ"])),
        ("a stick", thumb()),
        ("a key that nobody hears", taps(&["keys:F9"])),
    ]
}
