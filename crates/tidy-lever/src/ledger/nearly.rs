//! Motions that would pull but for one thing: a direction that was skipped, or a first position that was not fresh.
//!
//! The engine drops such an attempt at once. The ledger follows it on, so that it can tell what was missing if the
//! player finishes it.

use alloc::vec::Vec;

use super::{Attempt, End, Ledger};
use crate::cue::rolls::MotionSet;
use crate::direction::Direction;

/// The most that are followed at once; further ones are not told.
const MOST_NEARLY: usize = 32;

/// A motion that is followed although it can't pull.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Nearly {
    pub(crate) set: usize,
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
                nearly.trail.push(at, super::Did::Toward(to));
                return true;
            }
            let places = [step.position, next.and_then(|next| next.position)];
            places.into_iter().flatten().any(|place| place.eighths_to(to).abs() <= 1)
        });
    }

    /// Those of a set that stand at their last step and end with this action, or with none.
    pub(crate) fn nearly_there(&mut self, set: &MotionSet, number: usize, finisher: Option<u16>) -> Vec<Nearly> {
        let is_there = |nearly: &Nearly| {
            let (step, motion) = set.step(nearly.bit);
            nearly.set == number && step.index + 1 == motion.count && motion.finisher() == finisher
        };
        let there = self.nearly.iter().copied().filter(is_there).collect();
        self.nearly.retain(|nearly| !is_there(nearly));
        there
    }

    /// A cue's motion pulled: nothing of it was nearly.
    pub(crate) fn drop_nearly(&mut self, cue: u16) {
        self.nearly.retain(|nearly| nearly.trail.cue != cue);
    }
}
