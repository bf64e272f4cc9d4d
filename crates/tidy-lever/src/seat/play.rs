//! Playing a moment: what was told, then events, each through board, signal, edge and cue into history.

use super::block::{ActionState, Block, Moves};
use super::losses::Lost;
use super::tales::HeardEdge;
use super::waiting::{Waiting, WaitingKind};
use crate::cause::Cause;
use crate::control::{Family, Part, Sort as ControlSort};
use crate::cue::{Edge, Push};
use crate::end::End;
use crate::fixed;
use crate::history::{Happening, What};
use crate::index::{NONE, run};
use crate::inputs::LegOf;
use crate::inputs::board::{Turn as Play, maker};
use crate::inputs::signal::{self, Moved, Turn};
use crate::linkage::Plan;
use crate::shape::Bent;
use crate::time::Moment;
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

    fn play_one(&mut self, plan: &Plan, waiting: Waiting) {
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
    fn control_says(&mut self, plan: &Plan, waiting: Waiting) {
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
    fn several(&mut self, plan: &Plan, slot: u16, local: u8, (x, y): (i32, i32), cause: Cause, at: u64) {
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
    fn unlevelled(&mut self, plan: &Plan, feed: usize, x: i32, y: i32, at: u64) {
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

    /// A pointer is at another place: held, it may drag.
    pub(super) fn pointer_moves(&mut self, plan: &Plan, number: usize, place: (i32, i32), at: u64) {
        let (pointer, how) = (&mut self.pointers[number], &plan.inputs.pointers[number]);
        pointer.place = Some(place);
        if pointer.pressed.is_some() && !pointer.drags && pointer.is_beyond(how.drag_from, self.view) {
            pointer.drags = true;
            let press = self.board.fresh_press(self.hand);
            self.press(plan, usize::from(how.drag), press, at);
        }
    }

    /// A pointer is pressed at its place.
    fn pointer_pressed(&mut self, pointer: u16) {
        let pointer = &mut self.pointers[usize::from(pointer)];
        if pointer.pressed.is_none() {
            (pointer.pressed, pointer.drags) = (pointer.place, false);
        }
    }

    /// A pointer is let go: the end of a drag, or a click.
    fn pointer_let_go(&mut self, plan: &Plan, number: u16, cause: Cause, at: u64) {
        let how = &plan.inputs.pointers[usize::from(number)];
        let pointer = &mut self.pointers[usize::from(number)];
        let drags = core::mem::take(&mut pointer.drags);
        pointer.pressed = None;
        if drags {
            self.release(plan, usize::from(how.drag), cause, at);
        } else if cause == Cause::LetGo {
            let press = self.board.fresh_press(self.hand);
            self.press(plan, usize::from(how.click), press, at);
            self.release(plan, usize::from(how.click), cause, at);
        }
    }

    /// A contact that turned: the buttons on it, and the crosses.
    fn contact(&mut self, plan: &Plan, contact: usize, local: u8, down: bool, cause: Cause, at: u64) {
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
    fn leg_turned(&mut self, plan: &Plan, (action, leg): (u16, LegOf), down: bool, cause: Cause, at: u64) {
        let moved = &plan.inputs.moved[usize::from(plan.actions[usize::from(action)].moved)];
        signal::leg_over(&plan.inputs, &mut self.board, &mut self.crosses, moved, leg);
        self.moves = if down { Moves::Press } else { Moves::Lift };
        self.moved(plan, action, cause, at);
    }

    /// A control of an action went down, as the press of this identity.
    pub(super) fn press(&mut self, plan: &Plan, action: usize, press: u64, at: u64) {
        let state = self.touch(action);
        let first = state.held == 0;
        if first {
            state.since = at;
        }
        state.press = press;
        state.held = state.held.saturating_add(1);
        state.sums.pressed = state.sums.pressed.wrapping_add(1);
        self.happened(action, What::Pressed, at, at);
        let how = &plan.actions[action];
        if how.works_more() {
            self.press_more(plan, action, press, at);
        }
        let edge = Edge::Down { press, first, back: self.gave_back };
        self.edge(plan, action, &edge, at);
        self.motions_finish(plan, action, &edge, at);
    }

    /// What else stands on a press than cues and motions.
    #[inline(never)]
    fn press_more(&mut self, plan: &Plan, action: usize, press: u64, at: u64) {
        let how = &plan.actions[action];
        if how.pointer != NONE {
            self.pointer_pressed(how.pointer);
        }
        if how.gauge != NONE {
            self.gauge_pressed(plan, action, press, at);
        }
        if how.mash_period > 0 {
            self.timers.set(plan.first_mash_timer() + action, at + how.mash_period, DuePart::Due);
        }
    }

    /// Holding stands for mashing: let go, and pressed again, by a timer.
    pub(super) fn mash_again(&mut self, plan: &Plan, action: usize, at: u64) {
        let ActionState { held, press, .. } = self.actions[action];
        if held > 0 && self.actions[action].listens {
            self.let_go(plan, action, Cause::LetGo, at);
            // The hand that holds it mashes.
            let press = self.board.fresh_press(maker(press as u32).trailing_zeros() as u8);
            self.press(plan, action, press, at);
            self.actions[action].held = held;
        }
    }

    pub(super) fn release(&mut self, plan: &Plan, action: usize, cause: Cause, at: u64) {
        let state = &mut self.actions[action];
        if state.held == 0 {
            return;
        }
        state.held -= 1;
        if state.held == 0 {
            self.let_go(plan, action, cause, at);
        }
    }

    /// The last control of an action went up, or was taken from it.
    pub(super) fn let_go(&mut self, plan: &Plan, action: usize, cause: Cause, at: u64) {
        let state = self.touch(action);
        state.held = 0;
        let held = at - state.since;
        state.last_held = held;
        state.sums.released = state.sums.released.wrapping_add(1);
        let since = state.since;
        self.happened(action, What::Released(cause), at, since);
        let how = &plan.actions[action];
        if how.works_more() {
            self.let_go_more(plan, action, cause, at);
        }
        let edge = Edge::Up { cause, held };
        self.edge(plan, action, &edge, at);
        self.motions_finish(plan, action, &edge, at);
    }

    #[inline(never)]
    fn let_go_more(&mut self, plan: &Plan, action: usize, cause: Cause, at: u64) {
        let how = &plan.actions[action];
        if how.pointer != NONE {
            self.pointer_let_go(plan, how.pointer, cause, at);
        }
        if how.gauge != NONE {
            self.gauge_let_go(plan, action, at);
        }
        if how.mash_period > 0 {
            self.timers.drop(plan.first_mash_timer() + action);
        }
    }

    /// The state of an action that is about to change its sums in this tick.
    pub(super) fn touch(&mut self, action: usize) -> &mut ActionState {
        let tick = self.tick;
        let state = &mut self.actions[action];
        if state.tick != tick {
            state.tick = tick;
            state.before = state.sums;
        }
        state
    }

    #[inline]
    pub(super) fn happened(&mut self, action: usize, what: What, at: u64, since: u64) {
        let (at, since) = (Moment::played(at), Moment::played(since));
        self.ring.push(Happening::new(at, since, action as u16, what));
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
    fn gives_back(&self, (was_x, was_y): (i32, i32), number: usize) -> bool {
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
    fn turned(&mut self, plan: &Plan, action: usize, number: usize, turn: Turn, cause: Cause, at: u64) {
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

    /// Switches a mode, and with it what listens.
    pub(super) fn switch(&mut self, plan: &Plan, mode: usize, on: bool, at: u64) {
        if !self.modes.set(mode, on) {
            return;
        }
        for action in 0..plan.declared {
            let listens = self.modes.hears(&plan.modes, &plan.actions[action].heard);
            if listens != self.actions[action].listens {
                if listens { self.uncover(plan, action, at) } else { self.cover(plan, action, at) }
            }
        }
    }

    /// An action ceases to listen: it reads up and at rest, and what was on ends.
    fn cover(&mut self, plan: &Plan, action: usize, at: u64) {
        self.actions[action].listens = false;
        let moved = plan.actions[action].moved;
        if moved != NONE {
            self.moved(plan, action as u16, Cause::Covered, at);
            self.listens_too(&plan.inputs.moved[usize::from(moved)].buttons, false);
        } else if self.actions[action].held > 0 {
            self.let_go(plan, action, Cause::Covered, at);
        }
        self.drop_attempts(plan, action, End::Lost(Cause::Covered), at);
        if !plan.toggles(action) {
            self.end(plan, action, Cause::Covered, at);
        }
        self.pointers_too(plan, action, false);
    }

    pub(super) fn pointers_too(&mut self, plan: &Plan, action: usize, listens: bool) {
        if let Some(pointer) = plan.inputs.pointers.get(usize::from(plan.actions[action].pointer)) {
            self.listens_too(&[pointer.drag, pointer.click], listens);
        }
    }

    /// An action begins to listen: levels count at once, edges need a fresh press.
    fn uncover(&mut self, plan: &Plan, action: usize, at: u64) {
        self.actions[action].listens = true;
        for cue in run(&plan.actions[action].cues) {
            self.drop_motion(plan, cue);
        }
        self.pointers_too(plan, action, true);
        let moved = plan.actions[action].moved;
        if moved != NONE {
            self.listens_too(&plan.inputs.moved[usize::from(moved)].buttons, true);
            self.resume(plan, moved, at);
        }
        for number in &plan.actions[action].wires {
            self.stale[*number as usize] = self.board.contacts[self.contact_of(plan, *number)].down;
        }
    }

    /// The directions of a stick, or what a pointer does, listen with it.
    pub(super) fn listens_too(&mut self, buttons: &[u16], listens: bool) {
        for button in buttons.iter().filter(|button| **button != NONE) {
            self.actions[usize::from(*button)].listens = listens;
        }
    }

    /// A stick or an axis takes on what its controls say, without any edge.
    pub(super) fn resume(&mut self, plan: &Plan, moved: u16, at: u64) {
        let number = usize::from(moved);
        if plan.inputs.moved[number].sweep.is_some() {
            return self.moved(plan, plan.inputs.moved[number].action, Cause::LetGo, at);
        }
        let value = signal::combine(&plan.inputs, &self.board, &self.crosses, &plan.inputs.moved[number]);
        self.moved[number].take(&plan.inputs.moved[number], value, at);
        // Nothing entered where it stands.
        self.moved[number].press = 0;
        let Moved { push, direction, .. } = self.moved[number];
        for set in plan.inputs.moved[number].motions.iter().map(|set| usize::from(*set)) {
            let from_push = plan.motion_sets[set].seen.from_push;
            let to = direction.filter(|_| fixed::reaches(push.0, push.1, from_push));
            self.motions[set].stands_at(to, at);
        }
    }

    fn contact_of(&self, plan: &Plan, wire: u32) -> usize {
        // Contacts stand in the order of their wires.
        plan.inputs.contacts.partition_point(|contact| contact.wires.end <= wire)
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
