//! The small values that components hand each other. They belong to none of them.

use alloc::vec::Vec;
use core::ops::Index;

use crate::cause::Cause;
use crate::cue::{Presses, Push};
use crate::direction::Direction;
use crate::engine::part::Field;
use crate::history::{Happening, What};
use crate::index::{ActionIndex, StickIndex};
use crate::sparse::copy_list;

/// Whether each action listens: no mode covers it. Lent to whoever asks.
#[derive(Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Listening(pub(crate) Vec<bool>);

impl Listening {
    /// An action listens or not, and with it the directions of a stick, or what a pointer does.
    pub(crate) fn set(&mut self, action: usize, also: &[ActionIndex], listens: bool) {
        self.0[action] = listens;
        also.iter().for_each(|also| self.0[usize::from(*also)] = listens);
    }
}

impl Index<usize> for Listening {
    type Output = bool;

    #[inline(always)]
    fn index(&self, action: usize) -> &bool {
        &self.0[action]
    }
}

impl Field for Listening {
    fn copy(&mut self, other: &Listening) {
        copy_list(&mut self.0, &other.0);
    }

    fn words(&self, _: u64, word: &mut impl FnMut(u64)) {
        for bits in self.0.chunks(64) {
            word(bits.iter().enumerate().fold(0, |all, (place, listens)| all | u64::from(*listens) << place));
        }
    }

    #[cfg(feature = "serde")]
    fn fits(&self, made: &Listening) -> bool {
        self.0.len() == made.0.len()
    }
}

/// `inputs` → `log`, `world`, `cues`: what an action's signal did.
#[derive(Clone, Copy, Debug)]
pub(crate) struct InputEdge {
    pub(crate) action: u16,
    pub(crate) kind: EdgeKind,
}

impl InputEdge {
    /// Whether somebody may hear it who hears no press of its action.
    #[inline(always)]
    pub(crate) fn is_more_than_a_press(&self) -> bool {
        !matches!(self.kind, EdgeKind::Down { .. } | EdgeKind::Lifted { .. } | EdgeKind::Up { .. })
    }
}

/// What a signal did.
#[derive(Clone, Copy, Debug)]
pub(crate) enum EdgeKind {
    /// A control went down, or a stick left rest: the first that is down, or one more; or another control only gave the stick back.
    Down { press: u64, first: bool, back: bool },
    /// The last control went up, and what that leads to here comes first: this is only noted.
    Lifted { since: u64, cause: Cause },
    /// The last control went up; noted already or not.
    Up { press: u64, since: u64, cause: Cause, is_noted: bool },
    /// A stick or an axis points elsewhere. Entering a direction is a press of its own; 0 if nothing entered it.
    Turn { from: Option<Direction>, to: Option<Direction>, press: u64, cause: Cause },
    /// A stick or an axis was pushed, or might have been.
    Push(StickPush),
    /// A stick or an axis stands here from now on, and nothing entered that.
    Stands { stick: StickIndex, push: (i32, i32), direction: Option<Direction> },
    /// A device, or what it did, is lost: presses that it made count no more.
    Gone { lost: Gone, cause: Cause },
}

/// Whose presses count no more.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Gone {
    /// All of these devices, a bit each.
    Devices(u64),
    /// This one.
    Press(u32),
}

/// How a stick or an axis stands after it moved.
#[derive(Clone, Copy, Debug)]
pub(crate) struct StickPush {
    pub(crate) stick: StickIndex,
    /// The device that moved it.
    pub(crate) device: u8,
    /// Its direction is another one.
    pub(crate) turned: bool,
    /// Its controls say something else than before.
    pub(crate) is_news: bool,
    /// What its cues hear of that.
    pub(crate) push: Push,
}

/// `world` → `inputs`, `pulls`: an action begins or ceases to listen.
#[derive(Clone, Copy, Debug)]
pub(crate) struct ListenChange {
    pub(crate) action: usize,
    pub(crate) listens: bool,
}

/// `world` → `log`, `pulls`: what came of time.
#[derive(Clone, Copy, Debug)]
pub(crate) enum WorldNews {
    /// The gauge of an action reached the end at which it pulls, by this press or by time alone.
    Reached { action: u16, presses: Presses },
    /// A mark of an action came back.
    Mark { action: u16, mark: u8 },
}

/// `pulls` → `world`, `log`: what pulls and ends cause, in the order in which it counts.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Outcome {
    /// Something happened to an action.
    Happened { action: u16, what: What, since: u64 },
    /// An action pulled; its stage is the world's to say.
    Pulled(Happening),
    /// It is on, and counts as on for gates from this moment on.
    On { action: u16, from: u64 },
    /// It is on no more.
    Off(u16),
    /// A pull spends what let it through, cools down, and goes on to the next stage.
    Spend(u16),
    /// An action's last pull, of this number, is taken back.
    GiveBack { action: u16, pull: u32 },
    /// The marks of a pull are to come back.
    SetMarks { action: u16, pull: u32 },
    /// No mark of an action comes back.
    DropMarks(u16),
}
