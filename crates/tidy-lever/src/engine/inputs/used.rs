//! The family of controls that the player used last, and how far a mouse went since.

use crate::control::Family;
use crate::engine::part::plain_fields;
use crate::fixed::ONE;

/// A stick or a trigger is used from here on.
pub(crate) const HALF: i32 = ONE / 2;
/// So many counts, or this many millionths of the view, a mouse goes before it is used.
pub(crate) const COUNTS: i64 = 40 * ONE as i64;
pub(crate) const SHARE: i64 = ONE as i64 / 50;

/// The family used last.
#[derive(Clone, Copy, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Used {
    /// By its number and 1; 0 for none yet.
    family: u8,
    /// How often it changed.
    pub(crate) changes: u32,
    /// The changes before the last `advance`.
    pub(crate) before: u32,
    /// How far the mouse went since another family was used; and where its pointer was last.
    pub(crate) gone: i64,
    pub(crate) place: Option<(i32, i32)>,
}

impl Used {
    pub(crate) fn family(&self) -> Option<Family> {
        Family::ALL.get(usize::from(self.family).wrapping_sub(1)).copied()
    }

    /// Whether a family that is not a mouse's is in use, and to use it again changes nothing.
    #[inline(always)]
    pub(crate) fn is_by(&self, family: Family) -> bool {
        self.family == family.index() as u8 + 1 && self.gone == 0
    }

    pub(crate) fn take(&mut self, family: Family) {
        let number = family.index() as u8 + 1;
        if family != Family::Mouse {
            self.gone = 0;
        }
        if core::mem::replace(&mut self.family, number) != number {
            self.changes = self.changes.wrapping_add(1);
        }
    }

    /// What a state's hash is made of. How often it changed, and how often before the last tick, tells of the past alone.
    pub(crate) fn words(&self) -> [u64; 3] {
        let Used { family, changes: _, before: _, gone, place } = *self;
        let place = place.map_or(u64::MAX, |(x, y)| u64::from(x as u32) << 32 | u64::from(y as u32));
        [u64::from(family), gone as u64, place]
    }
}

plain_fields! {
    Used, own => own.words();
}
