//! The last seconds of a tape, in bounded memory; what lay before them is kept as what stands at their beginning.

use alloc::collections::VecDeque;
use alloc::vec::Vec;
use core::time::Duration;

use super::replayer::spoken;
use super::{Line, LineKind};
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
    Named(&'l str),
    Fact(&'l str),
    Mode(&'l str),
    Set(&'l str),
    Number(&'l str),
    One(&'static str),
}

impl Of<'_> {
    /// `None` for what leaves nothing behind.
    fn line(said: &LineKind) -> Option<Of<'_>> {
        Some(match said {
            LineKind::Level { device, control, .. }
            | LineKind::Pair { device, control, .. }
            | LineKind::Stands { device, control, .. } => Of::Control(device, control),
            LineKind::Touch { device, finger, .. } => Of::Finger(device, *finger),
            LineKind::Plugged { device, .. } => Of::Plugged(device),
            LineKind::Named { device, .. } => Of::Named(device),
            LineKind::Fact { fact, .. } => Of::Fact(fact),
            LineKind::Mode { mode, .. } => Of::Mode(mode),
            LineKind::Set { action, .. } => Of::Set(action),
            LineKind::Number { path, .. } => Of::Number(path),
            LineKind::Focus(_) => Of::One("focus"),
            LineKind::Panel(_) => Of::One("panel"),
            LineKind::Frozen(_) => Of::One("frozen"),
            LineKind::Remap(_) => Of::One("remap"),
            LineKind::Profile(_) => Of::One("profile"),
            LineKind::View { .. } => Of::One("view"),
            LineKind::GiveBack(_) | LineKind::Skip { .. } | LineKind::Meant(_) | LineKind::End => return None,
        })
    }
}

/// Whether a line says that something is at rest, as it is before anything is said.
fn is_rest(said: &LineKind) -> bool {
    match said {
        LineKind::Level { value, control, .. } => value.abs() < RESTS || control.contains("wheel-"),
        // Counts of a mouse are over at once; its place stays.
        LineKind::Pair { control, x, y, .. } => {
            control != "mouse:place" && (control == "mouse:move" || x.abs().max(y.abs()) < RESTS)
        }
        LineKind::Stands { x, y, .. } => x.abs().max(y.abs()) < RESTS,
        LineKind::Touch { phase, .. } => matches!(phase, Phase::Up | Phase::Cancel),
        LineKind::Plugged { plugged, .. } => *plugged,
        LineKind::Focus(focused) => *focused,
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
        let Some(of) = Of::line(&line.kind) else { return };
        self.standing.retain(|other| other.seat != line.seat || Of::line(&other.kind).as_ref() != Some(&of));
        // What stands at the beginning was put down there.
        if let LineKind::Touch { phase: phase @ Phase::Move, .. } = &mut line.kind {
            *phase = Phase::Down;
        }
        // What lies on an unplugged or unfocused device is gone.
        let gone = |other: &Line| match (&line.kind, &other.kind) {
            (
                LineKind::Plugged { device, plugged: false },
                LineKind::Level { device: of, .. }
                | LineKind::Pair { device: of, .. }
                | LineKind::Stands { device: of, .. }
                | LineKind::Touch { device: of, .. },
            ) => spoken(device).0 == spoken(of).0,
            (LineKind::Focus(false), LineKind::Level { control, .. } | LineKind::Stands { control, .. }) => {
                !control.starts_with("pad:")
            }
            (LineKind::Focus(false), LineKind::Touch { .. }) => true,
            _ => false,
        };
        self.standing.retain(|other| other.seat != line.seat || !gone(other));
        if !is_rest(&line.kind) {
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
            if let LineKind::Skip { from: Some(from) } = &mut line.kind {
                *from = shifted(*from);
            }
            line
        });
        let mut all: Vec<Line> = standing.chain(lines).collect();
        all.push(Line::new(shifted(to), 1, LineKind::End));
        all
    }
}
