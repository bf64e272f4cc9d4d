//! The world's clock: it stands still while the fact `frozen` is told. Gauges, cooldowns and marks go by it.

use super::block::Block;
use crate::cue::{Meeting, Presses};
use crate::history::{Happening, What};
use crate::linkage::{NONE, Plan};
use crate::time::Moment;
use crate::timers::Phase;

/// How many of one mark may be under way.
pub(super) const MARKS: usize = 64;

impl Block {
    /// The world's clock at a moment of the hand's, in µs.
    pub(crate) fn world(&self, at: u64) -> u64 {
        at.min(self.frozen_since.unwrap_or(at)) - self.frozen_for
    }

    /// The next moment at which anything plays.
    pub(super) fn next_moment(&self) -> Option<u64> {
        let world = self.world_timers.next().filter(|_| self.frozen_since.is_none());
        let world = world.map(|(world, _)| world + self.frozen_for);
        let hand = self.timers.next().map(|(at, _)| at);
        [self.queue.next_at(), hand, world].into_iter().flatten().min().map(|at| at.max(self.next))
    }

    /// The game told a fact.
    pub(super) fn tell(&mut self, plan: &Plan, fact: usize, value: u16, at: u64) {
        if self.facts[fact] == value {
            return;
        }
        self.facts[fact] = value;
        if fact == plan.frozen {
            match self.frozen_since.take() {
                None => self.frozen_since = Some(at),
                Some(since) => self.frozen_for += at - since,
            }
        }
    }

    /// Plays the world's timers that are due at a moment.
    pub(super) fn world_falls_due(&mut self, plan: &Plan, at: u64) {
        if self.frozen_since.is_some() {
            return;
        }
        while let Some(owner) = self.world_timers.take(self.world(at), Phase::Due) {
            if owner < plan.gauges.len() {
                self.gauge_pulls(plan, owner, Presses::default(), at);
            } else {
                let (action, mark) = self.marks[owner - plan.gauges.len()];
                let at = Moment::from_micros(at);
                self.ring.push(Happening::new(at, at, action, What::Mark(mark)));
            }
        }
    }

    /// The moments at which a pull's marks come back.
    pub(super) fn set_marks(&mut self, plan: &Plan, action: usize, at: u64) {
        for (mark, (_, span)) in plan.actions[action].marks.iter().enumerate() {
            // More than there is room for at once means thousands of pulls a second: the latest are left out.
            if let Some(owner) = self.world_timers.free_from(plan.gauges.len()) {
                self.marks[owner - plan.gauges.len()] = (action as u16, mark as u8);
                self.world_timers.set(owner, self.world(at) + span, Phase::Due);
            }
        }
    }

    /// Drops the marks of an action that are under way.
    pub(super) fn drop_marks(&mut self, plan: &Plan, action: usize) {
        if plan.actions[action].marks.is_empty() {
            return;
        }
        for place in 0..self.marks.len() {
            if usize::from(self.marks[place].0) == action {
                self.world_timers.drop(plan.gauges.len() + place);
            }
        }
    }

    pub(super) fn gauge_pressed(&mut self, plan: &Plan, action: usize, press: u64, at: u64) {
        let number = usize::from(plan.actions[action].gauge);
        let world = self.world(at);
        let was_there = self.gauges[number].is_at_end(&plan.gauges[number], world);
        self.gauges[number].push(&plan.gauges[number], world);
        if !was_there && self.gauges[number].is_at_end(&plan.gauges[number], world) {
            self.gauge_pulls(plan, number, Presses::one(press), at);
        }
        self.gauge_goes_on(plan, number, world);
    }

    pub(super) fn gauge_let_go(&mut self, plan: &Plan, action: usize, at: u64) {
        let number = usize::from(plan.actions[action].gauge);
        let world = self.world(at);
        self.gauges[number].let_go(&plan.gauges[number], world);
        self.gauge_goes_on(plan, number, world);
    }

    /// Sets a gauge's timer for the moment at which time alone brings it to its end.
    pub(super) fn gauge_goes_on(&mut self, plan: &Plan, number: usize, world: u64) {
        match self.gauges[number].reaches(&plan.gauges[number], world) {
            Some(due) => self.world_timers.set(number, due, Phase::Due),
            None => self.world_timers.drop(number),
        }
    }

    /// A gauge reached the end at which it pulls.
    fn gauge_pulls(&mut self, plan: &Plan, gauge: usize, presses: Presses, at: u64) {
        let action = plan.actions.iter().position(|action| usize::from(action.gauge) == gauge && action.gauge != NONE);
        if let Some(action) = action.filter(|action| self.actions[*action].listens && !self.muted) {
            self.meet(plan, action, Meeting { presses, pressed: at, ..Meeting::default() }, at);
        }
    }
}
