//! What a relink carries over: what was told, fingers, actions, and the state of rules and motions.

use crate::cause::Cause;
use crate::cue::rolls::MotionPlan;
use crate::engine::inputs::fingers::Stage;
use crate::engine::pulls::pending::Standing;
use crate::engine::relink::Relinked;
use crate::engine::ways::{Ways, place};
use crate::engine::world::marks::Mark;
use crate::engine::{Engine, MARKS};
use crate::gate::{Truth, TruthPlan};
use crate::gauge::GaugeState;
use crate::index::{PatchIndex, run};
use crate::timers::DuePart;
use alloc::vec;
use alloc::vec::Vec;

impl Engine {
    /// Facts, modes, and how the truths of facts stand.
    pub(crate) fn carry_told(&mut self, from: &Engine, ways: &Ways<'_>) {
        let (old, new) = (ways.old, ways.new);
        for (number, fact) in new.world.facts.iter().enumerate() {
            let Some(before) = old.world.facts.iter().position(|known| known.name == fact.name) else { continue };
            let word = &old.world.facts[before].words[usize::from(from.world.facts[before])];
            if let Some(value) = fact.value(word) {
                self.world.facts[number] = value;
            }
        }
        let before = |name: &str| old.world.modes.iter().position(|mode| mode.name == name);
        let known: Vec<(usize, u64)> = new
            .world
            .modes
            .iter()
            .enumerate()
            .filter_map(|(n, mode)| Some((n, from.world.modes.since(before(&mode.name)?))))
            .collect();
        self.world.modes.carry(&from.world.modes, &known);
        for action in 0..new.declared {
            let listens = self.world.modes.hears(&new.world.modes, &new.actions[action].heard);
            self.listens(new, action, listens);
        }
        for (number, truth) in new.world.truths.iter().enumerate() {
            let (fact, word) = (&new.world.facts[usize::from(truth.fact)], usize::from(truth.value));
            self.world.truths[number].holds = self.world.facts[usize::from(truth.fact)] == truth.value;
            let same = |known: &TruthPlan| {
                let other = &old.world.facts[usize::from(known.fact)];
                other.name == fact.name && other.words.get(usize::from(known.value)) == fact.words.get(word)
            };
            let Some(was) = old.world.truths.iter().position(same) else { continue };
            let (was, holds) = (from.world.truths[was], self.world.truths[number].holds);
            let spender = was.spender.and_then(|action| ways.after(action.number()));
            self.world.truths[number] = Truth { holds, spender, ..was };
            self.watch_truth(new, number, self.world_at(from.played()));
        }
    }

    pub(crate) fn carry_fingers(&mut self, from: &Engine, ways: &Ways<'_>) {
        self.inputs.fingers = from.inputs.fingers;
        let patch = |patch: PatchIndex| {
            let name = &ways.old.inputs.panel[usize::from(patch)].name;
            place(&ways.new.inputs.panel, |patch| patch.name == *name)
        };
        for finger in &mut self.inputs.fingers.played {
            finger.stage = match finger.stage {
                Stage::Owned(own) => patch(own).map_or(Stage::Dead, Stage::Owned),
                Stage::Wild(zone, points) => Stage::Wild(zone.and_then(patch), points),
                stage => stage,
            };
        }
    }

    /// What actions are and were, by name: sums, stages, gauges and marks.
    pub(crate) fn carry_actions(&mut self, from: &Engine, ways: &Ways<'_>) {
        let (old, new) = (ways.old, ways.new);
        let world = from.world_at(from.played());
        for number in 0..new.actions.len() {
            let Some(before) = ways.before(number) else { continue };
            self.inputs.buttons[number] = from.inputs.buttons[before];
            self.log.sums[number] = from.log.sums[before];
            let was = from.actions[before];
            let (one, two) = (&old.actions[before], &new.actions[number]);
            self.actions[number] = was;
            if two.stages.is_none() {
                (self.actions[number].stage, self.actions[number].stage_before) = (0, 0);
            }
            if self.actions[number].cool_until > world {
                self.world.timers.set(new.cool_timer(number as u16), self.actions[number].cool_until, DuePart::Due);
            }
            if let (Some(gauge), Some(was)) = (two.gauge.map(usize::from), one.gauge.map(usize::from)) {
                let (plan, known) = (&new.world.gauges[gauge], &old.world.gauges[was]);
                self.world.gauges[gauge] = GaugeState::carried(&from.world.gauges[was], known, plan, world);
                self.gauge_goes_on(new, gauge, world);
            }
        }
        for (owner, Mark { action, mark, pull }) in from.world.marks.iter() {
            let Some((due, phase)) = from.world.timers.when(old.first_mark_timer() + owner) else { continue };
            let Some(after) = ways.after(action) else { continue };
            let name = old.actions.get(usize::from(action)).and_then(|action| action.marks.get(usize::from(mark)));
            let mut marks = new.actions[usize::from(after)].marks.iter();
            let same = marks.position(|(other, _)| name.is_some_and(|(name, _)| name == other));
            let first = new.first_mark_timer();
            if let (Some(mark), Some(free)) =
                (same, self.world.timers.free_from(first).filter(|free| free - first < MARKS * new.world.marks))
            {
                self.world.marks.set(free - first, Mark { action: after.number(), mark: mark as u8, pull });
                self.world.timers.set(free, due, phase);
            }
        }
    }

    /// How far rules have come, where they are the same; others begin again, and what was on by them ends.
    pub(crate) fn carry_rules(&mut self, from: &Engine, ways: &Ways<'_>) -> Relinked {
        let (old, new) = (ways.old, ways.new);
        let mut relinked = Relinked::default();
        let at = from.played();
        let mut begun_anew = |action: u16| {
            let Some(name) = ways.after(action).map(|action| &new.actions[usize::from(action)].name) else { return };
            if !relinked.begun_anew.contains(name) {
                relinked.begun_anew.push(name.clone());
            }
        };
        let mut carried = vec![None; new.cues.motions.len()];
        for (set, was) in ways.motion_sets() {
            let (motions, known) = (&new.cues.motions[set], &old.cues.motions[was]);
            let (after, cue_after) = (|action| ways.after(action), |cue| ways.cue_after(cue));
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
                        let twin = now.twin(motion, motions, |action| ways.after(action), |cue| ways.cue_after(cue));
                        twin.is_some_and(|twin| core::ptr::eq(&motions.motions[twin], before))
                    };
                    now.motions.iter().any(is_its)
                });
                if !has_twin {
                    begun_anew(old.cues.all[usize::from(before.cue)].action);
                }
            }
        }
        for (cue, before) in ways.by_cue() {
            let (to, source) = (run(&new.cues.all[cue].moments), run(&old.cues.all[before].moments));
            self.cues.moments[to].copy_from_slice(&from.cues.moments[source]);
            if let Some((due, phase)) = from.cues.timers.when(before) {
                self.cues.timers.set(cue, due, phase);
            }
        }
        for number in 0..new.declared {
            let Some(before) = ways.before(number) else { continue };
            // What went on on a cue that is no more, is over.
            let gone = |cue: usize| ways.cue_after(cue as u16).is_none();
            let lines = run(&old.actions[before].cues);
            if lines.clone().any(|cue| gone(cue) && from.cues.rule_states[cue].open) {
                relinked.begun_anew.push(new.actions[number].name.clone());
            }
            let was = old.while_held.binary_search(&(before as u16)).ok();
            if let (Some(was), Some(standing)) = (was, self.standing_of(new, number)) {
                let cue = from.pulls.standing[was].cue.and_then(|cue| ways.cue_after(cue.number()));
                if cue.is_some() {
                    *standing = Standing { cue, ..from.pulls.standing[was] };
                }
            }
            let several = old.actions[before].has_several();
            let stays = |cue: usize| !gone(cue) && (!several || from.cues.rule_states[cue].on);
            let none = old.actions[before].cues == (0..0) && new.actions[number].cues.is_empty();
            self.actions[number].pulled_by =
                from.actions[before].pulled_by.and_then(|cue| ways.cue_after(cue.number()));
            let goes_on = none || lines.into_iter().any(stays) || (old.toggles(before) && new.toggles(number));
            if !goes_on {
                self.end(new, number, Cause::Relinked, at);
            }
        }
        self.pulls.waits.extend(from.pulls.waits.iter().filter_map(|pending| ways.pending(pending)));
        for kept in &from.pulls.kept {
            let Some(pending) = ways.pending(kept) else { continue };
            let (before, keep) =
                (old.actions[usize::from(kept.action)].keep, new.actions[usize::from(pending.action)].keep);
            // From when it was kept, by the world's clock, which may have stood still since.
            if let (Some((due, _)), true) = (from.world.timers.when(old.keep_timer(kept.action)), keep > 0) {
                self.world.timers.set(new.keep_timer(pending.action), due - before + keep, DuePart::Expire);
                self.pulls.kept.push(pending);
            }
        }
        relinked
    }
}
