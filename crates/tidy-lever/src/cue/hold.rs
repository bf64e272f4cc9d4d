//! `hold 300ms`: pulls once, when down that long from its first control; on until let go.
//!
//! ```text
//!   ──┐           ┌── let go: ends, or comes to nothing
//!     └───────────┘
//!     |← span →|● pulls, at ≥ span
//! ```

use super::{Edge, Presses, RuleContext, Verdict};
use crate::cause::Cause;
use crate::end::End;

pub(super) fn hears(span: u64, edge: Edge, context: &mut RuleContext<'_>) -> Verdict {
    match edge {
        Edge::Down { press, first: true, .. } => {
            let at = context.at;
            (context.state.presses, context.state.began, context.state.open) = (Presses::one(press), at, true);
            context.due(at + span);
            Verdict::None
        }
        Edge::Up { cause, held } => {
            if context.state.open && cause == Cause::LetGo {
                context.missed(End::Soon { by: span.saturating_sub(held) });
            }
            context.state.drop_attempt();
            context.no_timer();
            Verdict::Ended(cause)
        }
        _ => Verdict::None,
    }
}

pub(super) fn falls_due(context: &mut RuleContext<'_>) -> Verdict {
    context.state.open = false;
    Verdict::lasting(context.state.presses, context.state.began)
}
