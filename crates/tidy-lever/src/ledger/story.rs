//! Stories: what became of an attempt, in a few words for people.

use alloc::format;
use alloc::string::String;
use core::time::Duration;

use super::{Attempt, Outcome};
use crate::cue::CompiledRule;
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
    /// What ended it, in a few words: `toss came 38 ms too late`. `None` for a linkage of another profile.
    pub fn story(&self, linkage: &Linkage) -> Option<String> {
        let outcome = self.outcome(linkage)?;
        let last = self.last(linkage);
        Some(match outcome {
            Outcome::Pulled { kept } if kept.is_zero() => "pulled".into(),
            Outcome::Pulled { kept } => format!("pulled after `keep` held it for {}", ms(kept)),
            Outcome::RanOut if self.steps(linkage).count() < self.of() => match self.lacked(linkage) {
                Some(next) => format!("{next} did not come in time"),
                None => "the remaining steps did not come in time".into(),
            },
            Outcome::RanOut => "the time limit ended first".into(),
            Outcome::TooLate { by } => format!("{last} came {} too late", ms(by)),
            Outcome::TooSoon { by } if self.early > 0 => {
                format!("the press came {} too soon before the last direction", ms(by))
            }
            Outcome::TooSoon { by } => format!("{last} was released {} too soon", ms(by)),
            Outcome::TooLong { by } if self.of() == 1 => format!("{last} was held {} too long", ms(by)),
            Outcome::TooLong { by } => format!("the motion took {} too long", ms(by)),
            Outcome::NotFresh { by } => {
                format!("{} had been held {} too long before the motion", self.first(linkage), ms(by))
            }
            Outcome::Astray { to, by } => format!("{to} lasted {} too long", ms(by)),
            Outcome::Skipped(direction) => format!("{direction} did not come in between"),
            Outcome::LetGo => format!("{last} was released before the other button came"),
            Outcome::WrongWay(direction) => format!("{direction} interrupted it"),
            Outcome::WrongPress(name) => format!("{name} interrupted it"),
            Outcome::Faced(side) => format!("`facing` was {side}"),
            Outcome::GateShut { term, since: Some(since), .. } => {
                format!("blocked by `when`: `{term}` had ended {} before the press", ms(since))
            }
            Outcome::GateShut { term, opens: Some(opens), .. } => {
                format!("blocked by `when`: `{term}` came {} too late", ms(opens))
            }
            Outcome::GateShut { term, .. } => format!("blocked by `when`: it needs `{term}`"),
            Outcome::CoolingDown { left } => format!("blocked by `cooldown`: {} were left", ms(left)),
            Outcome::Spent { fact, by } => format!("blocked by `when`: `{by}` had already used up `{fact}`"),
            Outcome::Served { by } => format!("`{by}` already used this press"),
            Outcome::Outranked { by } => format!("`{by}` took this press"),
            Outcome::Lost(cause) => format!("dropped: {cause}"),
            Outcome::Gap => "dropped: time was skipped".into(),
        })
    }

    /// What it needed: `72.8 ms more in within, or toss 72.8 ms earlier`. Where [`missed_by`](Attempt::missed_by) says by how
    /// much it missed, this alone would have made it pull. `None` where it pulled, where no small change would have helped, and
    /// for a linkage of another profile.
    pub fn wants(&self, linkage: &Linkage) -> Option<String> {
        let last = self.last(linkage);
        match self.outcome(linkage)? {
            // With further steps to come, more time alone is not enough.
            Outcome::TooLate { .. } if self.missed_by().is_none() => None,
            Outcome::TooLate { by } => {
                Some(format!("{} more in `{}`, or {last} {0} earlier", ms(by), self.limit(linkage)))
            }
            Outcome::TooSoon { by } if self.early > 0 => {
                Some(format!("{} more in `early`, or the press {0} later", ms(by)))
            }
            Outcome::TooSoon { by } => Some(format!("{last} held {} longer", ms(by))),
            Outcome::TooLong { by } if self.of() == 1 => Some(format!("{last} released {} earlier", ms(by))),
            Outcome::TooLong { by } => Some(format!("{} more in `{}`", ms(by), self.limit(linkage))),
            Outcome::NotFresh { by } => {
                Some(format!("{} more in `fresh`, or {} pressed {0} later", ms(by), self.first(linkage)))
            }
            Outcome::Astray { to, by } => Some(format!("{} more in `astray`, or {to} left {0} earlier", ms(by))),
            Outcome::Skipped(direction) => Some(format!("{direction} in between")),
            Outcome::LetGo => Some(format!("{last} held until the other button comes")),
            Outcome::WrongWay(direction) => Some(format!("no {direction} in between")),
            Outcome::WrongPress(name) => Some(format!("no {name} in between")),
            Outcome::Faced(side) => {
                Some(format!("`facing` {} as the motion began", if side == "left" { "right" } else { "left" }))
            }
            Outcome::GateShut { term, since: Some(since), .. } => {
                Some(format!("the press {} earlier, or {0} more in `within` of `{term}`", ms(since)))
            }
            Outcome::GateShut { opens: Some(opens), .. } => {
                Some(format!("the press {} later, or {0} more in `keep`", ms(opens)))
            }
            Outcome::GateShut { term, .. } => Some(format!("`{term}` at the press")),
            Outcome::CoolingDown { left } => Some(format!("the press {} later, or {0} more in `keep`", ms(left))),
            Outcome::Spent { fact, .. } => Some(format!("`{fact}` once more before the press")),
            Outcome::Served { .. } => Some("a press of its own".into()),
            Outcome::RanOut | Outcome::Pulled { .. } | Outcome::Outranked { .. } | Outcome::Lost(_) | Outcome::Gap => {
                None
            }
        }
    }

    /// The word of the cue that sets its time limit.
    fn limit(&self, linkage: &Linkage) -> &'static str {
        linkage.0.cues.all.get(usize::from(self.cue)).map_or("within", |cue| cue.rule.limit_word())
    }

    /// What would have come next, where that is one thing.
    fn lacked<'l>(&self, linkage: &'l Linkage) -> Option<&'l str> {
        let came = self.steps(linkage).count();
        linkage.0.cues.all.get(usize::from(self.cue))?.line.rule.next(came)
    }

    /// What came first; the action itself where nothing is noted.
    fn first<'l>(&self, linkage: &'l Linkage) -> &'l str {
        self.steps(linkage).next().map_or_else(|| self.action(linkage).unwrap_or_default(), |step| step.name)
    }

    /// What came last; the action itself where nothing is noted.
    fn last<'l>(&self, linkage: &'l Linkage) -> &'l str {
        self.steps(linkage).last().map_or_else(|| self.action(linkage).unwrap_or_default(), |step| step.name)
    }
}
