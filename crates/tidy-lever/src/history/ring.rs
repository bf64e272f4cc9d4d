//! The ring of the last happenings, and which line of events it tells.

use core::ops::Range;

use alloc::vec;
use alloc::vec::Vec;

use super::{Happening, What};
use crate::serial::serial;
use crate::time::Moment;

/// The last happenings, oldest first.
#[derive(Debug)]
pub(crate) struct Ring {
    /// As many places as there is room for. In a ring that was read and not copied yet, only what is kept, oldest first.
    kept: Vec<Happening>,
    capacity: usize,
    #[cfg(feature = "serde")]
    packed: bool,
    /// How many there have ever been.
    total: u64,
    /// The first number that there was room for: those before it are forgotten, however much room there is now.
    since: u64,
    /// Where the next one goes: the total's rest, without a division.
    place: usize,
    line: Line,
    /// The names that its happenings' numbers are of.
    stamp: u32,
    /// Which seat's history it is, since its last relink; copies of the seat have the same.
    root: u64,
    /// A running digest of all happenings, which can be taken back one by one.
    chain: u64,
}

/// Written as what is kept, and how much can be.
#[cfg(feature = "serde")]
impl serde::Serialize for Ring {
    fn serialize<S: serde::Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        let kept: Vec<Happening> =
            (self.oldest()..self.total).filter_map(|number| self.numbered(number)).copied().collect();
        (kept, self.capacity, self.total, self.stamp, self.chain).serialize(to)
    }
}

/// The other places come when it is copied, after its capacity was checked.
#[cfg(feature = "serde")]
impl<'de> serde::Deserialize<'de> for Ring {
    fn deserialize<D: serde::Deserializer<'de>>(from: D) -> Result<Ring, D::Error> {
        let (kept, capacity, total, stamp, chain): (Vec<Happening>, usize, u64, u32, u64) = <_>::deserialize(from)?;
        let since = total.saturating_sub(kept.len() as u64);
        Ok(Ring { kept, capacity, packed: true, total, since, place: 0, line: Line::default(), stamp, root: 0, chain })
    }
}

/// A place where nothing happened yet.
const EMPTY: Happening = Happening::new(Moment::ZERO, Moment::ZERO, 0, What::Pressed);

/// A point in a seat's history: its seat, how many happenings there had been, and which.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Point {
    root: u64,
    pub(crate) total: u64,
    chain: u64,
}

#[cfg(feature = "serde")]
impl Point {
    /// The same point of a seat of this lineage.
    pub(crate) fn rooted(self, root: u64) -> Point {
        Point { root, ..self }
    }

    /// Whether it is of a seat of this lineage.
    pub(crate) fn is_rooted(self, root: u64) -> bool {
        self.root == root
    }
}

/// An odd factor and its inverse modulo 2^64, for a chain that goes both ways.
const ON: u64 = 0x9e37_79b9_7f4a_7c15;
const BACK: u64 = 0xf1de_83e1_9937_733d;
const _: () = assert!(ON.wrapping_mul(BACK) == 1);

/// A happening as a link of the chain.
#[inline]
fn link(happening: &Happening) -> u64 {
    let what = match happening.what {
        What::Pressed => 1,
        What::Released(cause) => 2 << 8 | cause as u64,
        What::Pulled => 3,
        What::Ended(cause) => 4 << 8 | cause as u64,
        What::Mark(mark) => 5 << 8 | u64::from(mark),
    };
    happening.at.as_micros().rotate_left(24) ^ what << 16 ^ u64::from(happening.action)
}

/// Which line of events a ring tells. Two rings of one line say the same of every number that both have come to, so that
/// a rollback copies only what differs.
#[derive(Clone, Copy, Debug, Default)]
struct Line {
    number: u64,
    /// The line that it went off from, and the first number that is its own.
    parent: (u64, u64),
}

impl Line {
    fn going_off(parent: u64, own_from: u64) -> Line {
        // It decides nothing but how much is copied: 0 is like no other line, and all of it is.
        Line { number: serial(), parent: (parent, own_from) }
    }

    /// The number up to which two lines say the same; 0 if nothing is known.
    fn same_until(self, other: Line) -> u64 {
        let ((own, own_from), (others, others_from)) = (self.parent, other.parent);
        match () {
            () if self.number == 0 || other.number == 0 => 0,
            () if self.number == other.number => u64::MAX,
            () if own == other.number => own_from,
            () if others == self.number => others_from,
            () if own == others => own_from.min(others_from),
            () => 0,
        }
    }
}

impl Ring {
    pub(crate) fn new(capacity: usize, stamp: u32) -> Ring {
        let line = Line::going_off(0, 0);
        let (kept, root) = (vec![EMPTY; capacity], line.number);
        Ring {
            kept,
            capacity,
            #[cfg(feature = "serde")]
            packed: false,
            total: 0,
            since: 0,
            place: 0,
            line,
            stamp,
            root,
            chain: 0,
        }
    }

    /// Where the history stands now.
    pub(crate) fn point(&self) -> Point {
        Point { root: self.root, total: self.total, chain: self.chain }
    }

    /// Whether this history went through a point. Of a point that the ring has forgotten only the seat is known.
    pub(crate) fn went_through(&self, point: Point) -> bool {
        if point.root != self.root || point.total > self.total {
            return false;
        }
        if point.total < self.oldest() {
            return true;
        }
        let after = (point.total..self.total).rev().filter_map(|number| self.numbered(number));
        after.fold(self.chain, |chain, happening| chain.wrapping_mul(BACK) ^ link(happening)) == point.chain
    }

    fn numbered(&self, number: u64) -> Option<&Happening> {
        self.kept.get((number % self.kept.len().max(1) as u64) as usize)
    }

    #[inline(always)]
    pub(crate) fn push(&mut self, happening: Happening) {
        self.chain = (self.chain ^ link(&happening)).wrapping_mul(ON);
        if let Some(place) = self.kept.get_mut(self.place) {
            *place = Happening { stamp: self.stamp, ..happening };
            self.place = if self.place + 1 < self.kept.len() { self.place + 1 } else { 0 };
        }
        self.total += 1;
    }

    pub(crate) fn total(&self) -> u64 {
        self.total
    }

    /// The number of the oldest that is still kept.
    pub(crate) fn oldest(&self) -> u64 {
        self.total.saturating_sub(self.kept.len() as u64).max(self.since)
    }

    /// Those from number `from` to before `to` that are still kept.
    pub(crate) fn between(&self, from: u64, to: u64) -> impl Iterator<Item = &Happening> {
        let from = from.max(self.oldest());
        let kept = (from..to.max(from)).filter_map(move |number| self.numbered(number));
        kept.filter(|happening| happening.stamp != 0)
    }

    /// Whether a ring that was read has this much room, and no more in it.
    #[cfg(feature = "serde")]
    pub(crate) fn fits(&self, capacity: usize) -> bool {
        self.capacity == capacity && self.kept.len() <= capacity && self.kept.len() as u64 <= self.total
    }

    /// Becomes one that was read, of this capacity.
    #[cfg(feature = "serde")]
    fn unpack(&mut self, read: &Ring) {
        let capacity = self.kept.len() as u64;
        self.kept.fill(EMPTY);
        for (number, happening) in (read.since..read.total).zip(&read.kept) {
            self.kept[(number % capacity) as usize] = *happening;
        }
        (self.total, self.since, self.line) = (read.total, read.since, Line::going_off(0, 0));
        self.place = read.total.checked_rem(capacity).unwrap_or(0) as usize;
        (self.root, self.chain) = (read.root, read.chain);
    }

    /// The number of its lineage.
    #[cfg(feature = "serde")]
    pub(crate) fn root(&self) -> u64 {
        self.root
    }

    /// Begins a lineage of its own: numbers of another run of the program mean nothing here.
    #[cfg(feature = "serde")]
    pub(crate) fn rooted_anew(&mut self) -> u64 {
        self.line = Line::going_off(0, 0);
        self.root = self.line.number;
        self.root
    }

    pub(crate) fn capacity(&self) -> usize {
        self.capacity
    }

    /// Makes room for this many; less than there is room for changes nothing.
    pub(crate) fn reserve(&mut self, capacity: usize) {
        if capacity <= self.kept.len() {
            return;
        }
        let (kept, since) = (vec![EMPTY; capacity], self.oldest());
        let mut larger = Ring { kept, capacity, since, line: Line::going_off(0, 0), ..*self };
        for number in self.oldest()..self.total {
            let place = (number % capacity as u64) as usize;
            if let Some(happening) = self.numbered(number) {
                larger.kept[place] = *happening;
            }
        }
        larger.place = (self.total % capacity as u64) as usize;
        *self = larger;
    }

    /// The same with every happening changed; those of which nothing comes are passed over in reading.
    pub(crate) fn mapped(&self, stamp: u32, map: impl Fn(&Happening) -> Option<Happening>) -> Ring {
        let gone = |happening: &Happening| Happening { stamp: 0, ..*happening };
        let there = |happening: Happening| Happening { stamp, ..happening };
        let kept = self.kept.iter().map(|happening| map(happening).map_or_else(|| gone(happening), there)).collect();
        let mut ring = Ring { kept, capacity: self.capacity, stamp, line: Line::going_off(0, 0), ..*self };
        ring.root = ring.line.number;
        ring.chain = 0;
        for number in ring.oldest()..ring.total {
            let link = ring.numbered(number).map_or(0, link);
            ring.chain = (ring.chain ^ link).wrapping_mul(ON);
        }
        ring
    }

    /// The point of another ring, of which this one was mapped, as it is here: if that one went through it.
    pub(crate) fn carried(&self, point: Point, from: &Ring) -> Option<Point> {
        if !from.went_through(point) {
            return None;
        }
        let after = (point.total.max(self.oldest())..self.total).rev().filter_map(|number| self.numbered(number));
        let chain = after.fold(self.chain, |chain, happening| chain.wrapping_mul(BACK) ^ link(happening));
        Some(Point { root: self.root, total: point.total, chain })
    }

    /// From here on it goes its own way: to be called before anything is pushed onto a ring that was copied from another.
    pub(crate) fn branch(&mut self) {
        self.line = Line::going_off(self.line.number, self.total);
    }

    /// Becomes `other`, on the same line, without allocating where the capacity is the same.
    pub(crate) fn copy_from(&mut self, other: &Ring) {
        #[cfg(feature = "serde")]
        if other.packed {
            return self.unpack(other);
        }
        let same = self.line.same_until(other.line).min(self.total).min(other.total);
        let differs = self.total.max(other.total) - same;
        let capacity = self.kept.len();
        if capacity == other.kept.len() && differs < capacity as u64 {
            let first = (same % capacity as u64) as usize;
            let end = first + differs as usize;
            let mut copy = |places: Range<usize>| self.kept[places.clone()].copy_from_slice(&other.kept[places]);
            copy(first..end.min(capacity));
            copy(0..end.saturating_sub(capacity));
        } else {
            self.kept.clone_from(&other.kept);
            self.capacity = other.capacity;
        }
        (self.total, self.since, self.place, self.line) = (other.total, other.since, other.place, other.line);
        (self.root, self.chain) = (other.root, other.chain);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn all(ring: &Ring) -> Vec<Happening> {
        ring.between(0, ring.total()).copied().collect()
    }

    #[test]
    fn a_ring_that_grows_keeps_what_it_had_and_goes_on() {
        let pushed = |ring: &mut Ring, numbers: Range<u64>| {
            numbers.for_each(|n| ring.push(Happening::new(Moment::played(n), Moment::ZERO, 0, What::Pressed)));
        };
        for before in [0, 3, 7, 20] {
            let mut ring = Ring::new(7, 1);
            pushed(&mut ring, 0..before);
            let (had, oldest, point) = (all(&ring), ring.oldest(), ring.point());
            ring.reserve(16);
            assert_eq!((all(&ring), ring.oldest(), ring.went_through(point)), (had, oldest, true));
            pushed(&mut ring, before..before + 5);
            assert_eq!((all(&ring).len() as u64, ring.oldest()), (before + 5 - oldest, oldest));
            assert!(ring.went_through(point), "{before}");
            pushed(&mut ring, before + 5..before + 40);
            assert_eq!((all(&ring).len(), ring.oldest()), (16, before + 24));
        }
    }

    #[test]
    fn a_ring_copied_back_and_forth_says_what_the_other_says() {
        let mut dice = fastrand::Rng::with_seed(11);
        for capacity in [0, 1, 7, 16] {
            let mut ring = Ring::new(capacity, 1);
            let mut saved: Vec<Ring> = (0..4).map(|_| Ring::new(capacity, 1)).collect();
            for number in 0..4_000u64 {
                let slot = dice.usize(0..4);
                match dice.u8(0..10) {
                    0 | 1 => {
                        saved[slot].copy_from(&ring);
                        assert_eq!(all(&saved[slot]), all(&ring));
                    }
                    2 => {
                        ring.copy_from(&saved[slot]);
                        ring.branch();
                        assert_eq!((all(&saved[slot]), saved[slot].total()), (all(&ring), ring.total()));
                    }
                    _ => ring.push(Happening::new(Moment::played(number), Moment::ZERO, slot as u16, What::Pressed)),
                }
                assert!(ring.oldest() + capacity as u64 >= ring.total());
            }
        }
    }
}
