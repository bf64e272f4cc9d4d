//! A rule of the tests alone: it pulls at letting go within 50 ms. It shows that a rule is a file and a line in the list.

use core::fmt;
use core::time::Duration;

use winnow::prelude::*;

use super::line::{Input, Read, word};
use super::{CompiledRule, Edge, Presses, Role, Rule, RuleContext, RuleLine, Scaling, Verdict};

/// The longest blink, in µs.
const LONGEST: u64 = 50_000;

#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Blink;

impl RuleLine for Blink {
    const WORDS: &'static [&'static str] = &["blink"];

    fn read(input: &mut Input<'_>) -> Read<Rule> {
        word("blink").value(Rule::Blink).parse_next(input)
    }

    fn write(rule: &Rule, f: &mut fmt::Formatter<'_>) -> Option<fmt::Result> {
        matches!(rule, Rule::Blink).then(|| f.write_str("blink"))
    }

    fn spans(rule: &Rule) -> Option<[Option<Duration>; 2]> {
        matches!(rule, Rule::Blink).then_some([None; 2])
    }
}

impl CompiledRule for Blink {
    fn of(rule: &Rule) -> Option<Blink> {
        matches!(rule, Rule::Blink).then_some(Blink)
    }

    fn hears(&self, edge: Edge, _: Role, context: &mut RuleContext<'_>) -> Verdict {
        match edge {
            Edge::Down { press, .. } => {
                context.state.presses = Presses::one(press);
                context.state.open = true;
                context.expire(context.at + LONGEST);
                Verdict::None
            }
            Edge::Up { held, .. } if context.state.open => {
                let presses = context.state.presses;
                self.drops(context);
                Verdict::instant(presses, context.at - held)
            }
            _ => Verdict::None,
        }
    }

    fn window(&self) -> Option<u64> {
        Some(LONGEST)
    }

    fn scale(&mut self, _: &Scaling<'_>) {}
}

mod tests {
    use crate::cause::Cause;
    use crate::cue::{CompiledRule, Edge, Role, RuleContext, RulePlan, RuleState, Verdict};
    use crate::timers::Timers;

    fn context<'b>(state: &'b mut RuleState, timers: &'b mut Timers, at: u64) -> RuleContext<'b> {
        RuleContext { at, state, timers, timer: 0, moments: &mut [], on: false, missed: None, stepped: None }
    }

    #[test]
    fn a_rule_of_one_file_and_one_line_hears_falls_due_and_forgets() {
        let (rule, mut state, mut timers) = (RulePlan::Blink(super::Blink), RuleState::default(), Timers::new(1));
        let down = Edge::Down { press: 7, first: true, back: false };
        let up = Edge::Up { cause: Cause::LetGo, held: 30_000 };
        assert_eq!(rule.hears(down, Role::Subject, &mut context(&mut state, &mut timers, 1_000)), Verdict::None);
        assert!(matches!(
            rule.hears(up, Role::Subject, &mut context(&mut state, &mut timers, 31_000)),
            Verdict::Matched(_)
        ));
        rule.hears(down, Role::Subject, &mut context(&mut state, &mut timers, 100_000));
        assert_eq!(rule.falls_due(&mut context(&mut state, &mut timers, 150_000)), Verdict::None);
        assert_eq!(
            rule.hears(up, Role::Subject, &mut context(&mut state, &mut timers, 160_000)),
            Verdict::None,
            "its window was over"
        );
        rule.hears(down, Role::Subject, &mut context(&mut state, &mut timers, 200_000));
        assert!(rule.forgets(&|press| press == 7, &mut context(&mut state, &mut timers, 201_000)));
        assert_eq!((rule.window(), rule.longest_wait(), rule.steps()), (Some(50_000), Some(50_000), 1));
    }
}
