//! `charge 200ms to 1.2s`: pulls at letting go, with an amount that grows from 0 to 1 between the two spans; sooner
//! nothing. An instant.

use alloc::string::String;
use alloc::vec;
use alloc::vec::Vec;
use core::fmt;
use core::time::Duration;

use super::compiled::ON_RELEASE;
use super::line::{Input, Read, fail, must, span, word};
use super::{
    Act, Asked, CompiledRule, CueMatch, Edge, Presses, Pressing, Role, Rule, RuleContext, RuleLine, Scaling, Verdict,
};
use crate::cause::Cause;
use crate::end::End;
use crate::fixed::ONE;
use crate::time::{Plain, micros};

/// The rule made ready: spans in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Charge {
    from: u64,
    to: u64,
}

impl RuleLine for Charge {
    const WORDS: &'static [&'static str] = &["charge"];

    fn read(input: &mut Input<'_>) -> Read<Rule> {
        word("charge")(input)?;
        let from = span(input)?;
        must("to", "`to`")(input)?;
        let before = *input;
        let to = span(input)?;
        if to <= from {
            *input = before;
            return fail("a longer span than the first", input);
        }
        Ok(Rule::Charge { from, to })
    }

    fn write(rule: &Rule, f: &mut fmt::Formatter<'_>) -> Option<fmt::Result> {
        let Rule::Charge { from, to } = rule else { return None };
        Some(write!(f, "charge {} to {}", Plain(*from), Plain(*to)))
    }

    fn spans(rule: &Rule) -> Option<[Option<Duration>; 2]> {
        let Rule::Charge { from, to } = rule else { return None };
        Some([Some(*from), Some(*to)])
    }

    fn unfit(rule: &Rule) -> Option<String> {
        match rule {
            Rule::Charge { from, to } if to <= from => Some("the second span must be longer than the first".into()),
            _ => None,
        }
    }

    fn asks(rule: &Rule) -> Option<Vec<Asked<'_>>> {
        let Rule::Charge { to, .. } = rule else { return None };
        Some(vec![Asked::of(Act::Hold(*to)), Asked::of(Act::Release)])
    }
}

impl CompiledRule for Charge {
    fn of(rule: &Rule) -> Option<Charge> {
        if let Rule::Charge { from, to } = *rule { Some(Charge { from: micros(from), to: micros(to) }) } else { None }
    }

    fn hears(&self, edge: Edge, _: Role, context: &mut RuleContext<'_>) -> Verdict {
        let Charge { from, to } = *self;
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

    fn window(&self) -> Option<u64> {
        Some(self.from)
    }

    fn counts(&self, edge: Edge) -> bool {
        matches!(edge, Edge::Down { first: true, .. })
    }

    fn longest_wait(&self) -> Option<u64> {
        None
    }

    fn held_for(&self) -> Option<u64> {
        Some(self.from)
    }

    fn never_held(&self) -> Option<&'static str> {
        Some(ON_RELEASE)
    }

    fn is_only(&self) -> bool {
        true
    }

    fn pressing(&self) -> Pressing {
        Pressing::Charge { from: self.from }
    }

    fn scale(&mut self, by: &Scaling<'_>) {
        self.from = (by.held)(self.from);
        self.to = (by.held)(self.to).max(self.from + 1);
    }
}
