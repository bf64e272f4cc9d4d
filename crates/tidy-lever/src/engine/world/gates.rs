//! Whether a gate stands open, what a pull spends of what let it through, and why a gate is shut.

use alloc::string::String;

use crate::end::End;
use crate::engine::world::World;
use crate::gate::{self, Step, Truth};
use crate::index::Index;
use crate::linkage::WorldPlan;
use crate::time::NEVER;
use crate::timers::DuePart;

impl World {
    /// An action is on from this moment on, as gates read it; `NEVER` if it is off.
    #[inline(always)]
    pub(crate) fn is_on_from(&mut self, action: usize, from: u64) {
        self.on_from[action] = from;
    }

    /// Whether an action counts as on: as it stood before this moment's pulls.
    fn counts_as_on(&self, action: u16, at: u64) -> bool {
        let from = self.on_from[usize::from(action)];
        from != NEVER && from <= at
    }

    /// Whether an action's facts and cooldown let a pull pass now.
    #[inline(always)]
    pub(crate) fn is_open(&self, plan: &WorldPlan, action: usize, at: u64) -> bool {
        let cool_until = self.actions[action].cool_until;
        (cool_until == 0 || self.now(at) >= cool_until)
            && (plan.actions[action].gate.is_empty() || self.facts_allow(plan, action, at))
    }

    #[inline(never)]
    fn facts_allow(&self, plan: &WorldPlan, action: usize, at: u64) -> bool {
        let is_on = |action: u16| self.counts_as_on(action, at);
        gate::is_open(&plan.actions[action].gate, &self.truths, self.now(at), is_on)
    }

    /// Which stage an action's last pull was.
    #[inline(always)]
    pub(crate) fn stage(&self, action: usize) -> u8 {
        self.actions[action].stage
    }

    /// A pull spends what let it through, cools down, and goes on to the next stage.
    pub(crate) fn spend(&mut self, plan: &WorldPlan, action: usize, at: u64) {
        let (world, how) = (self.now(at), &plan.actions[action]);
        let state = &mut self.actions[action];
        state.stage_before = state.stage;
        if let Some((count, truth, within)) = how.stages {
            let counted = self.truths[usize::from(truth)].counted;
            let in_a_row = counted.is_some_and(|counted| world - counted <= within) && state.stage > 0;
            state.stage = if in_a_row { state.stage % count + 1 } else { 1 };
        }
        if how.cooldown > 0 {
            state.cool_until = world + how.cooldown;
            self.timers.set(plan.cool_timer(action), world + how.cooldown, DuePart::Due);
        }
        for (number, within) in &how.spends {
            let truth = &mut self.truths[usize::from(*number)];
            if !truth.lingers(*within, world) {
                continue;
            }
            (truth.spent, truth.spender) = (Some((world, *within)), Some(Index::new(action as u16)));
            (truth.broken, truth.counted_before, truth.counted) = (!truth.holds, truth.counted, None);
            match truth.recovers() {
                Some(recovers) => self.timers.set(plan.recover_timer(usize::from(*number)), recovers, DuePart::Due),
                None => self.timers.drop(plan.recover_timer(usize::from(*number))),
            }
        }
    }

    /// An action's last pull, of this number, is taken back: what it spent counts again, its stage and cooldown are as before,
    /// its marks are dropped.
    pub(crate) fn give_back(&mut self, plan: &WorldPlan, action: usize, pull: u32) {
        for (number, _) in &plan.actions[action].spends {
            let truth = &mut self.truths[usize::from(*number)];
            if truth.spent.is_some() && truth.spender == Some(Index::new(action as u16)) {
                (truth.spent, truth.counted) = (None, truth.counted_before);
                self.timers.drop(plan.recover_timer(usize::from(*number)));
            }
        }
        self.may_open = true;
        let state = &mut self.actions[action];
        (state.stage, state.cool_until) = (state.stage_before, 0);
        self.drop_marks(plan, action, |other| other == pull);
    }

    /// Why a gate refuses a pull now. Its terms are told by their places.
    pub(crate) fn why_shut(&self, plan: &WorldPlan, action: usize, terms: &[String], at: u64) -> End {
        let (how, world) = (&plan.actions[action], self.now(at));
        if world < self.actions[action].cool_until {
            return End::Cooling { left: self.actions[action].cool_until - world };
        }
        let is_on = |action: u16| self.counts_as_on(action, at);
        let answer = |step: Step| gate::is_true(step, &self.truths, world, is_on);
        let asks = |place: &usize| !matches!(how.gate[*place], Step::Not | Step::All(_) | Step::Any(_));
        // The term that alone would open it, or the first that doesn't hold.
        let alone = |place: &usize| {
            gate::is_open_where(&how.gate, |other, step| if other == *place { !answer(step) } else { answer(step) })
        };
        let places = || (0..how.gate.len()).filter(asks);
        let blocks = |place: &usize| answer(how.gate[*place]) == terms[*place].starts_with("not ");
        let Some(place) = places().find(alone).or_else(|| places().find(blocks)) else {
            return End::Shut { term: 0, by: None };
        };
        let term = place as u16;
        if let Step::Within(number, within) = how.gate[place] {
            let truth = &self.truths[usize::from(number)];
            // What is false by now anyway was not kept away by what spent it.
            let lingers = truth.ended.is_some_and(|ended| world - ended <= within);
            if truth.spent.is_some() && (truth.holds || lingers) {
                return End::Spent { term, by: truth.spender };
            }
            let truth = &truth.spent.map_or(*truth, |_| Truth { ended: None, ..*truth });
            let by = truth.ended.map(|ended| (world - ended).saturating_sub(within)).filter(|_| !truth.holds);
            return End::Shut { term, by };
        }
        End::Shut { term, by: None }
    }
}
