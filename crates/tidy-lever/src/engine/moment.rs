//! The order of a moment: what was told, timers that fall due, events, who wins, what expires.

use crate::cause::Cause;
use crate::engine::Engine;
use crate::engine::incoming::InputKind;
use crate::engine::inputs::Here;
use crate::engine::values::EdgeKind;
use crate::linkage::Plan;
use crate::time::NEVER;
use crate::timers::DuePart;

/// What a step of the inputs goes by. A macro, as it borrows the world alone.
macro_rules! here {
    ($engine:expr, $plan:expr, $at:expr) => {
        Here { plan: &$plan.inputs, listens: &$engine.world.listening, at: $at }
    };
}

pub(crate) use here;

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
        self.pulls.muted = true;
        self.play(plan, to);
        self.inputs.guards_settle(here!(self, plan, to), u64::MAX);
        self.carry_edges(plan, to);
        self.pulls.muted = false;
        self.drop_all_attempts(plan, to);
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
        let settled = self.settle_events(plan, at);
        due = self.next_due();
        if due <= at || settled && self.pulls.any_wait() || self.log.ledger.is_some() {
            due = self.expiries(plan, at);
        }
        debug_assert!(self.is_carried(), "every queue is empty between moments");
        due
    }

    /// Whether nothing is left on its way from one component to another.
    fn is_carried(&self) -> bool {
        self.inputs.edges.is_empty() && self.inputs.later.is_empty() && self.pulls.pending.is_empty()
    }

    /// What the game told plays before anything else of its moment.
    #[inline(never)]
    fn told_things(&mut self, plan: &Plan, at: u64) -> u64 {
        while let Some(told) = self.queue.take_told(at) {
            let number = usize::from(told.number);
            match told.what {
                InputKind::Fact => self.tell(plan, number, told.x as u16, at),
                InputKind::Set => self.set(plan, number, told.x == 1, at),
                InputKind::GiveBack => self.give_back(plan, number, Cause::Set, at),
                InputKind::Mode => self.switch(plan, number, told.x == 1, at),
                _ => {
                    self.inputs.game_says(here!(self, plan, at), told);
                    self.carry_edges(plan, at);
                }
            }
        }
        self.next_due()
    }

    /// Spans that are reached now: of cues, then of mashing; by the world's clock; then what guards decide.
    #[inline(never)]
    fn due_timers(&mut self, plan: &Plan, at: u64) {
        loop {
            self.hand_falls_due(plan, at, DuePart::Due);
            if !self.inputs.mashes(here!(self, plan, at)) {
                break;
            }
            self.carry_edges(plan, at);
        }
        self.world_falls_due(plan, at, DuePart::Due);
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

    /// Windows whose last microsecond this was, and who waited on them.
    #[inline(never)]
    fn expiries(&mut self, plan: &Plan, at: u64) -> u64 {
        self.hand_falls_due(plan, at, DuePart::Expire);
        self.world_falls_due(plan, at, DuePart::Expire);
        if self.pulls.recheck <= at {
            self.pulls.recheck = NEVER;
        }
        if self.pulls.any_wait() {
            self.settle(plan, true, at);
        }
        if self.log.ledger.is_some() {
            self.tell_opened(plan, at);
        }
        self.next_due()
    }

    /// inputs → log, world, cues
    #[inline(always)]
    pub(crate) fn carry_edges(&mut self, plan: &Plan, at: u64) {
        while let Some(edge) = self.inputs.edges.pop() {
            self.log.note_edge(&edge, at);
            let hot = &plan.hot[usize::from(edge.action)];
            if let Some(gauge) = hot.gauge {
                match edge.kind {
                    EdgeKind::Down { press, .. } => self.gauge_pressed(plan, gauge, press, at),
                    EdgeKind::Up { .. } => self.gauge_let_go(plan, gauge, at),
                    _ => {}
                }
            }
            if hot.is_heard
                || !matches!(edge.kind, EdgeKind::Down { .. } | EdgeKind::Lifted { .. } | EdgeKind::Up { .. })
            {
                self.edge_heard(plan, &edge, at);
            }
        }
    }
}
