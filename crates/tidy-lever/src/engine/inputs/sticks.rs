//! Sticks and axes: from what their controls say to turns, directions as buttons, and what their cues hear.

use crate::cause::Cause;
use crate::control::Part;
use crate::cue::Push;
use crate::direction::Direction;
use crate::engine::inputs::signal::{self, AxisState, AxisTurn};
use crate::engine::inputs::value::Value;
use crate::engine::inputs::{Here, Inputs, Moves, cross};
use crate::engine::values::{EdgeKind, InputEdge, StickPush};
use crate::index::{StickIndex, run};
use crate::linkage::{Alone, FeedPlan, LegOf, MovedPlan, SlotPlan};
use crate::shape::Bent;

impl Inputs {
    /// A pair that moves nothing but axes and sticks, each of them once: each goes its own way.
    #[inline(never)]
    pub(crate) fn pair_says(&mut self, here: Here<'_>, slot: &SlotPlan, local: u8, pair: (i32, i32)) {
        self.uses_pair(slot.family, pair);
        for (number, feed) in (slot.feeds.start..).zip(&here.plan.feeds[run(&slot.feeds)]) {
            let listens = here.listens[usize::from(feed.action)];
            if listens && feed.bends.is_round() {
                self.feed_says(here, (feed, number), local, pair);
            } else {
                self.feed_stands((feed, number), local, pair);
                self.feed_moves(here, feed, Cause::LetGo);
            }
        }
    }

    /// A feed stands where its control does, and moves what it moves: its shape is round, and somebody listens.
    #[inline(always)]
    fn feed_says(&mut self, here: Here<'_>, (feed, number): (&FeedPlan, u32), local: u8, (x, y): (i32, i32)) {
        let bent =
            if feed.pair { feed.bends.round_pair(x, y) } else { feed.bends.round_level(level(feed.part, (x, y))) };
        self.board.set_feed((feed, number), local, bent);
        let Some(stick) = feed.moved.map(usize::from) else { return };
        let how = &here.plan.moved[stick];
        let moves = if feed.digital { Moves::Press } else { Moves::Level };
        // Nearly always it is the only one that is away from rest.
        let is_alone = match how.alone {
            Alone::Unknown => false,
            Alone::Always => true,
            Alone::BesideCross(cross) => self.crosses[cross as usize].left == 0,
        };
        if is_alone && bent.to != (0, 0) && self.board.stirred(stick) == 1 {
            debug_assert_eq!(self.value(here.plan, (stick, how)).to, bent.to, "stick {stick} has another control away");
            let value = Value::given(bent.to, bent.push, feed.digital);
            self.moves = moves;
            self.goes_to(here, (stick, how), value, Cause::LetGo);
        } else {
            self.moves = moves;
            self.works_out(here, (stick, how), true, Cause::LetGo);
        }
    }

    /// A feed stands where its control does.
    #[inline(always)]
    pub(crate) fn feed_stands(&mut self, (feed, number): (&FeedPlan, u32), local: u8, level: (i32, i32)) {
        self.board.set_feed((feed, number), local, bent(feed, level));
    }

    /// What a feed moves is worked out again.
    #[inline(always)]
    pub(crate) fn feed_moves(&mut self, here: Here<'_>, feed: &FeedPlan, cause: Cause) {
        let Some(stick) = feed.moved else { return };
        if feed.leg {
            self.crossed(here, stick);
        }
        self.moves = if feed.digital || feed.leg { Moves::Press } else { Moves::Level };
        self.moved(here, stick, cause);
    }

    /// Counts of a mouse, or a place of the pointer: what has no level that stays.
    pub(crate) fn unlevelled(&mut self, here: Here<'_>, feed: &FeedPlan, x: i32, y: i32) {
        let action = usize::from(feed.action);
        let sweep = feed.moved.and_then(|stick| here.plan.moved[usize::from(stick)].sweep);
        if let Some((sweep, _)) = sweep {
            if here.listens[action] {
                self.sweeps_rest = false;
                let fits = self.sweeps[usize::from(sweep)].count([x, y], feed.per_count);
                self.tally.clamped += u64::from(!fits);
            }
            return;
        }
        if let Some(pointer) = here.plan.buttons[action].pointer {
            self.pointer_moves(here, pointer.into(), (x, y));
        }
    }

    /// A leg of a cross was pressed or let go: it and the one opposite give this level.
    #[inline]
    pub(crate) fn leg_turned(&mut self, here: Here<'_>, leg: LegOf, level: i32, down: bool, cause: Cause) {
        let cross = &here.plan.crosses[leg.cross as usize];
        let moved = &here.plan.moved[usize::from(cross.moved)];
        let state = &mut self.crosses[leg.cross as usize];
        cross::leg_over(here.plan, &mut self.board, state, (cross, moved), (leg.upright, level));
        self.moves = if down { Moves::Press } else { Moves::Lift };
        if cause == Cause::LetGo && moved.sweep.is_none() && here.listens[usize::from(moved.action)] {
            // Straight on, as nearly every key that walks.
            let number = usize::from(cross.moved);
            let value = self.value(here.plan, (number, moved));
            return self.goes_to(here, (number, moved), value, Cause::LetGo);
        }
        self.moved(here, cross.moved, cause);
    }

    /// Works an action's crosses out again, whether it listens or not, so that they are always as the legs are.
    pub(crate) fn crossed(&mut self, here: Here<'_>, number: StickIndex) {
        let moved = &here.plan.moved[usize::from(number)];
        cross::cross_over(here.plan, &mut self.board, &mut self.crosses, moved);
    }

    /// Something of an axis or a stick changed. Nothing comes of it while it is at rest and doesn't listen.
    #[inline]
    pub(crate) fn moved(&mut self, here: Here<'_>, number: StickIndex, cause: Cause) {
        let number = usize::from(number);
        let how = &here.plan.moved[number];
        let listens = here.listens[usize::from(how.action)];
        if listens || how.is_restless || !self.moved[number].is_still() {
            self.works_out(here, (number, how), listens, cause);
        }
    }

    /// Works an axis or a stick out again.
    #[inline(never)]
    fn works_out(&mut self, here: Here<'_>, (number, how): (usize, &MovedPlan), listens: bool, cause: Cause) {
        if how.sweep.is_some() {
            return self.sweeps_on(here, number, listens);
        }
        let value = if listens { self.value(here.plan, (number, how)) } else { Value::REST };
        self.goes_to(here, (number, how), value, cause);
    }

    /// An axis or a stick takes on what its controls say together: it turns, and who hears how far it is pushed is told.
    #[inline(always)]
    fn goes_to(&mut self, here: Here<'_>, (number, how): (usize, &MovedPlan), value: Value, cause: Cause) {
        let state = &mut self.moved[number];
        let (before, live) = (state.push, state.live());
        let turn = state.take(how, value, here.at);
        if turn.is_none() && !how.is_heard {
            return;
        }
        let (now, digital) = (state.live(), state.digital);
        let is_news = before != state.push || live != now;
        let back = is_news && cause == Cause::LetGo && gives_back(self.moves, digital, live, now);
        if let Some(turn) = turn {
            self.turned(here, (number, how), turn, back, cause);
        }
        if how.is_heard {
            let AxisState { x, y, push, direction: to, press, .. } = self.moved[number];
            let stick = StickIndex::new(number as u16);
            let push = Push { value: (x, y), now: push, before, to, press, digital, back, cause };
            let push = StickPush { stick, device: self.device, turned: turn.is_some(), is_news, push };
            self.edges.push(InputEdge { action: how.action, kind: EdgeKind::Push(push) });
        }
    }

    /// Takes on what its controls say, without any edge.
    pub(crate) fn resume(&mut self, here: Here<'_>, stick: StickIndex) {
        let number = usize::from(stick);
        let how = &here.plan.moved[number];
        if how.sweep.is_some() {
            return self.moved(here, stick, Cause::LetGo);
        }
        let value = self.value(here.plan, (number, how));
        let state = &mut self.moved[number];
        state.take(how, value, here.at);
        // Nothing entered where it stands.
        state.press = 0;
        let AxisState { push, direction, .. } = *state;
        self.edges.push(InputEdge { action: how.action, kind: EdgeKind::Stands { stick, push, direction } });
    }

    /// A sweep goes on at another rate.
    #[inline(never)]
    fn sweeps_on(&mut self, here: Here<'_>, number: usize, listens: bool) {
        let how = &here.plan.moved[number];
        let Some((sweep, per_second)) = how.sweep else { return };
        let level = if listens { signal::sum(here.plan, &self.board, &self.crosses, how) } else { [0; 2] };
        self.sweeps_rest = false;
        self.sweeps[usize::from(sweep)].steer(level, per_second, here.at);
    }

    /// A stick's or an axis's direction changed: its own edges, and those of its directions as buttons.
    #[inline(always)]
    fn turned(&mut self, here: Here<'_>, (number, how): (usize, &MovedPlan), turn: AxisTurn, back: bool, cause: Cause) {
        let action = usize::from(how.action);
        let button = |direction: Option<Direction>| how.buttons[direction? as usize].map(usize::from);
        self.gave_back = back;
        if let Some(before) = button(turn.from) {
            self.release(here, before, cause);
        }
        // Entering a direction is a press of its own. A loss enters none: what is left is a level, until it is given again.
        let entered = turn.to.filter(|_| cause == Cause::LetGo);
        let press = if entered.is_some() { self.board.fresh_direction(self.device) } else { 0 };
        match (turn.from, turn.to) {
            (None, Some(_)) if entered.is_some() => self.press(here, action, press),
            (Some(_), None) => self.release(here, action, cause),
            _ => {}
        }
        if let Some(now) = button(entered) {
            self.press(here, now, press);
        }
        if entered.is_some() {
            let before = if turn.from.is_some() { self.stick_devices[number] } else { 0 };
            self.stick_devices[number] = before | 1 << self.device;
        }
        self.moved[number].press = press;
        self.gave_back = false;
        let kind = EdgeKind::Turn { from: turn.from, to: turn.to, press, cause };
        self.edges.push(InputEdge { action: how.action, kind });
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
