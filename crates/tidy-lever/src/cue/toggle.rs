//! `toggle`: pulls at each press. On as it stands: letting go changes nothing, and the game may set it.

use core::fmt;
use core::time::Duration;

use winnow::prelude::*;

use super::line::{Input, Read, word};
use super::{CompiledRule, Edge, Kinds, Presses, Role, Rule, RuleContext, RuleLine, Scaling, Verdict};

/// The rule made ready: spans in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Toggle;

impl RuleLine for Toggle {
    const WORDS: &'static [&'static str] = &["toggle"];

    fn read(input: &mut Input<'_>) -> Read<Rule> {
        word("toggle").value(Rule::Toggle).parse_next(input)
    }

    fn write(rule: &Rule, f: &mut fmt::Formatter<'_>) -> Option<fmt::Result> {
        matches!(rule, Rule::Toggle).then(|| f.write_str("toggle"))
    }

    fn spans(rule: &Rule) -> Option<[Option<Duration>; 2]> {
        matches!(rule, Rule::Toggle).then_some([None; 2])
    }
}

impl CompiledRule for Toggle {
    fn of(rule: &Rule) -> Option<Toggle> {
        matches!(rule, Rule::Toggle).then_some(Toggle)
    }

    fn hears(&self, edge: Edge, _: Role, context: &mut RuleContext<'_>) -> Verdict {
        match edge {
            Edge::Down { press, .. } => Verdict::lasting(Presses::one(press), context.at),
            _ => Verdict::None,
        }
    }

    fn kinds(&self) -> Kinds {
        Edge::DOWN
    }

    fn window(&self) -> Option<u64> {
        None
    }

    fn is_eager(&self) -> bool {
        true
    }

    fn never_held(&self) -> Option<&'static str> {
        Some("a toggle stays on without being held")
    }

    fn is_only(&self) -> bool {
        true
    }

    fn scale(&mut self, _: &Scaling<'_>) {}
}
