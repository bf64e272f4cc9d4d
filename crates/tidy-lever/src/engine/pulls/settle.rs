//! Settling a moment: who waits for whom, whose gate stands open, who wins, and in which order they pull.

use crate::cause::Cause;
use crate::cue::{CueMatch, is_newer};
use crate::end::End;
use crate::engine::pulls::Pulls;
use crate::engine::pulls::pending::{PendingPull, Standing};
use crate::engine::pulls::tales::newest;
use crate::index::{StickIndex, run};
use crate::linkage::Plan;
use crate::time::NEVER;
use crate::timers::DuePart;

impl Pulls {
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
            self.listening[number] && (shared || self.lists.waits.iter().any(waits))
        })
    }

    /// Whether a gate that refused may have opened since it was asked last.
    #[inline(always)]
    pub(crate) fn may_look(&self) -> bool {
        !(self.lists.looked || self.lists.kept.is_empty() && self.lists.standing.is_empty())
    }

    /// Whether nobody waits, or is held for his gate.
    #[inline(always)]
    pub(crate) fn none_stands_back(&self) -> bool {
        self.lists.waits.is_empty() && !self.lists.standing.iter().any(|standing| standing.cue_match.is_some())
    }

    /// What was met, where it is one alone, with nobody to wait for, to beat or to lose to.
    #[inline(always)]
    pub(crate) fn alone(&mut self, plan: &Plan) -> Option<PendingPull> {
        match self.lists.pending.as_slice() {
            [one] if !plan.hot[usize::from(one.action)].waits => self.lists.pending.pop(),
            _ => None,
        }
    }

    /// The stick that something met just now aims with: its direction is the one at the end of the press's own moment, even if
    /// the pull waits.
    #[inline(always)]
    pub(crate) fn aims_with(plan: &Plan, pending: &mut PendingPull) -> Option<StickIndex> {
        if core::mem::take(&mut pending.fresh) { plan.hot[usize::from(pending.action)].aim } else { None }
    }

    /// What is kept in this place is met again: its gate stands open.
    pub(crate) fn reopens(&mut self, plan: &Plan, place: usize) {
        let pending = self.lists.kept.remove(place);
        if let Some(standing) = self.standing_of(plan, usize::from(pending.action)) {
            standing.armed = false;
        }
        self.lists.pending.insert(0, pending);
    }

    /// The action in this place among those that pull again while held, if it would pull again once its gate stands open.
    pub(crate) fn would_repeat(&self, plan: &Plan, place: usize) -> Option<usize> {
        let action = *plan.while_held.get(place)?;
        let standing = &self.lists.standing[place];
        let waits = || self.lists.kept.iter().chain(&self.lists.pending).any(|pending| pending.action == action);
        let would = standing.cue_match.is_some()
            && standing.armed
            && self.listening[usize::from(action)]
            && !self.lists.muted
            && !waits();
        would.then_some(usize::from(action))
    }

    /// It is met again.
    pub(crate) fn repeats(&mut self, plan: &Plan, place: usize) {
        let Standing { cue_match, cue, .. } = self.lists.standing[place];
        self.lists.standing[place].armed = false;
        if let Some(cue_match) = cue_match {
            self.action_matched(plan, (usize::from(plan.while_held[place]), cue), cue_match);
        }
    }

    /// The action in this place among those that pull again while held, if it is held and not ready to pull again.
    pub(crate) fn is_unarmed(&self, plan: &Plan, place: usize) -> Option<usize> {
        let standing = self.lists.standing.get(place)?;
        (standing.cue_match.is_some() && !standing.armed).then_some(usize::from(plan.while_held[place]))
    }

    /// What waited and need not any longer joins what was met now. Each may free who waits for it in turn.
    pub(crate) fn waits_end(&mut self, plan: &Plan, at: u64) {
        while let Some(place) =
            (0..self.lists.waits.len()).rev().find(|place| !self.must_wait(plan, &self.lists.waits[*place], at))
        {
            let pending = self.lists.waits.remove(place);
            self.lists.pending.insert(0, pending);
        }
    }

    /// What must wait steps aside. Each may hold back who waits for it in turn.
    pub(crate) fn steps_aside(&mut self, plan: &Plan, at: u64) {
        while let Some(place) =
            (0..self.lists.pending.len()).rev().find(|place| self.must_wait(plan, &self.lists.pending[*place], at))
        {
            let pending = self.lists.pending.remove(place);
            let lasting = pending.cue_match.lasting && !pending.let_go;
            self.lists.waits.push(PendingPull { cue_match: CueMatch { lasting, ..pending.cue_match }, ..pending });
        }
    }

    /// Whether what was met in this place may take a press from something else: then it must be known whether its gate is open.
    pub(crate) fn may_beat(&self, plan: &Plan, place: usize) -> Option<usize> {
        let action = usize::from(self.lists.pending[place].action);
        let how = &plan.actions[action];
        (self.lists.pending.len() > 1 && (how.group.is_some() || !how.outranks.is_empty())).then_some(action)
    }

    /// Takes out the first of what was met that nothing else beats.
    pub(crate) fn takes_unbeaten(&mut self, plan: &Plan) -> PendingPull {
        let pending = &self.lists.pending;
        let beaten = |place: usize| {
            let loser = &pending[place];
            pending
                .iter()
                .enumerate()
                .any(|(other, rival)| other != place && rival.is_open && self.beats(plan, rival, loser))
        };
        let place = (0..pending.len()).find(|place| !beaten(*place)).unwrap_or(0);
        let mut pending = self.lists.pending.remove(place);
        pending.is_open = false;
        pending
    }

    /// A gate refused a pull: it stays ready for a while, if the action keeps; a newer one replaces an older.
    pub(crate) fn keep(&mut self, plan: &Plan, pending: PendingPull, why: Option<End>, (at, world): (u64, u64)) {
        let how = &plan.actions[usize::from(pending.action)];
        let lost = how.keep == 0 || pending.cue_match.repeated || self.lists.muted;
        if let Some(end) = why {
            self.tell_refused(&pending, end, at, lost);
        }
        self.refuse(plan, pending, at);
        if lost {
            return;
        }
        // What pulled in this very moment may open its gate in the next.
        self.lists.looked &= self.lists.turned_in != at;
        self.lists.kept.retain(|kept| kept.action != pending.action);
        self.lists.kept.push(pending);
        if let Some(kept) = self.lists.kept.last_mut() {
            kept.cue_match.lasting &= !kept.let_go;
            (kept.kept, kept.let_go) = (kept.kept.min(at), false);
        }
        if pending.kept == NEVER {
            self.lists.keeping.set(usize::from(pending.action), world + how.keep, DuePart::Expire);
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
        if let Some(ledger) = &mut self.ledger {
            for pending in self
                .lists
                .pending
                .iter()
                .chain(&self.lists.waits)
                .chain(&self.lists.kept)
                .filter(|pending| loses(pending))
            {
                ledger.beaten(pending.cue, newest(&pending.cue_match.presses), by, at);
            }
        }
        while let Some(place) = self.lists.pending.iter().position(&loses) {
            let pending = self.lists.pending.remove(place);
            self.refuse(plan, pending, at);
        }
        self.lists.waits.retain(|pending| !loses(pending));
        self.lists.kept.retain(|pending| !loses(pending));
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

    /// Whatever is kept no longer than this moment of the world's clock is dropped; whether anything was.
    pub(crate) fn keeps_end(&mut self, world: u64, at: u64) -> bool {
        let mut any = false;
        while let Some(action) = self.lists.keeping.take(world, DuePart::Expire) {
            self.lists.kept.retain(|pending| usize::from(pending.action) != action);
            self.note(|ledger| ledger.keep_over(action, at));
            any = true;
        }
        any
    }
}
