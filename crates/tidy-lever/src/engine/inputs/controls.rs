//! What devices say of their controls: which contacts and feeds turn, and what stands on them.

use crate::cause::Cause;
use crate::control::{Family, Sort as ControlSort};
use crate::engine::incoming::{InputKind, QueuedInput};
use crate::engine::inputs::busy::Turn as Play;
use crate::engine::inputs::losses::Lost;
use crate::engine::inputs::{Here, Inputs, cross};
use crate::event::DeviceName;
use crate::fixed;
use crate::guard::GuardPlan;
use crate::index::{SlotIndex, run};
use crate::linkage::{ContactPlan, SlotPlan, Wire};

impl Inputs {
    /// Plays what a device says that is not a control's: a finger, a cable, the focus, or a level of its own kind.
    #[inline(never)]
    pub(crate) fn device_says(&mut self, here: Here<'_>, queued: QueuedInput) {
        let QueuedInput { x, number, what, .. } = queued;
        match what {
            InputKind::Touch => self.finger_says(here, queued),
            InputKind::Focus => self.focus(here, x == 1),
            InputKind::Plugged => self.plugged(here, usize::from(number), x == 1),
            InputKind::RoughControl => self.apply_unguarded(here, queued, Cause::LetGo),
            InputKind::Stands => self.apply_unguarded(here, queued, Cause::Resynced),
            _ => {}
        }
    }

    /// Plays what the game told that is the hand's: a pad's name, the view, the panel.
    #[inline(never)]
    pub(crate) fn game_says(&mut self, here: Here<'_>, queued: QueuedInput) {
        let QueuedInput { x, y, device, what, .. } = queued;
        match what {
            InputKind::Named => {
                let bits = u64::from(x as u32) << 32 | u64::from(y as u32);
                self.named(here, device, DeviceName::from_bits(bits));
            }
            InputKind::View => {
                if self.view != [x as u32, y as u32] {
                    self.lose(here, Lost::Fingers, Cause::Cancelled);
                }
                self.view = [x as u32, y as u32];
            }
            InputKind::Panel => {
                self.fingers.hidden = x == 0;
                if self.fingers.hidden {
                    self.lose(here, Lost::Fingers, Cause::Cancelled);
                }
            }
            _ => {}
        }
    }

    /// It plays at a later moment: the queue it came from has room for it.
    #[cold]
    pub(crate) fn move_on(&mut self, queued: QueuedInput, to: u64) {
        self.tally.moved_on += 1;
        self.later.push(queued.moved_to(to));
    }

    /// A device says where a control stands.
    #[inline(always)]
    pub(crate) fn control_says(&mut self, here: Here<'_>, queued: QueuedInput) {
        let QueuedInput { x, y, number, device, .. } = queued;
        let slot = &here.plan.slots[usize::from(number)];
        let local = self.board.local(here.plan, device, slot.family);
        if !slot.has_level {
            return self.unlevelled_says(here, queued, local);
        }
        match self.board.note(slot, local, queued.due(), (x, y)) {
            Play::Now => {
                self.device = local;
                let guards = &mut self.guards;
                let passes = match slot.guard {
                    GuardPlan::Nothing => Some((x, y)),
                    GuardPlan::Button(place) => {
                        let guard = match here.plan.named.is_empty() {
                            true => &here.plan.guards[slot.family.index()],
                            false => self.board.guard(here.plan, local),
                        };
                        guards.button_passes(guard.spans, (local, place), here.at, x).then_some((x, y))
                    }
                    GuardPlan::Arms(_) => None,
                    GuardPlan::Stick(place) => guards.stick_passes((local, place), (x, y)),
                };
                match passes {
                    Some(level) => self.apply_level(here, slot, local, level, Cause::LetGo),
                    None => self.guarded_says(here, number, local, (x, y)),
                }
            }
            Play::Repeat => self.tally.repeats += 1,
            Play::Later(to) => self.move_on(queued, to),
        }
    }

    /// A control stands here, and its guard doesn't matter: its device was asked, so news is a level and presses nothing; or the
    /// moment is known too roughly to debounce it.
    fn apply_unguarded(&mut self, here: Here<'_>, queued: QueuedInput, cause: Cause) {
        let QueuedInput { x, y, number, device, .. } = queued;
        let slot = &here.plan.slots[usize::from(number)];
        let local = self.board.local(here.plan, device, slot.family);
        match self.board.note(slot, local, queued.due(), (x, y)) {
            Play::Now => {
                self.device = local;
                let heard = self.guards.is_asked(slot.guard, local, (x, y));
                self.counts(here, slot, local, heard, cause);
            }
            Play::Repeat => self.tally.repeats += u64::from(cause == Cause::LetGo),
            Play::Later(to) => self.move_on(queued, to),
        }
    }

    /// The same of a wheel, a mouse or a pointer, which have no level that stays.
    #[inline(never)]
    fn unlevelled_says(&mut self, here: Here<'_>, queued: QueuedInput, local: u8) {
        let QueuedInput { x, y, number, .. } = queued;
        let slot = &here.plan.slots[usize::from(number)];
        if slot.sort == ControlSort::Notch {
            return self.wheel_says(here, queued, local);
        }
        self.device = local;
        if !self.board.focused && slot.family != Family::Pad {
            return;
        }
        self.uses(slot, (x, y));
        for feed in &here.plan.feeds[run(&slot.feeds)] {
            self.unlevelled(here, feed, x, y);
        }
    }

    /// A wheel turns: each notch is a press, and a release 1 µs later.
    #[inline(never)]
    fn wheel_says(&mut self, here: Here<'_>, queued: QueuedInput, local: u8) {
        let QueuedInput { x, y, number, .. } = queued;
        if y == 1 {
            // Its notch goes up; the next one comes after it.
            self.device = local;
            self.control(here, SlotIndex::new(number), local, (0, 0), Cause::LetGo);
            if x > 0 {
                self.later.push(queued.followed_by(x, 0));
            }
            return;
        }
        match self.board.note(&here.plan.slots[usize::from(number)], local, queued.due(), (x, y)) {
            Play::Now => {
                self.device = local;
                self.later.push(queued.followed_by(x - fixed::ONE, 1));
                self.control(here, SlotIndex::new(number), local, (fixed::ONE, 0), Cause::LetGo);
            }
            Play::Repeat => self.tally.repeats += 1,
            Play::Later(to) => self.move_on(queued, to),
        }
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

    /// The same where one of them is a leg of a cross.
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
