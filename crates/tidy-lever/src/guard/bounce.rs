//! A button's bounces: the first edge counts at once, and for a span nothing else does.

use super::swallowed::GuardedBy;
use crate::fixed::ONE;

/// From here on a button is down.
const HALF: i32 = ONE / 2;

/// How a family's buttons are guarded, in µs; 0 for not at all.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub(crate) struct Spans {
    /// How long a button is deaf after an edge that counted.
    pub(crate) debounce: u64,
    /// How long a letting go must last to count.
    pub(crate) drop_out: u64,
}

/// What waits for the end of a span.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
enum Waits {
    #[default]
    Nothing,
    /// The button stands otherwise than it counts.
    Level,
    /// It went up, and has to stay so.
    LetGo,
}

/// One button of one device.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Bounce {
    /// Until before this moment it is deaf.
    ends: u64,
    /// The level that counts.
    pub(super) heard: i32,
    waits: Waits,
    /// When it last went up unheard.
    up_since: u64,
}

fn is_down(level: i32) -> bool {
    level >= HALF
}

impl Bounce {
    /// Whether it was ever changed, as far as it shows.
    #[inline(always)]
    pub(super) fn spoke(&self) -> bool {
        self.ends != 0
    }

    /// The button says a new level that counts at once; if it doesn't, nothing is changed.
    #[inline(always)]
    pub(super) fn passes(&mut self, spans: Spans, at: u64, level: i32) -> bool {
        if at < self.ends || spans.drop_out > 0 {
            return false;
        }
        if is_down(level) != is_down(self.heard) {
            self.ends = at + spans.debounce;
        }
        self.heard = level;
        true
    }

    /// The button says a new level: whether it counts.
    pub(crate) fn says(&mut self, spans: Spans, at: u64, level: i32) -> bool {
        if at < self.ends {
            self.swallow(at, level);
            return false;
        }
        if is_down(level) != is_down(self.heard) {
            if spans.drop_out > 0 && !is_down(level) {
                (self.ends, self.waits) = (at + spans.drop_out, Waits::LetGo);
                return false;
            }
            self.ends = at + spans.debounce;
        }
        self.heard = level;
        true
    }

    #[inline(never)]
    fn swallow(&mut self, at: u64, level: i32) {
        match self.waits {
            Waits::LetGo if is_down(level) => (self.ends, self.waits) = (0, Waits::Nothing),
            Waits::LetGo => {}
            Waits::Nothing | Waits::Level => {
                self.up_since = at;
                self.waits = if level == self.heard { Waits::Nothing } else { Waits::Level };
            }
        }
    }

    /// The span in which it is deaf at a moment: its beginning, its end, and whose it is.
    pub(super) fn deaf_at(&self, spans: Spans, at: u64) -> Option<(u64, u64, GuardedBy)> {
        let (span, by) = match self.waits {
            Waits::LetGo => (spans.drop_out, GuardedBy::DropOut),
            Waits::Nothing | Waits::Level => (spans.debounce, GuardedBy::Debounce),
        };
        (at < self.ends).then(|| (self.ends.saturating_sub(span), self.ends, by))
    }

    /// When something is decided; `None` if nothing waits.
    pub(super) fn due(&self) -> Option<u64> {
        (self.waits != Waits::Nothing).then_some(self.ends)
    }

    /// A span ends, and the button stands at this level: whether it counts so from now on.
    pub(super) fn ends(&mut self, spans: Spans, level: i32) -> bool {
        let at = self.ends;
        let was_level = core::mem::take(&mut self.waits) == Waits::Level;
        if level == self.heard {
            return false;
        }
        if is_down(level) != is_down(self.heard) {
            let lasts = self.up_since.saturating_add(spans.drop_out);
            if was_level && !is_down(level) && at < lasts {
                (self.ends, self.waits) = (lasts, Waits::LetGo);
                return false;
            }
            self.ends = at + spans.debounce;
        }
        self.heard = level;
        true
    }

    /// Its span ends here and now, and it counts as it stands.
    pub(super) fn stands(&mut self, level: i32) {
        *self = Bounce { heard: level, ..Bounce::default() };
    }

    /// What a state's hash is made of.
    pub(super) fn words(&self) -> [u64; 3] {
        [self.ends, self.up_since, u64::from(self.heard as u32) << 8 | self.waits as u64]
    }
}
