//! `press`: pulls at each going down; on until let go.

use super::{Edge, Presses, Verdict};

pub(super) fn hears(edge: Edge, at: u64) -> Verdict {
    match edge {
        Edge::Down { press, .. } => Verdict::lasting(Presses::one(press), at),
        Edge::Up { cause, .. } => Verdict::Ended(cause),
        Edge::Turn { .. } | Edge::Push { .. } => Verdict::None,
    }
}
