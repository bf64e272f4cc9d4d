//! Settling a moment: what cues make of edges and timers, who waits for whom, who wins, and the pulls that come of it.

use super::block::{ActionState, Block, PendingPull, Standing, Toggled};
use super::tales::{HeardEdge, newest};
use crate::cause::Cause;
use crate::cue::{CueMatch, Edge, Presses, Role, RuleContext, RulePlan, Verdict, is_newer};
use crate::end::End;
use crate::gate;
use crate::history::{Happening, What};
use crate::index::{NONE, run};
use crate::inputs::board::{is_direction, maker};
use crate::inputs::signal::Aim;
use crate::linkage::{CuePlan, Plan};
use crate::time::{Moment, NEVER};
use crate::timers::DuePart;

impl Block {
    /// A cue hears an edge.
    pub(super) fn hear(&mut self, plan: &Plan, cue: usize, heard: HeardEdge<'_>, role: Role, at: u64) {
        let CuePlan { action, rule, .. } = &plan.cues[cue];
        if !self.actions[usize::from(*action)].listens {
            return;
        }
        if self.ledger.is_none()
            && let Some(verdict) = rule.hears_alone(heard.edge, at)
        {
            return self.decide(plan, cue, verdict, at);
        }
        self.ask(plan, cue, at, Some(heard), |context| rule.hears(heard.edge, role, context));
    }

    /// What a cue's rule works on.
    fn context(&mut self, plan: &Plan, cue: usize, at: u64) -> RuleContext<'_> {
        let how = &plan.cues[cue];
        let action = usize::from(how.action);
        let on = if plan.actions[action].has_several() { self.rule_states[cue].on } else { self.actions[action].on };
        RuleContext {
            at,
            state: &mut self.rule_states[cue],
            timers: &mut self.timers,
            timer: cue,
            moments: &mut self.moments[run(&how.moments)],
            on,
            missed: None,
            stepped: None,
        }
    }

    /// Lets a rule work on its state, and does what it says.
    fn ask(
        &mut self,
        plan: &Plan,
        cue: usize,
        at: u64,
        heard: Option<HeardEdge<'_>>,
        rule: impl FnOnce(&mut RuleContext<'_>) -> Verdict,
    ) {
        let mut context = self.context(plan, cue, at);
        let verdict = rule(&mut context);
        let made = (context.missed, context.stepped);
        if self.ledger.is_some() {
            match heard {
                Some(heard) => self.tell_heard(plan, cue, heard, made, verdict, at),
                None => self.tell_due(cue, made.0, verdict, at),
            }
        }
        self.decide(plan, cue, verdict, at);
    }

    #[inline]
    fn decide(&mut self, plan: &Plan, cue: usize, verdict: Verdict, at: u64) {
        match verdict {
            Verdict::None => {}
            Verdict::Matched(cue_match) => {
                if !self.muted {
                    self.cue_matched(plan, cue, cue_match, at);
                }
            }
            Verdict::Ended(cause) => self.ended(plan, cue, cause, at),
        }
    }

    /// What a cue stood on ended: what is on ends, what still waits comes out as an instant, or not at all. Of several cues
    /// the others may still be on.
    pub(super) fn ended(&mut self, plan: &Plan, cue: usize, cause: Cause, at: u64) {
        let action = plan.owner(cue);
        if let Some(standing) = self.standing_of(plan, action).filter(|standing| usize::from(standing.cue) == cue) {
            *standing = Standing::default();
        }
        let own = |pending: &PendingPull| usize::from(pending.cue) == cue;
        if cause == Cause::LetGo {
            let aside = self.waits.iter_mut().chain(&mut self.kept);
            aside.filter(|pending| own(pending)).for_each(|pending| pending.cue_match.lasting = false);
            // A hold that is reached in the very moment of letting go still pulls first.
            let mut met_now =
                self.pending.iter_mut().filter(|pending| own(pending) && pending.cue_match.lasting).peekable();
            if met_now.peek().is_some() {
                met_now.for_each(|pending| pending.let_go = true);
                return;
            }
        } else {
            // What the hand didn't let go was never meant: it doesn't even pull.
            self.pending.retain(|pending| !own(pending));
            self.waits.retain(|pending| !own(pending));
            self.kept.retain(|pending| !own(pending));
        }
        self.rule_states[cue].on = false;
        let others = run(&plan.actions[action].cues).filter(|_| plan.actions[action].has_several());
        if !others.into_iter().any(|other| self.rule_states[other].on) {
            self.end(plan, action, cause, at);
        }
    }

    /// Ends what is on, if it is.
    pub(super) fn end(&mut self, plan: &Plan, action: usize, cause: Cause, at: u64) {
        for cue in run(&plan.actions[action].cues) {
            self.rule_states[cue].on = false;
        }
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
        let own = |pending: &PendingPull| usize::from(pending.action) == action;
        self.pending.retain(|pending| !own(pending));
        self.waits.retain(|pending| !own(pending));
        self.kept.retain(|pending| !own(pending));
        if let Some(standing) = self.standing_of(plan, action) {
            *standing = Standing::default();
        }
        for cue in run(&plan.actions[action].cues) {
            self.rule_states[cue].drop_attempt();
            self.timers.drop(cue);
            self.drop_motion(plan, cue);
        }
        self.drop_marks(plan, action, |_| true);
        self.note(|ledger| ledger.dropped(action, at, end));
    }

    /// Attempts, waits and keeps that stand on a press of these devices are dropped, let go or not.
    pub(super) fn forget_devices(&mut self, plan: &Plan, bits: u64, cause: Cause, at: u64) {
        let gone = |press: u32| maker(press) & bits != 0;
        for set_number in 0..self.motions.len() {
            if self.motions[set_number].by & bits != 0 {
                self.motions_lost(plan, set_number, End::Lost(cause), at);
            }
            self.motions[set_number].drop_finishes(gone);
        }
        for number in 0..self.hands.len() {
            let at_rest = self.moved[number].direction.is_none();
            if self.hands[number] & bits != 0 && at_rest {
                // A direction that was let go before counts towards nothing any more.
                let lost = Edge::Turn { from: None, to: None, press: 0, cause };
                self.edge(plan, usize::from(plan.inputs.moved[number].action), &lost, at);
            }
            self.hands[number] &= !bits;
        }
        for action in 0..plan.declared {
            self.forget(plan, action, gone, End::Lost(cause), at);
        }
    }

    /// Whatever an action has open on presses that are gone is dropped: attempts, what waits or is kept, and what would
    /// pull again.
    pub(super) fn forget(&mut self, plan: &Plan, action: usize, gone: impl Fn(u32) -> bool, end: End, at: u64) {
        let stands = |pending: &PendingPull| {
            usize::from(pending.action) == action && pending.cue_match.presses.iter().any(&gone)
        };
        if self.waits.iter().chain(&self.kept).any(stands) {
            self.waits.retain(|pending| !stands(pending));
            self.kept.retain(|pending| !stands(pending));
            self.note(|ledger| ledger.dropped(action, at, end));
        }
        if let Some(standing) = self.standing_of(plan, action)
            && standing.cue_match.is_some_and(|cue_match| cue_match.presses.iter().any(&gone))
        {
            *standing = Standing::default();
        }
        for cue in run(&plan.actions[action].cues) {
            let mut context = self.context(plan, cue, at);
            if plan.cues[cue].rule.forgets(&gone, &mut context) {
                self.note(|ledger| ledger.dropped(action, at, end));
            }
        }
    }

    /// What stands of an action that pulls again while held.
    pub(super) fn standing_of(&mut self, plan: &Plan, action: usize) -> Option<&mut Standing> {
        if !plan.actions[action].while_held {
            return None;
        }
        let place = plan.while_held.binary_search(&(action as u16)).ok()?;
        self.standing.get_mut(place)
    }

    /// Plays the timers that are due at a moment, in one of its phases.
    #[inline(always)]
    pub(super) fn fall_due(&mut self, plan: &Plan, at: u64, phase: DuePart) {
        if self.timers.is_due(at, phase) {
            self.hand_falls_due(plan, at, phase);
        }
        if self.frozen_since.is_none() && self.world_timers.is_due(self.world(at), phase) {
            self.world_falls_due(plan, at, phase);
        }
    }

    fn hand_falls_due(&mut self, plan: &Plan, at: u64, phase: DuePart) {
        while let Some(timer) = self.timers.take(at, phase) {
            match plan.cues.get(timer).map(|cue| &cue.rule) {
                None if timer >= plan.first_mash_timer() => self.mash_again(plan, timer - plan.first_mash_timer(), at),
                None => self.motion_falls_due(plan, timer - plan.first_motion_timer(), at),
                Some(RulePlan::Rolls { .. }) => self.motion_window_over(plan, timer, at),
                Some(rule) => self.ask(plan, timer, at, None, |context| rule.falls_due(context)),
            }
        }
    }

    /// A cue is met; it pulls when the moment's events are all in.
    pub(super) fn cue_matched(&mut self, plan: &Plan, cue: usize, cue_match: CueMatch, at: u64) {
        self.action_matched(plan, plan.owner(cue), cue as u16, cue_match, at);
    }

    /// The same by one of its cues, or by what is none (`NONE`): a gauge that reached its end.
    pub(super) fn action_matched(&mut self, plan: &Plan, action: usize, cue: u16, cue_match: CueMatch, at: u64) {
        if self.pending.len() == self.pending.capacity() {
            self.settle(plan, at);
        }
        let facing = if cue_match.facing == NONE { self.facts[plan.facing] } else { cue_match.facing };
        let (aim, mut cue_match) = (Aim::default(), CueMatch { facing, ..cue_match });
        // Directions are compared between cues that end on one.
        if !is_direction(cue_match.presses.last()) {
            cue_match.presses.retain(|press| !is_direction(press));
        }
        if let Some(standing) = self.standing_of(plan, action).filter(|_| cue_match.lasting) {
            (standing.cue_match, standing.cue) = (Some(CueMatch { repeated: true, ..cue_match }), cue);
        }
        self.pending.push(PendingPull {
            action: action as u16,
            cue,
            cue_match,
            aim,
            fresh: true,
            let_go: false,
            kept: NEVER,
        });
    }

    /// Whether a met cue must wait: a listed, listening action has an attempt on the same press that may complete, or a
    /// finished pull on it that itself waits.
    fn must_wait(&self, plan: &Plan, pending: &PendingPull, at: u64) -> bool {
        let presses = &pending.cue_match.presses;
        plan.actions[usize::from(pending.action)].waits_for.iter().any(|rival| {
            let number = usize::from(*rival);
            let shared = run(&plan.actions[number].cues).any(|cue| {
                if matches!(plan.cues[cue].rule, RulePlan::Rolls { .. }) {
                    return self.motion_may_complete(plan, cue, presses, at);
                }
                self.rule_states[cue].open && self.rule_states[cue].presses.shares(presses)
            });
            let waits = |wait: &PendingPull| wait.action == *rival && wait.cue_match.presses.shares(presses);
            self.actions[number].listens && (shared || self.waits.iter().any(waits))
        })
    }

    /// Pulls whatever was met in this moment and need not wait, winners first.
    #[inline]
    pub(super) fn settle(&mut self, plan: &Plan, at: u64) {
        let stands = |standing: &Standing| standing.cue_match.is_some();
        let opens = |kept: &PendingPull| self.gate_stands_open(plan, usize::from(kept.action), at);
        if self.waits.is_empty() && !self.standing.iter().any(stands) && !self.kept.iter().any(opens) {
            match self.pending.as_slice() {
                [] => return,
                // Nearly always one alone, with nobody to wait for, to beat or to lose to.
                [one] if plan.actions[usize::from(one.action)].waits_for.is_empty() => self.settle_one(plan, at),
                _ => {}
            }
            if self.pending.is_empty() {
                return;
            }
        }
        self.settle_all(plan, at);
    }

    fn settle_one(&mut self, plan: &Plan, at: u64) {
        let Some(mut pending) = self.pending.pop() else { return };
        self.aim(plan, &mut pending, at);
        let is_open = self.gate_stands_open(plan, usize::from(pending.action), at);
        if is_open { self.pull(plan, &pending, at) } else { self.keep(plan, pending, at) }
    }

    /// The direction of what was met just now is the one at the end of the press's own moment, even if the pull waits.
    fn aim(&self, plan: &Plan, pending: &mut PendingPull, at: u64) {
        if core::mem::take(&mut pending.fresh) {
            let aim = plan.actions[usize::from(pending.action)].aim;
            if let Some(moved) = self.moved.get(usize::from(aim)) {
                pending.aim = moved.aim(at);
            }
        }
    }

    fn settle_all(&mut self, plan: &Plan, at: u64) {
        self.open_gates(plan, at);
        // What waited and need not any longer joins what was met now; what must wait steps aside. Each may free, or hold
        // back, who waits for it in turn.
        while let Some(place) = (0..self.waits.len()).rev().find(|place| !self.must_wait(plan, &self.waits[*place], at))
        {
            if self.pending.len() == self.pending.capacity() {
                break;
            }
            let pending = self.waits.remove(place);
            self.pending.insert(0, pending);
        }
        for place in 0..self.pending.len() {
            let mut pending = self.pending[place];
            self.aim(plan, &mut pending, at);
            self.pending[place] = pending;
        }
        while let Some(place) =
            (0..self.pending.len()).rev().find(|place| self.must_wait(plan, &self.pending[*place], at))
        {
            if self.waits.len() == self.waits.capacity() {
                break;
            }
            let pending = self.pending.remove(place);
            let lasting = pending.cue_match.lasting && !pending.let_go;
            self.waits.push(PendingPull { cue_match: CueMatch { lasting, ..pending.cue_match }, ..pending });
        }
        while !self.pending.is_empty() {
            let place = self.unbeaten(plan, at);
            let pending = self.pending.remove(place);
            if self.gate_stands_open(plan, usize::from(pending.action), at) {
                self.pull(plan, &pending, at);
            } else {
                self.keep(plan, pending, at);
            }
        }
        for (place, action) in plan.while_held.iter().enumerate() {
            let stands = self.standing[place].cue_match.is_some();
            if stands && !self.gate_stands_open(plan, usize::from(*action), at) {
                self.standing[place].armed = true;
            }
        }
    }

    /// What was kept, or is held for it, is met again where its gate stands open now.
    fn open_gates(&mut self, plan: &Plan, at: u64) {
        for place in (0..self.kept.len()).rev() {
            let action = usize::from(self.kept[place].action);
            if self.pending.len() < self.pending.capacity() && self.gate_stands_open(plan, action, at) {
                let pending = self.kept.remove(place);
                if let Some(standing) = self.standing_of(plan, action) {
                    standing.armed = false;
                }
                self.pending.insert(0, pending);
            }
        }
        for (place, action) in plan.while_held.iter().enumerate() {
            let Standing { cue_match: Some(cue_match), armed: true, cue } = self.standing[place] else { continue };
            let number = usize::from(*action);
            let waits = self.kept.iter().chain(&self.pending).any(|pending| pending.action == *action);
            if self.actions[number].listens && !waits && !self.muted && self.gate_stands_open(plan, number, at) {
                self.standing[place].armed = false;
                self.action_matched(plan, number, cue, cue_match, at);
            }
        }
    }

    /// A gate refused a pull: it stays ready for a while, if the action keeps; a newer one replaces an older.
    fn keep(&mut self, plan: &Plan, pending: PendingPull, at: u64) {
        let how = &plan.actions[usize::from(pending.action)];
        let lost = how.keep == 0 || pending.cue_match.repeated || self.muted;
        self.tell_refused(plan, &pending, at, lost);
        self.refuse(plan, pending, at);
        if lost {
            return;
        }
        if self.kept.iter().any(|kept| kept.action == pending.action) {
            self.note(|ledger| ledger.replaced(usize::from(pending.action), newest(&pending.cue_match.presses), at));
        }
        self.kept.retain(|kept| kept.action != pending.action);
        let (kept, lasting) = (pending.kept.min(at), pending.cue_match.lasting && !pending.let_go);
        self.kept.push(PendingPull {
            kept,
            let_go: false,
            cue_match: CueMatch { lasting, ..pending.cue_match },
            ..pending
        });
        if pending.kept == NEVER {
            self.world_timers.set(plan.keep_timer(pending.action), self.world(at) + how.keep, DuePart::Expire);
        }
    }

    /// A met cue comes to nothing; what it had on before ends where it was let go.
    fn refuse(&mut self, plan: &Plan, pending: PendingPull, at: u64) {
        if pending.let_go {
            self.end(plan, usize::from(pending.action), Cause::LetGo, at);
        }
    }

    /// What was met or waits and loses its press comes to nothing.
    fn refuse_all(&mut self, plan: &Plan, loses: impl Fn(&PendingPull) -> bool, by: u16, at: u64) {
        if let Some(ledger) = &mut self.ledger {
            for pending in self.pending.iter().chain(&self.waits).chain(&self.kept).filter(|pending| loses(pending)) {
                ledger.beaten(usize::from(pending.cue), newest(&pending.cue_match.presses), by, at);
            }
        }
        while let Some(place) = self.pending.iter().position(&loses) {
            let pending = self.pending.remove(place);
            self.refuse(plan, pending, at);
        }
        self.waits.retain(|pending| !loses(pending));
        self.kept.retain(|pending| !loses(pending));
    }

    /// The first of what was met that nothing else beats.
    fn unbeaten(&self, plan: &Plan, at: u64) -> usize {
        let all = || self.pending.iter().enumerate();
        let beaten = |(place, pending): &(usize, &PendingPull)| {
            all().any(|(other, rival)| {
                other != *place
                    && self.beats(plan, rival, pending)
                    && self.gate_stands_open(plan, usize::from(rival.action), at)
            })
        };
        all().find(|entry| !beaten(entry)).map_or(0, |(place, _)| place)
    }

    /// Whether one of two met cues takes a press that they share.
    fn beats(&self, plan: &Plan, winner: &PendingPull, loser: &PendingPull) -> bool {
        if !winner.cue_match.presses.shares(&loser.cue_match.presses) {
            return false;
        }
        let (one, other) = (&plan.actions[usize::from(winner.action)], &plan.actions[usize::from(loser.action)]);
        if one.outranks.contains(&loser.action) {
            return true;
        }
        // The newer press first, then the order of the file.
        let newest = |pending: &PendingPull| pending.cue_match.presses.newest_made();
        let (own, others) = (newest(winner), newest(loser));
        let before = is_newer(own, others) || (own == others && winner.action < loser.action);
        one.group != NONE && one.group == other.group && !other.outranks.contains(&winner.action) && before
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

    /// Whether another cue of the action pulled on a press of this one already: one press serves an action once.
    fn is_served(&self, plan: &Plan, pending: &PendingPull) -> bool {
        let state = &self.actions[usize::from(pending.action)];
        plan.actions[usize::from(pending.action)].has_several()
            && state.pulled_by != pending.cue
            && state.sums.pulled > 0
            && state.pulled_on.shares(&pending.cue_match.presses)
    }

    fn pull(&mut self, plan: &Plan, pending: &PendingPull, at: u64) {
        let PendingPull { action, cue, ref cue_match, aim, kept, .. } = *pending;
        let how = &plan.actions[usize::from(action)];
        if self.is_served(plan, pending) {
            let end = End::Served { by: action };
            self.note(|ledger| ledger.refused(cue.into(), newest(&cue_match.presses), at, end, true));
            return self.refuse(plan, *pending, at);
        }
        let over = self.defeat(plan, pending, at);
        let number = usize::from(action);
        let stage = self.spend(plan, number, at);
        self.recheck_after(at);
        let state = self.touch(number);
        state.sums.pulled = state.sums.pulled.wrapping_add(1);
        (state.pulled_in, state.pulled_on, state.pulled_by) = (at, cue_match.presses, cue);
        let toggles = plan.toggles(number);
        let turned_off = toggles && state.on;
        state.toggled = if !toggles {
            Toggled::Not
        } else if turned_off {
            Toggled::Off { since: state.on_since }
        } else {
            Toggled::On
        };
        if cue_match.lasting && !state.on {
            (state.on, state.on_since) = (true, at);
        }
        if let Some(rule_state) = self.rule_states.get_mut(usize::from(cue)) {
            rule_state.on |= cue_match.lasting;
        }
        let (moment, since) = (Moment::played(at), Moment::played(cue_match.pressed));
        let happening = Happening::new(moment, since, action, What::Pulled);
        let kept = at - kept.min(at);
        self.note(|ledger| ledger.pulled(cue.into(), newest(&cue_match.presses), at, kept));
        let faces_left = cue_match.facing == 0;
        let happening = Happening { amount: cue_match.amount, over, stage, kept, faces_left, ..happening };
        self.ring.push(happening.aimed(aim));
        if turned_off {
            self.end(plan, number, Cause::Toggled, at);
        } else if pending.let_go {
            self.end(plan, number, Cause::LetGo, at);
        }
        self.set_marks(plan, number, at);
        for mode in &how.turns_off {
            self.switch(plan, usize::from(*mode), false, at);
        }
        for mode in &how.turns_on {
            self.switch(plan, usize::from(*mode), true, at);
        }
    }

    /// A pull takes its presses from its losers for good; the last one that had pulled on them already is named.
    fn defeat(&mut self, plan: &Plan, winner: &PendingPull, at: u64) -> u16 {
        let presses = winner.cue_match.presses;
        let how = &plan.actions[usize::from(winner.action)];
        let mut over = NONE;
        for loser in &how.outranks {
            self.refuse_all(
                plan,
                |pending| pending.action == *loser && pending.cue_match.presses.shares(&presses),
                winner.action,
                at,
            );
            let taken = |press: u32| !is_direction(press) && presses.has(press);
            self.take_presses(plan, usize::from(*loser), taken, End::Outranked { by: winner.action }, at);
            let ActionState { pulled_on, sums, .. } = self.actions[usize::from(*loser)];
            if sums.pulled > 0 && pulled_on.shares(&presses) {
                over = *loser;
                self.take_back(plan, usize::from(*loser), Cause::Outranked, at);
            }
        }
        let Some(members) = plan.groups.get(usize::from(how.group)) else { return over };
        for member in members.iter().filter(|member| **member != winner.action) {
            let own = &plan.actions[usize::from(*member)];
            // A member that outranks this one may still take the press over.
            if !own.outranks.contains(&winner.action) {
                self.refuse_all(
                    plan,
                    |pending| pending.action == *member && pending.cue_match.presses.shares(&presses),
                    winner.action,
                    at,
                );
                let end = End::Served { by: winner.action };
                self.take_presses(plan, usize::from(*member), |press| presses.has(press), end, at);
            }
        }
        over
    }

    /// An action never pulls on presses that another one took: what it has open on them is dropped, a finish of a motion
    /// that came early among them.
    fn take_presses(&mut self, plan: &Plan, action: usize, taken: impl Fn(u32) -> bool, end: End, at: u64) {
        for cue in run(&plan.actions[action].cues) {
            let Some((number, set)) = plan.motions_of(cue) else { continue };
            for press in self.motions[number].finished_on(set, cue as u16).filter(|press| taken(*press)) {
                if !self.rule_states[cue].presses.has(press) {
                    self.rule_states[cue].presses.push(u64::from(press));
                }
            }
        }
        self.forget(plan, action, taken, end, at);
    }

    /// A pull comes to nothing after all: what it spent counts again, its stage and cooldown are as before, its marks are
    /// dropped, a toggle is as it was, and what is on ends.
    fn take_back(&mut self, plan: &Plan, action: usize, cause: Cause, at: u64) {
        self.actions[action].pulled_on = Presses::default();
        let toggles = self.actions[action].toggled != Toggled::Not;
        self.give_back(plan, action, cause, at);
        if !toggles {
            self.end(plan, action, cause, at);
        }
    }

    /// The game sets a toggle: no pull, but it is on or not from here on.
    pub(super) fn set(&mut self, plan: &Plan, action: usize, on: bool, at: u64) {
        if on && !self.actions[action].on {
            (self.actions[action].on, self.actions[action].on_since) = (true, at);
        } else if !on {
            self.end(plan, action, Cause::Set, at);
        }
    }

    /// A gap was passed: attempts are dropped, and so is what stood on a rate.
    pub(super) fn drop_all_attempts(&mut self, plan: &Plan, at: u64) {
        for action in 0..plan.declared {
            self.drop_attempts(plan, action, End::Gap, at);
            for cue in run(&plan.actions[action].cues) {
                if matches!(plan.cues[cue].rule, RulePlan::Mash { .. }) {
                    self.ended(plan, cue, Cause::LetGo, at);
                }
            }
        }
    }
}
