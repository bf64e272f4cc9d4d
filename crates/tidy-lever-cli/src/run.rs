//! Playing a tape through a linkage, seat by seat, cut into ticks as asked.

use std::borrow::Borrow;
use std::io::BufRead;
use std::path::{Path, PathBuf};
use std::time::Duration;

use anyhow::{Context, Result, bail};
use tidy_lever::remap::Remap;
use tidy_lever::seat::{Capacity, CapacityError, Stats, Swallowed};
use tidy_lever::tape::{Deck, Header, Line, LineKind, Reader};
use tidy_lever::{Bookmark, Happening, Linkage, Moment, Seat};
use tidy_lever_files::text_beside;

use crate::input::Laid;
use crate::lines::{Ahead, Lines};
use crate::paint;

/// Capacity for any human tape; it grows where more waits.
pub(crate) fn room() -> Capacity {
    Capacity::default().history(HISTORY).devices(64)
}

/// How many happenings are read at once: a seat stops for that when its history is half full.
pub(crate) const HISTORY: usize = 1_024;
/// How much of what guards keep from being heard a seat notes between two looks.
pub(crate) const SWALLOWED: usize = 4_096;
/// Each event of a moment has room for so many happenings in the history.
const HAPPENINGS_PER_EVENT: usize = 4;

/// What a tape's seats are relinked by: the profile that plays, and where the files are that a tape names.
#[derive(Clone, Debug)]
pub(crate) struct Relinks {
    text: String,
    remap: Remap,
    files: Files,
}

/// Where the files are that a tape names.
#[derive(Clone, Debug)]
struct Files {
    /// The tape's own folder.
    folder: PathBuf,
    /// Files that are at hand already, by name.
    shipped: Vec<(String, String)>,
}

impl Relinks {
    /// For a tape of this path.
    pub(crate) fn of(laid: &Laid, tape: &Path) -> Relinks {
        let folder = tape.parent().map(Path::to_owned).unwrap_or_default();
        let (text, remap) = (laid.text.clone(), laid.remap.clone());
        Relinks { text, remap, files: Files { folder, shipped: Vec::new() } }
    }

    /// For a tape that is inside the command.
    pub(crate) fn inside(text: &str, shipped: Vec<(String, String)>) -> Relinks {
        Relinks { text: text.to_owned(), remap: Remap::new(), files: Files { folder: PathBuf::new(), shipped } }
    }

    fn deck(&self, header: &Header) -> Deck {
        Deck::new(header).profile(self.text.as_str()).remap(self.remap.clone())
    }
}

impl Files {
    /// Only a regular file of the tape's own folder is read.
    fn read(&self, file: &str) -> Result<String, String> {
        if let Some((_, text)) = self.shipped.iter().find(|(name, _)| name == file) {
            return Ok(text.clone());
        }
        text_beside(&self.folder, file).map_err(|problem| problem.to_string())
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

    /// A guard kept something from being heard, of a seat that notes it: in order of time among what happens.
    fn swallowed(&mut self, seat: u32, swallowed: &Swallowed) -> Result<()> {
        let _ = (seat, swallowed);
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
    seat: Seat,
    bookmark: Bookmark,
    /// How much of what it swallowed was told.
    swallowed: u64,
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

struct Playing<'l, 'w, W> {
    linkage: &'l Linkage,
    deck: Deck,
    /// Without, relinks are passed over.
    files: Option<&'l Files>,
    seats: Vec<Seated>,
    ticks: Beat,
    samples: Beat,
    watcher: &'w mut W,
    /// How much happened since the last line.
    count: u64,
    happenings: Vec<(u32, Happening)>,
}

impl<W: Watcher> Playing<'_, '_, W> {
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
        let mut swallowed: Vec<(u32, Swallowed)> = Vec::new();
        for seated in &mut self.seats {
            swallowed.extend(seated.seat.swallowed_since(seated.swallowed).map(|one| (seated.number, one)));
            seated.swallowed = seated.seat.swallowed_count();
        }
        swallowed.sort_by_key(|(seat, one)| (one.at, *seat));
        let mut swallowed = swallowed.iter().peekable();
        for (seat, happening) in &self.happenings {
            while let Some((seat, one)) = swallowed.next_if(|(_, one)| one.at <= happening.at()) {
                self.watcher.swallowed(*seat, one)?;
            }
            let now = self.seats.iter().find(|seated| seated.number == *seat);
            now.into_iter().try_for_each(|now| self.watcher.happened(*seat, happening, &now.seat))?;
        }
        swallowed.try_for_each(|(seat, one)| self.watcher.swallowed(*seat, one))?;
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
        let Some(files) = self.files else { return Ok(()) };
        let Some(laid) = self.deck.after(line, |file| files.read(file))? else { return Ok(()) };
        // A number tells nothing of the player's file that was not told before.
        if let LineKind::Remap(file) | LineKind::Profile(file) = &line.kind {
            let sort = if matches!(line.kind, LineKind::Remap(_)) { "remap" } else { "profile" };
            laid.left_alone.iter().for_each(|fault| paint::note(format!("the {sort} `{file}`: {fault}")));
        }
        self.advance(line.at)?;
        for seated in self.seats.iter_mut().filter(|seated| seated.number == line.seat) {
            seated.seat.relink(&laid.linkage, &mut [&mut seated.bookmark]);
        }
        Ok(())
    }

    fn put(&mut self, line: &Line) -> Result<()> {
        let place = match self.seats.iter().position(|seated| seated.number == line.seat) {
            Some(place) => place,
            None => self.sit(line.seat)?,
        };
        // Past its queue's largest size what came before plays, and keeps its moment.
        for before in [INSTANT, Duration::ZERO] {
            match self.deck.put(line, &mut self.seats[place].seat) {
                Err(error) if error.is_full() => self.advance(back(line.at, before))?,
                other => return Ok(other?),
            }
        }
        Ok(self.deck.put(line, &mut self.seats[place].seat)?)
    }

    /// A seat that joins is as far as the others are.
    fn sit(&mut self, number: u32) -> Result<usize> {
        let mut seat = self.linkage.seat_with(Moment::ZERO, room())?;
        self.watcher.seated(&mut seat);
        let bookmark = seat.bookmark();
        if let Some(first) = self.seats.first().filter(|first| first.seat.played() > Moment::ZERO) {
            seat.advance(first.seat.played());
        }
        self.seats.push(Seated { number, seat, bookmark, swallowed: 0 });
        Ok(self.seats.len() - 1)
    }
}

/// Makes the history large enough for what may happen when all waiting events play.
pub(crate) fn make_room(seat: &mut Seat) -> Result<(), CapacityError> {
    let happenings = seat.waiting().waiting * HAPPENINGS_PER_EVENT;
    if happenings > HISTORY { seat.reserve(0, happenings) } else { Ok(()) }
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
    // A tick ends where the next begins; the first that is played is number 1. Samples begin at the very start.
    let (ticks, samples) = (Beat { rate: cuts.ticks, tick: 1 }, Beat { rate: cuts.sample, tick: 0 });
    let deck = cuts.relinks.map_or_else(|| Deck::new(&header), |relinks| relinks.deck(&header));
    let (files, seats, happenings) = (cuts.relinks.map(|relinks| &relinks.files), Vec::new(), Vec::new());
    let mut playing = Playing { linkage, deck, files, seats, ticks, samples, watcher, count: 0, happenings };
    playing.sit(1)?;
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
        playing.count = 0;
        if line.at < last && disordered.is_none() {
            disordered = Some(number);
        }
        match lines.gap() {
            // In a gap no tick and no sample lies: what it holds is taken over at its end.
            Some(from) => {
                playing.beats(from, true).with_context(place)?;
                if from > last || cuts.ticks.is_none() {
                    playing.advance(from).with_context(place)?;
                }
            }
            None => {
                playing.beats(line.at, false).with_context(place)?;
                // What lies before the line above it is late, at any tick rate.
                if line.at < last || (cuts.ticks.is_none() && line.at > last) {
                    playing.advance(last).with_context(place)?;
                }
            }
        }
        last = last.max(line.at);
        playing.watcher.line(line);
        if line.kind != LineKind::End {
            playing.put(line).with_context(place)?;
            match &line.kind {
                LineKind::Remap(_) | LineKind::Profile(_) | LineKind::Number { .. } => {
                    playing.relink(line).with_context(place)?
                }
                LineKind::Skip { .. } => {
                    playing.ticks.pass(line.at, true);
                    playing.samples.pass(line.at, false);
                }
                _ => {}
            }
        }
    }
    let after = || format!("{name}: after its last line");
    playing.count = 0;
    playing.beats(last, true).with_context(after)?;
    playing.advance(last).with_context(after)?;
    for seated in &mut playing.seats {
        seated.seat.close_ledger();
        playing.watcher.ended(seated.number, &seated.seat)?;
    }
    let stats = playing.seats[0].seat.stats();
    Ok(Played { header, lines: count, end: last, cut: lines.cut_at(), disordered, stats })
}
