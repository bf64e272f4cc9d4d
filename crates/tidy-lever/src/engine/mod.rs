//! A seat's whole mutable state: one engine of fixed size, copied without allocating.
//!
//! ```text
//!   queue ─▶ inputs ─▶ cues ─▶ pulls ─▶ actions ─▶ log
//!               what the game told: world ──┘
//! ```

mod capacity;
mod input_digest;
pub(crate) mod incoming;
pub(crate) mod inputs;
mod log;
mod moment;
pub(crate) mod part;
pub(crate) mod press;
pub(crate) mod pulls;
mod queue;
pub(crate) mod values;
mod relink_map;
pub(crate) mod world;

pub use capacity::{Capacity, CapacityError, MOST_CAPACITY};
pub(crate) use input_digest::InputDigest;
pub(crate) use inputs::Inputs;
pub(crate) use inputs::tally::Tally;
pub(crate) use log::{Log, Sums};
pub(crate) use pulls::Pulls;
pub(crate) use pulls::actions::ActionState;
pub(crate) use relink_map::RelinkMap;
pub use relink_map::Relinked;
pub(crate) use world::World;

use alloc::borrow::ToOwned;

use xxhash_rust::xxh64::Xxh64;

use crate::cause::Cause;
use crate::cue::IdleRegion;
use crate::engine::incoming::Incoming;
use crate::engine::inputs::Here;
use crate::engine::part::Field;
use crate::engine::values::ListenChange;
use crate::history::Happening;
use crate::linkage::Plan;

#[derive(Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Engine {
    /// The first moment that is not yet played.
    pub(crate) next: u64,
    pub(crate) queue: Incoming,
    pub(crate) inputs: Inputs,
    pub(crate) world: World,
    pub(crate) pulls: Pulls,
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
    pub(crate) input_digest: InputDigest,
}

impl Engine {
    pub(crate) fn new(plan: &Plan, at: u64, room: Capacity) -> Engine {
        let mut world = World::new(&plan.world, at, room);
        world.begins(&plan.world, at);
        Engine {
            next: at,
            queue: Incoming::new(room.waiting),
            inputs: Inputs::new(&plan.inputs, at, room),
            pulls: Pulls::new(plan, at, room, &world.listening),
            log: Log::new(plan, at, room),
            world,
            wake: 0,
            due: 0,
            input_digest: InputDigest::fresh(),
        }
    }

    /// Becomes `other` without allocating, where both were made for the same linkage and room.
    pub(crate) fn copy_from(&mut self, other: &Engine) {
        self.next = other.next;
        self.queue.copy_from(&other.queue);
        self.inputs.copy_from(&other.inputs);
        self.world.copy_from(&other.world);
        self.pulls.copy_from(&other.pulls);
        self.log.copy_from(&other.log);
        (self.wake, self.due, self.input_digest) = (0, 0, other.input_digest);
        self.inputs.sweeps_rest = false;
        self.pulls.cues.idle.fill(IdleRegion::NONE);
    }

    /// Becomes `other`, to which the same was done: ticks in which nothing was due changed no more than this.
    pub(crate) fn catch_up(&mut self, other: &Engine) {
        (self.next, self.log.tick) = (other.next, other.log.tick);
        debug_assert_eq!(self.hash(), other.hash(), "the same input_digest come to the same state");
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
            && self.pulls.ledger.is_none()
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
        if !self.inputs.sweeps_rest || self.pulls.ledger.is_some() {
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
        if let Some(ledger) = &mut self.pulls.ledger {
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

    /// A hash of all that decides what happens next, the same on every platform. What only tells of the last tick is
    /// left out, so that other cuts of the same tape give the same hash.
    pub(crate) fn hash(&self) -> u64 {
        let mut hash = Xxh64::new(0);
        let mut word = |word: u64| hash.update(&word.to_le_bytes());
        let played = self.played();
        let Engine { next, queue, inputs, world, pulls, log, wake: _, due: _, input_digest: _ } = self;
        word(*next);
        for waiting in queue.iter() {
            waiting.words().into_iter().for_each(&mut word);
            if let Some(name) = waiting.finger() {
                inputs.fingers.waiting_words(name).into_iter().for_each(&mut word);
            }
        }
        inputs.words(played, &mut word);
        world.all_words(played, &mut word);
        pulls.words(played, &mut word);
        log.words(played, &mut word);
        hash.digest()
    }

    /// The same state on another plan, each component its own part; what can't go on ends.
    pub(crate) fn relinked(&self, map: &RelinkMap<'_>) -> (Engine, Relinked) {
        let (old, new) = (map.old, map.new);
        let at = self.played();
        let mut engine = Engine::new(new, at, self.room());
        engine.next = self.next;
        engine.inputs.carry(&self.inputs, map);
        engine.world.carry(&self.world, map);
        engine.pulls.carry(&self.pulls, map);
        engine.log.carry(&self.log, map);
        for queued in self.queue.iter().filter_map(|queued| map.queued(queued)) {
            engine.queue.push(queued);
        }
        engine.log.ring = self.log.ring.mapped(new.stamp, |happening| {
            let over = happening.over.and_then(|action| map.after(action.number()));
            Some(Happening { action: map.after(happening.action)?.number(), over, ..*happening })
        });
        engine.world.carry_told(&self.world, map, at);
        engine.pulls.listening.copy(&engine.world.listening);
        engine.pulls.facing = engine.world.facing(&new.world);
        engine.inputs.carry_over(&self.inputs, map);
        engine.world.carry_actions(&self.world, map, at);
        engine.log.carry_sums(&self.log, map);
        engine.pulls.carry_actions(&self.pulls, map);
        let mut relinked = engine.pulls.carry_rules(&self.pulls, map, at);
        engine.carry_outcomes(new, at);
        engine.knows_held();
        engine.inputs.settle_hands(
            Here::new(&new.inputs, &engine.world.listening, at),
            (&self.inputs, &self.world.listening),
            map,
        );
        engine.carry_edges(new, at);
        engine.knows_held();
        for action in 0..new.declared {
            let Some(listened) = map.before(action).map(|before| self.world.listening[before]) else { continue };
            let listens = engine.world.listening[action];
            if listens != listened {
                engine.carry_change(new, ListenChange { action, listens }, Cause::Relinked, at);
            }
        }
        for local in 0..self.inputs.board.count() {
            let before = *self.inputs.board.guard(&old.inputs, local);
            engine.inputs.sees_from_middles(Here::new(&new.inputs, &engine.world.listening, at), local, &before);
            engine.carry_edges(new, at);
        }
        relinked.lost =
            (0..old.declared).filter(|n| map.after[*n].is_none()).map(|n| old.actions[n].name.to_owned()).collect();
        (engine, relinked)
    }

    /// Tells cues which actions are held.
    fn knows_held(&mut self) {
        for (held, button) in self.pulls.cues.held.iter_mut().zip(self.inputs.buttons.iter()) {
            *held = button.held > 0;
        }
    }
}

#[cfg(test)]
mod tests;
