//! What the game tells, and what goes by the world's clock, made ready. Its state is the seat's `World`.

use alloc::vec::Vec;

use crate::fact::FactPlan;
use crate::gate::{Step, TruthPlan};
use crate::gauge::GaugePlan;
use crate::index::ActionIndex;
use crate::mode::{HeardPlan, ModePlan};

/// What the game tells, and what goes by the world's clock.
#[derive(Debug, Default, Hash)]
pub(crate) struct WorldPlan {
    pub(crate) facts: Vec<FactPlan>,
    /// The number of the fact `frozen`, and that of `facing`.
    pub(crate) frozen: usize,
    pub(crate) facing: usize,
    /// What gates ask of facts.
    pub(crate) truths: Vec<TruthPlan>,
    pub(crate) modes: Vec<ModePlan>,
    pub(crate) gauges: Vec<GaugePlan>,
    /// The actions by gauge.
    pub(crate) gauge_actions: Vec<u16>,
    /// How many marks are declared.
    pub(crate) marks: usize,
    /// By declared action.
    pub(crate) actions: Vec<WorldActionPlan>,
    /// How many actions there are with directions and what pointers do.
    pub(crate) count: usize,
}

/// What the world knows of an action. All of it stands in the action's own plan, too.
#[derive(Debug, Hash)]
pub(crate) struct WorldActionPlan {
    pub(crate) heard: HeardPlan,
    /// What listens with it: a stick's directions, what a pointer does.
    pub(crate) also: Vec<ActionIndex>,
    pub(crate) gate: Vec<Step>,
    pub(crate) cooldown: u64,
    /// Truths that a pull spends, each with the span that it lingers.
    pub(crate) spends: Vec<(u16, u64)>,
    /// How many stages there are, after which truth, and within which span.
    pub(crate) stages: Option<(u8, u16, u64)>,
    /// How long after a pull each of its marks comes back.
    pub(crate) marks: Vec<u64>,
}
