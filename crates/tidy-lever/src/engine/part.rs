//! Parts of a seat's state. Each lists its fields, a line a field: whether it is copied and hashed, its name, what becomes
//! of it over a relink, and how it is made. Making, copying, hashing, measuring and carrying a part follow from that list.
//!
//! ```text
//!   state    copied, hashed, of a size that the plan decides     list     the same, of any length
//!   past     copied, not hashed: it decides nothing later        scratch  neither: empty between moments, or outside the state
//!
//!   stays    is what it was, whatever the profile                again     begins again
//!   by_stick, by_pointer, by_sweep, by_cue                       apart    by a function in `carry.rs`, `relink.rs` or the
//!            an entry goes over to the same one                           list's own file
//! ```

use alloc::vec::Vec;

use crate::sparse::{Sparse, copy_list};
use crate::timers::Timers;

/// What a field of a part can do.
pub(crate) trait Field {
    /// Becomes another one, without allocating where both were made for the same linkage and room.
    fn copy(&mut self, other: &Self);

    /// What a state's hash is made of, as of the moment that was played last.
    fn words(&self, played: u64, word: &mut impl FnMut(u64));

    /// Whether one that was read is of the size of one that was made.
    #[cfg(feature = "serde")]
    fn fits(&self, _made: &Self) -> bool {
        true
    }
}

/// Fields that are copied as they are: their own words, or a number.
macro_rules! plain_fields {
    ($($Type:ty, $own:ident => $words:expr;)*) => {$(
        impl $crate::engine::part::Field for $Type {
            #[inline]
            fn copy(&mut self, other: &$Type) {
                *self = *other;
            }

            #[inline]
            fn words(&self, _played: u64, word: &mut impl FnMut(u64)) {
                let $own = self;
                $words.into_iter().for_each(word);
            }
        }
    )*};
}

plain_fields! {
    u8, own => [u64::from(*own)];
    u16, own => [u64::from(*own)];
    u32, own => [u64::from(*own)];
    u64, own => [*own];
    bool, own => [u64::from(*own)];
    [u32; 2], own => own.map(u64::from);
    [i64; 2], own => own.map(|one| one as u64);
    Option<u64>, own => [own.map_or(u64::MAX, |some| some)];
    crate::cue::RuleState, own => own.words();
    crate::gauge::GaugeState, own => own.words();
    crate::gate::Truth, own => own.words();
}

/// The words of a list: how long it is, and each entry's.
fn list_words<T: Field>(all: &[T], played: u64, word: &mut impl FnMut(u64)) {
    word(all.len() as u64);
    all.iter().for_each(|one| one.words(played, word));
}

impl<T: Field + Clone> Field for Vec<T> {
    #[inline]
    fn copy(&mut self, other: &Vec<T>) {
        copy_list(self, other);
    }

    fn words(&self, played: u64, word: &mut impl FnMut(u64)) {
        list_words(self, played, word);
    }

    #[cfg(feature = "serde")]
    fn fits(&self, made: &Vec<T>) -> bool {
        self.len() == made.len()
    }
}

impl<T: Field + Copy> Field for Sparse<T> {
    #[inline]
    fn copy(&mut self, other: &Sparse<T>) {
        self.copy_from(other);
    }

    fn words(&self, played: u64, word: &mut impl FnMut(u64)) {
        list_words(self, played, word);
    }

    #[cfg(feature = "serde")]
    fn fits(&self, made: &Sparse<T>) -> bool {
        self.len() == made.len()
    }
}

/// Fields that know how to copy themselves into their own room.
macro_rules! own_fields {
    ($($Type:ty, ($own:ident, $played:pat_param, $word:ident) => $words:expr;)*) => {$(
        impl $crate::engine::part::Field for $Type {
            fn copy(&mut self, other: &$Type) {
                self.copy_from(other);
            }

            fn words(&self, $played: u64, $word: &mut impl FnMut(u64)) {
                let $own = self;
                $words
            }
        }
    )*};
}

own_fields! {
    crate::guard::Guards, (own, _, word) => own.words(word);
    crate::mode::Modes, (own, _, word) => own.words().for_each(word);
    // What happened decides nothing later.
    crate::history::Ring, (_own, _, _word) => ();
}

impl Field for crate::sweep::SweepState {
    fn copy(&mut self, other: &Self) {
        *self = *other;
    }

    fn words(&self, played: u64, word: &mut impl FnMut(u64)) {
        self.words(played).into_iter().for_each(word);
    }
}

impl Field for crate::cue::rolls::MotionState {
    fn copy(&mut self, other: &Self) {
        self.clone_from(other);
    }

    fn words(&self, _: u64, word: &mut impl FnMut(u64)) {
        self.words(word);
    }
}

impl Field for Timers {
    fn copy(&mut self, other: &Timers) {
        self.copy_from(other);
    }

    fn words(&self, _: u64, word: &mut impl FnMut(u64)) {
        self.words().for_each(word);
    }

    #[cfg(feature = "serde")]
    fn fits(&self, made: &Timers) -> bool {
        self.owners() == made.owners() && self.fits()
    }
}

/// Makes a part from the list of its fields.
macro_rules! part {
    (
        $(#[$about:meta])*
        $Part:ident($plan:ident: $Plan:ty, $at:pat_param, $room:pat_param) {
            $($(#[$field_about:meta])* $how:ident $field:ident: $Type:ty, $over:ident = $new:expr;)*
        }
    ) => {
        $(#[$about])*
        #[derive(Debug)]
        #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
        pub(crate) struct $Part {
            $($(#[$field_about])* pub(crate) $field: $Type,)*
        }

        impl $Part {
            /// As it is at first.
            pub(crate) fn new($plan: &$Plan, $at: u64, $room: $crate::engine::Capacity) -> $Part {
                $Part { $($field: $new,)* }
            }

            /// Becomes another one, without allocating where both were made for the same linkage and room.
            #[inline]
            pub(crate) fn copy_from(&mut self, other: &$Part) {
                $($crate::engine::part::each!(copy $how self.$field, &other.$field);)*
            }

            /// What a state's hash is made of, as of the moment that was played last.
            pub(crate) fn words(&self, played: u64, word: &mut impl FnMut(u64)) {
                let _ = (played, &word);
                $($crate::engine::part::each!(words $how self.$field, played, word);)*
            }

            /// Takes over from one of another plan what goes over as it is.
            pub(crate) fn carry(&mut self, from: &$Part, map: &$crate::engine::relink_map::RelinkMap<'_>) {
                let _ = map;
                $($crate::engine::part::carry!($over self.$field, from.$field, map);)*
            }

            /// Whether one that was read is of the size of one that was made.
            #[cfg(feature = "serde")]
            pub(crate) fn fits(&self, made: &$Part) -> bool {
                $($crate::engine::part::each!(fits $how self.$field, &made.$field))&&*
            }
        }
    };
}

/// What becomes of one field, by how it is kept.
macro_rules! each {
    (copy scratch $own:expr, $other:expr) => {};
    (copy $how:ident $own:expr, $other:expr) => {
        $crate::engine::part::Field::copy(&mut $own, $other)
    };
    (words state $own:expr, $played:expr, $word:expr) => {
        $crate::engine::part::Field::words(&$own, $played, $word)
    };
    (words list $own:expr, $played:expr, $word:expr) => {
        $crate::engine::part::Field::words(&$own, $played, $word)
    };
    (words $how:ident $own:expr, $played:expr, $word:expr) => {};
    (fits state $own:expr, $made:expr) => {
        $crate::engine::part::Field::fits(&$own, $made)
    };
    (fits past $own:expr, $made:expr) => {
        $crate::engine::part::Field::fits(&$own, $made)
    };
    (fits $how:ident $own:expr, $made:expr) => {
        true
    };
}

/// What becomes of one field over a relink.
macro_rules! carry {
    (stays $own:expr, $from:expr, $map:expr) => {
        $own.clone_from(&$from)
    };
    (again $own:expr, $from:expr, $map:expr) => {};
    (apart $own:expr, $from:expr, $map:expr) => {};
    ($by:ident $own:expr, $from:expr, $map:expr) => {
        for (number, before) in $map.$by() {
            $own[number] = $from[before];
        }
    };
}

pub(crate) use {carry, each, own_fields, part, plain_fields};
