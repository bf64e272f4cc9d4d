//! Signals: an axis's or a stick's own value, combined from its controls, and the direction it points in.
//!
//! Each family's cross and each whole control is a contender with a shaped value of its own. The largest wins; of
//! those within a tenth of it, the one that left its rest last.

use crate::direction::Direction;
use crate::fixed::ONE;
use crate::index::run;
use crate::inputs::board::Board;
use crate::inputs::cross::CrossState;
use crate::inputs::{InputsPlan, MovedPlan, Points, Stand};
use crate::profile::Rest;

/// How near contenders count as equally large.
const NEAR: i32 = ONE / 10;

/// No controls say this: whatever they say is news.
const UNREAD: (i32, i32) = (i32::MIN, i32::MIN);

/// A value on its way to an action.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Value {
    pub(crate) stand: Stand,
    /// It comes from keys or from a directional pad.
    pub(crate) digital: bool,
}

/// The state of an axis or a stick.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
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
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
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

/// Works out what the controls of an axis or a stick say together.
#[inline]
pub(crate) fn combine(plan: &InputsPlan, board: &Board, crosses: &[CrossState], moved: &MovedPlan) -> Value {
    if !board.focused {
        return Value::default();
    }
    if moved.sweep.is_some() {
        return sum(plan, board, crosses, moved);
    }
    // Nearly always one alone is away from rest, or none.
    let (mut cross, mut feed, mut count) = (None, None, 0);
    for own in &crosses[run(&moved.crosses)] {
        if own.left > 0 {
            (cross, count) = (Some(own), count + 1);
        }
    }
    let feeds = run(&moved.feeds);
    for (place, devices) in board.away[feeds.clone()].iter().enumerate() {
        if *devices != 0 {
            (feed, count) = (Some((place, *devices)), count + 1);
        }
    }
    match (cross, feed) {
        (Some(cross), None) if count == 1 => Value { stand: cross.stand, digital: true },
        (None, Some((place, devices))) if count == 1 && devices.is_power_of_two() => {
            let number = feeds.start + place;
            let stand = board.feed(number, devices.trailing_zeros() as usize);
            Value { stand, digital: plan.feeds[number].digital }
        }
        (None, None) => Value::default(),
        _ => newest_near(plan, board, crosses, moved),
    }
}

/// All contenders of a sweep add up.
#[inline(never)]
fn sum(plan: &InputsPlan, board: &Board, crosses: &[CrossState], moved: &MovedPlan) -> Value {
    let mut sum = Value::default();
    let to = &mut sum.stand.to;
    each(plan, board, crosses, moved, |value, _| *to = (to.0 + value.stand.to.0, to.1 + value.stand.to.1));
    sum
}

/// Of the contenders near the largest, the one that left its rest last.
#[inline(never)]
fn newest_near(plan: &InputsPlan, board: &Board, crosses: &[CrossState], moved: &MovedPlan) -> Value {
    let mut largest = 0;
    each(plan, board, crosses, moved, |value, _| largest = largest.max(value.stand.size));
    let (mut newest, mut winner) = (0, Value::default());
    each(plan, board, crosses, moved, |value, left| {
        if value.stand.size + NEAR >= largest && left > newest {
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
            show(Value { stand: cross.stand, digital: true }, cross.left);
        }
    }
    for number in run(&moved.feeds) {
        for feed in board.away(number) {
            show(Value { stand: feed.stand(), digital: plan.feeds[number].digital }, feed.left);
        }
    }
}

impl MovedPlan {
    /// Where a value that keys give points, if that doesn't depend on where it pointed before.
    pub(super) fn points(&self, (x, y): (i32, i32)) -> Points {
        if !self.stick {
            return Points::Known(Self::sideways(x));
        }
        if self.compass.four {
            return Points::Unknown;
        }
        let from = |before| self.compass.read(x, y, before);
        let known = Direction::ALL.into_iter().all(|before| from(Some(before)) == from(None));
        if known { Points::Known(from(None)) } else { Points::Unknown }
    }

    /// Where an axis points.
    #[inline]
    fn sideways(x: i32) -> Option<Direction> {
        match x.signum() {
            0 => None,
            1 => Some(Direction::Right),
            _ => Some(Direction::Left),
        }
    }
}

impl Moved {
    /// Takes on a value at a moment; says how the direction changed, if it did.
    pub(crate) fn take(&mut self, plan: &MovedPlan, value: Value, at: u64) -> Option<Turn> {
        let Value { stand: Stand { to: (x, y), push, size, points }, digital } = value;
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
        let to = if let Points::Known(to) = points {
            to
        } else if plan.stick && plan.compass.four && digital && x != 0 && x.abs() == y.abs() {
            plan.compass.newest_of_two((x, y), before, stood)
        } else if plan.stick {
            plan.compass.read(x, y, stood)
        } else {
            MovedPlan::sideways(x)
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
