//! The pulls of one action at different values of one number.
//!
//! ```text
//!   outermost values ──whole tapes──▶ pulls
//!   a value between two known ones ──only stretches in which those two differ──▶ pulls; elsewhere as in both
//! ```
//!
//! This assumes that a stretch with the same pulls at two values has them at every value in between. For time limits that holds for
//! real input, but it is not guaranteed. Therefore every value that is reported is verified on the whole tapes
//! ([`Values::is_so`]). If one differs, all values are played on whole tapes ([`Values::on_whole_tapes`]).

use anyhow::Result;
use tidy_lever::Linkage;
use tidy_lever::profile::{Movable, Number, Unit};

use crate::evidence::ReadyTapes;
use crate::progress::go_on;
use crate::ready_tape::{ReadyTape, Stretches};

/// The pulls of one action: for each tape, when and in which seat.
pub(crate) type Pulls = Vec<Vec<(u64, u32)>>;

/// The shortest pause between two stretches, in µs.
const REST: u64 = 1_000_000;
/// How many stretches in a row are played, then left out, to test whether stretches are independent.
const BLOCK: usize = 8;

/// The pulls at one value.
#[derive(Debug)]
struct Known {
    value: f64,
    pulls: Pulls,
    is_whole: bool,
}

/// The values of a number that were tried.
#[derive(Debug)]
pub(crate) struct Values<'a> {
    ready_tapes: &'a ReadyTapes<'a>,
    profile: &'a Movable,
    /// The profile with the value that was tried last.
    movable: Movable,
    number: &'a Number,
    action: &'a str,
    /// Sorted by value.
    known: Vec<Known>,
    /// For each tape; `None` if it is always played as a whole.
    stretches: Vec<Option<Stretches>>,
}

impl<'a> Values<'a> {
    /// For a number of an action; `now` are its pulls as the profile stands.
    pub(crate) fn new(
        ready_tapes: &'a ReadyTapes<'a>,
        profile: &'a Movable,
        number: &'a Number,
        (action, now): (&'a str, &Pulls),
        stretches: &[Option<Stretches>],
    ) -> Values<'a> {
        // A level can be crossed many times, so nothing follows for the values in between.
        let is_span = number.unit == Unit::Milliseconds;
        let stretches = if is_span { stretches.to_vec() } else { vec![None; stretches.len()] };
        let known = vec![Known { value: number.value, pulls: now.clone(), is_whole: true }];
        Values { ready_tapes, profile, movable: profile.clone(), number, action, known, stretches }
    }

    fn linkage(&mut self, value: f64) -> Option<Linkage> {
        let moved = self.movable.set(&self.number.path, &self.number.written_as(value)).ok();
        let linkage = moved.and_then(|()| Linkage::build(self.movable.profile()).ok());
        // A profile may refuse a value, such as a hold shorter than a tap. Then its numbers can't be read, either: start again.
        if linkage.is_none() {
            self.movable = self.profile.clone();
        }
        linkage
    }

    /// The pulls at a value; `None` if the profile refuses the value.
    pub(crate) fn pulls(&mut self, value: f64) -> Result<Option<&Pulls>> {
        let place = self.known.partition_point(|known| known.value < value);
        if self.known.get(place).is_none_or(|known| known.value != value) {
            go_on()?;
            let Some(linkage) = self.linkage(value) else { return Ok(None) };
            let between = place.checked_sub(1).and_then(|below| Some((self.known.get(below)?, self.known.get(place)?)));
            let (pulls, is_whole) = match between {
                Some((below, above)) => self.between(&linkage, &below.pulls, &above.pulls)?,
                None => (self.ready_tapes.pulls(&linkage, self.action)?, true),
            };
            self.known.insert(place, Known { value, pulls, is_whole });
        }
        Ok(self.known.get(place).map(|known| &known.pulls))
    }

    /// Plays the stretches in which two values differ. Also returns whether that was the whole of every tape.
    fn between(&self, linkage: &Linkage, below: &Pulls, above: &Pulls) -> Result<(Pulls, bool)> {
        let (mut all, mut is_whole) = (Vec::new(), true);
        for (number, (below, above)) in below.iter().zip(above).enumerate() {
            let (Some(stretches), Some(ready)) = (&self.stretches[number], &self.ready_tapes.ready[number]) else {
                all.push(self.ready_tapes.pulls_on(number, linkage, self.action)?);
                continue;
            };
            let plays = differing(stretches, below, above);
            is_whole = false;
            if plays.iter().all(|plays| !plays) {
                all.push(below.clone());
                continue;
            }
            all.push(played(ready, linkage, self.action, stretches, plays, below)?);
        }
        Ok((all, is_whole))
    }

    /// Verifies a value on the whole tapes.
    pub(crate) fn is_so(&mut self, value: f64) -> Result<bool> {
        let Some(place) = self.known.iter().position(|known| known.value == value && !known.is_whole) else {
            return Ok(true);
        };
        let Some(linkage) = self.linkage(value) else { return Ok(true) };
        let pulls = self.ready_tapes.pulls(&linkage, self.action)?;
        let known = &mut self.known[place];
        known.is_whole = true;
        let is_so = known.pulls == pulls;
        known.pulls = pulls;
        Ok(is_so)
    }

    /// From now on, plays every value on the whole tapes.
    pub(crate) fn on_whole_tapes(&mut self) {
        self.known.retain(|known| known.is_whole);
        self.stretches.fill(None);
    }
}

/// The stretches of each tape, or `None` if the action's pulls in them depend on earlier stretches. `longest` is the longest time
/// limit that will be tried, in ms.
pub(crate) fn stretches(
    ready_tapes: &ReadyTapes<'_>,
    linkage: &Linkage,
    (action, now): (&str, &Pulls),
    longest: f64,
) -> Result<Vec<Option<Stretches>>> {
    let rest = REST.max((longest * 1e3) as u64);
    let all = ready_tapes.ready.iter().zip(now).map(|(ready, now)| {
        let Some(ready) = ready else { return Ok(None) };
        let own = ready.stretches(rest);
        Ok(are_apart(ready, &own, linkage, action, now)?.then_some(own))
    });
    all.collect()
}

/// For each stretch, whether two lists of pulls differ in it.
fn differing(stretches: &Stretches, one: &[(u64, u32)], other: &[(u64, u32)]) -> Vec<bool> {
    let mut differ = vec![false; stretches.count()];
    let (mut first, mut second) = (one.iter().peekable(), other.iter().peekable());
    loop {
        let at = match (first.peek(), second.peek()) {
            (Some(own), Some(of)) if own == of => {
                first.next();
                second.next();
                continue;
            }
            (Some(own), Some(of)) if own < of => first.next(),
            (Some(_), None) => first.next(),
            (_, Some(_)) => second.next(),
            (None, None) => return differ,
        };
        if let Some((at, _)) = at {
            differ[stretches.of(*at)] = true;
        }
    }
}

/// Plays some stretches, and takes the pulls of the others from `elsewhere`.
fn played(
    ready: &ReadyTape<'_>,
    linkage: &Linkage,
    action: &str,
    stretches: &Stretches,
    mut plays: Vec<bool>,
    elsewhere: &[(u64, u32)],
) -> Result<Vec<(u64, u32)>> {
    ready.lasting(stretches).for_each(|stretch| plays[stretch] = true);
    let own = ready.pulls_of(linkage, action, Some((stretches, &plays)))?;
    let kept = elsewhere.iter().filter(|(at, _)| !plays[stretches.of(*at)]);
    let mut pulls: Vec<(u64, u32)> =
        own.into_iter().filter(|(at, _)| plays[stretches.of(*at)]).chain(kept.copied()).collect();
    pulls.sort_unstable();
    Ok(pulls)
}

/// Whether stretches are independent: with half of them left out, the others must keep their pulls.
fn are_apart(
    ready: &ReadyTape<'_>,
    stretches: &Stretches,
    linkage: &Linkage,
    action: &str,
    now: &[(u64, u32)],
) -> Result<bool> {
    if stretches.count() < 4 * BLOCK {
        return Ok(false);
    }
    let plays = (0..stretches.count()).map(|stretch| stretch / BLOCK % 2 == 1).collect();
    Ok(played(ready, linkage, action, stretches, plays, now)? == now)
}

#[cfg(test)]
mod tests;
