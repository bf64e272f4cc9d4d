//! Timers: which of many falls due next. Setting, dropping and taking one costs the logarithm of how many are set,
//! and waiting costs nothing.

use alloc::vec;
use alloc::vec::Vec;

/// When within a moment a timer plays: before its events, or after everything else.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum DuePart {
    /// A span was reached; before the moment's events.
    #[default]
    Due,
    /// A window ends with this moment; after the moment's pulls.
    Expire,
}

/// Not set.
const UNSET: u32 = u32::MAX;

/// A moment and a phase as one number, in order.
fn key(at: u64, phase: DuePart) -> u64 {
    // No moment reaches 2^63.
    at << 1 | phase as u64
}

/// One that is set.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
struct Timer {
    due: u64,
    owner: u32,
}

impl Timer {
    /// Whether it is due before another one. Equal moments go by owner, so that the order never depends on the past.
    #[inline(always)]
    fn is_before(self, other: Timer) -> bool {
        self.due < other.due || self.due == other.due && self.owner < other.owner
    }
}

/// One timer for each of a fixed number of owners, as a binary heap that knows every owner's place.
#[derive(Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Timers {
    /// The next due first.
    heap: Vec<Timer>,
    /// Each owner's place in the heap.
    place: Vec<u32>,
    /// When the first is due, with its phase; `NONE_DUE` if none is set.
    next: u64,
}

/// Later than any moment and phase.
const NONE_DUE: u64 = u64::MAX;

impl Timers {
    pub(crate) fn new(owners: usize) -> Timers {
        Timers { heap: Vec::with_capacity(owners), place: vec![UNSET; owners], next: NONE_DUE }
    }

    /// When the next is due; later than any moment if none is set.
    #[inline]
    pub(crate) fn next_at(&self) -> u64 {
        self.next >> 1
    }

    /// When an owner's timer is due; `None` if it isn't set.
    pub(crate) fn when(&self, owner: usize) -> Option<(u64, DuePart)> {
        let timer = self.heap.get(*self.place.get(owner)? as usize)?;
        Some((timer.due >> 1, if timer.due & 1 == 0 { DuePart::Due } else { DuePart::Expire }))
    }

    /// Takes the next one out if it is due at or before this moment and phase.
    pub(crate) fn take(&mut self, at: u64, phase: DuePart) -> Option<usize> {
        let owner = self.heap.first().filter(|timer| timer.due <= key(at, phase))?.owner as usize;
        self.drop(owner);
        Some(owner)
    }

    pub(crate) fn set(&mut self, owner: usize, at: u64, phase: DuePart) {
        let timer = Timer { due: key(at, phase), owner: owner as u32 };
        let place = self.place[owner] as usize;
        match self.heap.get(place).copied() {
            Some(before) if before.is_before(timer) => self.sink(place, timer),
            Some(_) => self.rise(place, timer),
            None => {
                self.heap.push(timer);
                self.rise(self.heap.len() - 1, timer);
            }
        }
        self.next = self.heap[0].due;
    }

    #[inline]
    pub(crate) fn drop(&mut self, owner: usize) {
        let place = self.place[owner];
        if place != UNSET {
            self.place[owner] = UNSET;
            self.close_up(place as usize);
            self.next = self.heap.first().map_or(NONE_DUE, |timer| timer.due);
        }
    }

    /// How many owners there are.
    pub(crate) fn owners(&self) -> usize {
        self.place.len()
    }

    /// An owner that has no timer set, from this number on.
    pub(crate) fn free_from(&self, first: usize) -> Option<usize> {
        (first..self.place.len()).find(|owner| self.place[*owner] == UNSET)
    }

    /// Fills the place of one that was taken out with the last one.
    fn close_up(&mut self, place: usize) {
        let Some(last) = self.heap.pop() else { return };
        if place == self.heap.len() {
            return;
        }
        let gone = core::mem::replace(&mut self.heap[place], last);
        if last.is_before(gone) { self.rise(place, last) } else { self.sink(place, last) }
    }

    fn put(&mut self, place: usize, timer: Timer) {
        self.heap[place] = timer;
        self.place[timer.owner as usize] = place as u32;
    }

    /// Puts one in at this place or above it.
    #[inline(always)]
    fn rise(&mut self, place: usize, timer: Timer) {
        if place > 0 && timer.is_before(self.heap[(place - 1) / 2]) {
            self.rise_above(place, timer);
        } else {
            self.put(place, timer);
        }
    }

    #[inline(never)]
    fn rise_above(&mut self, mut place: usize, timer: Timer) {
        while place > 0 {
            let above = self.heap[(place - 1) / 2];
            if above.is_before(timer) {
                break;
            }
            self.put(place, above);
            place = (place - 1) / 2;
        }
        self.put(place, timer);
    }

    /// Puts one in at this place or below it.
    #[inline(always)]
    fn sink(&mut self, place: usize, timer: Timer) {
        // Nearly always nothing stands below.
        if 2 * place + 1 < self.heap.len() { self.sink_below(place, timer) } else { self.put(place, timer) }
    }

    #[inline(never)]
    fn sink_below(&mut self, mut place: usize, timer: Timer) {
        loop {
            let child = 2 * place + 1;
            let Some(mut first) = self.heap.get(child).copied() else { break };
            let mut to = child;
            if let Some(other) = self.heap.get(child + 1).filter(|other| other.is_before(first)) {
                (first, to) = (*other, child + 1);
            }
            if timer.is_before(first) {
                break;
            }
            self.put(place, first);
            place = to;
        }
        self.put(place, timer);
    }

    /// Becomes `other`, which has as many owners; it costs what is set.
    pub(crate) fn copy_from(&mut self, other: &Timers) {
        for timer in &self.heap {
            self.place[timer.owner as usize] = UNSET;
        }
        self.heap.clone_from(&other.heap);
        self.next = other.next;
        for (place, timer) in self.heap.iter().enumerate() {
            self.place[timer.owner as usize] = place as u32;
        }
    }

    /// Whether each one that is set, and no other, knows its place.
    #[cfg(feature = "serde")]
    pub(crate) fn fits(&self) -> bool {
        let placed = self.place.iter().filter(|place| **place != UNSET).count();
        let own = |(place, timer): (usize, &Timer)| self.place.get(timer.owner as usize) == Some(&(place as u32));
        placed == self.heap.len() && self.heap.iter().enumerate().all(own)
    }

    /// What a state's hash is made of: owners and moments of those that are set, by owner.
    pub(crate) fn words(&self) -> impl Iterator<Item = u64> {
        let set = self.place.iter().enumerate().filter_map(|(owner, place)| {
            let timer = self.heap.get(*place as usize)?;
            Some([owner as u64, timer.due])
        });
        set.flatten()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn timers_come_out_in_the_order_of_a_sorted_list_whatever_was_set_and_dropped() {
        let mut timers = Timers::new(64);
        let mut naive: Vec<Option<(u64, DuePart)>> = vec![None; 64];
        let mut dice = fastrand::Rng::with_seed(7);
        for _ in 0..20_000 {
            let owner = dice.usize(0..64);
            match dice.u8(0..4) {
                0 | 1 => {
                    let phase = if dice.bool() { DuePart::Due } else { DuePart::Expire };
                    let at = dice.u64(0..200);
                    timers.set(owner, at, phase);
                    naive[owner] = Some((at, phase));
                }
                2 => {
                    timers.drop(owner);
                    naive[owner] = None;
                }
                _ => {
                    let at = dice.u64(0..200);
                    let first = naive.iter().enumerate().filter_map(|(n, due)| due.map(|due| (due, n))).min();
                    let wanted = first.filter(|(due, _)| *due <= (at, DuePart::Due)).map(|(_, owner)| owner);
                    assert_eq!(timers.take(at, DuePart::Due), wanted);
                    wanted.into_iter().for_each(|owner| naive[owner] = None);
                }
            }
            let next = naive.iter().flatten().min().map_or(NONE_DUE >> 1, |(at, _)| *at);
            assert_eq!(timers.next_at(), next);
            assert_eq!(timers.when(owner), naive[owner]);
        }
    }
}
