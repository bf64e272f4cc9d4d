//! Second changes of one control in one moment: they move on by 1 µs, in their order.

use crate::engine::incoming::Due;

/// When one control, or one finger, changed last, and which changes of it were moved on: a second one in one moment plays
/// 1 µs later, a third behind that one.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Busy {
    /// The moment of the last change, plus 1; 0 before any.
    pub(crate) changed: u64,
    /// The moment of the last change that was moved on, and what it changes to; what comes meanwhile lines up behind it.
    pub(crate) until: u64,
    pub(crate) pending: (i32, i32),
}

/// What becomes of an event whose turn it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Taken {
    /// It plays now.
    Now,
    /// It is not news.
    Repeat,
    /// It plays at this later moment.
    Later(u64),
}

impl Busy {
    /// Whether anything changed it yet.
    #[inline(always)]
    pub(crate) fn spoke(&self) -> bool {
        self.changed | self.until != 0
    }

    pub(crate) fn lines_up(&self, at: u64) -> bool {
        self.until >= at && self.until > 0
    }

    /// A change from how it stands to a level; `even_so` if it is one even to the same level.
    #[inline(always)]
    pub(crate) fn change(&mut self, due: Due, stands: (i32, i32), to: (i32, i32), even_so: bool) -> Taken {
        let Due { at, moved } = due;
        // Nearly always nothing lines up, and it is its only change in this moment.
        if even_so || moved || self.until >= at || self.changed == at + 1 {
            return self.change_in_turn(due, stands, to, even_so);
        }
        if to == stands {
            return Taken::Repeat;
        }
        self.changed = at + 1;
        Taken::Now
    }

    /// A change before which others may stand: plays it, or lines it up behind them.
    #[inline(never)]
    fn change_in_turn(&mut self, due: Due, stands: (i32, i32), to: (i32, i32), even_so: bool) -> Taken {
        let Due { at, moved } = due;
        let lines_up = !moved && self.lines_up(at);
        if !even_so && to == if lines_up { self.pending } else { stands } {
            return Taken::Repeat;
        }
        if !moved && (lines_up || self.changed == at + 1) {
            (self.until, self.pending) = (self.until.max(at) + 1, to);
            return Taken::Later(self.until);
        }
        self.changed = at + 1;
        Taken::Now
    }

    /// What changes nothing goes with the last change that was moved on.
    pub(crate) fn follow(&self, due: Due) -> Taken {
        if !due.moved && self.lines_up(due.at) { Taken::Later(self.until) } else { Taken::Now }
    }

    /// A wheel turns: each notch is a press and a release 1 µs later, and nothing comes between.
    pub(crate) fn notches(&mut self, due: Due, count: u64) -> Taken {
        if due.moved {
            return Taken::Now;
        }
        let lines_up = self.lines_up(due.at);
        let first = if lines_up { self.until + 1 } else { due.at };
        self.until = first + 2 * count - 1;
        if lines_up { Taken::Later(first) } else { Taken::Now }
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> [u64; 3] {
        let Busy { changed, until, pending: (x, y) } = *self;
        [changed, until, u64::from(x as u32) << 32 | u64::from(y as u32)]
    }
}
