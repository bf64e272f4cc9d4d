//! Pulls that are not made yet: cues that were met, wait or are kept, and what would pull again while held.

use crate::cue::CueMatch;
use crate::engine::part::plain_fields;
use crate::history::Aim;
use crate::index::CueIndex;

/// What an action that pulls again while held stands on: what its cue has met and is still on.
#[derive(Clone, Copy, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Standing {
    pub(crate) cue_match: Option<CueMatch>,
    /// The gate was shut since it pulled last, so that its opening pulls again.
    pub(crate) armed: bool,
    /// Which of its cues.
    pub(crate) cue: Option<CueIndex>,
}

impl Standing {
    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> [u64; 8] {
        let Standing { cue_match, armed, cue } = *self;
        let [a, b, c, d, e, f, g] = cue_match.map_or([0; 7], |cue_match| cue_match.words());
        [
            a,
            b,
            c,
            d,
            e,
            f,
            g,
            cue.map_or(0, |cue| u64::from(cue.number())) << 2 | u64::from(cue_match.is_some()) << 1 | u64::from(armed),
        ]
    }
}

/// Hashed for no cue.
const NO_CUE: u64 = u16::MAX as u64;

/// A cue that was met, and has not pulled yet.
#[derive(Clone, Copy, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct PendingPull {
    pub(crate) action: u16,
    /// Which of its cues was; none, where a gauge reached its end.
    pub(crate) cue: Option<CueIndex>,
    pub(crate) cue_match: CueMatch,
    pub(crate) aim: Aim,
    /// It was met in this very moment.
    pub(crate) fresh: bool,
    /// What it stands on was let go in the moment in which it was met.
    pub(crate) let_go: bool,
    /// Its gate stands open, as far as that was asked; empty between rounds.
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) is_open: bool,
    /// Since when it is kept; `NEVER` if it isn't.
    pub(crate) kept: u64,
}

impl PendingPull {
    /// Whether it is of an action and a cue that there are.
    #[cfg(feature = "serde")]
    pub(crate) fn fits(&self, plan: &crate::linkage::Plan) -> bool {
        usize::from(self.action) < plan.declared && self.cue.is_none_or(|cue| usize::from(cue) < plan.cues.all.len())
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> [u64; 13] {
        let PendingPull { action, cue, ref cue_match, ref aim, fresh, let_go, is_open: _, kept } = *self;
        let [a, b, c, d, e, f, g] = cue_match.words();
        let [x, y, z] = aim.words();
        let flags = u64::from(fresh) | u64::from(let_go) << 1;
        [
            u64::from(action) << 16 | cue.map_or(NO_CUE, |cue| u64::from(cue.number())),
            a,
            b,
            c,
            d,
            e,
            f,
            g,
            x,
            y,
            z,
            flags,
            kept,
        ]
    }
}

plain_fields! {
    Standing, own => own.words();
    PendingPull, own => own.words();
}
