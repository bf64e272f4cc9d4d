//! `why PROFILE TAPE`: each attempt's story, near misses first.

use std::io::Write;

use anyhow::{Result, bail};
use tidy_lever::ledger::Outcome;
use tidy_lever::{Attempt, Linkage, Reading, Seat};

use crate::Answer;
use crate::arguments::Why;
use crate::attempts::{NEAR, ROOM, Seen};
use crate::input;
use crate::paint::{FAINT, GOOD, HEAD, WARN, in_style};
use crate::run::{Cuts, Remaps, Watcher, play};
use crate::story::{print, to_json};
use crate::view::notes;

/// How far around a moment `--at` looks, in µs.
const AROUND: u64 = 250_000;
/// The most stories that are told to people at once.
const MOST: usize = 30;

/// Gathers attempts as they end.
struct Attempts {
    all: Vec<(u32, Attempt)>,
    seen: Seen,
    lost: u64,
}

impl Attempts {
    fn look(&mut self, seat: u32, now: &Seat) {
        let (ended, lost) = self.seen.look(seat, now);
        self.all.extend(ended.map(|attempt| (seat, *attempt)));
        self.lost += lost;
    }
}

impl Watcher for Attempts {
    fn seated(&mut self, seat: &mut Seat) {
        seat.keep_ledger(ROOM);
    }

    fn played(&mut self, seat: u32, _: Reading<'_>, now: &Seat) -> Result<()> {
        self.look(seat, now);
        Ok(())
    }

    fn ended(&mut self, seat: u32, now: &Seat) -> Result<()> {
        self.look(seat, now);
        Ok(())
    }
}

pub(crate) fn run(arguments: &Why) -> Result<Answer> {
    let (profile, linkage) = input::overlaid(&arguments.profile, arguments.remap.as_deref())?;
    if let Some(action) = &arguments.action
        && linkage.action(action).is_none()
    {
        let missing = linkage.find::<tidy_lever::Button>(action).err();
        bail!("{}", missing.map_or(String::new(), |missing| missing.to_string()));
    }
    let name = input::name(&arguments.tape);
    let mut attempts = Attempts { all: Vec::new(), seen: Seen::default(), lost: 0 };
    let remaps = Remaps::of(profile, &arguments.tape);
    let cuts = Cuts { remaps: Some(&remaps), ..Cuts::default() };
    let played = play(&linkage, input::open(&arguments.tape)?, &name, cuts, &mut attempts)?;
    for note in notes(&name, &played) {
        anstream::eprintln!("{} {note}", in_style(WARN, "note:"));
    }
    if attempts.lost > 0 {
        anstream::eprintln!("{} {} attempts came too thick to be kept", in_style(WARN, "note:"), attempts.lost);
    }
    let mut chosen: Vec<(u32, Attempt)> = attempts.all;
    chosen.retain(|(_, attempt)| is_asked_for(attempt, arguments, &linkage));
    chosen.sort_by_key(|(seat, attempt)| (attempt.began(), attempt.ended(), *seat));
    let mut out = anstream::stdout().lock();
    if arguments.json {
        for (seat, attempt) in &chosen {
            writeln!(out, "{}", to_json(*seat, attempt, &linkage))?;
        }
        return Ok(Answer::Yes);
    }
    tell(&mut out, &linkage, &chosen, arguments)?;
    Ok(Answer::Yes)
}

fn is_asked_for(attempt: &Attempt, arguments: &Why, linkage: &Linkage) -> bool {
    let of = arguments.action.as_ref().is_none_or(|action| attempt.action(linkage) == action);
    let near = arguments.missed_by.is_none_or(|most| attempt.missed_by().is_some_and(|by| by <= most));
    let then = arguments.at.is_none_or(|at| {
        let at = at.as_micros() as u64;
        let (from, to) = (attempt.began().as_micros(), attempt.ended().as_micros());
        from.saturating_sub(AROUND) <= at && at <= to + AROUND
    });
    of && near && then
}

/// Whether it was hardly meant: of several steps one came, or less than half, as in walking about; or what came was late by more
/// than the whole window; or a tap was held, and a hold tapped, by far.
fn is_slight(attempt: &Attempt, linkage: &Linkage) -> bool {
    let outcome = attempt.outcome(linkage);
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
fn tell(out: &mut impl Write, linkage: &Linkage, chosen: &[(u32, Attempt)], arguments: &Why) -> Result<()> {
    let asked = arguments.all || arguments.action.is_some() || arguments.at.is_some();
    let near =
        |attempt: &Attempt| attempt.missed_by().filter(|by| by.as_micros() <= NEAR || arguments.missed_by.is_some());
    let (mut nears, mut misses, mut pulls, mut slight) = (Vec::new(), Vec::new(), Vec::new(), 0);
    for entry in chosen {
        match &entry.1 {
            attempt if attempt.pulled() => pulls.push(entry),
            attempt if near(attempt).is_some() => nears.push(entry),
            attempt if !asked && is_slight(attempt, linkage) => slight += 1,
            _ => misses.push(entry),
        }
    }
    nears.sort_by_key(|(_, attempt)| attempt.missed_by());
    let (near_count, miss_count, pull_count) = (nears.len(), misses.len(), pulls.len());
    let count = |n: usize, one: &str, many: &str| if n == 1 { format!("1 {one}") } else { format!("{n} {many}") };
    writeln!(
        out,
        "{}, {}, {}",
        in_style(if near_count > 0 { WARN } else { HEAD }, count(near_count, "near miss", "near misses")),
        count(miss_count, "other miss", "other misses"),
        in_style(GOOD, count(pull_count, "pull", "pulls")),
    )?;
    let told: Vec<_> = nears.into_iter().chain(misses).chain(pulls.into_iter().filter(|_| asked)).collect();
    let most = if arguments.all { usize::MAX } else { MOST };
    for (seat, attempt) in told.iter().take(most) {
        writeln!(out)?;
        print(out, *seat, attempt, linkage)?;
    }
    let left = told.len().saturating_sub(most);
    writeln!(out)?;
    let mut hints = Vec::new();
    if left > 0 {
        hints.push(format!("{left} more stories are left out: name an action, or a moment by --at 12.3s"));
    }
    if slight > 0 {
        hints.push(format!("{slight} were hardly meant, over at their first step or far off: --all shows them"));
    }
    if pull_count > 0 && !asked {
        hints.push("pulls are told when an action is named".to_owned());
    }
    for hint in hints {
        writeln!(out, "{}", in_style(FAINT, hint))?;
    }
    Ok(())
}
