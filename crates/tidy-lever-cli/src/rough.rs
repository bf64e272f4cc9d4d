//! Events whose moments a host only knew roughly, and the attempts that hang on them.

use std::collections::VecDeque;
use std::time::Duration;

use tidy_lever::tape::Line;
use tidy_lever::{Attempt, Linkage};

/// The most events that are remembered; an attempt that lasts longer looks at the last of them.
const MOST: usize = 4_096;

/// What an attempt hangs on: that many of its events have moments that are only known to this span.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Rough {
    events: usize,
    /// Whether all of them came within one stretch.
    together: bool,
    pub(crate) spread: Duration,
}

impl Rough {
    /// A sentence for people.
    pub(crate) fn story(&self) -> String {
        let ms = (self.spread.as_secs_f64() * 1e4).round() / 10.0;
        match self.events {
            1 => format!("the time of one of these events is only known to {ms} ms"),
            events if self.together => {
                format!("these {events} events arrived together; their times are known to {ms} ms")
            }
            events => format!("the times of {events} of these events are only known to {ms} ms"),
        }
    }
}

/// The last events of a tape that have a `spread`: seat, moment, spread.
#[derive(Debug, Default)]
pub(crate) struct RoughLines(VecDeque<(u32, u64, Duration)>);

impl RoughLines {
    pub(crate) fn line(&mut self, line: &Line) {
        if line.spread.is_none() {
            return;
        }
        if self.0.len() == MOST {
            self.0.pop_front();
        }
        self.0.push_back((line.seat, line.at.as_micros(), line.spread.into()));
    }

    /// What an attempt hangs on, if it pulled or missed by less than the spread of its events.
    pub(crate) fn under(&self, seat: u32, attempt: &Attempt, linkage: &Linkage) -> Option<Rough> {
        let margin = match attempt.pulled() {
            true => attempt.window(linkage).zip(attempt.steps(linkage).last()).map(|((_, end), last)| end - last.at),
            false => attempt.missed_by(),
        }?;
        let steps = attempt.steps(linkage).map(|step| step.at);
        let (from, to) = steps.fold((attempt.began(), attempt.ended()), |(from, to), at| (from.min(at), to.max(at)));
        let its = |(of, at, spread): &&(u32, u64, Duration)| {
            *of == seat && *spread > margin && (from.as_micros()..=to.as_micros()).contains(at)
        };
        let spread = self.0.iter().filter(its).map(|(.., spread)| *spread).max()?;
        let moments: Vec<u64> = self.0.iter().filter(its).map(|(_, at, _)| *at).collect();
        let together = moments.last()? - moments[0] < spread.as_micros() as u64;
        Some(Rough { events: moments.len(), together, spread })
    }
}
