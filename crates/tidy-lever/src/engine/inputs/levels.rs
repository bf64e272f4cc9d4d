//! Levels are applied: which contacts and feeds turn, and what stands on them.

use crate::cause::Cause;
use crate::control::Family;
use crate::engine::inputs::{Here, Inputs, cross};
use crate::index::{SlotIndex, run};
use crate::linkage::{ContactPlan, SlotPlan, Wire};

impl Inputs {
    /// A control that moves levels, or turns several contacts: these first, all of them, then what stands on them, then
    /// its feeds.
    #[inline(never)]
    pub(crate) fn apply_to_many_contacts(
        &mut self,
        here: Here<'_>,
        slot_plan: &SlotPlan,
        local: u8,
        (x, y): (i32, i32),
        cause: Cause,
    ) {
        let contacts = run(&slot_plan.contacts);
        for contact in contacts.clone() {
            let turned = self.board.turn(here.plan, contact, local, (x, y));
            self.board.turned[contact] = turned.map_or(0, |down| if down { 1 } else { -1 });
        }
        if cause == Cause::LetGo {
            self.uses(slot_plan, (x, y));
        }
        for contact in contacts {
            let turned = core::mem::take(&mut self.board.turned[contact]);
            if turned != 0 {
                self.contact(here, contact, local, turned > 0, cause);
            }
        }
        let feeds = &here.plan.feeds[run(&slot_plan.feeds)];
        for (number, feed) in (slot_plan.feeds.start..).zip(feeds) {
            self.feed_stands((feed, number), local, (x, y));
        }
        feeds.iter().for_each(|feed| self.feed_moves(here, feed, cause));
    }

    /// A control's new level.
    #[inline(never)]
    pub(crate) fn control(&mut self, here: Here<'_>, slot: SlotIndex, local: u8, level: (i32, i32), cause: Cause) {
        self.apply_level(here, &here.plan.slots[usize::from(slot)], local, level, cause);
    }

    #[inline(always)]
    pub(crate) fn apply_level(&mut self, here: Here<'_>, slot: &SlotPlan, local: u8, level: (i32, i32), cause: Cause) {
        if !self.board.focused && slot.family != Family::Pad {
            return;
        }
        if let Some(contact) = slot.only {
            // Nearly every button.
            if cause == Cause::LetGo && level.0 > 0 {
                self.used.take(slot.family);
            }
            let contact = contact.get() as usize - 1;
            if let Some(down) = self.board.turn_to(&here.plan.contacts[contact], contact, local, level.0) {
                self.contact(here, contact, local, down, cause);
            }
            return;
        }
        if slot.is_plain && cause == Cause::LetGo && self.board.focused {
            return self.pair_says(here, slot, local, level);
        }
        self.apply_to_many_contacts(here, slot, local, level, cause);
    }

    /// A contact that turned: the buttons on it, and the crosses.
    #[inline(always)]
    pub(crate) fn contact(&mut self, here: Here<'_>, contact: usize, local: u8, down: bool, cause: Cause) {
        let how = &here.plan.contacts[contact];
        if how.has_legs {
            self.contact_of_legs(here, (contact, how), local, down, cause);
        } else {
            self.contact_of_buttons(here, (contact, how), local, down, cause);
        }
    }

    #[inline(always)]
    fn contact_of_buttons(
        &mut self,
        here: Here<'_>,
        (contact, how): (usize, &ContactPlan),
        local: u8,
        down: bool,
        cause: Cause,
    ) {
        let press = self.board.contacts[contact].press;
        let wires = (how.wires.start as usize..).zip(&here.plan.wires[run(&how.wires)]);
        if down {
            for wire in wires {
                self.wire_down(here, wire, local, press, cause);
            }
        } else {
            for wire in wires {
                self.wire_up(here, wire, local, cause);
            }
        }
    }

    /// A contact turned that has a leg of a cross among its wires: presses buttons, and moves sticks.
    #[inline(never)]
    fn contact_of_legs(
        &mut self,
        here: Here<'_>,
        (contact, how): (usize, &ContactPlan),
        local: u8,
        down: bool,
        cause: Cause,
    ) {
        let press = self.board.contacts[contact].press;
        // Sticks that share their keys share what these give.
        let mut pair = (u32::MAX, 0);
        for (place, wire) in (how.wires.start as usize..).zip(&here.plan.wires[run(&how.wires)]) {
            let Some(leg) = wire.leg else {
                self.wire_among_legs(here, (place, wire), local, (down, press), cause);
                continue;
            };
            if leg.pair != pair.0 {
                pair = (leg.pair, cross::opposed(here.plan, &self.board, leg.pair));
            }
            self.leg_turned(here, leg, pair.1, down, cause);
        }
    }

    /// A contact of a button, and of legs, turned.
    #[inline(never)]
    fn wire_among_legs(
        &mut self,
        here: Here<'_>,
        wire: (usize, &Wire),
        local: u8,
        (down, press): (bool, u64),
        cause: Cause,
    ) {
        if down {
            self.wire_down(here, wire, local, press, cause);
        } else {
            self.wire_up(here, wire, local, cause);
        }
    }

    /// A contact of a button went down.
    #[inline(always)]
    fn wire_down(&mut self, here: Here<'_>, (place, wire): (usize, &Wire), local: u8, press: u64, cause: Cause) {
        let (action, bit) = (usize::from(wire.action), 1u64 << local);
        if !(here.listens[action] && self.board.focused) || cause == Cause::Resynced {
            // Held since before it listens, or since nobody knows when: no press, until it goes up once.
            if self.stale[place] & bit == 0 {
                self.stale[place] |= bit;
            }
        } else if here.plan.buttons[action].latched {
            self.latch(here, action, press, cause);
        } else {
            self.press(here, action, press);
        }
    }

    /// A contact of a button went up.
    #[inline(always)]
    fn wire_up(&mut self, here: Here<'_>, (place, wire): (usize, &Wire), local: u8, cause: Cause) {
        let (action, bit) = (usize::from(wire.action), 1u64 << local);
        if self.stale[place] & bit != 0 {
            self.stale[place] &= !bit;
        } else if here.listens[action] && self.board.focused && !here.plan.buttons[action].latched {
            self.release(here, action, cause);
        }
    }

    /// A contact went down of an action of which one press puts it down, and the next lifts it; letting go does nothing.
    #[inline(never)]
    fn latch(&mut self, here: Here<'_>, action: usize, press: u64, cause: Cause) {
        if self.buttons[action].held > 0 {
            self.release(here, action, cause);
        } else {
            self.press(here, action, press);
        }
    }
}
