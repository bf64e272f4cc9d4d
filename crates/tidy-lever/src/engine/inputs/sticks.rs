//! Sticks and axes: from what their controls say to turns, directions as buttons, and what their cues hear.

use crate::cause::Cause;
use crate::control::Part;
use crate::cue::{Calm, CompiledRule, Edge, Push};
use crate::direction::Direction;
use crate::engine::inputs::cross;
use crate::engine::inputs::signal::{self, Moved, Turn};
use crate::engine::inputs::value::Value;
use crate::engine::{Engine, Moves};
use crate::fixed;
use crate::index::{StickIndex, run};
use crate::linkage::Plan;
use crate::linkage::{Alone, FeedPlan, LegOf, MovedPlan, SlotPlan};
use crate::shape::Bent;

/// How an axis or a stick stood before it moved, and how it turned, if it did.
#[derive(Clone, Copy)]
struct Stood {
    push: (i32, i32),
    live: (i32, i32),
    turn: Option<Turn>,
}

impl Engine {
    /// A control that moves levels, or turns several contacts: these first, all of them, then what stands on them, then
    /// its feeds.
    #[inline(never)]
    pub(crate) fn several(
        &mut self,
        plan: &Plan,
        slot_plan: &SlotPlan,
        local: u8,
        (x, y): (i32, i32),
        cause: Cause,
        at: u64,
    ) {
        let contacts = run(&slot_plan.contacts);
        for contact in contacts.clone() {
            let turned = self.inputs.board.turn(&plan.inputs, contact, local, (x, y));
            self.inputs.board.turned[contact] = turned.map_or(0, |down| if down { 1 } else { -1 });
        }
        if cause == Cause::LetGo {
            self.uses(slot_plan, (x, y));
        }
        for contact in contacts {
            let turned = core::mem::take(&mut self.inputs.board.turned[contact]);
            if turned != 0 {
                self.contact(plan, contact, local, turned > 0, cause, at);
            }
        }
        let feeds = &plan.inputs.feeds[run(&slot_plan.feeds)];
        for (number, feed) in (slot_plan.feeds.start..).zip(feeds) {
            self.feed_stands((feed, number), local, (x, y));
        }
        feeds.iter().for_each(|feed| self.feed_moves(plan, feed, cause, at));
    }

    /// A pair that moves nothing but axes and sticks, each of them once: each goes its own way.
    #[inline(never)]
    pub(crate) fn pair_says(&mut self, plan: &Plan, slot: &SlotPlan, local: u8, pair: (i32, i32), at: u64) {
        self.uses_pair(slot.family, pair);
        for (number, feed) in (slot.feeds.start..).zip(&plan.inputs.feeds[run(&slot.feeds)]) {
            let listens = self.actions[usize::from(feed.action)].listens;
            if listens && feed.bends.is_round() {
                self.feed_says(plan, (feed, number), local, pair, at);
            } else if !listens && feed.rests_deaf && self.inputs.board.set_aside((feed, number), local, pair) {
                debug_assert!(self.rests(feed.moved), "what nobody hears is at rest");
            } else {
                self.feed_stands((feed, number), local, pair);
                self.feed_moves(plan, feed, Cause::LetGo, at);
            }
        }
    }

    /// A feed stands where its control does, and moves what it moves: its shape is round, and somebody listens.
    #[inline(always)]
    fn feed_says(&mut self, plan: &Plan, (feed, number): (&FeedPlan, u32), local: u8, (x, y): (i32, i32), at: u64) {
        let bent =
            if feed.pair { feed.bends.round_pair(x, y) } else { feed.bends.round_level(level(feed.part, (x, y))) };
        self.inputs.board.set_feed((feed, number), local, bent);
        let Some(stick) = feed.moved.map(usize::from) else { return };
        let how = &plan.inputs.moved[stick];
        let moves = if feed.digital { Moves::Press } else { Moves::Level };
        // Nearly always it is the only one that is away from rest.
        let is_alone = match how.alone {
            Alone::Unknown => false,
            Alone::Always => true,
            Alone::BesideCross(cross) => self.inputs.crosses[cross as usize].left == 0,
        };
        if is_alone && bent.to != (0, 0) && self.inputs.board.stirred(stick) == 1 {
            debug_assert_eq!(
                self.inputs.value(plan, (stick, how)).to,
                bent.to,
                "stick {stick} has another control away"
            );
            let value = Value::given(bent.to, bent.push, feed.digital);
            if let Some(before) = self.takes(plan, (stick, how), value, Cause::LetGo, at) {
                self.inputs.moves = moves;
                self.moved_on_apart(plan, (stick, how), before, at);
            }
        } else {
            self.inputs.moves = moves;
            self.works_out(plan, (stick, how), true, Cause::LetGo, at);
        }
    }

    /// A feed stands where its control does.
    #[inline(always)]
    pub(crate) fn feed_stands(&mut self, (feed, number): (&FeedPlan, u32), local: u8, level: (i32, i32)) {
        let is_deaf = feed.pair && !self.actions[usize::from(feed.action)].listens;
        if !(is_deaf && self.inputs.board.set_aside((feed, number), local, level)) {
            self.inputs.board.set_feed((feed, number), local, bent(feed, level));
        }
    }

    /// Whether what a feed moves stands at rest.
    fn rests(&self, moved: Option<StickIndex>) -> bool {
        moved.is_none_or(|stick| self.inputs.moved[usize::from(stick)].is_still())
    }

    /// What a feed moves is worked out again.
    #[inline(always)]
    pub(crate) fn feed_moves(&mut self, plan: &Plan, feed: &FeedPlan, cause: Cause, at: u64) {
        let Some(stick) = feed.moved else { return };
        if feed.leg {
            self.crossed(plan, stick);
        }
        self.inputs.moves = if feed.digital || feed.leg { Moves::Press } else { Moves::Level };
        self.moved(plan, stick, cause, at);
    }

    /// Counts of a mouse, or a place of the pointer: what has no level that stays.
    pub(crate) fn unlevelled(&mut self, plan: &Plan, feed: &FeedPlan, x: i32, y: i32, at: u64) {
        let action = usize::from(feed.action);
        let sweep = feed.moved.and_then(|stick| plan.inputs.moved[usize::from(stick)].sweep);
        if let Some((sweep, _)) = sweep {
            if self.actions[action].listens {
                self.inputs.sweeps_rest = false;
                let fits = self.inputs.sweeps[usize::from(sweep)].count([x, y], feed.per_count);
                self.log.tally.clamped += u64::from(!fits);
            }
            return;
        }
        if let Some(pointer) = plan.actions[action].pointer {
            self.pointer_moves(plan, pointer.into(), (x, y), at);
        }
    }

    /// A leg of a cross was pressed or let go: it and the one opposite give this level.
    #[inline]
    pub(crate) fn leg_turned(&mut self, plan: &Plan, leg: LegOf, level: i32, down: bool, cause: Cause, at: u64) {
        let cross = &plan.inputs.crosses[leg.cross as usize];
        let moved = &plan.inputs.moved[usize::from(cross.moved)];
        let state = &mut self.inputs.crosses[leg.cross as usize];
        cross::leg_over(&plan.inputs, &mut self.inputs.board, state, (cross, moved), (leg.upright, level));
        self.inputs.moves = if down { Moves::Press } else { Moves::Lift };
        if cause == Cause::LetGo && moved.sweep.is_none() && self.actions[usize::from(moved.action)].listens {
            // Straight on, as nearly every key that walks.
            let number = usize::from(cross.moved);
            let value = self.inputs.value(plan, (number, moved));
            return self.goes_to(plan, (number, moved), value, Cause::LetGo, at);
        }
        self.moved(plan, cross.moved, cause, at);
    }

    /// Works an action's crosses out again, whether it listens or not, so that they are always as the legs are.
    pub(crate) fn crossed(&mut self, plan: &Plan, number: StickIndex) {
        let moved = &plan.inputs.moved[usize::from(number)];
        cross::cross_over(&plan.inputs, &mut self.inputs.board, &mut self.inputs.crosses, moved);
    }

    /// Something of an axis or a stick changed. Nothing comes of it while it is at rest and doesn't listen.
    #[inline]
    pub(crate) fn moved(&mut self, plan: &Plan, number: StickIndex, cause: Cause, at: u64) {
        let number = usize::from(number);
        let how = &plan.inputs.moved[number];
        let listens = self.actions[usize::from(how.action)].listens;
        if listens || how.is_restless || !self.inputs.moved[number].is_still() {
            self.works_out(plan, (number, how), listens, cause, at);
        }
    }

    /// Works an axis or a stick out again.
    #[inline(never)]
    fn works_out(&mut self, plan: &Plan, (number, how): (usize, &MovedPlan), listens: bool, cause: Cause, at: u64) {
        if how.sweep.is_some() {
            return self.sweeps_on(plan, number, listens, at);
        }
        let value = if listens { self.inputs.value(plan, (number, how)) } else { Value::REST };
        self.goes_to(plan, (number, how), value, cause, at);
    }

    /// An axis or a stick takes on what its controls say together, and what comes of that.
    #[inline(always)]
    fn goes_to(&mut self, plan: &Plan, moved: (usize, &MovedPlan), value: Value, cause: Cause, at: u64) {
        if let Some(before) = self.takes(plan, moved, value, cause, at) {
            self.moved_on(plan, moved, before, cause, at);
        }
    }

    /// An axis or a stick takes on what its controls say together; how it stood before, if that may mean anything.
    #[inline(always)]
    fn takes(
        &mut self,
        plan: &Plan,
        (number, how): (usize, &MovedPlan),
        value: Value,
        cause: Cause,
        at: u64,
    ) -> Option<Stood> {
        let state = &mut self.inputs.moved[number];
        let (push, live) = (state.push, state.live());
        let turn = state.take(how, value, at);
        if turn.is_none() {
            if !how.is_heard {
                return None;
            }
            let is_plain = cause == Cause::LetGo && self.log.ledger.is_none();
            if is_plain && !self.is_minded(plan, (number, how), value.push) {
                return None;
            }
        } else {
            self.inputs.unsettle(Some(StickIndex::new(number as u16)));
        }
        Some(Stood { push, live, turn })
    }

    /// A stick or an axis moved: its turn, what its motions see, and what its cues hear.
    #[inline(always)]
    fn moved_on(
        &mut self,
        plan: &Plan,
        (number, how): (usize, &MovedPlan),
        Stood { push, live, turn }: Stood,
        cause: Cause,
        at: u64,
    ) {
        let state = &self.inputs.moved[number];
        let now = state.live();
        let is_news = push != state.push || live != now;
        let back = is_news && cause == Cause::LetGo && gives_back(self.inputs.moves, state.digital, live, now);
        if let Some(turn) = turn {
            self.inputs.gave_back = back;
            self.turned(plan, (number, how), turn, cause, at);
            self.inputs.gave_back = false;
        }
        if !how.motions.is_empty() && (turn.is_some() || is_news) {
            let rests = turn.is_some_and(|turn| turn.to.is_none());
            self.motions_see(plan, (number, how), rests, cause, at);
        }
        if how.pushes && (cause == Cause::LetGo || is_news) {
            self.pushed(plan, (number, how), (push, back), cause, at);
        }
    }

    /// The same of a pair that says it, apart from the way of those that only move a little.
    #[inline(never)]
    fn moved_on_apart(&mut self, plan: &Plan, moved: (usize, &MovedPlan), before: Stood, at: u64) {
        self.moved_on(plan, moved, before, Cause::LetGo, at);
    }

    /// A sweep goes on at another rate.
    #[inline(never)]
    fn sweeps_on(&mut self, plan: &Plan, number: usize, listens: bool, at: u64) {
        let how = &plan.inputs.moved[number];
        let Some((sweep, per_second)) = how.sweep else { return };
        let level =
            if listens { signal::sum(&plan.inputs, &self.inputs.board, &self.inputs.crosses, how) } else { [0; 2] };
        self.inputs.sweeps_rest = false;
        self.inputs.sweeps[usize::from(sweep)].steer(level, per_second, at);
    }

    /// Whether a push that turned nothing may mean anything to a motion or a cue.
    #[inline(always)]
    fn is_minded(&mut self, plan: &Plan, (number, how): (usize, &MovedPlan), push: (i32, i32)) -> bool {
        if self.inputs.calm[number].holds(push) {
            debug_assert!(self.calm(plan, number, how).is_some(), "stick {number} was not calm");
            return false;
        }
        let calm = self.calm(plan, number, how);
        self.inputs.calm[number] = calm.unwrap_or(Calm::NONE);
        calm.is_none()
    }

    /// How far it may be pushed about and mean nothing; `None` if this push may mean something to a motion or a cue.
    #[inline(never)]
    fn calm(&self, plan: &Plan, number: usize, how: &MovedPlan) -> Option<Calm> {
        let (mut calm, Moved { push, direction, .. }) = (Calm::ALL, self.inputs.moved[number]);
        for set in how.motions.iter().map(|set| usize::from(*set)) {
            let from_push = plan.cues.motions[set].seen.from_push;
            let reaches = fixed::reaches(push.0, push.1, from_push);
            if self.cues.motions[set].stands != direction.filter(|_| reaches) {
                return None;
            }
            if direction.is_some() {
                calm.and_reach(from_push, reaches);
            }
        }
        if !how.pushes {
            return Some(calm);
        }
        for listener in &plan.cues.listeners[run(&plan.hot[usize::from(how.action)].listeners)] {
            if listener.kinds & Edge::PUSH == 0 || !self.actions[usize::from(listener.owner)].listens {
                continue;
            }
            let state = &self.cues.rule_states[usize::from(listener.cue)];
            if !listener.rule.is_calm(push, direction, state, self.is_listener_on(listener), &mut calm) {
                return None;
            }
        }
        Some(calm)
    }

    /// A stick was pushed, or might have been: what its cues hear.
    #[inline(never)]
    fn pushed(
        &mut self,
        plan: &Plan,
        (number, how): (usize, &MovedPlan),
        (before, back): ((i32, i32), bool),
        cause: Cause,
        at: u64,
    ) {
        let Moved { x, y, push: now, direction: to, press, digital, .. } = self.inputs.moved[number];
        let push = Push { value: (x, y), now, before, to, press, digital, back, cause };
        self.edge(plan, usize::from(how.action), Edge::Push(&push), at);
    }

    /// A stick's or an axis's direction changed: its own edges, and those of its directions as buttons.
    #[inline(always)]
    fn turned(&mut self, plan: &Plan, (number, how): (usize, &MovedPlan), turn: Turn, cause: Cause, at: u64) {
        let action = usize::from(how.action);
        let button = |direction: Option<Direction>| how.buttons[direction? as usize].map(usize::from);
        if let Some(before) = button(turn.from) {
            self.release(plan, before, cause, at);
        }
        // Entering a direction is a press of its own. A loss enters none: what is left is a level, until it is given again.
        let entered = turn.to.filter(|_| cause == Cause::LetGo);
        let press = if entered.is_some() { self.inputs.board.fresh_direction(self.inputs.hand) } else { 0 };
        match (turn.from, turn.to) {
            (None, Some(_)) if entered.is_some() => self.press(plan, action, press, at),
            (Some(_), None) => self.release(plan, action, cause, at),
            _ => {}
        }
        if let Some(now) = button(entered) {
            self.press(plan, now, press, at);
        }
        if entered.is_some() {
            let before = if turn.from.is_some() { self.inputs.hands[number] } else { 0 };
            self.inputs.hands[number] = before | 1 << self.inputs.hand;
        }
        self.inputs.moved[number].press = press;
        self.edge(plan, action, Edge::Turn { from: turn.from, to: turn.to, press, cause }, at);
    }
}

/// Whether nobody's going down moved a stick, which keys hold or not: another key went up, or another control let it.
#[inline(always)]
fn gives_back(moves: Moves, digital: bool, (was_x, was_y): (i32, i32), (x, y): (i32, i32)) -> bool {
    let grew = |now: i32, was: i32| now != 0 && now.signum() != was.signum();
    match moves {
        Moves::Lift => true,
        Moves::Level => digital,
        Moves::Press => digital && !grew(x, was_x) && !grew(y, was_y),
    }
}

/// What a control says, as one of its feeds has it: a leg's level is taken as it is, everything else is shaped.
#[inline(always)]
pub(crate) fn bent(feed: &FeedPlan, (x, y): (i32, i32)) -> Bent {
    if feed.leg {
        return Bent::straight((other_level(feed.part, (x, y)), 0));
    }
    if feed.pair {
        return feed.bends.pair(x, y);
    }
    feed.bends.level(level(feed.part, (x, y)))
}

/// The level of a part: few sticks and axes have another than these.
#[inline(always)]
fn level(part: Part, (x, y): (i32, i32)) -> i32 {
    match part {
        Part::X => x,
        Part::Y => y,
        part => other_level(part, (x, y)),
    }
}

/// The level of half an axis, which few sticks and axes have.
#[inline(never)]
fn other_level(part: Part, (x, y): (i32, i32)) -> i32 {
    part.level(x, y)
}
