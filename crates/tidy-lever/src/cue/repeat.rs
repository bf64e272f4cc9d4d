//! `repeat after 400ms every 80ms`: pulls at the press, then on and on; on until let go. A further press begins again.

use alloc::vec;
use alloc::vec::Vec;
use core::fmt;
use core::time::Duration;

use super::line::{Input, Read, must, span, word};
use super::{Act, Asked, CompiledRule, CueMatch, Edge, Presses, Role, Rule, RuleContext, RuleLine, Scaling, Verdict};
use crate::time::{Plain, micros};

/// The rule made ready: spans in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Repeat {
    after: u64,
    every: u64,
}

impl RuleLine for Repeat {
    const WORDS: &'static [&'static str] = &["repeat"];

    fn read(input: &mut Input<'_>) -> Read<Rule> {
        word("repeat")(input)?;
        must("after", "`after`")(input)?;
        let after = span(input)?;
        must("every", "`every`")(input)?;
        Ok(Rule::Repeat { after, every: span(input)? })
    }

    fn write(rule: &Rule, f: &mut fmt::Formatter<'_>) -> Option<fmt::Result> {
        let Rule::Repeat { after, every } = rule else { return None };
        Some(write!(f, "repeat after {} every {}", Plain(*after), Plain(*every)))
    }

    fn spans(rule: &Rule) -> Option<[Option<Duration>; 2]> {
        let Rule::Repeat { after, every } = rule else { return None };
        Some([Some(*after), Some(*every)])
    }

    fn asks(rule: &Rule) -> Option<Vec<Asked<'_>>> {
        let Rule::Repeat { after, .. } = rule else { return None };
        Some(vec![Asked::of(Act::Hold(*after))])
    }
}

impl CompiledRule for Repeat {
    fn of(rule: &Rule) -> Option<Repeat> {
        if let Rule::Repeat { after, every } = *rule {
            Some(Repeat { after: micros(after), every: micros(every) })
        } else {
            None
        }
    }

    fn hears(&self, edge: Edge, _: Role, context: &mut RuleContext<'_>) -> Verdict {
        let after = self.after;
        match edge {
            Edge::Down { press, .. } => {
                let at = context.at;
                (context.state.presses, context.state.began) = (Presses::one(press), at);
                context.due(at + after);
                Verdict::lasting(Presses::one(press), at)
            }
            Edge::Up { cause, .. } => {
                context.no_timer();
                Verdict::Ended(cause)
            }
            Edge::Turn { .. } | Edge::Push { .. } => Verdict::None,
        }
    }

    fn falls_due(&self, context: &mut RuleContext<'_>) -> Verdict {
        let every = self.every;
        let at = context.at;
        context.due(at + every);
        let (presses, pressed) = (context.state.presses, context.state.began);
        Verdict::Matched(CueMatch { lasting: true, presses, pressed, repeated: true, ..CueMatch::default() })
    }

    fn window(&self) -> Option<u64> {
        None
    }

    fn is_eager(&self) -> bool {
        true
    }

    fn scale(&mut self, by: &Scaling<'_>) {
        (self.after, self.every) = ((by.held)(self.after), (by.held)(self.every));
    }
}
