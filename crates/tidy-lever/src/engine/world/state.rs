//! What the game told, and what goes by the world's clock.

use alloc::vec::Vec;

use crate::engine::part::part;
use crate::engine::values::Listening;
use crate::engine::world::marks::Marks;
use crate::gate::{Truth, TruthPlan};
use crate::gauge::GaugeState;
use crate::linkage::Plan;
use crate::mode::Modes;
use crate::sparse::Sparse;
use crate::timers::Timers;

/// How many of one mark may be under way.
pub(crate) const MARKS: usize = 64;

/// How a truth stands at first.
fn first_truth(plan: &Plan, truth: &TruthPlan) -> Truth {
    Truth { holds: plan.world.facts[usize::from(truth.fact)].first == truth.value, ..Truth::default() }
}

/// Who listens at first: directions and what pointers do, always did, as nobody asks them.
fn first_listening(plan: &Plan) -> Listening {
    let modes = Modes::new(&plan.world.modes);
    Listening(plan.actions.iter().map(|action| modes.hears(&plan.world.modes, &action.heard)).collect())
}

part! {
    /// What the game told, and what goes by the world's clock.
    World(plan, at, _) {
        /// Gauges, then truths, keeps, cooldowns, and marks.
        state timers: Timers, apart = Timers::new(plan.first_mark_timer() + MARKS * plan.world.marks);
        /// Those that are under way are hashed with their timers.
        past marks: Marks, apart = Marks::new(MARKS * plan.world.marks);
        state gauges: Vec<GaugeState>, apart = plan.world.gauges.iter().map(|gauge| GaugeState::new(gauge, at)).collect();
        /// Since when the world stands still, and for how long it did before.
        state frozen_since: Option<u64>, stays = (plan.world.facts[plan.world.frozen].first == 1).then_some(at);
        state frozen_for: u64, stays = 0;
        state truths: Sparse<Truth>, apart = plan.world.truths.iter().map(|truth| first_truth(plan, truth)).collect();
        state facts: Sparse<u16>, apart = plan.world.facts.iter().map(|fact| fact.first).collect();
        /// Whether each action listens.
        state listening: Listening, apart = first_listening(plan);
        state modes: Modes, apart = Modes::new(&plan.world.modes);
    }
}
