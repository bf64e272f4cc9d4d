//! Promise: pads of a source that plays a script come out right: layout, pairs, repeats, times, cables.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::cell::RefCell;
use std::collections::VecDeque;
use std::rc::Rc;

use tidy_lever::adapter::{Conformance, Devices, Report};
use tidy_lever::{Button, Control, Event, Linkage, Moment, Profile, Stick};
use tidy_lever_pads::{PadName, PadTables, Pads, Place, Seen, Source, Stamped, Times};

/// A source that says what it is handed.
#[derive(Clone, Debug, Default)]
struct Script(Rc<RefCell<VecDeque<Stamped>>>);

impl Script {
    fn says(&self, stamp: u64, seen: Seen) {
        self.0.borrow_mut().push_back(Stamped { stamp: (stamp > 0).then_some(stamp), seen, asked: false });
    }

    fn came(&self, id: usize, name: &str, numbers: Option<(u16, u16)>) {
        self.says(
            0,
            Seen::Came(id, PadName { name: name.into(), numbers, controls: vec![Control::PAD_SOUTH], has: None }),
        );
    }

    fn moved(&self, stamp: u64, id: usize, place: Place, level: f32) {
        self.says(stamp, Seen::Moved(id, place, level));
    }
}

impl Source for Script {
    fn next(&mut self) -> Option<Stamped> {
        self.0.borrow_mut().pop_front()
    }

    fn times(&self) -> Times {
        Times::System
    }
}

/// Pads on a bench, with everything that they reported held to the rules of adapters.
struct Bench {
    script: Script,
    pads: Pads,
    devices: Devices,
    conformance: Conformance,
}

impl Bench {
    fn new() -> Bench {
        let script = Script::default();
        let pads = Pads::from_source(script.clone());
        Bench { script, pads, devices: Devices::new(), conformance: Conformance::new() }
    }

    fn poll(&mut self, now: u64) -> Vec<Report> {
        let now = Moment::from_micros(now);
        let reports = self.pads.poll(&mut self.devices, || now);
        reports.iter().for_each(|report| self.conformance.show(report, now));
        reports
    }

    fn events(&mut self, now: u64) -> Vec<Event> {
        self.poll(now).iter().filter_map(Report::event).collect()
    }
}

const X: Place = Place::Axis { of: Control::LEFT_STICK, upright: false };
const Y: Place = Place::Axis { of: Control::LEFT_STICK, upright: true };

fn at(micros: u64) -> Moment {
    Moment::from_micros(micros)
}

#[test]
fn the_axes_of_one_report_are_one_pair_and_a_hat_is_told_as_arms_are() {
    let mut bench = Bench::new();
    bench.script.came(0, "Quay pad", None);
    let Report::Came { device, name, .. } = bench.poll(1_000).remove(0) else { panic!("it came") };
    assert_eq!((name.as_str(), bench.pads.name(device)), ("Quay pad", Some("Quay pad")));
    assert_eq!(bench.pads.controls(device), [Control::PAD_SOUTH]);
    // The kernel's clock is ahead by a second; a report that comes at once tells that.
    let offset = 1_000_000;
    bench.script.moved(offset + 1_500, 0, Place::At(Control::PAD_EAST), 1.0);
    assert_eq!(bench.events(1_500), [Event::level(at(1_500), device, Control::PAD_EAST, 1.0)]);
    bench.script.moved(offset + 2_000, 0, X, 0.6);
    bench.script.moved(offset + 2_000, 0, Y, -0.8);
    bench.script.moved(offset + 2_500, 0, X, 0.99997);
    bench.script.moved(offset + 3_000, 0, X, 0.99999);
    bench.script.moved(offset + 3_000, 0, Place::At(Control::PAD_SOUTH), 1.0);
    assert_eq!(
        bench.events(3_000),
        [
            Event::pair(at(2_000), device, Control::LEFT_STICK, 0.6, -0.8),
            Event::pair(at(2_500), device, Control::LEFT_STICK, 1.0, -0.8),
            Event::level(at(3_000), device, Control::PAD_SOUTH, 1.0),
        ]
    );
    // An arm that goes down and up between two looks is told twice; a hat's axes once.
    bench.script.moved(offset + 4_000, 0, Place::Arm { x: 0, y: 1 }, 1.0);
    bench.script.moved(offset + 4_200, 0, Place::Arm { x: 0, y: 1 }, 0.0);
    bench.script.moved(offset + 5_000, 0, Place::Axis { of: Control::DPAD, upright: false }, -1.0);
    bench.script.moved(offset + 5_000, 0, Place::Axis { of: Control::DPAD, upright: true }, -1.0);
    bench.script.moved(offset + 6_000, 0, Place::At(Control::LEFT_TRIGGER), 0.25);
    // Stick and hat at rest again, to within a kernel's rounding; a level that is none.
    bench.script.moved(offset + 7_000, 0, X, 3e-5);
    bench.script.moved(offset + 7_000, 0, Y, f32::NAN);
    let pair = |micros, control, x, y| Event::pair(at(micros), device, control, x, y);
    assert_eq!(
        bench.events(8_000),
        [
            pair(4_000, Control::DPAD, 0.0, 1.0),
            pair(4_200, Control::DPAD, 0.0, 0.0),
            pair(5_000, Control::DPAD, -1.0, -1.0),
            Event::level(at(6_000), device, Control::LEFT_TRIGGER, 0.25),
            pair(7_000, Control::LEFT_STICK, 0.0, -0.8),
        ]
    );
    assert_eq!(bench.conformance.breaches(), []);
    for (name, level) in [("pad:left-stick.down", 0.8), ("pad:dpad.left", 1.0), ("pad:south", 1.0)] {
        assert!(bench.conformance.saw(name, level), "{name}");
    }
}

#[test]
fn a_pad_that_comes_again_has_its_number_and_a_twin_the_lowest_free_one() {
    let mut bench = Bench::new();
    let kinds = [(0, Some((1, 2))), (1, Some((1, 2))), (2, Some((3, 4)))];
    kinds.into_iter().for_each(|(id, numbers)| bench.script.came(id, "pad", numbers));
    let numbers = |reports: &[Report]| -> Vec<usize> {
        let came = reports.iter().filter_map(|report| match report {
            Report::Came { device, .. } => Some(device.number()),
            _ => None,
        });
        came.collect()
    };
    assert_eq!(numbers(&bench.poll(10)), [0, 1, 2]);
    [0, 1, 2].into_iter().for_each(|id| bench.script.says(0, Seen::Gone(id)));
    // They come back in another order, under other numbers of the system.
    for (id, numbers) in [(7, Some((3, 4))), (8, Some((1, 2))), (9, Some((1, 2)))] {
        bench.script.came(id, "pad", numbers);
    }
    bench.script.moved(0, 8, Place::At(Control::PAD_EAST), 1.0);
    // One that is gone says nothing.
    bench.script.moved(0, 2, Place::At(Control::PAD_EAST), 1.0);
    let reports = bench.poll(20);
    assert_eq!(numbers(&reports), [2, 0, 1]);
    let pressed: Vec<usize> = reports
        .iter()
        .filter_map(|report| match report {
            Report::Event(event) => Some(event.device.number()),
            _ => None,
        })
        .collect();
    assert_eq!(pressed, [0]);
    assert_eq!((bench.conformance.breaches(), bench.pads.troubles()), (&[][..], (0, 0)));
}

#[test]
fn what_a_lost_pad_holds_goes_up_with_its_cause_and_it_plays_on_when_it_is_back() {
    let linkage = Linkage::build(&Profile::from_toml(
        "tidy-lever = 1\n[action.hop]\nkind = \"button\"\npad = \"south\"\n[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\n",
    ).unwrap()).unwrap();
    let (hop, steer): (Button, Stick) = (linkage.find("hop").unwrap(), linkage.find("steer").unwrap());
    let (mut seat, mut bench) = (linkage.seat(at(0)), Bench::new());
    let mut step = |bench: &mut Bench, now: u64| {
        for event in bench.events(now) {
            seat.feed(event).unwrap();
        }
        seat.advance(at(now));
        let causes: Vec<String> =
            seat.latest().releases(hop).map(|one| one.what().cause().unwrap().to_string()).collect();
        (seat.button(hop).is_down(), seat.stick(steer).xy(), causes)
    };
    bench.script.came(3, "pad", None);
    bench.script.moved(0, 3, Place::At(Control::PAD_SOUTH), 1.0);
    bench.script.moved(0, 3, X, 1.0);
    assert_eq!(step(&mut bench, 100_000), (true, (1.0, 0.0), vec![]));
    bench.script.says(0, Seen::Gone(3));
    assert_eq!(step(&mut bench, 200_000), (false, (0.0, 0.0), vec!["unplugged".to_owned()]));
    bench.script.came(5, "pad", None);
    // What it says first, without a time, is how it stands: a stick counts at once, a button needs a fresh press.
    bench.script.moved(0, 5, Place::At(Control::PAD_SOUTH), 1.0);
    bench.script.moved(0, 5, X, 1.0);
    assert_eq!(step(&mut bench, 300_000), (false, (1.0, 0.0), vec![]));
    bench.script.moved(0, 5, Place::At(Control::PAD_SOUTH), 0.0);
    assert!(!step(&mut bench, 350_000).0);
    bench.script.moved(0, 5, Place::At(Control::PAD_SOUTH), 1.0);
    assert_eq!(step(&mut bench, 400_000), (true, (1.0, 0.0), vec![]));
    assert_eq!(bench.conformance.breaches(), []);
}

#[test]
fn a_clock_that_is_set_and_reports_without_a_time_keep_the_order() {
    let mut bench = Bench::new();
    bench.script.came(0, "pad", None);
    let told = [(10_000, 9_000_000), (20_000, 9_010_000), (30_000, 0), (40_000, 1_000), (50_000, 11_000)];
    for (number, (now, stamp)) in told.into_iter().enumerate() {
        bench.script.moved(stamp, 0, Place::At(Control::PAD_SOUTH), f32::from(u8::from(number % 2 == 0)));
        assert_eq!(bench.events(now).last().unwrap().at, at(now));
    }
    assert_eq!((bench.conformance.breaches(), bench.pads.troubles()), (&[][..], (1, 0)));
}

#[test]
fn a_pad_that_nobody_knows_plays_by_the_players_table() {
    let mut bench = Bench::new();
    bench.pads.describe(
        PadTables::from_toml(
            "tidy-lever = 1\n[action.hop]\nkeys = \"KeyJ\"\n[pad.\"Odd pad\"]\nsouth = \"button-2\"\nleft-stick-x = \"axis-0\"\n\
             left-stick-y = \"-axis-1\"\nleft-trigger = \"axis-5\"\ndpad-up = \"button-12\"\n",
        )
        .unwrap(),
    );
    bench.script.came(0, "Odd pad", None);
    bench.poll(10);
    bench.script.moved(0, 0, Place::Button(2), 1.0);
    bench.script.moved(0, 0, Place::RawAxis(0), 0.5);
    bench.script.moved(0, 0, Place::RawAxis(1), -1.0);
    bench.script.moved(0, 0, Place::RawAxis(5), -1.0);
    bench.script.moved(0, 0, Place::RawAxis(5), 0.0);
    bench.script.moved(0, 0, Place::Button(12), 1.0);
    bench.script.moved(0, 0, Place::Button(99), 1.0);
    let told: Vec<String> = bench.events(20).iter().map(|event| format!("{:?}", event.input)).collect();
    assert_eq!(
        told,
        [
            "Level { control: pad:south, value: 1.0 }",
            "Pair { control: pad:left-stick, x: 0.5, y: 1.0 }",
            "Level { control: pad:left-trigger, value: 0.5 }",
            "Pair { control: pad:dpad, x: 0.0, y: 1.0 }",
        ]
    );
    assert_eq!(bench.conformance.breaches(), []);
    for (text, told) in [
        ("[pad.\"a\"]\nsouth = 3\n", "pad.\"a\".south: write \"button-3\", \"axis-1\""),
        ("[pad.\"a\"]\nsouth = \"-button-3\"\n", "pad.\"a\".south: write"),
        ("[pad.\"a\"]\nleft-stick = \"axis-3\"\n", "did you mean `left-stick-"),
        ("pad = 3\n", "write a table for each pad"),
        ("[pad\n", "not valid TOML"),
    ] {
        let error = PadTables::from_toml(text).unwrap_err().to_string();
        assert!(error.contains(told), "{error}");
    }
}

#[test]
fn a_storm_of_whatever_a_source_can_say_keeps_the_rules() {
    let mut dice = fastrand::Rng::with_seed(5);
    let mut bench = Bench::new();
    let controls: Vec<Control> = Control::all(tidy_lever::Family::Pad).collect();
    let (mut now, mut ahead) = (1_000, 5_000_000i64);
    for _ in 0..2_000 {
        now += dice.u64(1..40_000);
        for _ in 0..dice.usize(0..12) {
            let id = dice.usize(0..4);
            let stamp = (now as i64 - dice.i64(0..30_000) + ahead).max(0) as u64;
            let level = *dice.choice(&[0.0, 1.0, -1.0, 0.4, 3e-5, 7.0, f32::NAN, f32::INFINITY]).unwrap();
            match dice.u32(0..40) {
                0 => bench.script.came(id, "pad", None),
                1 => bench.script.says(0, Seen::Gone(id)),
                2 => ahead += dice.i64(-900_000..900_000),
                3..=10 => bench.script.moved(stamp, id, Place::Arm { x: dice.i8(-1..=1), y: dice.i8(-1..=1) }, level),
                11..=25 => bench.script.moved(stamp, id, if dice.bool() { X } else { Y }, level),
                26 => bench.script.moved(stamp, id, Place::Button(dice.u32(..)), level),
                _ => {
                    let single = controls.iter().filter(|control| control.sort() != tidy_lever::control::Sort::Pair);
                    let control = *dice.choice(&single.copied().collect::<Vec<_>>()).unwrap();
                    bench.script.moved(if dice.bool() { stamp } else { 0 }, id, Place::At(control), level);
                }
            }
        }
        bench.poll(now);
        let rules =
            bench.conformance.breaches().iter().filter(|breach| !breach.problem.contains("told twice in one moment"));
        assert_eq!(rules.count(), 0, "{:?}", bench.conformance.breaches());
    }
}
