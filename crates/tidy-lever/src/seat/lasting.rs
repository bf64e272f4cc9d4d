//! What lasts in a seat, for a tape that begins in the middle: modes, toggles, what stays down, what was learnt of sticks.

use super::Seat;
use crate::control::{Control, Sort};
use crate::engine::press::maker;
use crate::event::Device;
use crate::guard::StickMemory;
use crate::index::run;
use crate::linkage::SlotPlan;

impl Seat {
    /// Whether anything is being learnt of a stick: what is under way is not in its memory.
    pub(crate) fn is_learning(&self) -> bool {
        self.engine.inputs.guards.is_learning(self.engine.played())
    }

    /// Whether a toggle is on.
    pub(crate) fn is_toggled(&self, action: usize) -> bool {
        self.engine.pulls.actions[action].on
    }

    /// The buttons that one press put down and that stay so until the next (a player's `toggled`), by the device and a control of it.
    pub(crate) fn latched(&self) -> impl Iterator<Item = (Device, Control)> + '_ {
        let (plan, engine) = (self.plan(), &self.engine);
        let is_down = |action: &usize| plan.actions[*action].latched && engine.inputs.buttons[*action].held > 0;
        (0..plan.declared).filter(is_down).filter_map(move |action| {
            let local = maker(engine.inputs.buttons[action].press as u32).trailing_zeros() as u8;
            let family = engine.inputs.board.family(local);
            let turns = |contact: usize| {
                let wires = &plan.inputs.wires[run(&plan.inputs.contacts[contact].wires)];
                wires.iter().any(|wire| wire.leg.is_none() && usize::from(wire.action) == action)
            };
            let is_its =
                |slot: &&SlotPlan| slot.family == family && slot.sort == Sort::Button && run(&slot.contacts).any(turns);
            Some((engine.inputs.board.device(local), plan.inputs.slots.iter().find(is_its)?.control))
        })
    }

    /// A number that grows with each turning on of a mode; 0 while it is off.
    pub(crate) fn mode_turn(&self, mode: usize) -> u64 {
        self.engine.world.modes.since(mode)
    }

    /// What the seat learnt of all sticks of which it learnt anything.
    pub(crate) fn memories(&self) -> impl Iterator<Item = (Device, Control, StickMemory)> + '_ {
        let (inputs, board) = (&self.plan().inputs, &self.engine.inputs.board);
        (0..board.count()).flat_map(move |local| {
            let own = inputs.slots.iter().filter(move |slot| slot.family == board.family(local));
            own.filter_map(move |slot| {
                let memory = self.engine.inputs.guards.memory(slot.guard, local, self.engine.played())?;
                (!memory.is_empty()).then(|| (board.device(local), slot.control, memory))
            })
        })
    }
}
