//! Scores the `meant` lines of a tape: whether each action that a player meant was pulled, how late, and what pulled
//! instead.
//!
//! ```text
//!   meant ──250 ms before ... 2 s after──▶ pulls of that seat; a pull answers one line only
//! ```

use std::collections::VecDeque;
use std::io::Write;

use anyhow::Result;
use serde_json::{Map, Value, json};
use tidy_lever::tape::{Line, Said};
use tidy_lever::{Attempt, Happening, Linkage, Seat, What};

use crate::paint::{BAD, FAINT, GOOD, NAME, in_style};
use crate::run::Watcher;
use crate::view::seconds;

/// A pull answers a line from this long before it to this long after it, in µs.
const BEFORE: u64 = 250_000;
const AFTER: u64 = 2_000_000;
/// The most pulls that one line remembers.
const MOST_PULLS: usize = 16;
/// The most lines that are listed for people one by one.
const MOST_LISTED: usize = 30;

/// One `meant` line, with the pulls around it.
#[derive(Debug)]
struct Meant {
    at: u64,
    seat: u32,
    name: String,
    /// Moments and actions.
    pulls: Vec<(u64, String)>,
}

/// What became of a `meant` line.
#[derive(Debug)]
pub(crate) struct Score {
    pub(crate) at: u64,
    pub(crate) seat: u32,
    pub(crate) name: String,
    /// Whether the profile has such an action.
    pub(crate) known: bool,
    /// How long after the line the action pulled, in µs; below 0 before it. `None` where it did not.
    pub(crate) late: Option<i64>,
    /// What pulled instead, each name once.
    pub(crate) instead: Vec<String>,
}

/// Gathers `meant` lines and the pulls around them.
#[derive(Debug, Default)]
pub(crate) struct Meants {
    all: Vec<Meant>,
    /// The pulls of the last moments, which may answer a line that comes after them.
    lately: Vec<(u64, u32, String)>,
}

impl Meants {
    fn line(&mut self, line: &Line) {
        let Said::Meant(name) = &line.said else { return };
        let at = line.at.as_micros();
        let before = self.lately.iter().filter(|(pulled, seat, _)| pulled + BEFORE >= at && *seat == line.seat);
        let pulls = before.map(|(pulled, _, name)| (*pulled, name.clone())).take(MOST_PULLS).collect();
        self.all.push(Meant { at, seat: line.seat, name: name.clone(), pulls });
    }

    fn happened(&mut self, seat: u32, happening: &Happening, linkage: &Linkage) {
        if happening.what() != What::Pulled {
            return;
        }
        let (at, name) = (happening.at().as_micros(), happening.action(linkage).unwrap_or_default().to_owned());
        let near = |meant: &&mut Meant| at <= meant.at + AFTER && at + BEFORE >= meant.at && meant.seat == seat;
        // Lines stand in order of time: those that are long over come first.
        let open = self.all.iter_mut().rev().take_while(|meant| at <= meant.at + 2 * AFTER);
        for meant in open.filter(near).filter(|meant| meant.pulls.len() < MOST_PULLS) {
            meant.pulls.push((at, name.clone()));
        }
        self.lately.retain(|(pulled, ..)| pulled + BEFORE >= at);
        self.lately.push((at, seat, name));
    }

    /// What became of each line, in the order of the tape.
    pub(crate) fn scores(&self, linkage: &Linkage) -> Vec<Score> {
        let mut used: Vec<(u32, u64, &str)> = Vec::new();
        let next = |place: usize, seat: u32| {
            let later = self.all[place + 1..].iter().find(|later| later.seat == seat);
            later.map_or(u64::MAX, |later| later.at)
        };
        let mut scores = Vec::new();
        for (place, meant) in self.all.iter().enumerate() {
            let until = next(place, meant.seat);
            let free = |(at, name): &&(u64, String)| {
                (*at < until || *at == meant.at) && !used.contains(&(meant.seat, *at, name.as_str()))
            };
            let own = meant.pulls.iter().filter(free).find(|(_, name)| *name == meant.name);
            let late = own.map(|(at, _)| *at as i64 - meant.at as i64);
            let mut instead: Vec<String> = Vec::new();
            if late.is_none() {
                for (_, name) in meant.pulls.iter().filter(free).filter(|(at, _)| *at >= meant.at) {
                    if !instead.contains(name) {
                        instead.push(name.clone());
                    }
                }
            }
            used.extend(own.map(|(at, name)| (meant.seat, *at, name.as_str())));
            let known = linkage.action(&meant.name).is_some();
            let Meant { at, seat, ref name, .. } = *meant;
            scores.push(Score { at, seat, name: name.clone(), known, late, instead });
        }
        scores
    }
}

impl Score {
    /// One line for programs.
    pub(crate) fn json(&self, closest: Option<String>) -> Value {
        let mut object = Map::new();
        object.insert("at".into(), json!(self.at));
        if self.seat != 1 {
            object.insert("seat".into(), json!(self.seat));
        }
        object.insert("meant".into(), json!(self.name));
        object.insert("found".into(), json!(self.late.is_some()));
        if let Some(late) = self.late {
            object.insert("late".into(), json!(late));
        } else if !self.known {
            object.insert("known".into(), json!(false));
        }
        if !self.instead.is_empty() {
            object.insert("instead".into(), json!(self.instead));
        }
        if let Some(closest) = closest {
            object.insert("closest".into(), json!(closest));
        }
        Value::Object(object)
    }
}

/// Prints the scores for people: how many were found, then each that was not, with the story that comes closest.
pub(crate) fn print(
    out: &mut impl Write,
    scores: &[Score],
    mut closest: impl FnMut(&Score) -> Option<String>,
) -> Result<()> {
    if scores.is_empty() {
        return Ok(());
    }
    let known: Vec<&Score> = scores.iter().filter(|score| score.known).collect();
    let mut lates: Vec<i64> = known.iter().filter_map(|score| score.late).collect();
    lates.sort_unstable();
    let style = if lates.len() == known.len() { GOOD } else { BAD };
    let found = format!("{} of {} found", lates.len(), known.len());
    write!(out, "meant: {}", in_style(style, found))?;
    if let Some(median) = lates.get(lates.len() / 2) {
        write!(out, ", median {:.1} ms after the line", *median as f64 / 1e3)?;
    }
    writeln!(out)?;
    let missed = scores.iter().filter(|score| score.late.is_none());
    for score in missed.clone().take(MOST_LISTED) {
        let seat = if score.seat == 1 { String::new() } else { format!(" (seat {})", score.seat) };
        let what = match (score.known, score.instead.as_slice()) {
            (false, _) => "the profile has no such action".to_owned(),
            (true, []) => "nothing pulled".to_owned(),
            (true, instead) => format!("{} pulled instead", instead.join(", ")),
        };
        write!(out, "  {} at {}{seat}: {what}", in_style(NAME, &score.name), seconds(score.at))?;
        if let Some(story) = closest(score) {
            write!(out, "; {story}")?;
        }
        writeln!(out)?;
    }
    let hidden = missed.count().saturating_sub(MOST_LISTED);
    if hidden > 0 {
        writeln!(out, "{}", in_style(FAINT, format!("  {hidden} more; --json lists all")))?;
    }
    Ok(())
}

/// The attempts of meant actions that came closest to pulling.
#[derive(Debug, Default)]
pub(crate) struct Closest {
    lines: Vec<(u64, u32, String, Option<Attempt>)>,
    /// Attempts that ended a moment ago: a line may come after them.
    lately: VecDeque<(u32, Attempt)>,
}

impl Closest {
    pub(crate) fn line(&mut self, line: &Line, linkage: &Linkage) {
        if let Said::Meant(name) = &line.said {
            self.lines.push((line.at.as_micros(), line.seat, name.clone(), None));
            for (seat, attempt) in std::mem::take(&mut self.lately) {
                self.look(seat, &attempt, linkage);
            }
        }
    }

    /// An attempt ended: it may be the closest of the lines around it.
    pub(crate) fn look(&mut self, seat: u32, attempt: &Attempt, linkage: &Linkage) {
        if self.lately.len() == MOST_LISTED {
            self.lately.pop_front();
        }
        self.lately.push_back((seat, *attempt));
        let (began, ended, action) =
            (attempt.began().as_micros(), attempt.ended().as_micros(), attempt.action(linkage).unwrap_or_default());
        // The line that lies nearest is the one that it belongs to.
        let far = |at: u64| began.saturating_sub(at).max(at.saturating_sub(ended));
        let own =
            self.lines.iter_mut().rev().take(MOST_LISTED).filter(|(_, of, name, _)| *of == seat && name == action);
        let nearest = own.min_by_key(|(at, ..)| far(*at)).filter(|(at, ..)| far(*at) <= AFTER);
        if let Some((_, _, _, best)) = nearest.filter(|_| !attempt.pulled()) {
            let better = best.as_ref().is_none_or(|best| attempt.distance(linkage) < best.distance(linkage));
            *best = if better { Some(*attempt) } else { best.take() };
        }
    }

    /// The story of the attempt that came closest to what a line meant.
    pub(crate) fn story(&self, score: &Score, linkage: &Linkage) -> Option<String> {
        let of = |(at, seat, name, _): &&(u64, u32, String, Option<Attempt>)| {
            (*at, *seat, name) == (score.at, score.seat, &score.name) && score.late.is_none()
        };
        self.lines.iter().find(of)?.3.as_ref()?.story(linkage)
    }
}

/// Shows another watcher everything, and gathers `meant` lines besides.
pub(crate) struct Scored<'a, W> {
    pub(crate) inner: &'a mut W,
    pub(crate) meants: &'a mut Meants,
    pub(crate) linkage: &'a Linkage,
}

impl<W: Watcher> Watcher for Scored<'_, W> {
    fn line(&mut self, line: &Line) {
        self.meants.line(line);
        self.inner.line(line);
    }

    fn seated(&mut self, seat: &mut Seat) {
        self.inner.seated(seat);
    }

    fn ended(&mut self, seat: u32, now: &Seat) -> Result<()> {
        self.inner.ended(seat, now)
    }

    fn happened(&mut self, seat: u32, happening: &Happening, now: &Seat) -> Result<()> {
        self.meants.happened(seat, happening, self.linkage);
        self.inner.happened(seat, happening, now)
    }

    fn played(&mut self, seat: u32, now: &Seat) -> Result<()> {
        self.inner.played(seat, now)
    }

    fn sampled(&mut self, seat: u32, now: &Seat) -> Result<()> {
        self.inner.sampled(seat, now)
    }

    fn ticked(&mut self, seat: u32, now: &Seat) -> Result<()> {
        self.inner.ticked(seat, now)
    }
}
