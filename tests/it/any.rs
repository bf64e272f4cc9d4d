//! Any profile, and any hands: random, the same for the same seed. They need nothing of the library but its core.

use fastrand::Rng;
use tidy_lever::profile::{Action, Gauge, Legs, ModeEntry, Profile};
use tidy_lever::{Button, Control, Device, Event, Fact, Mode, Moment, Seat};

pub(crate) const KEYS: [&str; 6] = ["KeyJ", "KeyK", "KeyL", "KeyI", "KeyW", "KeyD"];
pub(crate) const BUTTONS: [&str; 6] = ["b0", "b1", "b2", "b3", "b4", "b5"];
/// Every rule, by spans that random hands meet and miss.
const CUES: [&str; 24] = [
    "press",
    "release",
    "hold 30ms",
    "tap under 50ms",
    "2 taps 60ms apart",
    "3 taps 60ms apart counted on release",
    "repeat after 40ms every 15ms",
    "toggle",
    "mash 3 within 120ms",
    "charge 20ms to 90ms",
    "steer twice within 80ms",
    "steer rolls down, down-forward, forward then b0 within 150ms",
    "steer rolls left, maybe down, right within 200ms",
    "steer rolls back held 40ms, forward then b1 within 90ms counted on release",
    "steer rolls 623 within 250ms",
    "steer spins 1 within 300ms",
    "steer flicks over 0.8 within 30ms",
    "b0 with b1 within 20ms",
    "order b0, b1, b0 within 200ms",
    "order right, b0 within 200ms",
    "steer.right hold 40ms",
    "b1 hold 25ms",
    "b0 tap under 40ms",
    "dip hold 20ms",
];
const GATES: [&str; 6] = [
    "grounded",
    "grounded within 40ms",
    "grounded within 25ms and not busy",
    "state is idle within 30ms or busy",
    "not b0 on",
    "not grounded within 20ms",
];

pub(crate) fn pick<'a>(dice: &mut Rng, all: &[&'a str]) -> &'a str {
    all[dice.usize(0..all.len())]
}

/// A profile of all kinds of actions; some can't be built, as names wait for each other.
pub(crate) fn profile(dice: &mut Rng) -> Profile {
    let paddle = Gauge::default().push("+1").ceiling(5.0).rest("30ms").fade("x0.5 every 40ms");
    let mut profile = Profile::new("any")
        .mode(ModeEntry::new("ashore").on())
        .mode(ModeEntry::new("menu").covers_all())
        .fact("grounded", dice.bool())
        .fact("busy", false)
        .fact("state", ["idle", "walk"])
        .action(
            Action::stick("steer")
                .keys(Legs::cross("KeyW", "KeyA", "KeyS", "KeyD"))
                .pad(["left-stick", "dpad"])
                .directions(if dice.bool() { 8 } else { 4 }),
        )
        .action(Action::axis("dip").pad(Legs::pair("left-trigger", "right-trigger")))
        .action(Action::sweep("look").mouse("move").per_count(0.08, 0.06).pad("right-stick").per_second(220.0, 160.0))
        .action(Action::gauge("paddle", paddle).keys("KeyK"));
    for (number, name) in BUTTONS.into_iter().enumerate() {
        let mut action = Action::button(name);
        action = match dice.u8(0..4) {
            // The first two are what others name: each has a key of its own.
            _ if number < 2 => action.keys(KEYS[number]),
            0 => action.keys(pick(dice, &KEYS)),
            1 => action.keys([pick(dice, &KEYS), pick(dice, &KEYS)]),
            _ => action,
        };
        if dice.u8(0..3) == 0 {
            action = action.pad(pick(dice, &["south", "west", "right-trigger"]));
        }
        let cue = if number < 2 { pick(dice, &CUES[..10]) } else { pick(dice, &CUES) };
        action = action.cue(cue);
        // Now and then a list of cues, and other tolerances.
        let listed = !["toggle", "release"].contains(&cue) && !cue.contains("charge");
        if number >= 2 && listed && dice.u8(0..3) == 0 {
            for _ in 0..1 + dice.u8(0..2) {
                let more = pick(dice, &CUES);
                if ![cue, "toggle", "release"].contains(&more) && !more.contains("charge") {
                    action = action.cue(more);
                }
            }
        }
        if cue.contains("rolls") && dice.bool() {
            action = action.astray("20ms").brush("15ms").key_gap("12ms").from_push(0.5);
            action = if dice.bool() { action.fresh("90ms") } else { action };
        }
        if (cue.contains("taps") || cue.contains("twice")) && dice.u8(0..3) == 0 {
            action = action.paced("100ms", "160ms");
        }
        if dice.bool() {
            action = action.when(pick(dice, &GATES));
        }
        action = match dice.u8(0..6) {
            0 => action.keep("50ms"),
            1 => action.cooldown("30ms"),
            2 => action.mark("half", "20ms").keep("15ms"),
            3 if cue == "press" => action.while_held(),
            _ => action,
        };
        let others: Vec<&str> = BUTTONS[..number].iter().copied().filter(|_| dice.u8(0..3) == 0).collect();
        action = match dice.u8(0..5) {
            0 => action.outranks(others),
            1 => action.waits_for(others),
            2 => action.group("hands"),
            _ => action,
        };
        action = match dice.u8(0..6) {
            0 => action.modes(["ashore"]),
            1 => action.modes(["menu"]),
            2 => action.turns_on(["menu"]),
            3 => action.always().turns_off(["menu"]),
            _ => action,
        };
        profile = profile.action(action);
    }
    profile
}

/// What a hand, a game or a device does.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Act {
    Level(usize, Control, f32),
    Pair(Control, f32, f32),
    Plugged(bool),
    Focus(bool),
    Fact(&'static str, bool),
    State(&'static str),
    Mode(&'static str, bool),
    GiveBack,
    /// A gap of this many µs, up to here.
    Gap(u64),
}

pub(crate) fn acts(dice: &mut Rng) -> Vec<(u64, Act)> {
    let mut at = 0;
    let mut act = |_| {
        at += match dice.u8(0..10) {
            0..3 => 0,
            3 => 1,
            4 | 5 => dice.u64(2..3_000),
            _ => dice.u64(3_000..60_000),
        };
        let down = f32::from(u8::from(dice.bool()));
        let level = |dice: &mut Rng| f32::from(dice.i8(-10..=10)) / 10.0;
        let act = match dice.u8(0..24) {
            0..9 => {
                let key = pick(dice, &["KeyJ", "KeyK", "KeyL", "KeyI", "KeyW", "KeyA", "KeyS", "KeyD"]);
                Act::Level(dice.usize(0..2), format!("keys:{key}").parse().unwrap(), down)
            }
            9 | 10 => Act::Level(2, pick(dice, &["pad:south", "pad:west"]).parse().unwrap(), down),
            11 | 12 => {
                let trigger = pick(dice, &["pad:left-trigger", "pad:right-trigger"]).parse().unwrap();
                Act::Level(2, trigger, level(dice).abs())
            }
            13..16 => Act::Pair(Control::LEFT_STICK, level(dice), level(dice)),
            16 => Act::Pair(Control::RIGHT_STICK, level(dice), level(dice)),
            17 => Act::Pair(Control::MOUSE_MOVE, level(dice) * 40.0, level(dice) * 40.0),
            18 => Act::Plugged(dice.u8(0..4) > 0),
            19 => Act::Focus(dice.u8(0..4) > 0),
            20 => Act::Fact(["grounded", "busy", "frozen"][dice.usize(0..3)], dice.bool()),
            21 => Act::Fact("grounded", dice.bool()),
            22 => Act::State(["idle", "walk"][dice.usize(0..2)]),
            _ if dice.u8(0..6) == 0 => {
                let gap = dice.u64(1..200_000);
                at += gap;
                Act::Gap(gap)
            }
            _ if dice.bool() => Act::GiveBack,
            _ if dice.bool() => Act::Mode("ashore", dice.u8(0..4) > 0),
            _ => Act::Mode("menu", dice.u8(0..4) == 0),
        };
        (at, act)
    };
    (0..200).map(&mut act).collect()
}

/// What a device says, at a moment.
pub(crate) fn event(at: Moment, act: Act) -> Option<Event> {
    let device = |number| Device::new(number).unwrap();
    match act {
        Act::Level(number, control, value) => Some(Event::level(at, device(number), control, value)),
        Act::Pair(control, x, y) => {
            let number = if control == Control::MOUSE_MOVE { 3 } else { 2 };
            Some(Event::pair(at, device(number), control, x, y))
        }
        Act::Plugged(plugged) => Some(Event::plugged(at, device(2), plugged)),
        _ => None,
    }
}

pub(crate) fn put(seat: &mut Seat, (at, act): (u64, Act)) {
    let at = Moment::from_micros(at);
    let linkage = seat.linkage().clone();
    match act {
        Act::Level(..) | Act::Pair(..) | Act::Plugged(_) => {
            event(at, act).into_iter().for_each(|event| seat.feed(event).unwrap());
        }
        Act::Focus(focused) => seat.focus_at(focused, at).unwrap(),
        Act::Fact(name, value) => seat.tell_at(linkage.find::<Fact>(name).unwrap(), value, at).unwrap(),
        Act::State(word) => seat.tell_at(linkage.find::<Fact>("state").unwrap(), word, at).unwrap(),
        Act::Mode(name, on) => seat.set_mode_at(linkage.find::<Mode>(name).unwrap(), on, at).unwrap(),
        Act::Gap(gap) => {
            seat.advance(Moment::from_micros(at.as_micros() - gap));
            seat.skip(at);
        }
        Act::GiveBack => seat.give_back_at(linkage.find::<Button>("b0").unwrap(), at).unwrap(),
    }
}
