//! `toggle`: pulls at each press. On as it stands: letting go changes nothing, and the game may set it.

use super::{Edge, Presses, RuleContext, Verdict};

pub(super) fn hears(edge: Edge, context: &RuleContext<'_>) -> Verdict {
    match edge {
        Edge::Down { press, .. } => Verdict::lasting(Presses::one(press), context.at),
        _ => Verdict::None,
    }
}
