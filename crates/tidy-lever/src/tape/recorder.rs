//! Recording: a seat's calls go through here, and a tape of them comes out.

use alloc::borrow::ToOwned;
use alloc::boxed::Box;
use alloc::collections::BTreeMap;
use alloc::string::String;
use alloc::vec::Vec;
use core::time::Duration;
use std::io::{self, Write};

use super::ring::Ring;
use super::state;
use super::{DeviceEntry, Header, Line, LineKind, Writer};
use crate::control::Family;
use crate::event::{Device, Event, Spread};
use crate::seat::{FeedError, MOST_LATE, Seat, TellError};
use crate::table::{Fed, Table};
use crate::time::Moment;

/// So many lines wait at most; beyond that the oldest are written, whatever the seats have played.
const MOST_WAITING: usize = 1 << 16;
/// A tape that is written to is handed to the system this often, so that a crash loses no more.
const FLUSH: Duration = Duration::from_millis(500);

/// Records what seats are fed and told, as a tape: on an output, in a ring of the last seconds, or both.
///
/// A game calls its seats through [`Recorder::seat`] (or a whole table through [`Recorder::feed`] and
/// [`Recorder::advance`]); each call does what the seat's own does, and is written once the seat has taken it, at the moment
/// at which the seat takes it into account. A tape that is played (`tidy-lever play`) gives the same pulls to the microsecond.
/// One that [`off`](Recorder::off) records nothing, so a game needs no second way for that.
///
/// Lines wait until all seats have played past them, as tapes are in order of time; a game that rolls back records what is
/// settled, with seats of its own that never go back. Nothing is written by hand but what
/// seats don't hear: [`Recorder::note`].
///
/// ```
/// use tidy_lever::tape::{Header, Recorder};
/// use tidy_lever::{Device, Event, Fact, Linkage, Moment, Profile};
///
/// let text = "tidy-lever = 1\n[facts]\ngrounded = true\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n";
/// let linkage = Linkage::build(&Profile::from_toml(text)?)?;
/// let (grounded, space) = (linkage.find::<Fact>("grounded")?, linkage.control("keys:Space").unwrap());
/// let mut seat = linkage.seat(Moment::ZERO);
/// let mut recorder = Recorder::off(&Header::new("a hop")).ring(std::time::Duration::from_secs(30));
///
/// let mut hand = recorder.seat(1, &mut seat);
/// hand.feed(Event::button(Moment::from_millis(5), Device::default(), space, true))?;
/// hand.advance(Moment::from_millis(16));
/// hand.tell(grounded, false)?;
/// hand.advance(Moment::from_millis(33));
///
/// let mut tape = Vec::new();
/// recorder.save_ring(&mut tape)?;
/// let tape = String::from_utf8(tape)?;
/// assert!(tape.contains(r#""control":"keys:Space","value":1"#) && tape.contains(r#""fact":"grounded","value":false"#));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
pub struct Recorder {
    header: Header,
    output: Option<Writer<Box<dyn Write + Send>>>,
    ring: Option<Ring>,
    /// Lines for whoever shows them as they come.
    copied: Option<Vec<Line>>,
    /// What lines call a device, by its number; one that speaks as several families has a name for each, as in `kb+mouse`.
    names: Vec<(usize, Option<Family>, String)>,
    /// What pads are called by their system, and the seats for which the tape says so already.
    pads: BTreeMap<Device, (String, Vec<u32>)>,
    /// What no seat has played past yet, in order of time.
    pending: Vec<QueuedInput>,
    /// How far each seat has played, by its number.
    seats: Vec<(u32, Moment)>,
    last: Moment,
    flushed: Moment,
    failed: Option<io::Error>,
}

/// A line that no seat has played past yet, with the moment that it was fed for.
struct QueuedInput {
    turn: Turn,
    line: Line,
}

/// The turn of a line among those of its moment, as a seat takes them: what was told as told, then events, the latest ones
/// first, then gaps, then what seats don't hear.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Turn {
    Told,
    /// How far ahead of the latest possible one.
    Event(u32),
    Gap,
    Note,
}

impl Turn {
    fn of(said: &LineKind, late_by: Duration) -> Turn {
        match said {
            said if said.is_event() || matches!(said, LineKind::Focus(_)) => {
                Turn::Event(MOST_LATE - late_by.as_micros().min(u128::from(MOST_LATE)) as u32)
            }
            LineKind::Skip { .. } => Turn::Gap,
            LineKind::Meant(_)
            | LineKind::Remap(_)
            | LineKind::Number { .. }
            | LineKind::Profile(_)
            | LineKind::End => Turn::Note,
            _ => Turn::Told,
        }
    }
}

impl core::fmt::Debug for Recorder {
    fn fmt(&self, f: &mut core::fmt::Formatter<'_>) -> core::fmt::Result {
        f.debug_struct("Recorder").field("title", &self.header.title).field("pending", &self.pending.len()).finish()
    }
}

impl Recorder {
    /// One that records nothing yet. The first keyboard that plays gets the name of the first that the header declares, and so
    /// on; what isn't declared is named by its family as it comes (`kb`, `ms`, `scr`, `p1`).
    pub fn off(header: &Header) -> Recorder {
        Recorder {
            names: Vec::new(),
            pads: BTreeMap::new(),
            header: header.clone(),
            output: None,
            ring: None,
            copied: None,
            pending: Vec::new(),
            seats: Vec::new(),
            last: Moment::ZERO,
            flushed: Moment::ZERO,
            failed: None,
        }
    }

    /// Writes the tape to an output from here on, its header at once.
    ///
    /// # Errors
    /// The output's own.
    pub fn output(mut self, output: impl Write + Send + 'static) -> io::Result<Recorder> {
        let output: Box<dyn Write + Send> = Box::new(output);
        self.output = Some(Writer::new(output, &self.header)?);
        Ok(self)
    }

    /// Keeps the last span of the tape in memory, for [`Recorder::save_ring`]. At most 200,000 lines are kept.
    pub fn ring(mut self, span: Duration) -> Recorder {
        self.ring = Some(Ring::new(span));
        self
    }

    /// Keeps each line until [`take_lines`](Recorder::take_lines), for a view that shows them.
    pub fn lines(mut self) -> Recorder {
        self.copied = Some(Vec::new());
        self
    }

    /// The lines that were written since they were taken last.
    pub fn take_lines(&mut self) -> Vec<Line> {
        self.copied.as_mut().map(core::mem::take).unwrap_or_default()
    }

    /// Whether anything is recorded: to an output that takes it, in a ring, or for a view.
    pub fn is_on(&self) -> bool {
        self.output.is_some() || self.ring.is_some() || self.copied.is_some()
    }

    /// A line of another tape, which a [`Replayer`](super::Replayer) has put on its seat.
    pub fn line(&mut self, line: &Line) {
        if self.is_on() {
            self.wait(Turn::of(&line.kind, Duration::ZERO), line.clone());
        }
    }

    /// Why the output takes no more, told once; the tape ends there, and what was written stays readable.
    pub fn take_failure(&mut self) -> Option<io::Error> {
        self.failed.take()
    }

    pub(super) fn sees(&mut self, number: u32, seat: &Seat) {
        if self.ring.as_ref().is_some_and(|ring| ring.wants_state(number, seat.played(), || seat.is_learning())) {
            let state = state::of(seat, |device, family| self.name(device.number(), Some(family)));
            if let Some(ring) = &mut self.ring {
                ring.stands(number, seat.played(), state);
            }
        }
        match self.seats.iter_mut().find(|(known, _)| *known == number) {
            Some((_, played)) => *played = seat.played(),
            None => self.seats.push((number, seat.played())),
        }
    }

    /// Feeds an event to a table; a line for each seat that took it.
    ///
    /// # Errors
    /// As [`Table::feed`].
    pub fn feed(&mut self, table: &mut Table, event: Event) -> Result<Fed, FeedError> {
        let fed = table.feed(event)?;
        if self.is_on() && matches!(fed, Fed::Heard(_)) {
            let moved: Vec<usize> = table.moved_by(event.device).collect();
            for number in moved {
                if let Some(seat) = table.seat(number) {
                    self.event(number as u32, seat.next_moment(), &event);
                }
            }
        }
        Ok(fed)
    }

    /// Says what a pad is called, to a table's seats that it moves and to those that it joins later.
    ///
    /// # Errors
    /// As [`Table::name_device`].
    pub fn name_device(&mut self, table: &mut Table, device: Device, name: &str) -> Result<(), TellError> {
        table.name_device(device, name)?;
        self.pads.insert(device, (name.to_owned(), Vec::new()));
        let moved: Vec<usize> = table.moved_by(device).collect();
        for number in moved {
            if let Some(seat) = table.seat(number) {
                let next = seat.next_moment();
                self.named(number as u32, next, device, name);
            }
        }
        Ok(())
    }

    /// Plays a table's seats up to a moment, and writes what all have played.
    pub fn advance(&mut self, table: &mut Table, to: Moment) {
        table.advance(to);
        table.seats().for_each(|(number, seat)| self.sees(number as u32, seat));
        self.write_played();
    }

    pub(super) fn event(&mut self, number: u32, next: Moment, event: &Event) {
        let untold = self.pads.get(&event.device).filter(|(_, told)| !told.contains(&number));
        if let Some(pad) = untold.map(|(name, _)| name.clone()) {
            // The table told the seat as the pad came to move it.
            self.named(number, next, event.device, &pad);
        }
        let name = self.name(event.device.number(), event.family());
        self.put(number, next, event.at, event.spread, LineKind::of(event, &name));
    }

    /// A seat knows the name of a pad from the next moment on.
    pub(super) fn named(&mut self, number: u32, next: Moment, device: Device, name: &str) {
        let kind = LineKind::Named { device: self.name(device.number(), Some(Family::Pad)), name: name.to_owned() };
        if let Some((_, told)) = self.pads.get_mut(&device) {
            told.push(number);
        }
        self.put(number, next, next, Spread::NONE, kind);
    }

    /// What lines call a device; one that is unplugged before it said anything is a pad.
    pub(super) fn name(&mut self, device: usize, family: Option<Family>) -> String {
        let is_it = |(place, of, _): &&(usize, Option<Family>, String)| {
            *place == device && (family.is_none() || of.is_none() || *of == family)
        };
        if let Some((_, _, name)) = self.names.iter().find(is_it) {
            return name.clone();
        }
        // One device that speaks two families is one on the tape, too: it goes up as a whole where it is unplugged.
        if let (Some(family), Some((_, _, first))) = (family, self.names.iter().find(|(place, ..)| *place == device)) {
            let name = alloc::format!("{first}+{}", family.name());
            self.names.push((device, Some(family), name.clone()));
            return name;
        }
        let is_used = |name: &str| self.names.iter().any(|(_, _, other)| other == name);
        let is_free = |name: &str| !is_used(name) && !self.header.devices.iter().any(|entry| entry.id == name);
        let of_family = |entry: &&DeviceEntry| family.is_some_and(|family| entry.family == family.name());
        let declared = self.header.devices.iter().filter(of_family).map(|entry| entry.id.clone());
        let prefix = match family {
            Some(Family::Keys) => "kb",
            Some(Family::Mouse) => "ms",
            Some(Family::Touch) => "scr",
            _ => "p",
        };
        let first = if prefix == "p" { 1 } else { 2 };
        let numbered = (first..).map(|number: usize| alloc::format!("{prefix}{number}"));
        let plain = (prefix != "p").then(|| prefix.to_owned());
        let others = plain.into_iter().chain(numbered).filter(|name| is_free(name));
        let name = declared.filter(|name| !is_used(name)).chain(others).next().unwrap_or_default();
        self.names.push((device, family, name.clone()));
        name
    }

    /// A line that a seat has taken; one for a moment that it has played already counts at the next one.
    pub(super) fn put(&mut self, seat: u32, next: Moment, at: Moment, spread: Spread, kind: LineKind) {
        if !self.is_on() {
            return;
        }
        let turn = Turn::of(&kind, next - at);
        self.wait(turn, Line { at: at.max(next).max(self.last), seat, kind, spread });
    }

    /// Something that seats don't hear: what a player meant, a number that was moved, another file. At the moment that the
    /// seat has played, in the order of the calls.
    pub fn note(&mut self, number: u32, said: LineKind) {
        let played = self.seats.iter().find(|(known, _)| *known == number).map_or(self.last, |(_, played)| *played);
        if self.is_on() {
            self.wait(Turn::Note, Line::new(played.max(self.last), number, said));
            self.write_played();
        }
    }

    /// Puts a line behind all that come before it.
    fn wait(&mut self, turn: Turn, line: Line) {
        let place = self.pending.partition_point(|other| (other.line.at, other.turn) <= (line.at, turn));
        self.pending.insert(place, QueuedInput { turn, line });
        if self.pending.len() > MOST_WAITING {
            let first = self.pending.remove(0);
            self.out(&first.line);
        }
    }

    /// A gap was passed up to a moment; what lies in it comes before the line that tells of it.
    pub(super) fn skipped(&mut self, seat: u32, from: Moment, to: Moment) {
        if self.is_on() {
            self.wait(Turn::Gap, Line::new(to.max(self.last), seat, LineKind::Skip { from: Some(from) }));
        }
        self.write_played();
    }

    /// Writes what all seats have played past.
    pub(super) fn write_played(&mut self) {
        let to = self.seats.iter().map(|(_, played)| *played).min().unwrap_or(Moment::LATEST);
        self.write_to(to);
        if to - self.flushed >= FLUSH {
            self.flushed = to;
            self.flush();
        }
    }

    fn write_to(&mut self, to: Moment) {
        let count = self.pending.partition_point(|waiting| waiting.line.at <= to);
        let lines: Vec<QueuedInput> = self.pending.drain(..count).collect();
        lines.iter().for_each(|waiting| self.out(&waiting.line));
    }

    fn out(&mut self, line: &Line) {
        self.last = self.last.max(line.at);
        if let Some(ring) = &mut self.ring {
            ring.put(line);
        }
        if let Some(copied) = &mut self.copied {
            copied.push(line.clone());
        }
        let result = self.output.as_mut().map_or(Ok(()), |output| output.put(line));
        self.kept(result);
    }

    /// Hands what is written so far to the system.
    pub fn flush(&mut self) {
        let result = self.output.as_mut().map_or(Ok(()), Writer::flush);
        self.kept(result);
    }

    fn kept(&mut self, result: io::Result<()>) {
        if let Err(failure) = result {
            self.output = None;
            self.failed = Some(failure);
        }
    }

    /// Ends the tape at the moment that was played last, and writes all of it.
    pub fn end(&mut self) {
        self.write_to(Moment::LATEST);
        let end = self.seats.iter().map(|(_, played)| *played).max().unwrap_or(self.last).max(self.last);
        let (ring, said) = (self.ring.take(), LineKind::End);
        self.out(&Line::new(end, 1, said));
        self.ring = ring;
        self.flush();
        self.output = None;
    }

    /// Writes the ring as a tape of its own, which begins at 0: first what stood as its span began (what is held, told, switched and
    /// learnt), then what happened since. It may begin up to three seconds before the span. Its first 2 µs may pull once more what was
    /// pulled before; what `keep` or a cue had under way then is not there.
    ///
    /// # Errors
    /// The output's own.
    pub fn save_ring(&self, output: impl Write) -> io::Result<()> {
        let mut writer = Writer::new(output, &self.header)?;
        let to = self.seats.iter().map(|(_, played)| *played).max().unwrap_or(self.last).max(self.last);
        let lines = self.ring.iter().flat_map(|ring| ring.lines(to));
        lines.into_iter().try_for_each(|line| writer.put(&line))?;
        writer.flush()
    }
}
