//! What a relink carries over of the world: what was told, how truths stand, and what goes by its clock.

use alloc::vec::Vec;

use crate::engine::relink_map::RelinkMap;
use crate::engine::world::marks::Mark;
use crate::engine::world::{MARKS, World};
use crate::gate::{Truth, TruthPlan};
use crate::gauge::GaugeState;
use crate::timers::DuePart;

impl World {
    /// Facts, modes, and how the truths of facts stand.
    pub(crate) fn carry_told(&mut self, from: &World, map: &RelinkMap<'_>, played: u64) {
        let (old, new) = (map.old, map.new);
        for (number, fact) in new.world.facts.iter().enumerate() {
            let Some(before) = old.world.facts.iter().position(|known| known.name == fact.name) else { continue };
            let word = &old.world.facts[before].words[usize::from(from.facts[before])];
            if let Some(value) = fact.value(word) {
                self.facts[number] = value;
            }
        }
        let before = |name: &str| old.world.modes.iter().position(|mode| mode.name == name);
        let known: Vec<(usize, u64)> = new
            .world
            .modes
            .iter()
            .enumerate()
            .filter_map(|(n, mode)| Some((n, from.modes.since(before(&mode.name)?))))
            .collect();
        self.modes.carry(&from.modes, &known);
        for action in 0..new.declared {
            let listens = self.modes.hears(&new.world.modes, &new.actions[action].heard);
            self.listens(&new.world, action, listens);
        }
        for (number, truth) in new.world.truths.iter().enumerate() {
            let (fact, word) = (&new.world.facts[usize::from(truth.fact)], usize::from(truth.value));
            self.truths[number].holds = self.facts[usize::from(truth.fact)] == truth.value;
            let same = |known: &TruthPlan| {
                let other = &old.world.facts[usize::from(known.fact)];
                other.name == fact.name && other.words.get(usize::from(known.value)) == fact.words.get(word)
            };
            let Some(was) = old.world.truths.iter().position(same) else { continue };
            let (was, holds) = (from.truths[was], self.truths[number].holds);
            let spender = was.spender.and_then(|action| map.after(action.number()));
            self.truths[number] = Truth { holds, spender, ..was };
            self.watch_truth(&new.world, number, self.now(played));
        }
    }

    /// What pulls left behind: cooldowns and stages, gauges, and marks that are to come back.
    pub(crate) fn carry_actions(&mut self, from: &World, map: &RelinkMap<'_>, played: u64) {
        let (old, new) = (map.old, map.new);
        let world = from.now(played);
        for number in 0..new.declared {
            let Some(before) = map.before(number).filter(|before| *before < old.declared) else { continue };
            let (one, two) = (&old.actions[before], &new.actions[number]);
            self.actions[number] = from.actions[before];
            if two.stages.is_none() {
                (self.actions[number].stage, self.actions[number].stage_before) = (0, 0);
            }
            if self.actions[number].cool_until > world {
                self.timers.set(new.world.cool_timer(number), self.actions[number].cool_until, DuePart::Due);
            }
            if let (Some(gauge), Some(was)) = (two.gauge.map(usize::from), one.gauge.map(usize::from)) {
                let (plan, known) = (&new.world.gauges[gauge], &old.world.gauges[was]);
                self.gauges[gauge] = GaugeState::carried(&from.gauges[was], known, plan, world);
                self.gauge_goes_on(&new.world, gauge, world);
            }
        }
        for (owner, Mark { action, mark, pull }) in from.marks.iter() {
            let Some((due, phase)) = from.timers.when(old.world.first_mark_timer() + owner) else { continue };
            let Some(after) = map.after(action) else { continue };
            let name = old.actions.get(usize::from(action)).and_then(|action| action.marks.get(usize::from(mark)));
            let mut marks = new.actions[usize::from(after)].marks.iter();
            let same = marks.position(|(other, _)| name.is_some_and(|(name, _)| name == other));
            let first = new.world.first_mark_timer();
            if let (Some(mark), Some(free)) =
                (same, self.timers.free_from(first).filter(|free| free - first < MARKS * new.world.marks))
            {
                self.marks.set(free - first, Mark { action: after.number(), mark: mark as u8, pull });
                self.timers.set(free, due, phase);
            }
        }
    }
}
