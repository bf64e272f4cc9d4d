//! All rules, a line each. What each of them does stands in its own file.

use alloc::string::String;
use alloc::vec;
use alloc::vec::Vec;
use core::fmt;

use winnow::error::{ContextError, ErrMode};

use super::asked::{Act, Asked};
use super::compiled::{CompiledRule, Pressing, RuleLine, Tolerances, WindowFrom};
use super::edge::{Edge, Kinds, Role};
use super::idle::IdleRegion;
use super::line::{Input, Read};
use super::pace::Pace;
use super::rolls::Rolls;
use super::rule::Rule;
use super::scaling::Scaling;
use super::state::{RuleContext, RuleState, Verdict};
use crate::direction::Direction;
use crate::time::LONGEST_SPAN;

/// Makes the rules from their list: one that is any of them, and what it hands on to it.
macro_rules! rules {
    ($($(#[$attribute:meta])? $file:ident :: $Rule:ident,)*) => {
        /// A rule made ready: any of them.
        #[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
        pub(crate) enum RulePlan {
            $($(#[$attribute])? $Rule(super::$file::$Rule),)*
        }

        macro_rules! each {
            ($plan:expr, $own:ident => $result:expr) => {
                match $plan {
                    $($(#[$attribute])? RulePlan::$Rule($own) => $result,)*
                }
            };
        }

        /// What the first of them answers that has an answer.
        macro_rules! first {
            ($ask:ident($rule:expr, $more:expr)) => {{
                $($(#[$attribute])?
                if let Some(answer) = super::$file::$Rule::$ask($rule, $more) {
                    return Some(answer);
                })*
                None
            }};
            ($ask:ident($rule:expr)) => {{
                $($(#[$attribute])?
                if let Some(answer) = super::$file::$Rule::$ask($rule) {
                    return Some(answer);
                })*
                None
            }};
        }

        /// Reads any of them.
        pub(super) fn read_rule(input: &mut Input<'_>) -> Read<Rule> {
            let before = *input;
            $($(#[$attribute])?
            match super::$file::$Rule::read(input) {
                Err(ErrMode::Backtrack(_)) => *input = before,
                read => return read,
            })*
            Err(ErrMode::Backtrack(ContextError::new()))
        }

        /// The words that they begin with.
        pub(super) fn all_words() -> impl Iterator<Item = &'static str> {
            let all = [$($(#[$attribute])? super::$file::$Rule::WORDS,)*];
            all.into_iter().flatten().copied()
        }

        impl fmt::Display for Rule {
            fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                $($(#[$attribute])?
                if let Some(written) = super::$file::$Rule::write(self, f) {
                    return written;
                })*
                Ok(())
            }
        }

        impl Rule {
            /// Whether a key of an action says something of what it forgives.
            pub(crate) fn forgives(&self, key: &str) -> bool {
                $($(#[$attribute])?
                if super::$file::$Rule::forgives(self).contains(&key) {
                    return true;
                })*
                false
            }

            /// The other action that must be down with it, if it wants one.
            pub(crate) fn with(&self) -> Option<&str> {
                first!(with(self))
            }

            /// The action that finishes it, if one does.
            pub(crate) fn finished_by(&self) -> Option<&str> {
                first!(finished_by(self))
            }

            /// The names that it hears and nothing else, if it hears only what it names.
            pub(crate) fn hears_only(&self) -> Option<&[String]> {
                first!(hears_only(self))
            }

            /// What a key says where nobody says it, in milliseconds or as a level, if that is the rule's own.
            #[cfg(feature = "files")]
            pub(crate) fn default_of(&self, key: &str) -> Option<f64> {
                first!(default_of(self, key))
            }

            /// What would come next, by its name, after so many steps, if that is one thing.
            pub(crate) fn next(&self, came: usize) -> Option<&str> {
                first!(next(self, came))
            }

            /// What it asks of a hand, step by step.
            pub(crate) fn asks(&self) -> Vec<Asked<'_>> {
                let first = || first!(asks(self));
                first().unwrap_or_else(|| vec![Asked::of(Act::Press)])
            }

            /// What keeps one that was built in code from being one: what its line could not say.
            pub(super) fn unfit(&self) -> Option<String> {
                let mut spans = [None; 2];
                $($(#[$attribute])?
                if let Some(own) = super::$file::$Rule::spans(self) {
                    spans = own;
                })*
                if spans.into_iter().flatten().any(|span| span.as_micros() == 0 || span > LONGEST_SPAN) {
                    return Some("a span must be longer than nothing, and a day at most".into());
                }
                first!(unfit(self))
            }
        }

        impl RulePlan {
            /// Hears an edge, and goes on with what comes of it. Each rule has a copy of both ends, so that what a small one
            /// works on, and what it answers, never leaves the registers.
            #[inline(always)]
            pub(crate) fn hears_on<S>(
                &self,
                edge: Edge,
                role: Role,
                on: &mut S,
                context: impl FnOnce(&mut S) -> RuleContext<'_>,
                then: impl FnOnce(&mut S, Verdict),
            ) {
                each!(self, own => {
                    let verdict = own.hears(edge, role, &mut context(on));
                    then(on, verdict);
                });
            }
        }

        impl CompiledRule for RulePlan {
            fn of(rule: &Rule) -> Option<RulePlan> {
                $($(#[$attribute])?
                if let Some(own) = super::$file::$Rule::of(rule) {
                    return Some(RulePlan::$Rule(own));
                })*
                None
            }

            #[inline(always)]
            fn hears(&self, edge: Edge, role: Role, context: &mut RuleContext<'_>) -> Verdict {
                each!(self, own => own.hears(edge, role, context))
            }

            fn kinds(&self) -> Kinds {
                each!(self, own => own.kinds())
            }

            #[inline(always)]
            fn is_idle(
                &self,
                push: (i32, i32),
                to: Option<Direction>,
                state: &RuleState,
                on: bool,
                region: &mut IdleRegion,
            ) -> bool {
                each!(self, own => own.is_idle(push, to, state, on, region))
            }

            #[inline(never)]
            fn falls_due(&self, context: &mut RuleContext<'_>) -> Verdict {
                each!(self, own => own.falls_due(context))
            }

            fn forgets(&self, gone: &dyn Fn(u32) -> bool, context: &mut RuleContext<'_>) -> bool {
                each!(self, own => own.forgets(gone, context))
            }

            fn drops(&self, context: &mut RuleContext<'_>) {
                each!(self, own => own.drops(context))
            }

            fn window(&self) -> Option<u64> {
                each!(self, own => own.window())
            }

            fn steps(&self) -> u8 {
                each!(self, own => own.steps())
            }

            fn counts(&self, edge: Edge) -> bool {
                each!(self, own => own.counts(edge))
            }

            fn moments(&self) -> usize {
                each!(self, own => own.moments())
            }

            fn longest_wait(&self) -> Option<u64> {
                each!(self, own => own.longest_wait())
            }

            fn own_delay(&self) -> u64 {
                each!(self, own => own.own_delay())
            }

            fn is_eager(&self) -> bool {
                each!(self, own => own.is_eager())
            }

            fn pressing(&self) -> Pressing {
                each!(self, own => own.pressing())
            }

            fn forgive(&mut self, declared: &Rule, by: &mut dyn Tolerances) {
                each!(self, own => own.forgive(declared, by))
            }

            fn scale(&mut self, by: &Scaling<'_>) {
                each!(self, own => own.scale(by))
            }

            fn pace(&mut self) -> Option<&mut Pace> {
                each!(self, own => own.pace())
            }

            fn is_only(&self) -> bool {
                each!(self, own => own.is_only())
            }

            fn needs_stick(&self) -> Option<&'static str> {
                each!(self, own => own.needs_stick())
            }

            fn never_held(&self) -> Option<&'static str> {
                each!(self, own => own.never_held())
            }

            fn held_for(&self) -> Option<u64> {
                each!(self, own => own.held_for())
            }

            fn let_go_under(&mut self) -> Option<&mut u64> {
                each!(self, own => own.let_go_under())
            }

            fn is_rate(&self) -> bool {
                each!(self, own => own.is_rate())
            }

            fn is_of_several(&self) -> bool {
                each!(self, own => own.is_of_several())
            }

            fn is_of_two(&self) -> bool {
                each!(self, own => own.is_of_two())
            }

            fn steps_anew(&self) -> bool {
                each!(self, own => own.steps_anew())
            }

            fn turns_on(&self) -> bool {
                each!(self, own => own.turns_on())
            }

            fn names(&self) -> Option<&[u8]> {
                each!(self, own => own.names())
            }

            fn again_within(&self) -> Option<u64> {
                each!(self, own => own.again_within())
            }

            fn window_from(&self) -> WindowFrom {
                each!(self, own => own.window_from())
            }

            fn limit_word(&self) -> &'static str {
                each!(self, own => own.limit_word())
            }
        }
    };
}

rules! {
    press::Press,
    release::Release,
    hold::Hold,
    tap::Tap,
    taps::Taps,
    twice::Twice,
    repeat::Repeat,
    toggle::Toggle,
    mash::Mash,
    with::With,
    charge::Charge,
    order::Order,
    rolls::Rolls,
    spins::Spins,
    flicks::Flicks,
    #[cfg(test)]
    blink::Blink,
}

impl RulePlan {
    /// What a declared rule comes to. The plain press is the one that none of the others is.
    pub(crate) fn new(rule: &Rule) -> RulePlan {
        RulePlan::of(rule).unwrap_or(RulePlan::Press(super::press::Press))
    }

    /// Whether it pulls at each press, and remembers nothing.
    pub(crate) fn is_press(&self) -> bool {
        matches!(self, RulePlan::Press(_))
    }

    /// Whether it stands as presses turn it, held or not.
    pub(crate) fn is_toggle(&self) -> bool {
        matches!(self, RulePlan::Toggle(_))
    }

    /// A motion, which works through its stick's set of them; `None` for any other rule.
    pub(crate) fn motion(&self) -> Option<&Rolls> {
        if let RulePlan::Rolls(motion) = self { Some(motion) } else { None }
    }

    /// Whether it is a motion.
    pub(crate) fn is_motion(&self) -> bool {
        self.motion().is_some()
    }

    /// The same, if it is a motion, with another time limit in µs.
    pub(crate) fn within(self, within: u64) -> RulePlan {
        if let RulePlan::Rolls(motion) = self { RulePlan::Rolls(Rolls { within, ..motion }) } else { self }
    }
}
