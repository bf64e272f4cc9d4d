//! `release`: pulls at letting go, an instant. A going up that the system made up pulls nothing.

use alloc::vec;
use alloc::vec::Vec;
use core::fmt;
use core::time::Duration;

use winnow::prelude::*;

use super::compiled::ON_RELEASE;
use super::line::{Input, Read, word};
use super::{Act, Asked, CompiledRule, Edge, Presses, Pressing, Role, Rule, RuleContext, RuleLine, Scaling, Verdict};
use crate::cause::Cause;

/// The rule made ready: spans in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Release;

impl RuleLine for Release {
    const WORDS: &'static [&'static str] = &["release"];

    fn read(input: &mut Input<'_>) -> Read<Rule> {
        word("release").value(Rule::Release).parse_next(input)
    }

    fn write(rule: &Rule, f: &mut fmt::Formatter<'_>) -> Option<fmt::Result> {
        matches!(rule, Rule::Release).then(|| f.write_str("release"))
    }

    fn spans(rule: &Rule) -> Option<[Option<Duration>; 2]> {
        matches!(rule, Rule::Release).then_some([None; 2])
    }

    fn asks(rule: &Rule) -> Option<Vec<Asked<'_>>> {
        matches!(rule, Rule::Release).then(|| vec![Asked::of(Act::Release)])
    }
}

impl CompiledRule for Release {
    fn of(rule: &Rule) -> Option<Release> {
        matches!(rule, Rule::Release).then_some(Release)
    }

    fn hears(&self, edge: Edge, _: Role, context: &mut RuleContext<'_>) -> Verdict {
        match edge {
            Edge::Down { press, first, .. } => {
                if first {
                    context.state.presses = Presses::default();
                }
                context.state.presses.push(press);
                context.state.open = true;
                Verdict::None
            }
            Edge::Up { cause, held } => {
                let presses = core::mem::take(&mut context.state.presses);
                let was_open = core::mem::take(&mut context.state.open);
                if cause == Cause::LetGo && was_open {
                    Verdict::instant(presses, context.at - held)
                } else {
                    Verdict::None
                }
            }
            Edge::Turn { .. } | Edge::Push { .. } => Verdict::None,
        }
    }

    fn forgets(&self, gone: &dyn Fn(u32) -> bool, context: &mut RuleContext<'_>) -> bool {
        if !context.state.presses.iter().any(gone) {
            return false;
        }
        let was_open = context.state.open;
        // Each control's own press counts for itself.
        context.state.presses.retain(|press| !gone(press));
        context.state.open &= context.state.presses != Presses::default();
        was_open && !context.state.open
    }

    fn window(&self) -> Option<u64> {
        None
    }

    fn longest_wait(&self) -> Option<u64> {
        None
    }

    fn counts(&self, edge: Edge) -> bool {
        matches!(edge, Edge::Down { first: true, .. })
    }

    fn pressing(&self) -> Pressing {
        Pressing::LetGo
    }

    fn never_held(&self) -> Option<&'static str> {
        Some(ON_RELEASE)
    }

    fn is_only(&self) -> bool {
        true
    }

    fn scale(&mut self, _: &Scaling<'_>) {}
}
