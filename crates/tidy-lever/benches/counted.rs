//! Instructions an event, counted by callgrind: the same on every run of the same build, whatever else the machine does.
//!
//! `cargo bench -p tidy-lever --bench counted` starts itself under `valgrind`, each case once for one round and once for
//! three; what two rounds more cost is the figure.
#![allow(clippy::unwrap_used, reason = "a bench that can not go on panics")]

mod cases;

use std::process::Command;

use cases::{EVENTS, demo, events, play, taps, untouched};
use tidy_lever::{Event, Linkage, Moment};

/// A case: what it is played on, and its events; no events are idle ticks.
struct Case {
    name: String,
    linkage: Linkage,
    events: Vec<Event>,
}

fn all() -> Vec<Case> {
    let on_demo = |(name, events): (&str, Vec<Event>)| Case { name: name.into(), linkage: demo(), events };
    let mut all: Vec<Case> = events().into_iter().map(on_demo).collect();
    all.push(Case { name: "an idle tick".into(), linkage: demo(), events: Vec::new() });
    for count in [10, 100, 1_000] {
        let name = format!("one button, {count} untouched");
        all.push(Case { name, linkage: untouched(count), events: taps(&["keys:KeyJ"]) });
    }
    all
}

fn run(case: &Case, rounds: u64) {
    let mut seat = case.linkage.seat(Moment::ZERO);
    for _ in 0..rounds {
        if case.events.is_empty() {
            let begin = seat.played() - Moment::ZERO;
            (1..=EVENTS).for_each(|tick| seat.advance(Moment::from_micros(8_333 * tick) + begin));
        } else {
            play(&mut seat, &case.events);
        }
    }
    std::hint::black_box(seat.state_hash());
}

/// The instructions of so many rounds of a case, start-up and all.
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
    for (number, case) in all.iter().enumerate() {
        match (count(number, 1), count(number, 3)) {
            (Some(one), Some(three)) => {
                println!("{:<32} {:>6} instructions", case.name, (three - one) / (2 * EVENTS));
            }
            _ => return println!("valgrind is not installed, or says nothing; nothing was counted"),
        }
    }
}
