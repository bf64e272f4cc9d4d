//! Crosses: four legs become a pair of levels.

use crate::engine::inputs::board::Board;
use crate::engine::inputs::value::Value;
use crate::engine::part::plain_fields;
use crate::fixed::ONE;
use crate::index::run;
use crate::linkage::{CrossPlan, InputsPlan, LegPlan, MovedPlan, PairPlan, Stand, shaped};
use crate::profile::Opposed;

/// A cross as it stands, shaped.
#[derive(Clone, Copy, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct CrossState {
    /// What its legs give, right and up, before it is shaped.
    legs: (i32, i32),
    pub(crate) stand: Stand,
    /// Which left its rest later; 0 while at rest.
    pub(crate) left: u64,
}

/// The press that a leg is held by, of several the one that counts; 0 if nothing holds it.
#[inline]
fn order(plan: &InputsPlan, board: &Board, how: Opposed, leg: &LegPlan) -> u64 {
    let mut counts = 0;
    for contact in &plan.leg_contacts[run(&leg.contacts)] {
        let Some(contact) = board.contacts.get(*contact as usize) else { continue };
        if contact.down != 0 {
            let is_first = counts == 0 || how != Opposed::Oldest;
            counts = if is_first { contact.press.max(counts) } else { contact.press.min(counts) };
        }
    }
    counts
}

/// The level that two opposite legs give together.
#[inline]
pub(crate) fn opposed(plan: &InputsPlan, board: &Board, pair: u32) -> i32 {
    let PairPlan { minus, plus, opposed: how, is_keys } = &plan.pairs[pair as usize];
    // No level goes further than a key.
    match (order(plan, board, *how, minus), order(plan, board, *how, plus)) {
        (0, 0) if *is_keys => 0,
        (0, 0) => furthest_apart(plan, board, minus, plus),
        (_, 0) => -ONE,
        (0, _) => ONE,
        (minus, plus) if *how == Opposed::Newest => {
            if plus > minus {
                ONE
            } else {
                -ONE
            }
        }
        (minus, plus) if *how == Opposed::Oldest => {
            if plus < minus {
                ONE
            } else {
                -ONE
            }
        }
        _ => furthest_apart(plan, board, minus, plus),
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

/// Works an action's crosses out again.
#[inline(never)]
pub(crate) fn cross_over(plan: &InputsPlan, board: &mut Board, crosses: &mut [CrossState], moved: &MovedPlan) {
    for number in run(&moved.crosses) {
        let cross = &plan.crosses[number];
        let [across, upright] = cross.pairs;
        let x = opposed(plan, board, across);
        let y = if moved.stick { opposed(plan, board, upright) } else { 0 };
        crosses[number].take(plan, cross, moved, board, (x, y));
    }
}

/// Works a cross out again after the pair that a leg of it belongs to gave this level.
#[inline(always)]
pub(crate) fn leg_over(
    plan: &InputsPlan,
    board: &mut Board,
    state: &mut CrossState,
    (cross, moved): (&CrossPlan, &MovedPlan),
    (upright, level): (bool, i32),
) {
    let (x, y) = state.legs;
    let now = if upright { (x, level) } else { (level, y) };
    if now != state.legs {
        state.take(plan, cross, moved, board, now);
    }
}

/// The place among the nine; `None` for what no keys give.
#[inline(always)]
fn place((x, y): (i32, i32)) -> Option<usize> {
    let third = |level: i32| match level {
        0 => Some(1),
        ONE => Some(2),
        _ if level == -ONE => Some(0),
        _ => None,
    };
    Some(3 * third(y)? + third(x)?)
}

impl CrossState {
    #[inline(always)]
    pub(crate) fn value(&self) -> Value {
        let Stand { to, push, size: _, points } = self.stand;
        Value { to, push, points, digital: true }
    }

    /// What its stick or axis says where nothing else is away from rest.
    #[inline(always)]
    pub(crate) fn alone(&self) -> Value {
        if self.left > 0 { self.value() } else { Value::REST }
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> [u64; 3] {
        let pair = |x: i32, y: i32| u64::from(x as u32) << 32 | u64::from(y as u32);
        let CrossState { legs, stand: Stand { to, push: _, size: _, points: _ }, left } = *self;
        [pair(legs.0, legs.1), pair(to.0, to.1), left]
    }

    /// Takes on what the legs give, shaped.
    #[inline(always)]
    fn take(&mut self, plan: &InputsPlan, cross: &CrossPlan, moved: &MovedPlan, board: &mut Board, legs: (i32, i32)) {
        self.legs = legs;
        if let Some(stand) = place(legs).and_then(|place| cross.nine.get(place)) {
            self.stand = *stand;
        } else {
            self.stand = shaped(&plan.shapes[cross.shape as usize], moved, legs);
        }
        if self.stand.size == 0 {
            self.left = 0;
        } else if self.left == 0 {
            self.left = board.next_order();
        }
    }
}

plain_fields! {
    CrossState, own => own.words();
}
