//! What the game tells, and what goes by the world's clock, made ready. Its state is the seat's `World`.

use alloc::vec::Vec;

use crate::fact::FactPlan;
use crate::gate::TruthPlan;
use crate::gauge::GaugePlan;
use crate::mode::ModePlan;

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
}
