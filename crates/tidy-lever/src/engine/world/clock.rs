//! The world's clock: it stands still while the fact `frozen` is told. Gauges, cooldowns and marks go by it.

use crate::cue::Presses;
use crate::engine::values::WorldNews;
use crate::engine::world::World;
use crate::engine::world::marks::Mark;
use crate::index::GaugeIndex;
use crate::linkage::WorldPlan;
use crate::time::NEVER;
use crate::timers::DuePart;

/// Whose a timer of the world's clock is.
enum WorldTimer {
    Gauge(usize),
    Recovers(usize),
    Lingered(usize),
    Cooled,
    Mark(usize),
}

/// The timers stand in a row: gauges, truths that recover, truths that linger, cooldowns, marks.
impl WorldPlan {
    pub(crate) fn recover_timer(&self, truth: usize) -> usize {
        self.gauges.len() + truth
    }

    pub(crate) fn linger_timer(&self, truth: usize) -> usize {
        self.recover_timer(self.truths.len()) + truth
    }

    pub(crate) fn cool_timer(&self, action: usize) -> usize {
        self.linger_timer(self.truths.len()) + action
    }

    pub(crate) fn first_mark_timer(&self) -> usize {
        self.cool_timer(self.actions.len())
    }

    fn timer(&self, owner: usize) -> WorldTimer {
        match owner {
            _ if owner < self.recover_timer(0) => WorldTimer::Gauge(owner),
            _ if owner < self.linger_timer(0) => WorldTimer::Recovers(owner - self.recover_timer(0)),
            _ if owner < self.cool_timer(0) => WorldTimer::Lingered(owner - self.linger_timer(0)),
            _ if owner < self.first_mark_timer() => WorldTimer::Cooled,
            _ => WorldTimer::Mark(owner - self.first_mark_timer()),
        }
    }
}

impl World {
    /// The world's clock at a moment of the hand's, in µs.
    pub(crate) fn now(&self, at: u64) -> u64 {
        at.min(self.frozen_since.unwrap_or(at)) - self.frozen_for
    }

    /// The game told a fact.
    pub(crate) fn tell(&mut self, plan: &WorldPlan, fact: usize, value: u16, at: u64) {
        if self.facts[fact] == value {
            return;
        }
        self.facts[fact] = value;
        self.may_open = true;
        self.truths_change(plan, fact, value, at);
        if fact == plan.frozen {
            match self.frozen_since.take() {
                None => self.frozen_since = Some(at),
                Some(since) => self.frozen_for += at - since,
            }
        }
    }

    /// A truth that was spent counts again.
    fn counts_again(&mut self, truth: usize, at: u64) {
        let world = self.now(at);
        let truth = &mut self.truths[truth];
        (truth.spent, truth.counted) = (None, Some(world));
    }

    /// What a fact's new value means for the truths that gates read.
    fn truths_change(&mut self, plan: &WorldPlan, fact: usize, value: u16, at: u64) {
        let world = self.now(at);
        for (number, how) in plan.truths.iter().enumerate().filter(|(_, how)| usize::from(how.fact) == fact) {
            let truth = &mut self.truths[number];
            let holds = how.value == value;
            if holds == truth.holds {
                continue;
            }
            truth.holds = holds;
            truth.ended = (!holds).then_some(world);
            truth.broken |= !holds && truth.spent.is_some();
            self.watch_lingering(plan, number, world);
            match self.truths[number].recovers() {
                Some(recovers) if recovers <= world => self.counts_again(number, at),
                Some(recovers) => self.timers.set(plan.recover_timer(number), recovers, DuePart::Due),
                None => self.timers.drop(plan.recover_timer(number)),
            }
        }
    }

    /// A timer for the moment at which a truth's lingering is over next: gates may each let it linger for another span.
    fn watch_lingering(&mut self, plan: &WorldPlan, number: usize, world: u64) {
        match self.truths[number].fades(&plan.truths[number], world) {
            Some(over) => self.timers.set(plan.linger_timer(number), over, DuePart::Due),
            None => self.timers.drop(plan.linger_timer(number)),
        }
    }

    /// A truth that was taken over is watched for its ends.
    pub(crate) fn watch_truth(&mut self, plan: &WorldPlan, number: usize, world: u64) {
        self.watch_lingering(plan, number, world);
        if let Some(recovers) = self.truths[number].recovers() {
            self.timers.set(plan.recover_timer(number), recovers.max(world + 1), DuePart::Due);
        }
    }

    /// Drops the marks of an action that are under way, of the pulls that `which` chooses by their number.
    pub(crate) fn drop_marks(&mut self, plan: &WorldPlan, action: usize, which: impl Fn(u32) -> bool) {
        if plan.actions[action].marks.is_empty() {
            return;
        }
        for (place, mark) in self.marks.iter() {
            if usize::from(mark.action) == action && which(mark.pull) {
                self.timers.drop(plan.first_mark_timer() + place);
            }
        }
    }

    pub(crate) fn gauge_pressed(&mut self, plan: &WorldPlan, gauge: GaugeIndex, press: u64, at: u64) {
        let number = usize::from(gauge);
        let world = self.now(at);
        let was_there = self.gauges[number].is_at_end(&plan.gauges[number], world);
        self.gauges[number].push(&plan.gauges[number], world);
        if !was_there && self.gauges[number].is_at_end(&plan.gauges[number], world) {
            self.gauge_pulls(plan, number, Presses::one(press));
        }
        self.gauge_goes_on(plan, number, world);
    }

    pub(crate) fn gauge_let_go(&mut self, plan: &WorldPlan, gauge: GaugeIndex, at: u64) {
        let number = usize::from(gauge);
        let world = self.now(at);
        self.gauges[number].let_go(&plan.gauges[number], world);
        self.gauge_goes_on(plan, number, world);
    }

    /// Sets a gauge's timer for the moment at which time alone brings it to its end.
    pub(crate) fn gauge_goes_on(&mut self, plan: &WorldPlan, number: usize, world: u64) {
        match self.gauges[number].reaches(&plan.gauges[number], world) {
            Some(due) => self.timers.set(number, due, DuePart::Due),
            None => self.timers.drop(number),
        }
    }

    /// When a moment of the world's clock comes, by the hand's; never while it stands still.
    #[inline(always)]
    pub(crate) fn comes(&self, world: u64) -> u64 {
        // Later than any moment is later than any moment still.
        if self.frozen_since.is_some() { NEVER } else { world.saturating_add(self.frozen_for) }
    }

    /// When something is due here, by the hand's clock.
    #[inline(always)]
    pub(crate) fn next_due(&self) -> u64 {
        self.comes(self.timers.next_at())
    }

    /// What a state's hash is made of. Marks that are not under way decide nothing.
    pub(crate) fn all_words(&self, played: u64, word: &mut impl FnMut(u64)) {
        self.words(played, word);
        let first = self.timers.owners() - self.marks.len();
        let under_way = (0..self.marks.len()).filter(|place| self.timers.when(first + place).is_some());
        under_way.flat_map(|place| self.marks.get(place).words()).for_each(word);
    }

    /// Whether its clock stands still.
    pub(crate) fn is_frozen(&self) -> bool {
        self.frozen_since.is_some()
    }

    /// Which way the character faces, as the game told.
    pub(crate) fn facing(&self, plan: &WorldPlan) -> u16 {
        self.facts[plan.facing]
    }

    /// Whether anything happened since this was asked last that may open a gate.
    #[inline(always)]
    pub(crate) fn take_may_open(&mut self) -> bool {
        core::mem::take(&mut self.may_open)
    }

    /// Plays the next timer that is due at a moment; whether there was one.
    #[inline(never)]
    pub(crate) fn falls_due(&mut self, plan: &WorldPlan, at: u64) -> bool {
        if self.frozen_since.is_some() {
            return false;
        }
        let Some(owner) = self.timers.take(self.now(at), DuePart::Due) else { return false };
        self.may_open = true;
        match plan.timer(owner) {
            WorldTimer::Gauge(gauge) => self.gauge_pulls(plan, gauge, Presses::default()),
            WorldTimer::Recovers(truth) => self.counts_again(truth, at),
            // A gate that asks for the end of a lingering, or of a cooldown, is looked at in this moment's settling.
            WorldTimer::Lingered(truth) => self.watch_lingering(plan, truth, self.now(at)),
            WorldTimer::Cooled => {}
            WorldTimer::Mark(place) => {
                let Mark { action, mark, .. } = self.marks.get(place);
                self.news.push(WorldNews::Mark { action, mark });
            }
        }
        true
    }

    /// A gauge reached the end at which it pulls.
    fn gauge_pulls(&mut self, plan: &WorldPlan, gauge: usize, presses: Presses) {
        self.news.push(WorldNews::Reached { action: plan.gauge_actions[gauge], presses });
    }

    /// Gauges that move by themselves from the start are watched.
    pub(crate) fn begins(&mut self, plan: &WorldPlan, at: u64) {
        for gauge in 0..plan.gauges.len() {
            self.gauge_goes_on(plan, gauge, self.now(at));
        }
    }

    /// The moments at which a pull's marks come back.
    pub(crate) fn set_marks(&mut self, plan: &WorldPlan, action: usize, pull: u32, at: u64) {
        for (mark, span) in plan.actions[action].marks.iter().enumerate() {
            // More than there is room for at once means thousands of pulls a second: the latest are left out.
            let first = plan.first_mark_timer();
            if let Some(owner) = self.timers.free_from(first) {
                self.marks.set(owner - first, Mark { action: action as u16, mark: mark as u8, pull });
                self.timers.set(owner, self.now(at) + span, DuePart::Due);
            }
        }
    }
}
