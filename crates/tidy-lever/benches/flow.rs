//! What the path from event to reading costs on the demo's profile, and how it grows with what an event doesn't touch.
#![allow(clippy::unwrap_used, reason = "a bench that can not go on panics")]

mod cases;

use cases::{DEMO, EVENTS, demo, events, play, taps, untouched};
use criterion::{Criterion, Throughput, criterion_group, criterion_main};
use tidy_lever::profile::Profile;
use tidy_lever::{Linkage, Moment};

fn event(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("event");
    group.throughput(Throughput::Elements(EVENTS));
    let fresh = demo().seat(Moment::ZERO);
    for (name, events) in events() {
        group.bench_function(name, |bench| {
            let mut seat = fresh.clone();
            bench.iter(|| play(&mut seat, &events));
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

fn grows(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("event among untouched actions");
    group.throughput(Throughput::Elements(EVENTS));
    let events = taps(&["keys:KeyJ"]);
    for count in [10, 100, 1_000] {
        let fresh = untouched(count).seat(Moment::ZERO);
        group.bench_function(count.to_string(), |bench| {
            let mut seat = fresh.clone();
            bench.iter(|| play(&mut seat, &events));
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
