//! What a relink carries over of what pulls: the state of rules and motions, what is on, what waits or is kept.

use alloc::vec;

use crate::cause::Cause;
use crate::cue::rolls::MotionPlan;
use crate::engine::pulls::Pulls;
use crate::engine::pulls::pending::{PendingPull, Standing};
use crate::engine::relink_map::{RelinkMap, Relinked};
use crate::engine::values::Outcome;
use crate::index::run;
use crate::timers::DuePart;

impl Pulls {
    /// What is on stays on, by name, until its rules say otherwise.
    pub(crate) fn carry_actions(&mut self, from: &Pulls, map: &RelinkMap<'_>) {
        for number in 0..map.new.declared {
            let Some(before) = map.before(number).filter(|before| *before < map.old.declared) else { continue };
            self.actions[number] = from.actions[before];
            if self.actions[number].on {
                self.outcomes.push(Outcome::On { action: number as u16, from: 0 });
            }
        }
    }

    /// How far rules have come, where they are the same; others begin again, and what was on by them ends.
    pub(crate) fn carry_rules(&mut self, from: &Pulls, map: &RelinkMap<'_>, at: u64) -> Relinked {
        let (old, new) = (map.old, map.new);
        let mut relinked = Relinked::default();
        let mut begun_anew = |action: u16| {
            let Some(name) = map.after(action).map(|action| &new.actions[usize::from(action)].name) else { return };
            if !relinked.begun_anew.contains(name) {
                relinked.begun_anew.push(name.clone());
            }
        };
        let mut carried = vec![None; new.cues.motions.len()];
        for (set, was) in map.motion_sets() {
            let (motions, known) = (&new.cues.motions[set], &old.cues.motions[was]);
            let (after, cue_after) = (|action| map.after(action), |cue| map.cue_after(cue));
            self.cues.motions[set].carry(motions, &from.cues.motions[was], known, (after, cue_after));
            carried[set] = Some(was);
            // Steps that are being held go on.
            for motion in &motions.motions {
                let twin = motions.twin(motion, known, after, cue_after).map(|twin| &known.motions[twin]);
                if let (Some(timer), Some(before)) = (motion.timer(), twin.and_then(MotionPlan::timer))
                    && let Some((due, phase)) = from.cues.timers.when(old.first_motion_timer() + before)
                {
                    self.cues.timers.set(new.first_motion_timer() + timer, due, phase);
                }
            }
        }
        for (was, motions) in old.cues.motions.iter().enumerate() {
            let set = carried.iter().position(|carried| *carried == Some(was));
            for bit in from.cues.motions[was].bits() {
                let (_, before) = motions.step(bit);
                let has_twin = set.is_some_and(|set| {
                    let now = &new.cues.motions[set];
                    let is_its = |motion: &MotionPlan| {
                        let twin = now.twin(motion, motions, |action| map.after(action), |cue| map.cue_after(cue));
                        twin.is_some_and(|twin| core::ptr::eq(&motions.motions[twin], before))
                    };
                    now.motions.iter().any(is_its)
                });
                if !has_twin {
                    begun_anew(old.cues.all[usize::from(before.cue)].action);
                }
            }
        }
        for (cue, before) in map.by_cue() {
            let (to, source) = (run(&new.cues.all[cue].moments), run(&old.cues.all[before].moments));
            self.cues.moments[to].copy_from_slice(&from.cues.moments[source]);
            if let Some((due, phase)) = from.cues.timers.when(before) {
                self.cues.timers.set(cue, due, phase);
            }
        }
        for number in 0..new.declared {
            let Some(before) = map.before(number) else { continue };
            // What went on on a cue that is no more, is over.
            let gone = |cue: usize| map.cue_after(cue as u16).is_none();
            let lines = run(&old.actions[before].cues);
            if lines.clone().any(|cue| gone(cue) && from.cues.rule_states[cue].open) {
                relinked.begun_anew.push(new.actions[number].name.clone());
            }
            let was = old.while_held.binary_search(&(before as u16)).ok();
            if let (Some(was), Some(standing)) = (was, self.standing_of(new, number)) {
                let cue = from.lists.standing[was].cue.and_then(|cue| map.cue_after(cue.number()));
                if cue.is_some() {
                    *standing = Standing { cue, ..from.lists.standing[was] };
                }
            }
            let several = old.actions[before].has_several();
            let stays = |cue: usize| !gone(cue) && (!several || from.cues.rule_states[cue].on);
            let none = old.actions[before].cues == (0..0) && new.actions[number].cues.is_empty();
            self.actions[number].pulled_by = from.actions[before].pulled_by.and_then(|cue| map.cue_after(cue.number()));
            let goes_on = none || lines.into_iter().any(stays) || (old.toggles(before) && new.toggles(number));
            if !goes_on {
                self.end(new, number, Cause::Relinked, at);
            }
        }
        self.lists.waits.extend(from.lists.waits.iter().filter_map(|waiting| pending(map, waiting)));
        for kept in &from.lists.kept {
            let Some(pending) = pending(map, kept) else { continue };
            let (before, keep) =
                (old.actions[usize::from(kept.action)].keep, new.actions[usize::from(pending.action)].keep);
            // From when it was kept, by the world's clock, which may have stood still since.
            if let (Some((due, _)), true) = (from.lists.keeping.when(usize::from(kept.action)), keep > 0) {
                self.lists.keeping.set(usize::from(pending.action), due - before + keep, DuePart::Expire);
                self.lists.kept.push(pending);
            }
        }
        relinked
    }
}

fn pending(map: &RelinkMap<'_>, pending: &PendingPull) -> Option<PendingPull> {
    let action = map.after(pending.action)?.number();
    // What a gauge pulled stands on no cue.
    let cue = match pending.cue {
        Some(cue) => Some(map.cue_after(cue.number())?),
        None => None,
    };
    Some(PendingPull { action, cue, ..*pending })
}
