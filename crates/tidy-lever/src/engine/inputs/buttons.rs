//! Actions and pointers are pressed and released.

use crate::cause::Cause;
use crate::cue::{CueMatch, Edge, Presses};
use crate::engine::inputs::board::maker;
use crate::engine::{ActionState, Engine};
use crate::guard::GuardPlan;
use crate::history::{Happening, What};
use crate::index::{PointerIndex, run};
use crate::linkage::Plan;
use crate::linkage::Wire;
use crate::time::Moment;
use crate::timers::DuePart;

impl Engine {
    /// A control of an action went down, as the press of this identity.
    #[inline(always)]
    pub(crate) fn press(&mut self, plan: &Plan, action: usize, press: u64, at: u64) {
        if plan.hot[action].is_heard {
            self.press_is_heard(plan, action, press, at);
        } else {
            self.goes_down(action, press, at);
        }
    }

    /// The same, where nearly every press comes by.
    #[inline(always)]
    pub(crate) fn press_here(&mut self, plan: &Plan, action: usize, press: u64, at: u64) {
        if plan.hot[action].is_heard {
            self.press_is_heard_here(plan, action, press, at);
        } else {
            self.goes_down(action, press, at);
        }
    }

    /// Notes a press.
    #[inline(always)]
    fn goes_down(&mut self, action: usize, press: u64, at: u64) {
        let state = self.touch(action);
        if state.held == 0 {
            state.since = at;
        }
        state.press = press;
        state.held = state.held.saturating_add(1);
        state.sums.pressed = state.sums.pressed.wrapping_add(1);
        self.happened(action, What::Pressed, at, at);
    }

    #[inline(never)]
    fn press_is_heard(&mut self, plan: &Plan, action: usize, press: u64, at: u64) {
        self.press_is_heard_here(plan, action, press, at);
    }

    /// Notes a press, and what stands on it.
    #[inline(always)]
    fn press_is_heard_here(&mut self, plan: &Plan, action: usize, press: u64, at: u64) {
        self.goes_down(action, press, at);
        let hot = &plan.hot[action];
        let first = self.actions[action].held == 1;
        if hot.works_more {
            self.press_more(plan, action, press, at);
        }
        if hot.press_cue.is_some() && self.log.ledger.is_none() {
            // Nearly every button.
            if !self.pulls.muted {
                let cue_match = CueMatch::lasting(Presses::one(press), at);
                self.action_matched_here(plan, (action, hot.press_cue), cue_match, at);
            }
        } else {
            self.edge(plan, action, Edge::Down { press, first, back: self.inputs.gave_back }, at);
        }
        if !hot.finishes.is_empty() {
            self.press_finishes(plan, action, press, at);
        }
    }

    /// What else stands on a press than cues and motions.
    #[inline(never)]
    pub(crate) fn press_more(&mut self, plan: &Plan, action: usize, press: u64, at: u64) {
        let how = &plan.actions[action];
        if let Some(pointer) = how.pointer {
            self.pointer_pressed(pointer);
        }
        if let Some(gauge) = how.gauge {
            self.gauge_pressed(plan, gauge, press, at);
        }
        if how.mash_period > 0 {
            self.cues.timers.set(plan.first_mash_timer() + action, at + how.mash_period, DuePart::Due);
        }
    }

    /// Holding stands for mashing: let go, and pressed again, by a timer.
    pub(crate) fn mash_again(&mut self, plan: &Plan, action: usize, at: u64) {
        let ActionState { held, press, .. } = self.actions[action];
        if held > 0 && self.actions[action].listens {
            self.let_go(plan, action, Cause::LetGo, at);
            // The hand that holds it mashes.
            let press = self.inputs.board.fresh_press(maker(press as u32).trailing_zeros() as u8);
            self.press(plan, action, press, at);
            self.actions[action].held = held;
        }
    }

    #[inline]
    pub(crate) fn release(&mut self, plan: &Plan, action: usize, cause: Cause, at: u64) {
        if self.loses_last(action) {
            self.let_go(plan, action, cause, at);
        }
    }

    /// The same, where nearly every release comes by.
    #[inline(always)]
    pub(crate) fn release_here(&mut self, plan: &Plan, action: usize, cause: Cause, at: u64) {
        if !self.loses_last(action) {
            return;
        }
        if plan.hot[action].is_heard {
            self.release_is_heard_here(plan, action, cause, at);
        } else {
            self.goes_up(action, cause, at);
        }
    }

    /// A control of an action goes up; whether it was the last that was down.
    #[inline(always)]
    fn loses_last(&mut self, action: usize) -> bool {
        if self.actions[action].held == 0 {
            return false;
        }
        let state = self.actions.again(action);
        state.held -= 1;
        state.held == 0
    }

    /// The last control of an action went up, or was taken from it.
    #[inline(always)]
    pub(crate) fn let_go(&mut self, plan: &Plan, action: usize, cause: Cause, at: u64) {
        if plan.hot[action].is_heard {
            self.release_is_heard(plan, action, cause, at);
        } else {
            self.goes_up(action, cause, at);
        }
    }

    /// Notes that an action was let go.
    #[inline(always)]
    fn goes_up(&mut self, action: usize, cause: Cause, at: u64) {
        let tick = self.log.tick;
        let state = self.actions.again(action);
        state.begins(tick);
        state.held = 0;
        state.last_held = at - state.since;
        state.sums.released = state.sums.released.wrapping_add(1);
        let since = state.since;
        self.happened(action, What::Released(cause), at, since);
    }

    #[inline(never)]
    fn release_is_heard(&mut self, plan: &Plan, action: usize, cause: Cause, at: u64) {
        self.release_is_heard_here(plan, action, cause, at);
    }

    /// Notes that an action was let go, and what stands on that.
    #[inline(always)]
    fn release_is_heard_here(&mut self, plan: &Plan, action: usize, cause: Cause, at: u64) {
        self.goes_up(action, cause, at);
        let hot = &plan.hot[action];
        let held = self.actions[action].last_held;
        if hot.works_more {
            self.let_go_more(plan, action, cause, at);
        }
        if let Some(cue) = hot.press_cue
            && self.log.ledger.is_none()
            && self.actions[action].listens
        {
            self.ended_here(plan, (action, cue.into()), cause, at);
        } else {
            self.edge(plan, action, Edge::Up { cause, held }, at);
        }
        if !hot.finishes.is_empty() {
            self.release_finishes(plan, action, cause, at);
        }
    }

    #[inline(never)]
    pub(crate) fn let_go_more(&mut self, plan: &Plan, action: usize, cause: Cause, at: u64) {
        let how = &plan.actions[action];
        if let Some(pointer) = how.pointer {
            self.pointer_let_go(plan, pointer, cause, at);
        }
        if let Some(gauge) = how.gauge {
            self.gauge_let_go(plan, gauge, at);
        }
        if how.mash_period > 0 {
            self.cues.timers.drop(plan.first_mash_timer() + action);
        }
    }

    /// The state of an action that is about to change its sums in this tick.
    #[inline]
    pub(crate) fn touch(&mut self, action: usize) -> &mut ActionState {
        let tick = self.log.tick;
        let state = self.actions.changing(action, |state| state.sums.pressed > 0);
        state.begins(tick);
        state
    }

    #[inline]
    pub(crate) fn happened(&mut self, action: usize, what: What, at: u64, since: u64) {
        let (at, since) = (Moment::played(at), Moment::played(since));
        self.log.ring.push(Happening::new(at, since, action as u16, what));
    }

    /// A pointer is at another place: held, it may drag.
    pub(crate) fn pointer_moves(&mut self, plan: &Plan, number: usize, place: (i32, i32), at: u64) {
        let (pointer, how) = (&mut self.inputs.pointers[number], &plan.inputs.pointers[number]);
        pointer.place = Some(place);
        if pointer.pressed.is_some() && !pointer.drags && pointer.is_beyond(how.drag_from, self.inputs.view) {
            if self.is_up_unheard(plan, number) {
                // Its button is up, and only its guard has not let that through: it went too far after the letting go.
                return;
            }
            self.inputs.pointers[number].drags = true;
            let press = self.inputs.board.fresh_press(self.inputs.hand);
            self.press(plan, usize::from(how.drag), press, at);
        }
    }

    /// Whether all buttons that hold a pointer say that they are up, which is not heard yet.
    fn is_up_unheard(&self, plan: &Plan, number: usize) -> bool {
        let board = &self.inputs.board;
        let holds = |contact: &usize| {
            let wires = &plan.inputs.wires[run(&plan.inputs.contacts[*contact].wires)];
            let is_its = |wire: &Wire| plan.actions[usize::from(wire.action)].pointer.map(usize::from) == Some(number);
            wires.iter().any(is_its)
        };
        let (mut is_held, mut all_up) = (false, true);
        for slot in plan.inputs.slots.iter().filter(|slot| slot.guard != GuardPlan::Nothing) {
            for contact in run(&slot.contacts).filter(holds) {
                let how = &plan.inputs.contacts[contact];
                let down = board.contacts[contact].down;
                for local in (0..board.count()).filter(|local| down >> local & 1 == 1) {
                    let (x, y) = board.said(slot, local);
                    (is_held, all_up) = (true, all_up && how.part.level(x, y) <= how.up_at);
                }
            }
        }
        is_held && all_up
    }

    /// A pointer is pressed at its place.
    pub(crate) fn pointer_pressed(&mut self, pointer: PointerIndex) {
        let pointer = &mut self.inputs.pointers[usize::from(pointer)];
        if pointer.pressed.is_none() {
            (pointer.pressed, pointer.drags) = (pointer.place, false);
        }
    }

    /// A pointer is let go: the end of a drag, or a click.
    pub(crate) fn pointer_let_go(&mut self, plan: &Plan, number: PointerIndex, cause: Cause, at: u64) {
        let how = &plan.inputs.pointers[usize::from(number)];
        let pointer = &mut self.inputs.pointers[usize::from(number)];
        let drags = core::mem::take(&mut pointer.drags);
        pointer.pressed = None;
        if drags {
            self.release(plan, usize::from(how.drag), cause, at);
        } else if cause == Cause::LetGo {
            let press = self.inputs.board.fresh_press(self.inputs.hand);
            self.press(plan, usize::from(how.click), press, at);
            self.release(plan, usize::from(how.click), cause, at);
        }
    }
}
