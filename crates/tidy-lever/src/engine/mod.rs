//! A seat's whole mutable state: one engine of fixed size, copied without allocating.
//!
//! ```text
//!   queue ─▶ inputs ─▶ cues ─▶ pulls ─▶ actions ─▶ log
//!               what the game told: world ──┘
//! ```

mod actions;
mod capacity;
mod carry;
mod deeds;
mod hash;
pub(crate) mod incoming;
pub(crate) mod inputs;
mod listen;
mod log;
pub(crate) mod moment;
pub(crate) mod part;
pub(crate) mod pulls;
mod queue;
mod relink;
mod tally;
pub(crate) mod values;
mod ways;
pub(crate) mod world;

pub(crate) use actions::{ActionState, Toggled};
pub use capacity::{Capacity, CapacityError, MOST_CAPACITY};
pub(crate) use deeds::Deeds;
pub(crate) use inputs::Inputs;
pub(crate) use log::{Log, Sums};
pub(crate) use pulls::cues::Cues;
pub(crate) use pulls::lists::Pulls;
pub use relink::Relinked;
pub(crate) use tally::Tally;
pub(crate) use ways::Ways;
pub(crate) use world::state::{MARKS, World};

use crate::cue::IdleRegion;
use crate::engine::incoming::Incoming;
use crate::engine::part::Field;
use crate::linkage::Plan;
use crate::sparse::Sparse;

#[derive(Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Engine {
    /// The first moment that is not yet played.
    pub(crate) next: u64,
    pub(crate) queue: Incoming,
    pub(crate) inputs: Inputs,
    pub(crate) cues: Cues,
    pub(crate) world: World,
    pub(crate) pulls: Pulls,
    pub(crate) actions: Sparse<ActionState>,
    pub(crate) log: Log,
    /// While nothing is news and nothing moves by itself: the next moment at which something is due. 0 if that isn't known.
    /// It only saves time, and is not part of the state.
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) wake: u64,
    /// When the next timer is due, as playing left it; 0 if that isn't known. It only saves time, too.
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) due: u64,
    /// What was done to it. It only saves time, and is not part of the state.
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) deeds: Deeds,
}

impl Engine {
    pub(crate) fn new(plan: &Plan, at: u64, room: Capacity) -> Engine {
        let world = World::new(plan, at, room);
        let mut engine = Engine {
            next: at,
            queue: Incoming::new(room.waiting),
            inputs: Inputs::new(plan, at, room),
            cues: Cues::new(plan, at, room),
            pulls: Pulls::new(plan, at, room),
            actions: plan.actions.iter().map(|_| ActionState::default()).collect(),
            log: Log::new(plan, at, room),
            world,
            wake: 0,
            due: 0,
            deeds: Deeds::fresh(),
        };
        for gauge in 0..plan.world.gauges.len() {
            engine.gauge_goes_on(plan, gauge, engine.world_at(at));
        }
        engine
    }

    /// Becomes `other` without allocating, where both were made for the same linkage and room.
    pub(crate) fn copy_from(&mut self, other: &Engine) {
        self.next = other.next;
        self.queue.copy_from(&other.queue);
        self.inputs.copy_from(&other.inputs);
        self.cues.copy_from(&other.cues);
        self.world.copy_from(&other.world);
        self.pulls.copy_from(&other.pulls);
        self.actions.copy(&other.actions);
        self.log.copy_from(&other.log);
        (self.wake, self.due, self.deeds) = (0, 0, other.deeds);
        self.inputs.sweeps_rest = false;
        self.cues.idle.fill(IdleRegion::NONE);
    }

    /// Becomes `other`, of the same deeds: ticks in which nothing was due changed no more than this.
    pub(crate) fn catch_up(&mut self, other: &Engine) {
        (self.next, self.log.tick) = (other.next, other.log.tick);
        debug_assert_eq!(self.hash(), other.hash(), "the same deeds come to the same state");
        debug_assert_eq!(self.log.ring.point(), other.log.ring.point(), "and to the same history");
    }

    /// The last moment played; the first one of all before the first `advance`.
    pub(crate) fn played(&self) -> u64 {
        if self.log.tick > 0 { self.next - 1 } else { self.next }
    }

    /// Whether nothing at all is due up to a moment, and nothing was news: then it is played already.
    #[inline]
    pub(crate) fn sleeps_until(&mut self, to: u64) -> bool {
        let sleeps = to < self.wake && to >= self.next;
        if sleeps {
            self.log.tick = self.log.tick.wrapping_add(1).max(1);
            self.next = to + 1;
        }
        sleeps
    }

    /// A tick is over. If nothing happened in it, the next one need not look until the next moment at which something is
    /// due.
    #[inline]
    pub(crate) fn fall_asleep(&mut self, next: u64) {
        let is_quiet = self.log.ring.total() == self.log.tick_began
            && self.inputs.used.before == self.inputs.used.changes
            && self.log.ledger.is_none()
            && (self.inputs.sweeps_rest || self.do_sweeps_rest());
        self.wake = if is_quiet { next } else { 0 };
    }

    /// Whether no sweep goes on by itself, or went on in this tick.
    #[inline(never)]
    fn do_sweeps_rest(&self) -> bool {
        self.inputs.sweeps.iter().zip(&self.inputs.swept).all(|(sweep, swept)| sweep.rests_at(*swept))
    }

    /// A new tick begins: what the last one did is no longer news.
    #[inline]
    pub(crate) fn begin_tick(&mut self) {
        if !self.inputs.sweeps_rest || self.log.ledger.is_some() {
            self.leave_tick();
        }
        self.log.tick = self.log.tick.wrapping_add(1).max(1);
        self.log.tick_began = self.log.ring.total();
        self.inputs.used.before = self.inputs.used.changes;
    }

    /// Notes how the sweeps stand at the end of a tick, and what the ledger need not wait for any longer.
    #[inline(never)]
    fn leave_tick(&mut self) {
        let played = self.played();
        for (swept, sweep) in self.inputs.swept.iter_mut().zip(&self.inputs.sweeps) {
            *swept = sweep.nanos(played);
        }
        self.inputs.sweeps_rest = self.do_sweeps_rest();
        if let Some(ledger) = &mut self.log.ledger {
            ledger.tidy(played, false);
        }
    }

    /// How much it has room for.
    pub(crate) fn room(&self) -> Capacity {
        Capacity {
            waiting: self.queue.capacity(),
            history: self.log.ring.capacity(),
            devices: self.inputs.board.device_room(),
        }
    }

    /// A copy with all of its room, and no ledger.
    pub(crate) fn copy(&self, plan: &Plan) -> Engine {
        let mut copy = Engine::new(plan, self.next, self.room());
        copy.copy_from(self);
        copy
    }
}

#[cfg(test)]
mod tests;
