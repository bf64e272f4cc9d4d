//! `mash 5 within 1s`: pulls when five presses fall in one sliding second; on until the rate drops.

use alloc::string::String;
use alloc::vec;
use alloc::vec::Vec;
use core::fmt;
use core::time::Duration;

use winnow::combinator::cut_err;
use winnow::prelude::*;

use super::line::{Input, Read, count, expected, must, span, unfit_count, word};
use super::pace::longest;
use super::{
    Act, Asked, CompiledRule, Edge, Pace, Presses, Pressing, Role, Rule, RuleContext, RuleLine, Scaling, Verdict,
};
use crate::cause::Cause;
use crate::end::End;
use crate::time::{Plain, micros};

/// The rule made ready: spans in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Mash {
    count: u32,
    within: u64,
    pace: Pace,
}

impl RuleLine for Mash {
    const WORDS: &'static [&'static str] = &["mash"];

    fn read(input: &mut Input<'_>) -> Read<Rule> {
        word("mash")(input)?;
        let count = cut_err(count).context(expected("a number of presses, 2 to 64")).parse_next(input)?;
        must("within", "`within`")(input)?;
        Ok(Rule::Mash { count, within: span(input)? })
    }

    fn write(rule: &Rule, f: &mut fmt::Formatter<'_>) -> Option<fmt::Result> {
        let Rule::Mash { count, within } = rule else { return None };
        Some(write!(f, "mash {count} within {}", Plain(*within)))
    }

    fn spans(rule: &Rule) -> Option<[Option<Duration>; 2]> {
        let Rule::Mash { within, .. } = rule else { return None };
        Some([Some(*within), None])
    }

    fn unfit(rule: &Rule) -> Option<String> {
        if let Rule::Mash { count, .. } = rule { unfit_count(*count) } else { None }
    }

    fn forgives(rule: &Rule) -> &'static [&'static str] {
        if matches!(rule, Rule::Mash { .. }) { &["paced"] } else { &[] }
    }

    fn asks(rule: &Rule) -> Option<Vec<Asked<'_>>> {
        let Rule::Mash { count, within } = rule else { return None };
        Some(vec![Asked::of(Act::Mash(*count, *within))])
    }
}

impl CompiledRule for Mash {
    fn of(rule: &Rule) -> Option<Mash> {
        let Rule::Mash { count, within } = *rule else { return None };
        Some(Mash { count, within: micros(within), pace: None })
    }

    fn hears(&self, edge: Edge, _: Role, context: &mut RuleContext<'_>) -> Verdict {
        let Mash { count, within, pace } = *self;
        let at = context.at;
        match edge {
            Edge::Down { press, .. } => {
                let state = &mut *context.state;
                if state.last > 0 {
                    state.keep_pace(at + 1 - state.last, pace, count - 1);
                }
                state.last = at + 1;
                let within = state.window(within, pace, count - 1);
                let place = (state.note % count) as usize;
                // The ring's oldest is the press `count` presses ago; it makes room for this one.
                context.moments[place] = at;
                state.note = state.note.wrapping_add(1);
                state.count = (state.count + 1).min(count);
                state.presses.push(press);
                state.open = true;
                let oldest = context.moments[(state.note % count) as usize];
                if state.count == count && at - oldest <= within {
                    state.open = false;
                    context.expire(oldest + within);
                    return if context.on { Verdict::None } else { Verdict::lasting(context.state.presses, oldest) };
                }
                if !context.on {
                    context.expire(at + within);
                    if context.state.count == count {
                        // The ring is full, so the first of this many presses fell out of the span by this.
                        context.missed(End::Late { by: at - oldest - within });
                    }
                }
                Verdict::None
            }
            Edge::Up { cause, .. } if cause != Cause::LetGo => {
                (context.state.count, context.state.open) = (0, false);
                context.no_timer();
                Verdict::Ended(cause)
            }
            _ => Verdict::None,
        }
    }

    fn falls_due(&self, context: &mut RuleContext<'_>) -> Verdict {
        context.state.open = false;
        if context.on {
            return Verdict::Ended(Cause::LetGo);
        }
        (context.state.count, context.state.presses) = (0, Presses::default());
        Verdict::None
    }

    fn drops(&self, context: &mut RuleContext<'_>) {
        if context.on {
            // What is on goes on until its rate drops.
            (context.state.count, context.state.presses) = (0, Presses::default());
        } else {
            context.state.drop_attempt();
            context.no_timer();
        }
    }

    fn window(&self) -> Option<u64> {
        Some(self.within)
    }

    fn steps(&self) -> u8 {
        self.count as u8
    }

    fn moments(&self) -> usize {
        self.count as usize
    }

    fn longest_wait(&self) -> Option<u64> {
        Some(longest(self.within, self.pace))
    }

    fn pace(&mut self) -> Option<&mut Pace> {
        Some(&mut self.pace)
    }

    fn is_rate(&self) -> bool {
        true
    }

    fn pressing(&self) -> Pressing {
        Pressing::Rate
    }

    fn scale(&mut self, by: &Scaling<'_>) {
        self.within = (by.within)(self.within);
    }
}
