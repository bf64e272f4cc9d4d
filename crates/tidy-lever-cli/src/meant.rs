//! Scores the `meant` lines of a tape: whether each action that a player meant was pulled, how late, and what pulled
//! instead.
//!
//! ```text
//!   meant ──250 ms before ... 2 s after──▶ pulls of that seat; a pull answers one line only
//! ```

use std::collections::{BTreeMap, HashMap, HashSet, VecDeque};
use std::io::Write;

use anyhow::Result;
use serde::Serialize;
use tidy_lever::seat::Swallowed;
use tidy_lever::tape::{Line, LineKind};
use tidy_lever::{Attempt, Happening, Linkage, Seat, What};

use crate::paint::{FAINT, NAME, in_style, rated};
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
        let LineKind::Meant(name) = &line.kind else { return };
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
        let mut used: HashSet<(u32, u64, &str)> = HashSet::new();
        // The moment of each one's next line, seat by seat.
        let (mut next, mut following) = (vec![u64::MAX; self.all.len()], BTreeMap::new());
        for (place, meant) in self.all.iter().enumerate().rev() {
            next[place] = following.insert(meant.seat, meant.at).unwrap_or(u64::MAX);
        }
        let mut scores = Vec::new();
        for (place, meant) in self.all.iter().enumerate() {
            let until = next[place];
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

/// A score as a line for programs.
#[derive(Debug, Serialize)]
pub(crate) struct Told<'s> {
    at: u64,
    #[serde(skip_serializing_if = "Option::is_none")]
    seat: Option<u32>,
    meant: &'s str,
    found: bool,
    #[serde(skip_serializing_if = "Option::is_none")]
    late: Option<i64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    known: Option<bool>,
    #[serde(skip_serializing_if = "<[String]>::is_empty")]
    instead: &'s [String],
    #[serde(skip_serializing_if = "Option::is_none")]
    closest: Option<String>,
}

impl Score {
    /// One line for programs.
    pub(crate) fn told(&self, closest: Option<String>) -> Told<'_> {
        Told {
            at: self.at,
            seat: (self.seat != 1).then_some(self.seat),
            meant: &self.name,
            found: self.late.is_some(),
            late: self.late,
            known: (self.late.is_none() && !self.known).then_some(false),
            instead: &self.instead,
            closest,
        }
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
    let share = lates.len() as f64 / known.len().max(1) as f64;
    write!(out, "meant: {}", rated(share, format!("{} of {} found", lates.len(), known.len())))?;
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
    /// The first line of a moment and a seat that means an action: lines of the same three tell the same story.
    firsts: HashMap<(u64, u32, String), usize>,
    /// Attempts that ended a moment ago: a line may come after them.
    lately: VecDeque<(u32, Attempt)>,
}

impl Closest {
    pub(crate) fn line(&mut self, line: &Line, linkage: &Linkage) {
        if let LineKind::Meant(name) = &line.kind {
            let (at, seat) = (line.at.as_micros(), line.seat);
            self.firsts.entry((at, seat, name.clone())).or_insert(self.lines.len());
            self.lines.push((at, seat, name.clone(), None));
            for (seat, attempt) in &self.lately {
                fit(&mut self.lines, *seat, attempt, linkage);
            }
        }
    }

    /// An attempt ended: it may be the closest of the lines around it.
    pub(crate) fn look(&mut self, seat: u32, attempt: &Attempt, linkage: &Linkage) {
        if self.lately.len() == MOST_LISTED {
            self.lately.pop_front();
        }
        self.lately.push_back((seat, *attempt));
        fit(&mut self.lines, seat, attempt, linkage);
    }

    /// The story of the attempt that came closest to what a line meant.
    pub(crate) fn story(&self, score: &Score, linkage: &Linkage) -> Option<String> {
        let first = self.firsts.get(&(score.at, score.seat, score.name.clone()))?;
        self.lines[*first].3.as_ref().filter(|_| score.late.is_none())?.story(linkage)
    }
}

/// An attempt may be the closest of the line that lies nearest to it.
fn fit(lines: &mut [(u64, u32, String, Option<Attempt>)], seat: u32, attempt: &Attempt, linkage: &Linkage) {
    if attempt.pulled() {
        return;
    }
    let (began, ended) = (attempt.began().as_micros(), attempt.ended().as_micros());
    let action = attempt.action(linkage).unwrap_or_default();
    let far = |at: u64| began.saturating_sub(at).max(at.saturating_sub(ended));
    let near = lines.iter_mut().rev().take(MOST_LISTED).filter(|(at, ..)| far(*at) <= AFTER);
    let own = near.filter(|(_, of, name, _)| *of == seat && name == action);
    if let Some((.., best)) = own.min_by_key(|(at, ..)| far(*at)) {
        let better = best.as_ref().is_none_or(|best| attempt.distance(linkage) < best.distance(linkage));
        *best = if better { Some(*attempt) } else { best.take() };
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

    fn swallowed(&mut self, seat: u32, swallowed: &Swallowed) -> Result<()> {
        self.inner.swallowed(seat, swallowed)
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
