//! How far cues have come, and their timers.

use alloc::vec;
use alloc::vec::Vec;
use core::ops::Range;

use crate::cue::rolls::{Motion, MotionSet, MotionState};
use crate::cue::{IdleRegion, RuleContext, RuleState};
use crate::engine::part::part;
use crate::index::StickIndex;
use crate::linkage::Plan;
use crate::sparse::Sparse;
use crate::timers::Timers;

/// At most every step of a stick's motions goes on, and another breaks.
fn shown_room(plan: &Plan) -> usize {
    2 * plan.cues.motions.iter().map(MotionSet::step_count).max().unwrap_or(0)
}

part! {
    /// How far cues have come.
    Cues(plan: Plan, _, _) {
        state rule_states: Sparse<RuleState>, by_cue = vec![RuleState::default(); plan.cues.all.len()].into();
        /// What rules that slide remember.
        state moments: Vec<u64>, apart = vec![0; plan.cues.moments];
        /// The cues' timers, on the hand's clock; then those of motions.
        state timers: Timers, apart = Timers::new(plan.cues.all.len() + plan.cues.motion_timers);
        /// How far the motions of each stick have come.
        state motions: Vec<MotionState>, apart = plan.cues.motions.iter().map(MotionState::new).collect();
        /// By action that finishes motions: whether it is held.
        state held: Vec<bool>, apart = vec![false; plan.actions.len()];
        /// How far each axis and stick may be pushed and mean nothing, while what hears it stays as it is. It only saves time.
        #[cfg_attr(feature = "serde", serde(skip))]
        scratch idle: Vec<IdleRegion>, again = vec![IdleRegion::NONE; plan.inputs.moved.len()];
        /// Empty between events: what they did just now.
        #[cfg_attr(feature = "serde", serde(skip))]
        scratch shown: Vec<Motion>, again = Vec::with_capacity(shown_room(plan));
    }
}

impl Cues {
    /// Every push of an axis or a stick, if it is one, is looked at again.
    #[inline(always)]
    pub(crate) fn invalidate(&mut self, stick: Option<StickIndex>) {
        if let Some(stick) = stick {
            self.idle[usize::from(stick)] = IdleRegion::NONE;
        }
    }

    /// What a cue's rule works on: whether it is on, and what it remembers.
    #[inline(always)]
    pub(crate) fn context(
        &mut self,
        (cue, on): (usize, bool),
        moments: Option<Range<usize>>,
        at: u64,
    ) -> RuleContext<'_> {
        RuleContext {
            at,
            state: self.rule_states.changing(cue, RuleState::went_on),
            timers: &mut self.timers,
            timer: cue,
            moments: moments.map_or(&mut [], |moments| &mut self.moments[moments]),
            on,
            missed: None,
            stepped: None,
        }
    }
}
