//! Names by their hashes, so that a handle that was found in another version of a profile is found again.

use alloc::vec::Vec;

use xxhash_rust::xxh64::xxh64;

/// All names of a profile: a sorted list for each sort.
#[derive(Debug, Default)]
pub(crate) struct Names {
    pub(crate) actions: Sorted,
    pub(crate) facts: Sorted,
    pub(crate) modes: Sorted,
}

/// So many bits a name's hash has.
pub(crate) const HASH_BITS: u32 = 48;

/// Hashes of names with their numbers, sorted.
#[derive(Debug, Default)]
pub(crate) struct Sorted(Vec<(u64, u16)>);

/// The hash by which a name is found: 56 bits, so that a handle with its noun is one number for other languages.
pub(crate) fn hash(name: &str) -> u64 {
    xxh64(name.as_bytes(), 0) >> (64 - HASH_BITS)
}

impl Sorted {
    pub(super) fn new<'n>(names: impl Iterator<Item = &'n str>) -> Sorted {
        let mut all: Vec<(u64, u16)> = names.enumerate().map(|(number, name)| (hash(name), number as u16)).collect();
        all.sort_unstable();
        Sorted(all)
    }

    /// The numbers of names with this hash.
    pub(crate) fn find(&self, hash: u64) -> impl Iterator<Item = usize> {
        let first = self.0.partition_point(|(other, _)| *other < hash);
        self.0[first..].iter().take_while(move |(other, _)| *other == hash).map(|(_, number)| usize::from(*number))
    }
}
