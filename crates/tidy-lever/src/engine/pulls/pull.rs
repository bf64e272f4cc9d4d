//! Pulling: what a pull changes, what it takes from its losers, and how it is taken back.

use crate::cause::Cause;
use crate::cue::Presses;
use crate::end::End;
use crate::engine::inputs::board::is_direction;
use crate::engine::pulls::pending::PendingPull;
use crate::engine::pulls::tales::newest;
use crate::engine::{ActionState, Engine, Toggled};
use crate::history::{Happening, What};
use crate::index::{ActionIndex, Index, WordIndex, run};
use crate::linkage::Plan;
use crate::time::Moment;

/// The first word of the fact `facing`.
const LEFT: WordIndex = Index::new(0);

impl Engine {
    /// Whether another cue of the action pulled on a press of this one already: one press serves an action once.
    pub(crate) fn is_served(&self, plan: &Plan, pending: &PendingPull) -> bool {
        let state = &self.actions[usize::from(pending.action)];
        plan.actions[usize::from(pending.action)].has_several()
            && state.pulled_by != pending.cue
            && state.pulls > 0
            && state.pulled_on.shares(&pending.cue_match.presses)
    }

    #[inline]
    pub(crate) fn pull(&mut self, plan: &Plan, pending: &PendingPull, at: u64) {
        if plan.hot[usize::from(pending.action)].pulls_alone {
            self.pull_alone(plan, pending, at);
        } else {
            self.pull_with_all(plan, pending, at);
        }
    }

    /// Pulls what takes nothing from others, spends and switches nothing.
    #[inline(never)]
    fn pull_alone(&mut self, plan: &Plan, pending: &PendingPull, at: u64) {
        let number = usize::from(pending.action);
        self.recheck_after(at);
        let state = self.actions.changing(number, |state| state.pulls > 0);
        (state.stage_before, state.toggled) = (state.stage, Toggled::Not);
        self.pulled(plan, pending, None, at);
        if pending.let_go {
            self.end(plan, number, Cause::LetGo, at);
        }
    }

    /// Pulls what may take presses from others, spend and switch.
    #[inline(never)]
    fn pull_with_all(&mut self, plan: &Plan, pending: &PendingPull, at: u64) {
        let number = usize::from(pending.action);
        if self.is_served(plan, pending) {
            let end = End::Served { by: pending.action };
            self.note(|ledger| ledger.refused(pending.cue, newest(&pending.cue_match.presses), at, end, true));
            return self.refuse(plan, *pending, at);
        }
        let over = self.defeat(plan, pending, at);
        self.spend(plan, number, at);
        self.recheck_after(at);
        let state = self.actions.changing(number, |state| state.pulls > 0);
        let toggles = plan.toggles(number);
        let turned_off = toggles && state.on;
        state.toggled = if !toggles {
            Toggled::Not
        } else if turned_off {
            state.was_on_since = state.on_since;
            Toggled::Off
        } else {
            Toggled::On
        };
        self.pulled(plan, pending, over, at);
        if turned_off {
            self.end(plan, number, Cause::Toggled, at);
        } else if pending.let_go {
            self.end(plan, number, Cause::LetGo, at);
        }
        self.set_marks(plan, number, at);
        for mode in &plan.actions[number].turns_off {
            self.switch(plan, usize::from(*mode), false, at);
        }
        for mode in &plan.actions[number].turns_on {
            self.switch(plan, usize::from(*mode), true, at);
        }
    }

    /// Notes a pull, over whom it was if it was over any.
    #[inline(always)]
    fn pulled(&mut self, plan: &Plan, pending: &PendingPull, over: Option<ActionIndex>, at: u64) {
        let PendingPull { action, cue, ref cue_match, aim, kept, .. } = *pending;
        let number = usize::from(action);
        let state = self.actions.again(number);
        let stage = state.stage;
        state.pulls = state.pulls.wrapping_add(1);
        (state.pulled_in, state.pulled_on, state.pulled_by) = (at, cue_match.presses, cue);
        if cue_match.lasting && !state.on {
            (state.on, state.on_since) = (true, at);
        }
        if let Some(cue) = cue.filter(|_| cue_match.lasting) {
            self.cues.rule_states[usize::from(cue)].on = true;
        }
        self.unsettle(plan, number);
        let (moment, since) = (Moment::played(at), Moment::played(cue_match.pressed));
        let happening = Happening::new(moment, since, action, What::Pulled);
        let kept = at - kept.min(at);
        // Asked here, so that nothing is made ready for a ledger that nobody keeps.
        if self.log.ledger.is_some() {
            self.note(|ledger| ledger.pulled(cue, newest(&cue_match.presses), at, kept));
        }
        let faces_left = cue_match.facing == Some(LEFT);
        let happening = Happening { amount: cue_match.amount, over, stage, kept, ..happening };
        self.log.note_pull(happening.faced(faces_left).aimed(aim));
    }

    /// A pull takes its presses from its losers for good; the last one that had pulled on them already is named.
    pub(crate) fn defeat(&mut self, plan: &Plan, winner: &PendingPull, at: u64) -> Option<ActionIndex> {
        let presses = winner.cue_match.presses;
        let how = &plan.actions[usize::from(winner.action)];
        let mut over = None;
        for loser in &how.outranks {
            self.refuse_all(
                plan,
                |pending| pending.action == *loser && pending.cue_match.presses.shares(&presses),
                winner.action,
                at,
            );
            let taken = |press: u32| !is_direction(press) && presses.has(press);
            self.take_presses(plan, usize::from(*loser), taken, End::Outranked { by: winner.action }, at);
            let ActionState { pulled_on, pulls, .. } = self.actions[usize::from(*loser)];
            if pulls > 0 && pulled_on.shares(&presses) {
                over = Some(Index::new(*loser));
                self.take_back(plan, usize::from(*loser), Cause::Outranked, at);
            }
        }
        let Some(group) = how.group else { return over };
        for member in plan.groups[usize::from(group)].iter().filter(|member| **member != winner.action) {
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
    pub(crate) fn take_presses(&mut self, plan: &Plan, action: usize, taken: impl Fn(u32) -> bool, end: End, at: u64) {
        for cue in run(&plan.actions[action].cues) {
            let Some((number, set)) = plan.motions_of(cue) else { continue };
            for press in self.cues.motions[number].finished_on(set, cue as u16).filter(|press| taken(*press)) {
                if !self.cues.rule_states[cue].presses.has(press) {
                    self.cues.rule_states[cue].presses.push(u64::from(press));
                }
            }
        }
        self.forget(plan, action, taken, end, at);
    }

    /// A pull comes to nothing after all: what it spent counts again, its stage and cooldown are as before, its marks are
    /// dropped, a toggle is as it was, and what is on ends.
    pub(crate) fn take_back(&mut self, plan: &Plan, action: usize, cause: Cause, at: u64) {
        self.actions[action].pulled_on = Presses::default();
        let toggles = self.actions[action].toggled != Toggled::Not;
        self.give_back(plan, action, cause, at);
        if !toggles {
            self.end(plan, action, cause, at);
        }
    }

    /// The game sets a toggle: no pull, but it is on or not from here on.
    pub(crate) fn set(&mut self, plan: &Plan, action: usize, on: bool, at: u64) {
        if on && !self.actions[action].on {
            (self.actions[action].on, self.actions[action].on_since) = (true, at);
            self.pulls.looked = false;
            self.unsettle(plan, action);
        } else if !on {
            self.end(plan, action, Cause::Set, at);
        }
    }
}
