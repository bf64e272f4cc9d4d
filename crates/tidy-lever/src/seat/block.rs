//! A seat's whole mutable state: one block of fixed size, copied without allocating.

use alloc::boxed::Box;
use alloc::vec;
use alloc::vec::Vec;

use super::pending::{PendingPull, Standing};
use super::room::Room;
use super::stats::Tally;
use super::waiting::Queue;
use crate::cue::rolls::{Motion, MotionSet, MotionState};
use crate::cue::{Presses, RuleState};
use crate::gate::{Truth, TruthPlan};
use crate::gauge::GaugeState;
use crate::history::Ring;
use crate::index::NONE;
use crate::inputs::board::Board;
use crate::inputs::cross::CrossState;
use crate::inputs::fingers::Fingers;
use crate::inputs::pointer::{PointerState, VIEW};
use crate::inputs::signal::Moved;
use crate::inputs::used::Used;
use crate::ledger::Ledger;
use crate::linkage::{ActionPlan, Plan};
use crate::mode::Modes;
use crate::sweep::SweepState;
use crate::time::NEVER;
use crate::timers::Timers;

/// Running sums of an action; they wrap, and only differences are read.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Sums {
    pub(crate) pressed: u32,
    pub(crate) released: u32,
    pub(crate) pulled: u32,
}

/// What every action has.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct ActionState {
    /// Since when it is down, of its first control.
    pub(crate) since: u64,
    /// How long it was down last, in µs.
    pub(crate) last_held: u64,
    /// Since when it is on.
    pub(crate) on_since: u64,
    /// Until when it cools down, on the world's clock.
    pub(crate) cool_until: u64,
    /// The newest press of its own.
    pub(crate) press: u64,
    pub(crate) stage: u8,
    pub(crate) stage_before: u8,
    /// What its last pull made of a toggle.
    pub(crate) toggled: Toggled,
    /// When it pulled last, and on which presses.
    pub(crate) pulled_in: u64,
    pub(crate) pulled_on: Presses,
    /// Which of its cues did.
    pub(crate) pulled_by: u16,
    pub(crate) sums: Sums,
    /// The sums before the tick that changed them last.
    pub(crate) before: Sums,
    pub(crate) tick: u32,
    /// How many controls hold it down, counted by device.
    pub(crate) held: u16,
    pub(crate) on: bool,
    pub(crate) listens: bool,
}

/// What an event that moves a stick does.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) enum Moves {
    /// A key, or an arm of a cross, goes down or up with others.
    #[default]
    Press,
    /// A key goes up.
    Lift,
    /// A level changes.
    Level,
}

/// What a pull made of a toggle, so that it can be taken back.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) enum Toggled {
    /// The action is no toggle, or the pull was taken back.
    #[default]
    Not,
    On,
    /// It had been on since then.
    Off {
        since: u64,
    },
}

/// A mark that is to come back: of which action, which of its marks, and of which of its pulls.
#[derive(Clone, Copy, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Mark {
    pub(crate) action: u16,
    pub(crate) mark: u8,
    pub(crate) pull: u32,
}

#[derive(Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
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
    /// How far each cue has come.
    pub(crate) rule_states: Vec<RuleState>,
    /// What rules that slide remember.
    pub(crate) moments: Vec<u64>,
    /// The cues' timers, on the hand's clock; then those of motions and of mashing.
    pub(crate) timers: Timers,
    /// Timers on the world's clock: gauges, then marks.
    pub(crate) world_timers: Timers,
    pub(crate) marks: Vec<Mark>,
    pub(crate) gauges: Vec<GaugeState>,
    /// By place among the actions that pull again while held.
    pub(crate) standing: Vec<Standing>,
    /// Since when the world stands still, and for how long it did before.
    pub(crate) frozen_since: Option<u64>,
    pub(crate) frozen_for: u64,
    /// Empty between moments.
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) pending: Vec<PendingPull>,
    /// Pulls that are held back for others.
    pub(crate) waits: Vec<PendingPull>,
    /// Pulls that a gate refused, one an action.
    pub(crate) kept: Vec<PendingPull>,
    pub(crate) truths: Vec<Truth>,
    /// When gates that ask what is on are looked at again; `NEVER` for not at all.
    pub(crate) recheck: u64,
    /// Whether any action pulls while held, so that its gate must always be looked at.
    pub(crate) rechecks: bool,
    pub(crate) actions: Vec<ActionState>,
    pub(crate) facts: Vec<u16>,
    pub(crate) modes: Modes,
    pub(crate) ring: Ring,
    /// Nothing pulls while a gap is passed.
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) muted: bool,
    /// How far the motions of each stick have come.
    pub(crate) motions: Vec<MotionState>,
    /// Empty between events: what they did just now.
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) shown: Vec<Motion>,
    /// The devices that moved each stick lately; and the one whose event is played.
    pub(crate) hands: Vec<u64>,
    pub(crate) hand: u8,
    /// What that event does, and whether it only gave a stick back: news of this event alone.
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) moves: Moves,
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) gave_back: bool,
    /// While nothing is news and nothing moves by itself: the next moment at which something is due. 0 if that isn't known.
    /// It only saves time, and is no part of the state.
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) wake: u64,
    /// Whether the sweeps' totals are known to be those above, and to stay so by themselves. It only saves time, too.
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) sweeps_rest: bool,
    /// These lie outside the state: neither saved nor hashed.
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) tally: Tally,
    #[cfg_attr(feature = "serde", serde(skip))]
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

/// How many of one mark may be under way.
pub(crate) const MARKS: usize = 64;
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
            board: Board::new(&plan.inputs, room.devices),
            stale: vec![0; plan.inputs.wires.len()],
            crosses: vec![CrossState::default(); plan.inputs.crosses.len()],
            moved: vec![Moved::default(); plan.inputs.moved.len()],
            sweeps: vec![SweepState::starting(at); plan.sweeps],
            swept: vec![[0; 2]; plan.sweeps],
            pointers: vec![PointerState::default(); plan.inputs.pointers.len()],
            view: VIEW,
            fingers: Fingers::default(),
            used: Used::default(),
            rule_states: vec![RuleState::default(); plan.cues.len()],
            moments: vec![0; plan.moments],
            timers: Timers::new(plan.first_mash_timer() + plan.declared),
            world_timers: Timers::new(plan.first_mark_timer() + MARKS * plan.marks),
            marks: vec![Mark { action: NONE, mark: 0, pull: 0 }; MARKS * plan.marks],
            gauges: plan.gauges.iter().map(|gauge| GaugeState::new(gauge, at)).collect(),
            standing: vec![Standing::default(); plan.while_held.len()],
            frozen_since: (plan.facts[plan.frozen].first == 1).then_some(at),
            frozen_for: 0,
            pending: Vec::with_capacity(plan.declared + AT_ONCE),
            waits: Vec::with_capacity(if waiters > 0 { waiters + AT_ONCE } else { 0 }),
            kept: Vec::with_capacity(count(&|action| action.keep > 0) + 1),
            truths: plan.truths.iter().map(|truth| first_truth(plan, truth)).collect(),
            recheck: NEVER,
            rechecks: !plan.while_held.is_empty(),
            actions: plan.actions.iter().map(|action| state(&action.heard)).collect(),
            facts: plan.facts.iter().map(|fact| fact.first).collect(),
            ring: Ring::new(room.history, plan.stamp),
            muted: false,
            motions: plan.motion_sets.iter().map(MotionState::new).collect(),
            shown: Vec::with_capacity(shown_room(plan)),
            hands: vec![0; plan.inputs.moved.len()],
            hand: 0,
            moves: Moves::default(),
            gave_back: false,
            wake: 0,
            sweeps_rest: false,
            tally: Tally::default(),
            ledger: None,
            modes,
        };
        for gauge in 0..plan.gauges.len() {
            block.gauge_goes_on(plan, gauge, block.world(at));
        }
        block
    }

    /// The last moment played; the first one of all before the first `advance`.
    pub(crate) fn played(&self) -> u64 {
        if self.tick > 0 { self.next - 1 } else { self.next }
    }

    /// Whether nothing at all is due up to a moment, and nothing was news: then it is played already.
    #[inline]
    pub(crate) fn sleeps_until(&mut self, to: u64) -> bool {
        let sleeps = to < self.wake && to >= self.next;
        if sleeps {
            self.tick = self.tick.wrapping_add(1).max(1);
            self.next = to + 1;
        }
        sleeps
    }

    /// A tick is over. If nothing happened in it, the next one need not look until the next moment at which something is
    /// due.
    #[inline]
    pub(crate) fn fall_asleep(&mut self, next: u64) {
        let is_quiet = self.ring.total() == self.tick_began
            && self.used.before == self.used.changes
            && self.ledger.is_none()
            && (self.sweeps_rest || self.do_sweeps_rest());
        self.wake = if is_quiet { next } else { 0 };
    }

    /// Whether no sweep goes on by itself, or went on in this tick.
    #[inline(never)]
    fn do_sweeps_rest(&self) -> bool {
        self.sweeps.iter().zip(&self.swept).all(|(sweep, swept)| sweep.rests_at(*swept))
    }

    /// A new tick begins: what the last one did is no longer news.
    #[inline]
    pub(crate) fn begin_tick(&mut self) {
        if !self.sweeps_rest || self.ledger.is_some() {
            self.leave_tick();
        }
        self.tick = self.tick.wrapping_add(1).max(1);
        self.tick_began = self.ring.total();
        self.used.before = self.used.changes;
    }

    /// Notes how the sweeps stand at the end of a tick, and what the ledger need not wait for any longer.
    #[inline(never)]
    fn leave_tick(&mut self) {
        let played = self.played();
        for (swept, sweep) in self.swept.iter_mut().zip(&self.sweeps) {
            *swept = sweep.nanos(played);
        }
        self.sweeps_rest = self.do_sweeps_rest();
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
        self.rule_states.clone_from(&other.rule_states);
        self.moments.clone_from(&other.moments);
        self.timers.copy_from(&other.timers);
        self.world_timers.copy_from(&other.world_timers);
        self.marks.clone_from(&other.marks);
        self.gauges.clone_from(&other.gauges);
        self.standing.clone_from(&other.standing);
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
        (self.wake, self.sweeps_rest) = (0, false);
    }

    /// How much it has room for.
    pub(crate) fn room(&self) -> Room {
        Room { waiting: self.queue.capacity(), history: self.ring.capacity(), devices: self.board.device_room() }
    }

    /// A copy with all of its room, and no ledger.
    pub(crate) fn copy(&self, plan: &Plan) -> Block {
        let mut copy = Block::new(plan, self.next, self.room());
        copy.copy_from(self);
        copy
    }
}

#[cfg(test)]
mod tests;
