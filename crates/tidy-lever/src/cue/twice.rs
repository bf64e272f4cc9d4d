//! `steer twice within 240ms`: pulls when the same straight direction is given twice. On while the stick points at most
//! two eighths away.
//!
//! ```text
//!   right   ──┐  ┌────    a direction is given when the push along its axis reaches 0.55 after it was below 0.4;
//!   up        └┐┌┘        a diagonal, or another straight for less than 45 ms, does not break the attempt
//!             ←gap→
//! ```
//!
//! For each straight direction the rule remembers when it was given last. The opposite direction clears that at once,
//! any other straight direction once it has lasted as long as `brush`.

use alloc::vec;
use alloc::vec::Vec;
use core::fmt;
use core::time::Duration;

use winnow::combinator::opt;
use winnow::prelude::*;

use super::idle::lies_within;
use super::line::{Input, Read, must, span, word};
use super::pace::longest;
use super::{
    Act, Asked, CompiledRule, Edge, IdleRegion, Kinds, Pace, Presses, Push, Role, Rule, RuleContext, RuleLine,
    RuleState, Scaling, Tolerances, Verdict,
};
use crate::cause::Cause;
use crate::direction::Direction;
use crate::end::{Did, End};
use crate::time::{Plain, micros};

/// The four straight directions. Opposite ones are two places apart.
const STRAIGHTS: [Direction; 4] = [Direction::Right, Direction::Up, Direction::Left, Direction::Down];

/// Remembered moments: when each straight direction was given last, then the press of each.
const MOMENTS: usize = 8;

/// A direction is given at this push, and let go below that one, in millionths, unless the profile says otherwise.
const DOWN_AT: i32 = 550_000;
const UP_AT: i32 = 400_000;

/// Flag in `note`: the four lowest bits are valid, one for each straight direction that is pushed.
const KNOWN: u32 = 1 << 4;

/// The rule made ready: spans in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Twice {
    within: u64,
    until_neutral: bool,
    /// Push at which a direction is given, and below which it must have fallen before.
    down_at: i32,
    up_at: i32,
    /// How long another straight direction must last to break the attempt.
    brush: u64,
    pace: Pace,
}

impl RuleLine for Twice {
    const WORDS: &'static [&'static str] = &["twice"];

    fn read(input: &mut Input<'_>) -> Read<Rule> {
        word("twice")(input)?;
        must("within", "`within`")(input)?;
        let within = span(input)?;
        let until_neutral = opt(word("until")).parse_next(input)?.is_some();
        if until_neutral {
            must("neutral", "`until neutral`")(input)?;
        }
        Ok(Rule::Twice { within, until_neutral })
    }

    fn write(rule: &Rule, f: &mut fmt::Formatter<'_>) -> Option<fmt::Result> {
        let Rule::Twice { within, until_neutral } = rule else { return None };
        let until = if *until_neutral { " until neutral" } else { "" };
        Some(write!(f, "twice within {}{until}", Plain(*within)))
    }

    fn spans(rule: &Rule) -> Option<[Option<Duration>; 2]> {
        let Rule::Twice { within, .. } = rule else { return None };
        Some([Some(*within), None])
    }

    fn forgives(rule: &Rule) -> &'static [&'static str] {
        if matches!(rule, Rule::Twice { .. }) { &["brush", "paced", "down_at", "up_at"] } else { &[] }
    }

    #[cfg(feature = "files")]
    fn default_of(rule: &Rule, key: &str) -> Option<f64> {
        (matches!(rule, Rule::Twice { .. }) && key == "up_at")
            .then_some(f64::from(UP_AT) / f64::from(crate::fixed::ONE))
    }

    fn asks(rule: &Rule) -> Option<Vec<Asked<'_>>> {
        matches!(rule, Rule::Twice { .. }).then(|| vec![Asked::of(Act::Twice)])
    }
}

impl CompiledRule for Twice {
    fn of(rule: &Rule) -> Option<Twice> {
        let Rule::Twice { within, until_neutral } = *rule else { return None };
        let within = micros(within);
        Some(Twice { within, until_neutral, down_at: DOWN_AT, up_at: UP_AT, brush: 45_000, pace: None })
    }

    fn hears(&self, edge: Edge, _: Role, context: &mut RuleContext<'_>) -> Verdict {
        hears(self, edge, context)
    }

    fn kinds(&self) -> Kinds {
        Edge::LOST_TURN | Edge::PUSH
    }

    /// Most pushes change nothing here: what is pushed stays so down to one level, what is not up to another.
    #[inline(always)]
    fn is_idle(
        &self,
        push: (i32, i32),
        to: Option<Direction>,
        state: &RuleState,
        on: bool,
        region: &mut IdleRegion,
    ) -> bool {
        let (right, up) = self.stays(state.note);
        let stays = lies_within(push, right, up) && state.note & KNOWN != 0;
        let stands = || stood(state.note, to).map_or(0, |straight| straight as u64 + 1);
        let is_idle = stays && stands() == state.last >> 3 & 7 && !(on && self.is_off(unpacked(state.last).0, to));
        if is_idle {
            region.and_within(right, up);
        }
        is_idle
    }

    /// The current direction has lasted long enough, or the newest window is over.
    fn falls_due(&self, context: &mut RuleContext<'_>) -> Verdict {
        let (_, stands) = unpacked(context.state.last);
        if lasted(self, context, stands) {
            settle(self, context);
        } else {
            // The newest window ends with this moment.
            (context.state.open, context.state.presses) = (false, Presses::default());
        }
        Verdict::None
    }

    fn drops(&self, context: &mut RuleContext<'_>) {
        forget(context);
    }

    fn window(&self) -> Option<u64> {
        Some(self.within)
    }

    fn steps(&self) -> u8 {
        2
    }

    fn counts(&self, _: Edge) -> bool {
        false
    }

    fn moments(&self) -> usize {
        MOMENTS
    }

    fn longest_wait(&self) -> Option<u64> {
        Some(longest(self.within, self.pace))
    }

    fn pace(&mut self) -> Option<&mut Pace> {
        Some(&mut self.pace)
    }

    fn again_within(&self) -> Option<u64> {
        Some(self.within)
    }

    fn needs_stick(&self) -> Option<&'static str> {
        Some("`twice` needs a stick (the same direction twice); for a button, write `2 taps 240ms apart`")
    }

    fn forgive(&mut self, _: &Rule, by: &mut dyn Tolerances) {
        self.brush = by.span("brush", self.brush);
        let (down_at, up_at) = by.levels((self.down_at, self.up_at));
        (self.down_at, self.up_at) = (down_at, up_at.min(down_at));
    }

    fn scale(&mut self, by: &Scaling<'_>) {
        self.within = (by.within)(self.within);
    }
}

/// The straight directions along which a push reaches so far, a bit each.
#[inline(always)]
fn reached((x, y): (i32, i32), level: i32) -> u32 {
    u32::from(x >= level) | u32::from(y >= level) << 1 | u32::from(-x >= level) << 2 | u32::from(-y >= level) << 3
}

/// The straight direction that a stick points in and is pushed along, if it is one.
#[inline(always)]
fn stood(pushed: u32, to: Option<Direction>) -> Option<usize> {
    let straight = to.filter(|to| !to.is_diagonal()).map(|to| to as usize / 2);
    straight.filter(|straight| pushed >> straight & 1 == 1)
}

impl Twice {
    /// The straight directions that are pushed, after some that were.
    #[inline(always)]
    fn pushed(&self, now: (i32, i32), was: u32) -> u32 {
        KNOWN | reached(now, self.down_at) | was & reached(now, self.up_at)
    }

    /// From where to where a push may go, right and up, so that the same straight directions stay pushed.
    #[inline(always)]
    fn stays(&self, note: u32) -> ((i32, i32), (i32, i32)) {
        let (keeps, enters) = (self.up_at.min(self.down_at), self.down_at - 1);
        let is_pushed = |straight: u32| note >> straight & 1 == 1;
        let axis = |plus: u32| {
            let (low, high) = if is_pushed(plus) { (keeps, i32::MAX) } else { (i32::MIN, enters) };
            let (other_low, other_high) = if is_pushed(plus + 2) { (i32::MIN, -keeps) } else { (-enters, i32::MAX) };
            (low.max(other_low), high.min(other_high))
        };
        (axis(0), axis(1))
    }

    /// Whether a pull in a straight direction ends where the stick points now.
    fn is_off(&self, on: Option<usize>, to: Option<Direction>) -> bool {
        let far = |to: Direction| on.is_some_and(|on| STRAIGHTS[on].eighths_to(to).abs() > 2) && !self.until_neutral;
        to.is_none_or(far)
    }
}
const _: () = assert!(Direction::Up as usize == 2 && Direction::Left as usize == 4 && Direction::Down as usize == 6);

/// Packs into `last`: the direction of the pull that is on, and the straight direction that the stick points in, with the
/// moment since when.
fn packed(on: Option<usize>, stands: Option<(usize, u64)>) -> u64 {
    let number = |straight: Option<usize>| straight.map_or(0, |straight| straight as u64 + 1);
    stands.map_or(0, |(_, since)| since) << 6 | number(stands.map(|(straight, _)| straight)) << 3 | number(on)
}

fn unpacked(last: u64) -> (Option<usize>, Option<(usize, u64)>) {
    let number = |bits: u64| (bits & 7).checked_sub(1).map(|straight| straight as usize);
    (number(last), number(last >> 3).map(|straight| (straight, last >> 6)))
}

#[inline(never)]
fn hears(how: &Twice, edge: Edge, context: &mut RuleContext<'_>) -> Verdict {
    let Edge::Push(push) = edge else {
        // After a loss the stick may still be pushed.
        let lost = matches!(edge, Edge::Turn { cause, .. } if cause != Cause::LetGo);
        if lost {
            forget(context);
        }
        return Verdict::None;
    };
    let (at, &Push { now, before, to, press, back, cause, .. }) = (context.at, push);
    if cause != Cause::LetGo {
        let (on, _) = unpacked(context.state.last);
        forget(context);
        context.state.last = packed(on, None);
        return ended(how, context, on, to, cause);
    }
    let was = if context.state.note & KNOWN != 0 {
        context.state.note
    } else {
        // First event, or the attempt was dropped from outside.
        context.state.last = packed(unpacked(context.state.last).0, None);
        context.moments.fill(0);
        reached(before, how.up_at)
    };
    let pushed = how.pushed(now, was);
    let (on, mut stands) = unpacked(context.state.last);
    let stood = stood(pushed, to);
    if pushed == context.state.note && stood == stands.map(|(straight, _)| straight) {
        // Most events change nothing here.
        return ended(how, context, on, to, cause);
    }
    context.state.note = pushed;
    // A straight direction that has lasted long enough clears the others.
    lasted(how, context, stands);
    if stood != stands.map(|(straight, _)| straight) {
        stands = stood.map(|straight| (straight, at));
    }
    let mut verdict = Verdict::None;
    let mut on_now = on;
    let mut given = pushed & !was & !KNOWN;
    while given != 0 {
        let straight = given.trailing_zeros() as usize & 3;
        given &= given - 1;
        let opposite = (straight + 2) % 4;
        let against = core::mem::take(&mut context.moments[opposite]);
        if against != 0 && against - 1 + how.within >= at {
            context.missed(End::Wrong(Did::Toward(STRAIGHTS[straight])));
        }
        if back {
            continue;
        }
        let first = context.moments[straight];
        if first != 0 {
            let gap = at - (first - 1);
            let within = context.state.window(how.within, how.pace, 1);
            context.state.keep_pace(gap, how.pace, 1);
            if gap <= within {
                let mut presses = Presses::one(context.moments[4 + straight]);
                if !presses.has(press as u32) {
                    presses.push(press);
                }
                context.moments.fill(0);
                context.stepped = Some(Did::Toward(STRAIGHTS[straight]));
                (on_now, verdict) = (Some(straight), Verdict::lasting(presses, first - 1));
                break;
            }
        }
        (context.moments[straight], context.moments[4 + straight]) = (at + 1, press);
        context.stepped = Some(Did::Toward(STRAIGHTS[straight]));
    }
    context.state.last = packed(on_now, stands);
    settle(how, context);
    if verdict != Verdict::None { verdict } else { ended(how, context, on, to, cause) }
}

/// Whether the pull that is on ends because of where the stick points now.
fn ended(
    how: &Twice,
    context: &mut RuleContext<'_>,
    on: Option<usize>,
    to: Option<Direction>,
    cause: Cause,
) -> Verdict {
    if context.on && (cause != Cause::LetGo || how.is_off(on, to)) { Verdict::Ended(cause) } else { Verdict::None }
}

/// Clears the other directions if this one has lasted long enough. Returns whether any were set.
fn lasted(how: &Twice, context: &mut RuleContext<'_>, stands: Option<(usize, u64)>) -> bool {
    let Some((straight, _)) = stands.filter(|(_, since)| context.at - since >= how.brush) else { return false };
    let (mut any, mut in_time) = (false, false);
    for other in (0..4).filter(|other| *other != straight) {
        let given = core::mem::take(&mut context.moments[other]);
        any |= given != 0;
        in_time |= given != 0 && given - 1 + how.within >= context.at;
    }
    if in_time {
        context.missed(End::Wrong(Did::Toward(STRAIGHTS[straight])));
    }
    any
}

/// Updates whether an attempt is under way, on which presses, and sets the timer for the next change.
fn settle(how: &Twice, context: &mut RuleContext<'_>) {
    let within = context.state.window(how.within, how.pace, 1);
    let at = context.at;
    let (mut presses, mut last) = (Presses::default(), None);
    for straight in 0..4 {
        let given = context.moments[straight];
        if given != 0 && given - 1 + within >= at {
            let press = context.moments[4 + straight];
            if !presses.has(press as u32) {
                presses.push(press);
            }
            last = last.max(Some(given - 1));
        }
    }
    (context.state.presses, context.state.open) = (presses, last.is_some());
    let Some(last) = last else { return context.no_timer() };
    context.state.began = last;
    let (_, stands) = unpacked(context.state.last);
    // Whichever comes first: the end of the newest window, or the moment when the current direction has lasted.
    let breaks = stands.map(|(_, since)| since + how.brush).filter(|breaks| *breaks > at);
    let others = |straight: usize| (0..4).any(|other| other != straight && context.moments[other] != 0);
    match breaks.filter(|breaks| *breaks <= last + within && stands.is_some_and(|(straight, _)| others(straight))) {
        Some(breaks) => context.due(breaks),
        None => context.expire(last + within),
    }
}

/// Forgets everything that was given.
fn forget(context: &mut RuleContext<'_>) {
    context.moments.fill(0);
    context.state.drop_attempt();
    context.no_timer();
}

#[cfg(test)]
mod tests;
