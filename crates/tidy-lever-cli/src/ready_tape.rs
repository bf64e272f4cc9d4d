//! Playing one tape many times, with a different value of a number each time. Names are looked up once, and many lines are played
//! in one `advance`.
//!
//! ```text
//!   tape ──ReadyTape::of──▶ steps per seat ──pulls_of──▶ the pulls of one action, as `play` reports them
//!                          └─ only some stretches ──▶ the pulls in those stretches
//! ```
//!
//! A stretch begins after a pause in which nothing is held and which is longer than any time limit of the action. When stretches
//! are left out, the last value of each fact, mode and view in them is still told.

use std::collections::{BTreeMap, BTreeSet};

use anyhow::{Context, Result, bail};
use tidy_lever::control::Sort;
use tidy_lever::event::{Input, Phase};
use tidy_lever::seat::SeatInput;
use tidy_lever::tape::{Deck, LineKind, PutError, Replayer};
use tidy_lever::{Control, Device, Linkage, Moment, Seat, What};

use crate::lines::{Ahead, Tape};
use crate::run::{HISTORY, INSTANT, MOST_HAPPENINGS, back, make_room, room};

/// How many lines are queued before they are played.
const AT_ONCE: usize = 48;

/// A line of the tape, ready for a seat.
#[derive(Debug)]
enum Does {
    Input(SeatInput),
    /// Skip the gap that begins here.
    Skip(Moment),
}

/// One line for a seat.
#[derive(Debug)]
struct Step {
    at: Moment,
    /// The line's number.
    number: u64,
    /// If it lies in a gap: where the gap begins.
    gap: Option<Moment>,
    does: Does,
}

/// The lines of one seat.
#[derive(Debug)]
struct Part<'t> {
    player: Replayer,
    seat: u32,
    steps: Vec<Step>,
    /// The steps that tell each fact, mode or view, in order.
    told: BTreeMap<(u8, &'t str), Vec<usize>>,
    /// The controls and fingers that are down while the tape is read.
    held: BTreeSet<(Device, Option<Control>, u64)>,
}

/// A pause in which nothing is held: when the next line comes, and how long the pause lasts, in µs.
#[derive(Clone, Copy, Debug)]
struct Rest {
    until: u64,
    span: u64,
}

/// A tape, ready to be played many times.
#[derive(Debug)]
pub(crate) struct ReadyTape<'t> {
    name: &'t str,
    parts: Vec<Part<'t>>,
    end: Moment,
    rests: Vec<Rest>,
    /// Moments of lines with a lasting effect, such as a gap or an unplugged device. Their stretches are always played.
    lasting: Vec<u64>,
}

/// The stretches of a tape, by the moments at which they begin. The first begins at 0.
#[derive(Clone, Debug)]
pub(crate) struct Stretches(Vec<u64>);

impl Stretches {
    pub(crate) fn count(&self) -> usize {
        self.0.len()
    }

    /// The stretch that a moment lies in.
    pub(crate) fn of(&self, at: u64) -> usize {
        self.0.partition_point(|begin| *begin <= at).saturating_sub(1)
    }
}

/// For each stretch, whether it is played. `None` plays the whole tape.
type Chosen<'s> = Option<(&'s Stretches, &'s [bool])>;

impl<'t> Part<'t> {
    fn new(tape: &Tape, seat: u32) -> Part<'t> {
        let player = Replayer::new(&tape.header).for_seat(seat);
        Part { player, seat, steps: Vec::new(), told: BTreeMap::new(), held: BTreeSet::new() }
    }

    /// Tracks which controls and fingers are down.
    fn hold(&mut self, device: Device, input: Input) {
        let own = match input {
            Input::Level { control, value } if control.sort() != Sort::Notch => (Some(control), 0, value != 0.0),
            Input::Stands { control, x, y } | Input::Pair { control, x, y } if control.sort() == Sort::Pair => {
                (Some(control), 0, (x, y) != (0.0, 0.0))
            }
            Input::Stands { control, x, .. } => (Some(control), 0, x != 0.0),
            Input::Touch { finger, phase, .. } => (None, finger, matches!(phase, Phase::Down | Phase::Move)),
            _ => return,
        };
        let (control, finger, holds) = own;
        if holds {
            self.held.insert((device, control, finger));
        } else {
            self.held.remove(&(device, control, finger));
        }
    }
}

impl<'t> ReadyTape<'t> {
    /// Prepares a tape. Returns `None` if its lines are out of order, because late lines depend on what was played before.
    pub(crate) fn of(tape: &'t Tape, name: &'t str, linkage: &Linkage) -> Result<Option<ReadyTape<'t>>> {
        let (parts, end) = (vec![Part::new(tape, 1)], Moment::ZERO);
        let mut ready = ReadyTape { name, parts, end, rests: Vec::new(), lasting: Vec::new() };
        let mut lines = Ahead::new(tape.again());
        while let Some((number, line)) = lines.next() {
            let line = line.with_context(|| name.to_owned())?;
            let before = std::mem::replace(&mut ready.end, line.at);
            if line.at < before {
                return Ok(None);
            }
            let gap = lines.gap();
            if line.at > before && ready.parts.iter().all(|part| part.held.is_empty()) {
                let (until, before) = (line.at.as_micros(), before.as_micros());
                ready.rests.push(Rest { until, span: until - before });
            }
            let place = ready.parts.iter().position(|part| part.seat == line.seat).unwrap_or_else(|| {
                ready.parts.push(Part::new(tape, line.seat));
                ready.parts.len() - 1
            });
            let part = &mut ready.parts[place];
            let place = || format!("{name}: line {number}");
            if let Some(naming) = part.player.naming(line) {
                part.player.named(naming);
                ready.lasting.push(line.at.as_micros());
                part.steps.push(Step { at: line.at, number, gap, does: Does::Input(naming) });
            }
            let next = part.steps.len();
            let mut told = |sort: u8, name: &'t str| part.told.entry((sort, name)).or_default().push(next);
            let does = match &line.kind {
                LineKind::Meant(_)
                | LineKind::End
                | LineKind::Remap(_)
                | LineKind::Number { .. }
                | LineKind::Profile(_) => continue,
                LineKind::Skip { from } => {
                    ready.lasting.push(line.at.as_micros());
                    Does::Skip(from.unwrap_or(before).min(line.at))
                }
                kind => {
                    match kind {
                        LineKind::Fact { fact, .. } => told(0, fact),
                        LineKind::Mode { mode, .. } => told(1, mode),
                        LineKind::View { .. } => told(2, ""),
                        LineKind::Frozen(_) => told(3, ""),
                        _ => {}
                    }
                    let Some(input) = part.player.input(line, linkage).with_context(place)? else { continue };
                    match input {
                        SeatInput::Event { input: Input::Plugged(_), .. } => ready.lasting.push(line.at.as_micros()),
                        SeatInput::Event { device, input, .. } => part.hold(device, input),
                        SeatInput::Fact { .. } | SeatInput::Mode { .. } | SeatInput::View { .. } => {}
                        _ => ready.lasting.push(line.at.as_micros()),
                    }
                    Does::Input(input)
                }
            };
            part.steps.push(Step { at: line.at, number, gap, does });
        }
        Ok(Some(ready))
    }

    /// Splits the tape at pauses of at least `rest` µs.
    pub(crate) fn stretches(&self, rest: u64) -> Stretches {
        let rests = self.rests.iter().filter(|own| own.span >= rest).map(|own| own.until);
        let mut begins: Vec<u64> = std::iter::once(0).chain(rests).collect();
        begins.dedup();
        Stretches(begins)
    }

    /// The stretches that must always be played.
    pub(crate) fn lasting(&self, stretches: &Stretches) -> impl Iterator<Item = usize> {
        self.lasting.iter().map(|at| stretches.of(*at))
    }

    /// When an action pulls, and in which seat, in order. The linkage must come from the same profile, but may have other numbers.
    /// If only some stretches are played, only pulls in those are meaningful.
    pub(crate) fn pulls_of(&self, linkage: &Linkage, action: &str, chosen: Chosen<'_>) -> Result<Vec<(u64, u32)>> {
        let mut pulls = Vec::new();
        for part in &self.parts {
            let seat = linkage.seat_with(Moment::ZERO, room())?;
            let mut replay = Replay { seat, linkage, action, number: part.seat, pulls: &mut pulls };
            let mut play =
                |step: &Step| replay.step(step).with_context(|| format!("{}: line {}", self.name, step.number));
            match chosen {
                None => part.steps.iter().try_for_each(play)?,
                Some((stretches, plays)) => {
                    let mut done = 0;
                    for stretch in (0..stretches.count()).filter(|stretch| plays[*stretch]) {
                        let first = |stretch: usize| {
                            let begin = stretches.0.get(stretch).copied().unwrap_or(u64::MAX);
                            part.steps.partition_point(|step| step.at.as_micros() < begin)
                        };
                        let (from, to) = (first(stretch), first(stretch + 1));
                        if from > done {
                            let last = |own: &Vec<usize>| {
                                let before = own.partition_point(|step| *step < from).checked_sub(1)?;
                                own.get(before).copied().filter(|step| *step >= done)
                            };
                            let mut left_out: Vec<usize> = part.told.values().filter_map(last).collect();
                            left_out.sort_unstable();
                            left_out.iter().try_for_each(|step| play(&part.steps[*step]))?;
                        }
                        part.steps[from..to].iter().try_for_each(&mut play)?;
                        done = to;
                    }
                }
            }
            replay.advance(self.end).with_context(|| format!("{}: after its last line", self.name))?;
        }
        pulls.sort_unstable();
        Ok(pulls)
    }
}

/// A seat that plays one part.
struct Replay<'a> {
    seat: Seat,
    linkage: &'a Linkage,
    action: &'a str,
    number: u32,
    pulls: &'a mut Vec<(u64, u32)>,
}

impl Replay<'_> {
    fn step(&mut self, step: &Step) -> Result<()> {
        match step.gap {
            // Never advance into a gap: its lines apply when it ends.
            Some(from) if from > self.seat.played() => self.advance(from)?,
            None if self.seat.waiting().waiting >= AT_ONCE => self.advance(back(step.at, INSTANT))?,
            _ => {}
        }
        match self.does(step) {
            Err(error) if error.is_full() && self.seat.played() < back(step.at, INSTANT) => {
                self.advance(back(step.at, INSTANT))?;
                Ok(self.does(step)?)
            }
            other => Ok(other?),
        }
    }

    fn does(&mut self, step: &Step) -> Result<(), PutError> {
        match step.does {
            Does::Input(input) => Deck::apply(step.at, input, &mut self.seat)?,
            Does::Skip(from) => {
                if from >= self.seat.played() {
                    self.seat.advance(from);
                    self.look();
                }
                self.seat.skip(step.at);
                self.look();
            }
        }
        Ok(())
    }

    fn advance(&mut self, to: Moment) -> Result<()> {
        make_room(&mut self.seat)?;
        let mut count = 0;
        while self.seat.played() < to || count == 0 {
            let played = self.seat.advance_some(to, HISTORY / 2);
            count += self.look();
            if played >= to {
                break;
            }
            if count > MOST_HAPPENINGS {
                bail!("more than {MOST_HAPPENINGS} things happen between two lines; is a moment wrong?");
            }
        }
        Ok(())
    }

    /// Collects the pulls of the last tick, and returns how many things happened in it.
    fn look(&mut self) -> u64 {
        let mut count = 0;
        for happening in self.seat.latest().happenings() {
            count += 1;
            if happening.what() == What::Pulled && happening.action(self.linkage) == Some(self.action) {
                self.pulls.push((happening.at().as_micros(), self.number));
            }
        }
        count
    }
}
