//! `release`: pulls at letting go, an instant. A going up that the system made up pulls nothing.

use super::{Edge, Presses, RuleContext, Verdict};
use crate::cause::Cause;

pub(super) fn hears(edge: Edge, context: &mut RuleContext<'_>) -> Verdict {
    match edge {
        Edge::Down { press, first, .. } => {
            if first {
                context.state.presses = Presses::default();
            }
            context.state.presses.push(press);
            context.state.open = true;
            Verdict::None
        }
        Edge::Up { cause, held } => {
            let presses = core::mem::take(&mut context.state.presses);
            let was_open = core::mem::take(&mut context.state.open);
            if cause == Cause::LetGo && was_open { Verdict::instant(presses, context.at - held) } else { Verdict::None }
        }
        Edge::Turn { .. } | Edge::Push { .. } => Verdict::None,
    }
}
