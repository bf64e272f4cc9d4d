//! Losses: a cable, the focus, a finger. What is lost goes up, and nothing is pressed by it.
//!
//! ```text
//!   take away all that is lost ──▶ buttons go up ──▶ attempts on lost presses are dropped ──▶ signals are worked out, once
//! ```

use crate::cause::Cause;
use crate::control::Family;
use crate::engine::inputs::fingers::{FINGERS, Stage};
use crate::engine::inputs::{Here, Inputs};
use crate::engine::press::maker;
use crate::engine::values::{EdgeKind, Gone, InputEdge};
use crate::index::{StickIndex, run};

/// What is lost.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Loss {
    /// Everything of these devices: they were unplugged.
    Devices(u64),
    /// Everything, as the window lost its focus. Pads are followed on, unseen.
    Focus,
    /// All fingers that are down: the panel changed under them. They move nothing until they lift.
    Fingers,
    /// One finger, by its place.
    Finger(usize),
}

impl Inputs {
    /// Takes something away from the hand.
    pub(crate) fn lose(&mut self, here: Here<'_>, lost: Loss, cause: Cause) {
        // What is taken away, and what is followed on unseen.
        let (bits, unseen) = match lost {
            Loss::Devices(bits) => (bits, 0),
            Loss::Focus => {
                let pads = self.board.bits(|_, family| family == Family::Pad);
                (!pads, pads)
            }
            Loss::Fingers | Loss::Finger(_) => (0, 0),
        };
        let mut points = false;
        for place in 0..FINGERS {
            let is_lost = match lost {
                Loss::Finger(only) => place == only,
                Loss::Fingers => true,
                Loss::Devices(_) | Loss::Focus => bits & (1 << self.fingers.played[place].local) != 0,
            };
            if is_lost && self.fingers.played[place].stage != Stage::Free {
                let stays_down = matches!(lost, Loss::Focus | Loss::Fingers);
                points |= self.take_finger(here, place, stays_down);
            }
        }
        self.board.take_away(here.plan, bits);
        self.board.focused &= lost != Loss::Focus;
        self.lost_buttons_go_up(here, unseen, cause);
        if points {
            self.point_up(here, cause);
        }
        if bits | unseen != 0 {
            self.lost_latches_go_up(here, bits | unseen, cause);
            self.forget_devices(here, bits | unseen, cause);
        }
        for moved in (0..here.plan.moved.len() as u16).map(StickIndex::new) {
            self.crossed(here, moved);
            self.moved(here, moved, cause);
        }
    }

    /// The buttons on contacts that are lost go up, for a reason that is not the hand's; and those of devices that are
    /// followed on unseen, which stay stale.
    fn lost_buttons_go_up(&mut self, here: Here<'_>, unseen: u64, cause: Cause) {
        for number in 0..here.plan.contacts.len() {
            let lost = core::mem::take(&mut self.board.lost[number]);
            let contact = &self.board.contacts[number];
            let (hidden, press) = (contact.down & unseen, contact.press);
            if lost | hidden == 0 {
                continue;
            }
            for wire in run(&here.plan.contacts[number].wires) {
                if here.plan.wires[wire].leg.is_some() {
                    continue;
                }
                let action = usize::from(here.plan.wires[wire].action);
                let fresh = (lost | hidden) & !self.stale[wire];
                self.stale[wire] &= !lost;
                if here.listens[action] {
                    self.stale[wire] |= hidden;
                }
                if here.plan.buttons[action].latched {
                    // One press puts it down: it goes up with the device that made that press.
                    let is_its = self.buttons[action].press == press && maker(press as u32) & lost != 0;
                    if is_its && self.buttons[action].held > 0 {
                        self.let_go(here, action, cause);
                    }
                    continue;
                }
                for _ in 0..fresh.count_ones() {
                    self.release(here, action, cause);
                }
            }
            // With a device all of its presses go; with a finger the one that it made.
            if maker(press as u32) & lost != 0 {
                self.forgets(Gone::Press(press as u32), cause);
            }
        }
    }

    /// Presses are lost: whatever stands on them is to be dropped.
    fn forgets(&mut self, lost: Gone, cause: Cause) {
        self.edges.push(InputEdge { action: 0, kind: EdgeKind::Gone { lost, cause } });
    }

    /// All presses of these devices are lost. A direction that was let go before counts towards nothing any more.
    fn forget_devices(&mut self, here: Here<'_>, bits: u64, cause: Cause) {
        self.forgets(Gone::Devices(bits), cause);
        for (number, how) in here.plan.moved.iter().enumerate() {
            if self.stick_devices[number] & bits != 0 && self.moved[number].direction.is_none() {
                let kind = EdgeKind::Turn { from: None, to: None, press: 0, cause };
                self.edges.push(InputEdge { action: how.action, kind });
            }
            self.stick_devices[number] &= !bits;
        }
    }

    /// What devices put down by one press goes up with them, held or not.
    fn lost_latches_go_up(&mut self, here: Here<'_>, bits: u64, cause: Cause) {
        for action in 0..here.plan.declared {
            let state = &self.buttons[action];
            if here.plan.buttons[action].latched && state.held > 0 && maker(state.press as u32) & bits != 0 {
                self.let_go(here, action, cause);
            }
        }
    }

    /// The window lost or regained the focus.
    #[inline(never)]
    pub(crate) fn focus(&mut self, here: Here<'_>, focused: bool) {
        // Whatever they say next is news.
        let bits = self.board.bits(|_, family| family != Family::Pad);
        self.board.forget(here.plan, bits);
        self.guards_forget(here, bits);
        if focused == self.board.focused {
            return;
        }
        if !focused {
            self.guards_settle(here, !bits);
            return self.lose(here, Loss::Focus, Cause::FocusLost);
        }
        self.board.focused = true;
        // What pads did meanwhile: levels count at once, buttons are stale already.
        for action in 0..here.plan.declared {
            if let Some(moved) = here.plan.buttons[action].moved
                && here.listens[action]
            {
                self.resume(here, moved);
            }
        }
    }

    /// A device was plugged in or out.
    #[inline(never)]
    pub(crate) fn plugged(&mut self, here: Here<'_>, device: usize, plugged: bool) {
        let bits = self.board.bits(|known, _| known.number() == device);
        self.board.forget(here.plan, bits);
        self.guards_forget(here, bits);
        if !plugged {
            self.lose(here, Loss::Devices(bits), Cause::Unplugged);
        }
    }
}
