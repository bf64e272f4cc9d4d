//! Motions that would pull but for one thing: a direction that was skipped, or a first position that was not fresh.
//!
//! The engine drops such an attempt at once. The ledger follows it on, so that it can tell what was missing if the
//! player finishes it.

use super::{Attempt, Ledger};
use crate::cue::rolls::MotionSet;
use crate::direction::Direction;
use crate::end::{Did, End};

/// The most that are followed at once; further ones are not told.
pub(super) const MOST_NEARLY: usize = 32;

/// A motion that is followed although it can't pull.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Nearly {
    pub(crate) set: usize,
    /// The step that it was at when it could go on no more, and when that was.
    pub(crate) from: usize,
    pub(crate) at: u64,
    /// The last step that it reached.
    pub(crate) bit: usize,
    /// The steps that came.
    pub(crate) trail: Attempt,
    /// Why it can't pull.
    pub(crate) end: End,
}

impl Ledger {
    /// Follows a motion that can't pull any more.
    pub(crate) fn follow(&mut self, nearly: Nearly) {
        self.nearly.retain(|known| known.trail.cue != nearly.trail.cue);
        if self.nearly.len() < MOST_NEARLY {
            self.nearly.push(nearly);
        }
    }

    /// The stick turned: what is followed goes on, or ends.
    pub(crate) fn nearly_turns(&mut self, set: &MotionSet, number: usize, at: u64, to: Option<Direction>) {
        self.nearly.retain_mut(|nearly| {
            if nearly.set != number {
                return true;
            }
            let (step, motion) = set.step(nearly.bit);
            if at.saturating_sub(nearly.trail.began) > motion.within {
                return false;
            }
            let Some(to) = to else { return true };
            let next = (step.index + 1 < motion.count).then(|| set.step(nearly.bit + 1).0);
            if next.is_some_and(|next| next.position == Some(to)) {
                nearly.bit += 1;
                nearly.trail.push(at, Did::Toward(to));
                return true;
            }
            let places = [step.position, next.and_then(|next| next.position)];
            places.into_iter().flatten().any(|place| place.eighths_to(to).abs() <= 1)
        });
    }

    /// Whether a motion is followed since this moment from this step on.
    pub(crate) fn follows(&self, set: usize, from: usize, at: u64) -> bool {
        self.nearly.iter().any(|nearly| (nearly.set, nearly.from, nearly.at) == (set, from, at))
    }

    /// Takes one of a set that stands at its last step and ends with this action, or with none.
    pub(crate) fn take_nearly(&mut self, set: &MotionSet, number: usize, finisher: Option<u16>) -> Option<Nearly> {
        let is_there = |nearly: &Nearly| {
            let (step, motion) = set.step(nearly.bit);
            nearly.set == number && step.index + 1 == motion.count && motion.finisher() == finisher
        };
        let place = self.nearly.iter().position(is_there)?;
        Some(self.nearly.remove(place))
    }

    /// A cue's motion pulled: nothing of it was nearly.
    pub(crate) fn drop_nearly(&mut self, cue: u16) {
        self.nearly.retain(|nearly| nearly.trail.cue != cue);
    }
}
