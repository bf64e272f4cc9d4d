//! What the path from event to reading costs on the demo's profile, and how it grows with what an event doesn't touch.
#![allow(clippy::unwrap_used, reason = "a bench that can not go on panics")]

use criterion::{Criterion, Throughput, criterion_group, criterion_main};
use std::time::Duration;
use tidy_lever_benches::by_hand::ByHand;
use tidy_lever_benches::cases::{
    BACK, DEMO, EVENTS, Match, SEATS, calls, demo, events, inputs, play, play_by_hand, taps, text_to_text, untouched,
};

use tidy_lever::profile::Profile;
use tidy_lever::tape::{Header, Recorder};
use tidy_lever::{Event, Linkage, Moment};

fn event(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("event");
    group.throughput(Throughput::Elements(EVENTS));
    let fresh = demo().seat(Moment::ZERO);
    for (name, events) in events() {
        group.bench_function(name, |bench| {
            let mut seat = fresh.clone();
            bench.iter(|| play(&mut seat, &events));
        });
        let inputs = inputs(&events);
        group.bench_function(format!("{name}, by hand"), |bench| {
            let (mut hand, mut begin) = (ByHand::default(), 0);
            bench.iter(|| {
                play_by_hand(&mut hand, begin, &inputs);
                begin += 8_000 * EVENTS;
            });
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

/// The demo's round at 60 ticks a second, again and again.
fn replay(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("replay");
    let linkage = demo();
    let events = calls(&linkage);
    group.throughput(Throughput::Elements(events.len() as u64));
    let end = events.last().unwrap().at - Moment::ZERO;
    group.bench_function("the demo's round", |bench| {
        let mut seat = linkage.seat(Moment::ZERO);
        bench.iter(|| {
            let begin = seat.played() - Moment::ZERO;
            let (mut next, mut tick) = (0, 0);
            while next < events.len() {
                tick += 1;
                let to = Moment::of_tick(tick, 60);
                while let Some(event) = events.get(next).filter(|event| event.at <= to) {
                    seat.feed(Event { at: event.at + begin, ..*event }).unwrap();
                    next += 1;
                }
                seat.advance(to + begin);
            }
            seat.advance(Moment::ZERO + begin + end);
        });
    });
    group.bench_function("text in, text out", |bench| bench.iter(|| text_to_text(&linkage)));
    group.finish();
}

/// The same taps fed to a seat alone, through a recorder that is off, into a ring, and onto a tape.
fn record(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("recording");
    group.throughput(Throughput::Elements(EVENTS));
    let (fresh, events) = (demo().seat(Moment::ZERO), taps(&["keys:KeyJ"]));
    let header = Header::new("");
    let off = || Recorder::off(&header);
    let recorders: [(&str, &dyn Fn() -> Recorder); 3] = [
        ("off", &off),
        ("ring of 30 s", &|| off().ring(Duration::from_secs(30))),
        ("tape", &|| off().output(std::io::sink()).unwrap()),
    ];
    group.bench_function("seat alone", |bench| {
        let mut seat = fresh.clone();
        bench.iter(|| play(&mut seat, &events));
    });
    for (name, recorder) in recorders {
        group.bench_function(name, |bench| {
            let (mut seat, mut recorder) = (fresh.clone(), recorder());
            bench.iter(|| {
                let begin = seat.played() - Moment::ZERO;
                for event in &events {
                    let at = event.at + begin;
                    let mut hand = recorder.seat(1, &mut seat);
                    hand.feed(Event { at, ..*event }).unwrap();
                    hand.advance(at);
                }
            });
        });
    }
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
    let mut seats = [demo().seat(Moment::ZERO), demo().seat(Moment::ZERO)];
    seats.iter_mut().for_each(|seat| play(seat, &taps(&["keys:KeyD", "keys:Space"])));
    let mut saved = seats[0].saved(&[]);
    // Two seats in turn, as what came out the same is not copied again.
    let mut turn = 0;
    group.bench_function("save", |bench| {
        bench.iter(|| {
            turn = 1 - turn;
            seats[turn].save_into(&mut saved, &[]);
        });
    });
    group.bench_function("save of what came out the same", |bench| {
        bench.iter(|| seats[turn].save_into(&mut saved, &[]));
    });
    group.bench_function("restore", |bench| bench.iter(|| seats[turn].restore(&saved, &mut []).unwrap()));
    group.finish();
}

/// A late input of a match of four: eight frames played again, restoring and saving with them. A thousand elements a second
/// are one re-simulated frame of a seat in a millisecond.
fn rollback(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("rollback");
    group.throughput(Throughput::Elements((BACK * SEATS) as u64));
    group.bench_function("8 frames of 4 seats, 10 events each a frame", |bench| {
        let mut round = Match::default();
        bench.iter(|| round.roll_back());
        std::hint::black_box(round.hash());
    });
    group.finish();
}

criterion_group!(benches, event, tick, replay, rollback, record, grows, build, save);
criterion_main!(benches);
