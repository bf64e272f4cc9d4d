//! Controls of worn devices: what guards let through counts, what they decide later counts then.

use super::block::Block;
use crate::cause::Cause;
use crate::guard::{Decided, GuardPlan, Heard, StickHeard};
use crate::index::run;
use crate::inputs::SlotPlan;
use crate::linkage::Plan;
use crate::seat::ways::Ways;
use crate::time::NEVER;

impl Block {
    /// A control says something of which its guard may let nothing through, or something else.
    #[inline(never)]
    pub(super) fn guarded_says(&mut self, plan: &Plan, slot: &SlotPlan, local: u8, to: (i32, i32), at: u64) {
        let guard = plan.inputs.guards[slot.family.index()];
        let heard = match slot.guard {
            GuardPlan::Stick(place) => {
                let stick = self.inputs.guards.stick_says(guard, (local, place), at, to);
                if stick.heard == stick.seen {
                    return self.stands(plan, slot, local, stick.heard, Cause::LetGo, at);
                }
                self.log.tally.swings += 1;
                Heard::Stick(stick)
            }
            GuardPlan::Arms(place) => self.inputs.guards.arms_say(guard.spans, (local, place), at, to),
            GuardPlan::Button(place) if !self.inputs.guards.button_says(guard.spans, (local, place), at, to.0) => {
                Heard::Nothing
            }
            GuardPlan::Nothing | GuardPlan::Button(_) => Heard::Level(to),
        };
        self.log.tally.bounces += u64::from(heard == Heard::Nothing);
        self.counts(plan, slot, local, heard, Cause::LetGo, at);
    }

    /// What counts of a guarded control.
    pub(super) fn counts(&mut self, plan: &Plan, slot: &SlotPlan, local: u8, heard: Heard, cause: Cause, at: u64) {
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
        let is_sweep = |feed: &crate::inputs::FeedPlan| {
            feed.moved.is_some_and(|moved| plan.inputs.moved[usize::from(moved)].sweep.is_some())
        };
        self.stands(plan, slot, local, heard, cause, at);
        for (number, feed) in (slot.feeds.start..).zip(feeds).filter(|(_, feed)| is_sweep(feed)) {
            self.feed_stands((feed, number), local, seen);
            self.feed_moves(plan, feed, cause, at);
        }
    }

    /// Guards decide what is due, by device, then by control.
    #[inline(never)]
    pub(super) fn guards_decide(&mut self, plan: &Plan, at: u64) {
        while let Some((local, slot, part)) = self.first_guard_due(plan, at) {
            let slot = &plan.inputs.slots[slot];
            let to = self.inputs.board.said(slot, local);
            let spans = plan.inputs.guards[slot.family.index()].spans;
            let Decided { heard, as_level } = self.inputs.guards.decides((slot.guard, part), spans, local, at, to);
            let cause = if as_level { Cause::Resynced } else { Cause::LetGo };
            self.log.tally.middles += u64::from(as_level);
            self.inputs.hand = local;
            self.counts(plan, slot, local, heard, cause, at);
        }
        let next = self
            .guarded(plan)
            .filter_map(|(local, slot)| Some(self.inputs.guards.due_of(plan.inputs.slots[slot].guard, local)?.0));
        let next = next.min().unwrap_or(NEVER);
        self.inputs.guards.wakes(next);
    }

    /// The guarded controls of all devices that spoke: the device's number in this seat, and the slot.
    fn guarded<'p>(&self, plan: &'p Plan) -> impl Iterator<Item = (u8, usize)> + use<'p, '_> {
        (0..self.inputs.board.count()).flat_map(move |local| {
            let family = self.inputs.board.family(local);
            let slots = plan.inputs.slots.iter().enumerate();
            let own = slots.filter(move |(_, slot)| slot.family == family && slot.guard != GuardPlan::Nothing);
            own.map(move |(number, _)| (local, number))
        })
    }

    fn first_guard_due(&self, plan: &Plan, at: u64) -> Option<(u8, usize, usize)> {
        let due = self.guarded(plan).filter_map(|(local, slot)| {
            let how = &plan.inputs.slots[slot];
            let (due, part) = self.inputs.guards.due_of(how.guard, local)?;
            let device = self.inputs.board.device(local);
            (due <= at).then_some(((device, how.control.number(), part), (local, slot, part)))
        });
        due.min_by_key(|(order, _)| *order).map(|(_, found)| found)
    }

    /// What is under way on these devices ends: each control counts as it stands, as a level.
    pub(super) fn guards_settle(&mut self, plan: &Plan, bits: u64, at: u64) {
        for local in 0..self.inputs.board.count() {
            for slot in self.guarded_of(plan, local, bits) {
                let to = self.inputs.board.said(slot, local);
                let heard = self.inputs.guards.settles(slot.guard, local, to);
                self.counts(plan, slot, local, heard, Cause::Resynced, at);
            }
        }
    }

    /// What is known of these devices is forgotten: they are gone.
    pub(super) fn guards_forget(&mut self, plan: &Plan, bits: u64) {
        for local in 0..self.inputs.board.count() {
            for slot in self.guarded_of(plan, local, bits) {
                self.inputs.guards.forgets(slot.guard, local);
            }
        }
    }

    /// The guarded controls of a device, if it is among these.
    fn guarded_of<'p>(&self, plan: &'p Plan, local: u8, bits: u64) -> impl Iterator<Item = &'p SlotPlan> + use<'p> {
        let family = (bits & (1 << local) != 0).then(|| self.inputs.board.family(local));
        plan.inputs.slots.iter().filter(move |slot| Some(slot.family) == family && slot.guard != GuardPlan::Nothing)
    }

    /// Guards go over to another plan: a span that runs keeps its end.
    pub(super) fn carry_guards(&mut self, from: &Block, ways: &Ways<'_>) {
        let (old, new) = (&ways.old.inputs, &ways.new.inputs);
        for local in 0..from.inputs.board.count() {
            let family = from.inputs.board.family(local);
            for slot in new.slots.iter().filter(|slot| slot.family == family && slot.guard != GuardPlan::Nothing) {
                let before = old.slots.iter().find(|other| other.control == slot.control && other.sort == slot.sort);
                let Some(before) = before else { continue };
                self.inputs.guards.carry(slot.guard, &from.inputs.guards, before.guard, local);
            }
        }
        self.inputs.guards.wakes(from.inputs.guards.next_due());
    }
}
