//! What was fed or told and is not yet played: a queue of fixed size, in the order in which it will play, whatever the
//! order of feeding.

use alloc::vec::Vec;
use core::cmp::Reverse;

use crate::event::Device;
use crate::inputs::busy::Due;
use crate::time::NEVER;

/// One thing that waits.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Waiting {
    pub(crate) at: u64,
    pub(crate) x: i32,
    pub(crate) y: i32,
    pub(crate) number: u16,
    /// The device that says it; the first for what is told.
    pub(crate) device: Device,
    pub(crate) what: WaitingKind,
    pub(crate) behind: Behind,
}

/// How long after its own moment an event plays, in µs: it came late, or was moved on. Within a moment, what has waited
/// longest plays first, so that events keep the order of their own moments.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Behind(u32);

/// Set once an event was moved on.
const MOVED: u32 = 1 << 31;

impl Behind {
    pub(crate) fn late(by: u64) -> Behind {
        Behind(by.min(u64::from(MOVED - 1)) as u32)
    }

    fn micros(self) -> u32 {
        self.0 & !MOVED
    }
}

/// What a waiting thing is, in the order in which one moment plays them: what is told, then events.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) enum WaitingKind {
    /// Fact `number` is `x`.
    Fact,
    /// Mode `number` is on if `x` is 1.
    Mode,
    /// Toggle `number` is on if `x` is 1.
    Set,
    /// The game refused the last pull of action `number`.
    GiveBack,
    /// The view is `x` by `y` pixels.
    View,
    /// The panel is shown if `x` is 1.
    Panel,
    /// The finger whose name is the low byte of `number` (its phase lies above) is at `x`, `y` of the view.
    Touch,
    /// Slot `number` on its device stands at `x`, `y`. Of a wheel: it turns by `x`; or, with a `y` of 1, its notch goes
    /// up and `x` more are to come.
    Control,
    /// The window has the focus if `x` is 1.
    Focus,
    /// Device `number` is plugged in if `x` is 1.
    Plugged,
}

impl WaitingKind {
    pub(super) fn is_event(self) -> bool {
        !matches!(
            self,
            WaitingKind::Fact
                | WaitingKind::Mode
                | WaitingKind::Set
                | WaitingKind::GiveBack
                | WaitingKind::View
                | WaitingKind::Panel
        )
    }
}

impl Waiting {
    fn key(&self) -> (u64, bool, Reverse<u32>) {
        (self.at, self.what.is_event(), Reverse(self.behind.micros()))
    }

    /// Its turn, as its control or its finger is asked for it.
    pub(crate) fn due(&self) -> Due {
        let Behind(behind) = self.behind;
        Due { at: self.at, moved: behind & MOVED != 0 }
    }

    /// The place of the finger's name, if it is a finger's.
    pub(crate) fn finger(&self) -> Option<usize> {
        (self.what == WaitingKind::Touch).then_some(usize::from(self.number & 0xff))
    }

    /// What follows from it 1 µs later: it plays before anything else of that moment, however early that was fed.
    pub(crate) fn followed_by(self, x: i32, y: i32) -> Waiting {
        Waiting { x, y, ..self.moved_to(self.at + 1) }
    }

    /// The same, moved on to a later moment.
    pub(crate) fn moved_to(self, at: u64) -> Waiting {
        let Behind(behind) = Behind::late(u64::from(self.behind.micros()) + (at - self.at));
        Waiting { at, behind: Behind(behind | MOVED), ..self }
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> [u64; 3] {
        let values = u64::from(self.x as u32) << 32 | u64::from(self.y as u32);
        let Behind(behind) = self.behind;
        // Where a finger's name stands decides nothing.
        let number = if self.finger().is_some() { self.number & 0xff00 } else { self.number };
        let rest = u64::from(number) << 16 | (self.device.number() as u64) << 8 | self.what as u64;
        [self.at, values, u64::from(behind) << 32 | rest]
    }
}

#[derive(Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Queue {
    /// Those before `first` were taken out.
    waiting: Vec<Waiting>,
    first: usize,
    capacity: usize,
    /// When the first is due, or `NEVER`: asked for far more often than anything is taken out.
    next: u64,
}

impl Queue {
    pub(crate) fn new(capacity: usize) -> Queue {
        Queue { waiting: Vec::with_capacity(capacity), first: 0, capacity, next: NEVER }
    }

    pub(crate) fn len(&self) -> usize {
        self.waiting.len() - self.first
    }

    pub(crate) fn capacity(&self) -> usize {
        self.capacity
    }

    #[inline]
    pub(crate) fn room(&self) -> usize {
        self.capacity - self.len()
    }

    /// Adds behind everything that plays no later; the caller has seen that there is room.
    #[inline]
    pub(crate) fn push(&mut self, waiting: Waiting) {
        if self.waiting.len() == self.capacity {
            self.close_up();
        }
        // Devices report in order, so the place is nearly always the end.
        if !self.push_last(waiting) {
            self.push_between(waiting);
        }
    }

    /// Adds behind everything, if it plays later than that and there is room; whether it was added.
    #[inline(always)]
    pub(crate) fn push_last(&mut self, waiting: Waiting) -> bool {
        let is_last = self.waiting.last().is_none_or(|last| last.at < waiting.at);
        if !is_last || self.waiting.len() >= self.capacity {
            return false;
        }
        self.waiting.push(waiting);
        self.next = self.next.min(waiting.at);
        true
    }

    #[inline(never)]
    fn push_between(&mut self, waiting: Waiting) {
        let key = waiting.key();
        let place = self.waiting[self.first..].partition_point(|other| other.key() <= key);
        self.waiting.insert(self.first + place, waiting);
        self.next = self.next.min(waiting.at);
    }

    /// Gives the room of those that were taken out back.
    #[cold]
    #[inline(never)]
    fn close_up(&mut self) {
        self.waiting.drain(..self.first);
        self.first = 0;
    }

    /// When the next thing is due, or `NEVER`.
    #[inline]
    pub(super) fn next_at(&self) -> u64 {
        self.next
    }

    /// Whether the next thing was told, and is due by this moment.
    #[inline(always)]
    pub(crate) fn tells(&self, at: u64) -> bool {
        self.next <= at && self.waiting.get(self.first).is_some_and(|next| !next.what.is_event())
    }

    /// Takes out the next thing that was told, if it is due by this moment.
    #[inline]
    pub(crate) fn pop_told(&mut self, at: u64) -> Option<Waiting> {
        if self.next > at || self.waiting.get(self.first)?.what.is_event() {
            return None;
        }
        self.pop()
    }

    /// Takes out the next thing if it is due at this very moment.
    #[inline]
    pub(crate) fn pop_at(&mut self, at: u64) -> Option<Waiting> {
        if self.next != at {
            return None;
        }
        self.pop()
    }

    #[inline]
    fn pop(&mut self) -> Option<Waiting> {
        let waiting = *self.waiting.get(self.first)?;
        self.first += 1;
        match self.waiting.get(self.first) {
            Some(next) => self.next = next.at,
            None => {
                self.waiting.clear();
                (self.first, self.next) = (0, NEVER);
            }
        }
        Some(waiting)
    }

    pub(crate) fn iter(&self) -> impl Iterator<Item = &Waiting> {
        self.waiting[self.first..].iter()
    }

    /// Becomes `other` without allocating, where the capacity is the same.
    pub(crate) fn copy_from(&mut self, other: &Queue) {
        self.waiting.clear();
        self.waiting.extend_from_slice(&other.waiting[other.first..]);
        (self.first, self.capacity, self.next) = (0, other.capacity, other.next);
    }
}
