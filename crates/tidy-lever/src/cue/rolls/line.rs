//! What a motion's line asks of its stick, and what no hand could do.

use alloc::format;
use alloc::string::String;

use super::MOST_MAYBES;
use crate::cue::path::{PathStep, Position};
use crate::cue::{MOST_NAMES, Rule};
use crate::time::micros;

/// A motion as its line says it; spans in µs.
#[derive(Clone, Copy, Debug)]
pub(crate) struct MotionLine<'r> {
    pub(crate) steps: &'r [PathStep],
    /// The action that finishes it, by its press or by being let go.
    pub(crate) then: Option<&'r str>,
    pub(crate) on_release: bool,
    pub(crate) within: u64,
}

impl<'r> MotionLine<'r> {
    /// That of a rule; `None` if it is not a motion.
    pub(crate) fn of(rule: &'r Rule) -> Option<MotionLine<'r>> {
        let Rule::Motion { steps, then, within, on_release } = rule else { return None };
        Some(MotionLine { steps, then: then.as_deref(), on_release: *on_release, within: micros(*within) })
    }

    /// Whether it is another way for either side of the body.
    pub(crate) fn is_of_body(&self) -> bool {
        self.steps.iter().any(|step| matches!(step.position, Position::Body(_)))
    }

    /// Whether it is complete once its last direction was held.
    pub(crate) fn ends_held(&self) -> bool {
        self.then.is_none() && self.steps.last().is_some_and(|last| !last.held.is_zero())
    }

    /// What is wrong with its path on a stick, or an axis, that is read in so many directions; `None` if nothing is.
    pub(crate) fn unlikely(&self, is_stick: bool, is_four: bool) -> Option<String> {
        let (first, last) = (self.steps.first()?, self.steps.last()?);
        if !(2..=MOST_NAMES).contains(&self.steps.len()) {
            return Some(format!("a motion needs 2 to {MOST_NAMES} steps, found {}", self.steps.len()));
        }
        if first.position == Position::Neutral || (last.position == Position::Neutral && self.then.is_none()) {
            return Some("a motion must begin and end with a direction, not with `neutral`".into());
        }
        if first.maybe || last.maybe {
            return Some("the first and the last step of a motion can't be `maybe`".into());
        }
        if self.steps.iter().any(|step| step.maybe && !step.held.is_zero()) {
            return Some("a `maybe` step can't be `held`".into());
        }
        if self.steps.windows(MOST_MAYBES + 1).any(|row| row.iter().all(|step| step.maybe)) {
            return Some(format!("at most {MOST_MAYBES} steps in a row can be `maybe`"));
        }
        let held: u64 = self.steps[1..].iter().map(|step| micros(step.held)).sum();
        if held >= self.within {
            return Some("the held steps take the whole time limit; make `within` longer".into());
        }
        self.steps.iter().find_map(|step| {
            if step.position == Position::Neutral && !step.held.is_zero() {
                return Some("`neutral` can't be `held`; `within` limits the time".into());
            }
            let direction = step.position.on_screen(false)?;
            let at_an_end = step == first || step == last || !step.held.is_zero();
            let is_beyond =
                (!is_stick && direction.signs().1 != 0) || (direction.is_diagonal() && is_four && at_an_end);
            let which = if is_stick { "a stick read in four directions" } else { "an axis" };
            is_beyond.then(|| format!("{which} never reaches `{}`", step.position.name()))
        })
    }
}
