//! `press`: pulls at each going down; on until let go.

use super::{Edge, Verdict};

pub(super) fn hears(edge: Edge) -> Verdict {
    match edge {
        Edge::Down => Verdict::Met { lasting: true },
        Edge::Up(cause) => Verdict::Ended(cause),
    }
}
