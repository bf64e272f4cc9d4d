//! Actions are pressed and released: levels of controls become edges.

use crate::cause::Cause;
use crate::engine::inputs::held::ButtonState;
use crate::engine::inputs::{Here, Inputs};
use crate::engine::press::maker;
use crate::engine::values::{EdgeKind, InputEdge};
use crate::index::PointerIndex;
use crate::timers::DuePart;

impl Inputs {
    /// A control of an action went down, as the press of this identity.
    #[inline(always)]
    pub(crate) fn press(&mut self, here: Here<'_>, action: usize, press: u64) {
        let button = self.buttons.changing(action, |button| button.press > 0);
        if button.held == 0 {
            button.since = here.at;
        }
        button.press = press;
        button.held = button.held.saturating_add(1);
        let first = button.held == 1;
        self.edges
            .push(InputEdge { action: action as u16, kind: EdgeKind::Down { press, first, back: self.gave_back } });
        if here.plan.buttons[action].works_more {
            self.press_more(here, action);
        }
    }

    /// What else stands on a press: a pointer, or mashing.
    #[inline(never)]
    fn press_more(&mut self, here: Here<'_>, action: usize) {
        let how = &here.plan.buttons[action];
        if let Some(pointer) = how.pointer {
            self.pointer_pressed(pointer);
        }
        if how.mash_period > 0 {
            self.mashing.set(action, here.at + how.mash_period, DuePart::Due);
        }
    }

    /// Holding stands for mashing: the next action whose turn it is, is let go, and pressed again. Whether there was one.
    #[inline(never)]
    pub(crate) fn mashes(&mut self, here: Here<'_>) -> bool {
        let Some(action) = self.mashing.take(here.at, DuePart::Due) else { return false };
        let ButtonState { held, press, .. } = self.buttons[action];
        if held > 0 && here.listens[action] {
            self.let_go(here, action, Cause::LetGo);
            // The hand that holds it mashes.
            let press = self.board.fresh_press(maker(press as u32).trailing_zeros() as u8);
            self.press(here, action, press);
            self.buttons[action].held = held;
        }
        true
    }

    /// A control of an action went up.
    #[inline(always)]
    pub(crate) fn release(&mut self, here: Here<'_>, action: usize, cause: Cause) {
        if self.buttons[action].held == 0 {
            return;
        }
        let button = self.buttons.again(action);
        button.held -= 1;
        if button.held == 0 {
            self.let_go(here, action, cause);
        }
    }

    /// The last control of an action went up, or was taken from it.
    #[inline(always)]
    pub(crate) fn let_go(&mut self, here: Here<'_>, action: usize, cause: Cause) {
        let button = self.buttons.again(action);
        button.held = 0;
        button.last_held = here.at - button.since;
        let ButtonState { press, since, .. } = *button;
        let is_noted = here.plan.buttons[action].works_more;
        if is_noted {
            self.edges.push(InputEdge { action: action as u16, kind: EdgeKind::Lifted { since, cause } });
            self.let_go_more(here, action, cause);
        }
        self.edges.push(InputEdge { action: action as u16, kind: EdgeKind::Up { press, since, cause, is_noted } });
    }

    #[inline(never)]
    fn let_go_more(&mut self, here: Here<'_>, action: usize, cause: Cause) {
        let how = &here.plan.buttons[action];
        if let Some(pointer) = how.pointer {
            self.pointer_let_go(here, pointer, cause);
        }
        if how.mash_period > 0 {
            self.mashing.drop(action);
        }
    }

    /// A pointer is pressed at its place.
    fn pointer_pressed(&mut self, pointer: PointerIndex) {
        let pointer = &mut self.pointers[usize::from(pointer)];
        if pointer.pressed.is_none() {
            (pointer.pressed, pointer.drags) = (pointer.place, false);
        }
    }

    /// A pointer is let go: the end of a drag, or a click.
    fn pointer_let_go(&mut self, here: Here<'_>, number: PointerIndex, cause: Cause) {
        let how = &here.plan.pointers[usize::from(number)];
        let pointer = &mut self.pointers[usize::from(number)];
        let drags = core::mem::take(&mut pointer.drags);
        pointer.pressed = None;
        if drags {
            self.release(here, usize::from(how.drag), cause);
        } else if cause == Cause::LetGo {
            let press = self.board.fresh_press(self.device);
            self.press(here, usize::from(how.click), press);
            self.release(here, usize::from(how.click), cause);
        }
    }
}
