//! What comes in: from a window, a page or a pad.

use serde_json::json;
use tidy_lever::event::{Device, Event, Input};
use tidy_lever::table::Fed;
use tidy_lever::{Family, Moment};

use super::{Game, Note, PLACES};

/// Whether a button of a pad goes down.
fn is_press(event: &Event) -> bool {
    event.family() == Some(Family::Pad) && matches!(event.input, Input::Level { value, .. } if value > 0.5)
}

impl Game {
    /// An event from a device.
    pub(crate) fn feed(&mut self, event: Event) {
        if self.setup.taped {
            return;
        }
        // The press that answers does nothing else; what was held before is let go as ever.
        if let Some((_, listening)) = &mut self.menu.listening {
            let heard = listening.hear(&event);
            let goes_on = listening.lets_through(&event);
            self.heard(heard, event.at);
            if !goes_on {
                return;
            }
        } else if let Some(clearing) = &mut self.menu.clearing {
            let goes_on = clearing.lets_through(&event);
            if clearing.is_clear() {
                self.menu.clearing = None;
            }
            if !goes_on {
                return;
            }
        }
        self.welcome(&event);
        match self.tape.recorder.feed(&mut self.table, event) {
            Ok(Fed::Joined(number)) => self.seated(number),
            Ok(Fed::Nobody) if is_press(&event) && self.numbers().len() == PLACES => {
                self.remark("two otters play already; a third has no place here");
            }
            Ok(_) => {}
            Err(problem) => {
                self.refused += 1;
                let at = self.played();
                self.report.say(at, "refused", json!({ "problem": problem.to_string() }));
            }
        }
    }

    /// The first pad moves the first otter, unless pads are for the second.
    fn welcome(&mut self, event: &Event) {
        let new = event.family() == Some(Family::Pad) && self.table.moved_by(event.device).next().is_none();
        if new && !self.setup.two && !self.first_has_pad {
            self.first_has_pad = true;
            self.table.give(1, event.device);
        }
    }

    /// A pad is called this.
    pub(crate) fn named(&mut self, device: Device, name: &str) {
        // A full queue only leaves the pad without what is set for its name.
        let _ = self.tape.recorder.name_device(&mut self.table, device, name);
    }

    /// The window has the focus, or lost it.
    pub(crate) fn focus(&mut self, focused: bool, at: Moment) {
        if self.setup.taped {
            return;
        }
        self.report.say(at, "focus", json!({ "focused": focused }));
        for number in self.numbers() {
            if let Some(seat) = self.table.seat_mut(number) {
                let _ = self.tape.recorder.seat(number as u32, seat).focus_at(focused, at);
            }
        }
    }

    /// Something to be read on the screen for a while.
    pub(crate) fn remark(&mut self, text: impl Into<String>) {
        self.note = Some(Note::passing(text, self.played()));
    }
}
