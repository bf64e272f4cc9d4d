//! IdleRegion: how far a stick may be pushed about while it points in one direction, and mean nothing to what listens to it.

use crate::fixed;

/// From where to where a push may go, both included: right, up, and its length by the square. It only saves time.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct IdleRegion {
    right: (i32, i32),
    up: (i32, i32),
    square: (i64, i64),
}

impl IdleRegion {
    /// Nowhere: every push is looked at.
    pub(crate) const NONE: IdleRegion = IdleRegion { square: (0, -1), ..IdleRegion::ALL };

    /// Wherever it likes.
    pub(crate) const ALL: IdleRegion =
        IdleRegion { right: (i32::MIN, i32::MAX), up: (i32::MIN, i32::MAX), square: (0, i64::MAX) };

    /// Whether a push stays within.
    #[inline(always)]
    pub(crate) fn holds(&self, (x, y): (i32, i32)) -> bool {
        let square = fixed::square(x, y);
        self.square.0 <= square && square <= self.square.1 && lies_within((x, y), self.right, self.up)
    }

    /// As long as a push reaches a length, or doesn't.
    pub(crate) fn and_reach(&mut self, size: i32, reaches: bool) {
        let square = fixed::square(size, 0);
        let (low, high) = &mut self.square;
        if reaches { *low = square.max(*low) } else { *high = (square - 1).min(*high) }
    }

    /// As long as a push is within these bounds, right and up.
    pub(crate) fn and_within(&mut self, right: (i32, i32), up: (i32, i32)) {
        self.right = (self.right.0.max(right.0), self.right.1.min(right.1));
        self.up = (self.up.0.max(up.0), self.up.1.min(up.1));
    }
}

/// Whether a push lies within these bounds, right and up.
#[inline(always)]
pub(crate) fn lies_within((x, y): (i32, i32), right: (i32, i32), up: (i32, i32)) -> bool {
    right.0 <= x && x <= right.1 && up.0 <= y && y <= up.1
}
