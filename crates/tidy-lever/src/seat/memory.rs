//! What a seat learnt of sticks, asked for and set.

use super::Seat;
use crate::control::{Control, Family};
use crate::engine::InputDigest;
use crate::event::Device;
use crate::fixed;
use crate::guard::StickMemory;
use crate::linkage::SlotPlan;

impl Seat {
    /// Where the middle of a stick is that the seat learnt (`centre = "learn"`), or that is set for pads of its name: its place as
    /// the device says it, from -1 to 1 on each axis, right and up. `(0.0, 0.0)` until one is learnt; `None` for a control that is
    /// not a stick or isn't bound, and for a pad that hasn't spoken.
    pub fn middle_of(&self, device: Device, stick: Control) -> Option<(f32, f32)> {
        let (slot, local) = self.stick_of(device, stick)?;
        let (x, y) = self.engine.inputs.guards.middle(slot.guard, local)?;
        Some((fixed::to_f32(x), fixed::to_f32(y)))
    }

    /// What the seat learnt of a stick; `None` as with [`middle_of`](Seat::middle_of).
    pub fn memory_of(&self, device: Device, stick: Control) -> Option<StickMemory> {
        let (slot, local) = self.stick_of(device, stick)?;
        self.engine.inputs.guards.memory(slot.guard, local, self.engine.played())
    }

    /// Sets what the seat learnt of a stick, as [`memory_of`](Seat::memory_of) told it: for a seat that begins where another one was.
    /// It counts at once, before everything that waits. Returns whether it was set: the control is a stick that is bound, there is
    /// room for the device, and all places are within -1 to 1. Where the middle is fixed, it stays.
    pub fn remember(&mut self, device: Device, stick: Control, memory: &StickMemory) -> bool {
        let plan = &self.linkage.0.inputs;
        let (Some(Some(slot)), Some((middle, rests))) = (plan.slot_of.get(stick.number()), memory.places()) else {
            return false;
        };
        let (slot, engine) = (&plan.slots[usize::from(*slot)], &mut self.engine);
        if !engine.inputs.board.has_room_for(device, Family::Pad) || !slot.guard.is_stick() {
            return false;
        }
        engine.inputs.board.expect(device, Family::Pad);
        let local = engine.inputs.board.local(plan, device, Family::Pad);
        let guard = engine.inputs.board.guard(plan, local);
        let middle = guard.middle_of(stick).unwrap_or(middle);
        engine.input_digest = InputDigest::fresh();
        engine.inputs.guards.remember((slot.guard, local), (middle, &rests), &memory.swings);
        true
    }

    fn stick_of(&self, device: Device, stick: Control) -> Option<(&SlotPlan, u8)> {
        let inputs = &self.plan().inputs;
        let slot = &inputs.slots[usize::from((*inputs.slot_of.get(stick.number())?)?)];
        Some((slot, self.engine.inputs.board.known(device, slot.family)?))
    }
}
