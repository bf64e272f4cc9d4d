//! `press`: pulls at each going down; on until let go.

use super::{CompiledRule, Edge, Presses, Role, Rule, RuleContext, Scaling, Verdict};

/// The rule made ready: spans in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Press;

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
