//! `toggle`: pulls at each press. On as it stands: letting go changes nothing, and the game may set it.

use super::{Edge, Meeting, Presses, Verdict};

pub(super) fn hears(edge: Edge) -> Verdict {
    match edge {
        Edge::Down { press, .. } => {
            Verdict::Met(Meeting { lasting: true, presses: Presses::one(press), ..Meeting::default() })
        }
        _ => Verdict::None,
    }
}
