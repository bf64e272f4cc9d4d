//! Playing a moment: what was told, then events, each through board, signal, edge and cue into history.

use super::block::{Block, Moves};
use super::losses::Lost;
use super::tales::HeardEdge;
use super::waiting::{Waiting, WaitingKind};
use crate::cause::Cause;
use crate::control::{Family, Part, Sort as ControlSort};
use crate::cue::{Edge, Push};
use crate::fixed;
use crate::index::{NONE, run};
use crate::inputs::LegOf;
use crate::inputs::busy::Turn as Play;
use crate::inputs::signal::{self, Moved, Turn};
use crate::linkage::Plan;
use crate::shape::Bent;
use crate::timers::DuePart;

impl Block {
    /// Plays everything that is due up to and including `to`, moment by moment.
    ///
    /// ```text
    ///   told ▶ timers that fall due ▶ events ▶ pulls are settled ▶ windows expire ▶ who waited on them
    /// ```
    pub(crate) fn play(&mut self, plan: &Plan, to: u64) {
        while let Some(at) = self.next_moment().filter(|at| *at <= to) {
            while let Some(told) = self.queue.pop_told(at) {
                self.play_one(plan, told);
            }
            self.fall_due(plan, at, DuePart::Due);
            while let Some(event) = self.queue.pop_at(at) {
                self.play_one(plan, event);
            }
            self.settle(plan, at);
            self.fall_due(plan, at, DuePart::Expire);
            self.recheck = self.recheck.filter(|recheck| *recheck > at);
            if !self.waits.is_empty() || !self.pending.is_empty() {
                self.settle(plan, at);
            }
            if self.ledger.is_some() {
                self.tell_opened(plan, at);
            }
        }
        self.next = to + 1;
    }

    pub(super) fn play_one(&mut self, plan: &Plan, waiting: Waiting) {
        let Waiting { at, x, y, number, what, .. } = waiting;
        match what {
            WaitingKind::Fact => self.tell(plan, usize::from(number), x as u16, at),
            WaitingKind::Set => self.set(plan, usize::from(number), x == 1, at),
            WaitingKind::GiveBack => self.give_back(plan, usize::from(number), Cause::Set, at),
            WaitingKind::View => {
                if self.view != [x as u32, y as u32] {
                    self.lose(plan, Lost::Fingers, Cause::Cancelled, at);
                }
                self.view = [x as u32, y as u32];
            }
            WaitingKind::Panel => {
                self.fingers.hidden = x == 0;
                if self.fingers.hidden {
                    self.lose(plan, Lost::Fingers, Cause::Cancelled, at);
                }
            }
            WaitingKind::Touch => self.finger_says(plan, waiting),
            WaitingKind::Mode => self.switch(plan, usize::from(number), x == 1, at),
            WaitingKind::Control => self.control_says(plan, waiting),
            WaitingKind::Focus => self.focus(plan, x == 1, at),
            WaitingKind::Plugged => self.plugged(plan, usize::from(number), x == 1, at),
        }
    }

    /// It plays at a later moment: the queue it came from has room for it.
    pub(super) fn move_on(&mut self, waiting: Waiting, to: u64) {
        self.tally.moved_on += 1;
        self.queue.push(waiting.moved_to(to));
    }

    /// A device says where a control stands.
    pub(super) fn control_says(&mut self, plan: &Plan, waiting: Waiting) {
        let Waiting { at, x, y, number, device, .. } = waiting;
        let slot = &plan.inputs.slots[usize::from(number)];
        let local = self.board.local(&plan.inputs, usize::from(device), slot.control.family());
        let is_wheel = slot.sort == ControlSort::Notch;
        if is_wheel && y == 1 {
            // Its notch goes up; the next one comes after it.
            self.hand = local;
            self.control(plan, number, local, (0, 0), Cause::LetGo, at);
            if x > 0 {
                self.queue.push(waiting.followed_by(x, 0));
            }
            return;
        }
        match self.board.note(&plan.inputs, number, local, waiting.due(), (x, y)) {
            Play::Repeat => self.tally.repeats += 1,
            Play::Later(to) => self.move_on(waiting, to),
            Play::Now if is_wheel => {
                self.hand = local;
                self.queue.push(waiting.followed_by(x - fixed::ONE, 1));
                self.control(plan, number, local, (fixed::ONE, 0), Cause::LetGo, at);
            }
            Play::Now => {
                self.hand = local;
                self.control(plan, number, local, (x, y), Cause::LetGo, at);
            }
        }
    }

    /// A control's new level.
    pub(super) fn control(&mut self, plan: &Plan, slot: u16, local: u8, (x, y): (i32, i32), cause: Cause, at: u64) {
        let slot_plan = &plan.inputs.slots[usize::from(slot)];
        if !self.board.focused && slot_plan.control.family() != Family::Pad {
            return;
        }
        if matches!(slot_plan.sort, ControlSort::Counts | ControlSort::Place) {
            self.uses(plan, slot, (x, y));
            for place in run(&slot_plan.feeds) {
                self.unlevelled(plan, plan.inputs.slot_feeds[place] as usize, x, y, at);
            }
            return;
        }
        if slot_plan.sort == ControlSort::Button && slot_plan.contacts.len() == 1 {
            // Nearly every button.
            let contact = slot_plan.contacts.start as usize;
            if cause == Cause::LetGo {
                self.uses(plan, slot, (x, y));
            }
            if let Some(down) = self.board.turn(&plan.inputs, contact, local, (x, y)) {
                self.contact(plan, contact, local, down, cause, at);
            }
            return;
        }
        self.several(plan, slot, local, (x, y), cause, at);
    }

    /// A control that moves levels, or turns several contacts: these first, all of them, then what stands on them, then
    /// its feeds.
    pub(super) fn several(&mut self, plan: &Plan, slot: u16, local: u8, (x, y): (i32, i32), cause: Cause, at: u64) {
        let slot_plan = &plan.inputs.slots[usize::from(slot)];
        for contact in run(&slot_plan.contacts) {
            let turned = self.board.turn(&plan.inputs, contact, local, (x, y));
            self.board.contacts[contact].turned = turned.map_or(0, |down| if down { 1 } else { -1 });
        }
        if cause == Cause::LetGo {
            self.uses(plan, slot, (x, y));
        }
        for contact in run(&slot_plan.contacts) {
            let turned = core::mem::take(&mut self.board.contacts[contact].turned);
            if turned != 0 {
                self.contact(plan, contact, local, turned > 0, cause, at);
            }
        }
        for place in run(&slot_plan.feeds) {
            let number = plan.inputs.slot_feeds[place] as usize;
            let level = bent(plan, number, slot_plan.sort, (x, y));
            self.board.set_feed(number, usize::from(local), level);
        }
        for place in run(&slot_plan.feeds) {
            let feed = &plan.inputs.feeds[plan.inputs.slot_feeds[place] as usize];
            if feed.leg {
                self.crossed(plan, feed.action);
            }
            self.moves = if feed.digital || feed.leg { Moves::Press } else { Moves::Level };
            self.moved(plan, feed.action, cause, at);
        }
    }

    /// Counts of a mouse, or a place of the pointer: what has no level that stays.
    pub(super) fn unlevelled(&mut self, plan: &Plan, feed: usize, x: i32, y: i32, at: u64) {
        let feed = &plan.inputs.feeds[feed];
        let action = usize::from(feed.action);
        if let Some((sweep, _)) =
            plan.inputs.moved.get(usize::from(plan.actions[action].moved)).and_then(|moved| moved.sweep)
        {
            if self.actions[action].listens {
                let fits = self.sweeps[usize::from(sweep)].count([x, y], feed.per_count);
                self.tally.clamped += u64::from(!fits);
            }
            return;
        }
        self.pointer_moves(plan, usize::from(plan.actions[action].pointer), (x, y), at);
    }

    /// A contact that turned: the buttons on it, and the crosses.
    pub(super) fn contact(&mut self, plan: &Plan, contact: usize, local: u8, down: bool, cause: Cause, at: u64) {
        let bit = 1u64 << local;
        for number in run(&plan.inputs.contacts[contact].wires) {
            let wire = plan.inputs.wires[number];
            if let Some(leg) = wire.leg {
                self.leg_turned(plan, (wire.action, leg), down, cause, at);
                continue;
            }
            let action = usize::from(wire.action);
            let stale = self.stale[number] & bit != 0;
            let latched = plan.actions[action].latched;
            match (down, self.actions[action].listens && self.board.focused) {
                // One press puts it down, the next lifts it; letting go does nothing.
                (true, true) if latched && self.actions[action].held > 0 => self.release(plan, action, cause, at),
                (false, true) if latched && !stale => {}
                (true, true) => self.press(plan, action, self.board.contacts[contact].press, at),
                // Held since before it listened: no press, until it goes up once.
                (true, false) => self.stale[number] |= bit,
                (false, _) if stale => self.stale[number] &= !bit,
                (false, true) => self.release(plan, action, cause, at),
                (false, false) => {}
            }
        }
    }

    /// A leg of an action's cross was pressed or let go.
    #[inline(never)]
    pub(super) fn leg_turned(&mut self, plan: &Plan, (action, leg): (u16, LegOf), down: bool, cause: Cause, at: u64) {
        let moved = &plan.inputs.moved[usize::from(plan.actions[usize::from(action)].moved)];
        signal::leg_over(&plan.inputs, &mut self.board, &mut self.crosses, moved, leg);
        self.moves = if down { Moves::Press } else { Moves::Lift };
        self.moved(plan, action, cause, at);
    }

    /// Tells the cues that listen to an action what its signal did.
    #[inline]
    pub(super) fn edge(&mut self, plan: &Plan, subject: usize, edge: &Edge, at: u64) {
        let heard = HeardEdge { edge, subject: subject as u16 };
        for (cue, role) in &plan.listeners[run(&plan.actions[subject].listeners)] {
            self.hear(plan, usize::from(*cue), heard, *role, at);
        }
    }

    /// Works an action's crosses out again, whether it listens or not, so that they are always as the legs are.
    pub(super) fn crossed(&mut self, plan: &Plan, action: u16) {
        let moved = &plan.inputs.moved[usize::from(plan.actions[usize::from(action)].moved)];
        signal::cross_over(&plan.inputs, &mut self.board, &mut self.crosses, moved);
    }

    /// Works an axis or a stick out again, after something of it changed.
    pub(super) fn moved(&mut self, plan: &Plan, action: u16, cause: Cause, at: u64) {
        let action = usize::from(action);
        let number = usize::from(plan.actions[action].moved);
        let moved = &plan.inputs.moved[number];
        let listens = self.actions[action].listens;
        if !listens && self.moved[number].is_still() && moved.sweep.is_none() && !moved.pushes {
            return;
        }
        let value = if listens {
            signal::combine(&plan.inputs, &self.board, &self.crosses, moved)
        } else {
            signal::Value::default()
        };
        if let Some((sweep, per_second)) = moved.sweep {
            self.sweeps[usize::from(sweep)].steer([value.x, value.y], per_second, at);
            return;
        }
        let (before, live) = (self.moved[number].push, self.moved[number].live());
        let turn = self.moved[number].take(moved, value, at);
        let is_news = (before, live) != (self.moved[number].push, self.moved[number].live());
        let back = cause == Cause::LetGo && is_news && self.gives_back(live, number);
        if let Some(turn) = turn {
            self.gave_back = back;
            self.turned(plan, action, number, turn, cause, at);
            self.gave_back = false;
        }
        if !moved.motions.is_empty() && (turn.is_some() || is_news) {
            let rests = turn.is_some_and(|turn| turn.to.is_none());
            self.motions_see(plan, number, rests, cause, at);
        }
        if moved.pushes && (cause == Cause::LetGo || is_news) {
            let Moved { x, y, push: now, direction: to, press, digital, .. } = self.moved[number];
            let size = if to.is_some() { fixed::length(x, y).max(1) } else { 0 };
            self.edge(plan, action, &Edge::Push(Push { size, now, before, to, press, digital, back, cause }), at);
        }
    }

    /// Whether nobody's going down moved a stick: another key went up, or another control let it.
    pub(super) fn gives_back(&self, (was_x, was_y): (i32, i32), number: usize) -> bool {
        let Moved { digital, .. } = self.moved[number];
        let (x, y) = self.moved[number].live();
        let grew = |now: i32, was: i32| now != 0 && now.signum() != was.signum();
        match self.moves {
            Moves::Lift => true,
            Moves::Level => digital,
            Moves::Press => digital && !grew(x, was_x) && !grew(y, was_y),
        }
    }

    /// A stick's or an axis's direction changed: its own edges, and those of its directions as buttons.
    pub(super) fn turned(&mut self, plan: &Plan, action: usize, number: usize, turn: Turn, cause: Cause, at: u64) {
        let button = |direction: Option<crate::direction::Direction>| {
            let button = direction.map_or(NONE, |d| plan.inputs.moved[number].buttons[d as usize]);
            (button != NONE).then_some(usize::from(button))
        };
        if let Some(before) = button(turn.from) {
            self.release(plan, before, cause, at);
        }
        // Entering a direction is a press of its own. A loss enters none: what is left is a level, until it is given again.
        let entered = turn.to.filter(|_| cause == Cause::LetGo);
        let press = if entered.is_some() { self.board.fresh_direction(self.hand) } else { 0 };
        match (turn.from, turn.to) {
            (None, Some(_)) if entered.is_some() => self.press(plan, action, press, at),
            (Some(_), None) => self.release(plan, action, cause, at),
            _ => {}
        }
        if let Some(now) = button(entered) {
            self.press(plan, now, press, at);
        }
        if entered.is_some() {
            let before = if turn.from.is_some() { self.hands[number] } else { 0 };
            self.hands[number] = before | 1 << self.hand;
        }
        self.moved[number].press = press;
        self.edge(plan, action, &Edge::Turn { from: turn.from, to: turn.to, press, cause }, at);
    }
}

/// What a control says, as one of its feeds has it: a leg's level is taken as it is, everything else is shaped.
pub(super) fn bent(plan: &Plan, feed: usize, sort: ControlSort, (x, y): (i32, i32)) -> Bent {
    let feed = &plan.inputs.feeds[feed];
    let shape = &plan.inputs.shapes[feed.shape as usize];
    if feed.leg || feed.part != Part::Whole || sort == ControlSort::Level {
        let level = feed.part.level(x, y);
        return if feed.leg { Bent::straight((level, 0)) } else { shape.level(level) };
    }
    shape.pair(x, y)
}
