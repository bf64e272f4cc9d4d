//! Modes are switched: which actions listen, and what they take over when they begin to.

use crate::cause::Cause;
use crate::end::End;
use crate::engine::Engine;
use crate::engine::inputs::Here;
use crate::engine::moment::here;
use crate::index::{ActionIndex, run};
use crate::linkage::{Plan, PointerPlan};

impl Engine {
    /// Switches a mode, and with it what listens.
    pub(crate) fn switch(&mut self, plan: &Plan, mode: usize, on: bool, at: u64) {
        if !self.world.modes.set(mode, on) {
            return;
        }
        for action in 0..plan.declared {
            let listens = self.world.modes.hears(&plan.world.modes, &plan.actions[action].heard);
            if listens != self.world.listening[action] {
                if listens { self.uncover(plan, action, at) } else { self.cover(plan, action, Cause::Covered, at) }
            }
        }
    }

    /// An action ceases to listen: it reads up and at rest, and what was on ends.
    pub(crate) fn cover(&mut self, plan: &Plan, action: usize, cause: Cause, at: u64) {
        self.listens(plan, action, false);
        self.inputs.covers(here!(self, plan, at), action, cause);
        self.carry_edges(plan, at);
        self.drop_attempts(plan, action, End::Lost(cause), at);
        if !plan.toggles(action) {
            self.end(plan, action, cause, at);
        }
    }

    /// An action begins to listen: levels count at once, edges need a fresh press.
    pub(crate) fn uncover(&mut self, plan: &Plan, action: usize, at: u64) {
        self.listens(plan, action, true);
        self.unsettle(plan, action);
        for cue in run(&plan.actions[action].cues) {
            self.drop_motion(plan, cue);
        }
        self.inputs.uncovers(here!(self, plan, at), action);
        self.carry_edges(plan, at);
    }

    /// An action listens or not, and with it the directions of a stick, or what a pointer does.
    pub(crate) fn listens(&mut self, plan: &Plan, action: usize, listens: bool) {
        let mut also = |buttons: &[Option<ActionIndex>]| {
            for button in buttons.iter().flatten() {
                self.world.listening[usize::from(*button)] = listens;
            }
        };
        if let Some(pointer) = plan.actions[action].pointer {
            let PointerPlan { drag, click, .. } = plan.inputs.pointers[usize::from(pointer)];
            also(&[Some(drag), Some(click)]);
        }
        if let Some(moved) = plan.actions[action].moved {
            also(&plan.inputs.moved[usize::from(moved)].buttons);
        }
        self.world.listening[action] = listens;
    }
}
