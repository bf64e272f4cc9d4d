//! `with guard within 40ms`: a chord. Pulls when both are down, in either order; on until either is let go. Each press
//! serves one chord.

use super::{Edge, Presses, Role, RuleContext, Verdict};
use crate::cause::Cause;
use crate::end::End;

pub(super) fn hears(within: u64, one_by_one: bool, edge: Edge, role: Role, context: &mut RuleContext<'_>) -> Verdict {
    let at = context.at;
    // Which of the two the open attempt waits on: 1 the subject was first, 2 the other was.
    let own = if role == Role::Subject { 1 } else { 2 };
    match edge {
        Edge::Down { .. } if context.on => Verdict::None,
        Edge::Down { press, .. } => {
            let state = &mut *context.state;
            if state.open && state.note != own && at - state.began <= within {
                let mut presses = state.presses;
                presses.push(press);
                let began = state.began;
                state.drop_attempt();
                context.no_timer();
                return Verdict::lasting(presses, began);
            }
            (state.presses, state.began, state.note, state.open) = (Presses::one(press), at, own, true);
            context.expire(at + within);
            Verdict::None
        }
        Edge::Up { cause, .. } => {
            // A one_by_one first one stays with the attempt after it is let go.
            if (context.state.note == own && !one_by_one) || cause != Cause::LetGo {
                if context.state.open && cause == Cause::LetGo {
                    context.missed(End::LetGo);
                }
                context.state.drop_attempt();
                context.no_timer();
            }
            Verdict::Ended(cause)
        }
        Edge::Turn { .. } | Edge::Push { .. } => Verdict::None,
    }
}
