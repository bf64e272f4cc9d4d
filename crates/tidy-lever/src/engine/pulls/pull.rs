//! Pulling: what a pull changes, what it takes from its losers, and how it is taken back.

use crate::cause::Cause;
use crate::cue::Presses;
use crate::end::End;
use crate::engine::press::is_direction;
use crate::engine::pulls::Pulls;
use crate::engine::pulls::actions::{ActionState, Toggled};
use crate::engine::pulls::pending::PendingPull;
use crate::engine::pulls::tales::newest;
use crate::engine::values::Outcome;
use crate::history::{Happening, What};
use crate::index::{ActionIndex, Index, WordIndex, run};
use crate::linkage::Plan;
use crate::time::Moment;

/// The first word of the fact `facing`.
const LEFT: WordIndex = Index::new(0);

impl Pulls {
    /// Whether another cue of the action pulled on a press of this one already: one press serves an action once.
    pub(crate) fn is_served(&self, plan: &Plan, pending: &PendingPull) -> bool {
        let state = &self.actions[usize::from(pending.action)];
        plan.actions[usize::from(pending.action)].has_several()
            && state.pulled_by != pending.cue
            && state.pulls > 0
            && state.pulled_on.shares(&pending.cue_match.presses)
    }

    /// Pulls what was met; whether it did.
    #[inline]
    pub(crate) fn pull(&mut self, plan: &Plan, pending: &PendingPull, at: u64) -> bool {
        if plan.hot[usize::from(pending.action)].pulls_alone {
            self.pull_alone(plan, pending, at);
            true
        } else {
            self.pull_with_all(plan, pending, at)
        }
    }

    /// Pulls what takes nothing from others, spends and switches nothing.
    #[inline(never)]
    fn pull_alone(&mut self, plan: &Plan, pending: &PendingPull, at: u64) {
        let number = usize::from(pending.action);
        self.recheck_after(at);
        let state = self.actions.changing(number, |state| state.pulls > 0);
        state.toggled = Toggled::Not;
        self.pulled(plan, pending, None, at);
        if pending.let_go {
            self.end(plan, number, Cause::LetGo, at);
        }
    }

    /// Pulls what may take presses from others, spend and switch.
    #[inline(never)]
    fn pull_with_all(&mut self, plan: &Plan, pending: &PendingPull, at: u64) -> bool {
        let number = usize::from(pending.action);
        if self.is_served(plan, pending) {
            let end = End::Served { by: pending.action };
            self.note(|ledger| ledger.refused(pending.cue, newest(&pending.cue_match.presses), at, end, true));
            self.refuse(plan, *pending, at);
            return false;
        }
        let over = self.defeat(plan, pending, at);
        self.outcomes.push(Outcome::Spend(pending.action));
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
        let pull = self.actions[number].pulls;
        self.outcomes.push(Outcome::SetMarks { action: pending.action, pull });
        true
    }

    /// Notes a pull, over whom it was if it was over any.
    #[inline(always)]
    fn pulled(&mut self, plan: &Plan, pending: &PendingPull, over: Option<ActionIndex>, at: u64) {
        let PendingPull { action, cue, ref cue_match, aim, kept, .. } = *pending;
        let number = usize::from(action);
        let state = self.actions.again(number);
        state.pulls = state.pulls.wrapping_add(1);
        (state.pulled_in, state.pulled_on, state.pulled_by) = (at, cue_match.presses, cue);
        if cue_match.lasting && !state.on {
            (state.on, state.on_since) = (true, at);
            // As gates read it, from the next moment on.
            self.outcomes.push(Outcome::On { action, from: at + 1 });
        }
        if let Some(cue) = cue.filter(|_| cue_match.lasting) {
            self.cues.rule_states[usize::from(cue)].on = true;
        }
        self.invalidate_pushes(plan, number);
        let (moment, since) = (Moment::played(at), Moment::played(cue_match.pressed));
        let happening = Happening::new(moment, since, action, What::Pulled);
        let kept = at - kept.min(at);
        // Asked here, so that nothing is made ready for a ledger that nobody keeps.
        if self.ledger.is_some() {
            self.note(|ledger| ledger.pulled(cue, newest(&cue_match.presses), at, kept));
        }
        let faces_left = cue_match.facing == Some(LEFT);
        let happening = Happening { amount: cue_match.amount, over, kept, ..happening };
        self.outcomes.push(Outcome::Pulled(happening.faced(faces_left).aimed(aim)));
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

    /// An action's last pull is taken back, by the game or by a winner: a toggle is as it was before that press, and what it
    /// spent counts again.
    pub(crate) fn give_back(&mut self, plan: &Plan, action: usize, cause: Cause, at: u64) {
        self.lists.looked = false;
        let state = &mut self.actions[action];
        let pull = state.pulls;
        match core::mem::take(&mut state.toggled) {
            Toggled::Not => {}
            Toggled::On => self.end(plan, action, cause, at),
            Toggled::Off => {
                (state.on, state.on_since) = (true, state.was_on_since);
                let from = state.on_since;
                self.outcomes.push(Outcome::On { action: action as u16, from });
                self.invalidate_pushes(plan, action);
                self.recheck_after(at);
            }
        }
        self.outcomes.push(Outcome::GiveBack { action: action as u16, pull });
    }

    /// The game sets a toggle: no pull, but it is on or not from here on.
    pub(crate) fn set(&mut self, plan: &Plan, action: usize, on: bool, at: u64) {
        if on && !self.actions[action].on {
            (self.actions[action].on, self.actions[action].on_since) = (true, at);
            self.outcomes.push(Outcome::On { action: action as u16, from: at });
            self.lists.looked = false;
            self.invalidate_pushes(plan, action);
        } else if !on {
            self.end(plan, action, Cause::Set, at);
        }
    }
}
