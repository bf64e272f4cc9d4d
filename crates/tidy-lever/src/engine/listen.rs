//! Modes are switched: which actions listen, and what they take over when they begin to.

use crate::cause::Cause;
use crate::end::End;
use crate::engine::Engine;
use crate::engine::inputs::signal::Moved;
use crate::index::{ActionIndex, StickIndex, run};
use crate::linkage::Plan;
use crate::linkage::PointerPlan;

impl Engine {
    /// Switches a mode, and with it what listens.
    pub(crate) fn switch(&mut self, plan: &Plan, mode: usize, on: bool, at: u64) {
        if !self.world.modes.set(mode, on) {
            return;
        }
        for action in 0..plan.declared {
            let listens = self.world.modes.hears(&plan.world.modes, &plan.actions[action].heard);
            if listens != self.actions[action].listens {
                if listens { self.uncover(plan, action, at) } else { self.cover(plan, action, Cause::Covered, at) }
            }
        }
    }

    /// An action ceases to listen: it reads up and at rest, and what was on ends.
    pub(crate) fn cover(&mut self, plan: &Plan, action: usize, cause: Cause, at: u64) {
        self.actions[action].listens = false;
        if let Some(moved) = plan.actions[action].moved {
            self.moved(plan, moved, cause, at);
            self.listens_too(&plan.inputs.moved[usize::from(moved)].buttons, false);
        } else if self.actions[action].held > 0 {
            self.let_go(plan, action, cause, at);
        }
        self.drop_attempts(plan, action, End::Lost(cause), at);
        if !plan.toggles(action) {
            self.end(plan, action, cause, at);
        }
        self.pointers_too(plan, action, false);
    }

    /// An action begins to listen: levels count at once, edges need a fresh press.
    pub(crate) fn uncover(&mut self, plan: &Plan, action: usize, at: u64) {
        self.actions[action].listens = true;
        self.unsettle(plan, action);
        for cue in run(&plan.actions[action].cues) {
            self.drop_motion(plan, cue);
        }
        self.pointers_too(plan, action, true);
        if let Some(moved) = plan.actions[action].moved {
            self.listens_too(&plan.inputs.moved[usize::from(moved)].buttons, true);
            self.resume(plan, moved, at);
        }
        for number in &plan.actions[action].wires {
            self.inputs.stale[*number as usize] = self.inputs.board.contacts[self.contact_of(plan, *number)].down;
        }
    }

    pub(crate) fn pointers_too(&mut self, plan: &Plan, action: usize, listens: bool) {
        if let Some(pointer) = plan.actions[action].pointer {
            let PointerPlan { drag, click, .. } = plan.inputs.pointers[usize::from(pointer)];
            self.listens_too(&[Some(drag), Some(click)], listens);
        }
    }

    /// The directions of a stick, or what a pointer does, listen with it.
    pub(crate) fn listens_too(&mut self, buttons: &[Option<ActionIndex>], listens: bool) {
        for button in buttons.iter().flatten() {
            self.actions[usize::from(*button)].listens = listens;
        }
    }

    /// A stick or an axis takes on what its controls say, without any edge.
    pub(crate) fn resume(&mut self, plan: &Plan, moved: StickIndex, at: u64) {
        let number = usize::from(moved);
        self.inputs.board.shape_aside(&plan.inputs, number);
        if plan.inputs.moved[number].sweep.is_some() {
            return self.moved(plan, moved, Cause::LetGo, at);
        }
        let value = self.inputs.value(plan, (number, &plan.inputs.moved[number]));
        self.inputs.moved[number].take(&plan.inputs.moved[number], value, at);
        self.inputs.unsettle(Some(moved));
        // Nothing entered where it stands.
        self.inputs.moved[number].press = 0;
        let Moved { push, direction, .. } = self.inputs.moved[number];
        for set in plan.inputs.moved[number].motions.iter().map(|set| usize::from(*set)) {
            let to = plan.cues.motions[set].sees(push, direction);
            self.cues.motions[set].stands_at(to, at);
        }
    }

    pub(crate) fn contact_of(&self, plan: &Plan, wire: u32) -> usize {
        // Contacts stand in the order of their wires.
        plan.inputs.contacts.partition_point(|contact| contact.wires.end <= wire)
    }
}
