//! What an event of a stick costs with 10 and with 200 motions on it.
#![allow(clippy::unwrap_used, reason = "a bench that can not go on panics")]

use criterion::{BatchSize, Criterion, Throughput, criterion_group, criterion_main};
use tidy_lever::Moment;
use tidy_lever_benches::cases::{EVENTS, motions, play, thumb_and_press};

fn of_a_stick(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("event of a stick");
    group.throughput(Throughput::Elements(EVENTS));
    let events = thumb_and_press();
    for count in [0, 10, 50, 200] {
        let fresh = motions(count).seat(Moment::ZERO);
        group.bench_function(format!("{count} motions"), |bencher| {
            bencher.iter_batched_ref(|| fresh.clone(), |seat| play(seat, &events), BatchSize::LargeInput);
        });
    }
    group.finish();
}

criterion_group!(benches, of_a_stick);
criterion_main!(benches);
