//! Promise: a shaken stick, a noisy sweep or a pointer gives no direction, end or pull that the hand did not make.

use std::time::Duration;

use crate::common::{Bench, us};
use proptest::prelude::*;
use tidy_lever::{Axis, Button, Control, Direction, Moment, Pointer, Stick, Sweep};

/// One stick on the left pad stick, with this shape.
fn shaped(shape: &str) -> Bench {
    Bench::new(&format!("[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\npad_shape = {shape}\n"))
}

fn read(bench: &mut Bench, x: f32, y: f32) -> (f64, f64) {
    let at = bench.seat.played().as_micros() + 1_000;
    bench.pair(at, Control::LEFT_STICK, x, y).to(at);
    let (x, y) = bench.seat.stick(bench.find::<Stick>("steer")).micros();
    (f64::from(x) / 1e6, f64::from(y) / 1e6)
}

#[test]
fn shapes_bend_as_they_say() {
    let near = |a: f64, b: f64| (a - b).abs() < 2e-6;
    // (shape, pushed right, what comes out)
    let cases: [(&str, f32, f64); 14] = [
        ("{ dead = 0.2 }", 0.2, 0.0),
        ("{ dead = 0.2 }", 0.6, 0.5),
        ("{ dead = 0.2, full = 0.9 }", 0.9, 1.0),
        ("{ dead = 0.2, full = 0.9 }", 0.55, 0.5),
        ("{ full = 0.5 }", 0.25, 0.5),
        ("{ curve = 2.0 }", 0.5, 0.25),
        ("{ curve = 0.5 }", 0.25, 0.5),
        ("{ dead = 0.15, full = 0.95, curve = 1.7 }", 0.6, ((0.6_f64 - 0.15) / 0.8).powf(1.7)),
        ("{ curve = [[0.5, 0.2], [0.8, 0.5]] }", 0.65, 0.35),
        ("{ curve = [[0.5, 0.2], [0.8, 0.5]] }", 0.9, 0.75),
        ("{ scale = 0.5 }", 1.0, 0.5),
        ("{ scale = 3 }", 0.5, 1.0),
        ("{ scale = -0.5 }", 1.0, -0.5),
        ("{ invert = \"x\" }", 0.7, -0.7),
    ];
    for (shape, pushed, out) in cases {
        let (x, y) = read(&mut shaped(shape), pushed, 0.0);
        assert!(near(x, out) && y == 0.0, "{shape}: {pushed} became {x}, {y}, not {out}");
        let (x, _) = read(&mut shaped(shape), -pushed, 0.0);
        assert!(near(x, -out), "{shape}: the other way alike");
    }
    assert_eq!(read(&mut shaped("{ invert = \"y\" }"), 0.3, 0.4), (0.3, -0.4));
    // A round dead zone keeps the direction; one an axis keeps straights straight.
    let (x, y) = read(&mut shaped("{ dead = 0.2 }"), 0.12, 0.9);
    assert!(near(x / y, 0.12 / 0.9));
    assert_eq!(read(&mut shaped("{ dead = 0.2, dead_kind = \"each-axis\" }"), 0.12, 1.0), (0.0, 1.0));
    assert_eq!(read(&mut shaped("{ dead = 0.2, dead_kind = \"each-axis\" }"), 0.6, 0.2), (0.5, 0.0));
}

#[test]
fn axes_are_shaped_too_and_ranges_lie_on_top() {
    let mut bench = Bench::new(
        "[action.tilt]\nkind = \"axis\"\npad = \"right-trigger\"\nshape = { dead = 0.1, curve = 2, invert = true }\nrange = { low = 0, rest = 10, high = 20 }\n",
    );
    let tilt: Axis = bench.find("tilt");
    for (n, (level, value)) in [(0.1, 10.0), (0.55, 7.5), (1.0, 0.0)].into_iter().enumerate() {
        let at = 1_000 * (n as u64 + 1);
        bench.level(at, "pad:right-trigger", level).to(at);
        assert_eq!(bench.seat.axis(tilt).value(), value);
    }
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn whatever_the_shape_nothing_is_longer_than_one_and_more_push_is_never_less(
        dead in 0.0..0.6f64, edge in 0.0..0.4f64, exponent in 0.2..5.0f64, each in prop::bool::ANY, angle in 0.0..360.0f32,
    ) {
        let kind = if each { "each-axis" } else { "round" };
        let shape = format!("{{ dead = {dead}, full = {}, curve = {exponent}, dead_kind = \"{kind}\" }}", 1.0 - edge);
        let mut bench = shaped(&shape);
        let (sin, cos) = angle.to_radians().sin_cos();
        let mut before = 0.0;
        for step in 1..=40u8 {
            let push = f32::from(step) / 40.0;
            let (x, y) = read(&mut bench, cos * push, sin * push);
            let size = x * x + y * y;
            prop_assert!(size <= 1.0, "{size}");
            prop_assert!(size >= before - 1e-5, "{size} after {before}");
            before = size;
        }
    }

    #[test]
    fn the_parts_of_a_sweep_add_up_to_the_last_bit(
        moves in prop::collection::vec((0..40_000u64, -900..900i32, -900..900i32), 1..60),
        tilts in prop::collection::vec((0..200_000u64, -10..=10i8, -10..=10i8), 1..30),
        rates in prop::collection::vec(1..2_000u32, 3),
    ) {
        let body = "[action.look]\nkind = \"sweep\"\nmouse = \"move\"\nper_count = [0.08, 0.0613]\npad = \"right-stick\"\n\
            per_second = [220, 160]\npad_shape = { dead = 0.1, curve = 1.7 }\nshape = { invert = \"y\" }\n";
        let mut totals = Vec::new();
        for rate in rates {
            let mut bench = Bench::new(body);
            let look: Sweep = bench.find("look");
            let mut at = 0;
            for (gap, x, y) in &moves {
                at += gap;
                bench.pair(at, Control::MOUSE_MOVE, *x as f32 / 4.0, *y as f32);
            }
            let mut end = at;
            at = 0;
            for (gap, x, y) in &tilts {
                at += gap;
                bench.pair(at, Control::RIGHT_STICK, f32::from(*x) / 10.0, f32::from(*y) / 10.0);
            }
            end = end.max(at) + 100_000;
            let mut frames = bench.seat.bookmark();
            let (mut ticked, mut framed) = ((0, 0), (0, 0));
            let add = |sum: &mut (i64, i64), part: (i64, i64)| *sum = (sum.0 + part.0, sum.1 + part.1);
            for tick in 1.. {
                let to = Moment::of_tick(tick, rate).min(us(end));
                bench.seat.advance(to);
                add(&mut ticked, bench.seat.sweep(look).nanos());
                if tick % 3 == 0 || to == us(end) {
                    add(&mut framed, bench.seat.read(&mut frames).sweep(look).nanos());
                }
                if to == us(end) {
                    break;
                }
            }
            let total = bench.seat.sweep(look).total_nanos();
            prop_assert_eq!((ticked, framed), (total, total));
            totals.push((total, bench.seat.state_hash()));
        }
        prop_assert_eq!(totals[0], totals[1]);
        prop_assert_eq!(totals[0], totals[2]);
    }
}

#[test]
fn a_sweep_is_counts_times_degrees_and_rate_times_exact_time() {
    let mut bench = Bench::new(
        "[action.look]\nkind = \"sweep\"\nmouse = \"move\"\nper_count = [0.08, 0.06]\npad = \"right-stick\"\nper_second = [220, 160]\nmouse_shape = { invert = \"y\" }\n",
    );
    let look: Sweep = bench.find("look");
    bench.pair(10, Control::MOUSE_MOVE, 3.0, -1.0).pair(10, Control::MOUSE_MOVE, 2.0, 0.0).to(1_000);
    assert_eq!(bench.seat.sweep(look).degrees(), (0.4, 0.06));
    // Half a push to the left for a quarter of a second.
    bench.pair(100_000, Control::RIGHT_STICK, -0.5, 0.0).pair(350_000, Control::RIGHT_STICK, 0.0, 0.0).to(1_000_000);
    assert_eq!(bench.seat.sweep(look).degrees(), (-27.5, 0.0));
    bench.to(2_000_000);
    assert_eq!(bench.seat.sweep(look).degrees(), (0.0, 0.0), "the mouse's counts are not a rate");
    // A gap that is skipped turns nothing, though the stick is held.
    bench.pair(2_100_000, Control::RIGHT_STICK, 1.0, 0.0).to(2_200_000);
    bench.seat.skip(us(60_000_000));
    assert_eq!(bench.seat.sweep(look).degrees(), (0.0, 0.0));
    bench.to(60_010_000);
    assert_eq!(bench.seat.sweep(look).degrees(), (2.2, 0.0));
}

#[test]
fn a_pointer_clicks_or_drags_by_its_drag_from_and_knows_its_place() {
    let mut bench = Bench::new("[action.point]\nkind = \"pointer\"\nmouse = [\"place\", \"left\"]\ndrag_from = 6\n");
    let (point, drag): (Pointer, Button) = (bench.find("point"), bench.find("point.drag"));
    assert_eq!(bench.seat.pointer(point).pixels(), None);
    bench.tape(r#"{"at":1,"view":[1000,500]}"#).pair(10, Control::MOUSE_PLACE, 0.5, 0.5).to(20);
    let read = bench.seat.pointer(point);
    assert_eq!((read.pixels(), read.in_view()), (Some((500.0, 250.0)), Some((0.0, 0.0))));
    // Exactly six pixels is still a click; a hair more drags.
    bench.level(30, "mouse:left", 1.0).pair(40, Control::MOUSE_PLACE, 0.506, 0.5).to(45);
    assert!(!bench.seat.pointer(point).is_dragging());
    bench.level(50, "mouse:left", 0.0).to(60);
    assert!(bench.seat.pointer(point).clicked());
    bench.level(70, "mouse:left", 1.0).pair(80, Control::MOUSE_PLACE, 0.512_01, 0.5).to(90);
    let read = bench.seat.pointer(point);
    assert!(read.is_dragging() && bench.seat.button(drag).pulled() == bench.seat.button(drag).is_on());
    assert_eq!(read.pressed_at(), Some((506.0, 250.0)));
    assert!((read.dragged().unwrap().0 - 6.01).abs() < 1e-3);
    bench.level(100, "mouse:left", 0.0).to(110);
    let read = bench.seat.pointer(point);
    assert!(!read.clicked() && !read.is_dragging() && read.dragged().is_none());
    let heard: Vec<String> = bench.heard().into_iter().filter(|line| line.contains("point.")).collect();
    let expected = [
        "50 point.click pressed",
        "50 point.click released (let go)",
        "80 point.drag pressed",
        "100 point.drag released (let go)",
    ];
    assert_eq!(heard, expected);
    // The focus goes in mid-press: no click comes of it.
    bench.level(200, "mouse:left", 1.0).tape(r#"{"at":210,"focus":false}"#).to(300);
    assert!(!bench.seat.pointer(point).clicked() && !bench.seat.pointer(point).edges().is_down());
}

#[test]
fn a_trembling_stick_on_every_border_presses_each_direction_once() {
    for border in 0..8u8 {
        let mut bench = Bench::new("[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\n");
        let middle = f32::from(border) * 45.0 + 22.5;
        let mut at = 0;
        for sample in 0..500u32 {
            at += 4_000;
            let noise = ((sample * 7_919) % 61) as f32 / 10.0 - 3.0;
            let (sin, cos) = (middle + noise).to_radians().sin_cos();
            bench.pair(at, Control::LEFT_STICK, cos * 0.97, sin * 0.97);
        }
        bench.to(at);
        let presses = bench.heard().iter().filter(|line| line.contains("steer.") && line.ends_with("pressed")).count();
        assert_eq!(presses, 1, "border at {middle}");
    }
}

#[test]
fn frames_of_reference_units_and_facing() {
    let mut bench = Bench::new("[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\n");
    let steer: Stick = bench.find("steer");
    bench.pair(10, Control::LEFT_STICK, 0.3, 0.4).to(20);
    let read = bench.seat.stick(steer);
    assert_eq!((read.size(), read.unit()), (0.5, Some((0.6, 0.8))));
    assert!((read.degrees().unwrap() - 53.130_1).abs() < 1e-4);
    let (x, y) = read.turned(90.0);
    assert!((x + 0.4).abs() < 1e-6 && (y - 0.3).abs() < 1e-6);
    assert_eq!(read.forward(), 0.3);
    let facing = bench.find("facing");
    bench.seat.tell(facing, "left").unwrap();
    bench.to(30);
    assert_eq!(bench.seat.stick(steer).forward(), -0.3);
    assert!(bench.seat.stick(steer).is_back() && !bench.seat.stick(steer).is_forward());
}

#[test]
fn a_pull_carries_the_direction_it_aims_with() {
    let body = "[action.steer]\nkind = \"stick\"\nkeys = { up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }\n\
        [action.about]\nkind = \"button\"\nkeys = \"KeyQ\"\naim = \"steer\"\n[action.nod]\nkind = \"button\"\ncue = \"steer.up press\"\n";
    let mut bench = Bench::new(body);
    let about: Button = bench.find("about");
    bench.level(5, "keys:KeyQ", 1.0).level(6, "keys:KeyQ", 0.0);
    // Fed before the direction, but in the same moment: what counts is the moment.
    bench.level(100, "keys:KeyQ", 1.0).level(100, "keys:KeyW", 1.0).level(150, "keys:KeyQ", 0.0);
    bench.level(200, "keys:KeyW", 0.0).level(80_200, "keys:KeyQ", 1.0).to(100_000);
    let pulls: Vec<_> = bench.seat.latest().pulls(about).map(|pull| (pull.aim_direction(), pull.last_aim())).collect();
    let up = Direction::Up;
    let expected =
        [(None, None), (Some(up), Some((up, Duration::ZERO))), (None, Some((up, Duration::from_micros(80_000))))];
    assert_eq!(pulls, expected);
    assert_eq!(bench.heard_of("nod"), ["100 nod pulled", "200 nod ended (let go)"], "a direction is a button for cues");
}

#[test]
fn a_stick_that_begins_to_listen_stands_where_one_does_that_always_did() {
    let stick = |name: &str, modes: &str, pads: &str| {
        format!(
            "[action.{name}]\nkind = \"stick\"\n{modes}pad = [{pads}]\npad_shape = {{ dead = 0.15, full = 0.95 }}\n"
        )
    };
    let pads = "\"left-stick\", \"right-stick\"";
    let body = format!(
        "[modes]\nashore = {{ on = true }}\nmenu = {{}}\n{}{}",
        stick("steer", "", pads),
        stick("choose", "modes = [\"menu\"]\n", pads),
    );
    let mut bench = Bench::new(&body);
    let (steer, choose): (Stick, Stick) = (bench.find("steer"), bench.find("choose"));
    let menu = bench.find("menu");
    let mut dice = fastrand::Rng::with_seed(57);
    let mut away = 0;
    for round in 0..4_000u64 {
        let at = 10_000 * (round + 1);
        // About the dead zone as well as beyond; now and then at rest, or gone.
        let level = |dice: &mut fastrand::Rng| if dice.u8(0..6) == 0 { 0.0 } else { dice.f32() * 1.6 - 0.8 };
        let control = if dice.bool() { Control::LEFT_STICK } else { Control::RIGHT_STICK };
        match dice.u8(0..12) {
            0 => bench.seat.feed(tidy_lever::Event::plugged(us(at), crate::common::device(1), dice.bool())).unwrap(),
            _ => drop(bench.pair(at, control, level(&mut dice), level(&mut dice))),
        }
        bench.to(at);
        if dice.u8(0..5) == 0 {
            bench.seat.set_mode(menu, true).unwrap();
            bench.to(at + 1);
            let [always, now] = [steer, choose].map(|stick| bench.seat.stick(stick).micros());
            assert_eq!(always, now, "round {round}");
            away += usize::from(now != (0, 0));
            bench.seat.set_mode(menu, false).unwrap();
            bench.to(at + 2);
            assert_eq!(bench.seat.stick(choose).micros(), (0, 0));
        }
    }
    assert!(away > 400, "{away}");
}
