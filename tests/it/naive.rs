//! Promise: the engine agrees with a slow second telling. Every cue of a button, doubled directions and flicks, from the list of
//! all that the hand did, with no state at all. Motions, orders and circles are told so in `motions.rs`, gates in `gates.rs`.

use crate::asked::asked;
use crate::common::Bench;
use fastrand::Rng;
use tidy_lever::Control;

/// How many cases; `TIDY_LEVER_CASES` asks for more.
fn cases() -> u64 {
    asked("TIDY_LEVER_CASES", 300)
}

/// One control's going down and letting go.
#[derive(Clone, Copy, Debug)]
struct Press {
    down: u64,
    up: u64,
}

/// Presses of one key, one after another, some of a length and a distance that borders on a span.
fn presses(dice: &mut Rng, first: u64) -> Vec<Press> {
    let mut at = first;
    let span = |dice: &mut Rng| match dice.u8(0..6) {
        0 => [60_000, 59_999, 60_001, 120_000, 120_001, 30_000][dice.usize(0..6)],
        _ => dice.u64(1_000..150_000),
    };
    let mut press = |_| {
        let down = at + span(dice);
        let up = down + span(dice);
        at = up;
        Press { down, up }
    };
    (0..24).map(&mut press).collect()
}

/// While any of two keys is down: from the first one's going down to the last one's letting go.
fn held(one: &[Press], other: &[Press]) -> Vec<Press> {
    let mut all: Vec<Press> = one.iter().chain(other).copied().collect();
    all.sort_by_key(|press| press.down);
    let mut held: Vec<Press> = Vec::new();
    for press in all {
        match held.last_mut() {
            // A key that goes down as the other goes up still finds the action held, or not: the moments differ here.
            Some(last) if press.down < last.up => last.up = last.up.max(press.up),
            _ => held.push(press),
        }
    }
    held
}

/// All goings down of both.
fn downs(one: &[Press], other: &[Press]) -> Vec<u64> {
    let mut downs: Vec<u64> = one.iter().chain(other).map(|press| press.down).collect();
    downs.sort_unstable();
    downs
}

/// Counts to this many, each at most a span behind the one before, then counts again.
fn counted(moments: &[u64], count: usize, apart: u64) -> Vec<u64> {
    let (mut pulls, mut run): (Vec<u64>, Vec<u64>) = (Vec::new(), Vec::new());
    for at in moments {
        if run.last().is_some_and(|last| at - last > apart) {
            run.clear();
        }
        run.push(*at);
        if run.len() == count {
            pulls.push(*at);
            run.clear();
        }
    }
    pulls
}

/// A pull wherever this many fall in a sliding span; on until the rate drops, so no second one before that.
fn mashed(downs: &[u64], count: usize, within: u64) -> Vec<u64> {
    let mut pulls = Vec::new();
    let mut on_until = None;
    for (number, at) in downs.iter().enumerate() {
        let Some(first) = (number + 1).checked_sub(count) else { continue };
        let oldest = downs[first];
        if at - oldest <= within {
            if on_until.is_none_or(|until| *at > until) {
                pulls.push(*at);
            }
            on_until = Some(oldest + within);
        }
    }
    pulls
}

/// Both down within a span, in either order; each press serves one chord, and a second one needs the first let go.
fn together(one: &[Press], other: &[Press], within: u64) -> Vec<u64> {
    let mut all: Vec<(u64, usize, Press)> = Vec::new();
    all.extend(one.iter().map(|press| (press.down, 0, *press)));
    all.extend(other.iter().map(|press| (press.down, 1, *press)));
    all.sort_by_key(|(down, ..)| *down);
    let (mut pulls, mut used) = (Vec::new(), Vec::new());
    for (at, side, _) in &all {
        let partner = all.iter().find(|(down, other, partner)| {
            other != side && down < at && partner.up >= *at && at - down <= within && !used.contains(down)
        });
        if let Some((down, ..)) = partner
            && !used.contains(at)
        {
            used.extend([*down, *at]);
            pulls.push(*at);
        }
    }
    pulls
}

/// What an action with this cue on both keys pulls; the second key is another action's where the cue names it.
fn played(cue: &str, one: &[Press], other: &[Press]) -> Vec<u64> {
    let keys = if cue.contains("mate") { "\"KeyJ\"" } else { "[\"KeyJ\", \"KeyK\"]" };
    let mate = if cue.contains("mate") { "\n[action.mate]\nkind = \"button\"\nkeys = \"KeyK\"" } else { "" };
    let body = format!("[action.act]\nkind = \"button\"\nkeys = {keys}\ncue = \"{cue}\"{mate}\n");
    let mut bench = Bench::new(&body);
    let mut edges: Vec<(u64, &str, f32)> = Vec::new();
    for (key, presses) in [("keys:KeyJ", one), ("keys:KeyK", other)] {
        edges.extend(presses.iter().flat_map(|press| [(press.down, key, 1.0), (press.up, key, 0.0)]));
    }
    edges.sort_by_key(|(at, ..)| *at);
    let mut pulls = Vec::new();
    for (at, key, level) in edges {
        // A look now and then, so that the history is never too short.
        bench.level(at, key, level).to(at);
        pulls.extend(bench.pulls_of("act"));
    }
    bench.to(20_000_000);
    pulls.extend(bench.pulls_of("act"));
    pulls
}

#[test]
fn every_cue_of_a_button_pulls_where_a_slow_reading_says() {
    const MS: u64 = 1_000;
    let mut total = 0;
    for seed in 0..cases() {
        let mut dice = Rng::with_seed(seed);
        let (one, other) = (presses(&mut dice, 0), presses(&mut dice, 500));
        let distinct = {
            let mut edges: Vec<u64> = one.iter().chain(&other).flat_map(|press| [press.down, press.up]).collect();
            edges.sort_unstable();
            edges.windows(2).all(|pair| pair[0] + 1 < pair[1])
        };
        // What comes in one moment, or a microsecond apart, has tests of its own.
        if !distinct {
            continue;
        }
        let (held, downs) = (held(&one, &other), downs(&one, &other));
        let ups: Vec<u64> = held.iter().map(|press| press.up).collect();
        let long = |span: u64| held.iter().filter(move |press| press.up - press.down >= span);
        let repeats = |one: &[Press]| -> Vec<u64> {
            let each = |press: &Press| {
                let again = (0..).map(move |n| press.down + 40 * MS + n * 15 * MS);
                let up = press.up;
                std::iter::once(press.down).chain(again.take_while(move |at| *at <= up)).collect::<Vec<u64>>()
            };
            one.iter().flat_map(each).collect()
        };
        let cases: Vec<(&str, Vec<u64>)> = vec![
            ("press", downs.clone()),
            ("toggle", downs.clone()),
            ("release", ups.clone()),
            ("hold 60ms", long(60 * MS).map(|press| press.down + 60 * MS).collect()),
            ("tap under 60ms", held.iter().filter(|p| p.up - p.down < 60 * MS).map(|p| p.up).collect()),
            ("2 taps 120ms apart", counted(&downs, 2, 120 * MS)),
            ("3 taps 120ms apart", counted(&downs, 3, 120 * MS)),
            ("2 taps 120ms apart counted on release", counted(&ups, 2, 120 * MS)),
            ("mash 4 within 300ms", mashed(&downs, 4, 300 * MS)),
            ("charge 30ms to 120ms", long(30 * MS).map(|press| press.up).collect()),
            ("with mate within 60ms", together(&one, &other, 60 * MS)),
        ];
        for (cue, wanted) in cases {
            let came = played(cue, &one, &other);
            assert_eq!(came, wanted, "{cue}, seed {seed}: {one:?} {other:?}");
            total += came.len();
        }
        // A further press begins a repeat again, so it is told for one key alone.
        assert_eq!(played("repeat after 40ms every 15ms", &one, &[]), repeats(&one), "seed {seed}");
    }
    assert!(total > 10_000, "it must be about something: {total}");
}

/// A cross as it stands from a moment on: which straights are pushed (right, up, left, down), and whether a key went down.
#[derive(Clone, Copy, Debug)]
struct Pushed {
    at: u64,
    straights: [bool; 4],
    by_going_down: bool,
}

/// Where four keys push, of opposite ones the newest.
fn pushes(keys: &[Vec<Press>; 4]) -> Vec<Pushed> {
    let mut edges: Vec<(u64, usize, bool)> = Vec::new();
    for (key, presses) in keys.iter().enumerate() {
        edges.extend(presses.iter().flat_map(|press| [(press.down, key, true), (press.up, key, false)]));
    }
    edges.sort_unstable();
    let since = |key: usize, at: u64| keys[key].iter().find(|press| press.down <= at && at < press.up).map(|p| p.down);
    edges
        .into_iter()
        .map(|(at, _, by_going_down)| {
            let wins =
                |key: usize| since(key, at).is_some_and(|own| since((key + 2) % 4, at).is_none_or(|other| own > other));
            Pushed { at, straights: [0, 1, 2, 3].map(wins), by_going_down }
        })
        .collect()
}

/// The same straight given twice within a span, each giving as the document has it; what broke the first one is looked up.
fn doubled(all: &[Pushed], within: u64) -> Vec<u64> {
    let (mut pulls, mut used_until) = (Vec::new(), None);
    let is_given = |place: usize, straight: usize| {
        let before = place > 0 && all[place - 1].straights[straight];
        all[place].by_going_down && all[place].straights[straight] && !before
    };
    for second in 0..all.len() {
        let found = (0..4).any(|straight| {
            is_given(second, straight)
                && (0..second).any(|first| {
                    let in_time =
                        all[second].at - all[first].at <= within && used_until.is_none_or(|used| first > used);
                    let between = &all[first..=second];
                    let opposite = between.iter().any(|pushed| pushed.straights[(straight + 2) % 4]);
                    // Another straight alone, for as long as 45 ms.
                    let other = (0..4).filter(|other| *other != straight).any(|other| {
                        let alone = |pushed: &Pushed| (0..4).all(|one| pushed.straights[one] == (one == other));
                        let mut since = None;
                        between.iter().any(|pushed| {
                            let lasted = since.is_some_and(|since| pushed.at - since >= 45_000);
                            since = if alone(pushed) { since.or(Some(pushed.at)) } else { None };
                            lasted
                        })
                    });
                    is_given(first, straight) && in_time && !opposite && !other
                })
        });
        if found {
            pulls.push(all[second].at);
            used_until = Some(second);
        }
    }
    pulls
}

#[test]
fn the_same_way_twice_is_what_a_slow_reading_finds() {
    const KEYS: [&str; 4] = ["keys:KeyD", "keys:KeyW", "keys:KeyA", "keys:KeyS"];
    let body = "[action.steer]\nkind = \"stick\"\nkeys = { up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }\n\
                [action.act]\nkind = \"button\"\ncue = \"steer twice within 120ms\"\n";
    let mut total = 0;
    for seed in 0..cases() {
        let mut dice = Rng::with_seed(seed);
        // Now one key at a time, now all at once, some seldom; all moments differ by more than a microsecond.
        let mut keys: [Vec<Press>; 4] = Default::default();
        if seed % 2 == 0 {
            for press in presses(&mut dice, 0) {
                keys[dice.usize(0..6).min(3)].push(press);
            }
        } else {
            for key in &mut keys {
                let first = dice.u64(0..999);
                let all = presses(&mut dice, first);
                *key = all.into_iter().filter(|_| dice.u8(0..4) > 0).collect();
            }
        }
        let all = pushes(&keys);
        if all.windows(2).any(|pair| pair[0].at + 1 >= pair[1].at) {
            continue;
        }
        let mut bench = Bench::new(body);
        let mut came = Vec::new();
        let mut edges: Vec<(u64, &str, f32)> = Vec::new();
        for (key, presses) in KEYS.into_iter().zip(&keys) {
            edges.extend(presses.iter().flat_map(|press| [(press.down, key, 1.0), (press.up, key, 0.0)]));
        }
        edges.sort_by_key(|(at, ..)| *at);
        for (at, key, level) in edges {
            bench.level(at, key, level).to(at);
            came.extend(bench.pulls_of("act"));
        }
        assert_eq!(came, doubled(&all, 120_000), "seed {seed}: {all:?}");
        total += came.len();
    }
    assert!(total > 500, "{total}");
}

#[test]
fn a_flick_is_where_a_slow_reading_finds_the_edge_soon_enough_after_the_centre() {
    let mut total = 0;
    for seed in 0..cases() {
        let mut dice = Rng::with_seed(seed);
        let mut at = 0;
        let pushes: Vec<(u64, f32)> = (0..60)
            .map(|_| {
                at += [60_000, 59_999, 60_001, 30_000, dice.u64(1_000..90_000)][dice.usize(0..5)];
                (at, [0.0, 0.2, 0.5, 0.79, 0.8, 1.0][dice.usize(0..6)])
            })
            .collect();
        // Each way out from the centre is one piece; in each, the first time at the edge decides, if there was a rest before.
        let rests = |began: u64| {
            let earlier: Vec<_> = pushes.iter().take_while(|(at, _)| *at < began).collect();
            let rest = earlier.iter().rev().take_while(|(_, far)| *far == 0.0);
            // A stick that never moved has rested since the beginning, whatever it reports.
            let always = rest.clone().count() == earlier.len();
            always || rest.last().is_none_or(|(since, _)| began - since >= 20_000)
        };
        let out = pushes.split(|(_, far)| *far == 0.0).filter_map(|out| {
            let (began, reached) = (out.first()?.0, out.iter().find(|(_, far)| *far >= 0.8)?.0);
            (reached - began <= 60_000 && rests(began)).then_some(reached)
        });
        let wanted: Vec<u64> = out.collect();
        let mut bench = Bench::new(
            "[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\n\
             [action.act]\nkind = \"button\"\ncue = \"steer flicks over 0.8 within 60ms\"\n",
        );
        let mut came = Vec::new();
        for (at, far) in &pushes {
            // Whichever way, and the way may change underway.
            let (x, y) = [(*far, 0.0), (0.0, *far), (-far, 0.0), (0.0, -far)][dice.usize(0..4)];
            bench.pair(*at, Control::LEFT_STICK, x, y).to(*at);
            came.extend(bench.pulls_of("act"));
        }
        assert_eq!(came, wanted, "seed {seed}: {pushes:?}");
        total += came.len();
    }
    assert!(total > 1_000, "{total}");
}
