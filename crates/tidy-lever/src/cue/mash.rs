//! `mash 5 within 1s`: pulls when five presses fall in one sliding second; on until the rate drops.

use super::{Edge, Pace, Presses, RuleContext, Verdict};
use crate::cause::Cause;
use crate::end::End;

pub(super) fn hears((count, within, pace): (u32, u64, Pace), edge: Edge, context: &mut RuleContext<'_>) -> Verdict {
    let at = context.at;
    match edge {
        Edge::Down { press, .. } => {
            let state = &mut *context.state;
            if state.last > 0 {
                state.keep_pace(at + 1 - state.last, pace, count - 1);
            }
            state.last = at + 1;
            let within = state.window(within, pace, count - 1);
            let place = (state.note % count) as usize;
            // The ring's oldest is the press `count` presses ago; it makes room for this one.
            context.moments[place] = at;
            state.note = state.note.wrapping_add(1);
            state.count = (state.count + 1).min(count);
            state.presses.push(press);
            state.open = true;
            let oldest = context.moments[(state.note % count) as usize];
            if state.count == count && at - oldest <= within {
                state.open = false;
                context.expire(oldest + within);
                return if context.on { Verdict::None } else { Verdict::lasting(context.state.presses, oldest) };
            }
            if !context.on {
                context.expire(at + within);
                if context.state.count == count {
                    // The ring is full, so the first of this many presses fell out of the span by this.
                    context.missed(End::Late { by: at - oldest - within });
                }
            }
            Verdict::None
        }
        Edge::Up { cause, .. } if cause != Cause::LetGo => {
            (context.state.count, context.state.open) = (0, false);
            context.no_timer();
            Verdict::Ended(cause)
        }
        _ => Verdict::None,
    }
}

pub(super) fn falls_due(context: &mut RuleContext<'_>) -> Verdict {
    context.state.open = false;
    if context.on {
        return Verdict::Ended(Cause::LetGo);
    }
    (context.state.count, context.state.presses) = (0, Presses::default());
    Verdict::None
}
