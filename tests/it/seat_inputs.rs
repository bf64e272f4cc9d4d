//! Promise: whatever is done to a seat is one `SeatInput`, at most 16 bytes on a wire, and arrives to the bit; broken bytes are told.

use std::time::Duration;

use tidy_lever::event::{Input, Phase, Spread};
use tidy_lever::handle::AnyHandle;
use tidy_lever::seat::{ApplyError, FactValue, FeedErrorKind, InputBytesError, MOST_INPUT_BYTES, TellError};
use tidy_lever::tape::{Header, Line, LineKind, Replayer};
use tidy_lever::{Control, Device, Event, Fact, Linkage, Moment, Seat, SeatInput};

use crate::common::{linkage, us};

const BODY: &str = r#"
[facts]
grounded = true
state = ["idle", "dash", "swim"]
[modes]
afloat = {}
[action.hop]
kind = "button"
keys = "Space"
when = "grounded"
[action.lamp]
kind = "button"
keys = "KeyL"
cue = "toggle"
[action.steer]
kind = "stick"
pad = "left-stick"
[action.scroll]
kind = "button"
mouse = "wheel-down"
[action.point]
kind = "pointer"
mouse = "place"
touch = "place"
"#;

/// One of each, and of what has borders some.
fn all(linkage: &Linkage) -> Vec<SeatInput> {
    let fact = |name: &str, value| SeatInput::Fact { fact: linkage.find(name).unwrap(), value };
    let hop: AnyHandle = linkage.find_action("hop").unwrap();
    let devices = [0, 1, 63].map(|number| Device::new(number).unwrap());
    let mut all = vec![
        fact("grounded", FactValue::Flag(false)),
        fact("state", linkage.fact_value(linkage.find("state").unwrap(), "swim").unwrap()),
        SeatInput::Mode { mode: linkage.find("afloat").unwrap(), on: true },
        SeatInput::Set { toggle: linkage.find("lamp").unwrap(), on: true },
        SeatInput::GiveBack { action: hop },
        SeatInput::GiveBack { action: linkage.find_action("steer").unwrap() },
        SeatInput::View { width: 1_920, height: 1_080 },
        SeatInput::Panel { shown: false },
        SeatInput::Focus { focused: false },
        SeatInput::Skip,
        SeatInput::Named { device: devices[1], name: "Plain pad".into() },
    ];
    for device in devices {
        let event =
            |all: &mut Vec<SeatInput>, input| all.push(SeatInput::Event { device, input, spread: Spread::NONE });
        event(&mut all, Input::Plugged(device.number() == 0));
        for value in [0.0, 1.0, 0.333_333, 3.0] {
            for name in ["keys:Space", "keys:KeyL", "mouse:wheel-down", "pad:left-trigger"] {
                event(&mut all, Input::Level { control: name.parse().unwrap(), value });
            }
            event(&mut all, Input::Pair { control: Control::LEFT_STICK, x: value / 3.0, y: -value / 3.0 });
            event(&mut all, Input::Stands { control: Control::LEFT_STICK, x: -value / 3.0, y: value / 3.0 });
        }
        let spread = |millis, input| SeatInput::Event { device, input, spread: Duration::from_millis(millis).into() };
        all.push(spread(33, Input::Level { control: "keys:Space".parse().unwrap(), value: 1.0 }));
        all.push(spread(100, Input::Pair { control: Control::LEFT_STICK, x: 0.5, y: -1.0 }));
        for (number, phase) in Phase::ALL.into_iter().enumerate() {
            let finger = [0, 7, u64::MAX, 1 << 48][number];
            event(&mut all, Input::Touch { finger, phase, x: 0.123_456, y: 1.999_999 });
            event(&mut all, Input::Touch { finger, phase, x: -1.0, y: 2.0 });
        }
    }
    all
}

fn state(seat: &Seat) -> (u64, u64) {
    (seat.state_hash(), seat.stats().clamped)
}

#[test]
fn every_input_goes_over_a_wire_in_16_bytes_and_does_the_same_there() {
    let linkage = linkage(BODY);
    let (mut here, mut there) = (linkage.seat(Moment::ZERO), linkage.seat(Moment::ZERO));
    let inputs = all(&linkage);
    assert!(inputs.len() > 100);
    for (number, input) in inputs.iter().enumerate() {
        let bytes = input.to_bytes(&linkage).unwrap();
        assert!(bytes.len() <= MOST_INPUT_BYTES, "{input:?}");
        let arrived = SeatInput::from_bytes(&linkage, &bytes).unwrap();
        assert_eq!(arrived.to_bytes(&linkage).unwrap(), bytes, "{input:?}");
        if !matches!(input, SeatInput::Event { input: Input::Touch { .. }, .. }) {
            assert_eq!(arrived, *input);
        }
        let at = us(number as u64 * 1_000);
        assert_eq!(here.apply(at, *input), there.apply(at, arrived), "{input:?}");
        here.advance(at);
        there.advance(at);
        assert_eq!(state(&here), state(&there), "{input:?}");
    }
}

#[test]
fn bytes_stay_as_they_are_and_broken_ones_are_told() {
    let linkage = linkage(BODY);
    let press = SeatInput::Event {
        device: Device::new(2).unwrap(),
        input: Input::Level { control: "keys:Space".parse().unwrap(), value: 1.0 },
        spread: Spread::NONE,
    };
    let mut wanted = vec![0x10, 2];
    wanted.extend("keys:Space".parse::<Control>().unwrap().to_bits().to_le_bytes());
    wanted.extend(1.0f32.to_le_bytes());
    assert_eq!(&*press.to_bytes(&linkage).unwrap(), &wanted[..]);
    for input in all(&linkage) {
        let bytes = input.to_bytes(&linkage).unwrap().to_vec();
        for len in 0..bytes.len() {
            assert_eq!(SeatInput::from_bytes(&linkage, &bytes[..len]), Err(InputBytesError::Short), "{input:?}");
        }
        let longer = [&bytes[..], &[0]].concat();
        assert_eq!(SeatInput::from_bytes(&linkage, &longer), Err(InputBytesError::Long));
        // Whatever a wire makes of a bit: it is an input, or it is told; and nothing panics.
        for bit in 0..bytes.len() * 8 {
            let mut flipped = bytes.clone();
            flipped[bit / 8] ^= 1 << (bit % 8);
            match SeatInput::from_bytes(&linkage, &flipped) {
                Ok(other) => {
                    let again = other.to_bytes(&linkage).unwrap();
                    assert_eq!(&*again, &flipped[..], "bit {bit} of {input:?}");
                    let _ = linkage.seat(Moment::ZERO).apply(us(5), other);
                }
                Err(error) => assert!(bit < 8 || !matches!(error, InputBytesError::Version(_)), "{error}"),
            }
        }
    }
    assert_eq!(SeatInput::from_bytes(&linkage, &[0x2c]), Err(InputBytesError::Version(2)));
    let nowhere = SeatInput::Event {
        device: Device::default(),
        input: Input::Touch { finger: 1, phase: Phase::Down, x: f32::NAN, y: 0.0 },
        spread: Spread::NONE,
    };
    assert_eq!(nowhere.to_bytes(&linkage), Err(InputBytesError::NotFinite));
    // What the other end's profile hasn't got.
    let smaller = crate::common::linkage("[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n");
    let fact = SeatInput::Fact { fact: linkage.find("state").unwrap(), value: FactValue::Word(2) };
    assert_eq!(SeatInput::from_bytes(&smaller, &fact.to_bytes(&linkage).unwrap()), Err(InputBytesError::Foreign));
    assert_eq!(fact.to_bytes(&smaller), Err(InputBytesError::Foreign));
}

#[test]
fn apply_does_what_the_short_names_do_and_says_what_they_say() {
    let linkage = linkage(BODY);
    let (mut short, mut long) = (linkage.seat(Moment::ZERO), linkage.seat(Moment::ZERO));
    let (grounded, state): (Fact, Fact) = (linkage.find("grounded").unwrap(), linkage.find("state").unwrap());
    let press = Event::button(us(40), Device::default(), "keys:Space".parse().unwrap(), true);
    short.feed(press).unwrap();
    short.tell_at(state, "dash", us(50)).unwrap();
    short.tell_at(grounded, false, us(60)).unwrap();
    short.set_mode_at(linkage.find("afloat").unwrap(), true, us(70)).unwrap();
    short.set_at(linkage.find("lamp").unwrap(), true, us(80)).unwrap();
    let fact = |fact, value| SeatInput::Fact { fact, value };
    for (at, input) in [
        (40, SeatInput::Event { device: press.device, input: press.input, spread: press.spread }),
        (50, fact(state, linkage.fact_value(state, "dash").unwrap())),
        (60, fact(grounded, false.into())),
        (70, SeatInput::Mode { mode: linkage.find("afloat").unwrap(), on: true }),
        (80, SeatInput::Set { toggle: linkage.find("lamp").unwrap(), on: true }),
    ] {
        long.apply(us(at), input).unwrap();
    }
    short.advance(us(100));
    long.advance(us(100));
    short.skip(us(5_000));
    long.apply(us(5_000), SeatInput::Skip).unwrap();
    assert_eq!((short.state_hash(), short.played()), (long.state_hash(), long.played()));

    let refused = |seat: &mut Seat, input| seat.apply(us(6_000), input).unwrap_err();
    let no_value = ApplyError::Tell(TellError::NoSuchValue);
    assert_eq!(refused(&mut long, fact(state, FactValue::Word(3))), no_value);
    assert_eq!(refused(&mut long, fact(state, true.into())), no_value);
    assert_eq!(refused(&mut long, fact(grounded, FactValue::Word(1))), no_value);
    let hop = SeatInput::Set { toggle: linkage.find("hop").unwrap(), on: true };
    assert_eq!(refused(&mut long, hop), ApplyError::Tell(TellError::NoToggle));
    let mode = SeatInput::GiveBack { action: linkage.find::<tidy_lever::Mode>("afloat").unwrap().into() };
    assert_eq!(refused(&mut long, mode), ApplyError::Tell(TellError::Foreign));
    let input = Input::Pair { control: Control::LEFT_STICK, x: f32::NAN, y: 0.0 };
    match refused(&mut long, SeatInput::Event { device: Device::default(), input, spread: Spread::NONE }) {
        ApplyError::Feed(error) => assert_eq!(error.why, FeedErrorKind::NotFinite),
        other => panic!("{other}"),
    }
}

#[test]
fn a_tape_says_every_input_and_gives_it_back() {
    let linkage = linkage(BODY);
    let mut replayer = Replayer::new(&Header::new("inputs"));
    for input in all(&linkage) {
        let device = match input {
            SeatInput::Event { device, .. } | SeatInput::Named { device, .. } => format!("dev{}", device.number()),
            _ => String::new(),
        };
        let kind = LineKind::of_input(us(7), input, &device, &linkage).unwrap();
        let line = Line::new(us(7), 1, kind);
        let line = Line::read(&line.write()).unwrap();
        let again = replayer.input(&line, &linkage).unwrap().unwrap();
        match (input, again) {
            // The tape's devices have numbers of their own, and a wheel turns by whole notches.
            (SeatInput::Event { input: Input::Level { value, .. }, .. }, SeatInput::Event { input, .. }) => {
                assert!(matches!(input, Input::Level { value: again, .. } if (again - value).abs() < 1e-6));
            }
            (SeatInput::Event { .. }, SeatInput::Event { .. }) => {}
            (SeatInput::Named { name, .. }, SeatInput::Named { name: again, .. }) => assert_eq!(again, name),
            (input, again) => assert_eq!(again, input),
        }
    }
}
