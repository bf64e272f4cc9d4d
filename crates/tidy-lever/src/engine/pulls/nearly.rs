//! What the ledger is told of motions that fail for one reason only.

use crate::cue::rolls::{Motion, Turned};
use crate::end::{Did, End};
use crate::engine::pulls::Pulls;
use crate::engine::pulls::motions::toward;
use crate::engine::pulls::tales::first_step;
use crate::index::FinisherIndex;
use crate::ledger::{Ledger, Nearly};
use crate::linkage::Plan;

impl Pulls {
    /// Follows the attempts that this turn would carry on if one direction had come in between.
    pub(crate) fn tell_skipped(
        &self,
        plan: &Plan,
        ledger: &mut Ledger,
        set_number: usize,
        shown: &[Motion],
        Turned { at, to, .. }: Turned,
    ) {
        let (set, state) = (&plan.cues.motions[set_number], &self.cues.motions[set_number]);
        let broken = shown.iter().filter_map(|motion| match *motion {
            Motion::Broken { bit, borne_until: None } => Some(usize::from(bit)),
            _ => None,
        });
        let came = |bit: usize| {
            shown.iter().any(|motion| matches!(*motion, Motion::Came { from, .. } if usize::from(from) == bit))
        };
        for bit in broken.chain(state.bits()) {
            let (step, motion) = set.step(bit);
            let ahead = step.index + 2 < motion.count;
            let Some((next, then)) = ahead.then(|| (set.step(bit + 1).0, set.step(bit + 2).0)) else { continue };
            let began = state.began(set, bit);
            let in_time = began.is_some_and(|began| began < at && at - began <= motion.within);
            // What came further had its direction.
            let further =
                |other: usize| set.step(other).1.cue == motion.cue && other > bit && state.began(set, other) == began;
            if state.bits().any(further) {
                continue;
            }
            let (Some(left_out), true) = (next.position, then.position == to && to.is_some()) else { continue };
            let listens = self.listening[plan.owner(motion.cue.into())];
            if !in_time || !listens || came(bit) || state.is_averted(set, bit) || next.held > 0 {
                continue;
            }
            let mut trail = first_step(plan, ledger, state, (set_number, bit), at);
            trail.push(at, toward(to));
            let (set, end) = (set_number, End::Skipped(left_out));
            ledger.follow(Nearly { set, from: bit, at, bit: bit + 2, trail, end });
        }
    }

    /// What was nearly a motion is finished, too: with this action, or with its last direction.
    pub(crate) fn tell_nearly(
        &self,
        ledger: &mut Ledger,
        plan: &Plan,
        set_number: usize,
        finish: Option<(FinisherIndex, bool)>,
        at: u64,
    ) {
        let set = &plan.cues.motions[set_number];
        let finisher = finish.map(|(number, _)| number);
        while let Some(Nearly { bit, mut trail, end, .. }) = ledger.take_nearly(set, set_number, finisher) {
            let (_, motion) = set.step(bit);
            if at - trail.began > motion.within {
                continue;
            }
            if let (Some((_, release)), Some(action)) = (finish, set.finished_by(motion)) {
                trail.push(at, if release { Did::Release(action) } else { Did::Press(action) });
            }
            ledger.motion_missed(trail, at, end);
        }
    }

    /// An action finished a set's motions; what was nearly one of them is told, too.
    pub(crate) fn tell_finish(&mut self, plan: &Plan, set_number: usize, number: FinisherIndex, at: u64) {
        let Some(mut ledger) = self.ledger.take() else { return };
        let release = plan.cues.motions[set_number].finishes_on_release(number);
        self.tell_nearly(&mut ledger, plan, set_number, Some((number, release)), at);
        self.ledger = Some(ledger);
    }
}
