//! Motions that fail for one reason only: a skipped direction, or a first position that was held too long.
//!
//! The engine drops such an attempt at once. The ledger keeps following it, so that it can name the reason if the player
//! finishes the motion.

use super::{Attempt, Ledger};
use crate::cue::rolls::MotionSet;
use crate::direction::Direction;
use crate::end::{Did, End};
use crate::index::FinisherIndex;

/// How many are followed at once; further ones are not reported.
pub(super) const MOST_NEARLY: usize = 32;

/// A motion that can no longer pull and is followed anyway.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Nearly {
    pub(crate) set: usize,
    /// The step at which it failed, and when.
    pub(crate) from: usize,
    pub(crate) at: u64,
    /// The last step that it has reached since.
    pub(crate) bit: usize,
    /// The steps so far.
    pub(crate) trail: Attempt,
    /// Why it can no longer pull.
    pub(crate) end: End,
}

impl Ledger {
    /// Starts to follow a motion; replaces an older one of the same cue.
    pub(crate) fn follow(&mut self, nearly: Nearly) {
        self.nearly.retain(|known| known.trail.cue != nearly.trail.cue);
        if self.nearly.len() < MOST_NEARLY {
            self.nearly.push(nearly);
        }
    }

    /// The stick turned: advances the followed motions, and drops those that it leaves.
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

    /// Whether a motion that failed at this step and moment is followed.
    pub(crate) fn follows(&self, set: usize, from: usize, at: u64) -> bool {
        self.nearly.iter().any(|nearly| (nearly.set, nearly.from, nearly.at) == (set, from, at))
    }

    /// Takes out a motion that has reached its last step and is finished by this action (or by none).
    pub(crate) fn take_nearly(
        &mut self,
        set: &MotionSet,
        number: usize,
        finisher: Option<FinisherIndex>,
    ) -> Option<Nearly> {
        let is_there = |nearly: &Nearly| {
            // Another set may have fewer steps.
            nearly.set == number && {
                let (step, motion) = set.step(nearly.bit);
                step.index + 1 == motion.count && motion.finisher() == finisher
            }
        };
        let place = self.nearly.iter().position(is_there)?;
        Some(self.nearly.remove(place))
    }

    /// A cue's motion pulled: stops following it.
    pub(crate) fn drop_nearly(&mut self, cue: u16) {
        self.nearly.retain(|nearly| nearly.trail.cue != cue);
    }
}
