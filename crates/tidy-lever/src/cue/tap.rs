//! `tap under 200ms`: pulls at letting go, if it was down for less; an instant.

use alloc::vec;
use alloc::vec::Vec;
use core::fmt;
use core::time::Duration;

use super::compiled::ON_RELEASE;
use super::line::{Input, Read, must, span, word};
use super::{Act, Asked, CompiledRule, Edge, Presses, Pressing, Role, Rule, RuleContext, RuleLine, Scaling, Verdict};
use crate::cause::Cause;
use crate::end::End;
use crate::time::{Plain, micros};

/// The rule made ready: spans in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Tap {
    under: u64,
}

impl RuleLine for Tap {
    const WORDS: &'static [&'static str] = &["tap"];

    fn read(input: &mut Input<'_>) -> Read<Rule> {
        word("tap")(input)?;
        must("under", "`under`")(input)?;
        Ok(Rule::Tap { under: span(input)? })
    }

    fn write(rule: &Rule, f: &mut fmt::Formatter<'_>) -> Option<fmt::Result> {
        let Rule::Tap { under } = rule else { return None };
        Some(write!(f, "tap under {}", Plain(*under)))
    }

    fn spans(rule: &Rule) -> Option<[Option<Duration>; 2]> {
        let Rule::Tap { under } = rule else { return None };
        Some([Some(*under), None])
    }

    fn asks(rule: &Rule) -> Option<Vec<Asked<'_>>> {
        let Rule::Tap { under } = rule else { return None };
        Some(vec![Asked::of(Act::Tap(*under))])
    }
}

impl CompiledRule for Tap {
    fn of(rule: &Rule) -> Option<Tap> {
        if let Rule::Tap { under } = *rule { Some(Tap { under: micros(under) }) } else { None }
    }

    fn hears(&self, edge: Edge, _: Role, context: &mut RuleContext<'_>) -> Verdict {
        let under = self.under;
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

    fn window(&self) -> Option<u64> {
        Some(self.under)
    }

    fn counts(&self, edge: Edge) -> bool {
        matches!(edge, Edge::Down { first: true, .. })
    }

    fn never_held(&self) -> Option<&'static str> {
        Some(ON_RELEASE)
    }

    fn let_go_under(&mut self) -> Option<&mut u64> {
        Some(&mut self.under)
    }

    fn pressing(&self) -> Pressing {
        Pressing::Tap { under: self.under }
    }

    fn scale(&mut self, by: &Scaling<'_>) {
        self.under = (by.within)(self.under);
    }
}
