//! Promise: events that carry no time get moments in their order, as near to their own as the polls tell, and never before
//! what is played.

use crate::common::{device, us};
use fastrand::Rng;
use tidy_lever::adapter::{Arrivals, FrameState, Gap};
use tidy_lever::event::Input;
use tidy_lever::{Control, Event, Moment};

fn key(name: &str) -> Control {
    format!("keys:{name}").parse().unwrap()
}

/// How far the spacing of 80 edges of two keys in turn, 10 ms apart, is off on the mean, in ms: stamped by the frame, and spread.
fn errors(frames: u64, phase: u64) -> (f64, f64) {
    let edges: Vec<u64> = (0..80).map(|n| 500_000 + phase + n * 10_000).collect();
    let (mut arrivals, mut spread, mut framed) = (Arrivals::new(us(0)), Vec::new(), Vec::new());
    let mut next = edges.iter().peekable();
    for frame in 1..=2 * frames {
        let (now, before) = (us(frame * 1_000_000 / frames), us((frame - 1) * 1_000_000 / frames));
        while let Some(at) = next.next_if(|at| us(**at) <= now) {
            arrivals.came(Event::button(us(0), device(0), key("KeyD"), (at / 10_000) % 2 == 0));
            framed.push(now);
        }
        arrivals.poll(now, before, |event| spread.push(event.at));
    }
    assert!(spread.len() == 80 && spread.is_sorted());
    let off = |moments: &[Moment]| {
        let spacing = |pair: &[Moment]| (pair[1] - pair[0]).as_secs_f64() * 1e3;
        moments.windows(2).map(|pair| (spacing(pair) - 10.0).abs()).sum::<f64>() / 79.0
    };
    (off(&framed), off(&spread))
}

#[test]
fn edges_that_arrive_with_their_frame_keep_their_spacing_three_times_better_than_by_the_frame() {
    for (frames, today) in [(10, 18.0), (30, 14.0), (60, 9.0)] {
        let all: Vec<(f64, f64)> = (0..10).map(|phase| errors(frames, phase * 1_700)).collect();
        let mean = |of: fn(&(f64, f64)) -> f64| all.iter().map(of).sum::<f64>() / all.len() as f64;
        let (framed, spread) = (mean(|one| one.0), mean(|one| one.1));
        assert!((framed - today).abs() < 2.0, "{frames} frames: {framed} by the frame");
        assert!(spread * 3.0 <= framed, "{frames} frames: {spread} spread, {framed} by the frame");
    }
}

#[test]
fn each_event_stands_in_the_middle_of_its_part_of_the_stretch() {
    let mut dice = Rng::with_seed(3);
    for _ in 0..300 {
        let polled = dice.u64(0..1_000_000);
        let (now, played) = (polled + dice.u64(0..200_000), polled.saturating_sub(dice.u64(0..50_000)));
        let stretch = (now - polled).min(100_000);
        let mut arrivals = Arrivals::new(us(polled));
        // Own times rise, and lie between the polls.
        let mut own: Vec<Option<u64>> = (0..dice.usize(0..9)).map(|_| None).collect();
        let mut at = now - stretch;
        for slot in &mut own {
            if dice.u8(..3) == 0 && at < now {
                at += dice.u64(0..=(now - at) / 2);
                *slot = Some(at);
            }
        }
        for at in &own {
            match at {
                Some(at) => arrivals.came_at(Event::button(us(*at), device(0), key("KeyA"), true)),
                None => arrivals.came(Event::button(us(0), device(0), key("KeyB"), true)),
            }
        }
        // Each one by the formula, part by part.
        let mut expected = Vec::new();
        for (place, at) in own.iter().enumerate() {
            if let Some(at) = at {
                expected.push((*at, 0));
                continue;
            }
            let first = own[..place].iter().rposition(Option::is_some).map_or(0, |timed| timed + 1);
            let last = own[place..].iter().position(Option::is_some).map_or(own.len(), |timed| place + timed);
            let from = if first == 0 { now - stretch } else { own[first - 1].unwrap() };
            let to = own.get(last).map_or(now, |at| at.unwrap());
            let (k, n) = ((place - first + 1) as u64, (last - first) as u64);
            expected.push(((from + (2 * k - 1) * (to - from) / (2 * n)).max(played + 1), stretch));
        }
        let mut came = Vec::new();
        arrivals.poll(us(now), us(played), |event| {
            came.push((event.at.as_micros(), u64::from(event.spread.as_micros())));
        });
        assert_eq!(came, expected, "{own:?} from {polled} to {now}");
        assert_eq!(arrivals.poll(us(now), us(now), |event| panic!("{event:?} comes again")), None);
    }
}

#[test]
fn a_long_stretch_is_a_gap_and_a_clock_that_goes_back_is_survived() {
    let mut arrivals = Arrivals::new(us(1_000_000));
    arrivals.came(Event::button(us(0), device(0), key("KeyA"), true));
    let mut moments = Vec::new();
    let gap = arrivals.poll(us(2_000_000), us(1_000_000), |event| moments.push(event.at));
    assert_eq!((moments, gap), (vec![us(1_950_000)], Some(Gap { from: us(1_000_000), to: us(2_000_000) })));
    arrivals.came(Event::button(us(0), device(0), key("KeyA"), false));
    assert_eq!(arrivals.poll(us(1_500_000), us(2_000_000), |event| assert_eq!(event.at, us(2_000_001))), None);
}

#[test]
fn frames_tell_what_changed_and_what_is_not_told_is_at_rest() {
    let mut frames = FrameState::new(us(0));
    let mut frame = |at: u64, tell: &dyn Fn(&mut FrameState)| {
        tell(&mut frames);
        let mut told = Vec::new();
        let gap = frames.end(us(at), us(0), |event| {
            assert!(event.spread.as_micros() >= 16_000);
            told.push(match event.input {
                Input::Level { control, value } => format!("{} {control} {value}", event.at.as_micros()),
                Input::Pair { control, x, y } => format!("{} {control} {x} {y}", event.at.as_micros()),
                _ => unreachable!(),
            });
        });
        (told, gap.is_some())
    };
    let down = |names: &'static [&'static str]| {
        move |frames: &mut FrameState| {
            names.iter().for_each(|name| frames.is_down(device(0), key(name)));
        }
    };
    assert_eq!(frame(16_000, &down(&["KeyA"])).0, ["8000 keys:KeyA 1"]);
    assert_eq!(frame(32_000, &down(&["KeyA", "KeyA"])).0, [""; 0]);
    assert_eq!(frame(48_000, &down(&["KeyB"])).0, ["36000 keys:KeyA 0", "44000 keys:KeyB 1"]);
    let stick = |frames: &mut FrameState| {
        frames.is_down(device(0), key("KeyB"));
        frames.pair(device(1), Control::LEFT_STICK, 0.5, -0.25);
        frames.level(device(1), Control::LEFT_TRIGGER, 0.0);
    };
    assert_eq!(frame(64_000, &stick).0, ["56000 pad:left-stick 0.5 -0.25"]);
    // After a gap it tells what is so, too.
    let (told, is_gap) = frame(900_000, &|_| {});
    assert!(is_gap && told.len() == 2 && told[1].ends_with("pad:left-stick 0 0"), "{told:?}");
}
