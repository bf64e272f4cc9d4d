//! Settling a moment: what cues make of edges and timers, who waits for whom, who wins, and the pulls that come of it.

use super::block::{ActionState, Block, Met};
use super::tales::{Heard, newest};
use crate::cue::{Bench, Edge, Meeting, Presses, Role, RulePlan, Verdict};
use crate::gate;
use crate::history::{Cause, Happening, What};
use crate::ledger::End;
use crate::linkage::{NONE, Plan, run};
use crate::signal::Aim;
use crate::time::{Moment, NEVER};
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

    /// Another action that one of these presses served and that doesn't give way.
    fn takes(&self, presses: &Presses, action: u16, gives_way: &[u16]) -> Option<u16> {
        let taken = |(press, by): &&(u32, u16)| presses.has(*press) && *by != action && !gives_way.contains(by);
        self.presses.iter().filter(|(press, _)| *press != 0).find(taken).map(|(_, by)| *by)
    }

    /// Numbers the actions anew.
    pub(super) fn renumber(&mut self, after: impl Fn(u16) -> u16) {
        self.presses.iter_mut().filter(|(press, _)| *press != 0).for_each(|(_, action)| *action = after(*action));
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> impl Iterator<Item = u64> {
        let order = (0..SERVED).map(|n| self.presses[(self.next + n) % SERVED]);
        order.map(|(press, action)| u64::from(press) << 16 | u64::from(action))
    }
}

impl Block {
    /// A cue hears an edge.
    pub(super) fn hear(&mut self, plan: &Plan, action: usize, heard: Heard<'_>, role: Role, at: u64) {
        if !self.actions[action].listens {
            return;
        }
        let Some(rule) = &plan.actions[action].cue else { return };
        if self.ledger.is_none()
            && let Some(verdict) = rule.hears_alone(heard.edge, at)
        {
            return self.decide(plan, action, verdict, at);
        }
        self.ask(plan, action, at, Some(heard), |bench| rule.hears(heard.edge, role, bench));
    }

    /// Lets a rule work on its state, and does what it says.
    fn ask(
        &mut self,
        plan: &Plan,
        action: usize,
        at: u64,
        heard: Option<Heard<'_>>,
        rule: impl FnOnce(&mut Bench<'_>) -> Verdict,
    ) {
        let mut bench = Bench {
            at,
            trial: &mut self.trials[action],
            timers: &mut self.timers,
            timer: action,
            moments: &mut self.moments[run(&plan.actions[action].moments)],
            on: self.actions[action].on,
            missed: None,
        };
        let verdict = rule(&mut bench);
        let missed = bench.missed;
        if self.ledger.is_some() {
            match heard {
                Some(heard) => self.tell_heard(plan, action, heard, missed, verdict, at),
                None => self.tell_due(action, verdict, at),
            }
        }
        self.decide(plan, action, verdict, at);
    }

    #[inline]
    fn decide(&mut self, plan: &Plan, action: usize, verdict: Verdict, at: u64) {
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
    pub(super) fn ended(&mut self, action: usize, cause: Cause, at: u64) {
        let own = |met: &Met| usize::from(met.action) == action;
        if cause == Cause::LetGo {
            let aside = self.waits.iter_mut().chain(&mut self.kept);
            aside.filter(|met| own(met)).for_each(|met| met.meeting.lasting = false);
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
            self.kept.retain(|met| !own(met));
        }
        self.end(action, cause, at);
    }

    /// Ends what is on, if it is.
    pub(super) fn end(&mut self, action: usize, cause: Cause, at: u64) {
        let state = &mut self.actions[action];
        if state.on {
            state.on = false;
            let since = state.on_since;
            self.recheck_after(at);
            self.happened(action, What::Ended(cause), at, since);
        }
    }

    /// An action's attempts, waits and timers are dropped.
    pub(super) fn drop_attempts(&mut self, plan: &Plan, action: usize, end: End, at: u64) {
        let own = |met: &Met| usize::from(met.action) == action;
        self.met.retain(|met| !own(met));
        self.waits.retain(|met| !own(met));
        self.kept.retain(|met| !own(met));
        self.actions[action].armed = false;
        self.trials[action].drop_attempt();
        self.timers.drop(action);
        self.drop_motion(plan, action);
        self.drop_marks(plan, action);
        self.note(|ledger| ledger.dropped(action, at, end));
    }

    /// Attempts, waits and keeps that stand on a press of these devices are dropped, let go or not.
    pub(super) fn forget_presses(&mut self, plan: &Plan, bits: u64, cause: Cause, at: u64) {
        for set_number in 0..self.motions.len() {
            if self.motions[set_number].by & bits != 0 {
                self.motions_lost(plan, set_number, End::Lost(cause), at);
            }
        }
        for number in 0..self.hands.len() {
            let at_rest = self.moved[number].direction.is_none();
            if core::mem::take(&mut self.hands[number]) & bits != 0 && at_rest {
                // A direction that was let go before counts towards nothing any more.
                let lost = Edge::Turn { from: None, to: None, press: 0, cause };
                self.edge(plan, usize::from(plan.moved[number].action), &lost, at);
            }
        }
        for place in 0..self.board.contacts.len() {
            let contact = self.board.contacts[place];
            if contact.order == 0 || bits & (1 << contact.by) == 0 {
                continue;
            }
            self.forget_press(plan, contact.order as u32, cause, at);
        }
    }

    /// Attempts, waits and keeps that stand on a press are dropped.
    pub(super) fn forget_press(&mut self, plan: &Plan, press: u32, cause: Cause, at: u64) {
        if press != 0 {
            self.waits.retain(|met| !met.meeting.presses.has(press));
            self.kept.retain(|met| !met.meeting.presses.has(press));
            for action in 0..plan.declared {
                if self.trials[action].open && self.trials[action].presses.has(press) {
                    self.trials[action].drop_attempt();
                    self.timers.drop(action);
                    self.note(|ledger| ledger.dropped(action, at, End::Lost(cause)));
                }
            }
        }
    }

    /// Plays the timers that are due at a moment, in one of its phases.
    #[inline(always)]
    pub(super) fn fall_due(&mut self, plan: &Plan, at: u64, phase: Phase) {
        if self.timers.is_due(at, phase) {
            self.hand_falls_due(plan, at, phase);
        }
        if self.frozen_since.is_none() && self.world_timers.is_due(self.world(at), phase) {
            self.world_falls_due(plan, at, phase);
        }
    }

    fn hand_falls_due(&mut self, plan: &Plan, at: u64, phase: Phase) {
        while let Some(action) = self.timers.take(at, phase) {
            match plan.actions.get(action).map(|action| &action.cue) {
                None if action >= plan.first_mash_timer() => {
                    self.mash_again(plan, action - plan.first_mash_timer(), at)
                }
                None => self.motion_falls_due(plan, action - plan.actions.len(), at),
                Some(Some(RulePlan::Rolls { .. })) => self.motion_window_over(plan, action, at),
                Some(Some(rule)) => self.ask(plan, action, at, None, |bench| rule.falls_due(bench)),
                Some(None) => {}
            }
        }
    }

    /// A cue is met; it pulls when the moment's events are all in.
    pub(super) fn meet(&mut self, plan: &Plan, action: usize, meeting: Meeting, at: u64) {
        if self.met.len() == self.met.capacity() {
            self.settle(plan, at);
        }
        let facing = if meeting.facing == NONE { self.facts[plan.facing] } else { meeting.facing };
        let (aim, meeting) = (Aim::default(), Meeting { facing, ..meeting });
        self.met.push(Met { action: action as u16, meeting, aim, fresh: true, let_go: false, kept: NEVER });
    }

    /// Whether a met cue must wait: a listed, listening action has an attempt on the same press that may complete.
    fn must_wait(&self, plan: &Plan, met: &Met, at: u64) -> bool {
        plan.actions[usize::from(met.action)].waits_for.iter().any(|rival| {
            let rival = usize::from(*rival);
            let (trial, presses) = (&self.trials[rival], &met.meeting.presses);
            let shared = (trial.open && trial.presses.shares(presses))
                || (matches!(plan.actions[rival].cue, Some(RulePlan::Rolls { .. }))
                    && self.motion_may_complete(plan, rival, presses, at));
            self.actions[rival].listens && shared
        })
    }

    /// Pulls whatever was met in this moment and need not wait, winners first.
    #[inline]
    pub(super) fn settle(&mut self, plan: &Plan, at: u64) {
        let held = |action: &u16| self.actions[usize::from(*action)].held > 0;
        let opens = |kept: &Met| self.gate_stands_open(plan, usize::from(kept.action), at);
        if self.waits.is_empty() && !plan.while_held.iter().any(held) && !self.kept.iter().any(opens) {
            match self.met.as_slice() {
                [] => return,
                // Nearly always one alone, with nobody to wait for, to beat or to lose to.
                [one] if plan.actions[usize::from(one.action)].waits_for.is_empty() => self.settle_one(plan, at),
                _ => {}
            }
            if self.met.is_empty() {
                return;
            }
        }
        self.settle_all(plan, at);
    }

    fn settle_one(&mut self, plan: &Plan, at: u64) {
        let Some(mut met) = self.met.pop() else { return };
        self.aim(plan, &mut met, at);
        if self.gate_is_open(plan, &met, at) { self.pull(plan, &met, at) } else { self.keep(plan, met, at) }
    }

    /// The direction of what was met just now is the one at the end of the press's own moment, even if the pull waits.
    fn aim(&self, plan: &Plan, met: &mut Met, at: u64) {
        if core::mem::take(&mut met.fresh) {
            let aim = plan.actions[usize::from(met.action)].aim;
            if let Some(moved) = self.moved.get(usize::from(aim)) {
                met.aim = moved.aim(at);
            }
        }
    }

    fn settle_all(&mut self, plan: &Plan, at: u64) {
        self.open_gates(plan, at);
        // What waited and need not any longer joins what was met now; what must wait steps aside.
        for place in (0..self.waits.len()).rev() {
            if self.met.len() < self.met.capacity() && !self.must_wait(plan, &self.waits[place], at) {
                let met = self.waits.remove(place);
                self.met.insert(0, met);
            }
        }
        for place in (0..self.met.len()).rev() {
            let mut met = self.met[place];
            self.aim(plan, &mut met, at);
            self.met[place] = met;
            if self.waits.len() < self.waits.capacity() && self.must_wait(plan, &met, at) {
                self.met.remove(place);
                let lasting = met.meeting.lasting && !met.let_go;
                self.waits.push(Met { meeting: Meeting { lasting, ..met.meeting }, ..met });
            }
        }
        while !self.met.is_empty() {
            let place = self.unbeaten(plan, at);
            let met = self.met.remove(place);
            if self.gate_is_open(plan, &met, at) {
                self.pull(plan, &met, at);
            } else {
                self.keep(plan, met, at);
            }
        }
        for action in &plan.while_held {
            let closed = !self.gate_stands_open(plan, usize::from(*action), at);
            let state = &mut self.actions[usize::from(*action)];
            state.armed |= closed && state.held > 0;
        }
    }

    /// What was kept, or is held for it, is met anew where its gate stands open now.
    fn open_gates(&mut self, plan: &Plan, at: u64) {
        for place in (0..self.kept.len()).rev() {
            let action = usize::from(self.kept[place].action);
            if self.met.len() < self.met.capacity() && self.gate_stands_open(plan, action, at) {
                let met = self.kept.remove(place);
                self.actions[action].armed = false;
                self.met.insert(0, met);
            }
        }
        for action in &plan.while_held {
            let number = usize::from(*action);
            let ActionState { held, armed, listens, press, since, .. } = self.actions[number];
            let waits = self.kept.iter().chain(&self.met).any(|met| met.action == *action);
            if held > 0 && armed && listens && !waits && !self.muted && self.gate_stands_open(plan, number, at) {
                self.actions[number].armed = false;
                let presses = Presses::one(press);
                let meeting = Meeting { lasting: true, presses, pressed: since, repeated: true, ..Meeting::default() };
                self.meet(plan, number, meeting, at);
            }
        }
    }

    /// A gate refused a pull: it stays ready for a while, if the action keeps; a newer one replaces an older.
    fn keep(&mut self, plan: &Plan, met: Met, at: u64) {
        let how = &plan.actions[usize::from(met.action)];
        let lost = how.keep == 0 || met.meeting.repeated || self.server(plan, &met).is_some() || self.muted;
        self.tell_refused(plan, &met, at, lost);
        self.refuse(met, at);
        if lost {
            return;
        }
        if self.kept.iter().any(|kept| kept.action == met.action) {
            self.note(|ledger| ledger.replaced(usize::from(met.action), newest(&met.meeting.presses), at));
        }
        self.kept.retain(|kept| kept.action != met.action);
        let (kept, lasting) = (met.kept.min(at), met.meeting.lasting && !met.let_go);
        self.kept.push(Met { kept, let_go: false, meeting: Meeting { lasting, ..met.meeting }, ..met });
        if met.kept == NEVER {
            self.world_timers.set(plan.keep_timer(met.action), self.world(at) + how.keep, Phase::Expire);
        }
    }

    /// A met cue comes to nothing; what it had on before ends where it was let go.
    fn refuse(&mut self, met: Met, at: u64) {
        if met.let_go {
            self.end(usize::from(met.action), Cause::LetGo, at);
        }
    }

    /// What was met or waits and loses its press comes to nothing.
    fn refuse_all(&mut self, loses: impl Fn(&Met) -> bool, by: u16, at: u64) {
        if let Some(ledger) = &mut self.ledger {
            for met in self.met.iter().chain(&self.waits).chain(&self.kept).filter(|met| loses(met)) {
                ledger.beaten(usize::from(met.action), newest(&met.meeting.presses), by, at);
            }
        }
        while let Some(place) = self.met.iter().position(&loses) {
            let met = self.met.remove(place);
            self.refuse(met, at);
        }
        self.waits.retain(|met| !loses(met));
        self.kept.retain(|met| !loses(met));
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
        self.server(plan, met).is_none() && self.gate_stands_open(plan, usize::from(met.action), at)
    }

    /// The action of the same group that one of the presses has served.
    pub(super) fn server(&self, plan: &Plan, met: &Met) -> Option<u16> {
        let how = &plan.actions[usize::from(met.action)];
        if how.group == NONE || met.meeting.repeated {
            return None;
        }
        self.served[usize::from(how.group)].takes(&met.meeting.presses, met.action, &how.outranks)
    }

    /// Whether an action was on before this moment's pulls.
    pub(super) fn counts_as_on(&self, action: usize, at: u64) -> bool {
        let state = &self.actions[action];
        state.on && !(state.on_since == at && state.pulled_in == at)
    }

    /// Whether an action's facts and cooldown let a pull pass now.
    pub(super) fn gate_stands_open(&self, plan: &Plan, action: usize, at: u64) -> bool {
        let world = self.world(at);
        // Actions count as they stood before this moment's pulls.
        let is_on = |action: u16| self.counts_as_on(usize::from(action), at);
        world >= self.actions[action].cool_until
            && gate::is_open(&plan.actions[action].gate, &self.truths, world, is_on)
    }

    fn pull(&mut self, plan: &Plan, met: &Met, at: u64) {
        let Met { action, ref meeting, aim, kept, .. } = *met;
        let how = &plan.actions[usize::from(action)];
        let over = self.defeat(plan, met, at);
        if how.group != NONE {
            self.served[usize::from(how.group)].add(&meeting.presses, action);
        }
        let number = usize::from(action);
        let stage = self.spend(plan, number, at);
        self.recheck_after(at);
        let state = self.touch(number);
        state.sums.pulled = state.sums.pulled.wrapping_add(1);
        (state.pulled_in, state.pulled_on) = (at, meeting.presses);
        let toggles = matches!(how.cue, Some(RulePlan::Toggle));
        let turned_off = toggles && state.on;
        if meeting.lasting && !state.on {
            (state.on, state.on_since) = (true, at);
        }
        let (moment, since) = (Moment::played(at), Moment::played(meeting.pressed));
        let happening = Happening::new(moment, since, action, What::Pulled);
        let kept = at - kept.min(at);
        self.note(|ledger| ledger.pulled(number, newest(&meeting.presses), at, kept));
        let faces_left = meeting.facing == 0;
        let happening = Happening { amount: meeting.amount, over, stage, kept, faces_left, ..happening };
        self.ring.push(happening.aimed(aim));
        if turned_off {
            self.end(number, Cause::Toggled, at);
        } else if met.let_go {
            self.end(number, Cause::LetGo, at);
        }
        self.set_marks(plan, number, at);
        for mode in &how.turns_off {
            self.switch(plan, usize::from(*mode), false, at);
        }
        for mode in &how.turns_on {
            self.switch(plan, usize::from(*mode), true, at);
        }
    }

    /// The losers of a pull give up what shares a press with it; the last one that had pulled already is named.
    fn defeat(&mut self, plan: &Plan, winner: &Met, at: u64) -> u16 {
        let presses = winner.meeting.presses;
        let how = &plan.actions[usize::from(winner.action)];
        let mut over = NONE;
        for loser in &how.outranks {
            self.refuse_all(|met| met.action == *loser && met.meeting.presses.shares(&presses), winner.action, at);
            let ActionState { pulled_on, sums, .. } = self.actions[usize::from(*loser)];
            if sums.pulled > 0 && pulled_on.shares(&presses) {
                over = *loser;
                self.end(usize::from(*loser), Cause::Outranked, at);
            }
        }
        if how.group != NONE {
            let group = |met: &Met| plan.actions[usize::from(met.action)].group;
            let loses = |met: &Met| group(met) == how.group && met.meeting.presses.shares(&presses);
            self.refuse_all(loses, winner.action, at);
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
            self.drop_attempts(plan, action, End::Gap, at);
            if matches!(plan.actions[action].cue, Some(RulePlan::Mash { .. })) {
                self.end(action, Cause::LetGo, at);
            }
        }
    }
}
