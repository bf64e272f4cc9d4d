//! Playing a tape through a linkage, seat by seat, cut into ticks as asked.

use std::io::BufRead;
use std::path::{Path, PathBuf};

use anyhow::{Context, Result};
use tidy_lever::remap::Remap;
use tidy_lever::seat::{Room, Stats, Untaken};
use tidy_lever::tape::{Header, Line, Player, PutError, Reader, Said};
use tidy_lever::{Bookmark, Linkage, Moment, Profile, Reading, Seat};

use crate::input;
use crate::paint::{WARN, in_style};

/// Wide enough for any human tape, and for a storm of 10,000 events in one moment.
const ROOM: Room = Room { waiting: 1 << 16, history: 1 << 18, devices: 64 };

/// Where the remaps that a tape names are, and what they are laid over.
#[derive(Clone, Debug)]
pub(crate) struct Remaps {
    pub(crate) profile: Profile,
    /// The tape's own folder.
    pub(crate) folder: PathBuf,
    /// Files that are at hand already, by name.
    pub(crate) shipped: Vec<(String, String)>,
}

impl Remaps {
    /// For a tape of this path, through this profile.
    pub(crate) fn of(profile: Profile, tape: &Path) -> Remaps {
        Remaps { profile, folder: tape.parent().map(Path::to_owned).unwrap_or_default(), shipped: Vec::new() }
    }

    fn linkage(&self, file: &str) -> Result<Linkage> {
        let path = self.folder.join(file);
        let remap = match self.shipped.iter().find(|(name, _)| name == file) {
            Some((_, text)) => Remap::from_toml(text)?,
            None => input::remap(&path)?,
        };
        let laid = remap.over(&self.profile)?;
        for fault in &laid.left_alone {
            anstream::eprintln!("{} {}: {fault}", in_style(WARN, "note:"), input::name(&path));
        }
        Ok(laid.linkage)
    }
}

/// How time is cut.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Cuts<'r> {
    /// What a tape's remaps are laid over; without, they are passed over.
    pub(crate) remaps: Option<&'r Remaps>,
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

    /// After each advance: what happened in it.
    fn played(&mut self, seat: u32, reading: Reading<'_>, now: &Seat) -> Result<()>;

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
    player: Player,
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
}

struct Deck<'l, 'w, W> {
    linkage: &'l Linkage,
    seats: Vec<Seated>,
    ticks: Beat,
    samples: Beat,
    remaps: Option<&'w Remaps>,
    watcher: &'w mut W,
}

impl<W: Watcher> Deck<'_, '_, W> {
    fn advance(&mut self, to: Moment) -> Result<()> {
        for seated in &mut self.seats {
            seated.seat.advance(to);
            let reading = seated.seat.read(&mut seated.bookmark);
            self.watcher.played(seated.number, reading, &seated.seat)?;
        }
        Ok(())
    }

    /// Plays ticks and samples that end before `at`, or by it at the end.
    fn beats(&mut self, at: Moment, inclusive: bool) -> Result<()> {
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

    /// A seat goes over to a remap: once everything up to the moment at which the tape says so was played.
    fn remap(&mut self, line: &Line, file: &str) -> Result<()> {
        let Some(remaps) = self.remaps else { return Ok(()) };
        let linkage = remaps.linkage(file)?;
        for seated in self.seats.iter_mut().filter(|seated| seated.number == line.seat) {
            seated.seat.advance(line.at.max(seated.seat.played()));
            let reading = seated.seat.read(&mut seated.bookmark);
            self.watcher.played(seated.number, reading, &seated.seat)?;
            seated.seat.relink(&linkage, &mut [&mut seated.bookmark]);
        }
        Ok(())
    }

    fn put(&mut self, line: &Line, header: &Header) -> Result<()> {
        if !self.seats.iter().any(|seated| seated.number == line.seat) {
            let mut seat = self.linkage.seat_with(Moment::ZERO, ROOM)?;
            self.watcher.seated(&mut seat);
            let bookmark = seat.bookmark();
            if let Some(first) = self.seats.first().filter(|first| first.seat.played() > Moment::ZERO) {
                seat.advance(first.seat.played());
            }
            let player = Player::new(header).for_seat(line.seat);
            self.seats.push(Seated { number: line.seat, player, seat, bookmark });
        }
        for seated in &mut self.seats {
            match seated.player.put(line, &mut seated.seat) {
                // Full up: play what is there, so that nothing is lost.
                Err(PutError::Feed(error)) if error.why == Untaken::Full => {
                    seated.seat.advance(line.at);
                    seated.player.put(line, &mut seated.seat)?;
                }
                other => other?,
            }
        }
        Ok(())
    }
}

/// Plays a tape to its end and shows the watcher everything.
pub(crate) fn play(
    linkage: &Linkage,
    tape: impl BufRead,
    name: &str,
    cuts: Cuts<'_>,
    watcher: &mut impl Watcher,
) -> Result<Played> {
    let mut reader = Reader::new(tape).with_context(|| name.to_owned())?;
    let header = reader.header().clone();
    let mut seat = linkage.seat_with(Moment::ZERO, ROOM)?;
    watcher.seated(&mut seat);
    let bookmark = seat.bookmark();
    let seated = Seated { number: 1, player: Player::new(&header), seat, bookmark };
    // A tick ends where the next begins; the first that is played is number 1. Samples begin at the very start.
    let (ticks, samples) = (Beat { rate: cuts.ticks, tick: 1 }, Beat { rate: cuts.sample, tick: 0 });
    let mut deck = Deck { linkage, seats: vec![seated], ticks, samples, remaps: cuts.remaps, watcher };
    let (mut last, mut lines, mut disordered) = (Moment::ZERO, 0, None);
    while let Some(line) = reader.next() {
        let line = line.with_context(|| name.to_owned())?;
        let number = reader.line_number();
        if let Some(until) = cuts.until.filter(|until| line.at > *until) {
            last = last.max(until);
            break;
        }
        lines += 1;
        if line.at < last && disordered.is_none() {
            disordered = Some(number);
        }
        deck.beats(line.at, false)?;
        // What lies before the line above it is late, at any tick rate.
        if line.at < last || (cuts.ticks.is_none() && line.at > last) {
            deck.advance(last)?;
        }
        last = last.max(line.at);
        deck.watcher.line(&line);
        if line.said != Said::End {
            let place = || format!("{name}: line {number}");
            deck.put(&line, &header).with_context(place)?;
            if let Said::Remap(file) = &line.said {
                deck.remap(&line, file).with_context(place)?;
            }
        }
    }
    deck.beats(last, true)?;
    deck.advance(last)?;
    for seated in &mut deck.seats {
        seated.seat.close_ledger();
        deck.watcher.ended(seated.number, &seated.seat)?;
    }
    let stats = deck.seats[0].seat.stats();
    Ok(Played { header, lines, end: last, cut: reader.was_cut(), disordered, stats })
}
