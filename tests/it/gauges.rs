//! Promise: a gauge has the same value at any moment at any tick rate.

use crate::common::{Bench, us};
use tidy_lever::{Fact, Gauge, Linkage, Profile};

fn paddle(gauge: &str) -> Bench {
    Bench::new(&format!("[action.paddle]\nkind = \"gauge\"\nkeys = [\"KeyK\", \"KeyL\"]\ngauge = {{ {gauge} }}\n"))
}

/// Presses K for 10 ms at each of these moments (ms), and reads the gauge at these (ms).
fn values(bench: &mut Bench, presses: &[u64], reads: &[u64]) -> Vec<f32> {
    for at in presses {
        bench.level(at * 1_000, "keys:KeyK", 1.0).level(at * 1_000 + 10_000, "keys:KeyK", 0.0);
    }
    let paddle: Gauge = bench.find("paddle");
    let read = |at: &u64| {
        bench.seat.advance(us(at * 1_000));
        bench.seat.gauge(paddle).value()
    };
    reads.iter().map(read).collect()
}

#[test]
fn mashing_grows_by_a_factor_rests_and_fades_in_closed_form() {
    let shape = "floor = 1, ceiling = 6, push = \"x1.35\", rest = \"260ms\", fade = \"x0.85 every 100ms\"";
    let got = values(&mut paddle(shape), &[0, 100, 200], &[0, 100, 200, 460, 560, 610, 5_000]);
    let top = 1.35f64.powi(3);
    let wanted = [1.35, 1.35f64.powi(2), top, top, top * 0.85, top * 0.85f64.powf(1.5), 1.0];
    for (got, wanted) in got.iter().zip(wanted) {
        assert!((f64::from(*got) - wanted).abs() < 1e-5, "{got} is not {wanted}");
    }
    let presses: Vec<u64> = (0..20).map(|n| n * 90).collect();
    assert_eq!(values(&mut paddle(shape), &presses, &[1_800])[0], 6.0, "never above the ceiling");
    // However often it is looked at on the way, the value is the same, to the last millionth.
    let micros: Vec<i64> = [7u64, 16, 143, 100_000]
        .into_iter()
        .map(|step| {
            let mut bench = paddle(shape);
            for at in [50u64, 190, 420] {
                bench.level(at * 1_000, "keys:KeyK", 1.0).level(at * 1_000 + 30_000, "keys:KeyK", 0.0);
            }
            (1..).map(|n| n * step * 1_000).take_while(|at| *at < 1_700_000).for_each(|at| {
                bench.to(at);
            });
            bench.to(1_700_000);
            bench.seat.gauge(bench.find::<Gauge>("paddle")).micros()
        })
        .collect();
    assert!(micros.iter().all(|value| *value == micros[0]), "{micros:?}");
}

#[test]
fn steps_sums_and_breath() {
    assert_eq!(
        values(
            &mut paddle("ceiling = 9, push = \"+1\", fade = \"-2 every 1s\", rest = \"500ms\""),
            &[0, 100],
            &[100, 600, 1_100, 9_000]
        ),
        [2.0, 2.0, 1.0, 0.0]
    );
    let steps = "floor = 1, ceiling = 6, push = [2, 3.5, 6]";
    assert_eq!(values(&mut paddle(steps), &[0, 100, 200, 300], &[0, 100, 200, 300]), [2.0, 3.5, 6.0, 6.0]);
    // Breath: eight seconds under water, two a second back at rest, and it pulls when it is gone.
    let mut bench = paddle("ceiling = 8, drain = \"-1 every 1s\", refill = \"+2 every 1s\", pulls = \"empty\"");
    let paddle: Gauge = bench.find("paddle");
    bench
        .level(1_000_000, "keys:KeyK", 1.0)
        .level(4_000_000, "keys:KeyK", 0.0)
        .level(5_000_000, "keys:KeyK", 1.0)
        .to(4_500_000);
    assert_eq!(bench.seat.gauge(paddle).value(), 6.0);
    bench.to(20_000_000);
    assert_eq!(bench.heard_of("paddle").last().unwrap(), "12000000 paddle pulled");
    assert_eq!((bench.seat.gauge(paddle).value(), bench.seat.gauge(paddle).filled()), (0.0, 0.0));
}

#[test]
fn two_thumbs_count_each_and_hit_stop_stands_still() {
    let mut bench = paddle("ceiling = 9, push = \"+1\", fade = \"-1 every 1s\"");
    for n in 0..3u64 {
        let at = n * 100_000;
        bench.level(at, "keys:KeyK", 1.0).level(at + 50_000, "keys:KeyL", 1.0);
        bench.level(at + 60_000, "keys:KeyK", 0.0).level(at + 90_000, "keys:KeyL", 0.0);
    }
    let (paddle, frozen): (Gauge, Fact) = (bench.find("paddle"), bench.find("frozen"));
    bench.to(1_000_000);
    let before = bench.seat.gauge(paddle).micros();
    assert_eq!(bench.seat.gauge(paddle).edges().presses(), 6);
    bench.seat.tell(frozen, true).unwrap();
    bench.to(3_000_001);
    // What is told counts from the microsecond after.
    assert_eq!(bench.seat.gauge(paddle).micros(), before - 1);
    bench.seat.tell(frozen, false).unwrap();
    bench.to(3_500_002);
    assert_eq!(bench.seat.gauge(paddle).micros(), before - 500_001);
}

#[test]
fn what_can_not_be_is_refused_at_build() {
    let cases = [
        ("push = \"x1.35\"", "multiplying 0 gives 0"),
        ("floor = 6, ceiling = 1", "`floor` must be below `ceiling`"),
        ("start = 7", "`start` must be from `floor` to `ceiling`"),
        ("push = \"1.35\"", "a push is \"+1\", \"-1\" or \"x1.35\""),
        ("fade = \"+1 every 1s\"", "the gauge falls by a change per span"),
        ("refill = \"-1 every 1s\"", "the gauge rises by a change per span"),
        ("fade = \"-1 a second\"", "the gauge falls by a change per span"),
        ("fade = \"-1 every 1s\", refill = \"+1 every 1s\"", "`fade` and `refill` can't be combined"),
        ("push = [1, 0.5]", "`steps` must rise"),
        ("pulls = \"soon\"", "it pulls when \"empty\" or \"full\""),
        ("rest = \"long\"", "a span is a number with"),
    ];
    for (gauge, expected) in cases {
        let text =
            format!("tidy-lever = 1\n[action.paddle]\nkind = \"gauge\"\nkeys = \"KeyK\"\ngauge = {{ {gauge} }}\n");
        let told = Linkage::build(&Profile::from_toml(&text).unwrap()).unwrap_err().to_string();
        assert!(told.contains(expected), "{gauge}: {told}");
    }
}
