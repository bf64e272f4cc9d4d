//! Modes are switched, and with them who listens.

use crate::engine::values::ListenChange;
use crate::engine::world::World;
use crate::linkage::WorldPlan;

impl World {
    /// Switches a mode; whether that is news.
    pub(crate) fn switch(&mut self, mode: usize, on: bool) -> bool {
        self.modes.set(mode, on)
    }

    /// The next action, from this one on, that begins or ceases to listen as modes stand now; with it whatever listens with it.
    pub(crate) fn listens_anew(&mut self, plan: &WorldPlan, from: usize) -> Option<ListenChange> {
        for (action, how) in plan.actions.iter().enumerate().skip(from) {
            let listens = self.modes.hears(&plan.modes, &how.heard);
            if listens != self.listening[action] {
                self.listens(plan, action, listens);
                return Some(ListenChange { action, listens });
            }
        }
        None
    }

    /// An action listens or not, and with it the directions of a stick, or what a pointer does.
    pub(crate) fn listens(&mut self, plan: &WorldPlan, action: usize, listens: bool) {
        self.listening.set(action, &plan.actions[action].also, listens);
    }
}
