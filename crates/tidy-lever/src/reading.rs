//! Readings: what happened since a reader looked last, and how things stand. Pure questions, small answers.

use core::time::Duration;

use alloc::vec::Vec;

use crate::direction::Direction;
use crate::fixed::{self, to_f32};
use crate::handle;
use crate::history::{Happening, What};
use crate::linkage::NONE;
use crate::seat::{ActionState, Seat, Sums};
use crate::signal::Moved;
use crate::time::Moment;

/// One reader's place in a seat's history. Make it with [`Seat::bookmark`], read on with [`Seat::read`].
///
/// Each reader has its own and gets every edge and pull exactly once, at whatever rate it reads.
#[derive(Debug, Default)]
pub struct Bookmark {
    /// The sums at the last reading, and at the one before it.
    now: Vec<Sums>,
    before: Vec<Sums>,
    /// How many happenings there had been, likewise.
    total: u64,
    total_before: u64,
}

impl Bookmark {
    pub(crate) fn new(seat: &Seat) -> Bookmark {
        let sums: Vec<Sums> = seat.block.actions.iter().map(|action| action.sums).collect();
        let total = seat.block.ring.total();
        Bookmark { before: sums.clone(), now: sums, total, total_before: total }
    }
}

impl Clone for Bookmark {
    fn clone(&self) -> Bookmark {
        let (now, before) = (self.now.clone(), self.before.clone());
        Bookmark { now, before, total: self.total, total_before: self.total_before }
    }

    /// Without allocating, for bookmarks of one profile.
    fn clone_from(&mut self, other: &Bookmark) {
        self.now.clone_from(&other.now);
        self.before.clone_from(&other.before);
        (self.total, self.total_before) = (other.total, other.total_before);
    }
}

/// What one reader has to read: everything since it read last.
#[derive(Clone, Copy, Debug)]
pub struct Reading<'s> {
    seat: &'s Seat,
    /// The sums before, for a bookmark; the last tick's otherwise.
    before: Option<&'s [Sums]>,
    from: u64,
}

impl<'s> Reading<'s> {
    pub(crate) fn latest(seat: &'s Seat) -> Reading<'s> {
        Reading { seat, before: None, from: seat.block.tick_began }
    }

    pub(crate) fn since(seat: &'s Seat, bookmark: &'s mut Bookmark) -> Reading<'s> {
        core::mem::swap(&mut bookmark.now, &mut bookmark.before);
        bookmark.total_before = bookmark.total;
        bookmark.total = seat.block.ring.total();
        bookmark.now.clear();
        bookmark.now.extend(seat.block.actions.iter().map(|action| action.sums));
        Reading { seat, from: bookmark.total_before, before: Some(&bookmark.before) }
    }

    /// What an action did since, as differences of running sums.
    fn sums(&self, number: usize) -> Sums {
        let state = &self.seat.block.actions[number];
        let before = match self.before {
            Some(before) => before.get(number).copied().unwrap_or_default(),
            None if state.tick == self.seat.block.tick => state.before,
            None => state.sums,
        };
        Sums {
            pressed: state.sums.pressed.wrapping_sub(before.pressed),
            released: state.sums.released.wrapping_sub(before.released),
            pulled: state.sums.pulled.wrapping_sub(before.pulled),
        }
    }

    fn of(&self, number: u16, stamp: u32) -> ButtonReading {
        match self.seat.own(number, stamp) {
            Some(number) => ButtonReading {
                state: self.seat.block.actions[number],
                sums: self.sums(number),
                now: self.seat.played(),
            },
            None => ButtonReading { state: ActionState::default(), sums: Sums::default(), now: self.seat.played() },
        }
    }

    /// What a button did, and how it stands.
    pub fn button(&self, button: handle::Button) -> ButtonReading {
        self.of(button.number, button.stamp)
    }

    /// How an axis stands, and what its edges did.
    pub fn axis(&self, axis: handle::Axis) -> AxisReading {
        let edges = self.of(axis.number, axis.stamp);
        let moved = self.moved(axis.number, axis.stamp);
        let range = moved.map_or([0; 3], |number| self.seat.plan().moved[number].range);
        let state = moved.map_or(Moved::default(), |number| self.seat.block.moved[number]);
        AxisReading { edges, range, state }
    }

    /// How a stick stands, and what its edges did.
    pub fn stick(&self, stick: handle::Stick) -> StickReading {
        let edges = self.of(stick.number, stick.stamp);
        let state =
            self.moved(stick.number, stick.stamp).map_or(Moved::default(), |number| self.seat.block.moved[number]);
        StickReading { edges, state }
    }

    fn moved(&self, number: u16, stamp: u32) -> Option<usize> {
        let number = self.seat.own(number, stamp)?;
        let moved = self.seat.plan().actions[number].moved;
        (moved != NONE).then_some(usize::from(moved))
    }

    /// Everything that happened since, oldest first, as far as the history's ring still holds it.
    pub fn happenings(&self) -> impl Iterator<Item = &'s Happening> {
        let ring = &self.seat.block.ring;
        ring.between(self.from, ring.total())
    }

    /// How many happenings the ring no longer holds.
    pub fn lost(&self) -> u64 {
        self.seat.block.ring.oldest().saturating_sub(self.from)
    }

    /// The moments at which a button pulled, oldest first, and how many are lost.
    pub fn pulls(&self, button: handle::Button) -> Moments<impl Iterator<Item = Moment> + use<'s>> {
        let total = u64::from(self.button(button).pulls());
        self.moments(button, total, |what| what == What::Pulled)
    }

    /// The moments at which a control of a button went down, oldest first, and how many are lost.
    pub fn presses(&self, button: handle::Button) -> Moments<impl Iterator<Item = Moment> + use<'s>> {
        let total = u64::from(self.button(button).presses());
        self.moments(button, total, |what| what == What::Pressed)
    }

    /// The moments at which a button was let go, oldest first, and how many are lost.
    pub fn releases(&self, button: handle::Button) -> Moments<impl Iterator<Item = Moment> + use<'s>> {
        let total = u64::from(self.button(button).releases());
        self.moments(button, total, |what| matches!(what, What::Released(_)))
    }

    fn moments(
        &self,
        button: handle::Button,
        total: u64,
        which: fn(What) -> bool,
    ) -> Moments<impl Iterator<Item = Moment> + use<'s>> {
        let number = self.seat.own(button.number, button.stamp);
        let of = move |happening: &&Happening| Some(usize::from(happening.action)) == number && which(happening.what);
        let ring = &self.seat.block.ring;
        let all = move |from| ring.between(from, ring.total()).filter(of).map(|happening| happening.at);
        Moments { lost: total - all(self.from).count() as u64, moments: all(self.from) }
    }
}

/// Single moments, oldest first; those that history no longer holds are told by number.
#[derive(Clone, Debug)]
pub struct Moments<I> {
    lost: u64,
    moments: I,
}

impl<I> Moments<I> {
    /// How many moments, the oldest, are no longer held.
    pub fn lost(&self) -> u64 {
        self.lost
    }
}

impl<I: Iterator<Item = Moment>> Iterator for Moments<I> {
    type Item = Moment;
    fn next(&mut self) -> Option<Moment> {
        self.moments.next()
    }
}

/// What a button did since last read (`was_…`), and how it stands now (`is_…`).
#[derive(Clone, Copy, Debug)]
pub struct ButtonReading {
    state: ActionState,
    sums: Sums,
    now: Moment,
}

impl ButtonReading {
    /// Whether it is down now.
    pub fn is_down(&self) -> bool {
        self.state.held > 0
    }

    /// Whether a control of it went down since last read, if only for a moment.
    pub fn was_pressed(&self) -> bool {
        self.sums.pressed > 0
    }

    /// Whether its last control was let go since last read, by the hand or otherwise.
    pub fn was_released(&self) -> bool {
        self.sums.released > 0
    }

    /// Whether it pulled since last read.
    pub fn was_pulled(&self) -> bool {
        self.sums.pulled > 0
    }

    /// Whether a pull of it lasts now.
    pub fn is_on(&self) -> bool {
        self.state.on
    }

    /// How often a control of it went down since last read.
    pub fn presses(&self) -> u32 {
        self.sums.pressed
    }

    /// How often it was let go since last read.
    pub fn releases(&self) -> u32 {
        self.sums.released
    }

    /// How often it pulled since last read.
    pub fn pulls(&self) -> u32 {
        self.sums.pulled
    }

    /// How long it is down by now, from its first control; nothing while it is up.
    pub fn held_for(&self) -> Duration {
        if self.is_down() { self.now - Moment::from_micros(self.state.since) } else { Duration::ZERO }
    }

    /// How long it was down before it was let go last; nothing before the first time.
    pub fn was_held_for(&self) -> Duration {
        Duration::from_micros(self.state.was_held)
    }

    /// How long it has been on by now; nothing while it is not.
    pub fn on_for(&self) -> Duration {
        if self.state.on { self.now - Moment::from_micros(self.state.on_since) } else { Duration::ZERO }
    }
}

/// How an axis stands.
#[derive(Clone, Copy, Debug)]
pub struct AxisReading {
    edges: ButtonReading,
    range: [i64; 3],
    state: Moved,
}

impl AxisReading {
    /// Its value in its own range; −1 to 1 if it has none.
    pub fn value(&self) -> f32 {
        (self.micros() as f64 / 1e6) as f32
    }

    /// Its value in whole millionths.
    pub fn micros(&self) -> i64 {
        let [low, rest, high] = self.range;
        let level = i64::from(self.state.x);
        let end = if level < 0 { rest - low } else { high - rest };
        // The range ends at a million, in millionths: 2^40 × 2^20 stays below 2^63.
        rest + end * level / i64::from(fixed::ONE)
    }

    /// Its level from −1 to 1, before its range.
    pub fn level(&self) -> f32 {
        to_f32(self.state.x)
    }

    /// Its edges: down while it is away from rest.
    pub fn edges(&self) -> ButtonReading {
        self.edges
    }
}

/// How a stick stands.
#[derive(Clone, Copy, Debug)]
pub struct StickReading {
    edges: ButtonReading,
    state: Moved,
}

impl StickReading {
    /// Right and up, −1 to 1 each; never longer than 1 together.
    pub fn xy(&self) -> (f32, f32) {
        (to_f32(self.state.x), to_f32(self.state.y))
    }

    /// The same in whole millionths.
    pub fn micros(&self) -> (i32, i32) {
        (self.state.x, self.state.y)
    }

    /// How far it is pushed, 0 to 1.
    pub fn size(&self) -> f32 {
        to_f32(fixed::length(self.state.x, self.state.y))
    }

    /// The exact angle in degrees, from 0 (right) counter-clockwise to below 360; `None` at rest, never 0 for it.
    pub fn degrees(&self) -> Option<f32> {
        degrees(self.state.x, self.state.y)
    }

    /// The direction it is held in; `None` for none.
    pub fn direction(&self) -> Option<Direction> {
        self.state.direction
    }

    /// Since when it is held in this direction, or in none.
    pub fn direction_since(&self) -> Moment {
        Moment::from_micros(self.state.since)
    }

    /// The direction that is held or was held last, with its age: nothing while it is held. `None` before the first.
    ///
    /// A straight that only flashes by for less than 35 ms while the fingers leave a diagonal of keys doesn't count.
    pub fn last_direction(&self) -> Option<(Direction, Duration)> {
        match self.state.direction {
            Some(direction) => Some((direction, Duration::ZERO)),
            None => self.state.last.map(|last| (last, self.edges.now - Moment::from_micros(self.state.last_at))),
        }
    }

    /// Its edges as a whole: down while it is away from rest.
    pub fn edges(&self) -> ButtonReading {
        self.edges
    }
}

/// The angle of a pair in degrees, 0 to below 360; `None` for no pair.
pub(crate) fn degrees(x: i32, y: i32) -> Option<f32> {
    if (x, y) == (0, 0) {
        return None;
    }
    let angle = libm::atan2(f64::from(y), f64::from(x)) * (180.0 / core::f64::consts::PI);
    let angle = if angle < 0.0 { angle + 360.0 } else { angle } as f32;
    Some(if angle >= 360.0 { 0.0 } else { angle })
}
