//! What was done to a seat: a digest of all that it was fed and told, and of when it was advanced.
//!
//! A seat's state follows from what was done to it. So a state that was played again from the same beginning in the same way
//! need not be copied: in a rollback that goes for all players but the one whose input came late.

use crate::engine::incoming::QueuedInput;
use crate::serial::serial;

/// All that was done to a seat since it was made, and which seat it was. States to which the same was done are the same but for ticks in
/// which nothing was due.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct InputDigest {
    digest: u64,
    /// Whether anybody knows.
    known: bool,
}

/// Odd factors with about as many ones as zeros, all over: each word is turned, mixed in and multiplied, so that no two plain
/// differences take each other back.
const APART: u64 = 0xd6e8_feb8_6659_fd93;
const ON: u64 = 0x9e37_79b9_7f4a_7c15;
/// What is fed or told is not an advance.
const FED: u64 = 1 << 7;

impl InputDigest {
    /// Those of a seat that is like no other.
    pub(crate) fn fresh() -> InputDigest {
        // Without a number of its own nobody knows, and all is copied.
        let number = serial();
        InputDigest { digest: number.wrapping_mul(APART), known: number > 0 }
    }

    #[inline(always)]
    fn mix(&mut self, word: u64) {
        self.digest = (self.digest.rotate_left(29) ^ word).wrapping_mul(ON);
    }

    /// Something goes into the queue.
    #[inline(always)]
    pub(crate) fn fed(&mut self, waiting: &QueuedInput) {
        let [at, values, rest] = waiting.parts();
        self.mix(at.wrapping_mul(APART).wrapping_add(rest | FED));
        self.mix(values);
    }

    /// What goes into the queue next is of this finger.
    pub(crate) fn named(&mut self, finger: u64) {
        self.mix(finger.wrapping_mul(APART));
    }

    /// It plays up to a moment, or passes over what lies before it.
    #[inline(always)]
    pub(crate) fn advanced(&mut self, to: u64, plays: bool) {
        self.mix(to.wrapping_mul(APART).wrapping_add(u64::from(plays)));
    }

    /// Whether two states are known to be the same but for ticks in which nothing was due.
    pub(crate) fn are(self, others: InputDigest) -> bool {
        self.known && others.known && self.digest == others.digest
    }
}
