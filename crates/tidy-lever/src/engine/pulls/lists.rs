//! Pulls that are not made yet: who waits, who is kept, and what would pull again.

use alloc::vec;
use alloc::vec::Vec;

use crate::engine::part::part;
use crate::engine::pulls::pending::{PendingPull, Standing};
use crate::linkage::{ActionPlan, Plan};
use crate::time::NEVER;
use crate::timers::Timers;

/// How often an action can be met in one moment, or wait, beside every other that does so once.
const AT_ONCE: usize = 16;

/// What there is room for of what is met in a moment. Nothing is settled early for want of it: more makes its own room.
fn pending_room(plan: &Plan) -> usize {
    plan.declared + AT_ONCE
}

fn count(plan: &Plan, which: impl Fn(&ActionPlan) -> bool) -> usize {
    plan.actions.iter().filter(|action| which(action)).count()
}

/// Capacity for those that wait for others; for none where nobody does.
fn waits_room(plan: &Plan) -> usize {
    let waiters = count(plan, |action| !action.waits_for.is_empty());
    if waiters > 0 { waiters + AT_ONCE } else { 0 }
}

part! {
    /// Pulls that are not made yet.
    Lists(plan: Plan, _, _) {
        /// Empty between moments.
        #[cfg_attr(feature = "serde", serde(skip))]
        scratch pending: Vec<PendingPull>, again = Vec::with_capacity(pending_room(plan));
        /// Those that are held back for others.
        list waits: Vec<PendingPull>, apart = Vec::with_capacity(waits_room(plan));
        /// Those that a gate refused, one an action.
        list kept: Vec<PendingPull>, apart = Vec::with_capacity(count(plan, |action| action.keep > 0) + 1);
        /// By action, on the world's clock: until when it keeps what its gate refused.
        state keeping: Timers, apart = Timers::new(if plan.actions.iter().any(|action| action.keep > 0) { plan.declared } else { 0 });
        /// By place among the actions that pull again while held.
        state standing: Vec<Standing>, apart = vec![Standing::default(); plan.while_held.len()];
        /// When gates that ask what is on are looked at again; `NEVER` for not at all.
        state recheck: u64, stays = NEVER;
        /// Whether any action pulls while held, so that its gate must always be looked at.
        past rechecks: bool, again = !plan.while_held.is_empty();
        /// Gates that refused were looked at, and nothing was told, fell due, pulled or ended since. It only saves time.
        #[cfg_attr(feature = "serde", serde(skip))]
        past looked: bool, again = false;
        /// The last moment in which anything pulled or ended. It only saves time.
        #[cfg_attr(feature = "serde", serde(skip))]
        scratch turned_in: u64, again = NEVER;
        /// Nothing pulls while a gap is passed.
        #[cfg_attr(feature = "serde", serde(skip))]
        scratch muted: bool, again = false;
    }
}

impl Lists {
    /// Whether anything was met that has neither pulled nor come to nothing, or waits for others.
    #[inline(always)]
    pub(crate) fn any_wait(&self) -> bool {
        !(self.pending.is_empty() && self.waits.is_empty())
    }

    /// Whether anything was met that has not pulled, waits for others, or is kept for its gate.
    #[inline(always)]
    pub(crate) fn any_aside(&self) -> bool {
        self.any_wait() || !self.kept.is_empty()
    }
}
