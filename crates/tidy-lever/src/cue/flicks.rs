//! `steer flicks over 0.8 within 60ms`: from the centre to the edge at once, after a short rest; never from keys. On
//! until neutral.

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
use super::{
    Act, Asked, CompiledRule, Edge, Kinds, Presses, Push, Role, Rule, RuleContext, RuleLine, Scaling, Tolerances,
    Verdict,
};
use crate::cause::Cause;
use crate::end::End;
use crate::time::{Plain, micros};

/// The rule made ready: spans in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Flicks {
    over: i32,
    within: u64,
    /// How long the stick must have rested before.
    rested: u64,
}

impl RuleLine for Flicks {
    const WORDS: &'static [&'static str] = &["flicks"];

    fn read(input: &mut Input<'_>) -> Read<Rule> {
        word("flicks")(input)?;
        must("over", "`over`")(input)?;
        let level = |word: &str| {
            let over = word.parse::<f64>().ok().filter(|level| (0.1..=1.0).contains(level))?;
            crate::fixed::from_f64(over).and_then(|over| i32::try_from(over).ok())
        };
        let over = cut_err(word_that(level)).context(expected("a level, 0.1 to 1")).parse_next(input)?;
        must("within", "`within`")(input)?;
        Ok(Rule::Flicks { over, within: span(input)? })
    }

    fn write(rule: &Rule, f: &mut fmt::Formatter<'_>) -> Option<fmt::Result> {
        let Rule::Flicks { over, within } = rule else { return None };
        Some(write!(f, "flicks over {} within {}", f64::from(*over) / f64::from(crate::fixed::ONE), Plain(*within)))
    }

    fn spans(rule: &Rule) -> Option<[Option<Duration>; 2]> {
        let Rule::Flicks { within, .. } = rule else { return None };
        Some([Some(*within), None])
    }

    fn unfit(rule: &Rule) -> Option<String> {
        match rule {
            Rule::Flicks { over, .. } if !LEVELS.contains(over) => {
                Some(format!("the level must be 100000 to 1000000 millionths, found {over}"))
            }
            _ => None,
        }
    }

    fn forgives(rule: &Rule) -> &'static [&'static str] {
        if matches!(rule, Rule::Flicks { .. }) { &["rested"] } else { &[] }
    }

    fn asks(rule: &Rule) -> Option<Vec<Asked<'_>>> {
        matches!(rule, Rule::Flicks { .. }).then(|| vec![Asked::of(Act::Flick)])
    }
}

impl CompiledRule for Flicks {
    fn of(rule: &Rule) -> Option<Flicks> {
        let Rule::Flicks { over, within } = *rule else { return None };
        Some(Flicks { over, within: micros(within), rested: RESTED })
    }

    fn hears(&self, edge: Edge, _: Role, context: &mut RuleContext<'_>) -> Verdict {
        let Flicks { over, within, rested } = *self;
        let at = context.at;
        match edge {
            // Entering a direction is its press, and comes before the push.
            Edge::Turn { to: Some(_), press, .. } => {
                if context.state.presses == Presses::default() {
                    context.state.presses = Presses::one(press);
                }
                Verdict::None
            }
            Edge::Push(&Push { to: None, cause, .. }) => {
                // Start of the rest plus 1; 0 means that the stick has rested since the beginning. Reports from within the dead
                // zone, as every stick gives them on its way out, don't begin it again.
                if context.state.open || context.state.note != 0 || context.on {
                    context.state.last = at + 1;
                }
                context.state.drop_attempt();
                context.no_timer();
                if context.on { Verdict::Ended(cause) } else { Verdict::None }
            }
            Edge::Push(&Push { cause, digital, .. }) if cause != Cause::LetGo || digital => {
                (context.state.note, context.state.open) = (DECIDED, false);
                context.no_timer();
                Verdict::None
            }
            Edge::Push(push) => {
                if context.state.note == DECIDED || context.on {
                    return Verdict::None;
                }
                if !context.state.open && context.state.note != TOO_SLOW {
                    let rests_since = context.state.last;
                    if rests_since > 0 && at + 1 - rests_since < rested {
                        context.state.note = DECIDED;
                        return Verdict::None;
                    }
                    (context.state.open, context.state.began) = (true, at);
                    context.expire(at + within);
                }
                if push.size() < over {
                    return Verdict::None;
                }
                let (presses, began) = (context.state.presses, context.state.began);
                (context.state.note, context.state.open) = (DECIDED, false);
                context.no_timer();
                if at - began > within {
                    context.missed(End::Long { by: at - began - within });
                    return Verdict::None;
                }
                Verdict::lasting(presses, began)
            }
            _ => Verdict::None,
        }
    }

    /// The edge was not reached in time.
    fn falls_due(&self, context: &mut RuleContext<'_>) -> Verdict {
        (context.state.note, context.state.open) = (TOO_SLOW, false);
        Verdict::None
    }

    fn kinds(&self) -> Kinds {
        Edge::TURN | Edge::LOST_TURN | Edge::PUSH
    }

    /// The press that began it is gone: nothing comes of this push.
    fn drops(&self, context: &mut RuleContext<'_>) {
        (context.state.note, context.state.open) = (DECIDED, false);
        context.no_timer();
    }

    fn window(&self) -> Option<u64> {
        Some(self.within)
    }

    fn counts(&self, edge: Edge) -> bool {
        matches!(edge, Edge::Turn { to: Some(_), .. })
    }

    fn steps_anew(&self) -> bool {
        true
    }

    fn needs_stick(&self) -> Option<&'static str> {
        Some(NEEDS_STICK)
    }

    fn forgive(&mut self, _: &Rule, by: &mut dyn Tolerances) {
        self.rested = by.span("rested", self.rested);
    }

    fn scale(&mut self, by: &Scaling<'_>) {
        self.within = (by.within)(self.within);
    }
}

/// Default for how long the stick must have rested before a flick, in µs.
pub(super) const RESTED: u64 = 20_000;

/// The levels that it takes, in millionths.
const LEVELS: RangeInclusive<i32> = 100_000..=1_000_000;

/// State of the current push: already decided, or too slow (only by how much is still unknown).
const DECIDED: u32 = 1;
const TOO_SLOW: u32 = 2;
