//! Losses: a cable, the focus, a finger. What is lost goes up, and nothing is pressed by it.
//!
//! ```text
//!   take away all that is lost ──▶ buttons go up ──▶ attempts on lost presses are dropped ──▶ signals are worked out, once
//! ```

use crate::cause::Cause;
use crate::control::Family;
use crate::end::End;
use crate::engine::Engine;
use crate::engine::inputs::board::maker;
use crate::engine::inputs::fingers::{FINGERS, Stage};
use crate::index::{StickIndex, run};
use crate::linkage::Plan;

/// What is lost.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Lost {
    /// Everything of these devices: they were unplugged.
    Devices(u64),
    /// Everything, as the window lost its focus. Pads are followed on, unseen.
    Focus,
    /// All fingers that are down: the panel changed under them. They move nothing until they lift.
    Fingers,
    /// One finger, by its place.
    Finger(usize),
}

impl Engine {
    /// Takes something away from the hand.
    pub(crate) fn lose(&mut self, plan: &Plan, lost: Lost, cause: Cause, at: u64) {
        // What is taken away, and what is followed on unseen.
        let (bits, unseen) = match lost {
            Lost::Devices(bits) => (bits, 0),
            Lost::Focus => {
                let pads = self.inputs.board.bits(|_, family| family == Family::Pad);
                (!pads, pads)
            }
            Lost::Fingers | Lost::Finger(_) => (0, 0),
        };
        let mut points = false;
        for place in 0..FINGERS {
            let is_lost = match lost {
                Lost::Finger(only) => place == only,
                Lost::Fingers => true,
                Lost::Devices(_) | Lost::Focus => bits & (1 << self.inputs.fingers.played[place].local) != 0,
            };
            if is_lost && self.inputs.fingers.played[place].stage != Stage::Free {
                let stays_down = matches!(lost, Lost::Focus | Lost::Fingers);
                points |= self.take_finger(plan, place, stays_down);
            }
        }
        self.inputs.board.take_away(&plan.inputs, bits);
        self.inputs.board.focused &= lost != Lost::Focus;
        self.lost_buttons_go_up(plan, unseen, cause, at);
        if points {
            self.point_up(plan, cause, at);
        }
        if bits | unseen != 0 {
            self.lost_latches_go_up(plan, bits | unseen, cause, at);
            self.forget_devices(plan, bits | unseen, cause, at);
        }
        for moved in (0..plan.inputs.moved.len() as u16).map(StickIndex::new) {
            self.crossed(plan, moved);
            self.moved(plan, moved, cause, at);
        }
    }

    /// The buttons on contacts that are lost go up, for a reason that is not the hand's; and those of devices that are
    /// followed on unseen, which stay stale.
    fn lost_buttons_go_up(&mut self, plan: &Plan, unseen: u64, cause: Cause, at: u64) {
        for number in 0..plan.inputs.contacts.len() {
            let lost = core::mem::take(&mut self.inputs.board.lost[number]);
            let contact = &self.inputs.board.contacts[number];
            let (hidden, press) = (contact.down & unseen, contact.press);
            if lost | hidden == 0 {
                continue;
            }
            for wire in run(&plan.inputs.contacts[number].wires) {
                if plan.inputs.wires[wire].leg.is_some() {
                    continue;
                }
                let action = usize::from(plan.inputs.wires[wire].action);
                let fresh = (lost | hidden) & !self.inputs.stale[wire];
                self.inputs.stale[wire] &= !lost;
                if self.actions[action].listens {
                    self.inputs.stale[wire] |= hidden;
                }
                if plan.actions[action].latched {
                    // One press puts it down: it goes up with the device that made that press.
                    let is_its = self.actions[action].press == press && maker(press as u32) & lost != 0;
                    if is_its && self.actions[action].held > 0 {
                        self.let_go(plan, action, cause, at);
                    }
                    continue;
                }
                for _ in 0..fresh.count_ones() {
                    self.release(plan, action, cause, at);
                }
            }
            // With a device all of its presses go; with a finger the one that it made.
            if maker(press as u32) & lost != 0 {
                for action in 0..plan.declared {
                    self.forget(plan, action, |other| other == press as u32, End::Lost(cause), at);
                }
            }
        }
    }

    /// What devices put down by one press goes up with them, held or not.
    fn lost_latches_go_up(&mut self, plan: &Plan, bits: u64, cause: Cause, at: u64) {
        for action in 0..plan.declared {
            let state = &self.actions[action];
            if plan.actions[action].latched && state.held > 0 && maker(state.press as u32) & bits != 0 {
                self.let_go(plan, action, cause, at);
            }
        }
    }

    /// The window lost or regained the focus.
    #[inline(never)]
    pub(crate) fn focus(&mut self, plan: &Plan, focused: bool, at: u64) {
        // Whatever they say next is news.
        let bits = self.inputs.board.bits(|_, family| family != Family::Pad);
        self.inputs.board.forget(&plan.inputs, bits);
        self.guards_forget(plan, bits);
        if focused == self.inputs.board.focused {
            return;
        }
        if !focused {
            self.guards_settle(plan, !bits, at);
            return self.lose(plan, Lost::Focus, Cause::FocusLost, at);
        }
        self.inputs.board.focused = true;
        // What pads did meanwhile: levels count at once, buttons are stale already.
        for action in 0..plan.declared {
            if let Some(moved) = plan.actions[action].moved
                && self.actions[action].listens
            {
                self.resume(plan, moved, at);
            }
        }
    }

    /// A device was plugged in or out.
    #[inline(never)]
    pub(crate) fn plugged(&mut self, plan: &Plan, device: usize, plugged: bool, at: u64) {
        let bits = self.inputs.board.bits(|known, _| known.number() == device);
        self.inputs.board.forget(&plan.inputs, bits);
        self.guards_forget(plan, bits);
        if !plugged {
            self.lose(plan, Lost::Devices(bits), Cause::Unplugged, at);
        }
    }
}
