//! Lists that become other lists. Where most entries stay as they were made, that costs what was ever changed in either.

use alloc::vec;
use alloc::vec::Vec;
use core::fmt;
use core::ops::{Deref, Index, IndexMut};

/// A list becomes another one, mostly of the same length, without allocating where there is room.
#[inline]
pub(crate) fn copy_list<T: Clone>(own: &mut Vec<T>, other: &Vec<T>) {
    if own.len() == other.len() {
        own.clone_from_slice(other);
    } else {
        own.clone_from(other);
    }
}

/// A list that knows which entries may have been changed.
#[derive(Clone, Default)]
pub(crate) struct Sparse<T> {
    all: Vec<T>,
    /// A bit each.
    changed: Vec<u64>,
}

impl<T: Copy> Sparse<T> {
    /// One that is empty, with room for so many.
    pub(crate) fn with_capacity(count: usize) -> Sparse<T> {
        Sparse { all: Vec::with_capacity(count), changed: Vec::with_capacity(count.div_ceil(64)) }
    }

    /// Adds entries, as they are made.
    pub(crate) fn extend(&mut self, more: impl Iterator<Item = T>) {
        self.all.extend(more);
        self.changed.resize(self.all.len().div_ceil(64), 0);
    }

    /// An entry that was changed before, as what it says shows, to be changed again: that is known already.
    #[inline(always)]
    pub(crate) fn again(&mut self, number: usize) -> &mut T {
        debug_assert!(self.changed[number / 64] >> (number % 64) & 1 == 1, "entry {number} was never changed");
        &mut self.all[number]
    }

    /// An entry to be changed, where what it says shows in most cases that it was changed before.
    #[inline(always)]
    pub(crate) fn changing(&mut self, number: usize, was_changed: impl Fn(&T) -> bool) -> &mut T {
        if was_changed(&self.all[number]) { self.again(number) } else { &mut self[number] }
    }

    /// Becomes another list, of entries that were made the same way; without allocating where there is room.
    pub(crate) fn copy_from(&mut self, other: &Sparse<T>) {
        if self.all.len() != other.all.len() {
            self.all.clone_from(&other.all);
            self.changed.clone_from(&other.changed);
            return;
        }
        for (word, (own, others)) in self.changed.iter_mut().zip(&other.changed).enumerate() {
            let mut bits = core::mem::replace(own, *others) | others;
            while bits != 0 {
                let number = 64 * word + bits.trailing_zeros() as usize;
                bits &= bits - 1;
                if let (Some(entry), Some(other)) = (self.all.get_mut(number), other.all.get(number)) {
                    *entry = *other;
                }
            }
        }
    }
}

impl<T> From<Vec<T>> for Sparse<T> {
    fn from(all: Vec<T>) -> Sparse<T> {
        Sparse { changed: vec![0; all.len().div_ceil(64)], all }
    }
}

impl<T> FromIterator<T> for Sparse<T> {
    fn from_iter<I: IntoIterator<Item = T>>(all: I) -> Sparse<T> {
        all.into_iter().collect::<Vec<T>>().into()
    }
}

/// Written as a plain list.
#[cfg(feature = "serde")]
impl<T: serde::Serialize> serde::Serialize for Sparse<T> {
    fn serialize<S: serde::Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        self.all.serialize(to)
    }
}

/// Of what was read any entry may have been changed.
#[cfg(feature = "serde")]
impl<'de, T: serde::Deserialize<'de>> serde::Deserialize<'de> for Sparse<T> {
    fn deserialize<D: serde::Deserializer<'de>>(from: D) -> Result<Sparse<T>, D::Error> {
        let all = Vec::deserialize(from)?;
        Ok(Sparse { changed: vec![u64::MAX; all.len().div_ceil(64)], all })
    }
}

impl<T: fmt::Debug> fmt::Debug for Sparse<T> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.all.fmt(f)
    }
}

impl<T> Deref for Sparse<T> {
    type Target = [T];

    #[inline(always)]
    fn deref(&self) -> &[T] {
        &self.all
    }
}

impl<T> Index<usize> for Sparse<T> {
    type Output = T;

    #[inline(always)]
    fn index(&self, number: usize) -> &T {
        &self.all[number]
    }
}

impl<T> IndexMut<usize> for Sparse<T> {
    #[inline(always)]
    fn index_mut(&mut self, number: usize) -> &mut T {
        if let Some(word) = self.changed.get_mut(number / 64) {
            *word |= 1 << (number % 64);
        }
        &mut self.all[number]
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_list_becomes_another_whatever_was_changed_in_either() {
        let mut dice = fastrand::Rng::with_seed(41);
        for count in [0, 1, 63, 64, 65, 200] {
            let made: Vec<u32> = (0..count).collect();
            let mut all: Vec<Sparse<u32>> = (0..3).map(|_| Sparse::from(made.clone())).collect();
            let mut plain = vec![made; 3];
            for round in 0..2_000 {
                let (one, two) = (dice.usize(0..3), dice.usize(0..3));
                if dice.u8(0..4) == 0 {
                    let other = all[two].clone();
                    all[one].copy_from(&other);
                    plain[one] = plain[two].clone();
                } else if count > 0 {
                    let number = dice.usize(0..count as usize);
                    (all[one][number], plain[one][number]) = (round, round);
                }
                assert_eq!(*all[one], plain[one]);
            }
        }
    }
}
