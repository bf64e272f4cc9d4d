//! Timers: which of many falls due next. Setting, dropping and taking one costs the logarithm of how many are set,
//! and waiting costs nothing.

use alloc::vec;
use alloc::vec::Vec;

/// When within a moment a timer plays: before its events, or after everything else.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Phase {
    /// A span was reached; before the moment's events.
    #[default]
    Due,
    /// A window ends with this moment; after the moment's pulls.
    Expire,
}

/// Not set.
const UNSET: u32 = u32::MAX;

/// One timer for each of a fixed number of owners, as a binary heap that knows every owner's place.
#[derive(Debug)]
pub(crate) struct Timers {
    /// Owners, the next due first.
    heap: Vec<u32>,
    /// Each owner's place in the heap.
    place: Vec<u32>,
    due: Vec<(u64, Phase)>,
}

impl Clone for Timers {
    /// With all of its room.
    fn clone(&self) -> Timers {
        let mut copy = Timers::new(self.place.len());
        copy.copy_from(self);
        copy
    }
}

impl Timers {
    pub(crate) fn new(owners: usize) -> Timers {
        Timers { heap: Vec::with_capacity(owners), place: vec![UNSET; owners], due: vec![(0, Phase::Due); owners] }
    }

    /// Equal moments go by owner, so that the order never depends on the past.
    fn key(&self, place: usize) -> (u64, Phase, u32) {
        let owner = self.heap[place];
        let (at, phase) = self.due[owner as usize];
        (at, phase, owner)
    }

    /// When the next is due.
    pub(crate) fn next(&self) -> Option<(u64, Phase)> {
        self.heap.first().map(|owner| self.due[*owner as usize])
    }

    /// When an owner's timer is due; `None` if it isn't set.
    pub(crate) fn when(&self, owner: usize) -> Option<(u64, Phase)> {
        (*self.place.get(owner)? != UNSET).then(|| self.due[owner])
    }

    /// Whether one is due at or before this moment and phase.
    #[inline]
    pub(crate) fn is_due(&self, at: u64, phase: Phase) -> bool {
        self.heap.first().is_some_and(|owner| self.due[*owner as usize] <= (at, phase))
    }

    /// Takes the next one out if it is due at or before this moment and phase.
    pub(crate) fn take(&mut self, at: u64, phase: Phase) -> Option<usize> {
        let owner = *self.heap.first()? as usize;
        (self.due[owner] <= (at, phase)).then(|| {
            self.drop(owner);
            owner
        })
    }

    pub(crate) fn set(&mut self, owner: usize, at: u64, phase: Phase) {
        self.drop(owner);
        self.due[owner] = (at, phase);
        self.heap.push(owner as u32);
        self.place[owner] = self.heap.len() as u32 - 1;
        self.rise(self.heap.len() - 1);
    }

    pub(crate) fn drop(&mut self, owner: usize) {
        let place = self.place[owner];
        if place == UNSET {
            return;
        }
        let place = place as usize;
        self.place[owner] = UNSET;
        let last = self.heap.pop();
        if let Some(last) = last
            && place < self.heap.len()
        {
            self.heap[place] = last;
            self.place[last as usize] = place as u32;
            self.rise(place);
            self.sink(self.place[last as usize] as usize);
        }
    }

    /// An owner that has no timer set, from this number on.
    pub(crate) fn free_from(&self, first: usize) -> Option<usize> {
        (first..self.place.len()).find(|owner| self.place[*owner] == UNSET)
    }

    fn swap(&mut self, a: usize, b: usize) {
        self.heap.swap(a, b);
        self.place[self.heap[a] as usize] = a as u32;
        self.place[self.heap[b] as usize] = b as u32;
    }

    fn rise(&mut self, mut place: usize) {
        while place > 0 && self.key(place) < self.key((place - 1) / 2) {
            self.swap(place, (place - 1) / 2);
            place = (place - 1) / 2;
        }
    }

    fn sink(&mut self, mut place: usize) {
        loop {
            let (left, right) = (2 * place + 1, 2 * place + 2);
            let mut first = place;
            for child in [left, right] {
                if child < self.heap.len() && self.key(child) < self.key(first) {
                    first = child;
                }
            }
            if first == place {
                return;
            }
            self.swap(place, first);
            place = first;
        }
    }

    pub(crate) fn copy_from(&mut self, other: &Timers) {
        self.heap.clone_from(&other.heap);
        self.place.clone_from(&other.place);
        self.due.clone_from(&other.due);
    }

    /// What a state's hash is made of: owners and moments of those that are set, by owner.
    pub(crate) fn words(&self) -> impl Iterator<Item = u64> {
        let set = self.place.iter().enumerate().filter(|(_, place)| **place != UNSET);
        set.flat_map(|(owner, _)| [owner as u64, self.due[owner].0 << 1 | self.due[owner].1 as u64])
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn timers_come_out_in_the_order_of_a_sorted_list_whatever_was_set_and_dropped() {
        let mut timers = Timers::new(64);
        let mut naive: Vec<Option<(u64, Phase)>> = vec![None; 64];
        let mut dice = fastrand::Rng::with_seed(7);
        for _ in 0..20_000 {
            let owner = dice.usize(0..64);
            match dice.u8(0..4) {
                0 | 1 => {
                    let phase = if dice.bool() { Phase::Due } else { Phase::Expire };
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
                    let wanted = first.filter(|(due, _)| *due <= (at, Phase::Due)).map(|(_, owner)| owner);
                    assert_eq!(timers.take(at, Phase::Due), wanted);
                    wanted.into_iter().for_each(|owner| naive[owner] = None);
                }
            }
            assert_eq!(timers.next(), naive.iter().flatten().min().copied());
        }
    }
}
