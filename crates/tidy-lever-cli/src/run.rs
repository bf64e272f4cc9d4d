//! Playing a tape through a linkage, seat by seat, cut into ticks as asked.

use std::borrow::Borrow;
use std::io::BufRead;
use std::path::{Path, PathBuf};
use std::time::Duration;

use anyhow::{Context, Result, anyhow, bail};
use tidy_lever::profile::Movable;
use tidy_lever::remap::Remap;
use tidy_lever::seat::{Capacity, CapacityError, FeedErrorKind, QueueUse, Stats, TellError};
use tidy_lever::tape::{Header, Line, LineKind, PutError, Reader, Replayer};
use tidy_lever::{Bookmark, Happening, Linkage, Moment, Seat};
use tidy_lever_files::beside;

use crate::input::{self, Laid};
use crate::lines::{Ahead, Lines};
use crate::paint;

/// Capacity for any human tape; it grows where more waits.
pub(crate) fn room() -> Capacity {
    Capacity::default().history(HISTORY).devices(64)
}

/// How many happenings are read at once: a seat stops for that when its history is half full.
pub(crate) const HISTORY: usize = 1_024;
/// As far as a seat's queue grows: a storm of 10,000 events in one moment still waits in it as a whole.
pub(crate) const MOST_WAITING: usize = 1 << 16;
/// Each event of a moment has room for so many happenings in the history.
const HAPPENINGS_PER_EVENT: usize = 4;

/// What a tape's seats are relinked by: the profile that plays, and where the files are that a tape names.
#[derive(Clone, Debug)]
pub(crate) struct Relinks {
    /// The profile's text, and what it says once a line asks for that; the player's file over it. As they stand.
    text: String,
    profile: Option<Movable>,
    remap: Remap,
    /// The tape's own folder.
    folder: PathBuf,
    /// Files that are at hand already, by name.
    pub(crate) shipped: Vec<(String, String)>,
}

impl Relinks {
    /// For a tape of this path.
    pub(crate) fn of(laid: &Laid, tape: &Path) -> Relinks {
        let folder = tape.parent().map(Path::to_owned).unwrap_or_default();
        let (text, remap) = (laid.text.clone(), laid.remap.clone());
        Relinks { text, profile: None, remap, folder, shipped: Vec::new() }
    }

    /// For a tape that is inside the command.
    pub(crate) fn inside(text: &str, shipped: Vec<(String, String)>) -> Relinks {
        Relinks { text: text.to_owned(), profile: None, remap: Remap::new(), folder: PathBuf::new(), shipped }
    }

    fn movable(&mut self) -> Result<&mut Movable> {
        let profile = match self.profile.take() {
            Some(profile) => profile,
            None => Movable::from_toml(&self.text)?,
        };
        Ok(self.profile.insert(profile))
    }

    /// A file that the tape names. Only a regular file of the tape's own folder is read, and nothing of it is shown: who made
    /// the tape need not be trusted.
    fn file(&self, sort: &str, file: &str) -> Result<String> {
        if let Some((_, text)) = self.shipped.iter().find(|(name, _)| name == file) {
            return Ok(text.clone());
        }
        let path = beside(&self.folder, file).map_err(|problem| anyhow!("the {sort} `{file}`: {problem}"))?;
        input::text(&path).map_err(|_| anyhow!("the {sort} `{file}` can't be read"))
    }

    /// What there is after a line: the linkage with it, where the line changes any.
    fn after(&mut self, said: &LineKind) -> Result<Option<Linkage>> {
        let told = match said {
            LineKind::Remap(file) => {
                let text = self.file("remap", file)?;
                self.remap = Remap::from_toml(&text).map_err(|_| anyhow!("the remap `{file}` is no player's file"))?;
                format!("the remap `{file}`")
            }
            LineKind::Profile(file) => {
                let text = self.file("profile", file)?;
                let broken = || anyhow!("the profile `{file}` has faults; check it with `tidy-lever check`");
                let profile = Movable::from_toml(&text).map_err(|_| broken())?;
                Linkage::build(profile.profile()).map_err(|_| broken())?;
                self.profile = Some(profile);
                format!("the profile `{file}`")
            }
            LineKind::Number { path, value } => {
                self.movable()?.set(path, value)?;
                format!("`{path} = {value}`")
            }
            _ => return Ok(None),
        };
        self.movable()?;
        let Some(profile) = &self.profile else { return Ok(None) };
        let laid = self.remap.over(profile.profile()).with_context(|| told.clone())?;
        // A number tells nothing of the player's file that was not told before.
        for fault in laid.left_alone.iter().filter(|_| !matches!(said, LineKind::Number { .. })) {
            paint::note(format!("{told}: {fault}"));
        }
        Ok(Some(laid.linkage))
    }
}

/// How time is cut.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Cuts<'r> {
    /// What a tape's relinks are done with; without, they are passed over.
    pub(crate) relinks: Option<&'r Relinks>,
    /// Ticks a second; without, each line of the tape is a tick.
    pub(crate) ticks: Option<u32>,
    /// Samples a second.
    pub(crate) sample: Option<u32>,
    /// Nothing behind this moment is played.
    pub(crate) until: Option<Moment>,
}

/// What wants to see a tape play.
pub(crate) trait Watcher {
    /// A line of the tape, before it is fed.
    fn line(&mut self, line: &Line) {
        let _ = line;
    }

    /// A seat takes its place, before anything plays in it.
    fn seated(&mut self, seat: &mut Seat) {
        let _ = seat;
    }

    /// After the end: what only waited for its story's end is in the ledger.
    fn ended(&mut self, seat: u32, now: &Seat) -> Result<()> {
        let _ = (seat, now);
        Ok(())
    }

    /// Something happened: in order of time, then of seat.
    fn happened(&mut self, seat: u32, happening: &Happening, now: &Seat) -> Result<()> {
        let _ = (seat, happening, now);
        Ok(())
    }

    /// After each advance, and what happened in it.
    fn played(&mut self, seat: u32, now: &Seat) -> Result<()> {
        let _ = (seat, now);
        Ok(())
    }

    /// At each sample.
    fn sampled(&mut self, seat: u32, now: &Seat) -> Result<()> {
        let _ = (seat, now);
        Ok(())
    }

    /// At the end of each tick, where ticks were asked for.
    fn ticked(&mut self, seat: u32, now: &Seat) -> Result<()> {
        let _ = (seat, now);
        Ok(())
    }
}

/// What there is to say of a tape once it is played.
#[derive(Clone, Debug)]
pub(crate) struct Played {
    pub(crate) header: Header,
    /// Lines behind the header.
    pub(crate) lines: u64,
    /// The moment of the end, or of the last line of a tape that was cut.
    pub(crate) end: Moment,
    /// The line where a cut tape's end is missing.
    pub(crate) cut: Option<u64>,
    /// The first line that came out of order.
    pub(crate) disordered: Option<u64>,
    pub(crate) stats: Stats,
}

struct Seated {
    number: u32,
    player: Replayer,
    seat: Seat,
    bookmark: Bookmark,
}

/// Moments at a rate, one after another.
struct Beat {
    rate: Option<u32>,
    tick: u64,
}

impl Beat {
    fn next(&self) -> Option<Moment> {
        self.rate.map(|rate| Moment::of_tick(self.tick, rate))
    }

    /// Those up to here, or before it, are passed over.
    fn pass(&mut self, to: Moment, inclusive: bool) {
        let Some(rate) = self.rate else { return };
        // Near enough by the rate, then one by one.
        let near = u128::from(to.as_micros()) * u128::from(rate) / 1_000_000;
        self.tick = self.tick.max(u64::try_from(near).unwrap_or(u64::MAX).saturating_sub(1));
        while self.next().is_some_and(|moment| moment < to || (inclusive && moment == to)) {
            self.tick += 1;
        }
    }

    /// How many there are up to a moment.
    fn until(&self, to: Moment) -> u64 {
        let Some((rate, next)) = self.rate.zip(self.next()) else { return 0 };
        (((to - next).as_micros()) * u128::from(rate) / 1_000_000) as u64
    }
}

/// This many things may happen, and this many ticks and samples lie, between two lines of a tape: a repeat that is held for a
/// day, a week at 60 ticks per second. More means that a moment is wrong.
pub(crate) const MOST_HAPPENINGS: u64 = 1_000_000;
const MOST_BEATS: u64 = 40_000_000;
/// The smallest step of time.
pub(crate) const INSTANT: Duration = Duration::from_micros(1);
/// Between two lines time is played piece by piece, so that the history holds what happens in each.
const PIECE: Duration = Duration::from_millis(100);

struct Deck<'l, 'w, W> {
    linkage: &'l Linkage,
    seats: Vec<Seated>,
    ticks: Beat,
    samples: Beat,
    relinks: Option<Relinks>,
    watcher: &'w mut W,
    /// How much happened since the last line.
    count: u64,
    happenings: Vec<(u32, Happening)>,
}

impl<W: Watcher> Deck<'_, '_, W> {
    /// Plays all seats up to a moment, and shows what happened in order of time, then of seat.
    fn advance(&mut self, to: Moment) -> Result<()> {
        let mut piece = PIECE;
        loop {
            let played = self.seats.iter().map(|seated| seated.seat.played()).min().unwrap_or(to);
            let next = to.min(played + piece).max(played);
            let before = self.count;
            self.advance_piece(next)?;
            if next >= to {
                return Ok(());
            }
            // Where nothing happens, the pieces grow.
            piece = if self.count == before { piece.saturating_mul(2) } else { PIECE };
        }
    }

    fn advance_piece(&mut self, to: Moment) -> Result<()> {
        self.happenings.clear();
        for seated in &mut self.seats {
            make_room(&mut seated.seat)?;
            loop {
                // One that passed a gap alone is ahead.
                let played = if to >= seated.seat.played() { seated.seat.advance_some(to, HISTORY / 2) } else { to };
                let reading = seated.seat.read(&mut seated.bookmark);
                self.count += reading.lost();
                self.happenings.extend(reading.happenings().map(|happening| (seated.number, *happening)));
                if played >= to || self.happenings.len() as u64 > MOST_HAPPENINGS {
                    break;
                }
            }
        }
        self.count += self.happenings.len() as u64;
        if self.count > MOST_HAPPENINGS {
            bail!(
                "more than {MOST_HAPPENINGS} things happen after the line before; is a moment wrong, or is a gap of the game missing (`skip`)?"
            );
        }
        if self.seats.len() > 1 {
            self.happenings.sort_by_key(|(seat, happening)| (happening.at(), *seat));
        }
        for (seat, happening) in &self.happenings {
            let now = self.seats.iter().find(|seated| seated.number == *seat);
            now.into_iter().try_for_each(|now| self.watcher.happened(*seat, happening, &now.seat))?;
        }
        for seated in &self.seats {
            self.watcher.played(seated.number, &seated.seat)?;
        }
        Ok(())
    }

    /// Plays ticks and samples that end before `at`, or by it at the end.
    fn beats(&mut self, at: Moment, inclusive: bool) -> Result<()> {
        if self.ticks.until(at).max(self.samples.until(at)) > MOST_BEATS {
            bail!(
                "more than {MOST_BEATS} ticks lie after the line before; is a moment wrong, or is a gap of the game missing (`skip`)?"
            );
        }
        let due = |beat: &Beat| beat.next().filter(|moment| *moment < at || (inclusive && *moment == at));
        loop {
            let (tick, sample) = (due(&self.ticks), due(&self.samples));
            let Some(moment) = tick.into_iter().chain(sample).min() else { return Ok(()) };
            self.advance(moment)?;
            if tick == Some(moment) {
                self.ticks.tick += 1;
                for seated in &self.seats {
                    self.watcher.ticked(seated.number, &seated.seat)?;
                }
            }
            if sample == Some(moment) {
                self.samples.tick += 1;
                for seated in &self.seats {
                    self.watcher.sampled(seated.number, &seated.seat)?;
                }
            }
        }
    }

    /// A seat goes over to what a line says, once everything up to the line's moment was played.
    fn relink(&mut self, line: &Line) -> Result<()> {
        let Some(relinks) = &mut self.relinks else { return Ok(()) };
        let Some(linkage) = relinks.after(&line.kind)? else { return Ok(()) };
        self.advance(line.at)?;
        for seated in self.seats.iter_mut().filter(|seated| seated.number == line.seat) {
            seated.seat.relink(&linkage, &mut [&mut seated.bookmark]);
        }
        Ok(())
    }

    fn put(&mut self, line: &Line, header: &Header) -> Result<()> {
        if !self.seats.iter().any(|seated| seated.number == line.seat) {
            let mut seat = self.linkage.seat_with(Moment::ZERO, room())?;
            self.watcher.seated(&mut seat);
            let bookmark = seat.bookmark();
            if let Some(first) = self.seats.first().filter(|first| first.seat.played() > Moment::ZERO) {
                seat.advance(first.seat.played());
            }
            let player = Replayer::new(header).for_seat(line.seat);
            self.seats.push(Seated { number: line.seat, player, seat, bookmark });
        }
        for place in 0..self.seats.len() {
            // Full up: the queue grows. Past its largest size what came before plays, and keeps its moment.
            let mut before = [INSTANT, Duration::ZERO].into_iter();
            loop {
                match self.put_in(place, line) {
                    Err(error) if is_full(&error) => {
                        let seat = &mut self.seats[place].seat;
                        let QueueUse { waiting, room, .. } = seat.waiting();
                        if waiting == room && room < MOST_WAITING {
                            seat.reserve(room * 4, 0)?;
                            continue;
                        }
                        let Some(before) = before.next() else { return Err(error.into()) };
                        self.advance(back(line.at, before))?;
                    }
                    other => {
                        other?;
                        break;
                    }
                }
            }
        }
        Ok(())
    }

    fn put_in(&mut self, place: usize, line: &Line) -> Result<(), PutError> {
        let seated = &mut self.seats[place];
        seated.player.put(line, &mut seated.seat)
    }
}

/// Makes the history large enough for what may happen when all waiting events play.
pub(crate) fn make_room(seat: &mut Seat) -> Result<(), CapacityError> {
    let happenings = seat.waiting().waiting * HAPPENINGS_PER_EVENT;
    if happenings > HISTORY { seat.reserve(0, happenings) } else { Ok(()) }
}

pub(crate) fn is_full(error: &PutError) -> bool {
    match error {
        PutError::Feed(error) => error.why == FeedErrorKind::Full,
        PutError::Tell(error) => *error == TellError::Full,
        _ => false,
    }
}

pub(crate) fn back(at: Moment, by: Duration) -> Moment {
    Moment::from_micros(at.as_micros().saturating_sub(by.as_micros() as u64))
}

/// Plays a tape to its end and shows the watcher everything.
pub(crate) fn play(
    linkage: &Linkage,
    tape: impl BufRead,
    name: &str,
    cuts: Cuts<'_>,
    watcher: &mut impl Watcher,
) -> Result<Played> {
    play_lines(linkage, Reader::new(tape).with_context(|| name.to_owned())?, name, cuts, watcher)
}

/// The same with lines that are read somehow.
pub(crate) fn play_lines(
    linkage: &Linkage,
    lines: impl Lines,
    name: &str,
    cuts: Cuts<'_>,
    watcher: &mut impl Watcher,
) -> Result<Played> {
    let mut lines = Ahead::new(lines);
    let header = lines.header().clone();
    let mut seat = linkage.seat_with(Moment::ZERO, room())?;
    watcher.seated(&mut seat);
    let bookmark = seat.bookmark();
    let seated = Seated { number: 1, player: Replayer::new(&header), seat, bookmark };
    // A tick ends where the next begins; the first that is played is number 1. Samples begin at the very start.
    let (ticks, samples) = (Beat { rate: cuts.ticks, tick: 1 }, Beat { rate: cuts.sample, tick: 0 });
    let (seats, relinks, happenings) = (vec![seated], cuts.relinks.cloned(), Vec::new());
    let mut deck = Deck { linkage, seats, ticks, samples, relinks, watcher, count: 0, happenings };
    let (mut last, mut count, mut disordered) = (Moment::ZERO, 0, None);
    while let Some((number, line)) = lines.next() {
        let line = line.with_context(|| name.to_owned())?;
        let line: &Line = line.borrow();
        if let Some(until) = cuts.until.filter(|until| line.at > *until) {
            last = last.max(until);
            break;
        }
        let place = || format!("{name}: line {number}");
        count += 1;
        deck.count = 0;
        if line.at < last && disordered.is_none() {
            disordered = Some(number);
        }
        match lines.gap() {
            // In a gap no tick and no sample lies: what it holds is taken over at its end.
            Some(from) => {
                deck.beats(from, true).with_context(place)?;
                if from > last || cuts.ticks.is_none() {
                    deck.advance(from).with_context(place)?;
                }
            }
            None => {
                deck.beats(line.at, false).with_context(place)?;
                // What lies before the line above it is late, at any tick rate.
                if line.at < last || (cuts.ticks.is_none() && line.at > last) {
                    deck.advance(last).with_context(place)?;
                }
            }
        }
        last = last.max(line.at);
        deck.watcher.line(line);
        if line.kind != LineKind::End {
            deck.put(line, &header).with_context(place)?;
            match &line.kind {
                LineKind::Remap(_) | LineKind::Profile(_) | LineKind::Number { .. } => {
                    deck.relink(line).with_context(place)?
                }
                LineKind::Skip { .. } => {
                    deck.ticks.pass(line.at, true);
                    deck.samples.pass(line.at, false);
                }
                _ => {}
            }
        }
    }
    let after = || format!("{name}: after its last line");
    deck.count = 0;
    deck.beats(last, true).with_context(after)?;
    deck.advance(last).with_context(after)?;
    for seated in &mut deck.seats {
        seated.seat.close_ledger();
        deck.watcher.ended(seated.number, &seated.seat)?;
    }
    let stats = deck.seats[0].seat.stats();
    Ok(Played { header, lines: count, end: last, cut: lines.cut_at(), disordered, stats })
}
