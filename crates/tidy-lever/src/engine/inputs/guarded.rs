//! Controls of worn devices: what guards let through counts, what they decide later counts then.

use crate::cause::Cause;
use crate::control::Family;
use crate::engine::inputs::{Here, Inputs};
use crate::event::{Device, DeviceName};
use crate::guard::{Decided, FamilyGuard, GuardPlan, GuardedBy, GuardedControl, Heard, StickHeard, SwallowedEntry};
use crate::index::run;
use crate::linkage::{InputsPlan, SlotPlan};

impl Inputs {
    /// A control says something of which its guard may let nothing through, or something else.
    #[inline(never)]
    pub(crate) fn guarded_says(&mut self, here: Here<'_>, number: u16, local: u8, to: (i32, i32)) {
        let slot = &here.plan.slots[usize::from(number)];
        let (guard, guards) = (*self.board.guard(here.plan, local), &mut self.guards);
        let is_told = self.swallowed.is_some();
        let deaf = if is_told { guards.deaf_at(slot.guard, local, guard.spans, here.at) } else { None };
        let mut arm_unheard = false;
        let heard = match slot.guard {
            GuardPlan::Nothing => Heard::Level(to),
            GuardPlan::Button(place) => match guards.button_says(guard.spans, (local, place), here.at, to.0) {
                true => Heard::Level(to),
                false => Heard::Nothing,
            },
            GuardPlan::Arms(place) => {
                let (heard, is_unheard) = guards.arms_say(guard.spans, (local, place), here.at, to);
                arm_unheard = is_unheard;
                heard
            }
            GuardPlan::Stick(place) => Heard::Stick(guards.stick_says(guard, (local, place), here.at, to)),
        };
        guards.watches(slot.guard, GuardedControl { local, slot: number });
        match heard {
            Heard::Nothing => {
                self.tally.bounces += 1;
                self.swallows(slot, local, deaf, (0, 0), here.at);
            }
            Heard::Stick(StickHeard { heard, seen }) if heard != seen => {
                self.tally.swings += 1;
                let deaf = if is_told { self.guards.deaf_at(slot.guard, local, guard.spans, here.at) } else { None };
                self.swallows(slot, local, deaf, seen, here.at);
            }
            Heard::Stick(_) => self.hears_again(slot, local, here.at),
            Heard::Level(_) if arm_unheard => {
                // One arm counts, another one bounces.
                self.tally.bounces += 1;
                self.swallows(slot, local, deaf, (0, 0), here.at);
            }
            Heard::Level(_) => {}
        }
        self.counts(here, slot, local, heard, Cause::LetGo);
    }

    /// Notes what was not heard, for people.
    fn swallows(&mut self, slot: &SlotPlan, local: u8, deaf: Option<(u64, u64, GuardedBy)>, push: (i32, i32), at: u64) {
        let (Some(log), Some((from, done, by))) = (&mut self.swallowed, deaf) else { return };
        let (device, control) = (self.board.device(local), slot.control);
        log.note(SwallowedEntry { device, control, by, from, to: at, done, push, count: 1, over: false });
    }

    /// Notes that a stick is heard again.
    fn hears_again(&mut self, slot: &SlotPlan, local: u8, at: u64) {
        if let Some(log) = &mut self.swallowed {
            log.is_heard_again(self.board.device(local), slot.control, at);
        }
    }

    /// What counts of a guarded control.
    pub(crate) fn counts(&mut self, here: Here<'_>, slot: &SlotPlan, local: u8, heard: Heard, cause: Cause) {
        match heard {
            Heard::Nothing => {}
            Heard::Level(level) => self.apply_level(here, slot, local, level, cause),
            Heard::Stick(StickHeard { heard, seen }) if heard == seen => {
                self.apply_level(here, slot, local, heard, cause);
            }
            Heard::Stick(StickHeard { heard, seen }) => self.apply_level_apart(here, slot, local, (heard, seen), cause),
        }
    }

    /// A stick that counts as one thing for sweeps, and as another for all else.
    fn apply_level_apart(
        &mut self,
        here: Here<'_>,
        slot: &SlotPlan,
        local: u8,
        (heard, seen): ((i32, i32), (i32, i32)),
        cause: Cause,
    ) {
        let feeds = &here.plan.feeds[run(&slot.feeds)];
        self.apply_level(here, slot, local, heard, cause);
        for (number, feed) in (slot.feeds.start..).zip(feeds).filter(|(_, feed)| here.plan.is_of_sweep(feed)) {
            self.feed_stands((feed, number), local, seen);
            self.feed_moves(here, feed, cause);
        }
    }

    /// A guard decides what is due, the first by device, then by control; whether there was one.
    #[inline(never)]
    pub(crate) fn guards_decide(&mut self, here: Here<'_>) -> bool {
        if self.guards.next_due() > here.at {
            return false;
        }
        let first = self.first_guard_due(here);
        if let Some((local, slot, part)) = first {
            let slot = &here.plan.slots[slot];
            let to = self.board.said(slot, local);
            let spans = self.board.guard(here.plan, local).spans;
            let Decided { heard, as_level } = self.guards.decides((slot.guard, part), spans, local, here.at, to);
            let cause = if as_level { Cause::Resynced } else { Cause::LetGo };
            self.tally.middles += u64::from(as_level);
            self.device = local;
            if let (Some(log), Heard::Level(_)) = (&mut self.swallowed, heard) {
                log.is_heard_after_all(self.board.device(local), slot.control, here.at);
            }
            if matches!(heard, Heard::Stick(StickHeard { heard, seen }) if heard == seen) {
                self.hears_again(slot, local, here.at);
            }
            self.counts(here, slot, local, heard, cause);
        }
        self.guards.tidy(|control| here.plan.slots[usize::from(control.slot)].guard);
        first.is_some()
    }

    /// The first control, by device and number, of which a part decides something now.
    fn first_guard_due(&self, here: Here<'_>) -> Option<(u8, usize, usize)> {
        let due = self.guards.busy().iter().filter_map(|control| {
            let how = &here.plan.slots[usize::from(control.slot)];
            let (due, part) = self.guards.due_of(how.guard, control.local)?;
            let device = self.board.device(control.local).number();
            let order = (device, how.control.number(), part);
            (due <= here.at).then_some((order, (control.local, usize::from(control.slot), part)))
        });
        due.min_by_key(|(order, _)| *order).map(|(_, found)| found)
    }

    /// What is under way on these devices ends: each control counts as it stands, as a level.
    pub(crate) fn guards_settle(&mut self, here: Here<'_>, bits: u64) {
        for local in 0..self.board.count() {
            for slot in self.guarded_of(here, local, bits) {
                let to = self.board.said(slot, local);
                let heard = self.guards.settles(slot.guard, local, to);
                self.counts(here, slot, local, heard, Cause::Resynced);
            }
        }
    }

    /// What is known of these devices is forgotten: they are gone. A middle that a player's file fixes is not learnt, and stays.
    pub(crate) fn guards_forget(&mut self, here: Here<'_>, bits: u64) {
        for local in 0..self.board.count() {
            let guard = *self.board.guard(here.plan, local);
            for slot in self.guarded_of(here, local, bits) {
                self.guards.forgets(slot.guard, local);
                self.guards.is_seen_from(slot.guard, local, (None, guard.middle_of(slot.control)));
            }
        }
    }

    /// A pad has a name: it is guarded as a player's file says for that name.
    pub(crate) fn named(&mut self, here: Here<'_>, device: Device, name: DeviceName) {
        let local = self.board.local(here.plan, device, Family::Pad);
        let before = *self.board.guard(here.plan, local);
        self.board.name(here.plan, local, name);
        self.sees_from_middles(here, local, &before);
    }

    /// Another guard counts for a device: sticks are seen from the middles that are set there, which presses and pulls nothing.
    pub(crate) fn sees_from_middles(&mut self, here: Here<'_>, local: u8, before: &FamilyGuard) {
        let now = *self.board.guard(here.plan, local);
        for slot in self.guarded_of(here, local, 1 << local) {
            let middles = (before.middle_of(slot.control), now.middle_of(slot.control));
            if let Some(stick) = self.guards.is_seen_from(slot.guard, local, middles) {
                self.device = local;
                self.counts(here, slot, local, Heard::Stick(stick), Cause::Resynced);
            }
        }
    }

    /// The guarded controls of a device, if it is among these.
    fn guarded_of<'p>(&self, here: Here<'p>, local: u8, bits: u64) -> impl Iterator<Item = &'p SlotPlan> + use<'p> {
        let family = (bits & (1 << local) != 0).then(|| self.board.family(local));
        here.plan.slots.iter().filter(move |slot| Some(slot.family) == family && slot.guard != GuardPlan::Nothing)
    }

    /// Guards go over to another plan: a span that runs keeps its end.
    pub(crate) fn carry_guards(&mut self, from: &Inputs, old: &InputsPlan, new: &InputsPlan) {
        for local in 0..from.board.count() {
            let family = from.board.family(local);
            let slots = new.slots.iter().enumerate();
            for (number, slot) in slots.filter(|(_, slot)| slot.family == family && slot.guard != GuardPlan::Nothing) {
                let before = old.slots.iter().find(|other| other.control == slot.control && other.sort == slot.sort);
                let Some(before) = before else { continue };
                self.guards.carry(slot.guard, &from.guards, before.guard, local);
                self.guards.watches(slot.guard, GuardedControl { local, slot: number as u16 });
            }
        }
    }
}
