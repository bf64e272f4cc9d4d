//! Motions: a stick turns, an action finishes, and what comes of it for all motions of that stick.

use crate::engine::pulls::Pulls;

use crate::cause::Cause;
use crate::cue::rolls::{Motion, MotionSet, Turned, Wanted};
use crate::cue::{CueMatch, Presses, Push};
use crate::direction::Direction;
use crate::end::{Did, End};
use crate::engine::values::StickPush;
use crate::index::{FinisherIndex, Index, run};
use crate::linkage::Plan;
use crate::timers::DuePart;

impl Pulls {
    /// A stick moved: where its motions see it stand may have changed. What they have on ends when the stick is at rest.
    #[inline(always)]
    pub(crate) fn motions_see(&mut self, plan: &Plan, moved: &StickPush, at: u64) {
        let Push { now, to: direction, cause, .. } = moved.push;
        let rests = moved.turned && direction.is_none();
        for set_number in plan.inputs.moved[usize::from(moved.stick)].motions.iter().map(|set| usize::from(*set)) {
            let set = &plan.cues.motions[set_number];
            let to = set.sees(now, direction);
            if rests {
                self.motions_let_go(plan, set, None, cause, at);
            }
            if to != self.cues.motions[set_number].stands {
                self.motions_stand(plan, set_number, to, moved, at);
            }
        }
    }

    /// A set of motions sees its stick stand elsewhere.
    #[inline(never)]
    fn motions_stand(&mut self, plan: &Plan, set_number: usize, to: Option<Direction>, moved: &StickPush, at: u64) {
        let StickPush { stick, device, push: Push { press, digital, cause, .. }, .. } = *moved;
        self.cues.invalidate(Some(stick));
        if cause != Cause::LetGo {
            self.motions_lost(plan, set_number, End::Lost(cause), at);
            self.cues.motions[set_number].stands_at(to, at);
        } else if to.is_some() && press == 0 {
            self.cues.motions[set_number].stands_at(to, at);
        } else {
            let facing = self.facing;
            self.motions_turn(plan, (set_number, device), Turned { at, to, press, facing, digital });
        }
    }

    /// A stick turned: its motions go on, break, or are complete.
    #[inline(always)]
    fn motions_turn(&mut self, plan: &Plan, (set_number, device): (usize, u8), turned: Turned) {
        let set = &plan.cues.motions[set_number];
        let watched = self.ledger.is_some();
        let state = &mut self.cues.motions[set_number];
        if state.is_idle() {
            state.by = 0;
        }
        state.by |= 1 << device;
        let wanted = if watched { Wanted::All } else { Wanted::Last };
        state.turn(set, turned, wanted, &mut self.cues.shown);
        if watched || !self.cues.shown.is_empty() {
            self.motions_show(plan, set_number, turned);
        }
        if !set.awaited.is_empty() {
            self.watch_windows(plan, set_number, turned.at);
        }
    }

    /// What came of a turn is told, and what led to something is done.
    #[inline(never)]
    fn motions_show(&mut self, plan: &Plan, set_number: usize, turned: Turned) {
        let mut shown = core::mem::take(&mut self.cues.shown);
        self.tell_motions(plan, set_number, &shown, turned);
        for motion in &shown {
            if let Motion::Came { bit, .. } = *motion {
                self.motion_arrives(plan, set_number, usize::from(bit), turned.at);
            }
        }
        shown.clear();
        self.cues.shown = shown;
    }

    /// A motion came as far as its last step.
    fn motion_arrives(&mut self, plan: &Plan, set_number: usize, bit: usize, at: u64) {
        let set = &plan.cues.motions[set_number];
        let (_, motion) = set.step(bit);
        let cue = usize::from(motion.cue);
        let used = |press: u64| self.cues.rule_states[cue].presses.has(press as u32);
        match self.cues.motions[set_number].arrive(set, bit, at, used) {
            Some(Motion::Holds { until, .. }) => {
                if let Some(timer) = motion.timer() {
                    self.cues.timers.set(plan.first_motion_timer() + timer, until, DuePart::Due);
                }
            }
            Some(outcome) => self.motion_is(plan, set_number, outcome, at),
            None => {}
        }
    }

    /// A motion is done with, one way or another.
    fn motion_is(&mut self, plan: &Plan, set_number: usize, outcome: Motion, at: u64) {
        let set = &plan.cues.motions[set_number];
        self.tell_motion(plan, set_number, outcome, at);
        let Motion::Done { bit, presses, facing, pressed } = outcome else { return };
        let (step, motion) = set.step(usize::from(bit));
        let cue = usize::from(motion.cue);
        if !self.listening[plan.owner(cue)] {
            return;
        }
        self.cues.motions[set_number].drop_cue(set, motion.cue);
        self.cues.rule_states[cue].presses = presses;
        if self.lists.muted {
            return;
        }
        // It is on until its finish is let go, or its stick comes to rest; either may have happened already.
        let lasting = match set.finished_by(motion) {
            Some(finisher) => !motion.on_release() && self.cues.held[usize::from(finisher)],
            None => step.position.is_some(),
        };
        let cue_match = CueMatch { lasting, presses, pressed, facing: Some(Index::new(facing)), ..CueMatch::default() };
        self.cue_matched(plan, cue, cue_match);
    }

    /// An action was pressed that finishes motions.
    #[inline(never)]
    pub(crate) fn press_finishes(&mut self, plan: &Plan, action: usize, press: u64, at: u64) {
        for (set_number, number) in &plan.cues.finishes[run(&plan.hot[action].finishes)] {
            let set_number = usize::from(*set_number);
            if !plan.cues.motions[set_number].finishes_on_release(*number) {
                self.finishes(plan, (set_number, *number), press, at);
            }
        }
    }

    /// An action was let go that finishes motions.
    #[inline(never)]
    pub(crate) fn release_finishes(&mut self, plan: &Plan, action: usize, (press, cause): (u64, Cause), at: u64) {
        for (set_number, number) in &plan.cues.finishes[run(&plan.hot[action].finishes)] {
            let set_number = usize::from(*set_number);
            let set = &plan.cues.motions[set_number];
            if !set.finishes_on_release(*number) {
                self.motions_let_go(plan, set, Some(*number), cause, at);
            } else if cause == Cause::LetGo {
                self.finishes(plan, (set_number, *number), press, at);
            }
        }
    }

    /// A press, or letting go of one, finishes motions: nearly always it finishes none.
    #[inline(always)]
    fn finishes(&mut self, plan: &Plan, (set_number, number): (usize, FinisherIndex), press: u64, at: u64) {
        let set = &plan.cues.motions[set_number];
        let finishes_some = self.cues.motions[set_number].note_finish(set, number, (at, press));
        if finishes_some || !set.awaited.is_empty() || self.ledger.is_some() {
            self.finishes_some(plan, (set_number, number), at);
        }
    }

    /// Motions that are at their last step are done with this finisher.
    #[inline(never)]
    fn finishes_some(&mut self, plan: &Plan, (set_number, number): (usize, FinisherIndex), at: u64) {
        let set = &plan.cues.motions[set_number];
        let mut shown = core::mem::take(&mut self.cues.shown);
        self.cues.motions[set_number].finish(set, number, |motion| motion.put(&mut shown));
        let mut last = None;
        for motion in &shown {
            // Of a cue's motions for either side one at most is done.
            if let Motion::Done { bit, .. } = *motion {
                let (_, plan) = set.step(usize::from(bit));
                if last.replace(plan.cue) == Some(plan.cue) {
                    continue;
                }
            }
            self.motion_is(plan, set_number, *motion, at);
        }
        self.tell_finish(plan, set_number, number, at);
        shown.clear();
        self.cues.shown = shown;
        self.watch_windows(plan, set_number, at);
    }

    /// What motions that end with this finisher, or with the stick's rest, had on, ends.
    fn motions_let_go(&mut self, plan: &Plan, set: &MotionSet, finisher: Option<FinisherIndex>, cause: Cause, at: u64) {
        let aside = self.lists.any_aside();
        for cue in set.ends_with(finisher).iter().map(|cue| usize::from(*cue)) {
            let action = plan.owner(cue);
            if aside || self.actions[action].on || plan.hot[action].while_held {
                self.ended(plan, (action, cue), cause, at);
            }
        }
    }

    /// All that motions of a stick have come to is dropped.
    pub(crate) fn motions_lost(&mut self, plan: &Plan, set_number: usize, end: End, at: u64) {
        let mut shown = core::mem::take(&mut self.cues.shown);
        self.cues.motions[set_number]
            .drop_all(|bit| Motion::Broken { bit: bit as u16, borne_until: None }.put(&mut shown));
        if self.ledger.is_some() {
            self.tell_lost(plan, set_number, &shown, end, at);
        }
        shown.clear();
        self.cues.shown = shown;
    }

    /// Drops a cue's motion.
    pub(crate) fn drop_motion(&mut self, plan: &Plan, cue: usize) {
        if let Some((number, set)) = plan.motions_of(cue) {
            self.cues.motions[number].drop_cue(set, cue as u16);
        }
    }

    /// A timer behind the actions' own: a motion's last step was held long enough.
    pub(crate) fn motion_falls_due(&mut self, plan: &Plan, timer: usize, at: u64) {
        for (set_number, set) in plan.cues.motions.iter().enumerate() {
            if let Some(motion) = set.motions.iter().position(|motion| motion.timer() == Some(timer))
                && let Some(outcome) = self.cues.motions[set_number].held_out(set, motion, at)
            {
                self.motion_is(plan, set_number, outcome, at);
            }
        }
    }

    /// Whether a cue's motion may still be completed on a press.
    pub(crate) fn motion_may_complete(&self, plan: &Plan, cue: usize, presses: &Presses, at: u64) -> bool {
        plan.motions_of(cue).is_some_and(|(number, set)| {
            let (rule_state, over) = (&self.cues.rule_states[cue], self.cues.rule_states[cue].motion_over() == at + 1);
            self.cues.motions[number]
                .may_complete(set, cue as u16, presses, (at, over), |press| rule_state.presses.has(press))
        })
    }

    /// The windows of motions that others wait for are watched.
    fn watch_windows(&mut self, plan: &Plan, set_number: usize, at: u64) {
        let set = &plan.cues.motions[set_number];
        for cue in &set.awaited {
            self.watch_window(plan, usize::from(*cue), at);
        }
    }

    fn watch_window(&mut self, plan: &Plan, cue: usize, at: u64) {
        let Some((number, set)) = plan.motions_of(cue) else { return };
        match self.cues.motions[number].next_end(set, cue as u16, at) {
            Some(end) => self.cues.timers.set(cue, end, DuePart::Expire),
            None => self.cues.timers.drop(cue),
        }
    }

    /// A window of a motion that others wait for is over.
    pub(crate) fn motion_window_over(&mut self, plan: &Plan, cue: usize, at: u64) {
        self.cues.rule_states[cue].set_motion_over(at + 1);
        self.watch_window(plan, cue, at);
    }
}

/// What a stick's turn is to the ledger.
pub(crate) fn toward(direction: Option<Direction>) -> Did {
    direction.map_or(Did::Neutral, Did::Toward)
}
