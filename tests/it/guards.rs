//! Promise: what worn devices say wrong is not heard, and what clean ones say is heard at once. Each guard does what a slow
//! reading of the whole past finds.

use crate::common::{Bench, UNGUARDED, guarded, us};
use fastrand::Rng;
use std::time::Duration;
use tidy_lever::{Bookmark, Control, Event, Linkage, Moment, Seat, What};

const MS: u64 = 1_000;

fn bench(body: &str) -> Bench {
    let seat = guarded(body).seat(Moment::ZERO);
    Bench { bookmark: seat.bookmark(), seat }
}

const HOP: &str =
    "[action.hop]\nkind = \"button\"\nkeys = \"Space\"\npad = [\"south\", \"dpad.up\"]\nmouse = \"left\"\n";

/// Presses and releases of one action, in ms.
fn edges(seat: &Seat, bookmark: &mut Bookmark) -> Vec<(u64, bool)> {
    let reading = seat.read(bookmark);
    let edge = |one: &tidy_lever::Happening| match one.what() {
        What::Pressed => Some((one.at().as_micros(), true)),
        What::Released { .. } => Some((one.at().as_micros(), false)),
        _ => None,
    };
    let all: Vec<(u64, bool)> = reading.happenings().filter_map(edge).collect();
    assert!(all.iter().all(|(at, _)| at % MS == 0), "{all:?}");
    all.into_iter().map(|(at, down)| (at / MS, down)).collect()
}

/// The slow reading of `debounce` and `drop_out`: each ms is looked at, as it stands before its event and after it.
fn slow_edges(said: &[(u64, bool)], debounce: u64, drop_out: u64, end: u64) -> Vec<(u64, bool)> {
    let (mut counts, mut deaf_until, mut heard) = (Vec::new(), 0, false);
    for at in 0..=end {
        for by in [at.wrapping_sub(1), at] {
            let stood = said.iter().rev().find(|(moment, _)| at > 0 && *moment <= by);
            let (since, down) = stood.copied().unwrap_or_default();
            let lasts = down || at >= since + drop_out;
            if at >= deaf_until && down != heard && lasts {
                (heard, deaf_until) = (down, at + debounce);
                counts.push((at, down));
            }
        }
    }
    counts
}

#[test]
fn a_button_counts_as_a_slow_reading_of_its_edges_says_on_each_device() {
    let mut dice = Rng::with_seed(42);
    let (mut counted, mut told) = (0, 0);
    for case in 0..400 {
        let (debounce, drop_out) = ([0, 1, 5, 8, 12][dice.usize(..5)], [0, 0, 0, 3, 15][dice.usize(..5)]);
        let spans = format!("{{ debounce = \"{debounce}ms\", drop_out = \"{drop_out}ms\" }}");
        let mut bench = bench(&format!("{HOP}[devices]\nkeys = {spans}\nmouse = {spans}\npad = {spans}\n"));
        let (mut said, mut at, mut down) = (Vec::new(), 0, false);
        for _ in 0..40 {
            at += if dice.u8(..4) == 0 { dice.u64(1..60) } else { dice.u64(1..6) };
            down = !down;
            said.push((at, down));
        }
        let control = ["keys:Space", "mouse:left", "pad:south", "pad:dpad"][case % 4];
        for (at, down) in &said {
            match control {
                "pad:dpad" => bench.pair(at * MS, Control::DPAD, 0.0, f32::from(u8::from(*down))),
                _ => bench.level(at * MS, control, f32::from(u8::from(*down))),
            };
        }
        let end = at + 100;
        // Any cutting into ticks.
        let mut came = Vec::new();
        while bench.seat.played() < us(end * MS) {
            let to = bench.seat.played() + Duration::from_micros(dice.u64(1..30 * MS));
            bench.seat.advance(to.min(us(end * MS)));
            came.extend(edges(&bench.seat, &mut bench.bookmark));
        }
        let slow = slow_edges(&said, debounce, drop_out, end);
        assert_eq!(came, slow, "{control} {spans} {said:?}");
        counted += slow.len();
        told += said.len();
    }
    assert!(counted * 4 > told && counted < told, "{counted} of {told} edges count");
}

#[test]
fn a_press_from_rest_is_never_late_and_two_keys_dont_guard_each_other() {
    let mut bench = bench("[action.hop]\nkind = \"button\"\nkeys = [\"Space\", \"KeyJ\"]\n");
    bench.level(1_000, "keys:Space", 1.0).level(2_000, "keys:KeyJ", 1.0).to(3_000);
    assert_eq!(bench.heard(), ["1000 hop pressed", "1000 hop pulled", "2000 hop pressed", "2000 hop pulled"]);
    // The first key bounces, and the second is let go.
    bench.level(4_000, "keys:Space", 0.0).level(5_000, "keys:Space", 1.0).level(12_000, "keys:KeyJ", 0.0).to(30_000);
    assert_eq!(bench.heard(), Vec::<String>::new(), "the first key stays down");
    assert!(bench.seat.button(bench.find("hop")).is_down());
    assert_eq!(bench.seat.stats().bounces, 2);
}

#[test]
fn events_of_which_nobody_knows_the_moment_are_not_debounced() {
    let press = |at, control: &str, down, spread: u64| {
        let control = control.parse().unwrap();
        Event {
            spread: Duration::from_millis(spread).into(),
            ..Event::button(us(at), Default::default(), control, down)
        }
    };
    for (spread, heard) in [(8, 1), (9, 3)] {
        let mut bench = bench(HOP);
        for (number, down) in [true, false, true].into_iter().enumerate() {
            bench.seat.feed(press(1_000 * (number as u64 + 1), "keys:Space", down, spread)).unwrap();
        }
        bench.seat.advance(us(9_000));
        let edges = edges(&bench.seat, &mut bench.bookmark);
        assert_eq!(edges.len(), heard, "known to {spread} ms: {edges:?}");
        assert_eq!(bench.seat.stats().bounces, 3 - heard as u64);
    }
    // One ends a span that runs, and begins none.
    let mut bench = bench(HOP);
    let said = [(1, true, 0), (2, false, 0), (3, true, 0), (4, false, 33), (5, true, 0), (6, false, 0)];
    for (at, down, spread) in said {
        bench.seat.feed(press(at * MS, "mouse:left", down, spread)).unwrap();
    }
    bench.seat.advance(us(60 * MS));
    let counts = [(1, true), (4, false), (5, true), (13, false)];
    assert_eq!(edges(&bench.seat, &mut bench.bookmark), counts);
    // An arm of a directional pad, too; what is longer than a longer span is not.
    let mut bench = self::bench(&format!("{HOP}[devices]\npad = {{ debounce = \"40ms\" }}\n"));
    for (at, y, spread) in [(1, 1.0, 41), (2, 0.0, 41), (3, 1.0, 40), (4, 0.0, 40)] {
        let event = Event::pair(us(at * MS), Default::default(), Control::DPAD, 0.0, y);
        bench.seat.feed(Event { spread: Duration::from_millis(spread).into(), ..event }).unwrap();
    }
    bench.seat.advance(us(60 * MS));
    assert_eq!(edges(&bench.seat, &mut bench.bookmark), [(1, true), (2, false), (3, true), (43, false)]);
}

#[test]
fn arms_of_a_directional_pad_are_guarded_one_by_one() {
    let mut bench = bench("[action.steer]\nkind = \"stick\"\npad = \"dpad\"\n");
    bench.pair(1_000, Control::DPAD, 0.0, 1.0).pair(3_000, Control::DPAD, 1.0, 0.0).to(4_000);
    let (x, y) = bench.xy("steer");
    assert!(x == y && (x - std::f32::consts::FRAC_1_SQRT_2).abs() < 1e-6, "up is not let go yet");
    bench.to(9_000);
    assert_eq!(bench.xy("steer"), (1.0, 0.0));
}

#[test]
fn an_arm_that_bounces_while_another_one_counts_is_told() {
    let mut bench = bench("[action.steer]\nkind = \"stick\"\npad = \"dpad\"\n");
    bench.seat.keep_swallowed(8);
    // Up bounces off as right goes down, and is back.
    for (at, x, y) in [(1, 0.0, 1.0), (3, 1.0, 0.0), (5, 1.0, 1.0)] {
        bench.pair(at * MS, Control::DPAD, x, y);
    }
    bench.to(60 * MS);
    let told: Vec<String> = bench.seat.swallowed_since(0).map(|one| one.to_string()).collect();
    assert_eq!((told, bench.seat.stats().bounces), (vec!["pad:dpad bounced for 4 ms".to_owned()], 2));
}

#[test]
fn analogue_controls_wheels_and_fingers_are_not_debounced() {
    let body = "[action.hop]\nkind = \"button\"\npad = \"left-trigger\"\nmouse = \"wheel-up\"\ntouch = \"thumb\"\n[panel.thumb]\nkind = \"button\"\nfrom = \"bottom-left\"\nat = [0.2, 0.2]\nsize = 0.1\n";
    let mut bench = bench(body);
    for at in 1..5 {
        bench.level(at * MS, "pad:left-trigger", (at % 2) as f32);
    }
    bench.level(6 * MS, "mouse:wheel-up", 1.0).level(7 * MS, "mouse:wheel-up", 1.0).to(20 * MS);
    assert_eq!(bench.heard().iter().filter(|line| line.ends_with("pulled")).count(), 4);
}

#[test]
fn a_click_is_judged_by_the_place_at_which_the_button_was_let_go() {
    let body = "[action.point]\nkind = \"pointer\"\nmouse = [\"place\", \"left\"]\ndrag_from = 6\n";
    let place = "mouse:place".parse::<Control>().unwrap();
    // Let go 3 ms after the press, which counts 5 ms later; the pointer goes on 40 pixels before that, or before the letting go.
    for (moves, what) in [(4_000, "point.click"), (2_000, "point.drag")] {
        let mut bench = bench(body);
        bench.pair(500, place, 0.5, 0.5).level(1_000, "mouse:left", 1.0).level(3_000, "mouse:left", 0.0);
        bench.pair(moves, place, 0.55, 0.5).to(20_000);
        let pulled: Vec<String> = bench.heard().into_iter().filter(|line| line.ends_with("pressed")).collect();
        assert!(pulled.iter().any(|line| line.contains(what)), "{moves}: {pulled:?}");
        let other = if what == "point.click" { "point.drag" } else { "point.click" };
        assert!(!pulled.iter().any(|line| line.contains(other)), "{moves}: {pulled:?}");
    }
}

#[test]
fn a_loss_ends_spans_and_presses_nothing() {
    // Down, up within the span, and the cable goes: it goes up with the loss, and nothing is left over.
    for loss in [r#"{"at":5000,"dev":"kb","plugged":false}"#, r#"{"at":5000,"focus":false}"#] {
        let mut bench = bench(HOP);
        bench.tape(&format!(
            "{{\"at\":1000,\"dev\":\"kb\",\"control\":\"keys:Space\",\"value\":1}}\n{{\"at\":3000,\"dev\":\"kb\",\"control\":\"keys:Space\",\"value\":0}}\n{loss}"
        ));
        bench.to(100_000);
        let heard = bench.heard();
        assert!(heard[2].starts_with("5000 hop released") && heard.len() == 4, "{heard:?}");
    }
    // At a gap a button counts as it stands, as a level.
    let mut bench = bench(HOP);
    bench.level(1_000, "keys:Space", 1.0).level(3_000, "keys:Space", 0.0).level(4_000, "keys:Space", 1.0).to(4_500);
    bench.level(5_000, "keys:Space", 0.0);
    bench.seat.skip(us(6_000));
    assert_eq!(bench.heard().last().unwrap(), "6000 hop ended (resynced)");
    bench.level(6_500, "keys:Space", 1.0).to(7_000);
    assert_eq!(bench.heard(), ["6500 hop pressed", "6500 hop pulled"], "no span is left");
}

#[test]
fn a_running_span_keeps_its_end_over_a_relink_also_to_a_profile_without_it() {
    for body in [HOP.to_owned(), format!("{HOP}{UNGUARDED}")] {
        let mut bench = bench(HOP);
        bench.level(1_000, "keys:Space", 1.0).level(3_000, "keys:Space", 0.0).to(4_000);
        bench.heard();
        bench.seat.relink(&guarded(&body), &mut [&mut bench.bookmark]);
        bench.to(20_000);
        assert_eq!(bench.heard(), ["9000 hop released (let go)", "9000 hop ended (let go)"]);
    }
}

#[test]
fn settings_are_read_moved_and_laid_over_and_wrong_ones_are_told() {
    use tidy_lever::Profile;
    use tidy_lever::profile::{numbers, with_number};
    use tidy_lever::remap::Remap;
    let read = |devices: &str| Profile::from_toml(&format!("tidy-lever = 1\n{HOP}{devices}")).unwrap();
    let faults =
        |devices: &str| Linkage::build(&read(devices)).err().map_or(String::new(), |faults| faults.to_string());
    assert!(
        faults("[devices]\nkeys = { debounce = \"2s\" }\n")
            .contains("\"2s\" is too long for `debounce`; it is at most 1 s")
    );
    assert!(faults("[devices]\nkeys = { snapback = \"20ms\" }\n").contains("has no key `snapback`"));
    assert!(faults("[devices]\npads = { debounce = \"20ms\" }\n").contains("did you mean `pad`?"));
    assert!(faults("[devices]\npad = { centre = \"lern\" }\n").contains("did you mean `learn`?"));
    assert!(faults("[devices]\npad = { debounce = 8 }\n").contains("devices.pad.debounce"));
    let text = format!("tidy-lever = 1\n{HOP}[devices]\nkeys = {{ debounce = \"5ms\" }}\n");
    let all: Vec<String> = numbers(&text).unwrap().iter().map(|one| format!("{} {}", one.path, one.value)).collect();
    let guards = ["devices.keys.debounce 5", "devices.keys.drop_out 0", "devices.mouse.debounce 8"];
    assert!(guards.iter().all(|guard| all.contains(&(*guard).to_owned())), "{all:?}");
    let moved = with_number(&text, "devices.keys.drop_out", "3ms").unwrap();
    assert!(moved.ends_with("keys = { debounce = \"5ms\", drop_out = \"3ms\" }\n"), "{moved}");
    // A player's file over it.
    let remap =
        Remap::from_toml("tidy-lever = 1\n[devices]\nkeys = { debounce = \"20ms\", snapback = \"1ms\" }\n").unwrap();
    let laid = remap.over(&read("")).unwrap();
    assert_eq!(laid.left_alone.len(), 1);
    assert!(laid.left_alone[0].to_string().contains("devices.keys.snapback"), "{}", laid.left_alone[0]);
    let seat = laid.linkage.seat(Moment::ZERO);
    let mut bench = Bench { bookmark: seat.bookmark(), seat };
    bench.level(1_000, "keys:Space", 1.0).level(11_000, "keys:Space", 0.0).to(50_000);
    assert_eq!(bench.heard_of("hop").last().unwrap(), "21000 hop ended (let go)");
    assert!(remap.to_toml().contains("debounce = \"20ms\""), "it stays in the file");
}

type Vector = (f64, f64);

fn push((x, y): Vector) -> f64 {
    x.hypot(y)
}

fn dot(one: Vector, other: Vector) -> f64 {
    one.0 * other.0 + one.1 * other.1
}

fn is_still(one: Vector, first: Vector) -> bool {
    (one.0 - first.0).abs() <= 0.03 + 1e-9 && (one.1 - first.1).abs() <= 0.03 + 1e-9
}

/// Where a stick is at a moment, in ms: what it said last before it, or up to it.
fn stood(said: &[(u64, Vector)], at: u64, with: bool) -> Vector {
    said.iter().rev().find(|(moment, _)| *moment < at || with && *moment == at).map_or((0.0, 0.0), |(_, to)| *to)
}

/// The first stretch of rest of so many ms among samples from a place on: when it is over, if none comes to disturb it.
fn rest(said: &[(u64, Vector)], from: usize, span: u64) -> Option<u64> {
    let (mut first, mut since) = (said[from].1, said[from].0);
    for (at, to) in &said[from + 1..] {
        // Its own end plays before what comes then.
        if *at >= since + span {
            break;
        }
        if !is_still(*to, first) {
            (first, since) = (*to, *at);
        }
    }
    Some(since + span)
}

/// The slow reading of `snapback`: what counts at each ms, once its events are in.
fn slow_swing(said: &[(u64, Vector)], span: u64, end: u64) -> Vec<Vector> {
    let mut counts: Vec<Vector> = (0..=end).map(|at| stood(said, at, true)).collect();
    // Falls that came to rest: whether they swung.
    let mut known: Vec<bool> = Vec::new();
    for fall in 1..said.len() {
        let side = said[fall - 1].1;
        if push(side) < 0.6 || push(said[fall].1) >= 0.6 {
            continue;
        }
        let begun = said[fall].0;
        let next_push = (fall..said.len()).find(|place| push(said[*place].1) >= 0.6).unwrap_or(said.len());
        let own = &said[fall..next_push];
        let over = said.get(next_push).map_or(u64::MAX, |(at, _)| *at);
        let complete = own.iter().find(|(_, to)| push(*to) < 0.2 || dot(*to, side) < 0.0);
        let recent = known.len().saturating_sub(8);
        let calm = known.len() >= 3 && known[recent..].iter().all(|swung| !swung);
        if let Some((from, _)) = complete.filter(|(at, _)| *at <= begun + 45 && !calm) {
            let mut until = (from + span).min(over);
            let across = |(at, to): &&(u64, Vector)| at >= from && *at < until && dot(*to, side) < 0.0;
            if let Some((first, _)) = own.iter().find(across) {
                let look = first + 40;
                let there = |(at, to): &&(u64, Vector)| at >= first && *at < look && dot(*to, side) < 0.0;
                let peak = own.iter().filter(there).map(|(_, to)| push(*to)).fold(0.0, f64::max);
                let now = stood(said, look, false);
                if look < until && dot(now, side) < 0.0 && push(now) >= peak - 0.02 - 2e-6 {
                    until = look;
                }
            }
            for at in *from..until.min(end + 1) {
                let now = stood(said, at, true);
                if dot(now, side) < 0.0 {
                    counts[at as usize] = (0.0, 0.0);
                }
            }
        }
        let settled = rest(&said[..next_push], fall, 60).filter(|at| *at <= begun + 150 && *at <= over);
        if let Some(settled) = settled {
            let swung = own.iter().any(|(at, to)| *at < settled && dot(*to, side) < 0.0 && push(*to) >= 0.15);
            known.push(swung);
        }
    }
    counts
}

/// A hand on a stick: pushes, lets go with and without a swing, turns about, holds gently. In ms and hundredths.
fn stick_path(dice: &mut Rng, worn: bool, count: usize) -> Vec<(u64, Vector)> {
    let (mut said, mut at): (Vec<(u64, Vector)>, u64) = (Vec::new(), 5);
    let rounded = |(x, y): Vector| ((x * 100.0).round() / 100.0, (y * 100.0).round() / 100.0);
    for _ in 0..count {
        let angle = dice.f64() * std::f64::consts::TAU;
        let side = (angle.cos(), angle.sin());
        let along = |size: f64| rounded((side.0 * size, side.1 * size));
        let mut say = |wait: u64, to: Vector| {
            at += wait;
            said.push((at, to));
        };
        say(dice.u64(1..200), along(0.97));
        let wait = dice.u64(1..150);
        match dice.u8(..6) {
            0 => say(wait, along(-0.97)),
            1 => say(wait, along(-0.35)),
            2 => say(wait, along(0.3)),
            _ => {
                let mut size = 0.55;
                let mut wait = wait;
                while size > 0.1 {
                    say(wait, along(size));
                    (size, wait) = (size - 0.25, dice.u64(1..20));
                }
                if worn {
                    for _ in 0..dice.u8(1..4) {
                        say(dice.u64(1..20), along(-dice.f64() * 0.5));
                    }
                }
                let off = (dice.f64() * 0.06 + 0.05, dice.f64() * 0.04 - 0.02);
                say(dice.u64(1..20), rounded(if worn { off } else { (0.0, 0.0) }));
            }
        }
        if dice.bool() {
            say(dice.u64(60..300), rounded((dice.f64() * 0.1, 0.0)));
        }
    }
    said
}

/// What a stick counts as at the end of each ms.
fn heard_of_stick(devices: &str, said: &[(u64, Vector)], end: u64) -> Vec<Vector> {
    let mut bench = bench(&format!("[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\n[devices]\n{devices}"));
    for (at, (x, y)) in said {
        bench.pair(at * MS, Control::LEFT_STICK, *x as f32, *y as f32);
    }
    let stick = bench.find("steer");
    (0..=end)
        .map(|at| {
            bench.seat.advance(us(at * MS));
            let (x, y) = bench.seat.stick(stick).xy();
            (f64::from(x), f64::from(y))
        })
        .collect()
}

fn agree(came: &[Vector], slow: &[Vector], why: &str) {
    for (at, (came, slow)) in came.iter().zip(slow).enumerate() {
        let near = (came.0 - slow.0).abs() < 3e-6 && (came.1 - slow.1).abs() < 3e-6;
        assert!(near, "{at} ms: {came:?} instead of {slow:?}; {why}");
    }
}

#[test]
fn a_stick_that_swings_counts_as_a_slow_reading_of_its_path_says() {
    let mut dice = Rng::with_seed(7);
    let mut swallowed = 0;
    for case in 0..120 {
        let said = stick_path(&mut dice, case % 3 > 0, 14);
        let end = said.last().unwrap().0 + 200;
        let span = [70, 40, 25][case % 3];
        let devices = format!("pad = {{ snapback = \"{span}ms\", centre = \"fixed\" }}\n");
        let slow = slow_swing(&said, span, end);
        swallowed += (0..=end).filter(|at| slow[*at as usize] != stood(&said, *at, true)).count();
        agree(&heard_of_stick(&devices, &said, end), &slow, &format!("case {case}: {said:?}"));
    }
    assert!(swallowed > 1_000, "{swallowed} ms");
}

/// The slow reading of `centre`: the middle from each moment on, in ms.
fn slow_middles(said: &[(u64, Vector)]) -> Vec<(u64, Vector)> {
    let (mut middles, mut places): (Vec<(u64, Vector)>, Vec<Vector>) = (Vec::new(), Vec::new());
    let gentle = said.iter().position(|(_, to)| push(*to) >= 0.25).unwrap_or(said.len());
    if gentle > 0
        && let Some(at) = rest(&said[..gentle], 0, 250)
        && said.get(gentle).is_none_or(|(push, _)| at <= *push)
        && push(stood(said, at, false)) <= 0.2
    {
        middles.push((at, stood(said, at, false)));
    }
    for fall in 1..said.len() {
        if push(said[fall - 1].1) < 0.6 || push(said[fall].1) >= 0.6 {
            continue;
        }
        let next_push = (fall..said.len()).find(|place| push(said[*place].1) >= 0.6).unwrap_or(said.len());
        let over = said.get(next_push).map_or(u64::MAX, |(at, _)| *at);
        let near = (fall..next_push).find(|place| push(said[*place].1) < 0.25);
        let Some(near) = near.filter(|near| said[*near].0 <= said[fall].0 + 60) else { continue };
        let Some(at) = rest(&said[..next_push], near, 100).filter(|at| *at <= over) else { continue };
        let place = stood(said, at, false);
        if push(place) > 0.2 {
            continue;
        }
        places.push(place);
        let last = &places[places.len().saturating_sub(5)..];
        let close = |one: &&Vector| (one.0 - place.0).abs() <= 0.05 + 1e-9 && (one.1 - place.1).abs() <= 0.05 + 1e-9;
        let near: Vec<Vector> = last.iter().filter(close).copied().collect();
        if near.len() >= 3 {
            let median = |axis: fn(&Vector) -> f64| {
                let mut all: Vec<f64> = near.iter().map(axis).collect();
                all.sort_by(f64::total_cmp);
                (all[(all.len() - 1) / 2] + all[all.len() / 2]) / 2.0
            };
            middles.push((at, (median(|one| one.0), median(|one| one.1))));
        }
    }
    middles
}

#[test]
fn a_stick_that_drifts_is_seen_from_the_middle_that_a_slow_reading_finds() {
    let mut dice = Rng::with_seed(11);
    let mut learnt = 0;
    for case in 0..80 {
        let drift = (dice.f64() * 0.24 - 0.12, dice.f64() * 0.24 - 0.12);
        let off = |to: Vector| ((to.0 + drift.0).clamp(-1.0, 1.0), (to.1 + drift.1).clamp(-1.0, 1.0));
        let rounded = |(x, y): Vector| ((x * 1000.0).round() / 1000.0, (y * 1000.0).round() / 1000.0);
        let mut said: Vec<(u64, Vector)> = vec![(1, rounded(off((0.0, 0.0))))];
        let path = stick_path(&mut dice, true, 16);
        let shift = [0, 260][case % 2];
        said.extend(path.into_iter().map(|(at, to)| (at + shift, rounded(off((to.0 * 0.8, to.1 * 0.8))))));
        let end = said.last().unwrap().0 + 300;
        let middles = slow_middles(&said);
        learnt += middles.len();
        let slow: Vec<Vector> = (0..=end)
            .map(|at| {
                let middle =
                    middles.iter().rev().find(|(from, _)| *from <= at).map_or((0.0, 0.0), |(_, middle)| *middle);
                let (x, y) = stood(&said, at, true);
                let seen = |value: f64, middle: f64| {
                    let by = value - middle;
                    (if by * middle > 0.0 { by / (1.0 - middle.abs()) } else { by }).clamp(-1.0, 1.0)
                };
                let (x, y) = (seen(x, middle.0), seen(y, middle.1));
                let long = x.hypot(y).max(1.0);
                (x / long, y / long)
            })
            .collect();
        let came = heard_of_stick("pad = { snapback = \"0ms\" }\n", &said, end);
        agree(&came, &slow, &format!("case {case}: {middles:?} {said:?}"));
    }
    assert!(learnt > 200, "{learnt}");
}

#[test]
fn a_new_middle_presses_nothing_and_is_forgotten_with_the_cable() {
    let mut bench = bench("[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\n");
    bench.pair(MS, Control::LEFT_STICK, 0.1, 0.0).to(300 * MS);
    assert_eq!(bench.xy("steer"), (0.0, 0.0), "it stands at the middle as found");
    assert_eq!(bench.seat.stats().middles, 1);
    let middle = |bench: &Bench, stick| bench.seat.middle_of(crate::common::device(1), stick);
    assert_eq!(middle(&bench, Control::LEFT_STICK), Some((0.1, 0.0)));
    assert_eq!((middle(&bench, Control::RIGHT_STICK), middle(&bench, Control::PAD_SOUTH)), (None, None));
    assert!(!bench.heard().iter().any(|line| line.contains("pulled")));
    let pad = crate::common::device(1);
    bench.seat.feed(tidy_lever::Event::plugged(us(500 * MS), pad, false)).unwrap();
    bench.pair(510 * MS, Control::LEFT_STICK, 0.1, 0.0).to(600 * MS);
    assert_eq!(bench.xy("steer"), (0.1, 0.0));
}

#[test]
fn sweeps_hear_a_swing() {
    let body = "[action.look]\nkind = \"sweep\"\npad = \"left-stick\"\n[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\n[devices]\npad = { centre = \"fixed\" }\n";
    let mut bench = bench(body);
    bench.pair(MS, Control::LEFT_STICK, 1.0, 0.0).to(100 * MS);
    bench.pair(101 * MS, Control::LEFT_STICK, -0.4, 0.0).to(110 * MS);
    assert_eq!(bench.xy("steer"), (0.0, 0.0));
    let look = bench.find("look");
    let before = bench.seat.sweep(look).total_degrees().0;
    bench.to(121 * MS);
    let turned = bench.seat.sweep(look).total_degrees().0 - before;
    assert!((turned + 180.0 * 0.4 * 0.011).abs() < 0.01, "{turned}");
    // A push that is held counts after 40 ms.
    bench.to(141 * MS);
    assert_eq!(bench.xy("steer"), (-0.4, 0.0));
}

#[test]
fn what_is_swallowed_is_told_once_its_span_is_over_and_a_real_letting_go_is_not() {
    let mut bench = bench(&format!(
        "{HOP}[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\n[devices]\npad = {{ drop_out = \"9ms\" }}\n"
    ));
    bench.seat.keep_swallowed(2);
    // A bounce of 3 ms; then a tap of 5 ms, whose letting go counts at the end of the span.
    for (at, down) in [(10, 1.0), (11, 0.0), (13, 1.0), (100, 0.0), (200, 1.0), (205, 0.0)] {
        bench.level(at * MS, "keys:Space", down);
    }
    bench.to(17 * MS);
    assert_eq!(bench.seat.swallowed_count(), 0, "the span is not over");
    bench.to(250 * MS);
    let told = |bench: &Bench| bench.seat.swallowed_since(0).map(|one| format!("{} {one}", one.at)).collect::<Vec<_>>();
    assert_eq!(told(&bench), ["0.018000 s keys:Space bounced for 3 ms"]);
    // A contact that opens for 4 ms, and a stick that swings; a third pushes the first out.
    bench.level(300 * MS, "pad:south", 1.0).level(320 * MS, "pad:south", 0.0).level(324 * MS, "pad:south", 1.0);
    for (at, x) in [(400, 1.0), (500, 0.1), (505, -0.2), (510, -0.31), (523, 0.0)] {
        bench.pair(at * MS, Control::LEFT_STICK, x, 0.0);
    }
    bench.to(600 * MS);
    let all = told(&bench);
    assert!(all.contains(&"0.329000 s pad:south let go for 4 ms".to_owned()), "{all:?}");
    assert!(all.contains(&"0.570000 s pad:left-stick swung 0.31 to the left for 18 ms".to_owned()), "{all:?}");
    assert_eq!((bench.seat.swallowed_count(), bench.seat.swallowed_since(2).count()), (3, 1));
    bench.seat.keep_swallowed(usize::MAX);
    assert_eq!(bench.seat.swallowed_count(), 0, "it begins again");
    // It changes nothing that happens, and a copy has its own.
    assert_eq!(bench.seat.clone().swallowed_count(), 0);
}
