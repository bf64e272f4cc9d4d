//! The last seconds of a tape, in bounded memory; what lay before them is kept as what stands at their beginning.

use alloc::collections::VecDeque;
use alloc::vec::Vec;
use core::time::Duration;

use super::replayer::spoken;
use super::state::State;
use super::{Line, LineKind};
use crate::event::Phase;
use crate::time::Moment;

/// More lines than this are never kept, however short the span.
const MOST_LINES: usize = 200_000;
/// What a seat has is kept this often.
const STATE_EVERY: Duration = Duration::from_secs(1);
const STATE_LATEST: Duration = Duration::from_secs(3);
/// A level further from rest than this stands.
const RESTS: f64 = 1e-6;

/// Lines of the last span, and what stood as it began.
#[derive(Clone, Debug)]
pub(super) struct Ring {
    span: Duration,
    lines: VecDeque<Line>,
    /// What lines before said that still holds, in the order in which it was said last.
    standing: Vec<Line>,
    /// What each seat had at moments one to three seconds apart, the newest last. One of them is where a saved tape begins.
    states: VecDeque<(u32, Moment, State)>,
    /// The moment of the last line that fell out.
    left: Moment,
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
            LineKind::GiveBack(_)
            | LineKind::Stick { .. }
            | LineKind::Skip { .. }
            | LineKind::Meant(_)
            | LineKind::End => return None,
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
        let (lines, states) = (VecDeque::new(), VecDeque::new());
        Ring { span, lines, standing: Vec::new(), states, left: Moment::ZERO }
    }

    /// Whether what a seat has at a moment should be kept; rather not while something is under way in it.
    pub(super) fn wants_state(&self, seat: u32, at: Moment, is_busy: impl FnOnce() -> bool) -> bool {
        let last = self.states.iter().rev().find(|(of, ..)| *of == seat).map_or(Moment::ZERO, |(_, last, _)| *last);
        at >= last + STATE_LATEST || at >= last + STATE_EVERY && !is_busy()
    }

    /// What a seat has at the moment that it has played.
    pub(super) fn stands(&mut self, seat: u32, at: Moment, state: State) {
        self.states.push_back((seat, at, state));
        // Of those before the span only the last of each seat matters.
        let begins = at - self.span.min(at - Moment::ZERO);
        let is_old = |states: &VecDeque<(u32, Moment, State)>| {
            let (seat, ..) = states[0];
            states.iter().skip(1).any(|(of, later, _)| *of == seat && *later <= begins)
        };
        while is_old(&self.states) {
            self.states.pop_front();
        }
    }

    /// Where a tape begins that is saved at a moment: the last state before the span, of which all later lines are here.
    fn begins(&self, to: Moment) -> Option<Moment> {
        let oldest = to - self.span.min(to - Moment::ZERO);
        let whole = self.states.iter().map(|(_, at, _)| *at).filter(|at| *at >= self.left);
        whole.clone().filter(|at| *at <= oldest).max().or(whole.min().filter(|_| self.left > Moment::ZERO))
    }

    pub(super) fn put(&mut self, line: &Line) {
        self.lines.push_back(line.clone());
        let oldest = line.at - self.span.min(line.at - Moment::ZERO);
        // From a state on everything is kept.
        let oldest = self.begins(line.at).map_or(oldest, |begins| oldest.min(begins + Duration::from_micros(1)));
        self.leave_before(oldest);
    }

    /// Lines before a moment fall out, and as many as there is no room for.
    fn leave_before(&mut self, oldest: Moment) {
        while self.lines.len() > MOST_LINES || self.lines.front().is_some_and(|first| first.at < oldest) {
            if let Some(first) = self.lines.pop_front() {
                self.left = self.left.max(first.at);
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
        let Some(begin) = self.begins(to) else { return self.lines_from(to, &[]) };
        let mut ring = self.clone();
        ring.leave_before(begin + Duration::from_micros(1));
        // Of each seat, what it had there.
        let mut states: Vec<(u32, State)> = Vec::new();
        for (seat, _, state) in self.states.iter().filter(|(_, at, _)| *at <= begin) {
            states.retain(|(of, _)| of != seat);
            states.push((*seat, state.clone()));
        }
        for (seat, state) in &states {
            ring.standing.retain(|line| {
                let is_set = |kind: &LineKind| Of::line(kind) == Of::line(&line.kind);
                line.seat != *seat || !state.switched.iter().any(is_set)
            });
        }
        ring.left = begin;
        ring.lines_from(to, &states)
    }

    fn lines_from(&self, to: Moment, states: &[(u32, State)]) -> Vec<Line> {
        let oldest = to.as_micros().saturating_sub(self.span.as_micros() as u64);
        let first = self.lines.front().map_or(oldest, |first| first.at.as_micros().min(oldest.max(1)));
        let begin = match (self.standing.is_empty(), oldest) {
            _ if !states.is_empty() => self.left.as_micros(),
            // All that was ever said is here, at its own moment.
            (true, 0) => 0,
            (true, _) => first,
            (false, _) => first.saturating_sub(1),
        };
        let shifted = |at: Moment| Moment::from_micros(at.as_micros().saturating_sub(begin));
        let said = |at: u64, of: fn(&State) -> &Vec<LineKind>| {
            let lines = states.iter().flat_map(move |(seat, state)| of(state).iter().map(move |kind| (*seat, kind)));
            lines.map(move |(seat, kind)| Line::new(Moment::from_micros(at), seat, kind.clone()))
        };
        // Names come first: what is learnt of a stick depends on what is set for its pad.
        let is_name = |line: &&Line| matches!(line.kind, LineKind::Named { .. });
        let at_first = |line: &Line| Line { at: Moment::ZERO, ..line.clone() };
        let names = self.standing.iter().filter(is_name).map(at_first);
        let standing = self.standing.iter().filter(|line| !is_name(line)).map(at_first);
        let lines = self.lines.iter().cloned().map(|mut line| {
            line.at = shifted(line.at);
            if let LineKind::Skip { from: Some(from) } = &mut line.kind {
                *from = shifted(*from);
            }
            line
        });
        let mut all: Vec<Line> =
            names.chain(said(0, |state| &state.learnt)).chain(said(0, |state| &state.switched)).collect();
        all.extend(standing);
        all.extend(said(0, |state| &state.latched));
        // What is held switched them again.
        all.extend(said(1, |state| &state.switched));
        all.extend(said(1, |state| &state.let_go));
        all.extend(lines);
        all.push(Line::new(shifted(to), 1, LineKind::End));
        all
    }
}
