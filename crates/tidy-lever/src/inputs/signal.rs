//! Signals: an axis's or a stick's own value, combined from its controls, and the direction it points in.
//!
//! Each family's cross and each whole control is a contender with a shaped value of its own. The largest wins; of
//! those within a tenth of it, the one that left its rest last.

use crate::direction::Direction;
use crate::fixed::{self, ONE};
use crate::index::run;
use crate::inputs::board::{Board, Feed};
use crate::inputs::{CrossPlan, InputsPlan, LegOf, LegPlan, MovedPlan};
use crate::profile::{Opposed, Rest};
use crate::shape::{Bent, ShapePlan};

/// How near contenders count as equally large.
const NEAR: i32 = ONE / 10;

/// No controls say this: whatever they say is news.
const UNREAD: (i32, i32) = (i32::MIN, i32::MIN);

/// A value on its way to an action.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Value {
    pub(crate) x: i32,
    pub(crate) y: i32,
    /// How long the pair is.
    size: i32,
    /// How far it is pushed: what the dead zone leaves, before curve and scale.
    push: (i32, i32),
    /// It comes from keys or from a directional pad.
    pub(crate) digital: bool,
}

/// A cross as it stands, shaped.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct CrossState {
    /// What its legs give, right and up, before it is shaped.
    legs: (i32, i32),
    x: i32,
    y: i32,
    size: i32,
    push: (i32, i32),
    /// Which left its rest later; 0 while at rest.
    pub(crate) left: u64,
}

/// The state of an axis or a stick.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Moved {
    /// What the game gets.
    pub(crate) x: i32,
    pub(crate) y: i32,
    /// What the controls say; differs from the above at rest with `rest = "last"`.
    live: (i32, i32),
    /// How far it is pushed: what the dead zone leaves, before curve and scale.
    pub(crate) push: (i32, i32),
    pub(crate) direction: Option<Direction>,
    /// Since when it stands in this direction, or at none.
    pub(crate) since: u64,
    /// The furthest push in this direction.
    peak: (i32, i32),
    peak_size: i32,
    /// The direction before, if it was a diagonal, with its push.
    diagonal: Option<(Direction, (i32, i32))>,
    pub(crate) digital: bool,
    /// The identity of the entering of its direction; 0 if nothing entered it.
    pub(crate) press: u64,
    /// The last direction that was given, its push, and when it was let go.
    pub(crate) last: Option<Direction>,
    pub(crate) last_push: (i32, i32),
    pub(crate) last_at: u64,
}

/// Where a stick pointed when something pulled: nowhere, unless it ever did.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Aim {
    pub(crate) push: (i32, i32),
    /// The direction that it is held in, or was held in last.
    pub(crate) direction: Option<Direction>,
    pub(crate) held: bool,
    /// How long ago it was let go, in µs; 0 while it is held.
    pub(crate) age: u64,
}

impl Aim {
    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> [u64; 3] {
        let Aim { push, direction, held, age } = *self;
        let pair = u64::from(push.0 as u32) << 32 | u64::from(push.1 as u32);
        [pair, direction.map_or(0, |direction| direction as u64 + 1) << 1 | u64::from(held), age]
    }
}

/// How a direction changed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Turn {
    pub(crate) from: Option<Direction>,
    pub(crate) to: Option<Direction>,
}

/// The level that two opposite legs give together.
fn opposed(plan: &InputsPlan, board: &Board, how: Opposed, minus: &LegPlan, plus: &LegPlan) -> i32 {
    let contacts = |leg: &LegPlan| plan.leg_contacts[run(&leg.contacts)].iter().map(|c| &board.contacts[*c as usize]);
    let is_held = |leg: &LegPlan| contacts(leg).any(|contact| contact.down != 0);
    let orders = |leg: &LegPlan| contacts(leg).filter(|contact| contact.down != 0).map(|contact| contact.press);
    // No level goes further than a key.
    match (is_held(minus), is_held(plus)) {
        (false, false) if minus.feeds.is_empty() && plus.feeds.is_empty() => 0,
        (false, false) => furthest_apart(plan, board, minus, plus),
        (true, false) => -ONE,
        (false, true) => ONE,
        (true, true) => {
            let plus_wins = match how {
                Opposed::Newest => orders(plus).max() > orders(minus).max(),
                Opposed::Oldest => orders(plus).min() < orders(minus).min(),
                Opposed::Cancel => return furthest_apart(plan, board, minus, plus),
            };
            if plus_wins { ONE } else { -ONE }
        }
    }
}

/// What analogue levels on two opposite legs give: they subtract.
#[inline(never)]
fn furthest_apart(plan: &InputsPlan, board: &Board, minus: &LegPlan, plus: &LegPlan) -> i32 {
    let furthest = |leg: &LegPlan| {
        let feeds = &plan.leg_feeds[run(&leg.feeds)];
        feeds.iter().flat_map(|feed| board.away(*feed as usize)).map(|feed| feed.x).max().unwrap_or(0)
    };
    furthest(plus) - furthest(minus)
}

/// What a cross's legs give together across, or upright.
#[inline]
fn legs(plan: &InputsPlan, board: &Board, how: Opposed, cross: &CrossPlan, upright: bool) -> i32 {
    let [up, left, down, right] = &cross.legs;
    let (minus, plus) = if upright { (down, up) } else { (left, right) };
    opposed(plan, board, how, minus, plus)
}

/// Works an action's crosses out again.
pub(crate) fn cross_over(plan: &InputsPlan, board: &mut Board, crosses: &mut [CrossState], moved: &MovedPlan) {
    for number in run(&moved.crosses) {
        let cross = &plan.crosses[number];
        let x = legs(plan, board, moved.opposed, cross, false);
        let y = if moved.stick { legs(plan, board, moved.opposed, cross, true) } else { 0 };
        crosses[number].bend(&plan.shapes[cross.shape as usize], moved.stick, board, (x, y));
    }
}

/// Works a cross out again after a leg of it changed.
pub(crate) fn leg_over(
    plan: &InputsPlan,
    board: &mut Board,
    crosses: &mut [CrossState],
    moved: &MovedPlan,
    leg: LegOf,
) {
    let (cross, state) = (&plan.crosses[leg.cross as usize], &mut crosses[leg.cross as usize]);
    let level = legs(plan, board, moved.opposed, cross, leg.upright);
    let (x, y) = state.legs;
    let now = if leg.upright { (x, level) } else { (level, y) };
    if now != state.legs {
        state.bend(&plan.shapes[cross.shape as usize], moved.stick, board, now);
    }
}

impl CrossState {
    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> [u64; 3] {
        let pair = |x: i32, y: i32| u64::from(x as u32) << 32 | u64::from(y as u32);
        let CrossState { legs, x, y, size: _, push: _, left } = *self;
        [pair(legs.0, legs.1), pair(x, y), left]
    }

    /// Takes on what the legs give, shaped.
    fn bend(&mut self, shape: &ShapePlan, stick: bool, board: &mut Board, legs: (i32, i32)) {
        self.legs = legs;
        let Bent { to, push } = if stick {
            let (x, y) = fixed::within_one(legs.0, legs.1);
            shape.pair(x, y)
        } else {
            shape.level(legs.0)
        };
        ((self.x, self.y), self.push) = (to, push);
        self.size = fixed::length(self.x, self.y);
        if self.size == 0 {
            self.left = 0;
        } else if self.left == 0 {
            self.left = board.next_order();
        }
    }
}

/// Works out what the controls of an axis or a stick say together.
pub(crate) fn combine(plan: &InputsPlan, board: &Board, crosses: &[CrossState], moved: &MovedPlan) -> Value {
    if !board.focused {
        return Value::default();
    }
    if moved.sweep.is_some() {
        return sum(plan, board, crosses, moved);
    }
    let (mut largest, mut count, mut winner) = (0, 0, Value::default());
    each(plan, board, crosses, moved, |value, _| {
        (largest, count, winner) = (largest.max(value.size), count + 1, value);
    });
    if count <= 1 { winner } else { newest_near(plan, board, crosses, moved, largest) }
}

/// All contenders of a sweep add up.
#[inline(never)]
fn sum(plan: &InputsPlan, board: &Board, crosses: &[CrossState], moved: &MovedPlan) -> Value {
    let mut sum = Value::default();
    each(plan, board, crosses, moved, |value, _| (sum.x, sum.y) = (sum.x + value.x, sum.y + value.y));
    sum
}

/// Of the contenders near the largest, the one that left its rest last.
#[inline(never)]
fn newest_near(plan: &InputsPlan, board: &Board, crosses: &[CrossState], moved: &MovedPlan, largest: i32) -> Value {
    let (mut newest, mut winner) = (0, Value::default());
    each(plan, board, crosses, moved, |value, left| {
        if value.size + NEAR >= largest && left > newest {
            (winner, newest) = (value, left);
        }
    });
    winner
}

/// Shows each contender that is away from rest, and which left its rest later.
#[inline]
fn each(plan: &InputsPlan, board: &Board, crosses: &[CrossState], moved: &MovedPlan, mut show: impl FnMut(Value, u64)) {
    for cross in &crosses[run(&moved.crosses)] {
        if cross.left > 0 {
            let &CrossState { x, y, size, push, .. } = cross;
            show(Value { x, y, size, push, digital: true }, cross.left);
        }
    }
    for number in run(&moved.feeds) {
        for feed in board.away(number) {
            let Feed { x, y, size, push, left } = *feed;
            show(Value { x, y, size, push, digital: plan.feeds[number].digital }, left);
        }
    }
}

impl Moved {
    /// Takes on a value at a moment; says how the direction changed, if it did.
    pub(crate) fn take(&mut self, plan: &MovedPlan, value: Value, at: u64) -> Option<Turn> {
        let Value { x, y, size, push, digital } = value;
        let same = (x, y) == self.live && digital == self.digital;
        self.push = push;
        if same {
            return None;
        }
        let before =
            Some(core::mem::replace(&mut self.live, (x, y))).filter(|live| *live != UNREAD).unwrap_or_default();
        let from = self.direction;
        // After a relink it may stand where this compass never points.
        let stood = from.filter(|from| !(plan.compass.four && from.is_diagonal()));
        let to = if plan.stick && plan.compass.four && digital && x != 0 && x.abs() == y.abs() {
            plan.compass.newest_of_two((x, y), before, stood)
        } else if plan.stick {
            plan.compass.read(x, y, stood)
        } else {
            match x.signum() {
                0 => None,
                1 => Some(Direction::Right),
                _ => Some(Direction::Left),
            }
        };
        if to != from {
            if let Some(before) = from {
                // What is left now is the last direction, unless it was only flashing by.
                let flash = at - self.since < plan.settles && to.is_none();
                let (last, push) = match self.diagonal {
                    Some((diagonal, push)) if flash && diagonal.contains(before) => (diagonal, push),
                    _ => (before, self.peak),
                };
                (self.last, self.last_push, self.last_at) = (Some(last), push, at);
            }
            self.diagonal = from.filter(|before| before.is_diagonal()).map(|before| (before, self.peak));
            (self.direction, self.since, self.peak, self.peak_size) = (to, at, (0, 0), 0);
        }
        if to.is_some() && size >= self.peak_size {
            (self.peak, self.peak_size) = ((x, y), size);
        }
        self.digital = digital;
        (self.x, self.y) = match (to, plan.rest) {
            (None, Rest::Last) if (x, y) == (0, 0) => self.last_push,
            _ => (x, y),
        };
        (to != from).then_some(Turn { from, to })
    }

    /// Whatever its controls say next is news: it is read in another way now. A direction that it can no longer stand in
    /// gives way to none before.
    pub(crate) fn look_again(&mut self) {
        self.live = UNREAD;
    }

    /// What its controls say.
    pub(crate) fn live(&self) -> (i32, i32) {
        self.live
    }

    /// Whether it stands at rest, as its controls do.
    pub(crate) fn is_still(&self) -> bool {
        self.live == (0, 0) && !self.digital
    }

    /// What a pull that aims with this stick carries.
    pub(crate) fn aim(&self, at: u64) -> Aim {
        let held = self.direction.is_some();
        let age = if held { 0 } else { at - self.last_at };
        Aim { push: (self.x, self.y), direction: self.direction.or(self.last), held, age }
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> [u64; 10] {
        let pair = |(x, y): (i32, i32)| u64::from(x as u32) << 32 | u64::from(y as u32);
        let number = |direction: Option<Direction>| direction.map_or(0, |d| d as u64 + 1);
        let Moved { x, y, live, push, direction, since, peak, peak_size: _, diagonal, .. } = *self;
        let Moved { digital, press, last, last_push, last_at, .. } = *self;
        let (before, before_push) = diagonal.map_or((0, 0), |(direction, push)| (direction as u64 + 1, pair(push)));
        [
            pair((x, y)),
            pair(live),
            number(direction) | number(last) << 8 | before << 16 | u64::from(digital) << 24,
            since,
            pair(peak),
            before_push,
            pair(last_push),
            last_at,
            pair(push),
            press,
        ]
    }
}
