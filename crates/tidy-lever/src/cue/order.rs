//! `order left, right, hop within 2s`: these presses in a row. Hears only what it names; a wrong one breaks it, and the
//! last this many always count. On until the last is let go.

use alloc::borrow::ToOwned;
use alloc::string::String;
use alloc::vec::Vec;
use core::fmt;
use core::time::Duration;

use winnow::combinator::cut_err;
use winnow::prelude::*;

use super::line::{Input, Read, expected, is_name, listed, must, span, word, word_that};
use super::{
    Act, Asked, By, CompiledRule, Edge, MOST_NAMES, Presses, Role, Rule, RuleContext, RuleLine, Scaling, Verdict,
};
use crate::cause::Cause;
use crate::direction::Direction;
use crate::end::{Did, End};
use crate::time::{Plain, micros};

/// The rule made ready: spans in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Order {
    count: u32,
    within: u64,
    names: [u8; MOST_NAMES],
}

impl RuleLine for Order {
    const WORDS: &'static [&'static str] = &["order"];

    fn read(input: &mut Input<'_>) -> Read<Rule> {
        word("order")(input)?;
        let direction = |word: &str| Direction::from_name(word).map(|direction| direction.name().to_owned());
        let named = |word: &str| if is_name(word) { Some(word.to_owned()) } else { direction(word) };
        let one = |input: &mut Input<'_>| {
            cut_err(word_that(named)).context(expected("an action, or a direction such as left")).parse_next(input)
        };
        let names = listed(one)(input)?;
        must("within", "a comma and the next, or `within`")(input)?;
        Ok(Rule::Order { names, within: span(input)? })
    }

    fn write(rule: &Rule, f: &mut fmt::Formatter<'_>) -> Option<fmt::Result> {
        let Rule::Order { names, within } = rule else { return None };
        Some(write!(f, "order {} within {}", names.join(", "), Plain(*within)))
    }

    fn spans(rule: &Rule) -> Option<[Option<Duration>; 2]> {
        let Rule::Order { within, .. } = rule else { return None };
        Some([Some(*within), None])
    }

    fn unfit(rule: &Rule) -> Option<String> {
        match rule {
            Rule::Order { names, .. } if names.is_empty() => Some("it names nothing".into()),
            _ => None,
        }
    }

    fn next(rule: &Rule, came: usize) -> Option<&str> {
        let Rule::Order { names, .. } = rule else { return None };
        names.get(came).map(String::as_str)
    }

    fn hears_only(rule: &Rule) -> Option<&[String]> {
        let Rule::Order { names, .. } = rule else { return None };
        Some(names)
    }

    fn asks(rule: &Rule) -> Option<Vec<Asked<'_>>> {
        let Rule::Order { names, .. } = rule else { return None };
        let press = names.iter().map(|name| match Direction::from_name(name) {
            Some(direction) => Asked { by: By::Direction(direction), ..Asked::of(Act::Press) },
            None => Asked::by(name, Act::Press),
        });
        Some(press.collect())
    }
}

impl CompiledRule for Order {
    fn of(rule: &Rule) -> Option<Order> {
        let Rule::Order { names, within } = rule else { return None };
        // Each is known by the first place at which it stands.
        let mut places = [0; MOST_NAMES];
        for (place, name) in places.iter_mut().zip(names) {
            *place = names.iter().position(|first| first == name).unwrap_or(0) as u8;
        }
        Some(Order { count: names.len() as u32, within: micros(*within), names: places })
    }

    fn hears(&self, edge: Edge, role: Role, context: &mut RuleContext<'_>) -> Verdict {
        let (within, names) = (self.within, &self.names[..self.count as usize]);
        let (Role::Named(name), at, count) = (role, context.at, names.len()) else { return Verdict::None };
        let is_last = names.last() == Some(&name);
        match edge {
            // A direction that another key gave back was held all along.
            Edge::Down { back: true, .. } => Verdict::None,
            Edge::Down { press, .. } => {
                // The oldest stands first; the newest comes last.
                context.moments.rotate_left(1);
                context.moments[count - 1] = at << NAME_BITS | u64::from(name);
                let state = &mut *context.state;
                state.count = (state.count + 1).min(count as u32);
                state.presses.push(press);
                let matched = longest(within, names, context, at);
                let broke = context.state.open
                    && matched.is_none_or(|length| context.moments[count - length] >> NAME_BITS != context.state.began);
                if broke {
                    context.missed(End::Wrong(Did::Neutral));
                }
                let Some(length) = matched else {
                    context.state.drop_attempt();
                    context.no_timer();
                    return Verdict::None;
                };
                let began = context.moments[count - length] >> NAME_BITS;
                let presses = context.state.presses.newest(length);
                if length == count {
                    context.state.drop_attempt();
                    context.no_timer();
                    return Verdict::lasting(presses, began);
                }
                (context.state.open, context.state.began) = (true, began);
                context.expire(began + within);
                Verdict::None
            }
            Edge::Up { cause, .. } if cause != Cause::LetGo => {
                context.state.drop_attempt();
                context.no_timer();
                Verdict::Ended(cause)
            }
            Edge::Up { cause, .. } if is_last && context.on => Verdict::Ended(cause),
            _ => Verdict::None,
        }
    }

    /// The window of the longest beginning is over; a shorter one may still be under way.
    fn falls_due(&self, context: &mut RuleContext<'_>) -> Verdict {
        let (within, names) = (self.within, &self.names[..self.count as usize]);
        // Those that end with this very moment are over, too.
        match longest(within, names, context, context.at + 1) {
            Some(length) => {
                let began = context.moments[names.len() - length] >> NAME_BITS;
                context.state.began = began;
                context.expire(began + within);
            }
            None => context.state.drop_attempt(),
        }
        Verdict::None
    }

    fn window(&self) -> Option<u64> {
        Some(self.within)
    }

    fn steps(&self) -> u8 {
        self.count as u8
    }

    fn counts(&self, edge: Edge) -> bool {
        matches!(edge, Edge::Down { back: false, .. })
    }

    fn moments(&self) -> usize {
        self.count as usize
    }

    fn is_of_several(&self) -> bool {
        true
    }

    fn names(&self) -> Option<&[u8]> {
        Some(&self.names)
    }

    fn scale(&mut self, by: &Scaling<'_>) {
        self.within = (by.within)(self.within);
    }
}

/// A press is remembered as its moment and its name's place.
const NAME_BITS: u32 = MOST_NAMES.ilog2();
const NAME: u64 = (1 << NAME_BITS) - 1;

/// The longest beginning of the order that the last presses are, if it began `within` before this moment.
fn longest(within: u64, names: &[u8], context: &RuleContext<'_>, at: u64) -> Option<usize> {
    let count = names.len();
    (1..=context.state.count as usize).rev().find(|length| {
        let heard = &context.moments[count - length..];
        let alike = heard.iter().zip(names).all(|(heard, name)| heard & NAME == u64::from(*name));
        alike && at - (heard[0] >> NAME_BITS) <= within
    })
}

impl Presses {
    /// Only the newest this many.
    fn newest(&self, count: usize) -> Presses {
        let mut newest = *self;
        newest.0.iter_mut().skip(count).for_each(|press| *press = 0);
        newest
    }
}
