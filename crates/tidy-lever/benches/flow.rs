//! What the path from event to reading costs on the demo's profile, and how it grows with what an event doesn't touch.
#![allow(clippy::unwrap_used, reason = "a bench that can not go on panics")]

use criterion::{BatchSize, Criterion, Throughput, criterion_group, criterion_main};
use tidy_lever::profile::{Action, Profile};
use tidy_lever::{Control, Device, Event, Linkage, Moment, Seat};

const DEMO: &str = include_str!("../../../demo/otter-post.toml");
/// Events in one round.
const EVENTS: u64 = 1_000;

fn demo() -> Linkage {
    Linkage::build(&Profile::from_toml(DEMO).unwrap()).unwrap()
}

/// Keys go down and up, one after another, 8 ms apart.
fn taps(names: &[&str]) -> Vec<Event> {
    let keyboard = Device::new(0).unwrap();
    let controls: Vec<Control> = names.iter().map(|name| name.parse().unwrap()).collect();
    let event = |n: u64| {
        let at = Moment::from_micros(8_000 * (n + 1));
        Event::button(at, keyboard, controls[(n / 2) as usize % controls.len()], n.is_multiple_of(2))
    };
    (0..EVENTS).map(event).collect()
}

/// A thumb that goes round and about.
fn thumb() -> Vec<Event> {
    let mut dice = fastrand::Rng::with_seed(4);
    let mut angle = 0.0f32;
    let event = |n: u64| {
        angle += (dice.f32() - 0.3) * 0.6;
        let (y, x) = angle.sin_cos();
        Event::pair(Moment::from_micros(8_000 * (n + 1)), Device::new(1).unwrap(), Control::LEFT_STICK, x, y)
    };
    (0..EVENTS).map(event).collect()
}

fn play(seat: &mut Seat, events: &[Event]) {
    for event in events {
        seat.feed(*event).unwrap();
        seat.advance(event.at);
    }
}

fn event(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("event");
    group.throughput(Throughput::Elements(EVENTS));
    let fresh = demo().seat(Moment::ZERO);
    let cases = [
        ("a key that walks", taps(&["keys:KeyD"])),
        ("a key that tosses", taps(&["keys:KeyJ"])),
        ("keys in turn", taps(&["keys:KeyD", "keys:Space", "keys:KeyE", "keys:KeyG", "keys:KeyL", "keys:KeyQ"])),
        ("a stick", thumb()),
        ("a key that nobody hears", taps(&["keys:F9"])),
    ];
    for (name, events) in cases {
        group.bench_function(name, |bench| {
            bench.iter_batched_ref(|| fresh.clone(), |seat| play(seat, &events), BatchSize::SmallInput);
        });
    }
    group.finish();
}

fn tick(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("tick");
    let mut seat = demo().seat(Moment::ZERO);
    let mut at = 0;
    group.bench_function("idle", |bench| {
        bench.iter(|| {
            at += 8_333;
            seat.advance(Moment::from_micros(at));
        });
    });
    group.finish();
}

/// One button that is pressed, among so many that are not.
fn untouched(count: usize) -> Linkage {
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

fn grows(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("event among untouched actions");
    group.throughput(Throughput::Elements(EVENTS));
    let events = taps(&["keys:KeyJ"]);
    for count in [10, 100, 1_000] {
        let fresh = untouched(count).seat(Moment::ZERO);
        group.bench_function(count.to_string(), |bench| {
            bench.iter_batched_ref(|| fresh.clone(), |seat| play(seat, &events), BatchSize::LargeInput);
        });
    }
    group.finish();
}

fn build(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("build");
    group.bench_function("text to linkage", |bench| {
        bench.iter(|| Linkage::build(&Profile::from_toml(DEMO).unwrap()).unwrap());
    });
    group.finish();
}

fn save(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("seat");
    let mut seat = demo().seat(Moment::ZERO);
    play(&mut seat, &taps(&["keys:KeyD", "keys:Space"]));
    let mut saved = seat.saved(&[]);
    group.bench_function("save", |bench| bench.iter(|| seat.save_into(&mut saved, &[])));
    group.bench_function("restore", |bench| bench.iter(|| seat.restore(&saved, &mut []).unwrap()));
    group.finish();
}

criterion_group!(benches, event, tick, grows, build, save);
criterion_main!(benches);
