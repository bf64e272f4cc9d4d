//! `tap under 200ms`: pulls at letting go, if it was down for less; an instant.

use super::{Edge, Presses, RuleContext, Verdict};
use crate::cause::Cause;
use crate::end::End;

pub(super) fn hears(under: u64, edge: Edge, context: &mut RuleContext<'_>) -> Verdict {
    match edge {
        Edge::Down { press, first: true, .. } => {
            let at = context.at;
            (context.state.presses, context.state.open) = (Presses::one(press), true);
            // At `under` itself it is too late, so the attempt ends before that moment's events.
            context.due(at + under);
            Verdict::None
        }
        Edge::Up { cause, held } => {
            let presses = context.state.presses;
            let in_time = context.state.open && held < under && cause == Cause::LetGo;
            context.state.drop_attempt();
            context.no_timer();
            if held >= under && cause == Cause::LetGo {
                context.missed(End::Long { by: held - under + 1 });
            }
            if in_time { Verdict::instant(presses, context.at - held) } else { Verdict::None }
        }
        _ => Verdict::None,
    }
}
