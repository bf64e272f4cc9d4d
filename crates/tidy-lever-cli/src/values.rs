//! What an action pulls at the values of one number.
//!
//! ```text
//!   a first value, a last one ──whole tapes──▶ pulls
//!   one between two known ones ──the stretches in which these differ──▶ their pulls; elsewhere as both have them
//! ```
//!
//! That a stretch comes out the same between two values at which it does is true of spans as hands meet them, but no law. So
//! whatever is told about a value is played on the whole tapes first ([`Values::is_so`]); once that differs, all of it is
//! ([`Values::on_whole_tapes`]).

use anyhow::Result;
use tidy_lever::Linkage;
use tidy_lever::profile::{Movable, Number, Unit};

use crate::evidence::Trials;
use crate::progress::go_on;
use crate::trial::{Ready, Stretches};

/// An action's pulls, tape by tape: when, and in which seat.
pub(crate) type Pulls = Vec<Vec<(u64, u32)>>;

/// A rest is at least this long, in µs.
const REST: u64 = 1_000_000;
/// So many stretches are played, and so many left out, to see whether they are apart from each other.
const BLOCK: usize = 8;

/// What is known of one value.
#[derive(Debug)]
struct Known {
    value: f64,
    pulls: Pulls,
    is_whole: bool,
}

/// The values of a number that were tried.
#[derive(Debug)]
pub(crate) struct Values<'a> {
    trials: &'a Trials<'a>,
    profile: &'a Movable,
    /// The profile with the value that was tried last.
    movable: Movable,
    number: &'a Number,
    action: &'a str,
    /// By value.
    known: Vec<Known>,
    /// Tape by tape; none where it is always played as a whole.
    stretches: Vec<Option<Stretches>>,
}

impl<'a> Values<'a> {
    /// For a number of an action; `now` are its pulls as the profile stands.
    pub(crate) fn new(
        trials: &'a Trials<'a>,
        profile: &'a Movable,
        number: &'a Number,
        (action, now): (&'a str, &Pulls),
        stretches: &[Option<Stretches>],
    ) -> Values<'a> {
        // A level is crossed again and again: there is no telling between two.
        let is_span = number.unit == Unit::Milliseconds;
        let stretches = if is_span { stretches.to_vec() } else { vec![None; stretches.len()] };
        let known = vec![Known { value: number.value, pulls: now.clone(), is_whole: true }];
        Values { trials, profile, movable: profile.clone(), number, action, known, stretches }
    }

    fn linkage(&mut self, value: f64) -> Option<Linkage> {
        let moved = self.movable.set(&self.number.path, &self.number.written_as(value)).ok();
        let linkage = moved.and_then(|()| Linkage::build(self.movable.profile()).ok());
        // A profile may refuse a value, such as a hold that is shorter than a tap; then not even its numbers can be read.
        if linkage.is_none() {
            self.movable = self.profile.clone();
        }
        linkage
    }

    /// What pulls at a value; `None` if the profile can't have it.
    pub(crate) fn pulls(&mut self, value: f64) -> Result<Option<&Pulls>> {
        let place = self.known.partition_point(|known| known.value < value);
        if self.known.get(place).is_none_or(|known| known.value != value) {
            go_on()?;
            let Some(linkage) = self.linkage(value) else { return Ok(None) };
            let between = place.checked_sub(1).and_then(|below| Some((self.known.get(below)?, self.known.get(place)?)));
            let (pulls, is_whole) = match between {
                Some((below, above)) => self.between(&linkage, &below.pulls, &above.pulls)?,
                None => (self.trials.pulls(&linkage, self.action)?, true),
            };
            self.known.insert(place, Known { value, pulls, is_whole });
        }
        Ok(self.known.get(place).map(|known| &known.pulls))
    }

    /// Plays the stretches in which two values differ; whether that was all of each tape.
    fn between(&self, linkage: &Linkage, below: &Pulls, above: &Pulls) -> Result<(Pulls, bool)> {
        let (mut all, mut is_whole) = (Vec::new(), true);
        for (number, (below, above)) in below.iter().zip(above).enumerate() {
            let (Some(stretches), Some(ready)) = (&self.stretches[number], &self.trials.ready[number]) else {
                all.push(self.trials.pulls_on(number, linkage, self.action)?);
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

    /// Whether whole tapes say the same of a value that was tried.
    pub(crate) fn is_so(&mut self, value: f64) -> Result<bool> {
        let Some(place) = self.known.iter().position(|known| known.value == value && !known.is_whole) else {
            return Ok(true);
        };
        let Some(linkage) = self.linkage(value) else { return Ok(true) };
        let pulls = self.trials.pulls(&linkage, self.action)?;
        let known = &mut self.known[place];
        known.is_whole = true;
        let is_so = known.pulls == pulls;
        known.pulls = pulls;
        Ok(is_so)
    }

    /// From now on every value is played on the whole tapes.
    pub(crate) fn on_whole_tapes(&mut self) {
        self.known.retain(|known| known.is_whole);
        self.stretches.fill(None);
    }
}

/// Stretches of each tape that are apart from each other for an action: none where it must be played as a whole. No span that is
/// tried is longer than `longest`, in ms.
pub(crate) fn stretches(
    trials: &Trials<'_>,
    linkage: &Linkage,
    (action, now): (&str, &Pulls),
    longest: f64,
) -> Result<Vec<Option<Stretches>>> {
    let rest = REST.max((longest * 1e3) as u64);
    let all = trials.ready.iter().zip(now).map(|(ready, now)| {
        let Some(ready) = ready else { return Ok(None) };
        let own = ready.stretches(rest);
        Ok(are_apart(ready, &own, linkage, action, now)?.then_some(own))
    });
    all.collect()
}

/// In which stretches pulls differ.
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

/// Plays some stretches; elsewhere pulls are as they were.
fn played(
    ready: &Ready<'_>,
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

/// Whether what comes in a stretch is the same without those before it: with half of them left out, those that are left tell.
fn are_apart(
    ready: &Ready<'_>,
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
