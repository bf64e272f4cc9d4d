//! `hold 300ms`: pulls once, when down that long from its first control; on until let go.
//!
//! ```text
//!   ──┐           ┌── let go: ends, or comes to nothing
//!     └───────────┘
//!     |← span →|● pulls, at ≥ span
//! ```

use alloc::vec;
use alloc::vec::Vec;
use core::fmt;
use core::time::Duration;

use super::line::{Input, Read, span, word};
use super::{Act, Asked, CompiledRule, Edge, Presses, Pressing, Role, Rule, RuleContext, RuleLine, Scaling, Verdict};
use crate::cause::Cause;
use crate::end::End;
use crate::time::{Plain, micros};

/// The rule made ready: spans in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Hold {
    span: u64,
}

impl RuleLine for Hold {
    const WORDS: &'static [&'static str] = &["hold"];

    fn read(input: &mut Input<'_>) -> Read<Rule> {
        word("hold")(input)?;
        Ok(Rule::Hold { span: span(input)? })
    }

    fn write(rule: &Rule, f: &mut fmt::Formatter<'_>) -> Option<fmt::Result> {
        let Rule::Hold { span } = rule else { return None };
        Some(write!(f, "hold {}", Plain(*span)))
    }

    fn spans(rule: &Rule) -> Option<[Option<Duration>; 2]> {
        let Rule::Hold { span } = rule else { return None };
        Some([Some(*span), None])
    }

    fn asks(rule: &Rule) -> Option<Vec<Asked<'_>>> {
        let Rule::Hold { span } = rule else { return None };
        Some(vec![Asked::of(Act::Hold(*span))])
    }
}

impl CompiledRule for Hold {
    fn of(rule: &Rule) -> Option<Hold> {
        if let Rule::Hold { span } = *rule { Some(Hold { span: micros(span) }) } else { None }
    }

    fn hears(&self, edge: Edge, _: Role, context: &mut RuleContext<'_>) -> Verdict {
        let span = self.span;
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

    fn falls_due(&self, context: &mut RuleContext<'_>) -> Verdict {
        context.state.open = false;
        Verdict::lasting(context.state.presses, context.state.began)
    }

    fn window(&self) -> Option<u64> {
        Some(self.span)
    }

    fn counts(&self, edge: Edge) -> bool {
        matches!(edge, Edge::Down { first: true, .. })
    }

    fn own_delay(&self) -> u64 {
        self.span
    }

    fn held_for(&self) -> Option<u64> {
        Some(self.span)
    }

    fn pressing(&self) -> Pressing {
        Pressing::Hold { span: self.span }
    }

    fn scale(&mut self, by: &Scaling<'_>) {
        self.span = (by.held)(self.span);
    }
}
