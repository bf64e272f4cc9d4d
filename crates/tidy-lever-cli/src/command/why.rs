//! `why PROFILE TAPE`: each attempt's story, near misses first.

use std::cmp::Ordering;
use std::collections::{BinaryHeap, HashMap};
use std::io::Write;
use std::path::{Path, PathBuf};
use std::time::Duration;

use anyhow::{Result, bail};
use tidy_lever::ledger::Outcome;
use tidy_lever::seat::Swallowed;
use tidy_lever::tape::Line;
use tidy_lever::{Attempt, Linkage, Seat};

use crate::Answer;
use crate::arguments::Why;
use crate::attempts::{NEAR, ROOM, Seen};
use crate::input::{self, Laid};
use crate::meant::{self, Closest, Meants, Score, Scored};
use crate::out::{Out, each};
use crate::paint::{self, FAINT, GOOD, HEAD, WARN, in_style};
use crate::rough::{Rough, RoughLines};
use crate::run::{Cuts, Relinks, SWALLOWED, Watcher, play};
use crate::story::{Told, print};
use crate::swallowed::SwallowedLine;
use crate::view::notes;

/// How far around a moment `--at` looks, in µs.
const AROUND: u64 = 250_000;
/// The most stories that are told to people at once.
const MOST: usize = 30;

/// The most stories of one sort that are kept for `--all`: a tape of any length fits into memory.
const MOST_KEPT: usize = 20_000;

/// What is asked for.
#[derive(Clone, Copy)]
struct Asked<'a> {
    arguments: &'a Why,
    /// Only this action.
    action: Option<&'a str>,
}

/// Looks at attempts as they end: those that are asked for are told at once, or kept as far as they will be told.
struct Attempts<'a> {
    linkage: &'a Linkage,
    asked: Asked<'a>,
    out: &'a mut Out,
    kept: Kept,
    seen: Seen,
    lost: u64,
    meant: Closest,
    rough: RoughLines,
}

/// What will be told to people: near misses by their margin, the smallest; the first of the others; how many there were.
#[derive(Default)]
struct Kept {
    most: usize,
    nears: BinaryHeap<Near>,
    misses: Vec<(u32, Attempt)>,
    pulls: Vec<(u32, Attempt)>,
    counts: [usize; 3],
    slight: usize,
    /// How much guards kept from being heard, and the first of it.
    swallowed: (usize, Option<Swallowed>),
    /// What attempts hang on, by seat and number.
    rough: HashMap<(u32, u64), Rough>,
}

/// A near miss, in the order of its margin, then of its coming.
struct Near {
    by: Duration,
    number: usize,
    seat: u32,
    attempt: Attempt,
}

impl Near {
    fn key(&self) -> (Duration, usize) {
        (self.by, self.number)
    }
}

impl PartialEq for Near {
    fn eq(&self, other: &Near) -> bool {
        self.key() == other.key()
    }
}

impl Eq for Near {}

impl PartialOrd for Near {
    fn partial_cmp(&self, other: &Near) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl Ord for Near {
    fn cmp(&self, other: &Near) -> Ordering {
        self.key().cmp(&other.key())
    }
}

impl Attempts<'_> {
    fn look(&mut self, seat: u32, now: &Seat) -> Result<()> {
        let (ended, lost) = self.seen.look(seat, now);
        self.lost += lost;
        let ended = ended.inspect(|attempt| self.meant.look(seat, attempt, self.linkage));
        for attempt in ended.filter(|attempt| is_asked_for(attempt, self.asked, self.linkage)) {
            let rough = self.rough.under(seat, attempt, self.linkage);
            if !self.asked.arguments.json {
                if let Some(rough) = rough {
                    self.kept.rough.insert((seat, attempt.number()), rough);
                }
                self.kept.take(seat, attempt, self.asked, self.linkage);
                continue;
            }
            self.out.json(&Told::of(seat, attempt, rough, now.linkage()))?;
        }
        Ok(())
    }
}

impl Kept {
    fn take(&mut self, seat: u32, attempt: &Attempt, asked: Asked<'_>, linkage: &Linkage) {
        let is_near = |by: &Duration| by.as_micros() <= NEAR || asked.arguments.missed_by.is_some();
        let near = attempt.missed_by().filter(|by| !attempt.pulled() && is_near(by));
        let sort = match near {
            _ if attempt.pulled() => 2,
            Some(_) => 0,
            None if !is_asked(asked) && is_slight(attempt, linkage) => {
                self.slight += 1;
                return;
            }
            None => 1,
        };
        let number = self.counts[sort];
        self.counts[sort] += 1;
        match (sort, near) {
            (0, Some(by)) => {
                self.nears.push(Near { by, number, seat, attempt: *attempt });
                if self.nears.len() > self.most {
                    self.nears.pop();
                }
            }
            (1, _) if self.misses.len() < self.most => self.misses.push((seat, *attempt)),
            (2, _) if self.pulls.len() < self.most && is_asked(asked) => self.pulls.push((seat, *attempt)),
            _ => {}
        }
    }
}

impl Watcher for Attempts<'_> {
    fn swallowed(&mut self, seat: u32, swallowed: &Swallowed) -> Result<()> {
        if self.asked.arguments.json {
            return Ok(self.out.json(&SwallowedLine::of(seat, swallowed))?);
        }
        self.kept.swallowed.0 += 1;
        self.kept.swallowed.1.get_or_insert(*swallowed);
        Ok(())
    }

    fn line(&mut self, line: &Line) {
        self.meant.line(line, self.linkage);
        self.rough.line(line);
    }

    fn seated(&mut self, seat: &mut Seat) {
        seat.keep_ledger(ROOM);
        seat.keep_swallowed(SWALLOWED);
    }

    fn played(&mut self, seat: u32, now: &Seat) -> Result<()> {
        self.look(seat, now)
    }

    fn ended(&mut self, seat: u32, now: &Seat) -> Result<()> {
        self.look(seat, now)
    }
}

/// Whether more is asked for than the near misses and what may have been meant.
fn is_asked(Asked { arguments, action }: Asked<'_>) -> bool {
    arguments.all || action.is_some() || arguments.at.is_some()
}

pub(crate) fn run(arguments: &Why) -> Result<Answer> {
    let laid = input::overlaid(&arguments.profile, arguments.remap.as_deref())?;
    let (tapes, action) = read(&arguments.words, &laid.linkage)?;
    input::only_one_is_standard(std::iter::once(&arguments.profile).chain(tapes))?;
    let (asked, how) = (Asked { arguments, action }, (arguments.jobs, arguments.json));
    each(tapes, how, &mut Out::screen(), |tape, out| one(asked, &laid, tape, out))
}

/// Writes the attempts of a tape that missed, a line each for programs.
pub(crate) fn on(out: &mut Out, laid: &Laid, tape: &Path) -> Result<()> {
    let arguments = Why {
        profile: PathBuf::new(),
        words: Vec::new(),
        remap: None,
        missed_by: None,
        at: None,
        all: false,
        json: true,
        jobs: None,
    };
    one(Asked { arguments: &arguments, action: None }, laid, tape, out).map(drop)
}

/// The tapes, and the action that may come after them.
fn read<'w>(words: &'w [PathBuf], linkage: &Linkage) -> Result<(&'w [PathBuf], Option<&'w str>)> {
    let Some((last, tapes @ [_, ..])) = words.split_last() else { return Ok((words, None)) };
    let word = last.to_str().unwrap_or_default();
    if linkage.action(word).is_some() {
        return Ok((tapes, Some(word)));
    }
    if last.exists() || word == "-" {
        return Ok((words, None));
    }
    let missing = linkage.find::<tidy_lever::Button>(word).err();
    let missing = missing.map_or(format!("the profile has no `{word}`"), |missing| missing.to_string());
    bail!("{missing}{} There is no tape of that name, either", if missing.ends_with('?') { "" } else { "." })
}

fn one(asked: Asked<'_>, laid: &Laid, tape: &Path, out: &mut Out) -> Result<Answer> {
    let Asked { arguments, action } = asked;
    let (linkage, name) = (&laid.linkage, input::name(tape));
    let kept = Kept { most: if arguments.all { MOST_KEPT } else { MOST }, ..Kept::default() };
    let (seen, meant) = (Seen::default(), Closest::default());
    let mut attempts =
        Attempts { linkage, asked, out: &mut *out, kept, seen, lost: 0, meant, rough: RoughLines::default() };
    let mut meants = Meants::default();
    let mut scored = Scored { inner: &mut attempts, meants: &mut meants, linkage };
    let relinks = Relinks::of(laid, tape);
    let cuts = Cuts { relinks: Some(&relinks), ..Cuts::default() };
    let played = play(linkage, input::open(tape)?, &name, cuts, &mut scored)?;
    let Attempts { kept, lost, meant, .. } = attempts;
    let of = |score: &Score| action.is_none_or(|action| action == score.name);
    let scores: Vec<Score> = meants.scores(linkage).into_iter().filter(|score| score.known && of(score)).collect();
    let closest = |score: &Score| meant.story(score, linkage);
    if arguments.json {
        for score in &scores {
            out.json(&score.told(closest(score)))?;
        }
    }
    out.flush()?;
    for note in notes(&name, &played) {
        paint::note(note);
    }
    if lost > 0 {
        paint::note(format!("{lost} attempts ended too fast to be kept and are missing here"));
    }
    if !arguments.json {
        meant::print(out, &scores, closest)?;
        if !scores.is_empty() {
            writeln!(out)?;
        }
        tell(out, linkage, kept, asked)?;
    }
    Ok(Answer::Yes)
}

fn is_asked_for(attempt: &Attempt, Asked { arguments, action }: Asked<'_>, linkage: &Linkage) -> bool {
    let of = action.is_none_or(|action| attempt.action(linkage) == Some(action));
    let near = arguments.missed_by.is_none_or(|most| attempt.missed_by().is_some_and(|by| by <= most));
    let then = arguments.at.is_none_or(|at| {
        let at = at.as_micros() as u64;
        let (from, to) = (attempt.began().as_micros(), attempt.ended().as_micros());
        from.saturating_sub(AROUND) <= at && at <= to + AROUND
    });
    of && near && then
}

/// Whether it looks unintended: of several steps one came, or less than half, as in walking about; or what came was late by more
/// than the whole window; or a tap was held, and a hold tapped, by far.
fn is_slight(attempt: &Attempt, linkage: &Linkage) -> bool {
    let Some(outcome) = attempt.outcome(linkage) else { return true };
    if matches!(outcome, Outcome::Outranked { .. } | Outcome::Served { .. }) {
        // Its press did something else.
        return true;
    }
    let spoiled = matches!(outcome, Outcome::WrongWay(_) | Outcome::WrongPress(_) | Outcome::TooLate { .. });
    let right = attempt.steps(linkage).count() - usize::from(spoiled);
    let window = attempt.window(linkage).map(|(from, to)| to - from);
    match attempt.missed_by() {
        Some(by) => window.is_some_and(|window| attempt.of() == 1 || by > window),
        None => attempt.of() > 1 && (right < 2 || 2 * right < attempt.of()),
    }
}

/// Tells people: near misses by their margin, then other misses, then what pulled.
fn tell(out: &mut impl Write, linkage: &Linkage, kept: Kept, what: Asked<'_>) -> Result<()> {
    let (asked, arguments) = (is_asked(what), what.arguments);
    let Kept { nears, misses, pulls, counts: [near_count, miss_count, pull_count], slight, swallowed, rough, .. } =
        kept;
    let count = |n: usize, one: &str, many: &str| if n == 1 { format!("1 {one}") } else { format!("{n} {many}") };
    writeln!(
        out,
        "{}, {}, {}",
        in_style(if near_count > 0 { WARN } else { HEAD }, count(near_count, "near miss", "near misses")),
        count(miss_count, "other miss", "other misses"),
        in_style(GOOD, count(pull_count, "pull", "pulls")),
    )?;
    // In order of time, but for the near ones.
    let by_time = |mut attempts: Vec<(u32, Attempt)>| {
        attempts.sort_by_key(|(seat, attempt)| (attempt.began(), attempt.ended(), *seat));
        attempts
    };
    let nears = nears.into_sorted_vec().into_iter().map(|near| (near.seat, near.attempt));
    let told = nears.chain(by_time(misses)).chain(by_time(pulls));
    let most = if arguments.all { usize::MAX } else { MOST };
    let mut printed = 0;
    for (seat, attempt) in told.take(most) {
        writeln!(out)?;
        print(out, seat, &attempt, rough.get(&(seat, attempt.number())).copied(), linkage)?;
        printed += 1;
    }
    let left = near_count + miss_count + if asked { pull_count } else { 0 } - printed;
    writeln!(out)?;
    let mut hints = Vec::new();
    if left > 0 {
        hints.push(format!(
            "{}; name an action, or a moment with --at 12.3s, to see them",
            count(left, "more story is hidden", "more stories are hidden")
        ));
    }
    if slight > 0 {
        hints.push(format!(
            "{}; --all shows them",
            count(slight, "attempt that looks unintended is hidden", "attempts that look unintended are hidden")
        ));
    }
    if pull_count > 0 && !asked {
        hints.push("name an action to see its pulls as well".to_owned());
    }
    if let (number, Some(first)) = swallowed {
        let at = first.from.as_micros() as f64 / 1e6;
        let more = if number > 1 { format!(", and {} more", number - 1) } else { String::new() };
        hints.push(format!("not heard, as [devices] says: {first} at {at:.3} s{more}; `play --all` lists them"));
    }
    for hint in hints {
        writeln!(out, "{}", in_style(FAINT, hint))?;
    }
    Ok(())
}
