//! Ends: what a cue stood on is over, and what is on ends.

use crate::cause::Cause;
use crate::engine::pulls::Pulls;
use crate::engine::pulls::pending::{PendingPull, Standing};
use crate::engine::values::Outcome;
use crate::history::What;
use crate::index::{CueIndex, run};
use crate::linkage::Plan;

impl Pulls {
    /// What a cue of an action stood on ended: what is on ends, what still waits comes out as an instant, or not at all. Of
    /// several cues the others may still be on.
    #[inline(never)]
    pub(crate) fn ended(&mut self, plan: &Plan, of: (usize, usize), cause: Cause, at: u64) {
        self.ended_here(plan, of, cause, at);
    }

    /// `ended`, inlined where nearly every button comes by.
    #[inline(always)]
    pub(crate) fn ended_here(&mut self, plan: &Plan, (action, cue): (usize, usize), cause: Cause, at: u64) {
        if plan.hot[action].while_held {
            self.stands_no_more(plan, action, cue);
        }
        if self.lists.any_aside() && self.ends_aside(cue, cause) {
            return;
        }
        if self.actions[action].on && !(plan.hot[action].several && self.others_are_on(plan, action, cue)) {
            self.end(plan, action, cause, at);
        }
        debug_assert!(!self.cues.rule_states[cue].on, "cue {cue} is on, and action {action} is not");
    }

    /// A cue that its action pulls by again while held is not held any more.
    #[inline(never)]
    fn stands_no_more(&mut self, plan: &Plan, action: usize, cue: usize) {
        let place = CueIndex::new(cue as u16);
        if let Some(standing) = self.standing_of(plan, action).filter(|standing| standing.cue == Some(place)) {
            *standing = Standing::default();
        }
    }

    /// What a cue has that has not pulled yet comes out as an instant, or not at all; whether the hold that it ends was reached
    /// in this very moment, and still pulls first.
    #[inline(never)]
    fn ends_aside(&mut self, cue: usize, cause: Cause) -> bool {
        let place = CueIndex::new(cue as u16);
        let own = |pending: &PendingPull| pending.cue == Some(place);
        if cause != Cause::LetGo {
            // What the hand didn't let go was never meant: it doesn't even pull.
            self.drop_pulls(own);
            return false;
        }
        let aside = self.lists.waits.iter_mut().chain(&mut self.lists.kept);
        aside.filter(|pending| own(pending)).for_each(|pending| pending.cue_match.lasting = false);
        let mut reached = false;
        for pending in self.lists.pending.iter_mut().filter(|pending| own(pending) && pending.cue_match.lasting) {
            (pending.let_go, reached) = (true, true);
        }
        reached
    }

    /// A cue of an action is not on any more; whether others still are.
    #[inline(never)]
    fn others_are_on(&mut self, plan: &Plan, action: usize, cue: usize) -> bool {
        if self.cues.rule_states[cue].on {
            self.cues.rule_states.again(cue).on = false;
        }
        run(&plan.hot[action].cues).any(|other| self.cues.rule_states[other].on)
    }

    /// Ends what is on, if it is.
    #[inline(never)]
    pub(crate) fn end(&mut self, plan: &Plan, action: usize, cause: Cause, at: u64) {
        if self.actions[action].on {
            for cue in run(&plan.hot[action].cues) {
                if self.cues.rule_states[cue].on {
                    self.cues.rule_states.again(cue).on = false;
                }
            }
            let state = self.actions.again(action);
            state.on = false;
            let since = state.on_since;
            self.recheck_after(at);
            self.outcomes.push(Outcome::Off(action as u16));
            self.outcomes.push(Outcome::Happened { action: action as u16, what: What::Ended(cause), since });
        }
    }

    /// Pulls that were to come are dropped: at this moment's end, after a wait, or out of a buffer.
    pub(crate) fn drop_pulls(&mut self, gone: impl Fn(&PendingPull) -> bool) {
        for pulls in [&mut self.lists.pending, &mut self.lists.waits, &mut self.lists.kept] {
            pulls.retain(|pending| !gone(pending));
        }
    }

    /// What stands of an action that pulls again while held.
    pub(crate) fn standing_of(&mut self, plan: &Plan, action: usize) -> Option<&mut Standing> {
        if !plan.hot[action].while_held {
            return None;
        }
        let place = plan.while_held.binary_search(&(action as u16)).ok()?;
        self.lists.standing.get_mut(place)
    }

    /// Something is on or off since this moment: gates that ask for it are looked at again in the next.
    pub(crate) fn recheck_after(&mut self, at: u64) {
        (self.lists.looked, self.lists.turned_in) = (false, at);
        if !self.lists.kept.is_empty() || self.lists.rechecks {
            self.lists.recheck = at + 1;
        }
    }
}
