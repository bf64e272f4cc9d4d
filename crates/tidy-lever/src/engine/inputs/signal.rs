//! Signals: an axis's or a stick's own value, combined from its controls, and the direction it points in.
//!
//! Each family's cross and each whole control is a contender with a shaped value of its own. The largest wins; of
//! those within a tenth of it, the one that left its rest last.

use crate::direction::Direction;
use crate::engine::inputs::board::Board;
use crate::engine::inputs::cross::CrossState;
use crate::engine::inputs::value::Value;
use crate::engine::part::plain_fields;
use crate::fixed::{self, ONE};
use crate::history::Aim;
use crate::index::run;
use crate::linkage::{Alone, InputsPlan, MovedPlan, Points};
use crate::profile::Rest;

/// How near contenders count as equally large.
const NEAR: i32 = ONE / 10;

/// No controls say this: whatever they say is news.
const UNREAD: (i32, i32) = (i32::MIN, i32::MIN);

/// The state of an axis or a stick.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct AxisState {
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

/// How a direction changed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct AxisTurn {
    pub(crate) from: Option<Direction>,
    pub(crate) to: Option<Direction>,
}

/// Works out what the controls of an axis or a stick say together.
#[inline(always)]
pub(crate) fn combine(
    plan: &InputsPlan,
    board: &Board,
    crosses: &[CrossState],
    (number, moved): (usize, &MovedPlan),
) -> Value {
    if !board.focused {
        return Value::REST;
    }
    // Nearly always one alone is away from rest, or none.
    if let (Alone::BesideCross(cross), 0) = (moved.alone, board.stirred(number)) {
        return crosses[cross as usize].alone();
    }
    let crosses = &crosses[run(&moved.crosses)];
    match (crosses, board.stirred(number)) {
        ([], 0) => return Value::REST,
        ([] | [CrossState { left: 0, .. }], 1) => {
            if let Some((number, feed)) = board.only_stirred(number) {
                return feed.value(plan.feeds[number].digital);
            }
        }
        ([cross], 1) => {
            if let Some((number, feed)) = board.only_stirred(number) {
                let (size, other) = (cross.stand.size, feed.size());
                let is_feed = if size.abs_diff(other) <= NEAR as u32 { feed.left > cross.left } else { other > size };
                return if is_feed { feed.value(plan.feeds[number].digital) } else { cross.value() };
            }
        }
        _ => {}
    }
    newest_near(plan, board, crosses, moved)
}

/// All contenders of a sweep add up.
#[inline(never)]
pub(crate) fn sum(plan: &InputsPlan, board: &Board, crosses: &[CrossState], moved: &MovedPlan) -> [i32; 2] {
    let mut sum = [0; 2];
    if board.focused {
        let crosses = &crosses[run(&moved.crosses)];
        each(plan, board, crosses, moved, |value, _, _| sum = [sum[0] + value.to.0, sum[1] + value.to.1]);
    }
    sum
}

/// Of the contenders near the largest, the one that left its rest last.
#[inline(never)]
fn newest_near(plan: &InputsPlan, board: &Board, crosses: &[CrossState], moved: &MovedPlan) -> Value {
    let mut largest = 0;
    each(plan, board, crosses, moved, |_, size, _| largest = largest.max(size));
    let (mut newest, mut winner) = (0, Value::REST);
    each(plan, board, crosses, moved, |value, size, left| {
        if size + NEAR >= largest && left > newest {
            (winner, newest) = (value, left);
        }
    });
    winner
}

/// Shows each contender that is away from rest, an action's own crosses among them, its size, and which left its rest later.
#[inline]
fn each(
    plan: &InputsPlan,
    board: &Board,
    crosses: &[CrossState],
    moved: &MovedPlan,
    mut show: impl FnMut(Value, i32, u64),
) {
    for cross in crosses {
        if cross.left > 0 {
            show(cross.value(), cross.stand.size, cross.left);
        }
    }
    for number in moved.feeds.iter().map(|feed| *feed as usize) {
        for feed in board.away(number) {
            show(feed.value(plan.feeds[number].digital), feed.size(), feed.left);
        }
    }
}

impl AxisState {
    /// Takes on a value at a moment; says how the direction changed, if it did.
    #[inline(always)]
    pub(crate) fn take(&mut self, plan: &MovedPlan, value: Value, at: u64) -> Option<AxisTurn> {
        let Value { to: (x, y), push, points, digital } = value;
        self.push = push;
        if (x, y) == self.live && digital == self.digital {
            return None;
        }
        let from = self.direction;
        let to = match points {
            Points::Known(to) => to,
            Points::Unknown => self.points(plan, (x, y), digital),
        };
        (self.live, self.digital) = ((x, y), digital);
        if to != from {
            self.turn(plan, to, at);
        }
        if to.is_some() && fixed::reaches(x, y, self.peak_size) {
            (self.peak, self.peak_size) = ((x, y), fixed::length_of_levels(x, y));
        }
        let stays = to.is_none() && plan.rest == Rest::Last && (x, y) == (0, 0);
        (self.x, self.y) = if stays { self.last_push } else { (x, y) };
        (to != from).then_some(AxisTurn { from, to })
    }

    /// Where a value points that says so with what was before.
    #[inline(always)]
    fn points(&self, plan: &MovedPlan, (x, y): (i32, i32), digital: bool) -> Option<Direction> {
        match (plan.stick, plan.compass.four) {
            (false, _) => MovedPlan::sideways(x),
            (true, false) => plan.compass.read_of_eight(x, y, self.direction),
            (true, true) => self.points_of_four(plan, (x, y), digital),
        }
    }

    /// Where a value points on a stick with four directions.
    #[inline(never)]
    fn points_of_four(&self, plan: &MovedPlan, (x, y): (i32, i32), digital: bool) -> Option<Direction> {
        // After a relink it may stand where this compass never points.
        let stood = self.direction.filter(|from| !from.is_diagonal());
        if digital && x != 0 && x.abs() == y.abs() {
            let before = if self.live == UNREAD { (0, 0) } else { self.live };
            return plan.compass.newest_of_two((x, y), before, stood);
        }
        plan.compass.read(x, y, stood)
    }

    /// Points elsewhere from here on.
    #[inline(always)]
    fn turn(&mut self, plan: &MovedPlan, to: Option<Direction>, at: u64) {
        let mut diagonal = None;
        if let Some(before) = self.direction {
            // What is left now is the last direction, unless it was only flashing by.
            let flash = to.is_none() && at - self.since < plan.settles;
            (self.last, self.last_push, self.last_at) = match self.diagonal {
                Some((diagonal, push)) if flash && diagonal.contains(before) => (Some(diagonal), push, at),
                _ => (Some(before), self.peak, at),
            };
            diagonal = before.is_diagonal().then_some((before, self.peak));
        }
        self.diagonal = diagonal;
        (self.direction, self.since, self.peak, self.peak_size) = (to, at, (0, 0), 0);
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
        let AxisState { x, y, live, push, direction, since, peak, peak_size: _, diagonal, .. } = *self;
        let AxisState { digital, press, last, last_push, last_at, .. } = *self;
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

plain_fields! {
    AxisState, own => own.words();
}
