//! Signals: an axis's or a stick's own value, combined from its controls, and the direction it points in.
//!
//! Each family's cross and each whole control is a contender with a shaped value of its own. The largest wins; of
//! those within a tenth of it, the one that left its rest last.

use crate::board::Board;
use crate::direction::Direction;
use crate::fixed::{self, ONE};
use crate::linkage::{CrossPlan, LegPlan, MovedPlan, Plan, run};
use crate::profile::{Opposed, Rest};

/// How near contenders count as equally large.
const NEAR: i32 = ONE / 10;

/// A straight that stands for less than this between a diagonal of keys and rest was only flashing by, in µs.
const FLASH: u64 = 35_000;

/// A value on its way to an action.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Value {
    pub(crate) x: i32,
    pub(crate) y: i32,
    /// It comes from keys or from a directional pad.
    pub(crate) digital: bool,
}

/// A cross as it stands, shaped.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct CrossState {
    x: i32,
    y: i32,
    size: i32,
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
    pub(crate) direction: Option<Direction>,
    /// Since when it stands in this direction, or at none.
    pub(crate) since: u64,
    /// The furthest push in this direction.
    peak: (i32, i32),
    /// The direction before, if it was a diagonal of keys, with its push.
    diagonal: Option<(Direction, (i32, i32))>,
    digital: bool,
    /// The last direction that was given, its push, and when it was let go.
    pub(crate) last: Option<Direction>,
    pub(crate) last_push: (i32, i32),
    pub(crate) last_at: u64,
}

/// Where a stick pointed when something pulled.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Aim {
    pub(crate) push: (i32, i32),
    pub(crate) direction: Option<Direction>,
    /// While it rests: the last direction with its push, and its age in µs.
    pub(crate) last: Option<(Direction, (i32, i32))>,
    pub(crate) age: u64,
}

/// How a direction changed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Turn {
    pub(crate) from: Option<Direction>,
    pub(crate) to: Option<Direction>,
}

/// The level that two opposite legs give together.
fn opposed(plan: &Plan, board: &Board, how: Opposed, minus: &LegPlan, plus: &LegPlan) -> i32 {
    let held = |leg: &LegPlan| {
        let contacts = plan.leg_contacts[run(&leg.contacts)].iter().map(|c| &board.contacts[*c as usize]);
        contacts.filter(|contact| contact.down != 0).map(|contact| contact.order)
    };
    let keys = match (held(minus).next().is_some(), held(plus).next().is_some()) {
        (false, false) => 0,
        (true, false) => -ONE,
        (false, true) => ONE,
        (true, true) => {
            let plus_wins = match how {
                Opposed::Newest => held(plus).max() > held(minus).max(),
                Opposed::Oldest => held(plus).min() < held(minus).min(),
                Opposed::Cancel => return furthest_apart(plan, board, minus, plus),
            };
            if plus_wins { ONE } else { -ONE }
        }
    };
    // No level goes further than a key.
    if keys != 0 { keys } else { furthest_apart(plan, board, minus, plus) }
}

/// What analogue levels on two opposite legs give: they subtract.
fn furthest_apart(plan: &Plan, board: &Board, minus: &LegPlan, plus: &LegPlan) -> i32 {
    let furthest = |leg: &LegPlan| {
        let feeds = &plan.leg_feeds[run(&leg.feeds)];
        feeds.iter().flat_map(|feed| board.feed(*feed as usize)).map(|feed| feed.x).max().unwrap_or(0)
    };
    furthest(plus) - furthest(minus)
}

fn cross(plan: &Plan, board: &Board, moved: &MovedPlan, cross: &CrossPlan) -> (i32, i32) {
    let [up, left, down, right] = &cross.legs;
    let x = opposed(plan, board, moved.opposed, left, right);
    let shape = &plan.shapes[cross.shape as usize];
    if moved.stick {
        let y = opposed(plan, board, moved.opposed, down, up);
        let (x, y) = fixed::within_one(x, y);
        shape.pair(x, y)
    } else {
        (shape.level(x), 0)
    }
}

/// Works an action's crosses out anew, after something on one of their legs changed.
pub(crate) fn cross_over(plan: &Plan, board: &mut Board, crosses: &mut [CrossState], moved: &MovedPlan) {
    for number in run(&moved.crosses) {
        let (x, y) = cross(plan, board, moved, &plan.crosses[number]);
        let state = &mut crosses[number];
        (state.x, state.y, state.size) = (x, y, fixed::length(x, y));
        if (x, y) == (0, 0) {
            state.left = 0;
        } else if state.left == 0 {
            board.order += 1;
            state.left = board.order;
        }
    }
}

/// Works out what the controls of an axis or a stick say together.
pub(crate) fn combine(plan: &Plan, board: &Board, crosses: &[CrossState], moved: &MovedPlan) -> Value {
    if !board.focused {
        return Value::default();
    }
    if moved.sweep.is_some() {
        let mut sum = Value::default();
        each(plan, board, crosses, moved, |value, _, _| (sum.x, sum.y) = (sum.x + value.x, sum.y + value.y));
        return sum;
    }
    let (mut largest, mut count, mut winner) = (0, 0, Value::default());
    each(plan, board, crosses, moved, |value, size, _| {
        (largest, count, winner) = (largest.max(size), count + 1, value);
    });
    if count <= 1 {
        return winner;
    }
    let mut newest = 0;
    each(plan, board, crosses, moved, |value, size, left| {
        if size + NEAR >= largest && left > newest {
            (winner, newest) = (value, left);
        }
    });
    winner
}

/// Shows each contender that is away from rest: its value, its size, and which left its rest later.
#[inline]
fn each(plan: &Plan, board: &Board, crosses: &[CrossState], moved: &MovedPlan, mut show: impl FnMut(Value, i32, u64)) {
    for cross in &crosses[run(&moved.crosses)] {
        if cross.left > 0 {
            show(Value { x: cross.x, y: cross.y, digital: true }, cross.size, cross.left);
        }
    }
    for number in run(&moved.feeds) {
        for feed in board.feed(number).iter().filter(|feed| feed.left > 0) {
            show(Value { x: feed.x, y: feed.y, digital: plan.feeds[number].digital }, feed.size, feed.left);
        }
    }
}

impl Moved {
    /// Takes on a value at a moment; says how the direction changed, if it did.
    pub(crate) fn take(&mut self, plan: &MovedPlan, value: Value, at: u64) -> Option<Turn> {
        let Value { x, y, digital } = value;
        let same = (x, y) == self.live && digital == self.digital;
        if same {
            return None;
        }
        let before = core::mem::replace(&mut self.live, (x, y));
        let from = self.direction;
        let to = if plan.stick && plan.compass.four && digital && x != 0 && x.abs() == y.abs() {
            plan.compass.newest_of_two((x, y), before, from)
        } else if plan.stick {
            plan.compass.read(x, y, from)
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
                let flash = at - self.since < FLASH && to.is_none();
                let (last, push) = match self.diagonal {
                    Some((diagonal, push)) if flash && diagonal.contains(before) => (diagonal, push),
                    _ => (before, self.peak),
                };
                (self.last, self.last_push, self.last_at) = (Some(last), push, at);
            }
            self.diagonal =
                from.filter(|before| before.is_diagonal() && self.digital).map(|before| (before, self.peak));
            (self.direction, self.since, self.peak) = (to, at, (0, 0));
        }
        if to.is_some() && fixed::length(x, y) >= fixed::length(self.peak.0, self.peak.1) {
            self.peak = (x, y);
        }
        self.digital = digital;
        (self.x, self.y) = match (to, plan.rest) {
            (None, Rest::Last) if (x, y) == (0, 0) => self.last_push,
            _ => (x, y),
        };
        (to != from).then_some(Turn { from, to })
    }

    /// What a pull that aims with this stick carries.
    pub(crate) fn aim(&self, at: u64) -> Aim {
        let (last, age) = match self.direction {
            Some(_) => (None, 0),
            None => (self.last.map(|last| (last, self.last_push)), at - self.last_at),
        };
        Aim { push: (self.x, self.y), direction: self.direction, last, age }
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> [u64; 8] {
        let pair = |(x, y): (i32, i32)| u64::from(x as u32) << 32 | u64::from(y as u32);
        let number = |direction: Option<Direction>| direction.map_or(0, |d| d as u64 + 1);
        let diagonal = self.diagonal.map_or(0, |(d, push)| (d as u64 + 1) ^ pair(push) << 8);
        [
            pair((self.x, self.y)),
            pair(self.live),
            number(self.direction) | number(self.last) << 8 | u64::from(self.digital) << 16,
            self.since,
            pair(self.peak),
            diagonal,
            pair(self.last_push),
            self.last_at,
        ]
    }
}
