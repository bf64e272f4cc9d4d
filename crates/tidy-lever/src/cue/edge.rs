//! Edges: what a cue hears of the actions that it listens to.

use crate::cause::Cause;
use crate::direction::Direction;
use crate::fixed;

/// What a subject's signal did.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Edge<'e> {
    /// One of its controls went down: the press, whether it is the first, and whether it is a direction that another key
    /// gave back by going up.
    Down { press: u64, first: bool, back: bool },
    /// The last of its controls was let go, for this reason, after this many µs.
    Up { cause: Cause, held: u64 },
    /// A stick points elsewhere.
    Turn { from: Option<Direction>, to: Option<Direction>, press: u64, cause: Cause },
    /// A stick is pushed so far.
    Push(&'e Push),
}

/// Kinds of edges, a bit each.
pub(crate) type Kinds = u8;

impl Edge<'_> {
    pub(crate) const DOWN: Kinds = 1;
    pub(crate) const UP: Kinds = 1 << 1;
    /// A turn that the hand made, and one that a loss made.
    pub(crate) const TURN: Kinds = 1 << 2;
    pub(crate) const LOST_TURN: Kinds = 1 << 3;
    pub(crate) const PUSH: Kinds = 1 << 4;

    /// Its own bit.
    #[inline(always)]
    pub(crate) fn kind(&self) -> Kinds {
        match self {
            Edge::Down { .. } => Edge::DOWN,
            Edge::Up { .. } => Edge::UP,
            Edge::Turn { cause: Cause::LetGo, .. } => Edge::TURN,
            Edge::Turn { .. } => Edge::LOST_TURN,
            Edge::Push(_) => Edge::PUSH,
        }
    }
}

/// How far a stick is pushed.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Push {
    /// What the game gets, in millionths.
    pub(crate) value: (i32, i32),
    /// What the dead zone leaves, before curve and scale: now, and before.
    pub(crate) now: (i32, i32),
    pub(crate) before: (i32, i32),
    /// Where it points, and the identity of the entering of that direction.
    pub(crate) to: Option<Direction>,
    pub(crate) press: u64,
    /// Keys, a cross or a directional pad push it.
    pub(crate) digital: bool,
    /// Nobody gave it: something else was let go, and gave it back.
    pub(crate) back: bool,
    pub(crate) cause: Cause,
}

impl Push {
    /// How far what the game gets goes; 0 at rest alone.
    pub(crate) fn size(&self) -> i32 {
        let (x, y) = self.value;
        if self.to.is_some() { fixed::length(x, y).max(1) } else { 0 }
    }
}

/// Who an edge is of.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) enum Role {
    /// The cue's subject.
    Subject,
    /// The other action of a chord.
    Other,
    /// One of the names of an order, by its first place there.
    Named(u8),
}
