//! Fingers: which patch each moves, and what becomes of it when the panel changes under it.

use crate::cause::Cause;
use crate::control::Family;
use crate::engine::Engine;
use crate::engine::incoming::Waiting;
use crate::engine::inputs::busy::Turn;
use crate::engine::inputs::fingers::{self, Finger, Stage};
use crate::engine::inputs::losses::Lost;
use crate::event::Phase;
use crate::fixed::ONE;
use crate::index::{PatchIndex, SlotIndex, run};
use crate::linkage::{Place, Plan};
use crate::profile::PatchKind;
use crate::shape::Bent;

/// A phase's number in the queue, above the finger's name.
const PHASES: [Phase; 4] = Phase::ALL;

/// A phase as it stands in the queue.
pub(crate) fn phased(phase: Phase) -> u16 {
    (PHASES.iter().position(|known| *known == phase).unwrap_or(0) as u16) << 8
}

/// The controls that a finger moves.
fn moved_by(plan: &Plan, finger: Finger) -> [Option<SlotIndex>; 2] {
    let (Stage::Owned(patch) | Stage::Wild(Some(patch), _)) = finger.stage else { return [None; 2] };
    let patch = &plan.panel[usize::from(patch)];
    [patch.slot, patch.swipe]
}

impl Engine {
    pub(crate) fn hears_patch(&self, plan: &Plan, patch: PatchIndex) -> bool {
        let patch = &plan.panel[usize::from(patch)];
        !self.inputs.fingers.hidden && patch.actions.iter().any(|action| self.actions[usize::from(*action)].listens)
    }

    /// A finger goes down, moves, lifts or is cancelled.
    #[inline(never)]
    pub(crate) fn finger_says(&mut self, plan: &Plan, waiting: Waiting) {
        let Waiting { at, x, y, number, device, .. } = waiting;
        let (name, phase) = (usize::from(number & 0xff), PHASES[usize::from(number >> 8)]);
        if let Turn::Later(to) = self.inputs.fingers.turn(name, phase, waiting.due()) {
            return self.move_on(waiting, to);
        }
        let local = self.inputs.board.local(&plan.inputs, device, Family::Touch);
        self.inputs.hand = local;
        let place = (i64::from(x) * i64::from(self.inputs.view[0]), i64::from(y) * i64::from(self.inputs.view[1]));
        let down = self.inputs.fingers.down(name);
        match (phase, down) {
            (Phase::Down, _) => {
                if let Some(slot) = down {
                    // Its lifting was lost: it is another finger now.
                    self.lose(plan, Lost::Finger(slot), Cause::Cancelled, at);
                }
                self.finger_down(plan, (name, local), (x, y), place, at);
            }
            (_, None) => self.log.tally.unheard += 1,
            (Phase::Move, Some(slot)) => {
                self.inputs.fingers.played[slot].place = place;
                if let Stage::Wild(_, true) = self.inputs.fingers.played[slot].stage {
                    self.point_at(plan, (x, y), at);
                }
                self.finger_moves(plan, slot, at);
            }
            (Phase::Up, Some(slot)) => self.finger_lifts(plan, slot, at),
            (Phase::Cancel, Some(slot)) => self.lose(plan, Lost::Finger(slot), Cause::Cancelled, at),
        }
    }

    fn finger_down(&mut self, plan: &Plan, (name, local): (usize, u8), at_view: (i32, i32), place: Place, at: u64) {
        let Some(slot) = self.inputs.fingers.played.iter().position(|finger| finger.stage == Stage::Free) else {
            self.log.tally.unheard += 1;
            return;
        };
        self.uses_touch();
        let stage = if self.inputs.board.focused { self.hit(plan, place) } else { Stage::Dead };
        self.inputs.fingers.played[slot] =
            Finger { stage, local, name: name as u8, origin: place, place, direction: None };
        if let Stage::Wild(_, true) = stage {
            self.point_down(plan, at_view, at);
        }
        self.finger_moves(plan, slot, at);
    }

    /// What a finger going down here will move.
    fn hit(&self, plan: &Plan, place: (i64, i64)) -> Stage {
        let found = fingers::hit(&plan.panel, place, self.inputs.view, |patch| self.hears_patch(plan, patch));
        let patch = found.map(|patch| (patch, &plan.panel[usize::from(patch)]));
        match patch {
            // A second finger on the same patch is ignored.
            Some((number, _)) if self.inputs.fingers.owner(number).is_some() => Stage::Dead,
            Some((number, patch)) if patch.kind != PatchKind::Zone => Stage::Owned(number),
            other => Stage::Wild(other.map(|(number, _)| number), !self.inputs.fingers.points()),
        }
    }

    /// Tells the controls of what a finger moves where it is now.
    fn finger_moves(&mut self, plan: &Plan, slot: usize, at: u64) {
        let finger = self.inputs.fingers.played[slot];
        let (Stage::Owned(number) | Stage::Wild(Some(number), _)) = finger.stage else { return };
        let patch = &plan.panel[usize::from(number)];
        let (level, direction) = patch.level((finger.origin, finger.place), finger.direction, self.inputs.view);
        self.inputs.fingers.played[slot].direction = direction;
        let own = if patch.kind == PatchKind::Zone { (ONE, 0) } else { level };
        if let Some(control) = patch.slot {
            self.control(plan, control, finger.local, own, Cause::LetGo, at);
        }
        if let Some(control) = patch.swipe {
            self.control(plan, control, finger.local, level, Cause::LetGo, at);
        }
    }

    /// A finger lifts.
    fn finger_lifts(&mut self, plan: &Plan, slot: usize, at: u64) {
        let finger = core::mem::take(&mut self.inputs.fingers.played[slot]);
        for control in moved_by(plan, finger).into_iter().flatten() {
            self.control(plan, control, finger.local, (0, 0), Cause::LetGo, at);
        }
        if let Stage::Wild(_, true) = finger.stage {
            self.point_up(plan, Cause::LetGo, at);
        }
    }

    /// A finger is taken away, with what it holds; whether it moved the pointer. One that stays down moves nothing until it
    /// lifts.
    pub(crate) fn take_finger(&mut self, plan: &Plan, slot: usize, stays_down: bool) -> bool {
        let finger = core::mem::take(&mut self.inputs.fingers.played[slot]);
        if stays_down {
            self.inputs.fingers.played[slot] = Finger { stage: Stage::Dead, ..finger };
        }
        for control in moved_by(plan, finger).into_iter().flatten() {
            let how = &plan.inputs.slots[usize::from(control)];
            let bit = 1 << finger.local;
            for contact in run(&how.contacts) {
                self.inputs.board.take_contact(contact, bit);
            }
            for (number, feed) in (how.feeds.start..).zip(&plan.inputs.feeds[run(&how.feeds)]) {
                self.inputs.board.set_feed((feed, number), finger.local, Bent::default());
            }
        }
        matches!(finger.stage, Stage::Wild(_, true))
    }

    /// The pointers that follow fingers, by number, with their actions.
    fn touch_pointer(plan: &Plan, number: usize) -> Option<usize> {
        plan.inputs.pointers[number].touch.map(usize::from)
    }

    fn point_down(&mut self, plan: &Plan, place: (i32, i32), at: u64) {
        for number in 0..plan.inputs.pointers.len() {
            let Some(action) = Engine::touch_pointer(plan, number) else { continue };
            self.inputs.pointers[number].place = Some(place);
            if self.actions[action].listens {
                let press = self.inputs.board.fresh_press(self.inputs.hand);
                self.press(plan, action, press, at);
            }
        }
    }

    fn point_at(&mut self, plan: &Plan, place: (i32, i32), at: u64) {
        for number in 0..plan.inputs.pointers.len() {
            if Engine::touch_pointer(plan, number).is_some() {
                self.pointer_moves(plan, number, place, at);
            }
        }
    }

    pub(crate) fn point_up(&mut self, plan: &Plan, cause: Cause, at: u64) {
        for number in 0..plan.inputs.pointers.len() {
            if let Some(action) = Engine::touch_pointer(plan, number)
                && self.actions[action].listens
            {
                self.release(plan, action, cause, at);
            }
        }
    }
}
