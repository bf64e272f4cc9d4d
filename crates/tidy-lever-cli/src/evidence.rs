//! What players meant, as their tapes tell it, and what pulls when they play.
//!
//! ```text
//!   meant lines of the action ─┐
//!   its pulls as recorded ─────┼─▶ wanted moments ─▶ matched with the pulls of another profile: found, let in
//!   (probably: failed, ────────┘   (not those beside another action's meant line)
//!    repeated at once)
//! ```

use std::collections::{BTreeMap, BTreeSet};
use std::io::BufRead;
use std::path::Path;
use std::time::Duration;

use anyhow::{Context, Result};
use rayon::prelude::*;
use tidy_lever::seat::Capacity;
use tidy_lever::tape::{Line, LineKind, Replayer as Playback};
use tidy_lever::{Attempt, Bookmark, Happening, Linkage, Moment, Seat, What};
use tidy_lever_tuning::{Answer, Answering};

use crate::attempts::{ROOM, Seen};
use crate::input;
use crate::lines::Tape;
use crate::paint;
use crate::ready_tape::ReadyTape;
use crate::run::{Cuts, Watcher, play_lines};
use crate::values::Pulls;
use crate::view::notes;

/// A pull answers a wanted moment from this long before it to this long after it, in µs.
const BEFORE: u64 = 250_000;
const AFTER: u64 = 2_000_000;
/// Where an attempt has no window, it was near by so much.
const NEAR: Duration = Duration::from_millis(250);
/// A failed attempt that is followed by another one of the action within this was probably meant, in µs.
const AT_ONCE: u64 = 1_500_000;

/// One player's tape.
#[derive(Debug)]
pub(crate) struct Player {
    /// The tape's name.
    pub(crate) name: String,
    tape: Tape,
    /// `meant` lines, in order: when, which seat, which action.
    meant: Vec<(u64, u32, String)>,
    /// The facts that it tells.
    facts: BTreeSet<String>,
    /// What answers its pulls instead of facts of its own.
    pub(crate) answers: Vec<Answer>,
}

impl Player {
    pub(crate) fn read(path: &Path) -> Result<Player> {
        Player::of(input::open(path)?, &input::name(path))
    }

    /// The same from any input.
    pub(crate) fn of(tape: impl BufRead, name: &str) -> Result<Player> {
        let (mut meant, mut facts) = (Vec::new(), BTreeSet::new());
        let tape = Tape::read(tape, name)?;
        for (_, Line { at, seat, kind: said, .. }) in &tape.lines {
            match said {
                LineKind::Meant(action) => meant.push((at.as_micros(), *seat, action.clone())),
                LineKind::Fact { fact, .. } if !facts.contains(fact) => drop(facts.insert(fact.clone())),
                _ => {}
            }
        }
        meant.sort();
        Ok(Player { name: name.to_owned(), tape, meant, facts, answers: Vec::new() })
    }

    /// The `meant` lines of a seat from a moment to another, both included, with the action that each names.
    fn meant_in(&self, seat: u32, from: u64, to: u64) -> impl Iterator<Item = &str> {
        let first = self.meant.partition_point(|(at, ..)| *at < from);
        let own = self.meant[first..].iter().take_while(move |(at, ..)| *at <= to);
        own.filter(move |(_, of, _)| *of == seat).map(|(.., action)| action.as_str())
    }

    /// Answers its pulls: with all of these if they `replace` the facts that the tape recorded, otherwise with those for facts
    /// that it does not tell.
    pub(crate) fn answered(&mut self, answers: &[Answer], replace: bool) {
        let wanted = answers.iter().filter(|answer| replace || !self.facts.contains(&answer.fact));
        self.answers = wanted.cloned().collect();
    }
}

/// The players' tapes.
#[derive(Debug)]
pub(crate) struct Evidence {
    pub(crate) players: Vec<Player>,
}

/// What a tape does on a profile.
#[derive(Debug, Default)]
pub(crate) struct Played {
    /// When, which seat, which action.
    pulls: Vec<(u64, u32, String)>,
    attempts: Vec<(u32, Attempt)>,
    seen: Seen,
    with_ledger: bool,
    /// The one action whose pulls are kept; all of them without.
    only: Option<String>,
    linkage: Option<Linkage>,
}

impl Played {
    /// The pulls of an action, in order.
    pub(crate) fn pulls_of<'p>(&'p self, action: &'p str) -> impl Iterator<Item = (u64, u32)> + 'p {
        self.pulls.iter().filter(move |(.., name)| name == action).map(|(at, seat, _)| (*at, *seat))
    }

    fn pull(&mut self, seat: u32, happening: &Happening, linkage: &Linkage) {
        if happening.what() == What::Pulled {
            let name = happening.action(linkage).unwrap_or_default();
            if self.only.as_deref().is_none_or(|only| only == name) {
                self.pulls.push((happening.at().as_micros(), seat, name.to_owned()));
            }
        }
    }

    fn look(&mut self, seat: u32, now: &Seat) {
        let (ended, _) = self.seen.look(seat, now);
        self.attempts.extend(ended.map(|attempt| (seat, *attempt)));
    }
}

impl Watcher for Played {
    fn seated(&mut self, seat: &mut Seat) {
        self.linkage = Some(seat.linkage().clone());
        if self.with_ledger {
            seat.keep_ledger(ROOM);
        }
    }

    fn happened(&mut self, seat: u32, happening: &Happening, now: &Seat) -> Result<()> {
        self.pull(seat, happening, now.linkage());
        Ok(())
    }

    fn played(&mut self, seat: u32, now: &Seat) -> Result<()> {
        if self.with_ledger {
            self.look(seat, now);
        }
        Ok(())
    }

    fn ended(&mut self, seat: u32, now: &Seat) -> Result<()> {
        if self.with_ledger {
            self.look(seat, now);
        }
        Ok(())
    }
}

impl Evidence {
    /// Plays all tapes on a profile, for the pulls and attempts of all actions.
    pub(crate) fn play(&self, linkage: &Linkage) -> Result<Vec<Played>> {
        let all = self.players.par_iter().map(|player| self.play_one(player, linkage, None));
        let all: Vec<(Played, Vec<String>)> = all.collect::<Result<_>>()?;
        // In the order of the tapes.
        let (played, told): (Vec<Played>, Vec<Vec<String>>) = all.into_iter().unzip();
        told.into_iter().flatten().for_each(paint::note);
        Ok(played)
    }

    /// Plays one tape, for the pulls of one action alone, or for the pulls and attempts of all. Also returns notes on the tape.
    fn play_one(&self, player: &Player, linkage: &Linkage, only: Option<&str>) -> Result<(Played, Vec<String>)> {
        let mut played = Played { with_ledger: only.is_none(), only: only.map(str::to_owned), ..Played::default() };
        if player.answers.is_empty() {
            let (lines, cuts) = (player.tape.again(), Cuts::default());
            let told = play_lines(linkage, lines, &player.name, cuts, &mut played)?;
            return Ok((played, notes(&player.name, &told)));
        }
        self.simulate(linkage, player, &mut played)?;
        let name = &player.name;
        let cut = player.tape.cut_at;
        let told = cut.map(|line| format!("{name} is cut off: its end is missing at line {line}; played up to there"));
        Ok((played, told.into_iter().collect()))
    }

    /// Plays a tape without the facts that answers tell, and answers each pull instead.
    fn simulate(&self, linkage: &Linkage, player: &Player, played: &mut Played) -> Result<()> {
        struct Seated {
            number: u32,
            seat: Seat,
            bookmark: Bookmark,
            answering: Answering,
            playback: Playback,
        }
        let mut seats: Vec<Seated> = Vec::new();
        let header = &player.tape.header;
        let room = Capacity::default().waiting(1 << 14).devices(64);
        let answered = |fact: &str| player.answers.iter().any(|answer| answer.fact == fact);
        let mut last = Moment::ZERO;
        for (_, line) in &player.tape.lines {
            last = last.max(line.at);
            if matches!(&line.kind, LineKind::Fact { fact, .. } if answered(fact)) {
                continue;
            }
            if !seats.iter().any(|seated| seated.number == line.seat) {
                let mut seat = linkage.seat_with(Moment::ZERO, room)?;
                played.seated(&mut seat);
                let bookmark = seat.bookmark();
                let answering = Answering::new(player.answers.clone());
                let playback = Playback::new(header).for_seat(line.seat);
                seats.push(Seated { number: line.seat, seat, bookmark, answering, playback });
            }
            for seated in seats.iter_mut().filter(|seated| seated.number == line.seat) {
                let Seated { number, seat, bookmark, answering, playback } = seated;
                let before = Moment::from_micros(line.at.as_micros().saturating_sub(1));
                // What lies in a gap is taken over at its end.
                if !matches!(line.kind, LineKind::Skip { .. }) {
                    answering.advance_seat(seat, bookmark, before, |_| {}, |one| played.pull(*number, one, linkage));
                }
                playback.put(line, seat).with_context(|| player.name.clone())?;
                if played.with_ledger {
                    played.look(*number, seat);
                }
            }
        }
        for Seated { number, mut seat, mut bookmark, mut answering, .. } in seats {
            answering.advance_seat(&mut seat, &mut bookmark, last, |_| {}, |one| played.pull(number, one, linkage));
            seat.close_ledger();
            if played.with_ledger {
                played.look(number, &seat);
            }
        }
        Ok(())
    }

    /// Prepares the tapes for being played with many values.
    ///
    /// # Errors
    /// A line names what isn't there.
    pub(crate) fn ready(&self, linkage: &Linkage) -> Result<ReadyTapes<'_>> {
        // Where pulls are answered, each decides what is told after it.
        let plain = |player: &Player| player.answers.is_empty();
        let ready = self
            .players
            .iter()
            .map(|player| if plain(player) { ReadyTape::of(&player.tape, &player.name, linkage) } else { Ok(None) });
        Ok(ReadyTapes { evidence: self, ready: ready.collect::<Result<_>>()? })
    }

    /// What was wanted of an action, by player.
    pub(crate) fn wanted(&self, now: &[Played], action: &str, probably: bool) -> Vec<Wanted> {
        self.players
            .iter()
            .zip(now)
            .map(|(player, played)| {
                let own = player.meant.iter().filter(|(.., name)| name == action);
                let own = own.map(|(at, seat, _)| One { at: *at, seat: *seat, until: *at + AFTER });
                let mut wanted = Wanted { at: own.collect(), marked: 0 };
                if probably {
                    let failed = played.probable().into_iter().filter(|(_, _, attempt)| {
                        played.linkage.as_ref().is_some_and(|linkage| attempt.action(linkage) == Some(action))
                    });
                    let mut known: BTreeSet<(u32, u64)> = wanted.at.iter().map(|own| (own.seat, own.at)).collect();
                    for (seat, at, _) in failed {
                        let near = (seat, (at + 1).saturating_sub(BEFORE))..(seat, at + BEFORE);
                        if known.range(near).next().is_none() {
                            known.insert((seat, at));
                            // What pulls later answers the repetition.
                            wanted.at.push(One { at, seat, until: at + BEFORE });
                        }
                    }
                }
                wanted.marked = wanted.at.len();
                wanted.at.sort_unstable();
                // What pulled in the game and answers no line was meant, too, unless another action was.
                let mut free: Vec<(u64, u32)> = wanted.unmatched(played.pulls_of(action));
                free.retain(|(at, seat)| {
                    let near = player.meant_in(*seat, at.saturating_sub(AFTER), at + BEFORE);
                    { near }.all(|name| name == action)
                });
                wanted.at.extend(free.into_iter().map(|(at, seat)| One { at, seat, until: at + AFTER }));
                wanted.at.sort_unstable();
                wanted
            })
            .collect()
    }

    /// Attempts that failed and were repeated at once, beside no `meant` line: player, action, when, and the story.
    pub(crate) fn probable(
        &self,
        now: &[Played],
        linkage: &Linkage,
        only: Option<&str>,
    ) -> Vec<(usize, String, u64, String)> {
        let mut all = Vec::new();
        for (number, (player, played)) in self.players.iter().zip(now).enumerate() {
            for (seat, at, attempt) in played.probable() {
                let Some(action) = attempt.action(linkage) else { continue };
                let near = player.meant_in(seat, at.saturating_sub(BEFORE), at + AFTER);
                let is_marked = { near }.any(|name| name == action);
                if only.is_none_or(|only| only == action) && !is_marked {
                    let story = attempt.story(linkage).unwrap_or_default();
                    all.push((number, action.to_owned(), at, story));
                }
            }
        }
        all
    }
}

impl Played {
    /// Attempts that failed for one reason alone, and were followed at once by another one: seat, when, and the attempt.
    fn probable(&self) -> Vec<(u32, u64, Attempt)> {
        let Some(linkage) = &self.linkage else { return Vec::new() };
        // What may be such a repetition: whose, and when it began.
        let mut again: Vec<(u32, Option<&str>, u64)> = Vec::new();
        for (seat, other) in &self.attempts {
            if other.pulled() || other.steps(linkage).nth(1).is_some() {
                again.push((*seat, other.action(linkage), other.began().as_micros()));
            }
        }
        again.sort_unstable();
        let mut all = Vec::new();
        for (seat, attempt) in &self.attempts {
            // What missed by more than its whole window was something else.
            let window = attempt.window(linkage).map_or(NEAR, |(from, to)| to - from);
            if attempt.pulled()
                || attempt.missed_by().is_none_or(|by| by > window)
                || attempt.steps(linkage).nth(1).is_none()
            {
                continue;
            }
            let (ended, began) = (attempt.ended().as_micros(), attempt.began().as_micros());
            let own = (*seat, attempt.action(linkage), began);
            let next = again.get(again.partition_point(|other| *other <= own));
            let is_again = |(of, action, at): &(u32, Option<&str>, u64)| {
                (*of, *action) == (own.0, own.1) && *at <= ended + AT_ONCE
            };
            let last = attempt.steps(linkage).last().map_or(ended, |step| step.at.as_micros());
            if next.is_some_and(is_again) {
                all.push((*seat, last, *attempt));
            }
        }
        all
    }
}

/// The tapes, prepared for being played many times.
#[derive(Debug)]
pub(crate) struct ReadyTapes<'e> {
    evidence: &'e Evidence,
    /// `None` if pulls are answered, or if lines are out of order.
    pub(crate) ready: Vec<Option<ReadyTape<'e>>>,
}

impl ReadyTapes<'_> {
    /// When an action pulls, tape by tape, in order, and in which seat.
    pub(crate) fn pulls(&self, linkage: &Linkage, action: &str) -> Result<Pulls> {
        (0..self.ready.len()).map(|number| self.pulls_on(number, linkage, action)).collect()
    }

    /// The same on one tape.
    pub(crate) fn pulls_on(&self, number: usize, linkage: &Linkage, action: &str) -> Result<Vec<(u64, u32)>> {
        if let Some(ready) = &self.ready[number] {
            return ready.pulls_of(linkage, action, None);
        }
        let (played, _) = self.evidence.play_one(&self.evidence.players[number], linkage, Some(action))?;
        let mut pulls: Vec<_> = played.pulls_of(action).collect();
        pulls.sort_unstable();
        Ok(pulls)
    }
}

/// One moment at which an action was wanted, and until when a pull answers it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) struct One {
    at: u64,
    seat: u32,
    until: u64,
}

/// When an action was wanted, by one player, in order.
#[derive(Clone, Debug, Default)]
pub(crate) struct Wanted {
    pub(crate) at: Vec<One>,
    /// How many of these the tape says, or a failed attempt does; the others pulled.
    marked: usize,
}

impl Wanted {
    /// Whether the tape says anything about the action.
    pub(crate) fn is_marked(&self) -> bool {
        self.marked > 0
    }

    /// Which pulls answer what was wanted, each one moment: how late each is, in µs; and how many pulls answer none.
    pub(crate) fn match_with(&self, pulls: impl Iterator<Item = (u64, u32)>) -> (Vec<i64>, usize) {
        let mut unused = 0;
        let mut seats: BTreeMap<u32, (Vec<One>, Vec<u64>)> = BTreeMap::new();
        for own in &self.at {
            seats.entry(own.seat).or_default().0.push(*own);
        }
        for (pulled, seat) in pulls {
            seats.entry(seat).or_default().1.push(pulled);
        }
        // Where what was wanted stands among all of it: what is found comes in that order.
        let mut late: Vec<(One, i64)> = Vec::new();
        for (wanted, mut pulls) in seats.into_values() {
            pulls.sort_unstable();
            let mut first = 0;
            for (place, own) in wanted.iter().enumerate() {
                // What comes after the next wanted moment belongs to that one.
                let next = wanted.get(place + 1).map_or(u64::MAX, |next| next.at);
                let until = own.until.min(next.saturating_sub(1)).max(own.at);
                while pulls.get(first).is_some_and(|pulled| pulled + BEFORE < own.at) {
                    (first, unused) = (first + 1, unused + 1);
                }
                if let Some(pulled) = pulls.get(first).filter(|pulled| **pulled <= until) {
                    late.push((*own, *pulled as i64 - own.at as i64));
                    first += 1;
                }
            }
            unused += pulls.len() - first;
        }
        late.sort_unstable();
        (late.into_iter().map(|(_, late)| late).collect(), unused)
    }

    /// The pulls that answer nothing.
    fn unmatched(&self, pulls: impl Iterator<Item = (u64, u32)>) -> Vec<(u64, u32)> {
        let near = |(pulled, seat): &(u64, u32)| {
            let first = self.at.partition_point(|own| own.at + AFTER < *pulled);
            let own = self.at[first..].iter().take_while(|own| own.at <= pulled + BEFORE);
            { own }.any(|own| own.seat == *seat && *pulled <= own.until)
        };
        pulls.filter(|pull| !near(pull)).collect()
    }
}
