//! Fingers: which patch each moves, and what becomes of it when the panel changes under it.

use super::block::Block;
use super::{Seat, Untaken};
use crate::control::Family;
use crate::event::{Device, Phase};
use crate::fixed::ONE;
use crate::history::Cause;
use crate::linkage::{NONE, Plan, run};
use crate::panel::{self, Finger, PatchKind, PatchReading, Stage, heard_slot};
use crate::seat::waiting::{Sort, Waiting};

/// A phase's number in the queue, above the finger's place.
const PHASES: [Phase; 4] = Phase::ALL;

impl Seat {
    /// Takes what a finger does.
    pub(super) fn finger(
        &mut self,
        device: Device,
        number: u64,
        phase: Phase,
        (x, y): (i64, i64),
        at: u64,
    ) -> Result<(), Untaken> {
        let plan = &*self.linkage.0;
        if plan.panel.is_empty() && plan.pointers.iter().all(|pointer| pointer.touch == NONE) {
            self.stats.unheard += 1;
            return Ok(());
        }
        if self.block.queue.room() == 0 {
            return Err(Untaken::Full);
        }
        let local = self.block.board.local(plan, device, Family::Touch).map_err(|_| Untaken::TooManyDevices)?;
        let fingers = &mut self.block.fingers;
        let Some(slot) = fingers.slot(local, number, phase == Phase::Down) else {
            self.stats.unheard += 1;
            return Ok(());
        };
        let fed = &mut fingers.fed[slot];
        if phase == Phase::Down && fed.down {
            self.stats.repeats += 1;
            return Ok(());
        }
        // A finger that goes down and lifts in one moment moves on by 1 µs, as any control.
        let wanted = at.max(self.block.next);
        let at_last = if phase == Phase::Move { wanted.max(fed.at) } else { wanted.max(fed.at + 1) };
        let at_last = if fed.at == 0 { wanted } else { at_last };
        *fed = panel::Fed { down: matches!(phase, Phase::Down | Phase::Move), local, number, at: at_last };
        self.stats.late += u64::from(wanted > at);
        self.stats.moved_on += u64::from(at_last > wanted);
        let cut = |n: i64| n.clamp(-i64::from(ONE), 2 * i64::from(ONE)) as i32;
        let order = PHASES.iter().position(|known| *known == phase).unwrap_or(0) as u16;
        let number = order << 8 | slot as u16;
        self.block.queue.push(Waiting { at: at_last, x: cut(x), y: cut(y), number, local, what: Sort::Touch });
        Ok(())
    }

    /// Shows the panel, or hides it: what fingers hold on it then goes up as cancelled. From just after the played moment.
    ///
    /// # Errors
    /// [`TellError::Full`](super::TellError::Full) if the queue is full.
    pub fn show_panel(&mut self, shown: bool) -> Result<(), super::TellError> {
        self.show_panel_at(shown, crate::Moment::from_micros(self.block.next))
    }

    /// The same for a later moment.
    ///
    /// # Errors
    /// As [`Seat::show_panel`].
    pub fn show_panel_at(&mut self, shown: bool, at: crate::Moment) -> Result<(), super::TellError> {
        self.put(Sort::Panel, 0, i32::from(shown), at.as_micros())
    }

    /// How each patch of the panel stands, in the order of [`Linkage::patches`](crate::Linkage::patches).
    pub fn panel(&self) -> impl Iterator<Item = PatchReading> {
        let (plan, block) = (self.plan(), &self.block);
        plan.panel.iter().enumerate().map(move |(number, patch)| {
            let finger = block.fingers.owner(number as u16).map(|slot| &block.fingers.played[slot]);
            PatchReading::new(patch, finger, block.view, block.hears_patch(plan, number as u16))
        })
    }
}

impl Block {
    pub(crate) fn hears_patch(&self, plan: &Plan, patch: u16) -> bool {
        let patch = &plan.panel[usize::from(patch)];
        !self.fingers.hidden && patch.actions.iter().any(|action| self.actions[usize::from(*action)].listens)
    }

    /// A finger goes down, moves, lifts or is cancelled.
    pub(super) fn finger_does(&mut self, plan: &Plan, number: u16, local: u8, (x, y): (i32, i32), at: u64) {
        let (slot, phase) = (usize::from(number & 0xff), PHASES[usize::from(number >> 8)]);
        let place = (i64::from(x) * i64::from(self.view[0]), i64::from(y) * i64::from(self.view[1]));
        match phase {
            Phase::Down => {
                self.uses_touch();
                let stage = if self.board.focused { self.hit(plan, place) } else { Stage::Dead };
                self.fingers.played[slot] = Finger { stage, local, origin: place, place, direction: None };
                if let Stage::Wild(_, true) = stage {
                    self.point_down(plan, (x, y), at);
                }
                self.finger_moves(plan, slot, at);
            }
            Phase::Move => {
                self.fingers.played[slot].place = place;
                if let Stage::Wild(_, true) = self.fingers.played[slot].stage {
                    self.point_at(plan, (x, y), at);
                }
                self.finger_moves(plan, slot, at);
            }
            Phase::Up => self.finger_up(plan, slot, Cause::LetGo, at),
            Phase::Cancel => self.finger_up(plan, slot, Cause::Cancelled, at),
        }
    }

    /// What a finger going down here will move.
    fn hit(&self, plan: &Plan, place: (i64, i64)) -> Stage {
        let found = panel::hit(&plan.panel, place, self.view, |patch| self.hears_patch(plan, patch));
        let patch = found.map(|patch| (patch, &plan.panel[usize::from(patch)]));
        match patch {
            // A second finger on the same patch is ignored.
            Some((number, _)) if self.fingers.owner(number).is_some() => Stage::Dead,
            Some((number, patch)) if patch.kind != PatchKind::Zone => Stage::Owned(number),
            other => Stage::Wild(other.map_or(NONE, |(number, _)| number), !self.fingers.points()),
        }
    }

    /// Tells the controls of what a finger moves where it is now.
    fn finger_moves(&mut self, plan: &Plan, slot: usize, at: u64) {
        let finger = self.fingers.played[slot];
        let (Stage::Owned(number) | Stage::Wild(number, _)) = finger.stage else { return };
        let Some(patch) = plan.panel.get(usize::from(number)) else { return };
        let (level, direction) = patch.level(&finger, self.view);
        self.fingers.played[slot].direction = direction;
        let own = if patch.kind == PatchKind::Zone { (ONE, 0) } else { level };
        if let Some(control) = heard_slot(patch.slot) {
            self.control(plan, control, finger.local, own, Cause::LetGo, at);
        }
        if let Some(control) = heard_slot(patch.swipe) {
            self.control(plan, control, finger.local, level, Cause::LetGo, at);
        }
    }

    /// A finger lifts, or is taken away.
    fn finger_up(&mut self, plan: &Plan, slot: usize, cause: Cause, at: u64) {
        let finger = core::mem::take(&mut self.fingers.played[slot]);
        let (Stage::Owned(number) | Stage::Wild(number, _)) = finger.stage else { return };
        if let Some(patch) = plan.panel.get(usize::from(number)) {
            for control in [patch.slot, patch.swipe].into_iter().filter_map(heard_slot) {
                if cause != Cause::LetGo {
                    for contact in run(&plan.slots[usize::from(control)].contacts) {
                        self.forget_press(plan, self.board.contacts[contact].order as u32, cause, at);
                    }
                }
                self.control(plan, control, finger.local, (0, 0), cause, at);
            }
        }
        if let Stage::Wild(_, true) = finger.stage {
            self.point_up(plan, cause, at);
        }
    }

    /// The panel changes under the fingers: what they hold goes up as cancelled, and they move nothing until they lift.
    pub(super) fn cancel_fingers(&mut self, plan: &Plan, bits: u64, cause: Cause, at: u64) {
        for slot in 0..panel::FINGERS {
            let finger = self.fingers.played[slot];
            if finger.stage != Stage::Free && bits & (1 << finger.local) != 0 {
                self.finger_up(plan, slot, cause, at);
                self.fingers.played[slot] = Finger { stage: Stage::Dead, ..finger };
            }
        }
    }

    /// The pointers that follow fingers, by number, with their actions.
    fn touch_pointer(plan: &Plan, number: usize) -> Option<usize> {
        plan.pointers.get(number).map(|pointer| pointer.touch).filter(|action| *action != NONE).map(usize::from)
    }

    fn point_down(&mut self, plan: &Plan, place: (i32, i32), at: u64) {
        for number in 0..plan.pointers.len() {
            let Some(action) = Block::touch_pointer(plan, number) else { continue };
            self.pointers[number].place = Some(place);
            if self.actions[action].listens {
                let press = self.board.fresh();
                self.press(plan, action, press, at);
            }
        }
    }

    fn point_at(&mut self, plan: &Plan, place: (i32, i32), at: u64) {
        for number in 0..plan.pointers.len() {
            if Block::touch_pointer(plan, number).is_some() {
                self.pointer_moves(plan, number, place, at);
            }
        }
    }

    fn point_up(&mut self, plan: &Plan, cause: Cause, at: u64) {
        for number in 0..plan.pointers.len() {
            if let Some(action) = Block::touch_pointer(plan, number)
                && self.actions[action].listens
            {
                self.release(plan, action, cause, at);
            }
        }
    }
}
