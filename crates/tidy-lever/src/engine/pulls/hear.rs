//! Cues hear edges and timers: what each rule answers, and what becomes of an attempt that is dropped.

use crate::cause::Cause;
use crate::cue::{CompiledRule, CueMatch, Edge, IdleRegion, Presses, Push, RuleContext, Verdict};
use crate::direction::Direction;
use crate::end::End;
use crate::engine::press::maker;
use crate::engine::pulls::Pulls;
use crate::engine::pulls::pending::{PendingPull, Standing};
use crate::engine::pulls::tales::HeardEdge;
use crate::engine::values::{EdgeKind, Gone, InputEdge, Outcome, StickPush};
use crate::fixed;
use crate::index::{Index, run};
use crate::linkage::{HotPlan, Listener, Plan};
use crate::timers::DuePart;

impl Pulls {
    /// An edge of an action that somebody hears: its cues, and the motions that it finishes.
    #[inline(always)]
    pub(crate) fn edge_heard(&mut self, plan: &Plan, edge: &InputEdge, at: u64) {
        let action = usize::from(edge.action);
        let hot = &plan.hot[action];
        match edge.kind {
            EdgeKind::Down { press, first, back } => {
                if hot.press_cue.is_some() && self.ledger.is_none() {
                    // Nearly every button.
                    if !self.lists.muted {
                        let cue_match = CueMatch::lasting(Presses::one(press), at);
                        self.action_matched_here(plan, (action, hot.press_cue), cue_match);
                    }
                } else {
                    self.edge(plan, action, Edge::Down { press, first, back }, at);
                }
                if !hot.finishes.is_empty() {
                    self.cues.held[action] = true;
                    self.press_finishes(plan, action, press, at);
                }
            }
            EdgeKind::Lifted { .. } => {}
            EdgeKind::Up { press, since, cause, .. } => {
                if !hot.finishes.is_empty() {
                    self.cues.held[action] = false;
                }
                if let Some(cue) = hot.press_cue
                    && self.ledger.is_none()
                    && self.listening[action]
                {
                    self.ended_here(plan, (action, cue.into()), cause, at);
                } else {
                    self.edge(plan, action, Edge::Up { cause, held: at - since }, at);
                }
                if !hot.finishes.is_empty() {
                    self.release_finishes(plan, action, (press, cause), at);
                }
            }
            EdgeKind::Turn { from, to, press, cause } => {
                self.edge(plan, action, Edge::Turn { from, to, press, cause }, at);
            }
            EdgeKind::Push(push) => self.stick_pushed(plan, action, &push, at),
            EdgeKind::Stands { stick, push, direction } => {
                self.cues.invalidate(Some(stick));
                for set in plan.inputs.moved[usize::from(stick)].motions.iter().map(|set| usize::from(*set)) {
                    let to = plan.cues.motions[set].sees(push, direction);
                    self.cues.motions[set].stands_at(to, at);
                }
            }
            EdgeKind::Gone { lost, cause } => self.forget_lost(plan, lost, cause, at),
        }
    }

    /// A stick was pushed, or might have been: what its motions see, and what its cues hear.
    #[inline(always)]
    fn stick_pushed(&mut self, plan: &Plan, action: usize, moved: &StickPush, at: u64) {
        if moved.turned {
            self.cues.invalidate(Some(moved.stick));
        } else if moved.push.cause == Cause::LetGo && self.ledger.is_none() && !self.is_minded(plan, moved) {
            return;
        }
        self.stick_means(plan, action, moved, at);
    }

    /// A stick's push that may mean something.
    #[inline(never)]
    fn stick_means(&mut self, plan: &Plan, action: usize, moved: &StickPush, at: u64) {
        let how = &plan.inputs.moved[usize::from(moved.stick)];
        if !how.motions.is_empty() && (moved.turned || moved.is_news) {
            self.motions_see(plan, moved, at);
        }
        if how.pushes && (moved.push.cause == Cause::LetGo || moved.is_news) {
            self.edge(plan, action, Edge::Push(&moved.push), at);
        }
    }

    /// Whether a push that turned nothing may mean anything to a motion or a cue.
    #[inline(always)]
    fn is_minded(&mut self, plan: &Plan, moved: &StickPush) -> bool {
        let number = usize::from(moved.stick);
        if self.cues.idle[number].holds(moved.push.now) {
            debug_assert!(self.idle_region(plan, moved).is_some(), "stick {number} was not idle");
            return false;
        }
        let region = self.idle_region(plan, moved);
        self.cues.idle[number] = region.unwrap_or(IdleRegion::NONE);
        region.is_none()
    }

    /// How far it may be pushed about and mean nothing; `None` if this push may mean something to a motion or a cue.
    #[inline(never)]
    fn idle_region(&self, plan: &Plan, moved: &StickPush) -> Option<IdleRegion> {
        let how = &plan.inputs.moved[usize::from(moved.stick)];
        let (mut region, push, direction) = (IdleRegion::ALL, moved.push.now, moved.push.to);
        for set in how.motions.iter().map(|set| usize::from(*set)) {
            let from_push = plan.cues.motions[set].seen.from_push;
            let reaches = fixed::reaches(push.0, push.1, from_push);
            if self.cues.motions[set].stands != direction.filter(|_| reaches) {
                return None;
            }
            if direction.is_some() {
                region.and_reach(from_push, reaches);
            }
        }
        if !how.pushes {
            return Some(region);
        }
        for listener in &plan.cues.listeners[run(&plan.hot[usize::from(how.action)].listeners)] {
            if listener.kinds & Edge::PUSH == 0 || !self.listening[usize::from(listener.owner)] {
                continue;
            }
            let state = &self.cues.rule_states[usize::from(listener.cue)];
            if !listener.rule.is_idle(push, direction, state, self.is_listener_on(listener), &mut region) {
                return None;
            }
        }
        Some(region)
    }

    /// Tells the cues that listen to an action what its signal did. The ledger is told of all edges, whoever hears them.
    #[inline(always)]
    pub(crate) fn edge(&mut self, plan: &Plan, subject: usize, edge: Edge<'_>, at: u64) {
        let hot = &plan.hot[subject];
        if self.ledger.is_some() {
            self.tell_listeners_and_ledger(plan, hot, HeardEdge { edge: &edge, subject: subject as u16 }, at);
        } else if hot.kinds & edge.kind() != 0 {
            // Each kind has a loop of its own, without what rules make of the others.
            match edge {
                Edge::Down { press, first, back } => self.tell_of_press(plan, hot, (press, first, back), at),
                Edge::Up { cause, held } => self.tell_of_release(plan, hot, (cause, held), at),
                Edge::Turn { from, to, press, cause } => self.tell_of_turn(plan, hot, (from, to, press, cause), at),
                Edge::Push(push) => self.tell_of_push(plan, hot, push, at),
            }
        }
    }

    #[inline(never)]
    fn tell_of_press(&mut self, plan: &Plan, hot: &HotPlan, (press, first, back): (u64, bool, bool), at: u64) {
        self.tell_listeners(plan, hot, Edge::Down { press, first, back }, at);
    }

    #[inline(never)]
    fn tell_of_release(&mut self, plan: &Plan, hot: &HotPlan, (cause, held): (Cause, u64), at: u64) {
        self.tell_listeners(plan, hot, Edge::Up { cause, held }, at);
    }

    #[inline(never)]
    fn tell_of_turn(
        &mut self,
        plan: &Plan,
        hot: &HotPlan,
        (from, to, press, cause): (Option<Direction>, Option<Direction>, u64, Cause),
        at: u64,
    ) {
        self.tell_listeners(plan, hot, Edge::Turn { from, to, press, cause }, at);
    }

    #[inline(never)]
    fn tell_of_push(&mut self, plan: &Plan, hot: &HotPlan, push: &Push, at: u64) {
        self.tell_listeners(plan, hot, Edge::Push(push), at);
    }

    #[inline(always)]
    fn tell_listeners(&mut self, plan: &Plan, hot: &HotPlan, edge: Edge<'_>, at: u64) {
        let kind = edge.kind();
        for listener in &plan.cues.listeners[run(&hot.listeners)] {
            if listener.kinds & kind != 0 && self.listening[usize::from(listener.owner)] {
                self.hear(plan, listener, edge, at);
            }
        }
    }

    #[cold]
    fn tell_listeners_and_ledger(&mut self, plan: &Plan, hot: &HotPlan, heard: HeardEdge<'_>, at: u64) {
        for listener in &plan.cues.listeners[run(&hot.listeners)] {
            if self.listening[usize::from(listener.owner)] {
                self.hear_and_tell(plan, listener, heard, at);
            }
        }
    }

    /// A cue that listens hears an edge.
    #[inline(always)]
    pub(crate) fn hear(&mut self, plan: &Plan, listener: &Listener, edge: Edge<'_>, at: u64) {
        let cue = usize::from(listener.cue);
        if listener.is_press {
            // As most do.
            match edge {
                Edge::Down { press, .. } if !self.lists.muted => {
                    let cue_match = CueMatch::lasting(Presses::one(press), at);
                    let of = (usize::from(listener.owner), Some(Index::new(listener.cue)));
                    self.action_matched(plan, of, cue_match);
                }
                Edge::Up { cause, .. } => self.ended(plan, (usize::from(listener.owner), cue), cause, at),
                _ => {}
            }
            return;
        }
        // What `context` looks up elsewhere is at hand here.
        let on = self.is_listener_on(listener);
        self.cues.invalidate(listener.pushed);
        let moments = listener.slides.then(|| run(&listener.moments));
        listener.rule.hears_on(
            edge,
            listener.role,
            self,
            |pulls| pulls.cues.context((cue, on), moments, at),
            |pulls, verdict| pulls.decide(plan, (usize::from(listener.owner), cue), verdict, at),
        );
    }

    /// A cue that listens hears an edge, and the ledger is told what it made of that.
    #[cold]
    pub(crate) fn hear_and_tell(&mut self, plan: &Plan, listener: &Listener, heard: HeardEdge<'_>, at: u64) {
        let cue = usize::from(listener.cue);
        let mut context = self.context(plan, cue, at);
        let verdict = listener.rule.hears(*heard.edge, listener.role, &mut context);
        let made = (context.missed, context.stepped);
        self.tell_heard(plan, cue, heard, made, verdict, at);
        self.decide(plan, (usize::from(listener.owner), cue), verdict, at);
    }

    /// Whether what a cue that listens pulled is on.
    #[inline(always)]
    pub(crate) fn is_listener_on(&self, listener: &Listener) -> bool {
        if listener.several {
            self.cues.rule_states[usize::from(listener.cue)].on
        } else {
            self.actions[usize::from(listener.owner)].on
        }
    }

    /// What a cue's rule works on.
    #[inline(always)]
    pub(crate) fn context(&mut self, plan: &Plan, cue: usize, at: u64) -> RuleContext<'_> {
        let how = &plan.cues.all[cue];
        let action = usize::from(how.action);
        let on = if plan.hot[action].several { self.cues.rule_states[cue].on } else { self.actions[action].on };
        self.cues.invalidate(how.pushed);
        self.cues.context((cue, on), Some(run(&how.moments)), at)
    }

    /// The pushes that an action's cues hear are looked at again.
    #[inline]
    pub(crate) fn invalidate_pushes(&mut self, plan: &Plan, action: usize) {
        let hot = &plan.hot[action];
        if hot.hears_pushes {
            run(&hot.cues).for_each(|cue| self.cues.invalidate(plan.cues.all[cue].pushed));
        }
    }

    /// A cue's timer fell due.
    #[inline(never)]
    fn cue_falls_due(&mut self, plan: &Plan, cue: usize, at: u64) {
        let mut context = self.context(plan, cue, at);
        let verdict = plan.cues.all[cue].rule.falls_due(&mut context);
        let missed = context.missed;
        self.tell_due(cue, missed, verdict, at);
        self.decide(plan, (plan.owner(cue), cue), verdict, at);
    }

    #[inline(always)]
    fn decide(&mut self, plan: &Plan, (owner, cue): (usize, usize), verdict: Verdict, at: u64) {
        match verdict {
            Verdict::None => {}
            Verdict::Matched(cue_match) => {
                if !self.lists.muted {
                    self.action_matched(plan, (owner, Some(Index::new(cue as u16))), cue_match);
                }
            }
            Verdict::Ended(cause) => self.ended(plan, (owner, cue), cause, at),
        }
    }

    /// An action's attempts, waits and timers are dropped.
    pub(crate) fn drop_attempts(&mut self, plan: &Plan, action: usize, end: End, at: u64) {
        self.drop_pulls(|pending| usize::from(pending.action) == action);
        if let Some(standing) = self.standing_of(plan, action) {
            *standing = Standing::default();
        }
        self.invalidate_pushes(plan, action);
        for cue in run(&plan.actions[action].cues) {
            self.cues.rule_states[cue].drop_attempt();
            self.cues.timers.drop(cue);
            self.drop_motion(plan, cue);
        }
        self.outcomes.push(Outcome::DropMarks(action as u16));
        self.note(|ledger| ledger.dropped(action, at, end));
    }

    /// A gap was passed: attempts are dropped, and so is what stood on a rate.
    pub(crate) fn drop_all_attempts(&mut self, plan: &Plan, at: u64) {
        for action in 0..plan.declared {
            self.drop_attempts(plan, action, End::Gap, at);
            for cue in run(&plan.actions[action].cues) {
                if plan.cues.all[cue].rule.is_rate() {
                    self.ended(plan, (action, cue), Cause::LetGo, at);
                }
            }
        }
    }

    /// Presses are lost: attempts, waits and keeps that stand on them are dropped, let go or not.
    pub(crate) fn forget_lost(&mut self, plan: &Plan, lost: Gone, cause: Cause, at: u64) {
        let gone = |press: u32| match lost {
            Gone::Devices(bits) => maker(press) & bits != 0,
            Gone::Press(one) => press == one,
        };
        if let Gone::Devices(bits) = lost {
            for set_number in 0..self.cues.motions.len() {
                if self.cues.motions[set_number].by & bits != 0 {
                    self.motions_lost(plan, set_number, End::Lost(cause), at);
                }
                self.cues.motions[set_number].drop_finishes(gone);
            }
        }
        for action in 0..plan.declared {
            self.forget(plan, action, gone, End::Lost(cause), at);
        }
    }

    /// Whatever an action has open on presses that are gone is dropped: attempts, what waits or is kept, and what would
    /// pull again.
    pub(crate) fn forget(&mut self, plan: &Plan, action: usize, gone: impl Fn(u32) -> bool, end: End, at: u64) {
        let stands = |pending: &PendingPull| {
            usize::from(pending.action) == action && pending.cue_match.presses.iter().any(&gone)
        };
        if self.lists.waits.iter().chain(&self.lists.kept).any(stands) {
            self.lists.waits.retain(|pending| !stands(pending));
            self.lists.kept.retain(|pending| !stands(pending));
            self.note(|ledger| ledger.dropped(action, at, end));
        }
        if let Some(standing) = self.standing_of(plan, action)
            && standing.cue_match.is_some_and(|cue_match| cue_match.presses.iter().any(&gone))
        {
            *standing = Standing::default();
        }
        for cue in run(&plan.actions[action].cues) {
            let mut context = self.context(plan, cue, at);
            if plan.cues.all[cue].rule.forgets(&gone, &mut context) {
                self.note(|ledger| ledger.dropped(action, at, end));
            }
        }
    }

    /// Plays the next of the cues' timers that is due at a moment, in one of its phases; whether there was one.
    #[inline(never)]
    pub(crate) fn falls_due(&mut self, plan: &Plan, at: u64, phase: DuePart) -> bool {
        let Some(timer) = self.cues.timers.take(at, phase) else { return false };
        match plan.cues.all.get(timer).map(|cue| &cue.rule) {
            None => self.motion_falls_due(plan, timer - plan.first_motion_timer(), at),
            Some(rule) if rule.is_motion() => self.motion_window_over(plan, timer, at),
            Some(_) => self.cue_falls_due(plan, timer, at),
        }
        true
    }

    /// A gauge reached the end at which its action pulls.
    pub(crate) fn gauge_reached(&mut self, plan: &Plan, action: u16, presses: Presses, at: u64) {
        if self.listening[usize::from(action)] && !self.lists.muted {
            let cue_match = CueMatch { presses, pressed: at, ..CueMatch::default() };
            self.action_matched(plan, (usize::from(action), None), cue_match);
        }
    }

    /// An action ceases to listen: its attempts are dropped, and what was on ends, but for a toggle.
    pub(crate) fn covers(&mut self, plan: &Plan, action: usize, cause: Cause, at: u64) {
        self.drop_attempts(plan, action, End::Lost(cause), at);
        if !plan.toggles(action) {
            self.end(plan, action, cause, at);
        }
    }

    /// An action begins to listen: its motions begin again.
    pub(crate) fn uncovers(&mut self, plan: &Plan, action: usize) {
        self.invalidate_pushes(plan, action);
        for cue in run(&plan.actions[action].cues) {
            self.drop_motion(plan, cue);
        }
    }
}
