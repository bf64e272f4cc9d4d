//! Numbers that stand for entries of the plan's flat tables, and runs of them.

use core::cmp::Ordering;
use core::fmt;
use core::hash::{Hash, Hasher};
use core::marker::PhantomData;
use core::num::NonZeroU16;
use core::ops::Range;

/// A run in one of the plan's flat tables.
pub(crate) type Run = Range<u32>;

pub(crate) fn run(run: &Run) -> Range<usize> {
    run.start as usize..run.end as usize
}

/// The number of an entry among others of its kind. Numbers of different kinds can't be mixed up, and one that may be missing
/// is an `Option` of the same size.
pub(crate) struct Index<Kind> {
    /// The number, and 1.
    next: NonZeroU16,
    kind: PhantomData<fn() -> Kind>,
}

/// Makes the kinds of indices.
macro_rules! indices {
    ($($(#[$about:meta])* $Name:ident of $Kind:ident;)*) => {$(
        $(#[$about])*
        pub(crate) type $Name = Index<$Kind>;
        pub(crate) enum $Kind {}
    )*};
}

indices! {
    /// Among all actions, directions of sticks and what pointers do included.
    ActionIndex of Actions;
    /// Among the lines of cues.
    CueIndex of Cues;
    /// Among axes, sticks and sweeps.
    StickIndex of Sticks;
    GaugeIndex of Gauges;
    PointerIndex of Pointers;
    GroupIndex of Groups;
    /// Among the controls that something is bound to.
    SlotIndex of Slots;
    /// Among the patches of the panel.
    PatchIndex of Patches;
    /// Among the sets of motions.
    SetIndex of Sets;
    /// Among the finishers of a set of motions.
    FinisherIndex of Finishers;
    /// Among the timers of motions whose last step is held.
    HeldIndex of Helds;
    /// Among the words of a fact.
    WordIndex of Words;
}

impl<Kind> Index<Kind> {
    /// That of this number; no table is longer than 65,000.
    #[inline]
    pub(crate) const fn new(number: u16) -> Index<Kind> {
        let next = match NonZeroU16::new(number.wrapping_add(1)) {
            Some(next) => next,
            None => NonZeroU16::MAX,
        };
        Index { next, kind: PhantomData }
    }

    /// The number of what stands in a list first, if anything does.
    pub(crate) fn found(number: Option<usize>) -> Option<Index<Kind>> {
        number.map(|number| Index::new(number as u16))
    }

    #[inline(always)]
    pub(crate) const fn number(self) -> u16 {
        self.next.get() - 1
    }
}

impl<Kind> From<Index<Kind>> for usize {
    #[inline(always)]
    fn from(index: Index<Kind>) -> usize {
        usize::from(index.number())
    }
}

impl<Kind> Clone for Index<Kind> {
    #[inline(always)]
    fn clone(&self) -> Index<Kind> {
        *self
    }
}

impl<Kind> Copy for Index<Kind> {}

impl<Kind> PartialEq for Index<Kind> {
    #[inline(always)]
    fn eq(&self, other: &Index<Kind>) -> bool {
        self.next == other.next
    }
}

impl<Kind> Eq for Index<Kind> {}

impl<Kind> PartialOrd for Index<Kind> {
    fn partial_cmp(&self, other: &Index<Kind>) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl<Kind> Ord for Index<Kind> {
    fn cmp(&self, other: &Index<Kind>) -> Ordering {
        self.next.cmp(&other.next)
    }
}

impl<Kind> Hash for Index<Kind> {
    fn hash<H: Hasher>(&self, state: &mut H) {
        self.number().hash(state);
    }
}

impl<Kind> fmt::Debug for Index<Kind> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.number().fmt(f)
    }
}

#[cfg(feature = "serde")]
impl<Kind> serde::Serialize for Index<Kind> {
    fn serialize<S: serde::Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        self.number().serialize(to)
    }
}

#[cfg(feature = "serde")]
impl<'de, Kind> serde::Deserialize<'de> for Index<Kind> {
    fn deserialize<D: serde::Deserializer<'de>>(from: D) -> Result<Index<Kind>, D::Error> {
        u16::deserialize(from).map(Index::new)
    }
}
