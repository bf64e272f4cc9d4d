//! Controls of worn devices: what guards let through counts, what they decide later counts then.

use crate::cause::Cause;
use crate::control::Family;
use crate::engine::Engine;
use crate::engine::ways::Ways;
use crate::event::{Device, DeviceName};
use crate::guard::{Decided, FamilyGuard, GuardPlan, GuardedBy, GuardedControl, Heard, StickHeard, SwallowedEntry};
use crate::index::run;
use crate::linkage::Plan;
use crate::linkage::SlotPlan;

impl Engine {
    /// A control says something of which its guard may let nothing through, or something else.
    #[inline(never)]
    pub(crate) fn guarded_says(&mut self, plan: &Plan, number: u16, local: u8, to: (i32, i32), at: u64) {
        let slot = &plan.inputs.slots[usize::from(number)];
        let (guard, guards) = (*self.inputs.board.guard(&plan.inputs, local), &mut self.inputs.guards);
        let is_told = self.log.swallowed.is_some();
        let deaf = if is_told { guards.deaf_at(slot.guard, local, guard.spans, at) } else { None };
        let mut arm_unheard = false;
        let heard = match slot.guard {
            GuardPlan::Nothing => Heard::Level(to),
            GuardPlan::Button(place) => match guards.button_says(guard.spans, (local, place), at, to.0) {
                true => Heard::Level(to),
                false => Heard::Nothing,
            },
            GuardPlan::Arms(place) => {
                let (heard, is_unheard) = guards.arms_say(guard.spans, (local, place), at, to);
                arm_unheard = is_unheard;
                heard
            }
            GuardPlan::Stick(place) => Heard::Stick(guards.stick_says(guard, (local, place), at, to)),
        };
        guards.watches(slot.guard, GuardedControl { local, slot: number });
        match heard {
            Heard::Nothing => {
                self.log.tally.bounces += 1;
                self.swallows(slot, local, deaf, (0, 0), at);
            }
            Heard::Stick(StickHeard { heard, seen }) if heard != seen => {
                self.log.tally.swings += 1;
                let deaf = if is_told { self.inputs.guards.deaf_at(slot.guard, local, guard.spans, at) } else { None };
                self.swallows(slot, local, deaf, seen, at);
            }
            Heard::Stick(_) => self.hears_again(slot, local, at),
            Heard::Level(_) if arm_unheard => {
                // One arm counts, another one bounces.
                self.log.tally.bounces += 1;
                self.swallows(slot, local, deaf, (0, 0), at);
            }
            Heard::Level(_) => {}
        }
        self.counts(plan, slot, local, heard, Cause::LetGo, at);
    }

    /// Notes what was not heard, for people.
    fn swallows(&mut self, slot: &SlotPlan, local: u8, deaf: Option<(u64, u64, GuardedBy)>, push: (i32, i32), at: u64) {
        let (Some(log), Some((from, done, by))) = (&mut self.log.swallowed, deaf) else { return };
        let (device, control) = (self.inputs.board.device(local), slot.control);
        log.note(SwallowedEntry { device, control, by, from, to: at, done, push, count: 1, over: false });
    }

    /// Notes that a stick is heard again.
    fn hears_again(&mut self, slot: &SlotPlan, local: u8, at: u64) {
        if let Some(log) = &mut self.log.swallowed {
            log.is_heard_again(self.inputs.board.device(local), slot.control, at);
        }
    }

    /// What counts of a guarded control.
    pub(crate) fn counts(&mut self, plan: &Plan, slot: &SlotPlan, local: u8, heard: Heard, cause: Cause, at: u64) {
        match heard {
            Heard::Nothing => {}
            Heard::Level(level) => self.stands(plan, slot, local, level, cause, at),
            Heard::Stick(StickHeard { heard, seen }) if heard == seen => {
                self.stands(plan, slot, local, heard, cause, at);
            }
            Heard::Stick(StickHeard { heard, seen }) => self.stands_apart(plan, slot, local, (heard, seen), cause, at),
        }
    }

    /// A stick that counts as one thing for sweeps, and as another for all else.
    fn stands_apart(
        &mut self,
        plan: &Plan,
        slot: &SlotPlan,
        local: u8,
        (heard, seen): ((i32, i32), (i32, i32)),
        cause: Cause,
        at: u64,
    ) {
        let feeds = &plan.inputs.feeds[run(&slot.feeds)];
        self.stands(plan, slot, local, heard, cause, at);
        for (number, feed) in (slot.feeds.start..).zip(feeds).filter(|(_, feed)| plan.inputs.is_of_sweep(feed)) {
            self.feed_stands((feed, number), local, seen);
            self.feed_moves(plan, feed, cause, at);
        }
    }

    /// Guards decide what is due, by device, then by control.
    #[inline(never)]
    pub(crate) fn guards_decide(&mut self, plan: &Plan, at: u64) {
        while let Some((local, slot, part)) = self.first_guard_due(plan, at) {
            let slot = &plan.inputs.slots[slot];
            let to = self.inputs.board.said(slot, local);
            let spans = self.inputs.board.guard(&plan.inputs, local).spans;
            let Decided { heard, as_level } = self.inputs.guards.decides((slot.guard, part), spans, local, at, to);
            let cause = if as_level { Cause::Resynced } else { Cause::LetGo };
            self.log.tally.middles += u64::from(as_level);
            self.inputs.hand = local;
            if let (Some(log), Heard::Level(_)) = (&mut self.log.swallowed, heard) {
                log.is_heard_after_all(self.inputs.board.device(local), slot.control, at);
            }
            if matches!(heard, Heard::Stick(StickHeard { heard, seen }) if heard == seen) {
                self.hears_again(slot, local, at);
            }
            self.counts(plan, slot, local, heard, cause, at);
        }
        self.inputs.guards.tidy(|control| plan.inputs.slots[usize::from(control.slot)].guard);
    }

    /// The first control, by device and number, of which a part decides something now.
    fn first_guard_due(&self, plan: &Plan, at: u64) -> Option<(u8, usize, usize)> {
        let due = self.inputs.guards.busy().iter().filter_map(|control| {
            let how = &plan.inputs.slots[usize::from(control.slot)];
            let (due, part) = self.inputs.guards.due_of(how.guard, control.local)?;
            let device = self.inputs.board.device(control.local).number();
            let order = (device, how.control.number(), part);
            (due <= at).then_some((order, (control.local, usize::from(control.slot), part)))
        });
        due.min_by_key(|(order, _)| *order).map(|(_, found)| found)
    }

    /// What is under way on these devices ends: each control counts as it stands, as a level.
    pub(crate) fn guards_settle(&mut self, plan: &Plan, bits: u64, at: u64) {
        for local in 0..self.inputs.board.count() {
            for slot in self.guarded_of(plan, local, bits) {
                let to = self.inputs.board.said(slot, local);
                let heard = self.inputs.guards.settles(slot.guard, local, to);
                self.counts(plan, slot, local, heard, Cause::Resynced, at);
            }
        }
    }

    /// What is known of these devices is forgotten: they are gone. A middle that a player's file fixes is not learnt, and stays.
    pub(crate) fn guards_forget(&mut self, plan: &Plan, bits: u64) {
        for local in 0..self.inputs.board.count() {
            let guard = *self.inputs.board.guard(&plan.inputs, local);
            for slot in self.guarded_of(plan, local, bits) {
                self.inputs.guards.forgets(slot.guard, local);
                self.inputs.guards.is_seen_from(slot.guard, local, (None, guard.middle_of(slot.control)));
            }
        }
    }

    /// A pad has a name: it is guarded as a player's file says for that name.
    pub(crate) fn named(&mut self, plan: &Plan, device: Device, name: DeviceName, at: u64) {
        let local = self.inputs.board.local(&plan.inputs, device, Family::Pad);
        let before = *self.inputs.board.guard(&plan.inputs, local);
        self.inputs.board.name(&plan.inputs, local, name);
        self.sees_from_middles(plan, local, &before, at);
    }

    /// Another guard counts for a device: sticks are seen from the middles that are set there, which presses and pulls nothing.
    pub(crate) fn sees_from_middles(&mut self, plan: &Plan, local: u8, before: &FamilyGuard, at: u64) {
        let now = *self.inputs.board.guard(&plan.inputs, local);
        for slot in self.guarded_of(plan, local, 1 << local) {
            let middles = (before.middle_of(slot.control), now.middle_of(slot.control));
            if let Some(stick) = self.inputs.guards.is_seen_from(slot.guard, local, middles) {
                self.inputs.hand = local;
                self.counts(plan, slot, local, Heard::Stick(stick), Cause::Resynced, at);
            }
        }
    }

    /// The guarded controls of a device, if it is among these.
    fn guarded_of<'p>(&self, plan: &'p Plan, local: u8, bits: u64) -> impl Iterator<Item = &'p SlotPlan> + use<'p> {
        let family = (bits & (1 << local) != 0).then(|| self.inputs.board.family(local));
        plan.inputs.slots.iter().filter(move |slot| Some(slot.family) == family && slot.guard != GuardPlan::Nothing)
    }

    /// Guards go over to another plan: a span that runs keeps its end.
    pub(crate) fn carry_guards(&mut self, from: &Engine, ways: &Ways<'_>) {
        let (old, new) = (&ways.old.inputs, &ways.new.inputs);
        for local in 0..from.inputs.board.count() {
            let family = from.inputs.board.family(local);
            let slots = new.slots.iter().enumerate();
            for (number, slot) in slots.filter(|(_, slot)| slot.family == family && slot.guard != GuardPlan::Nothing) {
                let before = old.slots.iter().find(|other| other.control == slot.control && other.sort == slot.sort);
                let Some(before) = before else { continue };
                self.inputs.guards.carry(slot.guard, &from.inputs.guards, before.guard, local);
                self.inputs.guards.watches(slot.guard, GuardedControl { local, slot: number as u16 });
            }
        }
    }
}
