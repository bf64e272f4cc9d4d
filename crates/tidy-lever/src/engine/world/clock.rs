//! The world's clock: it stands still while the fact `frozen` is told. Gauges, cooldowns and marks go by it.

use crate::cause::Cause;
use crate::cue::{CueMatch, Presses};
use crate::engine::world::marks::Mark;
use crate::engine::{Engine, Toggled};
use crate::history::{Happening, What};
use crate::index::{GaugeIndex, Index};
use crate::linkage::Plan;
use crate::time::Moment;
use crate::timers::DuePart;

/// Whose a timer of the world's clock is.
enum WorldTimer {
    Gauge(usize),
    Recovers(usize),
    Lingered(usize),
    Keep(u16),
    Cooled,
    Mark(usize),
}

/// The timers stand in a row: gauges, truths that recover, truths that linger, keeps, cooldowns, marks.
impl Plan {
    fn recover_timer(&self, truth: usize) -> usize {
        self.world.gauges.len() + truth
    }

    fn linger_timer(&self, truth: usize) -> usize {
        self.recover_timer(self.world.truths.len()) + truth
    }

    pub(crate) fn keep_timer(&self, action: u16) -> usize {
        self.linger_timer(self.world.truths.len()) + usize::from(action)
    }

    pub(crate) fn cool_timer(&self, action: u16) -> usize {
        self.keep_timer(self.declared as u16) + usize::from(action)
    }

    pub(crate) fn first_mark_timer(&self) -> usize {
        self.cool_timer(self.declared as u16)
    }

    fn world_timer(&self, owner: usize) -> WorldTimer {
        match owner {
            _ if owner < self.recover_timer(0) => WorldTimer::Gauge(owner),
            _ if owner < self.linger_timer(0) => WorldTimer::Recovers(owner - self.recover_timer(0)),
            _ if owner < self.keep_timer(0) => WorldTimer::Lingered(owner - self.linger_timer(0)),
            _ if owner < self.cool_timer(0) => WorldTimer::Keep((owner - self.keep_timer(0)) as u16),
            _ if owner < self.first_mark_timer() => WorldTimer::Cooled,
            _ => WorldTimer::Mark(owner - self.first_mark_timer()),
        }
    }
}

impl Engine {
    /// The world's clock at a moment of the hand's, in µs.
    pub(crate) fn world_at(&self, at: u64) -> u64 {
        at.min(self.world.frozen_since.unwrap_or(at)) - self.world.frozen_for
    }

    /// The next moment at which a timer falls due, or gates are looked at again; `NEVER` if there is none.
    #[inline(always)]
    pub(crate) fn next_due(&self) -> u64 {
        let mut next = self.cues.timers.next_at().min(self.pulls.recheck).min(self.inputs.next_due());
        if self.world.frozen_since.is_none() {
            // Later than any moment is later than any moment still.
            next = next.min(self.world.timers.next_at().saturating_add(self.world.frozen_for));
        }
        next
    }

    /// The game told a fact.
    pub(crate) fn tell(&mut self, plan: &Plan, fact: usize, value: u16, at: u64) {
        if self.world.facts[fact] == value {
            return;
        }
        self.world.facts[fact] = value;
        self.pulls.looked = false;
        self.truths_change(plan, fact, value, at);
        if fact == plan.world.frozen {
            match self.world.frozen_since.take() {
                None => self.world.frozen_since = Some(at),
                Some(since) => self.world.frozen_for += at - since,
            }
        }
    }

    /// Plays the world's timers that are due at a moment.
    #[inline(never)]
    pub(crate) fn world_falls_due(&mut self, plan: &Plan, at: u64, phase: DuePart) {
        if self.world.frozen_since.is_some() || !self.world.timers.is_due(self.world_at(at), phase) {
            return;
        }
        self.pulls.looked = false;
        while let Some(owner) = self.world.timers.take(self.world_at(at), phase) {
            match plan.world_timer(owner) {
                WorldTimer::Gauge(gauge) => self.gauge_pulls(plan, gauge, Presses::default(), at),
                WorldTimer::Recovers(truth) => self.counts_again(truth, at),
                // A gate that asks for the end of a lingering, or of a cooldown, is looked at in this moment's settling.
                WorldTimer::Lingered(truth) => self.watch_lingering(plan, truth, self.world_at(at)),
                WorldTimer::Cooled => {}
                WorldTimer::Keep(action) => {
                    self.pulls.kept.retain(|pending| pending.action != action);
                    self.note(|ledger| ledger.keep_over(usize::from(action), at));
                }
                WorldTimer::Mark(place) => {
                    let Mark { action, mark, .. } = self.world.marks.get(place);
                    let at = Moment::from_micros(at);
                    self.log.ring.push(Happening::new(at, at, action, What::Mark(mark)));
                }
            }
        }
    }

    /// A truth that was spent counts again.
    fn counts_again(&mut self, truth: usize, at: u64) {
        let world = self.world_at(at);
        let truth = &mut self.world.truths[truth];
        (truth.spent, truth.counted) = (None, Some(world));
    }

    /// What a fact's new value means for the truths that gates read.
    fn truths_change(&mut self, plan: &Plan, fact: usize, value: u16, at: u64) {
        let world = self.world_at(at);
        for (number, how) in plan.world.truths.iter().enumerate().filter(|(_, how)| usize::from(how.fact) == fact) {
            let truth = &mut self.world.truths[number];
            let holds = how.value == value;
            if holds == truth.holds {
                continue;
            }
            truth.holds = holds;
            truth.ended = (!holds).then_some(world);
            truth.broken |= !holds && truth.spent.is_some();
            self.watch_lingering(plan, number, world);
            match self.world.truths[number].recovers() {
                Some(recovers) if recovers <= world => self.counts_again(number, at),
                Some(recovers) => self.world.timers.set(plan.recover_timer(number), recovers, DuePart::Due),
                None => self.world.timers.drop(plan.recover_timer(number)),
            }
        }
    }

    /// A timer for the moment at which a truth's lingering is over next: gates may each let it linger for another span.
    fn watch_lingering(&mut self, plan: &Plan, number: usize, world: u64) {
        match self.world.truths[number].fades(&plan.world.truths[number], world) {
            Some(over) => self.world.timers.set(plan.linger_timer(number), over, DuePart::Due),
            None => self.world.timers.drop(plan.linger_timer(number)),
        }
    }

    /// A truth that was taken over is watched for its ends.
    pub(crate) fn watch_truth(&mut self, plan: &Plan, number: usize, world: u64) {
        self.watch_lingering(plan, number, world);
        if let Some(recovers) = self.world.truths[number].recovers() {
            self.world.timers.set(plan.recover_timer(number), recovers.max(world + 1), DuePart::Due);
        }
    }

    /// A pull spends what let it through, cools down, and goes on to the next stage.
    pub(crate) fn spend(&mut self, plan: &Plan, action: usize, at: u64) {
        let (world, how) = (self.world_at(at), &plan.actions[action]);
        let state = &mut self.actions[action];
        state.stage_before = state.stage;
        if let Some((count, truth, within)) = how.stages {
            let counted = self.world.truths[usize::from(truth)].counted;
            let in_a_row = counted.is_some_and(|counted| world - counted <= within) && state.stage > 0;
            state.stage = if in_a_row { state.stage % count + 1 } else { 1 };
        }
        if how.cooldown > 0 {
            state.cool_until = world + how.cooldown;
            self.world.timers.set(plan.cool_timer(action as u16), world + how.cooldown, DuePart::Due);
        }
        for (number, within) in &how.spends {
            let truth = &mut self.world.truths[usize::from(*number)];
            if !truth.lingers(*within, world) {
                continue;
            }
            (truth.spent, truth.spender) = (Some((world, *within)), Some(Index::new(action as u16)));
            (truth.broken, truth.counted_before, truth.counted) = (!truth.holds, truth.counted, None);
            match truth.recovers() {
                Some(recovers) => {
                    self.world.timers.set(plan.recover_timer(usize::from(*number)), recovers, DuePart::Due)
                }
                None => self.world.timers.drop(plan.recover_timer(usize::from(*number))),
            }
        }
    }

    /// An action's last pull is taken back, by the game or by a winner: what it spent counts again, its stage and cooldown
    /// are as before, its marks are dropped, and a toggle is as it was before that press.
    pub(crate) fn give_back(&mut self, plan: &Plan, action: usize, cause: Cause, at: u64) {
        for (number, _) in &plan.actions[action].spends {
            let truth = &mut self.world.truths[usize::from(*number)];
            if truth.spent.is_some() && truth.spender == Some(Index::new(action as u16)) {
                (truth.spent, truth.counted) = (None, truth.counted_before);
                self.world.timers.drop(plan.recover_timer(usize::from(*number)));
            }
        }
        self.pulls.looked = false;
        let state = &mut self.actions[action];
        (state.stage, state.cool_until) = (state.stage_before, 0);
        match core::mem::take(&mut state.toggled) {
            Toggled::Not => {}
            Toggled::On => self.end(plan, action, cause, at),
            Toggled::Off => {
                (state.on, state.on_since) = (true, state.was_on_since);
                self.unsettle(plan, action);
                self.recheck_after(at);
            }
        }
        let last = self.actions[action].pulls;
        self.drop_marks(plan, action, |pull| pull == last);
    }

    /// Something is on or off since this moment: gates that ask for it are looked at again in the next.
    pub(crate) fn recheck_after(&mut self, at: u64) {
        (self.pulls.looked, self.pulls.turned_in) = (false, at);
        if !self.pulls.kept.is_empty() || self.pulls.rechecks {
            self.pulls.recheck = at + 1;
        }
    }

    /// The moments at which a pull's marks come back.
    pub(crate) fn set_marks(&mut self, plan: &Plan, action: usize, at: u64) {
        for (mark, (_, span)) in plan.actions[action].marks.iter().enumerate() {
            // More than there is room for at once means thousands of pulls a second: the latest are left out.
            let first = plan.first_mark_timer();
            if let Some(owner) = self.world.timers.free_from(first) {
                let pull = self.actions[action].pulls;
                self.world.marks.set(owner - first, Mark { action: action as u16, mark: mark as u8, pull });
                self.world.timers.set(owner, self.world_at(at) + span, DuePart::Due);
            }
        }
    }

    /// Drops the marks of an action that are under way, of the pulls that `which` chooses by their number.
    pub(crate) fn drop_marks(&mut self, plan: &Plan, action: usize, which: impl Fn(u32) -> bool) {
        if plan.actions[action].marks.is_empty() {
            return;
        }
        for (place, mark) in self.world.marks.iter() {
            if usize::from(mark.action) == action && which(mark.pull) {
                self.world.timers.drop(plan.first_mark_timer() + place);
            }
        }
    }

    pub(crate) fn gauge_pressed(&mut self, plan: &Plan, gauge: GaugeIndex, press: u64, at: u64) {
        let number = usize::from(gauge);
        let world = self.world_at(at);
        let was_there = self.world.gauges[number].is_at_end(&plan.world.gauges[number], world);
        self.world.gauges[number].push(&plan.world.gauges[number], world);
        if !was_there && self.world.gauges[number].is_at_end(&plan.world.gauges[number], world) {
            self.gauge_pulls(plan, number, Presses::one(press), at);
        }
        self.gauge_goes_on(plan, number, world);
    }

    pub(crate) fn gauge_let_go(&mut self, plan: &Plan, gauge: GaugeIndex, at: u64) {
        let number = usize::from(gauge);
        let world = self.world_at(at);
        self.world.gauges[number].let_go(&plan.world.gauges[number], world);
        self.gauge_goes_on(plan, number, world);
    }

    /// Sets a gauge's timer for the moment at which time alone brings it to its end.
    pub(crate) fn gauge_goes_on(&mut self, plan: &Plan, number: usize, world: u64) {
        match self.world.gauges[number].reaches(&plan.world.gauges[number], world) {
            Some(due) => self.world.timers.set(number, due, DuePart::Due),
            None => self.world.timers.drop(number),
        }
    }

    /// A gauge reached the end at which it pulls.
    fn gauge_pulls(&mut self, plan: &Plan, gauge: usize, presses: Presses, at: u64) {
        let action = usize::from(plan.world.gauge_actions[gauge]);
        if self.world.listening[action] && !self.pulls.muted {
            let cue_match = CueMatch { presses, pressed: at, ..CueMatch::default() };
            self.action_matched(plan, (action, None), cue_match);
        }
    }
}
