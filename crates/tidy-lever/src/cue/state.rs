//! The state of a rule, what it can reach while it hears something, and what it answers.

use super::presses::{NO_AMOUNT, Presses};
use crate::cause::Cause;
use crate::end::{Did, End};
use crate::index::WordIndex;
use crate::timers::{DuePart, Timers};

/// What a rule makes of an edge or of its timer.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Verdict {
    /// Nothing.
    None,
    /// It is met.
    Matched(CueMatch),
    /// What was on ends, for this reason.
    Ended(Cause),
}

/// A cue that was met.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct CueMatch {
    /// It stays on until the rule ends it.
    pub(crate) lasting: bool,
    /// The presses it stands on.
    pub(crate) presses: Presses,
    /// The moment of its (first) press.
    pub(crate) pressed: u64,
    /// A charge's amount in millionths, or `NO_AMOUNT`.
    pub(crate) amount: i32,
    /// A repeat behind the first pull; never kept.
    pub(crate) repeated: bool,
    /// The value of the fact `facing` that counts; `None` for that of the moment.
    pub(crate) facing: Option<WordIndex>,
}

impl CueMatch {
    /// One that stays on until its rule ends it.
    #[inline]
    pub(crate) fn lasting(presses: Presses, pressed: u64) -> CueMatch {
        CueMatch { lasting: true, presses, pressed, ..CueMatch::default() }
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> [u64; 7] {
        let CueMatch { lasting, presses, pressed, amount, repeated, facing } = *self;
        let [a, b, c, d] = presses.words();
        let flags = u64::from(lasting)
            | u64::from(repeated) << 1
            | facing.map_or(u64::from(u16::MAX), |word| u64::from(word.number())) << 8;
        [a, b, c, d, pressed, u64::from(amount as u32), flags]
    }
}

impl Default for CueMatch {
    fn default() -> CueMatch {
        let presses = Presses::default();
        CueMatch { lasting: false, presses, pressed: 0, amount: NO_AMOUNT, repeated: false, facing: None }
    }
}

impl Verdict {
    pub(super) fn lasting(presses: Presses, pressed: u64) -> Verdict {
        Verdict::Matched(CueMatch::lasting(presses, pressed))
    }

    pub(super) fn instant(presses: Presses, pressed: u64) -> Verdict {
        Verdict::Matched(CueMatch { presses, pressed, ..CueMatch::default() })
    }
}

/// How far a rule has come: all of its state, the same shape for every rule.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[repr(align(64))]
pub(crate) struct RuleState {
    /// The presses of the attempt under way, or of the hold.
    pub(crate) presses: Presses,
    /// Where the attempt began.
    pub(super) began: u64,
    /// The last moment that counted.
    pub(super) last: u64,
    pub(super) count: u32,
    /// A rule's own flags and small numbers.
    pub(super) note: u32,
    /// How far apart the player's presses came lately, in µs, for rules that keep pace with them; 0 for not known yet.
    pub(super) pace: u32,
    /// Whether an attempt is under way that may still complete.
    pub(crate) open: bool,
    /// Whether what this line pulled is on, of an action with several.
    pub(crate) on: bool,
}

impl RuleState {
    /// Whether an attempt ever began.
    #[inline(always)]
    pub(crate) fn went_on(&self) -> bool {
        self.began | self.last != 0
    }

    /// Drops the attempt; what is on stays.
    pub(crate) fn drop_attempt(&mut self) {
        (self.open, self.count, self.presses) = (false, 0, Presses::default());
        // A held direction's and a chord's marks belong to the attempt, too.
        self.note = 0;
    }

    /// The moment whose windows are over for a motion, and 1; others' last moment is their own.
    pub(crate) fn motion_over(&self) -> u64 {
        self.last
    }

    pub(crate) fn set_motion_over(&mut self, over: u64) {
        self.last = over;
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> [u64; 9] {
        let RuleState { presses, began, last, count, note, pace, open, on } = *self;
        let [a, b, c, d] = presses.words();
        let flags = u64::from(pace) << 2 | u64::from(open) << 1 | u64::from(on);
        [a, b, c, d, began, last, u64::from(count), u64::from(note), flags]
    }
}

/// What a rule can reach while it hears something.
pub(crate) struct RuleContext<'b> {
    pub(crate) at: u64,
    pub(crate) state: &'b mut RuleState,
    /// The cues' timers, of which one is its own.
    pub(crate) timers: &'b mut Timers,
    pub(crate) timer: usize,
    /// The last moments of presses, for rules that slide; the newest is overwritten last.
    pub(crate) moments: &'b mut [u64],
    /// Whether the pull is on.
    pub(crate) on: bool,
    /// Why the attempt came to nothing, and whether this edge was a step of one, for the ledger alone.
    pub(crate) missed: Option<End>,
    pub(crate) stepped: Option<Did>,
}

impl RuleContext<'_> {
    pub(super) fn due(&mut self, at: u64) {
        self.timers.set(self.timer, at, DuePart::Due);
    }

    pub(super) fn expire(&mut self, at: u64) {
        self.timers.set(self.timer, at, DuePart::Expire);
    }

    /// Tells the ledger why the attempt under way comes to nothing.
    pub(super) fn missed(&mut self, end: End) {
        self.missed = Some(end);
    }

    pub(super) fn no_timer(&mut self) {
        self.timers.drop(self.timer);
    }
}
