//! `2 taps 240ms apart`: pulls at the last press, each gap within the span, then counts again; on until let go.
//!
//! ```text
//!   ─┐ ┌──┐ ┌─        gaps lie between presses (or, counted on release, between lettings go)
//!    └─┘  └─┘
//!    |←──→|● ≤ apart
//! ```

use alloc::string::String;
use alloc::vec::Vec;
use core::fmt;
use core::time::Duration;

use winnow::combinator::opt;
use winnow::prelude::*;

use super::compiled::{ON_RELEASE, drop_those};
use super::line::{Input, Read, count, must, on_release, span, unfit_count, word};
use super::pace::longest;
use super::{
    Act, Asked, CompiledRule, Edge, Pace, Presses, Pressing, Role, Rule, RuleContext, RuleLine, Scaling, Verdict,
    WindowFrom,
};
use crate::cause::Cause;
use crate::time::{Plain, micros};

/// The rule made ready: spans in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Taps {
    count: u32,
    apart: u64,
    on_release: bool,
    pace: Pace,
}

impl RuleLine for Taps {
    const WORDS: &'static [&'static str] = &["double"];

    fn read(input: &mut Input<'_>) -> Read<Rule> {
        // `double tap within` is two of them.
        if opt(word("double")).parse_next(input)?.is_some() {
            must("tap", "`tap`")(input)?;
            must("within", "`within`")(input)?;
            let apart = span(input)?;
            return Ok(Rule::Taps { count: 2, apart, on_release: on_release(input)? });
        }
        let count = count(input)?;
        must("taps", "`taps`")(input)?;
        let apart = span(input)?;
        must("apart", "`apart`")(input)?;
        Ok(Rule::Taps { count, apart, on_release: on_release(input)? })
    }

    fn write(rule: &Rule, f: &mut fmt::Formatter<'_>) -> Option<fmt::Result> {
        let Rule::Taps { count, apart, on_release } = rule else { return None };
        let on = if *on_release { " counted on release" } else { "" };
        Some(write!(f, "{count} taps {} apart{on}", Plain(*apart)))
    }

    fn spans(rule: &Rule) -> Option<[Option<Duration>; 2]> {
        let Rule::Taps { apart, .. } = rule else { return None };
        Some([Some(*apart), None])
    }

    fn unfit(rule: &Rule) -> Option<String> {
        if let Rule::Taps { count, .. } = rule { unfit_count(*count) } else { None }
    }

    fn forgives(rule: &Rule) -> &'static [&'static str] {
        if matches!(rule, Rule::Taps { .. }) { &["paced"] } else { &[] }
    }

    fn asks(rule: &Rule) -> Option<Vec<Asked<'_>>> {
        let Rule::Taps { count, .. } = rule else { return None };
        Some((0..*count).map(|_| Asked::of(Act::Press)).collect())
    }
}

impl CompiledRule for Taps {
    fn of(rule: &Rule) -> Option<Taps> {
        let Rule::Taps { count, apart, on_release } = *rule else { return None };
        Some(Taps { count, apart: micros(apart), on_release, pace: None })
    }

    fn hears(&self, edge: Edge, _: Role, context: &mut RuleContext<'_>) -> Verdict {
        let Taps { count, apart, on_release, pace } = *self;
        let gaps = (apart, pace);
        match edge {
            Edge::Down { press, .. } if !on_release => match tap(count, gaps, press, context) {
                Some((presses, began)) => Verdict::lasting(presses, began),
                None => Verdict::None,
            },
            // Counted on release, the press only lends its identity.
            Edge::Down { press, .. } => {
                context.state.note = press as u32;
                Verdict::None
            }
            Edge::Up { cause: Cause::LetGo, .. } if on_release => {
                let press = u64::from(core::mem::take(&mut context.state.note));
                if press == 0 {
                    // The press was taken away meanwhile.
                    return Verdict::None;
                }
                match tap(count, gaps, press, context) {
                    Some((presses, began)) => Verdict::instant(presses, began),
                    None => Verdict::None,
                }
            }
            Edge::Up { cause, .. } => {
                if cause != Cause::LetGo {
                    context.state.drop_attempt();
                    context.no_timer();
                }
                Verdict::Ended(cause)
            }
            Edge::Turn { .. } | Edge::Push { .. } => Verdict::None,
        }
    }

    /// The window is over; a press that is down lends its identity all the same.
    fn falls_due(&self, context: &mut RuleContext<'_>) -> Verdict {
        let held = context.state.note;
        context.state.drop_attempt();
        context.state.note = held;
        Verdict::None
    }

    /// Presses are gone: an attempt on them is dropped, and the press that is down lends nothing if it is one of them.
    fn forgets(&self, gone: &dyn Fn(u32) -> bool, context: &mut RuleContext<'_>) -> bool {
        if !self.on_release {
            return drop_those(self, gone, context);
        }
        let is_held = |press: u32| press != 0 && !gone(press);
        let (held, was_open) = (Some(context.state.note).filter(|press| is_held(*press)), context.state.open);
        if was_open && context.state.presses.iter().any(&gone) {
            context.state.drop_attempt();
            context.no_timer();
        }
        context.state.note = held.unwrap_or(0);
        was_open && !context.state.open
    }

    fn window(&self) -> Option<u64> {
        Some(self.apart)
    }

    fn steps(&self) -> u8 {
        self.count as u8
    }

    fn counts(&self, edge: Edge) -> bool {
        match edge {
            Edge::Up { cause: Cause::LetGo, .. } => self.on_release,
            Edge::Down { .. } => !self.on_release,
            _ => false,
        }
    }

    fn longest_wait(&self) -> Option<u64> {
        (!self.on_release).then(|| u64::from(self.count - 1) * longest(self.apart, self.pace))
    }

    fn pace(&mut self) -> Option<&mut Pace> {
        Some(&mut self.pace)
    }

    fn pressing(&self) -> Pressing {
        Pressing::Taps
    }

    fn window_from(&self) -> WindowFrom {
        WindowFrom::LastStep
    }

    fn limit_word(&self) -> &'static str {
        "apart"
    }

    fn never_held(&self) -> Option<&'static str> {
        self.on_release.then_some(ON_RELEASE)
    }

    fn scale(&mut self, by: &Scaling<'_>) {
        self.apart = (by.within)(self.apart);
    }
}

/// Counts one; the presses and the beginning of the attempt if that makes it whole.
fn tap(count: u32, (apart, pace): (u64, Pace), press: u64, context: &mut RuleContext<'_>) -> Option<(Presses, u64)> {
    let at = context.at;
    let state = &mut *context.state;
    // The last one's moment is kept with 1 added: 0 is none.
    let (apart, gap) = (state.window(apart, pace, 1), (at + 1).saturating_sub(state.last));
    if state.last > 0 {
        state.keep_pace(gap, pace, 1);
    }
    if !state.open || gap > apart {
        (state.count, state.presses, state.began, state.open) = (0, Presses::default(), at, true);
    }
    state.count += 1;
    state.last = at + 1;
    state.presses.push(press);
    if state.count < count {
        let apart = state.window(apart, pace, 1);
        context.expire(at + apart);
        return None;
    }
    let whole = (state.presses, state.began);
    state.drop_attempt();
    // What comes next begins again, however soon.
    state.last = 0;
    context.no_timer();
    Some(whole)
}
