//! Pointers click and drag.

use crate::engine::inputs::{Here, Inputs};
use crate::guard::GuardPlan;
use crate::index::run;
use crate::linkage::Wire;

impl Inputs {
    /// A pointer is at another place: held, it may drag.
    pub(crate) fn pointer_moves(&mut self, here: Here<'_>, number: usize, place: (i32, i32)) {
        let (pointer, how) = (&mut self.pointers[number], &here.plan.pointers[number]);
        pointer.place = Some(place);
        if pointer.pressed.is_some() && !pointer.drags && pointer.is_beyond(how.drag_from, self.view) {
            if self.is_up_unheard(here, number) {
                // Its button is up, and only its guard has not let that through: it went too far after the letting go.
                return;
            }
            self.pointers[number].drags = true;
            let press = self.board.fresh_press(self.device);
            self.press(here, usize::from(how.drag), press);
        }
    }

    /// Whether all buttons that hold a pointer say that they are up, which is not heard yet.
    fn is_up_unheard(&self, here: Here<'_>, number: usize) -> bool {
        let board = &self.board;
        let holds = |contact: &usize| {
            let wires = &here.plan.wires[run(&here.plan.contacts[*contact].wires)];
            let is_its =
                |wire: &Wire| here.plan.buttons[usize::from(wire.action)].pointer.map(usize::from) == Some(number);
            wires.iter().any(is_its)
        };
        let (mut is_held, mut all_up) = (false, true);
        for slot in here.plan.slots.iter().filter(|slot| slot.guard != GuardPlan::Nothing) {
            for contact in run(&slot.contacts).filter(holds) {
                let how = &here.plan.contacts[contact];
                let down = board.contacts[contact].down;
                for local in (0..board.count()).filter(|local| down >> local & 1 == 1) {
                    let (x, y) = board.said(slot, local);
                    (is_held, all_up) = (true, all_up && how.part.level(x, y) <= how.up_at);
                }
            }
        }
        is_held && all_up
    }
}
