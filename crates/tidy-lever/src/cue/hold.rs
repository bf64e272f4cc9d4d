//! `hold 300ms`: pulls once, when down that long from its first control; on until let go.
//!
//! ```text
//!   ──┐           ┌── let go: ends, or comes to nothing
//!     └───────────┘
//!     |← span →|● pulls, at ≥ span
//! ```

use super::{Bench, Edge, Presses, Verdict};
use crate::history::Cause;
use crate::ledger::End;

pub(super) fn hears(span: u64, edge: Edge, bench: &mut Bench<'_>) -> Verdict {
    match edge {
        Edge::Down { press, first: true, .. } => {
            let at = bench.at;
            (bench.trial.presses, bench.trial.began, bench.trial.open) = (Presses::one(press), at, true);
            bench.due(at + span);
            Verdict::None
        }
        Edge::Up { cause, held } => {
            if bench.trial.open && cause == Cause::LetGo {
                bench.missed(End::Soon { by: span.saturating_sub(held) });
            }
            bench.trial.drop_attempt();
            bench.no_timer();
            Verdict::Ended(cause)
        }
        _ => Verdict::None,
    }
}

pub(super) fn falls_due(bench: &mut Bench<'_>) -> Verdict {
    bench.trial.open = false;
    Verdict::lasting(bench.trial.presses, bench.trial.began)
}
