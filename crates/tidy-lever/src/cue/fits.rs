//! What keeps a cue that was built in code from being one.

use alloc::format;
use alloc::string::String;
use core::ops::RangeInclusive;
use core::time::Duration;

use super::grammar::is_name;
use super::rule::{COUNTS, Cue, Rule};
use crate::direction::Direction;
use crate::time::LONGEST_SPAN;

impl Cue {
    /// What keeps a cue that was built in code from being one: what its line could not say.
    pub(crate) fn unfit(&self) -> Option<String> {
        let names = self.subject.iter().chain(match &self.rule {
            Rule::With { other, .. } => core::slice::from_ref(other),
            Rule::Rolls { then: Some(then), .. } => core::slice::from_ref(then),
            _ => &[],
        });
        let listed = if let Rule::Order { names, .. } = &self.rule { names.as_slice() } else { &[] };
        let is_direction = |name: &String| Direction::from_name(name).is_some();
        let mut wrong = names.filter(|name| !is_name(name));
        let wrong = wrong.next().or_else(|| listed.iter().find(|name| !is_name(name) && !is_direction(name)));
        match wrong {
            Some(name) => Some(format!("`{name}` can't be a name")),
            None => self.rule.unfit(),
        }
    }
}

/// The eighths of a circle that `spins` takes.
const EIGHTHS: RangeInclusive<u32> = 2..=32;
/// The levels that `flicks` takes, in millionths.
const LEVELS: RangeInclusive<i32> = 100_000..=1_000_000;

impl Rule {
    /// All its spans but those of steps.
    fn spans(&self) -> [Option<Duration>; 2] {
        match *self {
            Rule::Press | Rule::Release | Rule::Toggle => [None; 2],
            Rule::Hold { span } => [Some(span), None],
            Rule::Tap { under } => [Some(under), None],
            Rule::Taps { apart, .. } => [Some(apart), None],
            Rule::Repeat { after, every } => [Some(after), Some(every)],
            Rule::Charge { from, to } => [Some(from), Some(to)],
            Rule::Twice { within, .. }
            | Rule::Mash { within, .. }
            | Rule::With { within, .. }
            | Rule::Order { within, .. }
            | Rule::Rolls { within, .. }
            | Rule::Spins { within, .. }
            | Rule::Flicks { within, .. } => [Some(within), None],
        }
    }

    fn unfit(&self) -> Option<String> {
        if self.spans().into_iter().flatten().any(|span| span.as_micros() == 0 || span > LONGEST_SPAN) {
            return Some("a span must be longer than nothing, and a day at most".into());
        }
        match self {
            Rule::Taps { count, .. } | Rule::Mash { count, .. } if !COUNTS.contains(count) => {
                Some(format!("the count must be 2 to 64, found {count}"))
            }
            Rule::Charge { from, to } if to <= from => Some("the second span must be longer than the first".into()),
            Rule::Spins { eighths, .. } if !EIGHTHS.contains(eighths) => {
                Some(format!("it can turn 2 to 32 eighths, found {eighths}"))
            }
            Rule::Flicks { over, .. } if !LEVELS.contains(over) => {
                Some(format!("the level must be 100000 to 1000000 millionths, found {over}"))
            }
            Rule::Order { names, .. } if names.is_empty() => Some("it names nothing".into()),
            Rule::Rolls { steps, .. } if steps.is_empty() => Some("it goes nowhere".into()),
            Rule::Rolls { steps, .. } if steps.iter().any(|step| step.held > LONGEST_SPAN) => {
                Some("a step can be held a day at most".into())
            }
            Rule::Rolls { then: None, on_release: true, .. } => {
                Some("without `then` nothing is let go; it can't be counted on release".into())
            }
            _ => None,
        }
    }
}
