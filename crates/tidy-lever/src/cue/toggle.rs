//! `toggle`: pulls at each press. On as it stands: letting go changes nothing, and the game may set it.

use super::{Bench, Edge, Presses, Verdict};

pub(super) fn hears(edge: Edge, bench: &Bench<'_>) -> Verdict {
    match edge {
        Edge::Down { press, .. } => Verdict::lasting(Presses::one(press), bench.at),
        _ => Verdict::None,
    }
}
