//! What comes in: from a window, a pad, or a tape.

use serde_json::json;
use tidy_lever::event::Event;
use tidy_lever::table::Fed;
use tidy_lever::tape::{Header, Line, Player, Said};
use tidy_lever::{Family, Moment};

use super::{Game, Note};
use crate::menu::Menu;

/// A control goes down from here on.
const DOWN: f32 = 0.5;

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

    /// The window has the focus, or lost it.
    pub(crate) fn focus(&mut self, focused: bool, at: Moment) {
        if self.setup.taped {
            return;
        }
        self.report.say(at, "focus", json!({ "focused": focused }));
        for number in self.numbers() {
            if let Some(seat) = self.table.seat_mut(number) {
                let _ = self.tape.recorder.seat(number as u32, seat).focus(focused, at);
            }
        }
    }

    /// A tape is to play instead of hands.
    pub(crate) fn begin_tape(&mut self, header: &Header) {
        self.players = (1..=2).map(|seat| Player::new(header).for_seat(seat)).collect();
    }

    /// A line of the tape: what hands did is played, what a game told is this game's own business.
    pub(crate) fn line(&mut self, line: &Line, folder: &std::path::Path) -> Result<(), String> {
        let number = line.seat as usize;
        match &line.said {
            Said::Level { value, .. } if *value >= f64::from(DOWN) => self.menu.listening = None,
            Said::Level { .. } | Said::Pair { .. } | Said::Touch { .. } | Said::Plugged { .. } | Said::Focus(_) => {}
            Said::View { size: [width, height], .. } => {
                self.set_view((*width, *height));
                return Ok(());
            }
            Said::Remap(file) => {
                // Only a file beside the tape is read, and nothing of it is shown.
                let path = tidy_lever_files::beside(folder, file)
                    .map_err(|problem| format!("the remap `{file}`: {problem}"))?;
                let remap =
                    crate::player::read(&path).map_err(|_| format!("the remap `{file}` is no player's file"))?;
                self.menu = Menu { row: self.menu.row, ..Menu::default() };
                return self.wear(remap).map_err(|broken| broken.to_string());
            }
            _ => return Ok(()),
        }
        while self.table.seats().count() < number && number <= self.players.len() {
            self.sit(&[]);
        }
        let (Some(player), Some(seat)) = (self.players.get_mut(number.wrapping_sub(1)), self.table.seat_mut(number))
        else {
            return Err(format!("seat {number} doesn't play here; there are two"));
        };
        player.put(line, seat).map_err(|problem| problem.to_string())
    }

    /// Something to be read on the screen for a while.
    pub(crate) fn remark(&mut self, text: impl Into<String>) {
        self.note = Some(Note::passing(text, self.played()));
    }
}
