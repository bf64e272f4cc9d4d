//! A motion as one of the rules: it hears nothing itself, its stick's set works for it.

use super::RollsPlan;
use crate::cue::compiled::CompiledRule;
use crate::cue::scaling::Scaling;
use crate::cue::{Edge, Kinds, Role, Rule, RuleContext, Verdict};
use crate::time::micros;

/// The rule made ready: spans in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Rolls {
    pub(crate) within: u64,
    pub(crate) how: RollsPlan,
    /// A press finishes it.
    pub(crate) then: bool,
}

impl CompiledRule for Rolls {
    fn of(rule: &Rule) -> Option<Rolls> {
        let Rule::Rolls { then, within, .. } = rule else { return None };
        Some(Rolls { within: micros(*within), how: RollsPlan::default(), then: then.is_some() })
    }

    fn hears(&self, _: Edge, _: Role, _: &mut RuleContext<'_>) -> Verdict {
        Verdict::None
    }

    fn kinds(&self) -> Kinds {
        0
    }

    /// What presses of a motion were used up stays known.
    fn forgets(&self, _: &dyn Fn(u32) -> bool, _: &mut RuleContext<'_>) -> bool {
        false
    }

    fn window(&self) -> Option<u64> {
        Some(self.within)
    }

    fn counts(&self, _: Edge) -> bool {
        false
    }

    /// Whoever shares its finishing press waits for the last direction; others share a direction.
    fn longest_wait(&self) -> Option<u64> {
        Some(if self.then { self.how.early } else { self.within })
    }

    fn is_of_several(&self) -> bool {
        true
    }

    /// What it forgives is the player's already.
    fn scale(&mut self, by: &Scaling<'_>) {
        self.within = (by.within)(self.within);
    }
}
