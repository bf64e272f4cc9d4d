//! An action ceases to listen, or begins to.

use crate::cause::Cause;
use crate::engine::inputs::{Here, Inputs};

impl Inputs {
    /// An action listens no longer: it reads up and at rest.
    pub(crate) fn covers(&mut self, here: Here<'_>, action: usize, cause: Cause) {
        if let Some(stick) = here.plan.buttons[action].moved {
            self.moved(here, stick, cause);
        } else if self.buttons[action].held > 0 {
            self.let_go(here, action, cause);
        }
    }

    /// An action listens from here on: levels count at once, and what is held is stale.
    pub(crate) fn uncovers(&mut self, here: Here<'_>, action: usize) {
        if let Some(stick) = here.plan.buttons[action].moved {
            self.resume(here, stick);
        }
        for wire in &here.plan.buttons[action].wires {
            // Contacts stand in the order of their wires.
            let contact = here.plan.contacts.partition_point(|contact| contact.wires.end <= *wire);
            self.stale[*wire as usize] = self.board.contacts[contact].down;
        }
    }
}
