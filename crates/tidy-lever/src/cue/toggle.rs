//! `toggle`: pulls at each press. On as it stands: letting go changes nothing, and the game may set it.

use super::{CompiledRule, Edge, Kinds, Presses, Role, Rule, RuleContext, Scaling, Verdict};

/// The rule made ready: spans in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Toggle;

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

    fn scale(&mut self, _: &Scaling<'_>) {}
}
