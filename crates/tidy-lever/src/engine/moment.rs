//! The order of a moment: what was told, timers that fall due, events, who wins, what expires.

use crate::cause::Cause;
use crate::engine::Engine;
use crate::engine::incoming::InputKind;
use crate::engine::inputs::Here;
use crate::engine::pulls::Pulls;
use crate::engine::pulls::pending::PendingPull;
use crate::engine::values::{EdgeKind, ListenChange, Outcome, WorldNews};
use crate::history::{Happening, What};
use crate::linkage::Plan;
use crate::time::NEVER;
use crate::timers::DuePart;

/// What a step of the inputs goes by. A macro, as it borrows the world alone.
macro_rules! here {
    ($engine:expr, $plan:expr, $at:expr) => {
        Here::new(&$plan.inputs, &$engine.world.listening, $at)
    };
}

impl Engine {
    /// Plays everything that is due up to and including `to`, moment by moment.
    ///
    /// ```text
    ///   told ▶ timers that fall due ▶ events ▶ pulls are settled ▶ windows expire ▶ who waited on them
    /// ```
    ///
    /// Returns the next moment at which anything plays; one that never comes if nothing will.
    #[inline]
    pub(crate) fn play(&mut self, plan: &Plan, to: u64) -> u64 {
        let mut due = if self.due > 0 { self.due } else { self.next_due() };
        debug_assert_eq!(due, self.next_due(), "nothing but playing sets a timer");
        loop {
            let at = self.queue.next_at().min(due).max(self.next);
            if at > to {
                (self.next, self.due) = (to + 1, due);
                return at;
            }
            due = self.moment(plan, at, due);
        }
    }

    /// Plays moment by moment, as [`play`](Engine::play) does, until `most` happenings were added: at the end of that moment.
    pub(crate) fn play_some(&mut self, plan: &Plan, to: u64, most: u64) -> u64 {
        let enough = self.log.ring.total().saturating_add(most);
        loop {
            let at = self.queue.next_at().min(self.next_due()).max(self.next);
            let next = self.play(plan, at.min(to));
            if at >= to || self.log.ring.total() >= enough {
                return next;
            }
        }
    }

    /// Passes a gap: plays what waits, without a pull.
    pub(crate) fn pass(&mut self, plan: &Plan, to: u64) {
        self.pulls.lists.muted = true;
        self.play(plan, to);
        self.inputs.guards_settle(here!(self, plan, to), u64::MAX);
        self.carry_edges(plan, to);
        self.pulls.lists.muted = false;
        self.pulls.drop_all_attempts(plan, to);
        self.carry_outcomes(plan, to);
        self.due = 0;
        self.inputs.sweeps_rest = false;
        for (sweep, swept) in self.inputs.sweeps.iter_mut().zip(&self.inputs.swept) {
            sweep.pass(*swept, to);
        }
    }

    /// Plays a moment; `due` is when the next timer is. Returns when it is after this.
    #[inline(always)]
    fn moment(&mut self, plan: &Plan, at: u64, mut due: u64) -> u64 {
        if self.queue.has_told() {
            due = self.told_things(plan, at);
        }
        if due <= at {
            self.due_timers(plan, at);
        }
        self.events(plan, at);
        let settled = self.who_wins(plan, at);
        due = self.next_due();
        if due <= at || settled && self.pulls.lists.any_wait() || self.pulls.ledger.is_some() {
            due = self.expiries(plan, at);
        }
        debug_assert!(self.is_carried(), "every queue is empty between moments");
        due
    }

    /// Whether nothing is left on its way from one component to another.
    fn is_carried(&self) -> bool {
        let Engine { inputs, world, pulls, .. } = self;
        inputs.edges.is_empty()
            && inputs.later.is_empty()
            && world.news.is_empty()
            && pulls.outcomes.is_empty()
            && pulls.lists.pending.is_empty()
    }

    /// When the next timer of any component is due, or gates are looked at again; `NEVER` if nothing is.
    #[inline(always)]
    pub(crate) fn next_due(&self) -> u64 {
        let Engine { inputs, world, pulls, .. } = self;
        let keeps = world.comes(pulls.lists.keeping.next_at());
        pulls.cues.timers.next_at().min(pulls.lists.recheck).min(inputs.next_due()).min(world.next_due()).min(keeps)
    }

    /// What the game told plays before anything else of its moment.
    #[inline(never)]
    fn told_things(&mut self, plan: &Plan, at: u64) -> u64 {
        while let Some(told) = self.queue.take_told(at) {
            let number = usize::from(told.number);
            match told.what {
                InputKind::Fact => {
                    self.world.tell(&plan.world, number, told.x as u16, at);
                    self.pulls.facing = self.world.facing(&plan.world);
                }
                InputKind::Mode => self.switch(plan, number, told.x == 1, at),
                InputKind::Set => self.pulls.set(plan, number, told.x == 1, at),
                // A direction never pulls.
                InputKind::GiveBack if number >= plan.declared => {}
                InputKind::GiveBack => self.pulls.give_back(plan, number, Cause::Set, at),
                _ => self.inputs.game_says(here!(self, plan, at), told),
            }
            self.carry_edges(plan, at);
            self.carry_outcomes(plan, at);
        }
        self.next_due()
    }

    /// Spans that are reached now: of cues, then of mashing; by the world's clock; then what guards decide.
    #[inline(never)]
    fn due_timers(&mut self, plan: &Plan, at: u64) {
        loop {
            while self.pulls.falls_due(plan, at, DuePart::Due) {
                self.carry_outcomes(plan, at);
            }
            if !self.inputs.mashes(here!(self, plan, at)) {
                break;
            }
            self.carry_edges(plan, at);
        }
        while self.world.falls_due(&plan.world, at) {
            self.carry_news(plan, at);
        }
        while self.inputs.guards_decide(here!(self, plan, at)) {
            self.carry_edges(plan, at);
        }
    }

    /// Events as fed, each carried through before the next. A second change of one control comes 1 µs later.
    #[inline(always)]
    fn events(&mut self, plan: &Plan, at: u64) {
        while self.queue.next_at() == at {
            let queued = self.queue.take_first();
            if queued.what == InputKind::Control {
                self.inputs.control_says(here!(self, plan, at), queued);
            } else {
                self.inputs.device_says(here!(self, plan, at), queued);
            }
            self.carry_edges(plan, at);
            while let Some(later) = self.inputs.later.pop() {
                self.queue.push(later);
            }
        }
    }

    /// Who wins, after the moment's events: whatever was met and need not wait pulls, winners first, and what was kept, if its
    /// gate may open. Whether there was anything to settle.
    #[inline(always)]
    fn who_wins(&mut self, plan: &Plan, at: u64) -> bool {
        self.pulls.lists.looked &= !self.world.take_may_open();
        let may_open = self.pulls.may_look();
        let settles = self.pulls.lists.any_wait() || may_open;
        if settles {
            // What comes of this settling is looked at in the next moment.
            self.pulls.lists.looked = true;
            self.settle(plan, may_open, at);
        }
        settles
    }

    #[inline]
    fn settle(&mut self, plan: &Plan, may_open: bool, at: u64) {
        debug_assert!(
            may_open || !self.any_keep_opens(plan, at),
            "a gate opened, and nothing that could open it happened"
        );
        if self.pulls.none_stands_back() && !(may_open && self.any_keep_opens(plan, at)) {
            if let Some(alone) = self.pulls.alone(plan) {
                self.answers(plan, alone, at);
            }
            if self.pulls.lists.pending.is_empty() {
                return;
            }
        }
        self.settle_all(plan, at);
    }

    /// Whether the gate of anything that is kept stands open now.
    fn any_keep_opens(&self, plan: &Plan, at: u64) -> bool {
        let Engine { pulls, world, .. } = self;
        pulls.lists.kept.iter().any(|kept| world.is_open(&plan.world, usize::from(kept.action), at))
    }

    /// One candidate a round: its gate is asked, and what its pull causes is there before the next one's is.
    #[inline(never)]
    fn settle_all(&mut self, plan: &Plan, at: u64) {
        for place in (0..self.pulls.lists.kept.len()).rev() {
            if self.world.is_open(&plan.world, usize::from(self.pulls.lists.kept[place].action), at) {
                self.pulls.reopens(plan, place);
            }
        }
        for place in 0..plan.while_held.len() {
            if self.pulls.would_repeat(plan, place).is_some_and(|action| self.world.is_open(&plan.world, action, at)) {
                self.pulls.repeats(plan, place);
            }
        }
        self.pulls.waits_end(plan, at);
        for pending in &mut self.pulls.lists.pending {
            if let Some(stick) = Pulls::aims_with(plan, pending) {
                pending.aim = self.inputs.aim(stick, at);
            }
        }
        self.pulls.steps_aside(plan, at);
        while !self.pulls.lists.pending.is_empty() {
            for place in 0..self.pulls.lists.pending.len() {
                let asks = self.pulls.may_beat(plan, place);
                let is_open = asks.is_some_and(|action| self.world.is_open(&plan.world, action, at));
                self.pulls.lists.pending[place].is_open = is_open;
            }
            let candidate = self.pulls.takes_unbeaten(plan);
            self.answers(plan, candidate, at);
        }
        for place in 0..plan.while_held.len() {
            let held = self.pulls.is_unarmed(plan, place);
            if held.is_some_and(|action| !self.world.is_open(&plan.world, action, at)) {
                self.pulls.lists.standing[place].armed = true;
            }
        }
    }

    /// A candidate's gate answers: it pulls, or is kept.
    #[inline(always)]
    fn answers(&mut self, plan: &Plan, mut pending: PendingPull, at: u64) {
        if let Some(stick) = Pulls::aims_with(plan, &mut pending) {
            pending.aim = self.inputs.aim(stick, at);
        }
        let action = usize::from(pending.action);
        if self.world.is_open(&plan.world, action, at) {
            let pulled = self.pulls.pull(plan, &pending, at);
            self.carry_outcomes(plan, at);
            if pulled && !plan.hot[action].pulls_alone {
                for mode in &plan.actions[action].turns_off {
                    self.switch(plan, usize::from(*mode), false, at);
                }
                for mode in &plan.actions[action].turns_on {
                    self.switch(plan, usize::from(*mode), true, at);
                }
            }
        } else {
            let terms = &plan.actions[action].terms;
            let why = self.pulls.ledger.is_some().then(|| self.world.why_shut(&plan.world, action, terms, at));
            self.pulls.keep(plan, pending, why, (at, self.world.now(at)));
            self.carry_outcomes(plan, at);
        }
    }

    /// Windows whose last microsecond this was, and who waited on them.
    #[inline(never)]
    fn expiries(&mut self, plan: &Plan, at: u64) -> u64 {
        while self.pulls.falls_due(plan, at, DuePart::Expire) {
            self.carry_outcomes(plan, at);
        }
        if !self.world.is_frozen() && self.pulls.keeps_end(self.world.now(at), at) {
            self.pulls.lists.looked = false;
        }
        if self.pulls.lists.recheck <= at {
            self.pulls.lists.recheck = NEVER;
        }
        if self.pulls.lists.any_wait() {
            self.settle(plan, true, at);
        }
        if let Some(ledger) = &mut self.pulls.ledger {
            ledger.opened(at, |action| self.world.is_open(&plan.world, action, at));
        }
        self.next_due()
    }

    /// A mode is switched, and with it who listens, one action after the other.
    fn switch(&mut self, plan: &Plan, mode: usize, on: bool, at: u64) {
        let mut from = if self.world.switch(mode, on) { 0 } else { plan.declared };
        while let Some(change) = self.world.listens_anew(&plan.world, from) {
            from = change.action + 1;
            self.carry_change(plan, change, Cause::Covered, at);
        }
    }

    /// world → pulls, inputs: what ceases to listen reads up and at rest, and what was on ends; what begins to takes on levels.
    pub(crate) fn carry_change(&mut self, plan: &Plan, change: ListenChange, cause: Cause, at: u64) {
        let ListenChange { action, listens } = change;
        self.pulls.listening.set(action, &plan.world.actions[action].also, listens);
        if listens {
            self.pulls.uncovers(plan, action);
            self.inputs.uncovers(here!(self, plan, at), action);
            self.carry_edges(plan, at);
        } else {
            self.inputs.covers(here!(self, plan, at), action, cause);
            self.carry_edges(plan, at);
            self.pulls.covers(plan, action, cause, at);
            self.carry_outcomes(plan, at);
        }
    }

    /// inputs → log, world, pulls
    #[inline(always)]
    pub(crate) fn carry_edges(&mut self, plan: &Plan, at: u64) {
        while let Some(edge) = self.inputs.edges.pop() {
            self.log.note_edge(&edge, at);
            let hot = &plan.hot[usize::from(edge.action)];
            if let Some(gauge) = hot.gauge {
                match edge.kind {
                    EdgeKind::Down { press, .. } => self.world.gauge_pressed(&plan.world, gauge, press, at),
                    EdgeKind::Up { .. } => self.world.gauge_let_go(&plan.world, gauge, at),
                    _ => {}
                }
                self.carry_news(plan, at);
            }
            if hot.is_heard || edge.is_more_than_a_press() {
                self.pulls.edge_heard(plan, &edge, at);
                self.carry_outcomes(plan, at);
            }
        }
    }

    /// world → log, pulls
    #[inline(never)]
    fn carry_news(&mut self, plan: &Plan, at: u64) {
        while let Some(news) = self.world.news.pop() {
            match news {
                WorldNews::Reached { action, presses } => self.pulls.gauge_reached(plan, action, presses, at),
                WorldNews::Mark { action, mark } => self.log.happened(action, What::Mark(mark), at, at),
            }
        }
    }

    /// pulls → world, log
    #[inline(always)]
    pub(crate) fn carry_outcomes(&mut self, plan: &Plan, at: u64) {
        while let Some(outcome) = self.pulls.outcomes.pop() {
            let world = &mut self.world;
            match outcome {
                Outcome::Happened { action, what, since } => self.log.happened(action, what, at, since),
                Outcome::Pulled(pull) => {
                    self.log.note_pull(Happening { stage: world.stage(usize::from(pull.action)), ..pull });
                }
                Outcome::On { action, from } => world.is_on_from(usize::from(action), from),
                Outcome::Off(action) => world.is_on_from(usize::from(action), NEVER),
                Outcome::Spend(action) => world.spend(&plan.world, usize::from(action), at),
                Outcome::GiveBack { action, pull } => world.give_back(&plan.world, usize::from(action), pull),
                Outcome::SetMarks { action, pull } => world.set_marks(&plan.world, usize::from(action), pull, at),
                Outcome::DropMarks(action) => world.drop_marks(&plan.world, usize::from(action), |_| true),
            }
        }
    }
}
