//! Compiled rules: how each hears an edge, falls due, forgets, and what it tells of itself.

use super::edge::{Edge, Kinds, Role};
use super::pace::{Pace, longest};
use super::presses::Presses;
use super::rolls::RollsPlan;
use super::rule::Rule;
use super::state::{RuleContext, Verdict};
use super::twice::TwicePlan;
use super::{charge, flicks, hold, mash, order, press, release, repeat, spins, tap, taps, toggle, twice, with};
use crate::cause::Cause;
use crate::time::micros;

/// A rule made ready: spans in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) enum RulePlan {
    Press,
    Release,
    Hold {
        span: u64,
    },
    Tap {
        under: u64,
    },
    Taps {
        count: u32,
        apart: u64,
        on_release: bool,
        pace: Pace,
    },
    Twice(TwicePlan),
    Repeat {
        after: u64,
        every: u64,
    },
    Toggle,
    Mash {
        count: u32,
        within: u64,
        pace: Pace,
    },
    With {
        within: u64,
        one_by_one: bool,
    },
    Charge {
        from: u64,
        to: u64,
    },
    /// Its names are in the plan's table of orders.
    Order {
        count: u32,
        within: u64,
        names: [u8; MOST_NAMES],
    },
    /// Works through its stick's set of motions.
    Rolls {
        within: u64,
        how: RollsPlan,
        then: bool,
    },
    Spins {
        eighths: u32,
        within: u64,
    },
    Flicks {
        over: i32,
        within: u64,
        /// How long the stick must have rested before.
        rested: u64,
    },
}

/// The most names in an order, and positions in a motion.
pub(crate) const MOST_NAMES: usize = 16;

impl RulePlan {
    pub(crate) fn of(rule: &Rule) -> RulePlan {
        match rule {
            Rule::Press => RulePlan::Press,
            Rule::Release => RulePlan::Release,
            Rule::Hold { span } => RulePlan::Hold { span: micros(*span) },
            Rule::Tap { under } => RulePlan::Tap { under: micros(*under) },
            Rule::Taps { count, apart, on_release } => {
                RulePlan::Taps { count: *count, apart: micros(*apart), on_release: *on_release, pace: None }
            }
            Rule::Twice { within, until_neutral } => {
                RulePlan::Twice(TwicePlan { until_neutral: *until_neutral, ..TwicePlan::within(micros(*within)) })
            }
            Rule::Repeat { after, every } => RulePlan::Repeat { after: micros(*after), every: micros(*every) },
            Rule::Toggle => RulePlan::Toggle,
            Rule::Mash { count, within } => RulePlan::Mash { count: *count, within: micros(*within), pace: None },
            Rule::With { within, .. } => RulePlan::With { within: micros(*within), one_by_one: false },
            Rule::Charge { from, to } => RulePlan::Charge { from: micros(*from), to: micros(*to) },
            Rule::Order { names, within } => {
                // Each is known by the first place at which it stands.
                let mut places = [0; MOST_NAMES];
                for (place, name) in places.iter_mut().zip(names) {
                    *place = names.iter().position(|first| first == name).unwrap_or(0) as u8;
                }
                RulePlan::Order { count: names.len() as u32, within: micros(*within), names: places }
            }
            Rule::Rolls { then, within, .. } => {
                RulePlan::Rolls { within: micros(*within), how: RollsPlan::default(), then: then.is_some() }
            }
            Rule::Spins { eighths, within } => RulePlan::Spins { eighths: *eighths, within: micros(*within) },
            Rule::Flicks { over, within } => {
                RulePlan::Flicks { over: *over, within: micros(*within), rested: flicks::RESTED }
            }
        }
    }

    /// Hears an edge of its subject, or of the other action it names.
    #[inline(never)]
    pub(crate) fn hears(&self, edge: &Edge, role: Role, context: &mut RuleContext<'_>) -> Verdict {
        match *self {
            RulePlan::Press => press::hears(*edge, context.at),
            RulePlan::Release => release::hears(*edge, context),
            RulePlan::Hold { span } => hold::hears(span, *edge, context),
            RulePlan::Tap { under } => tap::hears(under, *edge, context),
            RulePlan::Taps { count, apart, on_release, pace } => {
                taps::hears((count, apart, on_release, pace), *edge, context)
            }
            RulePlan::Twice(ref how) => twice::hears(how, *edge, context),
            RulePlan::Repeat { after, .. } => repeat::hears(after, *edge, context),
            RulePlan::Toggle => toggle::hears(*edge, context),
            RulePlan::Mash { count, within, pace } => mash::hears((count, within, pace), *edge, context),
            RulePlan::With { within, one_by_one } => with::hears(within, one_by_one, *edge, role, context),
            RulePlan::Charge { from, to } => charge::hears(from, to, *edge, context),
            RulePlan::Order { count, within, ref names } => {
                order::hears(within, &names[..count as usize], *edge, role, context)
            }
            RulePlan::Rolls { .. } => Verdict::None,
            RulePlan::Spins { eighths, within } => spins::hears(eighths, within, *edge, context),
            RulePlan::Flicks { over, within, rested } => flicks::hears((over, within, rested), *edge, context),
        }
    }

    /// The kinds of edges that mean anything to it.
    pub(crate) fn kinds(&self) -> Kinds {
        match self {
            RulePlan::Toggle => Edge::DOWN,
            RulePlan::Rolls { .. } => 0,
            RulePlan::Twice(_) => Edge::LOST_TURN | Edge::PUSH,
            RulePlan::Spins { .. } => Edge::TURN | Edge::LOST_TURN,
            RulePlan::Flicks { .. } => Edge::TURN | Edge::LOST_TURN | Edge::PUSH,
            _ => Edge::DOWN | Edge::UP,
        }
    }

    /// Its timer fell due.
    #[inline(never)]
    pub(crate) fn falls_due(&self, context: &mut RuleContext<'_>) -> Verdict {
        match *self {
            RulePlan::Hold { .. } => hold::falls_due(context),
            RulePlan::Repeat { every, .. } => repeat::falls_due(every, context),
            RulePlan::Mash { .. } => mash::falls_due(context),
            RulePlan::Flicks { .. } => flicks::falls_due(context),
            RulePlan::Order { count, within, ref names } => order::falls_due(within, &names[..count as usize], context),
            RulePlan::Taps { .. } => taps::falls_due(context),
            RulePlan::Twice(ref how) => twice::falls_due(how, context),
            _ => {
                // The window of the attempt is over.
                context.state.drop_attempt();
                Verdict::None
            }
        }
    }

    /// Presses are gone: their device is lost, or another action took them. What stands on them is dropped; whether an
    /// attempt was.
    pub(crate) fn forgets(&self, gone: impl Fn(u32) -> bool, context: &mut RuleContext<'_>) -> bool {
        if let RulePlan::Taps { on_release: true, .. } = self {
            return taps::forgets(gone, context);
        }
        if !context.state.presses.iter().any(&gone) {
            return false;
        }
        let was_open = context.state.open;
        match self {
            // What presses of a motion were used up stays known.
            RulePlan::Rolls { .. } => return false,
            // Each control's own press counts for itself.
            RulePlan::Release => {
                context.state.presses.retain(|press| !gone(press));
                context.state.open &= context.state.presses != Presses::default();
                return was_open && !context.state.open;
            }
            RulePlan::Spins { .. } => spins::forget(context),
            RulePlan::Twice(_) => twice::forget(context),
            RulePlan::Flicks { .. } => flicks::forget(context),
            // What is on goes on until its rate drops.
            RulePlan::Mash { .. } if context.on => {
                (context.state.count, context.state.presses) = (0, Presses::default())
            }
            _ => {
                context.state.drop_attempt();
                context.no_timer();
            }
        }
        was_open
    }

    /// The span that an attempt has to be finished in, or to be held for, in µs.
    pub(crate) fn window(self) -> Option<u64> {
        match self {
            RulePlan::Press | RulePlan::Release | RulePlan::Toggle | RulePlan::Repeat { .. } => None,
            RulePlan::Hold { span } => Some(span),
            RulePlan::Tap { under } => Some(under),
            RulePlan::Charge { from, .. } => Some(from),
            RulePlan::Taps { apart, .. } => Some(apart),
            RulePlan::Twice(TwicePlan { within, .. })
            | RulePlan::Mash { within, .. }
            | RulePlan::With { within, .. }
            | RulePlan::Order { within, .. }
            | RulePlan::Rolls { within, .. }
            | RulePlan::Spins { within, .. }
            | RulePlan::Flicks { within, .. } => Some(within),
        }
    }

    /// How many steps it has, for people.
    pub(crate) fn steps(self) -> u8 {
        match self {
            RulePlan::Taps { count, .. } | RulePlan::Mash { count, .. } | RulePlan::Order { count, .. } => count as u8,
            RulePlan::Twice(_) | RulePlan::With { .. } => 2,
            RulePlan::Spins { eighths, .. } => eighths as u8,
            _ => 1,
        }
    }

    /// Whether an edge is one of its steps.
    pub(crate) fn counts(self, edge: Edge) -> bool {
        match (self, edge) {
            (RulePlan::Spins { .. } | RulePlan::Flicks { .. }, Edge::Turn { to: Some(_), .. }) => true,
            (RulePlan::Taps { on_release, .. }, Edge::Up { cause: Cause::LetGo, .. }) => on_release,
            (RulePlan::Taps { on_release, .. }, Edge::Down { .. }) => !on_release,
            (
                RulePlan::Hold { .. } | RulePlan::Tap { .. } | RulePlan::Charge { .. } | RulePlan::Release,
                Edge::Down { first, .. },
            ) => first,
            (RulePlan::Twice(_) | RulePlan::Spins { .. } | RulePlan::Flicks { .. } | RulePlan::Rolls { .. }, _) => {
                false
            }
            (RulePlan::Order { .. }, Edge::Down { back: true, .. }) => false,
            (_, Edge::Down { .. }) => true,
            _ => false,
        }
    }

    /// How many moments it must remember.
    pub(crate) fn moments(self) -> usize {
        match self {
            RulePlan::Mash { count, .. } | RulePlan::Order { count, .. } => count as usize,
            RulePlan::Spins { eighths, .. } => spins::moments(eighths),
            RulePlan::Twice(_) => twice::MOMENTS,
            _ => 0,
        }
    }

    /// How long after a press an attempt on it can stay open, in µs; `None` for as long as it is held.
    pub(crate) fn longest_wait(self) -> Option<u64> {
        match self {
            RulePlan::Press | RulePlan::Repeat { .. } | RulePlan::Toggle => Some(0),
            RulePlan::Release | RulePlan::Charge { .. } => None,
            RulePlan::Hold { span } => Some(span),
            RulePlan::Tap { under } => Some(under),
            RulePlan::Taps { on_release: true, .. } => None,
            RulePlan::Taps { count, apart, pace, .. } => Some(u64::from(count - 1) * longest(apart, pace)),
            RulePlan::Twice(TwicePlan { within, pace, .. }) => Some(longest(within, pace)),
            RulePlan::Mash { within, pace, .. } => Some(longest(within, pace)),
            RulePlan::With { within, .. }
            | RulePlan::Order { within, .. }
            | RulePlan::Spins { within, .. }
            | RulePlan::Flicks { within, .. } => Some(within),
            // Whoever shares its finishing press waits for the last direction; others share a direction.
            RulePlan::Rolls { within, how, then } => Some(if then { how.early } else { within }),
        }
    }

    /// How long it takes from the movement that decides to the pull, in µs.
    pub(crate) fn own_delay(self) -> u64 {
        if let RulePlan::Hold { span } = self { span } else { 0 }
    }

    /// Whether it pulls at any press at all.
    pub(crate) fn is_eager(self) -> bool {
        matches!(self, RulePlan::Press | RulePlan::Repeat { .. } | RulePlan::Toggle)
    }

    /// Whether one press, held and let go in some way, can make both pull.
    pub(crate) fn overlaps(self, other: RulePlan) -> bool {
        let one_way = |a: RulePlan, b: RulePlan| match (a, b) {
            _ if a.is_eager() => true,
            (RulePlan::Release, _) => true,
            (RulePlan::Tap { under }, RulePlan::Hold { span }) => under > span,
            (RulePlan::Tap { under }, RulePlan::Charge { from, .. }) => under > from,
            (RulePlan::Tap { .. }, RulePlan::Tap { .. } | RulePlan::Taps { .. } | RulePlan::Mash { .. }) => true,
            (RulePlan::Hold { .. }, RulePlan::Hold { .. } | RulePlan::Charge { .. } | RulePlan::Taps { .. }) => true,
            (RulePlan::Taps { .. }, RulePlan::Taps { .. } | RulePlan::Mash { .. }) => true,
            _ => false,
        };
        one_way(self, other) || one_way(other, self)
    }
}
