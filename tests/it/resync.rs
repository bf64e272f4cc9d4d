//! Promise: where reports get lost, nothing sticks longer than until the device is asked for its whole state.

use crate::common::{Bench, us};
use fastrand::Rng;
use tidy_lever::adapter::{Conformance, Report, resync};
use tidy_lever::{Control, Device, Event, Moment, Stick};

const PROFILE: &str = "[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\nkeys = { up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", \
    right = \"KeyD\" }\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\npad = \"south\"\n[action.bag]\nkind = \"button\"\npad = \"west\"\n\
    cue = \"hold 300ms\"\n[action.drop]\nkind = \"button\"\npad = \"west\"\ncue = \"release\"\n";

#[test]
fn what_differs_is_a_level_presses_nothing_and_goes_up_with_its_cause() {
    let mut bench = Bench::new(PROFILE);
    let pad = Device::new(0).unwrap();
    let stands = |at, control, x| Event::stands(us(at), pad, control, x, 0.0);
    bench.level(1_000, "pad:west", 1.0).to(100_000);
    assert_eq!(bench.heard(), ["1000 bag pressed", "1000 drop pressed"]);
    // It went up, and nobody said so; another went down meanwhile.
    bench.seat.feed(stands(200_000, Control::PAD_WEST, 0.0)).unwrap();
    bench.seat.feed(stands(200_000, Control::PAD_SOUTH, 1.0)).unwrap();
    bench.seat.feed(stands(200_000, Control::LEFT_STICK, 1.0)).unwrap();
    bench.to(900_000);
    let heard = bench.heard();
    assert_eq!(heard, ["200000 bag released (resynced)", "200000 drop released (resynced)"], "nothing pulls");
    assert_eq!((bench.xy("steer"), bench.seat.button(bench.find("hop")).is_down()), ((1.0, 0.0), false));
    // What is said again is not news; a press of its own counts.
    bench.seat.feed(stands(910_000, Control::PAD_SOUTH, 1.0)).unwrap();
    bench.level(920_000, "pad:south", 0.0).level(930_000, "pad:south", 1.0).to(1_000_000);
    assert_eq!(bench.heard(), ["930000 hop pressed", "930000 hop pulled"]);
    let wheel = Event::stands(us(1_100_000), pad, Control::WHEEL_UP, 1.0, 0.0);
    assert!(bench.seat.feed(wheel).is_err() || bench.seat.stats().unheard > 0, "a wheel has no level that stays");
}

#[test]
fn with_one_report_in_fifty_lost_and_a_resync_a_second_nothing_sticks_longer() {
    let keys = ["KeyW", "KeyA", "KeyS", "KeyD", "Space"].map(|key| format!("keys:{key}").parse::<Control>().unwrap());
    let all = [&keys[..], &[Control::PAD_SOUTH, Control::PAD_WEST, Control::LEFT_STICK]].concat();
    let (board, pad) = (Device::new(0).unwrap(), Device::new(1).unwrap());
    let of = |control: Control| if keys.contains(&control) { board } else { pad };
    let (mut lost, mut mended) = (0, 0);
    for seed in 0..40 {
        let (mut dice, mut bench) = (Rng::with_seed(seed), Bench::new(PROFILE));
        let mut truth: Vec<(Control, f32, f32)> = all.iter().map(|control| (*control, 0.0, 0.0)).collect();
        let mut conformance = Conformance::new();
        for step in 1..=4_000u64 {
            let at = us(step * 5_000);
            let place = dice.usize(0..truth.len());
            let (control, x, y) = &mut truth[place];
            (*x, *y) = match *control {
                Control::LEFT_STICK => (f32::from(dice.i8(-1..=1)), f32::from(dice.i8(-1..=1))),
                _ => (1.0 - *x, 0.0),
            };
            let event = match *control {
                Control::LEFT_STICK => Event::pair(at, pad, *control, *x, *y),
                _ => Event::level(at, of(*control), *control, *x),
            };
            if dice.u8(0..50) == 0 {
                lost += 1;
            } else {
                bench.seat.feed(event).unwrap();
            }
            bench.seat.advance(at);
            if step % 200 == 0 {
                for device in [board, pad] {
                    let own = |control: Control| of(control) == device;
                    let states: Vec<_> =
                        truth.iter().copied().filter(|(c, x, y)| own(*c) && (*x, *y) != (0.0, 0.0)).collect();
                    let heard: Vec<_> = bench
                        .seat
                        .standing()
                        .filter(|now| now.device == device)
                        .map(|now| (now.control, now.x, now.y))
                        .collect();
                    for event in resync(at, device, &states, heard) {
                        conformance.show(&Report::Event(event), at);
                        bench.seat.feed(event).unwrap();
                        mended += 1;
                    }
                }
                bench.seat.advance(at + std::time::Duration::from_micros(1));
                let level = |control: Control| {
                    truth.iter().find(|(own, ..)| *own == control).map(|(_, x, y)| (*x, *y)).unwrap()
                };
                let down = |control: Control| level(control).0 > 0.5;
                let hop = bench.seat.button(bench.find("hop")).is_down();
                assert!(!hop || down(keys[4]) || down(Control::PAD_SOUTH), "hop sticks at {at}, seed {seed}");
                let bag = bench.seat.button(bench.find("bag")).is_down();
                assert!(!bag || down(Control::PAD_WEST), "bag sticks at {at}, seed {seed}");
                let is_at_rest = level(Control::LEFT_STICK) == (0.0, 0.0) && !keys[..4].iter().any(|key| down(*key));
                let stands = bench.seat.stick(bench.find::<Stick>("steer")).xy();
                assert!(!is_at_rest || stands == (0.0, 0.0), "steer stands at {stands:?} at {at}, seed {seed}");
            }
        }
        assert_eq!(conformance.breaches(), []);
    }
    assert!(lost > 2_000 && mended > 80, "{lost} lost, {mended} mended");
}

#[test]
fn a_repeat_as_a_pair_in_one_moment_breaks_the_contract_of_adapters() {
    let key: Control = "keys:KeyD".parse().unwrap();
    let mut conformance = Conformance::new();
    for (at, down) in [(0, true), (500, false), (500, true)] {
        let event = Event::button(Moment::from_millis(at), Device::default(), key, down);
        conformance.show(&Report::Event(event), Moment::from_millis(600));
    }
    let told = conformance.breaches()[0].to_string();
    assert_eq!(told, "report 2: keys:KeyD goes up and down in one moment: the window system repeats it; drop both");
}
