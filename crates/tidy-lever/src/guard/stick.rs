//! One stick of one device: its middle, and whether it was let go.

use super::centre::Centre;
use super::memory::StickMemory;
use super::swing::Swing;
use super::{FamilyGuard, PUSHED};
use crate::fixed::{self, square};

/// What counts of what a stick says.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct StickHeard {
    /// For all but sweeps.
    pub(crate) heard: (i32, i32),
    /// For sweeps: as seen from its middle, let go or not.
    pub(crate) seen: (i32, i32),
}

#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct StickGuard {
    /// What the stick says.
    raw: (i32, i32),
    seen: (i32, i32),
    heard: (i32, i32),
    spoke: bool,
    /// Nothing is under way, and it is pushed as `pushed` says: nothing is news but a fall, or a push.
    calm: bool,
    pushed: bool,
    centre: Centre,
    swing: Swing,
}

impl StickGuard {
    /// Whether it was ever changed, as far as it shows.
    #[inline(always)]
    pub(super) fn spoke(&self) -> bool {
        self.spoke
    }

    /// What counts now.
    pub(crate) fn stands(&self) -> StickHeard {
        if self.calm {
            let seen = self.centre.seen(self.raw);
            return StickHeard { heard: seen, seen };
        }
        StickHeard { heard: self.heard, seen: self.seen }
    }

    /// While the other side is rest: since when it was there, and until when that lasts at most.
    pub(super) fn guards_since(&self) -> Option<(u64, u64)> {
        self.swing.guards_since()
    }

    /// Where its middle is.
    pub(crate) fn middle(&self) -> (i32, i32) {
        self.centre.middle
    }

    /// The stick says where it is, and nothing else: what counts of that. If it says more, nothing is changed.
    #[inline(always)]
    pub(super) fn passes(&mut self, raw: (i32, i32)) -> Option<(i32, i32)> {
        let is_pushed = square(raw.0, raw.1) >= PUSHED;
        if !self.calm || is_pushed != self.pushed {
            return None;
        }
        let mut seen = raw;
        if self.centre.middle != (0, 0) {
            seen = self.centre.seen(raw);
            if (square(seen.0, seen.1) >= PUSHED) != is_pushed {
                return None;
            }
        }
        if is_pushed {
            self.swing.side = seen;
        }
        self.raw = raw;
        Some(seen)
    }

    /// The stick says where it is.
    #[inline(never)]
    pub(crate) fn says(&mut self, guard: FamilyGuard, at: u64, raw: (i32, i32)) -> StickHeard {
        (self.raw, self.spoke, self.calm) = (raw, true, false);
        if guard.learns {
            self.centre.says(at, raw);
        }
        self.seen = self.centre.seen(raw);
        self.heard = if guard.snapback > 0 { self.swing.says(guard.snapback, at, self.seen) } else { self.seen };
        self.look(guard);
        self.stands()
    }

    /// Whether nothing is under way.
    fn look(&mut self, guard: FamilyGuard) {
        let is_pushed = |(x, y)| square(x, y) >= PUSHED;
        self.pushed = is_pushed(self.raw);
        self.calm = (!guard.learns || self.centre.is_idle())
            && (guard.snapback == 0 || self.swing.is_idle())
            && self.pushed == is_pushed(self.seen);
    }

    /// The next sample is looked at with care.
    pub(super) fn looks_again(&mut self) {
        let StickHeard { heard, seen } = self.stands();
        (self.heard, self.seen, self.calm) = (heard, seen, false);
    }

    /// It is seen from another middle; where it is held as rest it stays so.
    fn sees(&mut self) {
        let rests = self.heard != self.seen;
        self.seen = self.centre.seen(self.raw);
        self.heard = if rests { (0, 0) } else { self.seen };
    }

    /// When something is decided; `None` if nothing is under way.
    pub(super) fn due(&self) -> Option<u64> {
        match (self.centre.due(), self.swing.due()) {
            (Some(rest), Some(swing)) => Some(rest.min(swing)),
            (rest, swing) => rest.or(swing),
        }
    }

    /// Something is decided now: what counts from here on, and whether that is a new middle's doing.
    pub(super) fn decides(&mut self, at: u64) -> (StickHeard, bool) {
        self.looks_again();
        let moved = self.centre.due().is_some_and(|due| due <= at) && self.centre.rested(self.raw);
        if moved {
            // Where it isn't held as rest it stands elsewhere now.
            self.sees();
        }
        if self.swing.due().is_some_and(|due| due <= at) {
            self.heard = self.swing.looks(at, self.seen);
        }
        (self.stands(), moved)
    }

    /// Whether it is learning something at a moment: a fall is under way, or a rest.
    #[cfg(all(feature = "files", feature = "std"))]
    pub(super) fn is_learning(&self, at: u64) -> bool {
        self.centre.due().is_some() || !self.swing.at(at).is_idle()
    }

    /// What it learnt by a moment.
    pub(super) fn memory(&self, at: u64) -> StickMemory {
        let (middle, rests) = self.centre.known();
        let pair = |(x, y): (i32, i32)| [fixed::to_f32(x), fixed::to_f32(y)];
        let rests = rests.iter().map(|place| pair(*place)).collect();
        StickMemory { middle: pair(middle), rests, swings: self.swing.at(at).known().collect() }
    }

    /// It learnt this, and nothing is under way.
    pub(super) fn remembers(&mut self, (middle, rests): ((i32, i32), &[(i32, i32)]), swings: &[bool]) {
        (self.centre, self.swing) = (Centre::that_knows(middle, rests), Swing::that_knows(swings));
        if !core::mem::replace(&mut self.spoke, true) {
            self.raw = middle;
        }
        self.calm = false;
        self.seen = self.centre.seen(self.raw);
        self.heard = self.seen;
    }

    /// Its middle is set, and what was learnt of it forgotten: what counts from here on, if it spoke before and that is news.
    pub(super) fn is_seen_from(&mut self, middle: (i32, i32)) -> Option<StickHeard> {
        let before = self.stands();
        self.looks_again();
        self.centre = Centre::at(middle);
        if !core::mem::replace(&mut self.spoke, true) {
            // It rests in its middle until it speaks.
            self.raw = middle;
            return None;
        }
        self.sees();
        Some(self.stands()).filter(|now| *now != before)
    }

    /// What is under way ends here and now, and it counts as it stands; its middle stays.
    pub(super) fn settles(&mut self) -> StickHeard {
        self.looks_again();
        self.swing.lets_go();
        self.heard = self.seen;
        self.stands()
    }

    /// The stick was asked, and says where it is.
    pub(crate) fn is_asked(&mut self, raw: (i32, i32)) -> StickHeard {
        self.looks_again();
        (self.raw, self.spoke) = (raw, true);
        self.seen = self.centre.seen(raw);
        // It did not fall from where it was.
        self.centre.is_asked();
        self.swing.is_asked();
        self.settles()
    }

    /// What a state's hash is made of.
    pub(super) fn words(&self, mut word: impl FnMut(u64)) {
        let pair = |(x, y): (i32, i32)| u64::from(x as u32) << 32 | u64::from(y as u32);
        let StickHeard { heard, seen } = self.stands();
        [self.raw, seen, heard].into_iter().for_each(|one| word(pair(one)));
        self.centre.words(&mut word);
        self.swing.words(word);
    }
}
