//! What devices say, and what the game says of hands: each is noted, guarded, and applied.

use crate::cause::Cause;
use crate::control::{Family, Sort as ControlSort};
use crate::engine::incoming::{InputKind, QueuedInput};
use crate::engine::inputs::busy::Taken;
use crate::engine::inputs::fingers::Stage;
use crate::engine::inputs::losses::Loss;
use crate::engine::inputs::{Here, Inputs};
use crate::event::{DeviceName, Phase};
use crate::fixed;
use crate::guard::GuardPlan;
use crate::index::{SlotIndex, run};

/// A phase's number in the queue, above the finger's name.
const PHASES: [Phase; 4] = Phase::ALL;

/// A phase as it stands in the queue.
pub(crate) fn phased(phase: Phase) -> u16 {
    (PHASES.iter().position(|known| *known == phase).unwrap_or(0) as u16) << 8
}

impl Inputs {
    /// Plays what a device says that is not a control's: a finger, a cable, the focus, or a level of its own kind.
    #[inline(never)]
    pub(crate) fn device_says(&mut self, here: Here<'_>, queued: QueuedInput) {
        let QueuedInput { x, number, what, .. } = queued;
        match what {
            InputKind::Touch => self.finger_says(here, queued),
            InputKind::Focus => self.focus(here, x == 1),
            InputKind::Plugged => self.plugged(here, usize::from(number), x == 1),
            InputKind::RoughControl => self.apply_unguarded(here, queued, Cause::LetGo),
            InputKind::Stands => self.apply_unguarded(here, queued, Cause::Resynced),
            _ => {}
        }
    }

    /// Plays what the game told that is the hand's: a pad's name, the view, the panel.
    #[inline(never)]
    pub(crate) fn game_says(&mut self, here: Here<'_>, queued: QueuedInput) {
        let QueuedInput { x, y, device, what, .. } = queued;
        match what {
            InputKind::Named => {
                let bits = u64::from(x as u32) << 32 | u64::from(y as u32);
                self.named(here, device, DeviceName::from_bits(bits));
            }
            InputKind::View => {
                if self.view != [x as u32, y as u32] {
                    self.lose(here, Loss::Fingers, Cause::Cancelled);
                }
                self.view = [x as u32, y as u32];
            }
            InputKind::Panel => {
                self.fingers.hidden = x == 0;
                if self.fingers.hidden {
                    self.lose(here, Loss::Fingers, Cause::Cancelled);
                }
            }
            _ => {}
        }
    }

    /// A device says where a control stands.
    #[inline(always)]
    pub(crate) fn control_says(&mut self, here: Here<'_>, queued: QueuedInput) {
        let QueuedInput { x, y, number, device, .. } = queued;
        let slot = &here.plan.slots[usize::from(number)];
        let local = self.board.local(here.plan, device, slot.family);
        if !slot.has_level {
            return self.unlevelled_says(here, queued, local);
        }
        match self.board.note(slot, local, queued.due(), (x, y)) {
            Taken::Now => {
                self.device = local;
                let guards = &mut self.guards;
                let passes = match slot.guard {
                    GuardPlan::Nothing => Some((x, y)),
                    GuardPlan::Button(place) => {
                        let guard = match here.plan.named.is_empty() {
                            true => &here.plan.guards[slot.family.index()],
                            false => self.board.guard(here.plan, local),
                        };
                        guards.button_passes(guard.spans, (local, place), here.at, x).then_some((x, y))
                    }
                    GuardPlan::Arms(_) => None,
                    GuardPlan::Stick(place) => guards.stick_passes((local, place), (x, y)),
                };
                match passes {
                    Some(level) => self.apply_level(here, slot, local, level, Cause::LetGo),
                    None => self.guarded_says(here, number, local, (x, y)),
                }
            }
            Taken::Repeat => self.tally.repeats += 1,
            Taken::Later(to) => self.move_on(queued, to),
        }
    }

    /// A control stands here, and its guard doesn't matter: its device was asked, so news is a level and presses nothing; or the
    /// moment is known too roughly to debounce it.
    fn apply_unguarded(&mut self, here: Here<'_>, queued: QueuedInput, cause: Cause) {
        let QueuedInput { x, y, number, device, .. } = queued;
        let slot = &here.plan.slots[usize::from(number)];
        let local = self.board.local(here.plan, device, slot.family);
        match self.board.note(slot, local, queued.due(), (x, y)) {
            Taken::Now => {
                self.device = local;
                let heard = self.guards.is_asked(slot.guard, local, (x, y));
                self.counts(here, slot, local, heard, cause);
            }
            Taken::Repeat => self.tally.repeats += u64::from(cause == Cause::LetGo),
            Taken::Later(to) => self.move_on(queued, to),
        }
    }

    /// A wheel, a mouse or a pointer says something, which has no level that stays: moves sweeps and pointers.
    #[inline(never)]
    fn unlevelled_says(&mut self, here: Here<'_>, queued: QueuedInput, local: u8) {
        let QueuedInput { x, y, number, .. } = queued;
        let slot = &here.plan.slots[usize::from(number)];
        if slot.sort == ControlSort::Notch {
            return self.wheel_says(here, queued, local);
        }
        self.device = local;
        if !self.board.focused && slot.family != Family::Pad {
            return;
        }
        self.uses(slot, (x, y));
        for feed in &here.plan.feeds[run(&slot.feeds)] {
            self.unlevelled(here, feed, x, y);
        }
    }

    /// A wheel turns: each notch is a press, and a release 1 µs later.
    #[inline(never)]
    fn wheel_says(&mut self, here: Here<'_>, queued: QueuedInput, local: u8) {
        let QueuedInput { x, y, number, .. } = queued;
        if y == 1 {
            // Its notch goes up; the next one comes after it.
            self.device = local;
            self.control(here, SlotIndex::new(number), local, (0, 0), Cause::LetGo);
            if x > 0 {
                self.later.push(queued.followed_by(x, 0));
            }
            return;
        }
        match self.board.note(&here.plan.slots[usize::from(number)], local, queued.due(), (x, y)) {
            Taken::Now => {
                self.device = local;
                self.later.push(queued.followed_by(x - fixed::ONE, 1));
                self.control(here, SlotIndex::new(number), local, (fixed::ONE, 0), Cause::LetGo);
            }
            Taken::Repeat => self.tally.repeats += 1,
            Taken::Later(to) => self.move_on(queued, to),
        }
    }

    /// A finger goes down, moves, lifts or is cancelled.
    #[inline(never)]
    pub(crate) fn finger_says(&mut self, here: Here<'_>, queued: QueuedInput) {
        let QueuedInput { x, y, number, device, .. } = queued;
        let (name, phase) = (usize::from(number & 0xff), PHASES[usize::from(number >> 8)]);
        if let Taken::Later(to) = self.fingers.turn(name, phase, queued.due()) {
            return self.move_on(queued, to);
        }
        let local = self.board.local(here.plan, device, Family::Touch);
        self.device = local;
        let place = (i64::from(x) * i64::from(self.view[0]), i64::from(y) * i64::from(self.view[1]));
        let down = self.fingers.down(name);
        match (phase, down) {
            (Phase::Down, _) => {
                if let Some(slot) = down {
                    // Its lifting was lost: it is another finger now.
                    self.lose(here, Loss::Finger(slot), Cause::Cancelled);
                }
                self.finger_down(here, (name, local), (x, y), place);
            }
            (_, None) => self.tally.unheard += 1,
            (Phase::Move, Some(slot)) => {
                self.fingers.played[slot].place = place;
                if let Stage::Wild(_, true) = self.fingers.played[slot].stage {
                    self.point_at(here, (x, y));
                }
                self.finger_moves(here, slot);
            }
            (Phase::Up, Some(slot)) => self.finger_lifts(here, slot),
            (Phase::Cancel, Some(slot)) => self.lose(here, Loss::Finger(slot), Cause::Cancelled),
        }
    }

    /// It plays at a later moment: the queue it came from has room for it.
    #[cold]
    pub(crate) fn move_on(&mut self, queued: QueuedInput, to: u64) {
        self.tally.moved_on += 1;
        self.later.push(queued.moved_to(to));
    }
}
