//! `with guard within 40ms`: a chord. Pulls when both are down, in either order; on until either is let go. Each press
//! serves one chord.

use alloc::vec;
use alloc::vec::Vec;
use core::fmt;
use core::time::Duration;

use winnow::combinator::cut_err;
use winnow::prelude::*;

use super::line::{Input, Read, expected, must, name, span, word};
use super::{Act, Asked, CompiledRule, Edge, Presses, Role, Rule, RuleContext, RuleLine, Scaling, Verdict};
use crate::cause::Cause;
use crate::end::End;
use crate::time::{Plain, micros};

/// The rule made ready: spans in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct With {
    within: u64,
    one_by_one: bool,
}

impl RuleLine for With {
    const WORDS: &'static [&'static str] = &["with"];

    fn read(input: &mut Input<'_>) -> Read<Rule> {
        word("with")(input)?;
        let other = cut_err(name).context(expected("the name of the other action")).parse_next(input)?;
        must("within", "`within`")(input)?;
        Ok(Rule::With { other, within: span(input)? })
    }

    fn write(rule: &Rule, f: &mut fmt::Formatter<'_>) -> Option<fmt::Result> {
        let Rule::With { other, within } = rule else { return None };
        Some(write!(f, "with {other} within {}", Plain(*within)))
    }

    fn spans(rule: &Rule) -> Option<[Option<Duration>; 2]> {
        let Rule::With { within, .. } = rule else { return None };
        Some([Some(*within), None])
    }

    fn with(rule: &Rule) -> Option<&str> {
        let Rule::With { other, .. } = rule else { return None };
        Some(other)
    }

    fn asks(rule: &Rule) -> Option<Vec<Asked<'_>>> {
        let Rule::With { other, .. } = rule else { return None };
        Some(vec![Asked::of(Act::Press), Asked { together: true, ..Asked::by(other, Act::Press) }])
    }
}

impl CompiledRule for With {
    fn of(rule: &Rule) -> Option<With> {
        let Rule::With { within, .. } = *rule else { return None };
        Some(With { within: micros(within), one_by_one: false })
    }

    #[inline(always)]
    fn hears(&self, edge: Edge, role: Role, context: &mut RuleContext<'_>) -> Verdict {
        let With { within, one_by_one } = *self;
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

    fn window(&self) -> Option<u64> {
        Some(self.within)
    }

    fn steps(&self) -> u8 {
        2
    }

    fn is_of_two(&self) -> bool {
        true
    }

    fn is_of_several(&self) -> bool {
        true
    }

    fn scale(&mut self, by: &Scaling<'_>) {
        self.within = by.one_by_one.unwrap_or_else(|| (by.within)(self.within));
        self.one_by_one = by.one_by_one.is_some();
    }
}
