//! Stories: what became of an attempt, in a few words for people.

use alloc::borrow::ToOwned;
use alloc::format;
use alloc::string::String;
use core::time::Duration;

use super::{Attempt, Outcome};
use crate::cue::CompiledRule;
use crate::end::Did;
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
                let what = if self.held_for().is_zero() { "the press" } else { "the hold was complete" };
                format!("blocked by `when`: `{term}` had ended {} before {what}", ms(since))
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

    /// What would have helped: ``raise `within` by 72.8 ms, or press toss 72.8 ms earlier``. Where [`missed_by`](Attempt::missed_by)
    /// says by how much it missed, this alone would have made it pull. `None` where it pulled, where no small change would have
    /// helped, and for a linkage of another profile.
    pub fn fix(&self, linkage: &Linkage) -> Option<String> {
        let raise = |key: &str, by: Duration| format!("raise `{key}` by {}", ms(by));
        match self.outcome(linkage)? {
            // With further steps to come, more time alone is not enough.
            Outcome::TooLate { .. } if self.missed_by().is_none() => None,
            Outcome::TooLate { by } => {
                Some(format!("{}, or {} {} earlier", raise(self.limit(linkage), by), self.last_act(linkage), ms(by)))
            }
            Outcome::TooSoon { by } if self.early > 0 => {
                Some(format!("{}, or press {} later", raise("early", by), ms(by)))
            }
            Outcome::TooSoon { by } => Some(format!("hold {} {} longer", self.last(linkage), ms(by))),
            Outcome::TooLong { by } if self.of() == 1 => {
                Some(format!("release {} {} earlier", self.last(linkage), ms(by)))
            }
            Outcome::TooLong { by } => Some(raise(self.limit(linkage), by)),
            Outcome::NotFresh { by } => {
                Some(format!("{}, or press {} {} later", raise("fresh", by), self.first(linkage), ms(by)))
            }
            Outcome::Astray { to, by } => Some(format!("{}, or leave {to} {} earlier", raise("astray", by), ms(by))),
            Outcome::Skipped(direction) => Some(format!("move through {direction}")),
            Outcome::LetGo => Some(format!("hold {} until the other button comes", self.last(linkage))),
            Outcome::WrongWay(direction) => Some(format!("keep {direction} out of it")),
            Outcome::WrongPress(name) => Some(format!("press no {name} in between")),
            Outcome::Faced(side) => {
                Some(format!("begin it while `facing` is {}", if side == "left" { "right" } else { "left" }))
            }
            Outcome::GateShut { term, since: Some(since), .. } => {
                Some(format!("press {} earlier, or raise `within` of `{term}` by {0}", ms(since)))
            }
            Outcome::GateShut { opens: Some(by), .. } | Outcome::CoolingDown { left: by } => {
                Some(format!("press {} later, or {}", ms(by), raise("keep", by)))
            }
            Outcome::GateShut { term, .. } => {
                let (term, value) = term.strip_prefix("not ").map_or((term, true), |term| (term, false));
                Some(match self.held_for() {
                    Duration::ZERO => format!("press while `{term}` is {value}"),
                    held => format!("press when `{term}` will be {value} {} later", ms(held)),
                })
            }
            Outcome::Spent { fact, .. } => Some(format!("press after `{fact}` was left and came again")),
            Outcome::Served { .. } => Some("give it a press of its own".into()),
            Outcome::RanOut | Outcome::Pulled { .. } | Outcome::Outranked { .. } | Outcome::Lost(_) | Outcome::Gap => {
                None
            }
        }
    }

    /// What came last, as something that a player does.
    fn last_act(&self, linkage: &Linkage) -> String {
        let last = self.last(linkage);
        match self.steps.get(usize::from(self.count).saturating_sub(1)) {
            Some((_, Did::Toward(_))) => format!("reach {last}"),
            Some((_, Did::Neutral)) => "return to neutral".to_owned(),
            Some((_, Did::Release(_))) => format!("release {last}"),
            _ => format!("press {last}"),
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
