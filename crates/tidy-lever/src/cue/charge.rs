//! `charge 200ms to 1.2s`: pulls at letting go, with an amount that grows from 0 to 1 between the two spans; sooner
//! nothing. An instant.

use super::{CueMatch, Edge, Presses, RuleContext, Verdict};
use crate::cause::Cause;
use crate::end::End;
use crate::fixed::ONE;

pub(super) fn hears(from: u64, to: u64, edge: Edge, context: &mut RuleContext<'_>) -> Verdict {
    match edge {
        Edge::Down { press, first: true, .. } => {
            (context.state.presses, context.state.open) = (Presses::one(press), true);
            Verdict::None
        }
        Edge::Up { cause, held } => {
            let presses = context.state.presses;
            let was_open = context.state.open;
            context.state.drop_attempt();
            if was_open && cause == Cause::LetGo && held < from {
                context.missed(End::Soon { by: from - held });
            }
            if cause != Cause::LetGo || held < from || !was_open {
                return Verdict::None;
            }
            // A day in µs times a million stays below 2^63.
            let amount = (held.min(to) - from) * ONE as u64 / (to - from);
            let pressed = context.at - held;
            Verdict::Matched(CueMatch { presses, pressed, amount: amount as i32, ..CueMatch::default() })
        }
        _ => Verdict::None,
    }
}
