//! Fingers: which patch each moves, and what becomes of it when the panel changes under it.

use crate::cause::Cause;
use crate::engine::inputs::fingers::{self, Finger, Stage};
use crate::engine::inputs::{Here, Inputs};
use crate::fixed::ONE;
use crate::index::{PatchIndex, SlotIndex, run};
use crate::linkage::Place;
use crate::profile::PatchKind;
use crate::shape::Bent;

/// The controls that a finger moves.
fn moved_by(here: Here<'_>, finger: Finger) -> [Option<SlotIndex>; 2] {
    let (Stage::Owned(patch) | Stage::Wild(Some(patch), _)) = finger.stage else { return [None; 2] };
    let patch = &here.plan.panel[usize::from(patch)];
    [patch.slot, patch.swipe]
}

impl Inputs {
    pub(crate) fn hears_patch(&self, here: Here<'_>, patch: PatchIndex) -> bool {
        let patch = &here.plan.panel[usize::from(patch)];
        !self.fingers.hidden && patch.actions.iter().any(|action| here.listens[usize::from(*action)])
    }

    pub(crate) fn finger_down(
        &mut self,
        here: Here<'_>,
        (name, local): (usize, u8),
        at_view: (i32, i32),
        place: Place,
    ) {
        let Some(slot) = self.fingers.played.iter().position(|finger| finger.stage == Stage::Free) else {
            self.tally.unheard += 1;
            return;
        };
        self.uses_touch();
        let stage = if self.board.focused { self.hit(here, place) } else { Stage::Dead };
        self.fingers.played[slot] = Finger { stage, local, name: name as u8, origin: place, place, direction: None };
        if let Stage::Wild(_, true) = stage {
            self.point_down(here, at_view);
        }
        self.finger_moves(here, slot);
    }

    /// What a finger going down here will move.
    fn hit(&self, here: Here<'_>, place: (i64, i64)) -> Stage {
        let found = fingers::hit(&here.plan.panel, place, self.view, |patch| self.hears_patch(here, patch));
        let patch = found.map(|patch| (patch, &here.plan.panel[usize::from(patch)]));
        match patch {
            // A second finger on the same patch is ignored.
            Some((number, _)) if self.fingers.owner(number).is_some() => Stage::Dead,
            Some((number, patch)) if patch.kind != PatchKind::Zone => Stage::Owned(number),
            other => Stage::Wild(other.map(|(number, _)| number), !self.fingers.points()),
        }
    }

    /// Tells the controls of what a finger moves where it is now.
    pub(crate) fn finger_moves(&mut self, here: Here<'_>, slot: usize) {
        let finger = self.fingers.played[slot];
        let (Stage::Owned(number) | Stage::Wild(Some(number), _)) = finger.stage else { return };
        let patch = &here.plan.panel[usize::from(number)];
        let (level, direction) = patch.level((finger.origin, finger.place), finger.direction, self.view);
        self.fingers.played[slot].direction = direction;
        let own = if patch.kind == PatchKind::Zone { (ONE, 0) } else { level };
        if let Some(control) = patch.slot {
            self.control(here, control, finger.local, own, Cause::LetGo);
        }
        if let Some(control) = patch.swipe {
            self.control(here, control, finger.local, level, Cause::LetGo);
        }
    }

    /// A finger lifts.
    pub(crate) fn finger_lifts(&mut self, here: Here<'_>, slot: usize) {
        let finger = core::mem::take(&mut self.fingers.played[slot]);
        for control in moved_by(here, finger).into_iter().flatten() {
            self.control(here, control, finger.local, (0, 0), Cause::LetGo);
        }
        if let Stage::Wild(_, true) = finger.stage {
            self.point_up(here, Cause::LetGo);
        }
    }

    /// A finger is taken away, with what it holds; whether it moved the pointer. One that stays down moves nothing until it
    /// lifts.
    pub(crate) fn take_finger(&mut self, here: Here<'_>, slot: usize, stays_down: bool) -> bool {
        let finger = core::mem::take(&mut self.fingers.played[slot]);
        if stays_down {
            self.fingers.played[slot] = Finger { stage: Stage::Dead, ..finger };
        }
        for control in moved_by(here, finger).into_iter().flatten() {
            let how = &here.plan.slots[usize::from(control)];
            let bit = 1 << finger.local;
            for contact in run(&how.contacts) {
                self.board.take_contact(contact, bit);
            }
            for (number, feed) in (how.feeds.start..).zip(&here.plan.feeds[run(&how.feeds)]) {
                self.board.set_feed((feed, number), finger.local, Bent::default());
            }
        }
        matches!(finger.stage, Stage::Wild(_, true))
    }

    /// The pointers that follow fingers, by number, with their actions.
    fn touch_pointer(here: Here<'_>, number: usize) -> Option<usize> {
        here.plan.pointers[number].touch.map(usize::from)
    }

    fn point_down(&mut self, here: Here<'_>, place: (i32, i32)) {
        for number in 0..here.plan.pointers.len() {
            let Some(action) = Inputs::touch_pointer(here, number) else { continue };
            self.pointers[number].place = Some(place);
            if here.listens[action] {
                let press = self.board.fresh_press(self.device);
                self.press(here, action, press);
            }
        }
    }

    pub(crate) fn point_at(&mut self, here: Here<'_>, place: (i32, i32)) {
        for number in 0..here.plan.pointers.len() {
            if Inputs::touch_pointer(here, number).is_some() {
                self.pointer_moves(here, number, place);
            }
        }
    }

    pub(crate) fn point_up(&mut self, here: Here<'_>, cause: Cause) {
        for number in 0..here.plan.pointers.len() {
            if let Some(action) = Inputs::touch_pointer(here, number)
                && here.listens[action]
            {
                self.release(here, action, cause);
            }
        }
    }
}
