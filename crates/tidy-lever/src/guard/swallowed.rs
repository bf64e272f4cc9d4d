//! What guards kept from being heard, for people: it lies outside a seat's state.

use alloc::collections::VecDeque;
use alloc::vec::Vec;
use core::fmt;
use core::time::Duration;

use crate::control::Control;
use crate::direction::Direction;
use crate::event::Device;
use crate::fixed::{self, length};
use crate::time::Moment;

/// The guard that kept something from being heard.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum GuardedBy {
    /// `debounce`: a key or button bounced.
    Debounce,
    /// `drop_out`: a key or button was up for a moment.
    DropOut,
    /// `snapback`: a stick swung to the other side after it was let go.
    Snapback,
}

impl GuardedBy {
    /// The key that sets it.
    pub const fn name(self) -> &'static str {
        match self {
            GuardedBy::Debounce => "debounce",
            GuardedBy::DropOut => "drop_out",
            GuardedBy::Snapback => "snapback",
        }
    }
}

/// What a guard kept from being heard.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct Swallowed {
    /// The device that said it.
    pub device: Device,
    /// The control.
    pub control: Control,
    /// The guard.
    pub by: GuardedBy,
    /// The edge that counted, or the letting go that didn't; of a stick, when it was on the other side first.
    pub from: Moment,
    /// The last that it said unheard; of a stick, when it was heard again.
    pub to: Moment,
    /// When the guard's span was over.
    pub at: Moment,
    /// Of a stick: the longest push that was not heard, right and up.
    pub x: f32,
    /// See `x`.
    pub y: f32,
}

impl Swallowed {
    /// How long it went on.
    pub fn lasted(&self) -> Duration {
        self.to - self.from
    }
}

/// `keys:KeyJ bounced for 3 ms`, `pad:left-stick swung 0.31 to the left for 18 ms`.
impl fmt::Display for Swallowed {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let (control, ms) = (self.control, self.lasted().as_micros() as f64 / 1e3);
        match self.by {
            GuardedBy::Debounce => write!(f, "{control} bounced for {ms} ms"),
            GuardedBy::DropOut => write!(f, "{control} let go for {ms} ms"),
            GuardedBy::Snapback => {
                let far = libm::sqrt(f64::from(self.x) * f64::from(self.x) + f64::from(self.y) * f64::from(self.y));
                write!(f, "{control} swung {far:.2} to the {} for {ms} ms", nearest(self.x, self.y).name())
            }
        }
    }
}

/// The nearest of the eight directions.
fn nearest(x: f32, y: f32) -> Direction {
    // The tangent of 22.5 degrees.
    const EIGHTH: f32 = 0.414_213_57;
    let (across, up) = (x.abs() > EIGHTH * y.abs(), y.abs() > EIGHTH * x.abs());
    match (across, up, x > 0.0, y > 0.0) {
        (true, true, true, true) => Direction::UpRight,
        (true, true, true, false) => Direction::DownRight,
        (true, true, false, true) => Direction::UpLeft,
        (true, true, false, false) => Direction::DownLeft,
        (false, _, _, true) => Direction::Up,
        (false, _, _, false) => Direction::Down,
        (true, false, true, _) => Direction::Right,
        (true, false, false, _) => Direction::Left,
    }
}

/// What was swallowed within one span of a guard, in µs and millionths.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Entry {
    pub(crate) device: Device,
    pub(crate) control: Control,
    pub(crate) by: GuardedBy,
    pub(crate) from: u64,
    pub(crate) to: u64,
    /// The span's end.
    pub(crate) done: u64,
    pub(crate) push: (i32, i32),
    /// How often it said something unheard.
    pub(crate) count: u32,
    /// A stick is heard again.
    pub(crate) over: bool,
}

impl Entry {
    fn told(&self) -> Swallowed {
        let Entry { device, control, by, from, to, done, push: (x, y), count: _, over: _ } = *self;
        let moment = Moment::from_micros;
        let (x, y) = (fixed::to_f32(x), fixed::to_f32(y));
        Swallowed { device, control, by, from: moment(from), to: moment(to), at: moment(done), x, y }
    }
}

/// The most spans that are told of while they run. A hand has fewer.
const MOST_OPEN: usize = 64;
/// The most that is kept.
const MOST_KEPT: usize = 1 << 16;

/// What was swallowed lately. It has all its room from the beginning.
#[derive(Debug)]
pub(crate) struct Log {
    room: usize,
    /// Those whose spans are over, in the order of their ends; and how many went before these.
    closed: VecDeque<Entry>,
    dropped: u64,
    /// The others, in the order of their ends.
    open: Vec<Entry>,
}

impl Log {
    pub(crate) fn new(room: usize) -> Log {
        let room = room.min(MOST_KEPT);
        let (closed, open) = (VecDeque::with_capacity(room + MOST_OPEN), Vec::with_capacity(MOST_OPEN));
        Log { room, closed, dropped: 0, open }
    }

    pub(crate) fn note(&mut self, entry: Entry) {
        let over = self.open.partition_point(|open| open.done < entry.to);
        self.closed.extend(self.open.drain(..over));
        while self.closed.len() > self.room {
            self.closed.pop_front();
            self.dropped += 1;
        }
        let key = |one: &Entry| (one.device, one.control, one.by, one.done);
        let Some(open) = self.open.iter().position(|open| key(open) == key(&entry)) else {
            if self.open.len() < MOST_OPEN {
                let place = self.open.partition_point(|open| open.done <= entry.done);
                self.open.insert(place, entry);
            }
            return;
        };
        let open = &mut self.open[open];
        (open.to, open.count, open.over) = (entry.to, open.count + entry.count, false);
        if length(entry.push.0, entry.push.1) > length(open.push.0, open.push.1) {
            open.push = entry.push;
        }
    }

    /// A button's span ends, and the button counts as it stands: its last edge was heard after all. If that was the only one,
    /// nothing was swallowed.
    pub(crate) fn is_heard_after_all(&mut self, device: Device, control: Control, done: u64) {
        let is_its = |open: &Entry| (open.device, open.control, open.done, open.count) == (device, control, done, 1);
        self.open.retain(|open| !is_its(open));
    }

    /// A stick is heard: what it swung to lasted until then.
    pub(crate) fn is_heard_again(&mut self, device: Device, control: Control, at: u64) {
        let is_its = |open: &&mut Entry| (open.device, open.control, open.over) == (device, control, false);
        self.open.iter_mut().filter(is_its).for_each(|open| (open.to, open.over) = (at.min(open.done), true));
    }

    /// Those whose spans are over by a moment, from number `from` on.
    pub(crate) fn since(&self, from: u64, played: u64) -> impl Iterator<Item = Swallowed> {
        let over = self.open.iter().take_while(move |open| open.done <= played);
        let skipped = from.saturating_sub(self.dropped) as usize;
        self.closed.iter().chain(over).skip(skipped).map(Entry::told)
    }

    /// How many there were whose spans are over by a moment.
    pub(crate) fn total(&self, played: u64) -> u64 {
        let over = self.open.partition_point(|open| open.done <= played);
        self.dropped + self.closed.len() as u64 + over as u64
    }
}
