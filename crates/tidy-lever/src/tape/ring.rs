//! The last seconds of a tape, in bounded memory; what lay before them is kept as what stands at their beginning.

use alloc::collections::VecDeque;
use alloc::vec::Vec;
use core::time::Duration;

use super::player::spoken;
use super::{Line, Said};
use crate::event::Phase;
use crate::time::Moment;

/// More lines than this are never kept, however short the span.
const MOST_LINES: usize = 200_000;
/// A level further from rest than this stands.
const RESTS: f64 = 1e-6;

/// Lines of the last span, and what stood as it began.
#[derive(Clone, Debug)]
pub(super) struct Ring {
    span: Duration,
    lines: VecDeque<Line>,
    /// What lines before said that still holds, in the order in which it was said last.
    standing: Vec<Line>,
}

/// What two lines are of, if the later of them replaces the earlier.
#[derive(PartialEq, Eq)]
enum Of<'l> {
    Control(&'l str, &'l str),
    Finger(&'l str, u64),
    Plugged(&'l str),
    Fact(&'l str),
    Mode(&'l str),
    Set(&'l str),
    Number(&'l str),
    One(&'static str),
}

impl Of<'_> {
    /// `None` for what leaves nothing behind.
    fn line(said: &Said) -> Option<Of<'_>> {
        Some(match said {
            Said::Level { device, control, .. }
            | Said::Pair { device, control, .. }
            | Said::Stands { device, control, .. } => Of::Control(device, control),
            Said::Touch { device, finger, .. } => Of::Finger(device, *finger),
            Said::Plugged { device, .. } => Of::Plugged(device),
            Said::Fact { fact, .. } => Of::Fact(fact),
            Said::Mode { mode, .. } => Of::Mode(mode),
            Said::Set { action, .. } => Of::Set(action),
            Said::Number { path, .. } => Of::Number(path),
            Said::Focus(_) => Of::One("focus"),
            Said::Panel(_) => Of::One("panel"),
            Said::Frozen(_) => Of::One("frozen"),
            Said::Remap(_) => Of::One("remap"),
            Said::Profile(_) => Of::One("profile"),
            Said::View { .. } => Of::One("view"),
            Said::GiveBack(_) | Said::Skip { .. } | Said::Meant(_) | Said::End => return None,
        })
    }
}

/// Whether a line says that something is at rest, as it is before anything is said.
fn is_rest(said: &Said) -> bool {
    match said {
        Said::Level { value, control, .. } => value.abs() < RESTS || control.contains("wheel-"),
        // Counts of a mouse are over at once; its place stays.
        Said::Pair { control, x, y, .. } => {
            control != "mouse:place" && (control == "mouse:move" || x.abs().max(y.abs()) < RESTS)
        }
        Said::Stands { x, y, .. } => x.abs().max(y.abs()) < RESTS,
        Said::Touch { phase, .. } => matches!(phase, Phase::Up | Phase::Cancel),
        Said::Plugged { plugged, .. } => *plugged,
        Said::Focus(focused) => *focused,
        _ => false,
    }
}

impl Ring {
    pub(super) fn new(span: Duration) -> Ring {
        Ring { span, lines: VecDeque::new(), standing: Vec::new() }
    }

    pub(super) fn put(&mut self, line: &Line) {
        self.lines.push_back(line.clone());
        let oldest = Moment::from_micros(line.at.as_micros().saturating_sub(self.span.as_micros() as u64));
        while self.lines.len() > MOST_LINES || self.lines.front().is_some_and(|first| first.at < oldest) {
            if let Some(first) = self.lines.pop_front() {
                self.leave(first);
            }
        }
    }

    /// A line falls out of the ring; what it says stands, unless it is rest.
    fn leave(&mut self, mut line: Line) {
        let Some(of) = Of::line(&line.said) else { return };
        self.standing.retain(|other| other.seat != line.seat || Of::line(&other.said).as_ref() != Some(&of));
        // What stands at the beginning was put down there.
        if let Said::Touch { phase: phase @ Phase::Move, .. } = &mut line.said {
            *phase = Phase::Down;
        }
        // What lies on an unplugged or unfocused device is gone.
        let gone = |other: &Line| match (&line.said, &other.said) {
            (
                Said::Plugged { device, plugged: false },
                Said::Level { device: of, .. }
                | Said::Pair { device: of, .. }
                | Said::Stands { device: of, .. }
                | Said::Touch { device: of, .. },
            ) => spoken(device).0 == spoken(of).0,
            (Said::Focus(false), Said::Level { control, .. } | Said::Stands { control, .. }) => {
                !control.starts_with("pad:")
            }
            (Said::Focus(false), Said::Touch { .. }) => true,
            _ => false,
        };
        self.standing.retain(|other| other.seat != line.seat || !gone(other));
        if !is_rest(&line.said) {
            self.standing.push(line);
        }
    }

    /// All lines, from 0 on: what stood at the beginning, then what happened.
    pub(super) fn lines(&self, to: Moment) -> Vec<Line> {
        let oldest = to.as_micros().saturating_sub(self.span.as_micros() as u64);
        let first = self.lines.front().map_or(oldest, |first| first.at.as_micros().min(oldest.max(1)));
        let begin = match (self.standing.is_empty(), oldest) {
            // All that was ever said is here, at its own moment.
            (true, 0) => 0,
            (true, _) => first,
            (false, _) => first.saturating_sub(1),
        };
        let shifted = |at: Moment| Moment::from_micros(at.as_micros().saturating_sub(begin));
        let standing = self.standing.iter().map(|line| Line { at: Moment::ZERO, ..line.clone() });
        let lines = self.lines.iter().cloned().map(|mut line| {
            line.at = shifted(line.at);
            if let Said::Skip { from: Some(from) } = &mut line.said {
                *from = shifted(*from);
            }
            line
        });
        let mut all: Vec<Line> = standing.chain(lines).collect();
        all.push(Line { at: shifted(to), seat: 1, said: Said::End });
        all
    }
}
