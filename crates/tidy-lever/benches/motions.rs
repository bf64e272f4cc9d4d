//! What an event of a stick costs with 10 and with 200 motions on it.
#![allow(clippy::unwrap_used, reason = "a bench that can not go on panics")]

use criterion::{BatchSize, Criterion, Throughput, criterion_group, criterion_main};
use tidy_lever::profile::{Action, Profile};
use tidy_lever::{Control, Device, Direction, Event, Linkage, Moment, Seat};

/// Events in one round.
const EVENTS: u64 = 1_000;

/// A stick, a button, and so many different motions of three to five positions, half of them finished by the button.
fn linkage(motions: usize) -> Linkage {
    let mut dice = fastrand::Rng::with_seed(3);
    let mut profile = Profile::new("motions")
        .action(Action::stick("steer").pad("left-stick"))
        .action(Action::button("toss").pad("west"));
    for number in 0..motions {
        let mut stands = dice.usize(0..8);
        let mut path = Direction::ALL[stands].name().to_owned();
        for _ in 0..dice.usize(2..5) {
            stands = (stands + dice.usize(1..8)) % 8;
            path += &format!(", {}", Direction::ALL[stands].name());
        }
        let then = if number % 2 == 0 { " then toss" } else { "" };
        let cue = format!("steer rolls {path}{then} within 400ms");
        profile = profile.action(Action::button(&format!("motion-{number}")).cue(&cue).outranks(["toss"]));
    }
    Linkage::build(&profile).unwrap()
}

/// A thumb that goes round and about, with a press now and then.
fn events() -> Vec<Event> {
    let mut dice = fastrand::Rng::with_seed(4);
    let pad = Device::new(0).unwrap();
    let mut angle = 0.0f32;
    let event = |n: u64| {
        let at = Moment::from_micros(8_000 * (n + 1));
        if n % 16 >= 14 {
            return Event::button(at, pad, Control::PAD_WEST, n.is_multiple_of(2));
        }
        angle += (dice.f32() - 0.3) * 1.2;
        let (y, x) = angle.sin_cos();
        Event::pair(at, pad, Control::LEFT_STICK, x, y)
    };
    (0..EVENTS).map(event).collect()
}

fn play(seat: &mut Seat, events: &[Event]) {
    for event in events {
        seat.feed(*event).unwrap();
        seat.advance(event.at);
    }
}

fn motions(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("event of a stick");
    group.throughput(Throughput::Elements(EVENTS));
    let events = events();
    for count in [0, 10, 50, 200] {
        let fresh = linkage(count).seat(Moment::ZERO);
        group.bench_function(format!("{count} motions"), |bencher| {
            bencher.iter_batched_ref(|| fresh.clone(), |seat| play(seat, &events), BatchSize::LargeInput);
        });
    }
    group.finish();
}

criterion_group!(benches, motions);
criterion_main!(benches);
