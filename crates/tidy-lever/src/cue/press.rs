//! `press`: pulls at each going down; on until let go.

use core::fmt;
use core::time::Duration;

use winnow::prelude::*;

use super::line::{Input, Read, word};
use super::{CompiledRule, Edge, Presses, Role, Rule, RuleContext, RuleLine, Scaling, Verdict};

/// The rule made ready: spans in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Press;

impl RuleLine for Press {
    const WORDS: &'static [&'static str] = &["press"];

    fn read(input: &mut Input<'_>) -> Read<Rule> {
        word("press").value(Rule::Press).parse_next(input)
    }

    fn write(rule: &Rule, f: &mut fmt::Formatter<'_>) -> Option<fmt::Result> {
        matches!(rule, Rule::Press).then(|| f.write_str("press"))
    }

    fn spans(rule: &Rule) -> Option<[Option<Duration>; 2]> {
        matches!(rule, Rule::Press).then_some([None; 2])
    }
}

impl CompiledRule for Press {
    fn of(rule: &Rule) -> Option<Press> {
        matches!(rule, Rule::Press).then_some(Press)
    }

    fn hears(&self, edge: Edge, _: Role, context: &mut RuleContext<'_>) -> Verdict {
        let at = context.at;
        match edge {
            Edge::Down { press, .. } => Verdict::lasting(Presses::one(press), at),
            Edge::Up { cause, .. } => Verdict::Ended(cause),
            Edge::Turn { .. } | Edge::Push { .. } => Verdict::None,
        }
    }

    fn window(&self) -> Option<u64> {
        None
    }

    fn is_eager(&self) -> bool {
        true
    }

    fn scale(&mut self, _: &Scaling<'_>) {}
}
