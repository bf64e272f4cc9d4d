//! Promise: the same, whatever comes. Random profiles and random hands, cut into ticks, read in between, saved and restored, give
//! the same to the bit; and so does every build.
//!
//! `TIDY_LEVER_CASES` asks for more cases, `TIDY_LEVER_SEED` for others; a failure names its seed.

use crate::any::{Act, acts, profile, put};
use crate::asked::asked;
use fastrand::Rng;
use tidy_lever::seat::Capacity;
use tidy_lever::{Bookmark, Button, Linkage, Moment, Reading, Stick};

fn lines(reading: &Reading<'_>, linkage: &Linkage) -> Vec<String> {
    reading.happenings().map(|one| format!("{} {} {:?}", one.at(), one.action(linkage).unwrap(), one.what())).collect()
}

/// A case that can be played: the profile of a seed, made ready, and its hands; `None` if it can't be built.
fn case(seed: u64) -> Option<(Linkage, Vec<(u64, Act)>)> {
    let mut dice = Rng::with_seed(seed);
    let linkage = Linkage::build(&profile(&mut dice)).ok()?;
    Some((linkage, acts(&mut dice)))
}

fn room() -> Capacity {
    Capacity::default().history(1 << 13)
}
/// Behind everything.
const REST: u64 = 2_000_000;

/// All at once, and what came of it.
fn whole(linkage: &Linkage, acts: &[(u64, Act)]) -> (Vec<String>, u64) {
    let mut seat = linkage.seat_with(Moment::ZERO, room()).unwrap();
    let mut bookmark = seat.bookmark();
    acts.iter().for_each(|act| put(&mut seat, *act));
    seat.advance(Moment::from_micros(acts.last().unwrap().0 + REST));
    let heard = lines(&seat.read(&mut bookmark), linkage);
    (heard, seat.state_hash())
}

/// The same in random ticks, with two readers that look when they like, and a save that is gone back to.
fn in_pieces(linkage: &Linkage, acts: &[(u64, Act)], dice: &mut Rng) -> [(Vec<String>, u64); 2] {
    let mut seat = linkage.seat_with(Moment::ZERO, room()).unwrap();
    let end = acts.last().unwrap().0 + REST;
    let (steer, b0): (Stick, Button) = (linkage.find("steer").unwrap(), linkage.find("b0").unwrap());
    let mut heard = [Vec::new(), Vec::new()];
    let mut bookmarks: [Bookmark; 2] = [seat.bookmark(), seat.bookmark()];
    let (mut at, mut next, mut saves) = (0, 0, 2);
    while at < end {
        at = (at + [1, 700, 8_333, 16_667, 120_000][dice.usize(0..5)]).min(end);
        // Up to a gap the game plays; in it, it doesn't.
        let gap = acts[next..].iter().position(|(_, act)| matches!(act, Act::Gap(_))).map(|place| next + place);
        let begins = gap.map(|gap| if let (to, Act::Gap(span)) = acts[gap] { to - span } else { 0 });
        let reached = begins.is_some_and(|begins| begins <= at);
        at = begins.map_or(at, |begins| begins.min(at));
        // What comes later may be there already, or not yet; and in any order of its moments.
        let ahead = if reached { 1 << 40 } else { dice.u64(0..3) * 10_000 };
        let until = gap.unwrap_or(acts.len());
        let from = next;
        while next < until && acts[next].0 <= at + ahead {
            next += 1;
        }
        let mut moments: Vec<&[(u64, Act)]> = acts[from..next].chunk_by(|one, other| one.0 == other.0).collect();
        // What is late plays in the order of telling, so that order is kept.
        let late = moments.partition_point(|acts| acts[0].0 <= seat.played().as_micros());
        dice.shuffle(&mut moments[late..]);
        moments.into_iter().flatten().for_each(|act| put(&mut seat, *act));
        if reached {
            seat.advance(Moment::from_micros(at));
            put(&mut seat, acts[next]);
            at = acts[next].0;
            next += 1;
        }
        if saves > 0 && dice.u8(0..20) == 0 {
            // There and back: as if it had never been.
            saves -= 1;
            let [one, other] = &mut bookmarks;
            let saved = seat.saved(&[one, other]);
            acts[next..].iter().take(20).for_each(|act| put(&mut seat, *act));
            seat.advance(Moment::from_micros(at + 500_000));
            seat.read(one);
            seat.restore(&saved, &mut [one, other]).unwrap();
        }
        seat.advance(Moment::from_micros(at));
        for (bookmark, heard) in bookmarks.iter_mut().zip(&mut heard) {
            if dice.bool() {
                heard.extend(lines(&seat.read(bookmark), linkage));
            }
        }
        // Questions change nothing.
        let _ = (seat.stick(steer).direction(), seat.button(b0).pulled(), seat.countdowns().count());
    }
    for (bookmark, heard) in bookmarks.iter_mut().zip(&mut heard) {
        heard.extend(lines(&seat.read(bookmark), linkage));
    }
    heard.map(|heard| (heard, seat.state_hash()))
}

#[test]
fn any_profile_gives_the_same_however_it_is_cut_read_and_saved() {
    let (first, count) = (asked("TIDY_LEVER_SEED", 0), asked("TIDY_LEVER_CASES", 2_000));
    let (mut built, mut pulls) = (0, 0);
    for seed in first..first + count {
        let Some((linkage, acts)) = case(seed) else { continue };
        built += 1;
        let wanted = whole(&linkage, &acts);
        pulls += wanted.0.iter().filter(|line| line.ends_with("Pulled")).count();
        let mut dice = Rng::with_seed(seed ^ 0x5eed);
        for (reader, came) in in_pieces(&linkage, &acts, &mut dice).into_iter().enumerate() {
            assert_eq!(came, wanted, "TIDY_LEVER_SEED={seed} TIDY_LEVER_CASES=1, reader {reader}");
        }
    }
    // It must be about something.
    assert!(built * 2 > count && pulls as u64 > built * 10, "{built} of {count} were built, with {pulls} pulls");
}

/// The sum of what 60 cases leave. Debug and release builds, with and without default features, on any platform, all give
/// this; a change that is meant to change what a seat does, or what its hash is made of, changes it.
const LEFT: u64 = 0x76f2_88a6_0ea2_47b0;

#[test]
fn every_build_leaves_the_same_to_the_bit() {
    let hashes = (0..100).filter_map(case).take(60).map(|(linkage, acts)| whole(&linkage, &acts).1);
    let sum = hashes.fold(0u64, |sum, hash| sum.rotate_left(5) ^ hash);
    assert_eq!(sum, LEFT, "{sum:#x}");
}
