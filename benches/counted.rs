//! Instructions an event, counted by callgrind: the same on every run of the same build, whatever else the machine does.
//!
//! `cargo bench -p tidy-lever-benches -F measure --bench counted` starts itself under `valgrind`, each case once for one round and once for
//! three; what two rounds more cost is the figure. With `-- PLOT.svg` it draws how the cost grows.
#![allow(clippy::unwrap_used, reason = "a bench that can not go on panics")]

use std::process::Command;

use tidy_lever::{Event, Linkage, Moment};
use tidy_lever_benches::by_hand::ByHand;
use tidy_lever_benches::cases::{
    BACK, EVENTS, Match, SEATS, demo, events, inputs, motions, play, play_by_hand, taps, thumb_and_press, untouched,
};
use tidy_lever_benches::chart::{Chart, Scale};
use tidy_lever_benches::fair::Fair;

/// Rollbacks in one round.
const ROLLBACKS: u64 = 20;

/// A case: what it is played on, by hand without a linkage; and its events, none for idle ticks.
struct Case {
    name: String,
    linkage: Option<Linkage>,
    events: Vec<Event>,
    seats: usize,
    /// Frames that are played again, and not events.
    rollback: bool,
    /// By hand with all that the library has, too.
    fair: bool,
    /// The curve that it is a point of, and how far to the right.
    curve: Option<(&'static str, usize)>,
}

impl Case {
    fn new(name: &str, linkage: Option<Linkage>, events: Vec<Event>) -> Case {
        Case { name: name.into(), linkage, events, seats: 1, rollback: false, fair: false, curve: None }
    }
}

fn all() -> Vec<Case> {
    let mut all = Vec::new();
    for (name, events) in events() {
        all.push(Case::new(name, Some(demo()), events.clone()));
        all.push(Case { fair: true, ..Case::new("  by hand, with queue and log", None, events.clone()) });
        all.push(Case::new("  by hand, pulls alone", None, events));
    }
    all.push(Case::new("an idle tick", Some(demo()), Vec::new()));
    all.push(Case::new("  by hand", None, Vec::new()));
    for count in [10, 30, 100, 300, 1_000] {
        let case = Case::new(&format!("one button, {count} untouched"), Some(untouched(count)), taps(&["keys:KeyJ"]));
        all.push(Case { curve: Some(("untouched actions", count)), ..case });
    }
    for count in [1, 10, 30, 100, 200] {
        let case = Case::new(&format!("a stick with {count} motions"), Some(motions(count)), thumb_and_press());
        all.push(Case { curve: Some(("motions of the stick", count)), ..case });
    }
    for count in [1, 2, 4, 8] {
        let case = Case::new(&format!("{count} seats, each a key"), Some(demo()), taps(&["keys:KeyJ"]));
        all.push(Case { curve: Some(("seats", count)), seats: count, ..case });
    }
    all.push(Case { rollback: true, ..Case::new("a seat-frame of a rollback", None, Vec::new()) });
    all
}

fn run(case: &Case, rounds: u64) {
    if case.rollback {
        let mut round = Match::default();
        (0..rounds * ROLLBACKS).for_each(|_| round.roll_back());
        std::hint::black_box(round.hash());
        return;
    }
    let Some(linkage) = &case.linkage else { return run_by_hand(case, rounds) };
    let mut seats: Vec<_> = (0..case.seats).map(|_| linkage.seat(Moment::ZERO)).collect();
    for _ in 0..rounds {
        for seat in &mut seats {
            if case.events.is_empty() {
                let begin = seat.played() - Moment::ZERO;
                (1..=EVENTS).for_each(|tick| seat.advance(Moment::from_micros(8_333 * tick) + begin));
            } else {
                play(seat, &case.events);
            }
        }
    }
    std::hint::black_box(seats.iter().map(|seat| seat.state_hash()).fold(0, u64::wrapping_add));
}

fn run_by_hand(case: &Case, rounds: u64) {
    let (mut hand, mut fair, inputs) = (ByHand::default(), Fair::default(), inputs(&case.events));
    if case.fair {
        for round in 0..rounds {
            for (at, input) in &inputs {
                let at = round * 8_333 * EVENTS + at;
                assert!(fair.feed(at, *input), "there is room");
                fair.advance(at);
            }
        }
        std::hint::black_box((fair.total, fair.late, fair.repeats, fair.hand.total));
        return;
    }
    for round in 0..rounds {
        let begin = round * 8_333 * EVENTS;
        if case.events.is_empty() {
            (1..=EVENTS).for_each(|tick| hand.advance(begin + 8_333 * tick));
        } else {
            play_by_hand(&mut hand, begin, &inputs);
        }
    }
    std::hint::black_box(hand.total);
}

/// The instructions of this many rounds of a case, start-up and all.
fn count(number: usize, rounds: u64) -> Option<u64> {
    let own = std::env::current_exe().ok()?;
    let out = Command::new("valgrind")
        .args(["--tool=callgrind", "--callgrind-out-file=/dev/null"])
        .arg(own)
        .env("TIDY_LEVER_COUNTED", format!("{number} {rounds}"))
        .output()
        .ok()?;
    let told = String::from_utf8_lossy(&out.stderr).into_owned();
    let line = told.lines().find_map(|line| line.split_once("Collected :"))?;
    line.1.trim().parse().ok()
}

fn main() {
    let all = all();
    if let Ok(asked) = std::env::var("TIDY_LEVER_COUNTED") {
        let (number, rounds) = asked.split_once(' ').unwrap();
        return run(&all[number.parse::<usize>().unwrap()], rounds.parse().unwrap());
    }
    let mut curves: Vec<(&str, Vec<(f64, f64)>)> = Vec::new();
    for (number, case) in all.iter().enumerate() {
        let (Some(one), Some(three)) = (count(number, 1), count(number, 3)) else {
            return println!("valgrind is not installed, or says nothing; nothing was counted");
        };
        let each = (three - one) / (2 * if case.rollback { ROLLBACKS * (BACK * SEATS) as u64 } else { EVENTS });
        println!("{:<32} {each:>6} instructions", case.name);
        if let Some((curve, place)) = case.curve {
            let point = (place as f64, each as f64);
            match curves.iter_mut().find(|(name, _)| *name == curve) {
                Some((_, points)) => points.push(point),
                None => curves.push((curve, vec![point])),
            }
        }
    }
    if let Some(file) = std::env::args().find(|argument| argument.ends_with(".svg")) {
        let chart = Chart {
            caption: "What an event costs, by how many there are",
            height: 480,
            x: Scale { says: "how many", range: 1.0..1_000.0 },
            y: Scale { says: "instructions an event", range: 500.0..50_000.0 },
        };
        chart.draw(&file, &curves).unwrap();
        println!("drawn to {file}");
    }
}
