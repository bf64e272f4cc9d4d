//! A seat's whole mutable state: one block of fixed size, copied without allocating.

use alloc::boxed::Box;
use alloc::vec;
use alloc::vec::Vec;

use xxhash_rust::xxh64::Xxh64;

use super::Room;
use super::Used;
use super::settle::Served;
use super::waiting::Queue;
use super::world::MARKS;
use crate::board::Board;
use crate::cue::rolls::{Motion, MotionSet, MotionState};
use crate::cue::{Meeting, Presses, Trial};
use crate::gate::{Truth, TruthPlan};
use crate::gauge::GaugeState;
use crate::history::Ring;
use crate::ledger::Ledger;
use crate::linkage::{ActionPlan, NONE, Plan};
use crate::mode::Modes;
use crate::panel::Fingers;
use crate::pointer::{PointerState, VIEW};
use crate::signal::{Aim, CrossState, Moved};
use crate::sweep::SweepState;
use crate::timers::Timers;

/// Running sums of an action; they wrap, and only differences are read.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Sums {
    pub(crate) pressed: u32,
    pub(crate) released: u32,
    pub(crate) pulled: u32,
}

/// What every action has.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct ActionState {
    /// Since when it is down, of its first control.
    pub(crate) since: u64,
    /// How long it was down last, in µs.
    pub(crate) was_held: u64,
    /// Since when it is on.
    pub(crate) on_since: u64,
    /// Until when it cools down, on the world's clock.
    pub(crate) cool_until: u64,
    /// The newest press of its own.
    pub(crate) press: u64,
    pub(crate) stage: u8,
    pub(crate) stage_before: u8,
    /// Its gate was closed while it was held, so the gate's opening pulls.
    pub(crate) armed: bool,
    /// When it pulled last, and on which presses.
    pub(crate) pulled_in: u64,
    pub(crate) pulled_on: Presses,
    pub(crate) sums: Sums,
    /// The sums before the tick that changed them last.
    pub(crate) before: Sums,
    pub(crate) tick: u32,
    /// How many controls hold it down, counted by device.
    pub(crate) held: u16,
    pub(crate) on: bool,
    pub(crate) listens: bool,
}

/// A cue that was met, and has not pulled yet.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Met {
    pub(crate) action: u16,
    pub(crate) meeting: Meeting,
    pub(crate) aim: Aim,
    /// It was met in this very moment.
    pub(crate) fresh: bool,
    /// What it stands on was let go in the moment in which it was met.
    pub(crate) let_go: bool,
    /// Since when it is kept; `NEVER` if it isn't.
    pub(crate) kept: u64,
}

#[derive(Debug)]
pub(crate) struct Block {
    /// The first moment that is not yet played.
    pub(crate) next: u64,
    /// Counts calls of `advance`.
    pub(crate) tick: u32,
    /// How many happenings there were before the last `advance`.
    pub(crate) tick_began: u64,
    pub(crate) queue: Queue,
    pub(crate) board: Board,
    /// By wire, one bit a device: held since before the action listened.
    pub(crate) stale: Vec<u64>,
    pub(crate) crosses: Vec<CrossState>,
    pub(crate) moved: Vec<Moved>,
    pub(crate) sweeps: Vec<SweepState>,
    /// The sweeps' totals before the last `advance`, in billionths of a degree.
    pub(crate) swept: Vec<[i64; 2]>,
    pub(crate) pointers: Vec<PointerState>,
    pub(crate) view: [u32; 2],
    pub(crate) fingers: Fingers,
    pub(crate) used: Used,
    /// How far each action's cue has come.
    pub(crate) trials: Vec<Trial>,
    /// What rules that slide remember.
    pub(crate) moments: Vec<u64>,
    /// The cues' timers, by action, on the hand's clock.
    pub(crate) timers: Timers,
    /// Timers on the world's clock: gauges, then marks.
    pub(crate) world_timers: Timers,
    /// Which action and which of its marks.
    pub(crate) marks: Vec<(u16, u8)>,
    pub(crate) gauges: Vec<GaugeState>,
    pub(crate) served: Vec<Served>,
    /// Since when the world stands still, and for how long it did before.
    pub(crate) frozen_since: Option<u64>,
    pub(crate) frozen_for: u64,
    /// Empty between moments.
    pub(crate) met: Vec<Met>,
    /// Pulls that are held back for others.
    pub(crate) waits: Vec<Met>,
    /// Pulls that a gate refused, one an action.
    pub(crate) kept: Vec<Met>,
    pub(crate) truths: Vec<Truth>,
    /// When gates that ask what is on are looked at again.
    pub(crate) recheck: Option<u64>,
    /// Whether any action pulls while held, so that its gate must always be looked at.
    pub(crate) rechecks: bool,
    pub(crate) actions: Vec<ActionState>,
    pub(crate) facts: Vec<u16>,
    pub(crate) modes: Modes,
    pub(crate) ring: Ring,
    /// Nothing pulls while a gap is passed.
    pub(crate) muted: bool,
    /// How far the motions of each stick have come.
    pub(crate) motions: Vec<MotionState>,
    /// Empty between events: what they did just now.
    pub(crate) shown: Vec<Motion>,
    /// The devices that moved each stick lately; and the one whose event is played.
    pub(crate) hands: Vec<u64>,
    pub(crate) hand: u8,
    /// Lies outside the state: neither saved nor hashed.
    pub(crate) ledger: Option<Box<Ledger>>,
}

/// How a truth stands at first.
fn first_truth(plan: &Plan, truth: &TruthPlan) -> Truth {
    Truth { holds: plan.facts[usize::from(truth.fact)].first == truth.value, ..Truth::default() }
}

/// At most every step of a stick's motions goes on, and another breaks.
fn shown_room(plan: &Plan) -> usize {
    2 * plan.motion_sets.iter().map(MotionSet::step_count).max().unwrap_or(0)
}

/// How often an action can be met in one moment, or wait, beside every other that does so once.
const AT_ONCE: usize = 16;

impl Block {
    pub(crate) fn new(plan: &Plan, at: u64, room: Room) -> Block {
        let modes = Modes::new(&plan.modes);
        let listens = |heard| modes.hears(&plan.modes, heard);
        let count = |which: &dyn Fn(&ActionPlan) -> bool| plan.actions.iter().filter(|action| which(action)).count();
        let waiters = count(&|action| !action.waits_for.is_empty());
        let state = |heard| ActionState { listens: listens(heard), ..ActionState::default() };
        let mut block = Block {
            next: at,
            tick: 0,
            tick_began: 0,
            queue: Queue::new(room.waiting),
            board: Board::new(plan, room.devices),
            stale: vec![0; plan.wires.len()],
            crosses: vec![CrossState::default(); plan.crosses.len()],
            moved: vec![Moved::default(); plan.moved.len()],
            sweeps: vec![SweepState::starting(at); plan.sweeps],
            swept: vec![[0; 2]; plan.sweeps],
            pointers: vec![PointerState::default(); plan.pointers.len()],
            view: VIEW,
            fingers: Fingers::default(),
            used: Used::default(),
            trials: vec![Trial::default(); plan.declared],
            moments: vec![0; plan.moments],
            timers: Timers::new(plan.first_mash_timer() + plan.declared),
            world_timers: Timers::new(plan.first_mark_timer() + MARKS * plan.marks),
            marks: vec![(NONE, 0); MARKS * plan.marks],
            gauges: plan.gauges.iter().map(|gauge| GaugeState::new(gauge, at)).collect(),
            served: vec![Served::default(); plan.groups],
            frozen_since: (plan.facts[plan.frozen].first == 1).then_some(at),
            frozen_for: 0,
            met: Vec::with_capacity(plan.declared + AT_ONCE),
            waits: Vec::with_capacity(if waiters > 0 { waiters + AT_ONCE } else { 0 }),
            kept: Vec::with_capacity(count(&|action| action.keep > 0) + 1),
            truths: plan.truths.iter().map(|truth| first_truth(plan, truth)).collect(),
            recheck: None,
            rechecks: !plan.while_held.is_empty(),
            actions: plan.actions.iter().map(|action| state(&action.heard)).collect(),
            facts: plan.facts.iter().map(|fact| fact.first).collect(),
            ring: Ring::new(room.history),
            muted: false,
            motions: plan.motion_sets.iter().map(MotionState::new).collect(),
            shown: Vec::with_capacity(shown_room(plan)),
            hands: vec![0; plan.moved.len()],
            hand: 0,
            ledger: None,
            modes,
        };
        for gauge in 0..plan.gauges.len() {
            block.gauge_goes_on(plan, gauge, block.world(at));
        }
        block
    }

    /// How many there are of everything that a linkage decides: blocks of other linkages don't fit.
    pub(crate) fn extent(&self) -> [usize; 14] {
        [
            self.stale.len(),
            self.crosses.len(),
            self.moved.len(),
            self.sweeps.len(),
            self.pointers.len(),
            self.actions.len(),
            self.moments.len(),
            self.marks.len(),
            self.gauges.len(),
            self.served.len(),
            self.truths.len(),
            self.board.contacts.len(),
            self.board.feed_count(),
            self.shown.capacity(),
        ]
    }

    /// The last moment played; the first one of all before the first `advance`.
    pub(crate) fn played(&self) -> u64 {
        if self.tick > 0 { self.next - 1 } else { self.next }
    }

    /// A new tick begins: what the last one did is no longer news.
    pub(crate) fn begin_tick(&mut self) {
        let played = self.played();
        for (swept, sweep) in self.swept.iter_mut().zip(&self.sweeps) {
            *swept = sweep.nanos(played);
        }
        self.tick = self.tick.wrapping_add(1).max(1);
        self.tick_began = self.ring.total();
        self.used.before = self.used.changes;
        if let Some(ledger) = &mut self.ledger {
            ledger.tidy(played, false);
        }
    }

    /// Becomes `other` without allocating, where both were made for the same linkage and room.
    pub(crate) fn copy_from(&mut self, other: &Block) {
        (self.next, self.tick, self.tick_began) = (other.next, other.tick, other.tick_began);
        self.queue.copy_from(&other.queue);
        self.board.copy_from(&other.board);
        self.stale.clone_from(&other.stale);
        self.crosses.clone_from(&other.crosses);
        self.moved.clone_from(&other.moved);
        self.sweeps.clone_from(&other.sweeps);
        self.swept.clone_from(&other.swept);
        self.pointers.clone_from(&other.pointers);
        (self.view, self.fingers, self.used) = (other.view, other.fingers, other.used);
        self.trials.clone_from(&other.trials);
        self.moments.clone_from(&other.moments);
        self.timers.copy_from(&other.timers);
        self.world_timers.copy_from(&other.world_timers);
        self.marks.clone_from(&other.marks);
        self.gauges.clone_from(&other.gauges);
        self.served.clone_from(&other.served);
        (self.frozen_since, self.frozen_for) = (other.frozen_since, other.frozen_for);
        self.waits.clone_from(&other.waits);
        self.kept.clone_from(&other.kept);
        self.truths.clone_from(&other.truths);
        (self.recheck, self.rechecks) = (other.recheck, other.rechecks);
        self.actions.clone_from(&other.actions);
        self.facts.clone_from(&other.facts);
        self.modes.copy_from(&other.modes);
        self.ring.copy_from(&other.ring);
        for (state, other) in self.motions.iter_mut().zip(&other.motions) {
            state.copy_from(other);
        }
        self.hands.clone_from(&other.hands);
        self.hand = other.hand;
    }

    /// A copy with all of its room, and no ledger.
    pub(crate) fn copy(&self, plan: &Plan) -> Block {
        let room =
            Room { waiting: self.queue.capacity(), history: self.ring.capacity(), devices: self.board.device_room() };
        let mut copy = Block::new(plan, self.next, room);
        copy.copy_from(self);
        copy
    }

    /// A hash of all that decides what happens next, the same on every platform. What only tells of the last tick is
    /// left out, so that other cuts of the same tape give the same hash.
    pub(crate) fn hash(&self) -> u64 {
        let mut hash = Xxh64::new(0);
        let mut word = |word: u64| hash.update(&word.to_le_bytes());
        word(self.next);
        self.queue.iter().flat_map(|waiting| waiting.words()).for_each(&mut word);
        self.board.words(&mut word);
        self.stale.iter().copied().for_each(&mut word);
        self.crosses.iter().for_each(|cross| word(cross.left));
        self.moved.iter().flat_map(Moved::words).for_each(&mut word);
        let played = self.played();
        self.sweeps.iter().flat_map(|sweep| sweep.words(played)).for_each(&mut word);
        self.pointers.iter().flat_map(PointerState::words).for_each(&mut word);
        word(u64::from(self.view[0]) << 32 | u64::from(self.view[1]));
        self.fingers.words(&mut word);
        self.used.words().into_iter().for_each(&mut word);
        self.trials.iter().flat_map(Trial::words).for_each(&mut word);
        self.moments.iter().copied().for_each(&mut word);
        self.timers.words().for_each(&mut word);
        self.world_timers.words().for_each(&mut word);
        self.gauges.iter().flat_map(GaugeState::words).for_each(&mut word);
        self.served.iter().flat_map(Served::words).for_each(&mut word);
        word(self.frozen_since.map_or(u64::MAX, |since| since));
        word(self.frozen_for);
        self.truths.iter().flat_map(Truth::words).for_each(&mut word);
        word(self.recheck.unwrap_or(0));
        for met in self.waits.iter().chain(&self.kept) {
            word(u64::from(met.action));
            met.meeting.presses.iter().for_each(|press| word(u64::from(press)));
        }
        for action in &self.actions {
            word(action.cool_until);
            word(action.pulled_in);
            word(u64::from(action.stage) << 8 | u64::from(action.armed));
            action.pulled_on.iter().for_each(|press| word(u64::from(press)));
            word(action.since);
            word(action.was_held);
            word(action.on_since);
            word(u64::from(action.sums.pressed) << 32 | u64::from(action.sums.released));
            word(u64::from(action.sums.pulled) << 32 | u64::from(action.held) << 2);
            word(u64::from(action.on) << 1 | u64::from(action.listens));
        }
        self.motions.iter().for_each(|state| state.words(&mut word));
        self.hands.iter().copied().for_each(&mut word);
        word(u64::from(self.hand));
        self.facts.iter().for_each(|fact| word(u64::from(*fact)));
        self.modes.words().for_each(&mut word);
        hash.digest()
    }
}
