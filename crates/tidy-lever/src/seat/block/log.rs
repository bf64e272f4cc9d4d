//! What readers ask for: what happened, and since which tick it is news.

use alloc::boxed::Box;

use crate::guard::SwallowedLog;
use crate::history::Ring;
use crate::ledger::Ledger;
use crate::seat::part::part;
use crate::seat::stats::Tally;

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
