//! What a seat's actions did lately: pulls, and attempts that missed by little.

use std::collections::VecDeque;
use std::time::Duration;

use tidy_lever::{Attempt, Moment, Seat, What};

/// A miss by no more than this is a near one.
const NEAR: Duration = Duration::from_millis(100);
/// How many of each are kept.
const KEPT: usize = 64;

/// A pull, as a line to be shown.
#[derive(Clone, Debug)]
pub struct Entry {
    /// Whose it is.
    pub seat: usize,
    /// When it came.
    pub at: Moment,
    /// What came.
    pub text: String,
    /// How long after the press, or how long it was kept.
    pub more: String,
}

/// A near miss, with the attempt that it tells of.
#[derive(Clone, Debug)]
pub struct Miss {
    /// The line.
    pub entry: Entry,
    /// The action's name.
    pub action: String,
    /// What it missed by.
    pub by: Duration,
    /// The attempt.
    pub attempt: Attempt,
}

/// The last pulls and near misses of some seats, the newest first.
#[derive(Clone, Debug, Default)]
pub struct Recent {
    pulls: VecDeque<Entry>,
    misses: VecDeque<Miss>,
    /// How many attempts of each seat were looked at.
    looked: Vec<(usize, u64)>,
}

fn remember<E>(list: &mut VecDeque<E>, entry: E) {
    list.push_front(entry);
    list.truncate(KEPT);
}

impl Recent {
    /// Nothing yet.
    pub fn new() -> Recent {
        Recent::default()
    }

    /// Looks at what a seat's last `advance` brought; how many near misses are new. The seat must keep a ledger for those.
    pub fn look(&mut self, number: usize, seat: &Seat) -> usize {
        let linkage = seat.linkage();
        for pull in seat.latest().happenings().filter(|happening| happening.what() == What::Pulled) {
            let mut text = pull.action(linkage).unwrap_or_default().to_owned();
            if let Some(stage) = pull.stage() {
                text += &format!(" {stage}");
            }
            if let Some(amount) = pull.amount() {
                text += &format!(" {:.0} %", amount * 100.0);
            }
            if let Some(over) = pull.over(linkage) {
                text += &format!(", over {over}");
            }
            let kept = pull.kept_for();
            let after = pull.at() - pull.since();
            let more = match (kept.is_zero(), after.is_zero()) {
                (false, _) => format!("kept {} ms", kept.as_millis()),
                (true, true) => "at the press".into(),
                (true, false) => format!("{} ms after", after.as_millis()),
            };
            remember(&mut self.pulls, Entry { seat: number, at: pull.at(), text, more });
        }
        let place = self.looked.iter().position(|(known, _)| *known == number).unwrap_or_else(|| {
            self.looked.push((number, 0));
            self.looked.len() - 1
        });
        let mut count = 0;
        for attempt in seat.attempts_since(self.looked[place].1) {
            let by = attempt.missed_by().filter(|by| *by <= NEAR && !attempt.pulled());
            let (Some(by), Some(action)) = (by, attempt.action(linkage)) else { continue };
            let word = match attempt.outcome(linkage).map_or("", |outcome| outcome.name()) {
                "too late" => "late",
                "too soon" => "early",
                "too long" => "too long",
                _ => "off",
            };
            let text = format!("{action}: {} ms {word}", by.as_millis().max(1));
            let more = attempt.story(linkage).unwrap_or_default();
            let entry = Entry { seat: number, at: attempt.ended(), text, more };
            remember(&mut self.misses, Miss { entry, action: action.to_owned(), by, attempt: *attempt });
            count += 1;
        }
        self.looked[place].1 = seat.attempt_count();
        count
    }

    /// The pulls, the newest first.
    pub fn pulls(&self) -> impl Iterator<Item = &Entry> {
        self.pulls.iter()
    }

    /// The near misses, the newest first.
    pub fn misses(&self) -> impl Iterator<Item = &Miss> {
        self.misses.iter()
    }

    /// Whether anything came within this span before a moment.
    pub fn is_new(&self, now: Moment, span: Duration) -> bool {
        let newest = self.pulls.front().into_iter().chain(self.misses.front().map(|miss| &miss.entry));
        newest.into_iter().any(|entry| now - entry.at < span)
    }
}
