//! `release`: pulls at letting go, an instant. A going up that the system made up pulls nothing.

use super::{Edge, Verdict};
use crate::history::Cause;

pub(super) fn hears(edge: Edge) -> Verdict {
    match edge {
        Edge::Up(Cause::LetGo) => Verdict::Met { lasting: false },
        _ => Verdict::None,
    }
}
