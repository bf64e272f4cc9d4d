//! Promise: however a tape is cut into ticks, the same happens at the same moments, and the same state is left.

use crate::common::{play_cut, us};
use proptest::prelude::*;
use tidy_lever::event::Phase;
use tidy_lever::tape::{Header, Line, LineKind, Replayer, TapeValue};
use tidy_lever::{Bookmark, Linkage, Moment, Seat};

const PROFILE: &str = include_str!("../../demo/otter-post.toml");

fn demo() -> Linkage {
    crate::common::guarded(PROFILE.trim_start_matches(|c| c != '[').trim_end())
}

/// Something that a hand or a game may do.
fn said() -> impl Strategy<Value = LineKind> {
    let keys = [
        "KeyW",
        "KeyA",
        "KeyS",
        "KeyD",
        "ArrowLeft",
        "Space",
        "KeyJ",
        "KeyQ",
        "KeyE",
        "KeyC",
        "KeyX",
        "Enter",
        "KeyR",
        "KeyK",
        "KeyI",
        "KeyL",
        "KeyG",
        "KeyF",
        "Space",
        "KeyJ",
    ];
    let pads = ["south", "west", "north", "east", "start", "left-shoulder"];
    let level = |device: &'static str, family: &'static str, name: &'static str, value: f64| LineKind::Level {
        device: device.into(),
        control: format!("{family}:{name}"),
        value,
    };
    prop_oneof![
        8 => (prop::sample::select(keys.to_vec()), prop::bool::ANY)
            .prop_map(move |(key, down)| level("kb", "keys", key, f64::from(u8::from(down)))),
        2 => (prop::sample::select(keys.to_vec()), prop::bool::ANY)
            .prop_map(move |(key, down)| level("kb2", "keys", key, f64::from(u8::from(down)))),
        3 => (prop::sample::select(pads.to_vec()), prop::bool::ANY)
            .prop_map(move |(button, down)| level("p1", "pad", button, f64::from(u8::from(down)))),
        2 => (prop::sample::select(vec!["left-trigger", "right-trigger"]), 0..=10u8)
            .prop_map(move |(trigger, n)| level("p1", "pad", trigger, f64::from(n) / 10.0)),
        5 => (prop::sample::select(vec!["left-stick", "dpad"]), -10..=10i8, -10..=10i8).prop_map(|(name, x, y)| LineKind::Pair {
            device: "p1".into(),
            control: format!("pad:{name}"),
            x: f64::from(x) / 10.0,
            y: f64::from(y) / 10.0,
        }),
        1 => (0..4u8).prop_map(move |n| level("ms", "mouse", "wheel-down", f64::from(n))),
        1 => prop::bool::ANY.prop_map(|on| LineKind::Mode { mode: "menu".into(), on }),
        1 => prop::bool::ANY.prop_map(|on| LineKind::Mode { mode: "afloat".into(), on }),
        1 => prop::bool::ANY.prop_map(LineKind::Frozen),
        1 => prop::bool::ANY.prop_map(|value| LineKind::Set { action: "lamp".into(), value }),
        1 => Just(LineKind::GiveBack("hop".into())),
        2 => prop::bool::ANY.prop_map(|flag| LineKind::Fact { fact: "near_punt".into(), value: TapeValue::Flag(flag) }),
        1 => prop::sample::select(vec!["left", "right"])
            .prop_map(|side| LineKind::Fact { fact: "facing".into(), value: TapeValue::Word(side.into()) }),
        1 => prop::sample::select(vec!["idle", "walk", "dash"])
            .prop_map(|word| LineKind::Fact { fact: "state".into(), value: TapeValue::Word(word.into()) }),
        1 => (0..=10u8, 0..=10u8).prop_map(|(x, y)| LineKind::Pair {
            device: "ms".into(),
            control: "mouse:place".into(),
            x: f64::from(x) / 10.0,
            y: f64::from(y) / 10.0,
        }),
        1 => (-9..=9i8, -9..=9i8).prop_map(|(x, y)| LineKind::Pair {
            device: "ms".into(),
            control: "mouse:move".into(),
            x: x.into(),
            y: y.into(),
        }),
        1 => prop::bool::ANY.prop_map(|on| LineKind::Mode { mode: "ashore".into(), on }),
        4 => prop::bool::ANY.prop_map(|flag| LineKind::Fact { fact: "grounded".into(), value: TapeValue::Flag(flag) }),
        1 => prop::bool::ANY.prop_map(LineKind::Focus),
        1 => prop::bool::ANY.prop_map(|plugged| LineKind::Plugged { device: "p1".into(), plugged }),
        1 => Just(LineKind::Touch { device: "scr".into(), finger: 1, phase: Phase::Down, x: 0.5, y: 0.5 }),
    ]
}

/// Gaps as they come: none at all, a microsecond, a few, a human's.
fn gap() -> impl Strategy<Value = u64> {
    prop_oneof![3 => Just(0), 1 => Just(1), 2 => 2..2_000u64, 4 => 2_000..300_000u64]
}

fn tape() -> impl Strategy<Value = Vec<Line>> {
    prop::collection::vec((gap(), said()), 1..120).prop_map(|steps| {
        let mut at = 0;
        let line = |(gap, said)| {
            at += gap;
            Line::new(us(at), 1, said)
        };
        steps.into_iter().map(line).collect()
    })
}

/// How many cases; `TIDY_LEVER_CASES` asks for more.
fn cases() -> ProptestConfig {
    let cases = crate::asked::asked("TIDY_LEVER_CASES", 400) as u32;
    ProptestConfig { cases, failure_persistence: None, ..ProptestConfig::default() }
}

/// A seat on which a part of a tape was played and read; how many lines that was.
fn half_played(linkage: &Linkage, lines: &[Line], part: f64) -> (Seat, Bookmark, Replayer, usize) {
    let mut seat = linkage.seat(Moment::ZERO);
    let mut bookmark = seat.bookmark();
    let mut player = Replayer::new(&Header::new(""));
    let middle = (lines.len() as f64 * part) as usize;
    for line in &lines[..middle] {
        player.put(line, &mut seat).unwrap();
    }
    seat.advance(lines[middle].at);
    seat.read(&mut bookmark);
    (seat, bookmark, player, middle)
}

proptest! {
    #![proptest_config(cases())]

    #[test]
    fn any_cutting_into_ticks_gives_the_same(lines in tape(), mut random in prop::collection::vec(0..10_000_000u64, 0..60)) {
        let linkage = demo();
        let end = lines.last().unwrap().at.as_micros();
        let whole = play_cut(&linkage, &lines, &[]);
        for rate in [30, 60, 144, 1_000] {
            let ticks: Vec<u64> = (0..).map(|n| Moment::of_tick(n, rate).as_micros()).take_while(|at| *at <= end).collect();
            prop_assert_eq!(&whole, &play_cut(&linkage, &lines, &ticks), "{} ticks per second", rate);
        }
        random.sort_unstable();
        prop_assert_eq!(&whole, &play_cut(&linkage, &lines, &random));
        // A tick that ends at every line's very moment, and one a microsecond before.
        let sharp: Vec<u64> = lines.iter().flat_map(|l| [l.at.as_micros().saturating_sub(1), l.at.as_micros()]).collect();
        prop_assert_eq!(&whole, &play_cut(&linkage, &lines, &sharp));
    }

    #[test]
    fn a_seat_saved_anywhere_and_restored_plays_on_the_same(lines in tape(), part in 0.0..1.0f64) {
        let linkage = demo();
        let (mut seat, mut bookmark, mut player, middle) = half_played(&linkage, &lines, part);
        let mut saved = seat.saved(&[&bookmark]);
        seat.save_into(&mut saved, &[&bookmark]);
        let mut runs = Vec::new();
        for _ in 0..2 {
            for line in &lines[middle..] {
                player.put(line, &mut seat).unwrap();
            }
            seat.advance(lines.last().unwrap().at + std::time::Duration::from_secs(1));
            let heard = crate::common::lines(&seat.read(&mut bookmark), &linkage);
            runs.push((heard, seat.state_hash()));
            seat.restore(&saved, &mut [&mut bookmark]).unwrap();
        }
        prop_assert_eq!(&runs[0], &runs[1], "the second time is as the first, bookmark and all");
    }

    #[test]
    fn a_seat_relinked_to_the_same_profile_plays_on_as_if_nothing_had_been(lines in tape(), part in 0.0..1.0f64) {
        let (linkage, again) = (demo(), demo());
        let mut runs = Vec::new();
        for relinks in [false, true] {
            let (mut seat, mut bookmark, mut player, middle) = half_played(&linkage, &lines, part);
            if relinks {
                let relinked = seat.relink(&again, &mut [&mut bookmark]);
                prop_assert_eq!(relinked, tidy_lever::seat::Relinked::default());
            }
            for line in &lines[middle..] {
                player.put(line, &mut seat).unwrap();
            }
            seat.advance(lines.last().unwrap().at + std::time::Duration::from_secs(1));
            runs.push(crate::common::lines(&seat.read(&mut bookmark), &linkage));
        }
        prop_assert_eq!(&runs[0], &runs[1], "relinked or not");
    }

    #[test]
    fn every_reader_gets_every_edge_exactly_once(lines in tape(), looks in prop::collection::vec(0..30u64, 1..200)) {
        let linkage = demo();
        let hop: tidy_lever::Button = linkage.find("hop").unwrap();
        let mut seat = linkage.seat(Moment::ZERO);
        let (mut often, mut seldom) = (seat.bookmark(), seat.bookmark());
        let mut player = Replayer::new(&Header::new(""));
        for line in &lines {
            player.put(line, &mut seat).unwrap();
        }
        let (mut ticks, mut frames) = ((0, 0, 0), (0, 0, 0));
        let count = |sum: &mut (u32, u32, u32), r: tidy_lever::reading::ButtonReading| {
            *sum = (sum.0 + r.presses(), sum.1 + r.releases(), sum.2 + r.pulls());
        };
        let mut now = Moment::ZERO;
        for look in looks {
            now = now + std::time::Duration::from_millis(40);
            seat.advance(now);
            count(&mut ticks, seat.button(hop));
            // Reading changes nothing about the seat, and leaves nothing for a second look with the same bookmark.
            let before = seat.state_hash();
            let seen = seat.read(&mut often);
            prop_assert_eq!(seen.presses(hop).count() as u32, seen.button(hop).presses());
            prop_assert_eq!(seen.pulls(hop).count() as u32, seen.button(hop).pulls());
            let again = seat.read(&mut often).button(hop);
            prop_assert_eq!((again.presses(), again.releases(), again.pulls()), (0, 0, 0));
            prop_assert_eq!(seat.state_hash(), before);
            if look == 0 {
                count(&mut frames, seat.read(&mut seldom).button(hop));
            }
        }
        count(&mut frames, seat.read(&mut seldom).button(hop));
        prop_assert_eq!(ticks, frames);
    }
}
