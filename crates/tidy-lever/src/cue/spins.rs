//! `steer spins 1 within 900ms`: once round, either way, from any start; part of a circle, or several. On until neutral.
//!
//! What counts is how far round the stick has come, in eighths: a step back is taken off, the centre is passed over, and
//! a jump of more than a quarter tells no way and starts again. Of every eighth it is remembered when it was left last.

use alloc::format;
use alloc::string::String;
use alloc::vec;
use alloc::vec::Vec;
use core::fmt;
use core::ops::RangeInclusive;
use core::time::Duration;

use winnow::combinator::cut_err;
use winnow::prelude::*;

use super::compiled::NEEDS_STICK;
use super::line::{Input, Read, expected, must, span, word, word_that};
use super::{Act, Asked, CompiledRule, Edge, Kinds, Role, Rule, RuleContext, RuleLine, Scaling, Verdict, WindowFrom};
use crate::cause::Cause;
use crate::direction::Direction;
use crate::end::End;
use crate::time::{Plain, micros};

/// The rule made ready: spans in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Spins {
    eighths: u32,
    within: u64,
}

impl RuleLine for Spins {
    const WORDS: &'static [&'static str] = &["spins"];

    fn read(input: &mut Input<'_>) -> Read<Rule> {
        word("spins")(input)?;
        let eighths = |word: &str| {
            let eighths = word.parse::<f64>().ok().filter(|turns| (0.25..=4.0).contains(turns))? * 8.0;
            (eighths as u32 as f64 == eighths).then_some(eighths as u32)
        };
        let eighths = cut_err(word_that(eighths))
            .context(expected("how many turns, 0.25 to 4 in eighths, as in 0.75"))
            .parse_next(input)?;
        must("within", "`within`")(input)?;
        Ok(Rule::Spins { eighths, within: span(input)? })
    }

    fn write(rule: &Rule, f: &mut fmt::Formatter<'_>) -> Option<fmt::Result> {
        let Rule::Spins { eighths, within } = rule else { return None };
        Some(write!(f, "spins {} within {}", f64::from(*eighths) / 8.0, Plain(*within)))
    }

    fn spans(rule: &Rule) -> Option<[Option<Duration>; 2]> {
        let Rule::Spins { within, .. } = rule else { return None };
        Some([Some(*within), None])
    }

    fn unfit(rule: &Rule) -> Option<String> {
        match rule {
            Rule::Spins { eighths, .. } if !EIGHTHS.contains(eighths) => {
                Some(format!("it can turn 2 to 32 eighths, found {eighths}"))
            }
            _ => None,
        }
    }

    fn asks(rule: &Rule) -> Option<Vec<Asked<'_>>> {
        let Rule::Spins { eighths, .. } = rule else { return None };
        Some(vec![Asked::of(Act::Circle(*eighths))])
    }
}

impl CompiledRule for Spins {
    fn of(rule: &Rule) -> Option<Spins> {
        let Rule::Spins { eighths, within } = *rule else { return None };
        Some(Spins { eighths, within: micros(within) })
    }

    fn hears(&self, edge: Edge, _: Role, context: &mut RuleContext<'_>) -> Verdict {
        let Spins { eighths, within } = *self;
        let Edge::Turn { from, to, press, cause } = edge else { return Verdict::None };
        let at = context.at;
        if cause != Cause::LetGo {
            forget(context);
            return if context.on { Verdict::Ended(cause) } else { Verdict::None };
        }
        let Some(to) = to else {
            context.state.last = at;
            return if context.on { Verdict::Ended(cause) } else { Verdict::None };
        };
        // Where it stands in the count; and the direction that this was, 0 for none yet.
        let (count, stood) = (context.state.count as i32, context.state.note);
        let before = stood.checked_sub(1).and_then(|number| Direction::ALL.get(number as usize)).copied();
        let turned = before.map_or(0, |before| before.eighths_to(to));
        if before.is_none() || turned.abs() > 2 {
            if before.is_some() {
                context.missed(End::RanOut);
            }
            forget(context);
            context.state.note = to as u32 + 1;
            context.state.presses.push(press);
            return Verdict::None;
        }
        let places = moments(eighths) as i32;
        let place = |count: i32| count.rem_euclid(places) as usize;
        // It left the eighth it stood in, maybe for the centre first, and ran through those between just now.
        for step in 0..turned.abs() {
            let left = if step == 0 && from.is_none() { context.state.last } else { at };
            context.moments[place(count + step * turned.signum())] = left + 1;
        }
        let now = count + turned;
        context.state.count = now as u32;
        context.state.note = to as u32 + 1;
        context.state.presses.push(press);
        // Anywhere between the last two places it came round to, the circle may have closed.
        let took = |step: i32| {
            let reached = count + step * turned.signum();
            let start = context.moments[place(reached - turned.signum() * eighths as i32)];
            (start != NEVER).then(|| at - (start - 1))
        };
        let Some(quickest) = (1..=turned.abs()).filter_map(took).min() else { return Verdict::None };
        if quickest > within {
            // What took twice as long was not a spin, only a stick that came by here before.
            if quickest <= 2 * within {
                context.missed(End::Late { by: quickest - within });
            }
            return Verdict::None;
        }
        let presses = context.state.presses;
        forget(context);
        context.state.note = to as u32 + 1;
        Verdict::lasting(presses, at)
    }

    fn kinds(&self) -> Kinds {
        Edge::TURN | Edge::LOST_TURN
    }

    fn drops(&self, context: &mut RuleContext<'_>) {
        forget(context);
    }

    fn window(&self) -> Option<u64> {
        Some(self.within)
    }

    fn steps(&self) -> u8 {
        self.eighths as u8
    }

    fn counts(&self, edge: Edge) -> bool {
        matches!(edge, Edge::Turn { to: Some(_), .. })
    }

    fn moments(&self) -> usize {
        moments(self.eighths)
    }

    fn steps_anew(&self) -> bool {
        true
    }

    fn turns_on(&self) -> bool {
        true
    }

    fn window_from(&self) -> WindowFrom {
        WindowFrom::Nowhere
    }

    fn needs_stick(&self) -> Option<&'static str> {
        Some(NEEDS_STICK)
    }

    fn scale(&mut self, by: &Scaling<'_>) {
        self.within = (by.within)(self.within);
    }
}

/// How many eighths must be told apart: as many each way, and where it stands.
pub(super) const fn moments(eighths: u32) -> usize {
    2 * eighths as usize + 2
}

/// The eighths of a circle that it takes.
const EIGHTHS: RangeInclusive<u32> = 2..=32;

/// Never left.
const NEVER: u64 = 0;

/// Begins again, wherever the stick stands.
pub(super) fn forget(context: &mut RuleContext<'_>) {
    context.moments.fill(NEVER);
    context.state.drop_attempt();
}
