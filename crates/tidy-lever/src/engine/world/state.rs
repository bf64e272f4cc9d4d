//! What the game told, and what goes by the world's clock.

use alloc::vec;
use alloc::vec::Vec;

use crate::engine::part::part;
use crate::engine::queue::Queue;
use crate::engine::values::{Listening, WorldNews};
use crate::engine::world::marks::Marks;
use crate::engine::world::spending::Spending;
use crate::gate::{Truth, TruthPlan};
use crate::gauge::GaugeState;
use crate::linkage::WorldPlan;
use crate::mode::Modes;
use crate::sparse::Sparse;
use crate::time::NEVER;
use crate::timers::Timers;

/// How many of one mark may be under way.
pub(crate) const MARKS: usize = 64;

/// How a truth stands at first.
fn first_truth(plan: &WorldPlan, truth: &TruthPlan) -> Truth {
    Truth { holds: plan.facts[usize::from(truth.fact)].first == truth.value, ..Truth::default() }
}

/// Who listens at first.
fn first_listening(plan: &WorldPlan) -> Listening {
    let modes = Modes::new(&plan.modes);
    let mut listening = Listening(vec![true; plan.count]);
    for (action, how) in plan.actions.iter().enumerate() {
        listening.set(action, &how.also, modes.hears(&plan.modes, &how.heard));
    }
    listening
}

part! {
    /// What the game told, and what goes by the world's clock.
    World(plan: WorldPlan, at, _) {
        /// Gauges, then truths, cooldowns, and marks.
        state timers: Timers, apart = Timers::new(plan.first_mark_timer() + MARKS * plan.marks);
        /// Those that are under way are hashed with their timers.
        past marks: Marks, apart = Marks::new(MARKS * plan.marks);
        state gauges: Vec<GaugeState>, apart = plan.gauges.iter().map(|gauge| GaugeState::new(gauge, at)).collect();
        /// Since when the world stands still, and for how long it did before.
        state frozen_since: Option<u64>, stays = (plan.facts[plan.frozen].first == 1).then_some(at);
        state frozen_for: u64, stays = 0;
        state truths: Sparse<Truth>, apart = plan.truths.iter().map(|truth| first_truth(plan, truth)).collect();
        state facts: Sparse<u16>, apart = plan.facts.iter().map(|fact| fact.first).collect();
        /// Whether each action listens.
        state listening: Listening, apart = first_listening(plan);
        /// What goes by an action's last pull.
        state actions: Sparse<Spending>, apart = vec![Spending::default(); plan.actions.len()].into();
        /// By action: from when on gates read it as on; `NEVER` while it is off.
        past on_from: Sparse<u64>, apart = vec![NEVER; plan.actions.len()].into();
        /// Something happened that may open a gate, and gates were not looked at since.
        past may_open: bool, again = false;
        /// What came of time, on its way to who hears it.
        #[cfg_attr(feature = "serde", serde(skip))]
        scratch news: Queue<WorldNews>, again = Queue::with_room(4);
        state modes: Modes, apart = Modes::new(&plan.modes);
    }
}
