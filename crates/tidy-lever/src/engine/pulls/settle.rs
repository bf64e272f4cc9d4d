//! Settling a moment: who waits for whom, whose gate stands open, who wins, and in which order they pull.

use crate::cause::Cause;
use crate::cue::{CueMatch, is_newer};
use crate::engine::Engine;
use crate::engine::pulls::pending::{PendingPull, Standing};
use crate::engine::pulls::tales::newest;
use crate::gate;
use crate::index::run;
use crate::linkage::Plan;
use crate::time::NEVER;
use crate::timers::DuePart;

impl Engine {
    /// Whether a met cue must wait: a listed, listening action has an attempt on the same press that may complete, or a
    /// finished pull on it that itself waits.
    pub(crate) fn must_wait(&self, plan: &Plan, pending: &PendingPull, at: u64) -> bool {
        let presses = &pending.cue_match.presses;
        plan.actions[usize::from(pending.action)].waits_for.iter().any(|rival| {
            let number = usize::from(*rival);
            let shared = run(&plan.actions[number].cues).any(|cue| {
                if plan.cues.all[cue].rule.is_motion() {
                    return self.motion_may_complete(plan, cue, presses, at);
                }
                self.cues.rule_states[cue].open && self.cues.rule_states[cue].presses.shares(presses)
            });
            let waits = |wait: &PendingPull| wait.action == *rival && wait.cue_match.presses.shares(presses);
            self.world.listening[number] && (shared || self.pulls.waits.iter().any(waits))
        })
    }

    /// Settles a moment after its events, if there is anything to settle: if not, nothing waits, either.
    #[inline(always)]
    pub(crate) fn settle_events(&mut self, plan: &Plan, at: u64) -> bool {
        let may_open = !(self.pulls.looked || self.pulls.kept.is_empty() && self.pulls.standing.is_empty());
        let settles = self.pulls.any_wait() || may_open;
        if settles {
            // What comes of this settling is looked at in the next moment.
            self.pulls.looked = true;
            self.settle(plan, may_open, at);
        }
        settles
    }

    /// Pulls whatever was met in this moment and need not wait, winners first; what was kept, too, if its gate may open.
    #[inline]
    pub(crate) fn settle(&mut self, plan: &Plan, may_open: bool, at: u64) {
        let stands = |standing: &Standing| standing.cue_match.is_some();
        let opens = |kept: &PendingPull| self.gate_stands_open(plan, usize::from(kept.action), at);
        let any_opens = || self.pulls.kept.iter().any(opens);
        debug_assert!(may_open || !any_opens(), "a gate opened, and nothing that could open it happened");
        if self.pulls.waits.is_empty() && !self.pulls.standing.iter().any(stands) && !(may_open && any_opens()) {
            match self.pulls.pending.as_slice() {
                [] => return,
                // Nearly always one alone, with nobody to wait for, to beat or to lose to.
                [one] if !plan.hot[usize::from(one.action)].waits => self.settle_one(plan, at),
                _ => {}
            }
            if self.pulls.pending.is_empty() {
                return;
            }
        }
        self.settle_all(plan, at);
    }

    pub(crate) fn settle_one(&mut self, plan: &Plan, at: u64) {
        let Some(mut pending) = self.pulls.pending.pop() else { return };
        self.aim(plan, &mut pending, at);
        let is_open = self.gate_stands_open(plan, usize::from(pending.action), at);
        if is_open { self.pull(plan, &pending, at) } else { self.keep(plan, pending, at) }
    }

    /// The direction of what was met just now is the one at the end of the press's own moment, even if the pull waits.
    pub(crate) fn aim(&self, plan: &Plan, pending: &mut PendingPull, at: u64) {
        if core::mem::take(&mut pending.fresh)
            && let Some(stick) = plan.hot[usize::from(pending.action)].aim
        {
            pending.aim = self.inputs.moved[usize::from(stick)].aim(at);
        }
    }

    #[inline(never)]
    pub(crate) fn settle_all(&mut self, plan: &Plan, at: u64) {
        self.open_gates(plan, at);
        // What waited and need not any longer joins what was met now; what must wait steps aside. Each may free, or hold
        // back, who waits for it in turn.
        while let Some(place) =
            (0..self.pulls.waits.len()).rev().find(|place| !self.must_wait(plan, &self.pulls.waits[*place], at))
        {
            let pending = self.pulls.waits.remove(place);
            self.pulls.pending.insert(0, pending);
        }
        for place in 0..self.pulls.pending.len() {
            let mut pending = self.pulls.pending[place];
            self.aim(plan, &mut pending, at);
            self.pulls.pending[place] = pending;
        }
        while let Some(place) =
            (0..self.pulls.pending.len()).rev().find(|place| self.must_wait(plan, &self.pulls.pending[*place], at))
        {
            let pending = self.pulls.pending.remove(place);
            let lasting = pending.cue_match.lasting && !pending.let_go;
            self.pulls.waits.push(PendingPull { cue_match: CueMatch { lasting, ..pending.cue_match }, ..pending });
        }
        while !self.pulls.pending.is_empty() {
            let place = self.unbeaten(plan, at);
            let pending = self.pulls.pending.remove(place);
            if self.gate_stands_open(plan, usize::from(pending.action), at) {
                self.pull(plan, &pending, at);
            } else {
                self.keep(plan, pending, at);
            }
        }
        for (place, action) in plan.while_held.iter().enumerate() {
            let stands = self.pulls.standing[place].cue_match.is_some();
            if stands && !self.gate_stands_open(plan, usize::from(*action), at) {
                self.pulls.standing[place].armed = true;
            }
        }
    }

    /// What was kept, or is held for it, is met again where its gate stands open now.
    pub(crate) fn open_gates(&mut self, plan: &Plan, at: u64) {
        for place in (0..self.pulls.kept.len()).rev() {
            let action = usize::from(self.pulls.kept[place].action);
            if self.gate_stands_open(plan, action, at) {
                let pending = self.pulls.kept.remove(place);
                if let Some(standing) = self.standing_of(plan, action) {
                    standing.armed = false;
                }
                self.pulls.pending.insert(0, pending);
            }
        }
        for (place, action) in plan.while_held.iter().enumerate() {
            let Standing { cue_match: Some(cue_match), armed: true, cue } = self.pulls.standing[place] else {
                continue;
            };
            let number = usize::from(*action);
            let waits = self.pulls.kept.iter().chain(&self.pulls.pending).any(|pending| pending.action == *action);
            if self.world.listening[number] && !waits && !self.pulls.muted && self.gate_stands_open(plan, number, at) {
                self.pulls.standing[place].armed = false;
                self.action_matched(plan, (number, cue), cue_match);
            }
        }
    }

    /// A gate refused a pull: it stays ready for a while, if the action keeps; a newer one replaces an older.
    pub(crate) fn keep(&mut self, plan: &Plan, pending: PendingPull, at: u64) {
        let how = &plan.actions[usize::from(pending.action)];
        let lost = how.keep == 0 || pending.cue_match.repeated || self.pulls.muted;
        if self.log.ledger.is_some() {
            self.tell_refused(plan, &pending, at, lost);
        }
        self.refuse(plan, pending, at);
        if lost {
            return;
        }
        // What pulled in this very moment may open its gate in the next.
        self.pulls.looked &= self.pulls.turned_in != at;
        self.pulls.kept.retain(|kept| kept.action != pending.action);
        self.pulls.kept.push(pending);
        if let Some(kept) = self.pulls.kept.last_mut() {
            kept.cue_match.lasting &= !kept.let_go;
            (kept.kept, kept.let_go) = (kept.kept.min(at), false);
        }
        if pending.kept == NEVER {
            self.world.timers.set(plan.keep_timer(pending.action), self.world_at(at) + how.keep, DuePart::Expire);
        }
    }

    /// A met cue comes to nothing; what it had on before ends where it was let go.
    pub(crate) fn refuse(&mut self, plan: &Plan, pending: PendingPull, at: u64) {
        if pending.let_go {
            self.end(plan, usize::from(pending.action), Cause::LetGo, at);
        }
    }

    /// What was met or waits and loses its press comes to nothing.
    pub(crate) fn refuse_all(&mut self, plan: &Plan, loses: impl Fn(&PendingPull) -> bool, by: u16, at: u64) {
        if let Some(ledger) = &mut self.log.ledger {
            for pending in self
                .pulls
                .pending
                .iter()
                .chain(&self.pulls.waits)
                .chain(&self.pulls.kept)
                .filter(|pending| loses(pending))
            {
                ledger.beaten(pending.cue, newest(&pending.cue_match.presses), by, at);
            }
        }
        while let Some(place) = self.pulls.pending.iter().position(&loses) {
            let pending = self.pulls.pending.remove(place);
            self.refuse(plan, pending, at);
        }
        self.pulls.waits.retain(|pending| !loses(pending));
        self.pulls.kept.retain(|pending| !loses(pending));
    }

    /// The first of what was met that nothing else beats.
    pub(crate) fn unbeaten(&self, plan: &Plan, at: u64) -> usize {
        let all = || self.pulls.pending.iter().enumerate();
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
    pub(crate) fn beats(&self, plan: &Plan, winner: &PendingPull, loser: &PendingPull) -> bool {
        let (one, other) = (&plan.actions[usize::from(winner.action)], &plan.actions[usize::from(loser.action)]);
        // Most take nothing from anybody.
        if one.group.is_none() && one.outranks.is_empty() {
            return false;
        }
        if !winner.cue_match.presses.shares(&loser.cue_match.presses) {
            return false;
        }
        if one.outranks.contains(&loser.action) {
            return true;
        }
        // The newer press first, then the order of the file.
        let newest = |pending: &PendingPull| pending.cue_match.presses.newest_made();
        let (own, others) = (newest(winner), newest(loser));
        let before = is_newer(own, others) || (own == others && winner.action < loser.action);
        one.group.is_some() && one.group == other.group && !other.outranks.contains(&winner.action) && before
    }

    /// Whether an action was on before this moment's pulls.
    pub(crate) fn counts_as_on(&self, action: usize, at: u64) -> bool {
        let state = &self.actions[action];
        state.on && !(state.on_since == at && state.pulled_in == at)
    }

    /// Whether an action's facts and cooldown let a pull pass now.
    #[inline(always)]
    pub(crate) fn gate_stands_open(&self, plan: &Plan, action: usize, at: u64) -> bool {
        let cool_until = self.actions[action].cool_until;
        (cool_until == 0 || self.world_at(at) >= cool_until)
            && (!plan.hot[action].gated || self.facts_allow(plan, action, at))
    }

    #[inline(never)]
    fn facts_allow(&self, plan: &Plan, action: usize, at: u64) -> bool {
        // Actions count as they stood before this moment's pulls.
        let is_on = |action: u16| self.counts_as_on(usize::from(action), at);
        gate::is_open(&plan.actions[action].gate, &self.world.truths, self.world_at(at), is_on)
    }
}
