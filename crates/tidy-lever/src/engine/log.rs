//! What readers ask for: what happened, and since which tick it is news.

use alloc::boxed::Box;

use crate::engine::part::part;
use crate::guard::SwallowedLog;
use crate::history::Ring;
use crate::ledger::Ledger;

part! {
    /// What happened.
    Log(plan, _, room) {
        /// Counts calls of `advance`.
        past tick: u32, stays = 0;
        /// How many happenings there were before the last `advance`.
        past tick_began: u64, stays = 0;
        past ring: Ring, apart = Ring::new(room.history, plan.stamp);
        /// These lie outside the state: neither saved nor hashed.
        #[cfg_attr(feature = "serde", serde(skip))]
        scratch tally: Tally, stays = Tally::default();
        #[cfg_attr(feature = "serde", serde(skip))]
        scratch ledger: Option<Box<Ledger>>, apart = None;
        #[cfg_attr(feature = "serde", serde(skip))]
        scratch swallowed: Option<Box<SwallowedLog>>, apart = None;
    }
}

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
