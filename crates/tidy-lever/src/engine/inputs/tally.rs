//! What is counted while playing.

/// What is counted while playing. It lies outside the state: neither saved nor hashed.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Tally {
    pub(crate) repeats: u64,
    pub(crate) moved_on: u64,
    pub(crate) unheard: u64,
    pub(crate) clamped: u64,
    pub(crate) bounces: u64,
    pub(crate) swings: u64,
    pub(crate) middles: u64,
}
