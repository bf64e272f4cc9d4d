//! Stories: what became of an attempt, in a few words for people.

use alloc::format;
use alloc::string::String;
use core::time::Duration;

use super::{Attempt, Outcome};
use crate::cue::Rule;
use crate::linkage::Linkage;

/// A span in milliseconds: tenths of long ones, every microsecond of short ones.
fn ms(span: Duration) -> String {
    let micros = span.as_micros();
    if micros >= 10_000 && !micros.is_multiple_of(100) {
        return format!("{:.1} ms", micros as f64 / 1e3);
    }
    format!("{} ms", micros as f64 / 1e3)
}

impl Attempt {
    /// What ended it, in a few words: `toss came 38 ms too late`.
    pub fn story(&self, linkage: &Linkage) -> String {
        let last = self.steps(linkage).last().map_or("it", |step| step.name);
        match self.outcome(linkage) {
            Outcome::Pulled { kept } if kept.is_zero() => "pulled".into(),
            Outcome::Pulled { kept } => format!("pulled, kept for {}", ms(kept)),
            Outcome::RanOut if self.steps(linkage).count() < self.of() => match self.lacked(linkage) {
                Some(next) => format!("{next} did not come in time"),
                None => "the rest did not come in time".into(),
            },
            Outcome::RanOut => "it ran out".into(),
            Outcome::TooLate { by } => format!("{last} came {} too late", ms(by)),
            Outcome::TooSoon { by } if self.early > 0 => {
                format!("the press came {} too soon before the last direction", ms(by))
            }
            Outcome::TooSoon { by } => format!("{last} was let go {} too soon", ms(by)),
            Outcome::TooLong { by } => format!("it took {} too long", ms(by)),
            Outcome::LetGo => format!("{last} was let go before the other came"),
            Outcome::WrongWay(direction) => format!("{direction} broke it"),
            Outcome::WrongPress(name) => format!("{name} broke it"),
            Outcome::Faced(side) => format!("facing was {side}"),
            Outcome::GateShut { term, since: Some(since), .. } => {
                format!("the gate was shut: `{term}` had lapsed {} before", ms(since))
            }
            Outcome::GateShut { term, opens: Some(opens), .. } => {
                format!("the gate was shut: `{term}` came {} too late", ms(opens))
            }
            Outcome::GateShut { term, .. } => format!("the gate was shut: it wants `{term}`"),
            Outcome::CoolingDown { left } => format!("it cooled down for {} more", ms(left)),
            Outcome::Spent { fact, by } => format!("{by} had spent `{fact}` already"),
            Outcome::Served { by } => format!("the press had served {by} already"),
            Outcome::Outranked { by } => format!("{by} took the press"),
            Outcome::Lost(cause) => format!("it was dropped: {cause}"),
            Outcome::Gap => "it was dropped: a gap in time was passed".into(),
        }
    }

    /// What would have made it pull: `38 ms more within`. `None` where it pulled, or where no small change would have done.
    pub fn wants(&self, linkage: &Linkage) -> Option<String> {
        match self.outcome(linkage) {
            Outcome::TooLate { by } => {
                Some(format!("{} more time, or {last} that much sooner", ms(by), last = self.last(linkage)))
            }
            Outcome::TooSoon { by } if self.early > 0 => {
                Some(format!("{} more `early`, or the press that much later", ms(by)))
            }
            Outcome::TooSoon { by } => Some(format!("{} longer", ms(by))),
            Outcome::TooLong { by } => Some(format!("{} shorter", ms(by))),
            Outcome::LetGo => Some(format!("{} held until the other comes", self.last(linkage))),
            Outcome::WrongWay(direction) => Some(format!("no {direction} in between")),
            Outcome::WrongPress(name) => Some(format!("no {name} there")),
            Outcome::Faced(side) => Some(format!(
                "`facing` {} when the first position was left",
                if side == "left" { "right" } else { "left" }
            )),
            Outcome::GateShut { term, since: Some(since), .. } => {
                Some(format!("the press {} sooner, or so much more `within` for `{term}`", ms(since)))
            }
            Outcome::GateShut { opens: Some(opens), .. } => {
                Some(format!("the press {} later, or so much more `keep`", ms(opens)))
            }
            Outcome::GateShut { term, .. } => Some(format!("`{term}`")),
            Outcome::CoolingDown { left } => Some(format!("the press {} later, or so much `keep`", ms(left))),
            Outcome::Spent { fact, .. } => Some(format!("`{fact}` to come anew first")),
            Outcome::Served { .. } => Some("a press of its own".into()),
            Outcome::RanOut | Outcome::Pulled { .. } | Outcome::Outranked { .. } | Outcome::Lost(_) | Outcome::Gap => {
                None
            }
        }
    }

    /// What would have come next, where that is one thing.
    fn lacked<'l>(&self, linkage: &'l Linkage) -> Option<&'l str> {
        let came = self.steps(linkage).count();
        match &linkage.0.actions[usize::from(self.action)].line.as_ref()?.rule {
            Rule::Rolls { steps, then, .. } if steps.iter().all(|step| !step.maybe) => {
                steps.get(came).map(|step| step.position.name()).or(then.as_deref())
            }
            Rule::Order { names, .. } => names.get(came).map(String::as_str),
            _ => None,
        }
    }

    fn last<'l>(&self, linkage: &'l Linkage) -> &'l str {
        self.steps(linkage).last().map_or("it", |step| step.name)
    }
}
