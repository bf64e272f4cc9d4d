//! Small values on their way from one component to the next.

use alloc::vec::Vec;

/// A queue that is empty between moments: so it is neither saved nor hashed, and a copy needs none of it.
#[derive(Debug)]
pub(crate) struct Queue<T> {
    all: Vec<T>,
    /// So many of them were taken out already.
    taken: usize,
}

impl<T> Default for Queue<T> {
    fn default() -> Queue<T> {
        Queue { all: Vec::new(), taken: 0 }
    }
}

impl<T: Copy> Queue<T> {
    /// One with room for the most that a moment of this profile can bring.
    pub(crate) fn with_room(most: usize) -> Queue<T> {
        Queue { all: Vec::with_capacity(most), taken: 0 }
    }

    #[inline(always)]
    pub(crate) fn push(&mut self, value: T) {
        self.all.push(value);
    }

    /// Takes out the one that has waited longest.
    #[inline(always)]
    pub(crate) fn pop(&mut self) -> Option<T> {
        let value = *self.all.get(self.taken)?;
        self.taken += 1;
        if self.taken == self.all.len() {
            self.all.clear();
            self.taken = 0;
        }
        Some(value)
    }

    #[inline(always)]
    pub(crate) fn is_empty(&self) -> bool {
        self.all.is_empty()
    }
}
