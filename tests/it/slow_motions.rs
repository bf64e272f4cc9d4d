//! Promise: motions, turns and orders are what a slow reading of the design finds.

use super::motions::with;
use crate::common::Bench;
use proptest::prelude::*;
use tidy_lever::{Control, Direction};

/// By how many eighths to turn on the shorter way.
fn eighths(from: Direction, to: Direction) -> i32 {
    let turn = (i32::from(to.degrees()) - i32::from(from.degrees())).rem_euclid(360) / 45;
    if turn > 4 { turn - 8 } else { turn }
}

/// Whether a direction lies on the short way between two, ends included; straight across both ways do.
fn on_the_way(from: Direction, to: Direction, now: Direction) -> bool {
    let (whole, part) = (eighths(from, to), eighths(from, now));
    whole == 4 || part == 0 || (part.signum() == whole.signum() && part.abs() <= whole.abs())
}

/// A slow reading of a motion without a finish, from the document: every attempt by itself, with the step it has reached,
/// when the first position was left, and since when its stick stands beside the way.
fn naive(steps: &[Direction], within: u64, digital: bool, turns: &[(u64, Option<Direction>)]) -> Vec<u64> {
    #[derive(Clone, Copy, PartialEq)]
    struct Try {
        step: usize,
        left: Option<u64>,
        beside: Option<u64>,
    }
    let neighbour =
        |now: Direction, step: i32| Direction::ALL[((i32::from(now.degrees()) / 45 + step).rem_euclid(8)) as usize];
    let (mut pulls, mut tries): (Vec<u64>, Vec<Try>) = (Vec::new(), Vec::new());
    let mut stands = None;
    let mut rests: Option<(Direction, u64)> = None;
    for (at, to) in turns.iter().copied() {
        if stands == Some(steps[0]) {
            tries.iter_mut().filter(|one| one.step == 0).for_each(|one| one.left = Some(at));
        }
        tries.retain(|one| one.beside.is_none_or(|since| at - since <= 70_000));
        // What lies between by a jump of a quarter, or by keys that roll, comes first, and breaks nothing.
        let between = match (stands, to, rests) {
            (Some(from), Some(to), _) => Some((from, to)),
            (None, Some(to), Some((from, since))) if digital && at - since <= 35_000 => {
                let straights = from.degrees() % 90 == 0 && to.degrees() % 90 == 0;
                straights.then_some((from, to))
            }
            _ => None,
        };
        let over = between
            .filter(|(from, to)| eighths(*from, *to).abs() == 2)
            .map(|(from, to)| neighbour(from, eighths(from, to).signum()));
        let mut whole = false;
        for (now, passes) in over.map(|over| (Some(over), true)).into_iter().chain([(to, false)]) {
            let before = std::mem::take(&mut tries);
            for one in before {
                let comes = now.is_some()
                    && steps.get(one.step + 1).copied() == now
                    && !(one.beside.is_some() && steps[one.step] == steps[one.step + 1]);
                let left = one.left.unwrap_or(at);
                if comes && at - left > within {
                    continue;
                }
                if comes {
                    tries.push(Try { step: one.step + 1, left: Some(left), beside: None });
                }
                let way = |now: Direction| {
                    steps.get(one.step + 1).is_some_and(|next| on_the_way(steps[one.step], *next, now))
                };
                match now {
                    None => tries.push(Try { beside: None, ..one }),
                    _ if passes => tries.push(one),
                    Some(now) if way(now) => tries.push(Try { beside: None, ..one }),
                    Some(now) if way(neighbour(now, 1)) || way(neighbour(now, -1)) => {
                        tries.push(Try { beside: one.beside.or(Some(at)), ..one });
                    }
                    Some(_) => {}
                }
            }
            whole |= tries.iter().any(|one| one.step + 1 == steps.len());
        }
        if to == Some(steps[0]) {
            tries.retain(|one| one.step > 0);
            tries.push(Try { step: 0, left: None, beside: None });
        }
        if whole {
            pulls.push(at);
            tries.clear();
        }
        rests = stands.filter(|_| to.is_none()).map(|from| (from, at));
        stands = to;
    }
    pulls
}

#[test]
fn an_attempt_that_runs_out_leaves_its_place_to_the_next_one_in_the_same_moment() {
    let mut bench = Bench::new(&with("steer rolls left, left, left within 200ms", ""));
    for (at, to) in [(6, true), (7, false), (137, true), (184, false), (208, true), (209, false), (210, true)] {
        bench.point(at * 1_000, to.then_some(Direction::Left));
    }
    // The first attempt, from 7 ms on, is over at 208 ms; the second began at 184 ms.
    assert_eq!(bench.to(400_000).pulls_of("act"), [210_000]);
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 1_500, ..ProptestConfig::default() })]

    #[test]
    fn motions_are_what_a_slow_reading_finds(
        steps in prop::collection::vec(0usize..8, 2..5),
        digital in any::<bool>(),
        turns in prop::collection::vec((1u64..90, prop::option::weighted(0.8, 0usize..8)), 2..60),
        ways in prop::collection::vec(prop::option::weighted(0.75, 0usize..5), 60),
    ) {
        let steps: Vec<Direction> = steps.into_iter().map(|n| Direction::ALL[n]).collect();
        let names: Vec<&str> = steps.iter().map(|step| step.name()).collect();
        let body = with(&format!("steer rolls {} within 200ms", names.join(", ")), "");
        let mut bench = Bench::new(&body);
        let (mut at, mut stands) = (0, None);
        let (mut real, mut next) = (Vec::new(), 0);
        for ((wait, to), way) in turns.into_iter().zip(ways) {
            at += wait * 1_000;
            // Mostly where the motion goes, or beside it.
            let to = match way {
                Some(4) => to,
                Some(way) => {
                    next = (next + usize::from(way == 0)) % steps.len();
                    to.map(|_| (steps[next] as usize + [0, 0, 1, 7][way]) % 8)
                }
                None => None,
            };
            let to = to.map(|n| Direction::ALL[n]);
            if to == stands {
                continue;
            }
            stands = to;
            real.push((at, to));
            if digital {
                let (x, y) = to.map_or((0, 0), Direction::signs);
                bench.pair(at, Control::DPAD, f32::from(x), f32::from(y));
            } else {
                bench.point(at, to);
            }
        }
        bench.to(at + 1_000_000);
        let pulls = bench.pulls_of("act");
        prop_assert_eq!(pulls, naive(&steps, 200_000, digital, &real), "{:?}: {:?}", steps, real);
    }
}

/// A slow, obvious reading of going round: every place that was left is tried as a start.
fn went_round(eighths: i32, within: u64, turns: &[(u64, Option<Direction>)]) -> Vec<u64> {
    let (mut pulls, mut stood): (Vec<u64>, Option<Direction>) = (Vec::new(), None);
    // How far round it is, each place with the moment at which it was left last.
    let (mut count, mut left): (i32, Vec<(i32, u64)>) = (0, Vec::new());
    let mut rested = None;
    for (at, to) in turns {
        let Some(to) = to else {
            rested = Some(*at);
            continue;
        };
        let turn = stood.map(|stood| (i32::from(to.degrees()) - i32::from(stood.degrees())).rem_euclid(360) / 45);
        let turn = turn.map(|turn| if turn > 4 { turn - 8 } else { turn });
        match turn {
            // More than a quarter at once tells no way.
            None | Some(-3 | 3 | 4) => (count, left) = (0, Vec::new()),
            Some(turn) => {
                let mut round = false;
                for step in 0..turn.abs() {
                    let place = count + step * turn.signum();
                    left.retain(|(other, _)| *other != place);
                    left.push((place, if step == 0 { rested.unwrap_or(*at) } else { *at }));
                    let reached = place + turn.signum();
                    round |= left
                        .iter()
                        .any(|(from, when)| reached - from == turn.signum() * eighths && at - when <= within);
                }
                count += turn;
                if round {
                    pulls.push(*at);
                    (count, left) = (0, Vec::new());
                }
            }
        }
        (stood, rested) = (Some(*to), None);
    }
    pulls
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, ..ProptestConfig::default() })]

    #[test]
    fn going_round_is_what_a_slow_reading_finds(
        eighths in 2i32..12,
        turns in prop::collection::vec((1u64..90, prop::sample::select(vec![1i32, 1, 1, 1, 2, -1, 3, 4]), prop::bool::weighted(0.15)), 2..60),
    ) {
        let body = with(&format!("steer spins {} within 600ms", f64::from(eighths) / 8.0), "");
        let mut bench = Bench::new(&body);
        let (mut at, mut stands, mut real) = (0, 0i32, Vec::new());
        for (wait, by, rests) in turns {
            at += wait * 1_000;
            stands = (stands + by).rem_euclid(8);
            let to = (!rests).then(|| Direction::ALL[stands as usize]);
            if real.last().is_some_and(|(_, last)| *last == to) {
                continue;
            }
            real.push((at, to));
            bench.point(at, to);
        }
        bench.to(at + 1_000_000);
        let pulls = bench.pulls_of("act");
        prop_assert_eq!(pulls, went_round(eighths, 600_000, &real), "{:?}", real);
    }

    #[test]
    fn an_order_is_what_a_slow_reading_finds(
        names in prop::collection::vec(0usize..3, 2..6),
        presses in prop::collection::vec((1u64..400, 0usize..3), 1..60),
    ) {
        const NAMES: [(&str, &str); 3] = [("toss", "KeyJ"), ("hop", "KeyK"), ("use-it", "KeyL")];
        let order: Vec<&str> = names.iter().map(|n| NAMES[*n].0).collect();
        let body = format!("[action.use-it]\nkind = \"button\"\nkeys = \"KeyL\"\n{}", with(&format!("order {} within 900ms", order.join(", ")), ""));
        let mut bench = Bench::new(&body);
        let (mut at, mut heard, mut expected): (u64, Vec<(u64, usize)>, Vec<u64>) = (0, Vec::new(), Vec::new());
        for (wait, name) in presses {
            at += wait * 1_000;
            bench.level(at, &format!("keys:{}", NAMES[name].1), 1.0).level(at + 500, &format!("keys:{}", NAMES[name].1), 0.0);
            heard.push((at, name));
            // Only presses that the order names count; the last this many must be they, in time.
            let named: Vec<&(u64, usize)> = heard.iter().filter(|(_, name)| names.contains(name)).collect();
            let last = named.len().checked_sub(names.len()).map(|from| &named[from..]);
            let matches = last.is_some_and(|last| {
                last.iter().zip(&names).all(|((_, heard), name)| heard == name) && at - last[0].0 <= 900_000
            });
            if matches && names.contains(&name) {
                expected.push(at);
                heard.clear();
            }
        }
        bench.to(at + 1_000_000);
        let pulls = bench.pulls_of("act");
        prop_assert_eq!(pulls, expected);
    }
}
