//! Marks that are to come back.

use alloc::vec;
use alloc::vec::Vec;

use crate::engine::part::Field;

/// A mark that is to come back: of which action, which of its marks, and of which of its pulls.
#[derive(Clone, Copy, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Mark {
    pub(crate) action: u16,
    pub(crate) mark: u8,
    pub(crate) pull: u32,
}

impl Mark {
    pub(crate) fn words(&self) -> [u64; 2] {
        let Mark { action, mark, pull } = *self;
        [u64::from(action) << 8 | u64::from(mark), u64::from(pull)]
    }
}

/// Those that are to come back, by their timers' places.
#[derive(Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Marks {
    all: Vec<Mark>,
    /// So many places were ever used, from the first on: copying more would copy nothing.
    used: usize,
}

impl Marks {
    pub(crate) fn new(count: usize) -> Marks {
        Marks { all: vec![Mark { action: 0, mark: 0, pull: 0 }; count], used: 0 }
    }

    pub(crate) fn len(&self) -> usize {
        self.all.len()
    }

    pub(crate) fn get(&self, place: usize) -> Mark {
        self.all[place]
    }

    pub(crate) fn set(&mut self, place: usize, mark: Mark) {
        self.all[place] = mark;
        self.used = self.used.max(place + 1);
    }

    /// Those that were ever set, by their places.
    pub(crate) fn iter(&self) -> impl Iterator<Item = (usize, Mark)> {
        self.all[..self.used].iter().copied().enumerate()
    }

    /// Becomes another one of the same size.
    pub(crate) fn copy_from(&mut self, other: &Marks) {
        let used = self.used.max(other.used);
        self.all[..used].copy_from_slice(&other.all[..used]);
        self.used = other.used;
    }

    /// Whether those that were read are as many as those that were made.
    #[cfg(feature = "serde")]
    pub(crate) fn fits(&self, made: &Marks) -> bool {
        self.all.len() == made.all.len() && self.used <= self.all.len()
    }
}

impl Field for Marks {
    fn copy(&mut self, other: &Marks) {
        self.copy_from(other);
    }

    fn words(&self, _: u64, _: &mut impl FnMut(u64)) {}

    #[cfg(feature = "serde")]
    fn fits(&self, made: &Marks) -> bool {
        self.fits(made)
    }
}
