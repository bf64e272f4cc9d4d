//! Playing a moment: what was told, then events, each through board, signal, edge and cue into history.

use crate::cause::Cause;
use crate::control::{Family, Sort as ControlSort};
use crate::engine::Engine;
use crate::engine::incoming::{Waiting, WaitingKind};
use crate::engine::inputs::busy::Turn as Play;
use crate::engine::inputs::cross;
use crate::engine::inputs::losses::Lost;
use crate::event::DeviceName;
use crate::fixed;
use crate::guard::GuardPlan;
use crate::index::{SlotIndex, run};
use crate::linkage::Plan;
use crate::linkage::{ContactPlan, SlotPlan, Wire};
use crate::time::NEVER;
use crate::timers::DuePart;

impl Engine {
    /// Plays everything that is due up to and including `to`, moment by moment.
    ///
    /// ```text
    ///   told ▶ timers that fall due ▶ events ▶ pulls are settled ▶ windows expire ▶ who waited on them
    /// ```
    ///
    /// Returns the next moment at which anything plays; one that never comes if nothing will.
    #[inline]
    pub(crate) fn play(&mut self, plan: &Plan, to: u64) -> u64 {
        let mut due = if self.due > 0 { self.due } else { self.next_due() };
        debug_assert_eq!(due, self.next_due(), "nothing but playing sets a timer");
        loop {
            let at = self.queue.next_at().min(due).max(self.next);
            if at > to {
                (self.next, self.due) = (to + 1, due);
                return at;
            }
            due = self.moment(plan, at, due);
        }
    }

    /// Plays moment by moment, as [`play`](Engine::play) does, until `most` happenings were added: at the end of that moment.
    pub(crate) fn play_some(&mut self, plan: &Plan, to: u64, most: u64) -> u64 {
        let enough = self.log.ring.total().saturating_add(most);
        loop {
            let at = self.queue.next_at().min(self.next_due()).max(self.next);
            let next = self.play(plan, at.min(to));
            if at >= to || self.log.ring.total() >= enough {
                return next;
            }
        }
    }

    /// Passes a gap: plays what waits, without a pull.
    pub(crate) fn pass(&mut self, plan: &Plan, to: u64) {
        self.pulls.muted = true;
        self.play(plan, to);
        self.guards_settle(plan, u64::MAX, to);
        self.pulls.muted = false;
        self.drop_all_attempts(plan, to);
        self.due = 0;
        self.inputs.sweeps_rest = false;
        for (sweep, swept) in self.inputs.sweeps.iter_mut().zip(&self.inputs.swept) {
            sweep.pass(*swept, to);
        }
    }

    /// Plays a moment; `due` is when the next timer is. Returns when it is after this.
    #[inline(always)]
    fn moment(&mut self, plan: &Plan, at: u64, mut due: u64) -> u64 {
        if self.queue.has_told() {
            due = self.tellings(plan, at);
        }
        if due <= at {
            self.fall_due(plan, at, DuePart::Due);
            if self.inputs.guards.next_due() <= at {
                self.guards_decide(plan, at);
            }
        }
        while self.queue.next_at() == at {
            let waiting = self.queue.take_first();
            if waiting.what == WaitingKind::Control {
                self.control_says(plan, waiting);
            } else {
                self.event(plan, waiting);
            }
        }
        let settled = self.settle_events(plan, at);
        due = self.next_due();
        if due <= at || settled && self.pulls.any_wait() || self.log.ledger.is_some() {
            due = self.moment_ends(plan, at);
        }
        due
    }

    /// What the game told plays before anything else of its moment.
    #[inline(never)]
    fn tellings(&mut self, plan: &Plan, at: u64) -> u64 {
        while let Some(told) = self.queue.take_told(at) {
            self.telling(plan, told);
        }
        self.next_due()
    }

    /// Windows expire, and who waited on them is settled.
    #[inline(never)]
    fn moment_ends(&mut self, plan: &Plan, at: u64) -> u64 {
        self.fall_due(plan, at, DuePart::Expire);
        if self.pulls.recheck <= at {
            self.pulls.recheck = NEVER;
        }
        if self.pulls.any_wait() {
            self.settle(plan, true, at);
        }
        if self.log.ledger.is_some() {
            self.tell_opened(plan, at);
        }
        self.next_due()
    }

    /// What the game told.
    #[inline(never)]
    fn telling(&mut self, plan: &Plan, waiting: Waiting) {
        let Waiting { at, x, y, number, device, what, .. } = waiting;
        let number = usize::from(number);
        match what {
            WaitingKind::Named => {
                let bits = u64::from(x as u32) << 32 | u64::from(y as u32);
                self.named(plan, device, DeviceName::from_bits(bits), at);
            }
            WaitingKind::Fact => self.tell(plan, number, x as u16, at),
            WaitingKind::Set => self.set(plan, number, x == 1, at),
            WaitingKind::GiveBack => self.give_back(plan, number, Cause::Set, at),
            WaitingKind::View => {
                if self.inputs.view != [x as u32, y as u32] {
                    self.lose(plan, Lost::Fingers, Cause::Cancelled, at);
                }
                self.inputs.view = [x as u32, y as u32];
            }
            WaitingKind::Panel => {
                self.inputs.fingers.hidden = x == 0;
                if self.inputs.fingers.hidden {
                    self.lose(plan, Lost::Fingers, Cause::Cancelled, at);
                }
            }
            WaitingKind::Mode => self.switch(plan, number, x == 1, at),
            WaitingKind::Control
            | WaitingKind::RoughControl
            | WaitingKind::Stands
            | WaitingKind::Touch
            | WaitingKind::Focus
            | WaitingKind::Plugged => {}
        }
    }

    /// What a device said that is not a control's.
    #[inline(never)]
    fn event(&mut self, plan: &Plan, waiting: Waiting) {
        let Waiting { at, x, number, what, .. } = waiting;
        match what {
            WaitingKind::Touch => self.finger_says(plan, waiting),
            WaitingKind::Focus => self.focus(plan, x == 1, at),
            WaitingKind::Plugged => self.plugged(plan, usize::from(number), x == 1, at),
            WaitingKind::RoughControl => self.stands_unguarded(plan, waiting, Cause::LetGo),
            WaitingKind::Stands => self.stands_unguarded(plan, waiting, Cause::Resynced),
            _ => {}
        }
    }

    /// It plays at a later moment: the queue it came from has room for it.
    #[cold]
    pub(crate) fn move_on(&mut self, waiting: Waiting, to: u64) {
        self.log.tally.moved_on += 1;
        self.queue.push(waiting.moved_to(to));
    }

    /// A device says where a control stands.
    #[inline(always)]
    fn control_says(&mut self, plan: &Plan, waiting: Waiting) {
        let Waiting { at, x, y, number, device, .. } = waiting;
        let slot = &plan.inputs.slots[usize::from(number)];
        let local = self.inputs.board.local(&plan.inputs, device, slot.family);
        if !slot.has_level {
            return self.unlevelled_says(plan, waiting, local);
        }
        match self.inputs.board.note(slot, local, waiting.due(), (x, y)) {
            Play::Now => {
                self.inputs.hand = local;
                let guards = &mut self.inputs.guards;
                let passes = match slot.guard {
                    GuardPlan::Nothing => Some((x, y)),
                    GuardPlan::Button(place) => {
                        let guard = match plan.inputs.named.is_empty() {
                            true => &plan.inputs.guards[slot.family.index()],
                            false => self.inputs.board.guard(&plan.inputs, local),
                        };
                        guards.button_passes(guard.spans, (local, place), at, x).then_some((x, y))
                    }
                    GuardPlan::Arms(_) => None,
                    GuardPlan::Stick(place) => guards.stick_passes((local, place), (x, y)),
                };
                match passes {
                    Some(level) => self.stands(plan, slot, local, level, Cause::LetGo, at),
                    None => self.guarded_says(plan, number, local, (x, y), at),
                }
            }
            Play::Repeat => self.log.tally.repeats += 1,
            Play::Later(to) => self.move_on(waiting, to),
        }
    }

    /// A control stands here, and its guard doesn't matter: its device was asked, so news is a level and presses nothing; or the
    /// moment is known too roughly to debounce it.
    fn stands_unguarded(&mut self, plan: &Plan, waiting: Waiting, cause: Cause) {
        let Waiting { at, x, y, number, device, .. } = waiting;
        let slot = &plan.inputs.slots[usize::from(number)];
        let local = self.inputs.board.local(&plan.inputs, device, slot.family);
        match self.inputs.board.note(slot, local, waiting.due(), (x, y)) {
            Play::Now => {
                self.inputs.hand = local;
                let heard = self.inputs.guards.is_asked(slot.guard, local, (x, y));
                self.counts(plan, slot, local, heard, cause, at);
            }
            Play::Repeat => self.log.tally.repeats += u64::from(cause == Cause::LetGo),
            Play::Later(to) => self.move_on(waiting, to),
        }
    }

    /// The same of a wheel, a mouse or a pointer, which have no level that stays.
    #[inline(never)]
    fn unlevelled_says(&mut self, plan: &Plan, waiting: Waiting, local: u8) {
        let Waiting { at, x, y, number, .. } = waiting;
        let slot = &plan.inputs.slots[usize::from(number)];
        if slot.sort == ControlSort::Notch {
            return self.wheel_says(plan, waiting, local);
        }
        self.inputs.hand = local;
        if !self.inputs.board.focused && slot.family != Family::Pad {
            return;
        }
        self.uses(slot, (x, y));
        for feed in &plan.inputs.feeds[run(&slot.feeds)] {
            self.unlevelled(plan, feed, x, y, at);
        }
    }

    /// A wheel turns: each notch is a press, and a release 1 µs later.
    #[inline(never)]
    fn wheel_says(&mut self, plan: &Plan, waiting: Waiting, local: u8) {
        let Waiting { at, x, y, number, .. } = waiting;
        if y == 1 {
            // Its notch goes up; the next one comes after it.
            self.inputs.hand = local;
            self.control(plan, SlotIndex::new(number), local, (0, 0), Cause::LetGo, at);
            if x > 0 {
                self.queue.push(waiting.followed_by(x, 0));
            }
            return;
        }
        match self.inputs.board.note(&plan.inputs.slots[usize::from(number)], local, waiting.due(), (x, y)) {
            Play::Now => {
                self.inputs.hand = local;
                self.queue.push(waiting.followed_by(x - fixed::ONE, 1));
                self.control(plan, SlotIndex::new(number), local, (fixed::ONE, 0), Cause::LetGo, at);
            }
            Play::Repeat => self.log.tally.repeats += 1,
            Play::Later(to) => self.move_on(waiting, to),
        }
    }

    /// A control's new level.
    #[inline(never)]
    pub(crate) fn control(
        &mut self,
        plan: &Plan,
        slot: SlotIndex,
        local: u8,
        level: (i32, i32),
        cause: Cause,
        at: u64,
    ) {
        self.stands(plan, &plan.inputs.slots[usize::from(slot)], local, level, cause, at);
    }

    #[inline(always)]
    pub(crate) fn stands(&mut self, plan: &Plan, slot: &SlotPlan, local: u8, level: (i32, i32), cause: Cause, at: u64) {
        if !self.inputs.board.focused && slot.family != Family::Pad {
            return;
        }
        if let Some(contact) = slot.only {
            // Nearly every button.
            if cause == Cause::LetGo && level.0 > 0 {
                self.inputs.used.take(slot.family);
            }
            let contact = contact.get() as usize - 1;
            if let Some(down) = self.inputs.board.turn_to(&plan.inputs.contacts[contact], contact, local, level.0) {
                self.contact(plan, contact, local, down, cause, at);
            }
            return;
        }
        if slot.is_plain && cause == Cause::LetGo && self.inputs.board.focused {
            return self.pair_says(plan, slot, local, level, at);
        }
        self.several(plan, slot, local, level, cause, at);
    }

    /// A contact that turned: the buttons on it, and the crosses.
    #[inline(always)]
    pub(crate) fn contact(&mut self, plan: &Plan, contact: usize, local: u8, down: bool, cause: Cause, at: u64) {
        let how = &plan.inputs.contacts[contact];
        if how.has_legs {
            self.contact_of_legs(plan, (contact, how), local, down, cause, at);
        } else {
            self.contact_of_buttons(plan, (contact, how), local, down, cause, at);
        }
    }

    #[inline(always)]
    fn contact_of_buttons(
        &mut self,
        plan: &Plan,
        (contact, how): (usize, &ContactPlan),
        local: u8,
        down: bool,
        cause: Cause,
        at: u64,
    ) {
        let press = self.inputs.board.contacts[contact].press;
        let wires = (how.wires.start as usize..).zip(&plan.inputs.wires[run(&how.wires)]);
        if down {
            for wire in wires {
                self.wire_down(plan, wire, local, press, (cause, at));
            }
        } else {
            for wire in wires {
                self.wire_up(plan, wire, local, (cause, at));
            }
        }
    }

    /// The same where one of them is a leg of a cross.
    #[inline(never)]
    fn contact_of_legs(
        &mut self,
        plan: &Plan,
        (contact, how): (usize, &ContactPlan),
        local: u8,
        down: bool,
        cause: Cause,
        at: u64,
    ) {
        let press = self.inputs.board.contacts[contact].press;
        // Sticks that share their keys share what these give.
        let mut pair = (u32::MAX, 0);
        for (place, wire) in (how.wires.start as usize..).zip(&plan.inputs.wires[run(&how.wires)]) {
            let Some(leg) = wire.leg else {
                self.wire_among_legs(plan, (place, wire), local, (down, press), (cause, at));
                continue;
            };
            if leg.pair != pair.0 {
                pair = (leg.pair, cross::opposed(&plan.inputs, &self.inputs.board, leg.pair));
            }
            self.leg_turned(plan, leg, pair.1, down, cause, at);
        }
    }

    /// A contact of a button, and of legs, turned.
    #[inline(never)]
    fn wire_among_legs(
        &mut self,
        plan: &Plan,
        wire: (usize, &Wire),
        local: u8,
        (down, press): (bool, u64),
        of: (Cause, u64),
    ) {
        if down {
            self.wire_down(plan, wire, local, press, of);
        } else {
            self.wire_up(plan, wire, local, of);
        }
    }

    /// A contact of a button went down.
    #[inline(always)]
    fn wire_down(
        &mut self,
        plan: &Plan,
        (place, wire): (usize, &Wire),
        local: u8,
        press: u64,
        (cause, at): (Cause, u64),
    ) {
        let (action, bit) = (usize::from(wire.action), 1u64 << local);
        if !(self.actions[action].listens && self.inputs.board.focused) || cause == Cause::Resynced {
            // Held since before it listens, or since nobody knows when: no press, until it goes up once.
            if self.inputs.stale[place] & bit == 0 {
                self.inputs.stale[place] |= bit;
            }
        } else if plan.hot[action].latched {
            self.latch(plan, action, press, cause, at);
        } else {
            self.press_here(plan, action, press, at);
        }
    }

    /// A contact of a button went up.
    #[inline(always)]
    fn wire_up(&mut self, plan: &Plan, (place, wire): (usize, &Wire), local: u8, (cause, at): (Cause, u64)) {
        let (action, bit) = (usize::from(wire.action), 1u64 << local);
        if self.inputs.stale[place] & bit != 0 {
            self.inputs.stale[place] &= !bit;
        } else if self.actions[action].listens && self.inputs.board.focused && !plan.hot[action].latched {
            self.release_here(plan, action, cause, at);
        }
    }

    /// A contact went down of an action of which one press puts it down, and the next lifts it; letting go does nothing.
    #[inline(never)]
    fn latch(&mut self, plan: &Plan, action: usize, press: u64, cause: Cause, at: u64) {
        if self.actions[action].held > 0 {
            self.release(plan, action, cause, at);
        } else {
            self.press(plan, action, press, at);
        }
    }
}
