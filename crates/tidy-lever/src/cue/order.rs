//! `order left, right, hop within 2s`: these presses in a row. Hears only what it names; a wrong one breaks it, and the
//! last this many always count. On until the last is let go.

use super::{Edge, MOST_NAMES, Presses, Role, RuleContext, Verdict};
use crate::cause::Cause;
use crate::end::{Did, End};

/// A press is remembered as its moment and its name's place.
const NAME_BITS: u32 = MOST_NAMES.ilog2();
const NAME: u64 = (1 << NAME_BITS) - 1;

pub(super) fn hears(within: u64, names: &[u8], edge: Edge, role: Role, context: &mut RuleContext<'_>) -> Verdict {
    let (Role::Named(name), at, count) = (role, context.at, names.len()) else { return Verdict::None };
    let is_last = names.last() == Some(&name);
    match edge {
        // A direction that another key gave back was held all along.
        Edge::Down { back: true, .. } => Verdict::None,
        Edge::Down { press, .. } => {
            // The oldest stands first; the newest comes last.
            context.moments.rotate_left(1);
            context.moments[count - 1] = at << NAME_BITS | u64::from(name);
            let state = &mut *context.state;
            state.count = (state.count + 1).min(count as u32);
            state.presses.push(press);
            let matched = longest(within, names, context, at);
            let broke = context.state.open
                && matched.is_none_or(|length| context.moments[count - length] >> NAME_BITS != context.state.began);
            if broke {
                context.missed(End::Wrong(Did::Neutral));
            }
            let Some(length) = matched else {
                context.state.drop_attempt();
                context.no_timer();
                return Verdict::None;
            };
            let began = context.moments[count - length] >> NAME_BITS;
            let presses = context.state.presses.newest(length);
            if length == count {
                context.state.drop_attempt();
                context.no_timer();
                return Verdict::lasting(presses, began);
            }
            (context.state.open, context.state.began) = (true, began);
            context.expire(began + within);
            Verdict::None
        }
        Edge::Up { cause, .. } if cause != Cause::LetGo => {
            context.state.drop_attempt();
            context.no_timer();
            Verdict::Ended(cause)
        }
        Edge::Up { cause, .. } if is_last && context.on => Verdict::Ended(cause),
        _ => Verdict::None,
    }
}

/// The longest beginning of the order that the last presses are, if it began `within` before this moment.
fn longest(within: u64, names: &[u8], context: &RuleContext<'_>, at: u64) -> Option<usize> {
    let count = names.len();
    (1..=context.state.count as usize).rev().find(|length| {
        let heard = &context.moments[count - length..];
        let alike = heard.iter().zip(names).all(|(heard, name)| heard & NAME == u64::from(*name));
        alike && at - (heard[0] >> NAME_BITS) <= within
    })
}

/// The window of the longest beginning is over; a shorter one may still be under way.
pub(super) fn falls_due(within: u64, names: &[u8], context: &mut RuleContext<'_>) -> Verdict {
    // Those that end with this very moment are over, too.
    match longest(within, names, context, context.at + 1) {
        Some(length) => {
            let began = context.moments[names.len() - length] >> NAME_BITS;
            context.state.began = began;
            context.expire(began + within);
        }
        None => context.state.drop_attempt(),
    }
    Verdict::None
}

impl Presses {
    /// Only the newest this many.
    fn newest(&self, count: usize) -> Presses {
        let mut newest = *self;
        newest.0.iter_mut().skip(count).for_each(|press| *press = 0);
        newest
    }
}
