//! A cue is met: it pulls when the moment's events are all in.

use crate::cue::CueMatch;
use crate::engine::press::is_direction;
use crate::engine::pulls::Pulls;
use crate::engine::pulls::pending::PendingPull;
use crate::history::Aim;
use crate::index::{CueIndex, Index};
use crate::linkage::Plan;
use crate::time::NEVER;

impl Pulls {
    /// A cue is met; it pulls when the moment's events are all in.
    pub(crate) fn cue_matched(&mut self, plan: &Plan, cue: usize, cue_match: CueMatch) {
        self.action_matched(plan, (plan.owner(cue), Some(Index::new(cue as u16))), cue_match);
    }

    /// An action is met by one of its cues, or by none: a gauge that reached its end.
    #[inline(never)]
    pub(crate) fn action_matched(&mut self, plan: &Plan, of: (usize, Option<CueIndex>), cue_match: CueMatch) {
        self.action_matched_here(plan, of, cue_match);
    }

    /// `action_matched`, inlined where nearly every press comes by: adds to what is met in this moment.
    #[inline(always)]
    pub(crate) fn action_matched_here(
        &mut self,
        plan: &Plan,
        (action, cue): (usize, Option<CueIndex>),
        cue_match: CueMatch,
    ) {
        let facing = cue_match.facing.unwrap_or(Index::new(self.facing));
        self.lists.pending.push(PendingPull {
            action: action as u16,
            cue,
            cue_match: CueMatch { facing: Some(facing), ..cue_match },
            aim: Aim::default(),
            fresh: true,
            let_go: false,
            is_open: false,
            kept: NEVER,
        });
        if !cue_match.presses.is_single() || plan.hot[action].while_held {
            self.met_more(plan, action);
        }
    }

    /// What stands on the last cue that was met beside its pull, and on its presses beside the last.
    #[inline(never)]
    fn met_more(&mut self, plan: &Plan, action: usize) {
        let Some(PendingPull { cue, cue_match, .. }) = self.lists.pending.last_mut() else { return };
        // Directions are compared between cues that end on one.
        if !cue_match.presses.is_single() && !is_direction(cue_match.presses.last()) {
            cue_match.presses.retain(|press| !is_direction(press));
        }
        let (cue, cue_match) = (*cue, *cue_match);
        if let Some(standing) = self.standing_of(plan, action).filter(|_| cue_match.lasting) {
            (standing.cue_match, standing.cue) = (Some(CueMatch { repeated: true, ..cue_match }), cue);
        }
    }
}
