//! `press`: pulls at each going down; on until let go.

use super::{Bench, Edge, Presses, Verdict};

pub(super) fn hears(edge: Edge, bench: &mut Bench<'_>) -> Verdict {
    match edge {
        Edge::Down { press, .. } => Verdict::lasting(Presses::one(press), bench.at),
        Edge::Up { cause, .. } => Verdict::Ended(cause),
        Edge::Turn { .. } | Edge::Push { .. } => Verdict::None,
    }
}
