//! How a player's settings change the spans of rules.

/// A player's settings, as rules need them.
pub(crate) struct Scaling<'a> {
    /// A span that is to be held.
    pub(crate) held: &'a dyn Fn(u64) -> u64,
    /// A span that something must happen in.
    pub(crate) within: &'a dyn Fn(u64) -> u64,
    /// Chords are pressed one key at a time, within this.
    pub(crate) one_by_one: Option<u64>,
}
