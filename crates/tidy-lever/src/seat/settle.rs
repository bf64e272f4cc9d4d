//! Settling a moment: what cues make of edges and timers, who waits for whom, who wins, and the pulls that come of it.

use super::block::{ActionState, Block, Met};
use crate::cue::{Bench, Edge, Meeting, Presses, Role, RulePlan, Verdict};
use crate::history::{Cause, Happening, What};
use crate::linkage::{NONE, Plan, run};
use crate::time::Moment;
use crate::timers::Phase;

/// How many served presses a group remembers.
const SERVED: usize = 64;

/// The presses that a group's pulls have used up, newest over oldest.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Served {
    /// The press and the action that it served.
    presses: [(u32, u16); SERVED],
    next: usize,
}

impl Default for Served {
    fn default() -> Served {
        Served { presses: [(0, NONE); SERVED], next: 0 }
    }
}

impl Served {
    fn add(&mut self, presses: &Presses, action: u16) {
        for press in presses.iter() {
            self.presses[self.next % SERVED] = (press, action);
            self.next = (self.next + 1) % SERVED;
        }
    }

    /// Whether one of these presses served another action that doesn't give way.
    fn takes(&self, presses: &Presses, action: u16, gives_way: &[u16]) -> bool {
        let taken = |(press, by): &(u32, u16)| presses.has(*press) && *by != action && !gives_way.contains(by);
        self.presses.iter().filter(|(press, _)| *press != 0).any(taken)
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> impl Iterator<Item = u64> {
        let order = (0..SERVED).map(|n| self.presses[(self.next + n) % SERVED]);
        order.map(|(press, action)| u64::from(press) << 16 | u64::from(action))
    }
}

impl Block {
    /// A cue hears an edge.
    pub(super) fn hear(&mut self, plan: &Plan, action: usize, edge: Edge, role: Role, at: u64) {
        if !self.actions[action].listens {
            return;
        }
        let Some(rule) = plan.actions[action].cue else { return };
        self.ask(plan, action, at, |bench| rule.hears(edge, role, bench));
    }

    /// Lets a rule work on its state, and does what it says.
    fn ask(&mut self, plan: &Plan, action: usize, at: u64, rule: impl FnOnce(&mut Bench<'_>) -> Verdict) {
        let mut timer = None;
        let verdict = rule(&mut Bench {
            at,
            trial: &mut self.trials[action],
            timer: &mut timer,
            moments: &mut self.moments[run(&plan.actions[action].moments)],
            on: self.actions[action].on,
        });
        match timer {
            None => {}
            Some(None) => self.timers.drop(action),
            Some(Some((due, phase))) => self.timers.set(action, due, phase),
        }
        match verdict {
            Verdict::None => {}
            Verdict::Met(meeting) => {
                if !self.muted {
                    self.meet(plan, action, meeting, at);
                }
            }
            Verdict::Ended(cause) => self.ended(action, cause, at),
        }
    }

    /// What an action stood on ended: what is on ends, what still waits comes out as an instant, or not at all.
    fn ended(&mut self, action: usize, cause: Cause, at: u64) {
        let own = |met: &Met| usize::from(met.action) == action;
        if cause == Cause::LetGo {
            self.waits.iter_mut().filter(|met| own(met)).for_each(|met| met.meeting.lasting = false);
            // A hold that is reached in the very moment of letting go still pulls first.
            let mut met_now = self.met.iter_mut().filter(|met| own(met) && met.meeting.lasting).peekable();
            if met_now.peek().is_some() {
                met_now.for_each(|met| met.let_go = true);
                return;
            }
        } else {
            // What the hand didn't let go was never meant: it doesn't even pull.
            self.met.retain(|met| !own(met));
            self.waits.retain(|met| !own(met));
        }
        self.end(action, cause, at);
    }

    /// Ends what is on, if it is.
    pub(super) fn end(&mut self, action: usize, cause: Cause, at: u64) {
        let state = &mut self.actions[action];
        if state.on {
            state.on = false;
            let since = state.on_since;
            self.happened(action, What::Ended(cause), at, since);
        }
    }

    /// An action's attempts, waits and timers are dropped.
    pub(super) fn drop_attempts(&mut self, plan: &Plan, action: usize) {
        let own = |met: &Met| usize::from(met.action) == action;
        self.met.retain(|met| !own(met));
        self.waits.retain(|met| !own(met));
        self.trials[action].drop_attempt();
        self.timers.drop(action);
        self.drop_marks(plan, action);
    }

    /// Plays the timers that are due at a moment, in one of its phases.
    pub(super) fn fall_due(&mut self, plan: &Plan, at: u64, phase: Phase) {
        while let Some(action) = self.timers.take(at, phase) {
            if let Some(rule) = plan.actions[action].cue {
                self.ask(plan, action, at, |bench| rule.falls_due(bench));
            }
        }
        if phase == Phase::Due {
            self.world_falls_due(plan, at);
        }
    }

    /// A cue is met; it pulls when the moment's events are all in.
    pub(super) fn meet(&mut self, plan: &Plan, action: usize, meeting: Meeting, at: u64) {
        if self.met.len() == self.met.capacity() {
            self.settle(plan, at);
        }
        self.met.push(Met { action: action as u16, meeting, aim: None, fresh: true, let_go: false });
    }

    /// Whether a met cue must wait: a listed, listening action has an attempt on the same press that may complete.
    fn must_wait(&self, plan: &Plan, met: &Met) -> bool {
        plan.actions[usize::from(met.action)].waits_for.iter().any(|rival| {
            let rival = usize::from(*rival);
            let trial = &self.trials[rival];
            self.actions[rival].listens && trial.open && trial.presses.shares(&met.meeting.presses)
        })
    }

    /// Pulls whatever was met in this moment and need not wait, winners first.
    pub(super) fn settle(&mut self, plan: &Plan, at: u64) {
        if self.met.is_empty() && self.waits.is_empty() {
            return;
        }
        // What waited and need not any longer joins what was met now; what must wait steps aside.
        for place in (0..self.waits.len()).rev() {
            if self.met.len() < self.met.capacity() && !self.must_wait(plan, &self.waits[place]) {
                let met = self.waits.remove(place);
                self.met.insert(0, met);
            }
        }
        for place in (0..self.met.len()).rev() {
            let mut met = self.met[place];
            if met.fresh {
                // The direction is the one at the end of the press's own moment, even if the pull waits.
                met.fresh = false;
                met.aim =
                    self.moved.get(usize::from(plan.actions[usize::from(met.action)].aim)).map(|moved| moved.aim(at));
                self.met[place] = met;
            }
            if self.waits.len() < self.waits.capacity() && self.must_wait(plan, &met) {
                self.met.remove(place);
                let lasting = met.meeting.lasting && !met.let_go;
                self.waits.push(Met { meeting: Meeting { lasting, ..met.meeting }, ..met });
            }
        }
        while !self.met.is_empty() {
            let place = self.unbeaten(plan, at);
            let met = self.met.remove(place);
            if self.gate_is_open(plan, &met, at) {
                self.pull(plan, met, at);
            } else {
                self.refuse(met, at);
            }
        }
    }

    /// A met cue comes to nothing; what it had on before ends where it was let go.
    fn refuse(&mut self, met: Met, at: u64) {
        if met.let_go {
            self.end(usize::from(met.action), Cause::LetGo, at);
        }
    }

    /// What was met or waits and loses its press comes to nothing.
    fn refuse_all(&mut self, loses: impl Fn(&Met) -> bool, at: u64) {
        while let Some(place) = self.met.iter().position(&loses) {
            let met = self.met.remove(place);
            self.refuse(met, at);
        }
        self.waits.retain(|met| !loses(met));
    }

    /// The first of what was met that nothing else beats.
    fn unbeaten(&self, plan: &Plan, at: u64) -> usize {
        let all = || self.met.iter().enumerate();
        let beaten = |(place, met): &(usize, &Met)| {
            all().any(|(other, rival)| {
                other != *place && self.beats(plan, rival, met) && self.gate_is_open(plan, rival, at)
            })
        };
        all().find(|entry| !beaten(entry)).map_or(0, |(place, _)| place)
    }

    /// Whether one of two met cues takes a press that they share.
    fn beats(&self, plan: &Plan, winner: &Met, loser: &Met) -> bool {
        if !winner.meeting.presses.shares(&loser.meeting.presses) {
            return false;
        }
        let (one, other) = (&plan.actions[usize::from(winner.action)], &plan.actions[usize::from(loser.action)]);
        if one.outranks.contains(&loser.action) {
            return true;
        }
        let newest = |met: &Met| met.meeting.presses.iter().max().unwrap_or(0);
        let before = (newest(loser), winner.action) < (newest(winner), loser.action);
        one.group != NONE && one.group == other.group && !other.outranks.contains(&winner.action) && before
    }

    /// Whether a met cue may pull now.
    fn gate_is_open(&self, plan: &Plan, met: &Met, at: u64) -> bool {
        let how = &plan.actions[usize::from(met.action)];
        let state = &self.actions[usize::from(met.action)];
        let cooled = how.cooldown == 0 || state.sums.pulled == 0 || self.world(at) >= state.pulled_at + how.cooldown;
        let free = how.group == NONE
            || met.meeting.repeated
            || !self.served[usize::from(how.group)].takes(&met.meeting.presses, met.action, &how.outranks);
        cooled && free
    }

    fn pull(&mut self, plan: &Plan, met: Met, at: u64) {
        let Met { action, meeting, aim, .. } = met;
        let how = &plan.actions[usize::from(action)];
        let over = self.defeat(plan, &met, at);
        if how.group != NONE {
            self.served[usize::from(how.group)].add(&meeting.presses, action);
        }
        let world = self.world(at);
        let number = usize::from(action);
        let state = self.touch(number);
        state.sums.pulled = state.sums.pulled.wrapping_add(1);
        (state.pulled_at, state.pulled_on) = (world, meeting.presses);
        let toggles = how.cue == Some(RulePlan::Toggle);
        let turned_off = toggles && state.on;
        if meeting.lasting && !state.on {
            (state.on, state.on_since) = (true, at);
        }
        let (moment, since) = (Moment::from_micros(at), Moment::from_micros(meeting.pressed));
        let happening = Happening::new(moment, since, action, What::Pulled);
        self.ring.push(Happening { aim, amount: meeting.amount, over, ..happening });
        if turned_off {
            self.end(number, Cause::Toggled, at);
        } else if met.let_go {
            self.end(number, Cause::LetGo, at);
        }
        self.set_marks(plan, number, at);
    }

    /// The losers of a pull give up what shares a press with it; the last one that had pulled already is named.
    fn defeat(&mut self, plan: &Plan, winner: &Met, at: u64) -> u16 {
        let presses = winner.meeting.presses;
        let how = &plan.actions[usize::from(winner.action)];
        let mut over = NONE;
        for loser in &how.outranks {
            self.refuse_all(|met| met.action == *loser && met.meeting.presses.shares(&presses), at);
            let ActionState { pulled_on, sums, .. } = self.actions[usize::from(*loser)];
            if sums.pulled > 0 && pulled_on.shares(&presses) {
                over = *loser;
                self.end(usize::from(*loser), Cause::Outranked, at);
            }
        }
        if how.group != NONE {
            let group = |met: &Met| plan.actions[usize::from(met.action)].group;
            self.refuse_all(|met| group(met) == how.group && met.meeting.presses.shares(&presses), at);
        }
        over
    }

    /// The game sets a toggle: no pull, but it is on or not from here on.
    pub(super) fn set(&mut self, action: usize, on: bool, at: u64) {
        if on && !self.actions[action].on {
            (self.actions[action].on, self.actions[action].on_since) = (true, at);
        } else if !on {
            self.end(action, Cause::Set, at);
        }
    }

    /// A gap was passed: attempts are dropped, and so is what stood on a rate.
    pub(super) fn drop_all_attempts(&mut self, plan: &Plan, at: u64) {
        for action in 0..plan.declared {
            self.drop_attempts(plan, action);
            if matches!(plan.actions[action].cue, Some(RulePlan::Mash { .. })) {
                self.end(action, Cause::LetGo, at);
            }
        }
    }
}
