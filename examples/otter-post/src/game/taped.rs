//! A tape that plays instead of hands.

use tidy_lever::tape::{Header, Line, LineKind, Replayer};

use super::Game;
use crate::desktop::player_file;
use crate::menu::Menu;

/// A control goes down from here on.
const DOWN: f32 = 0.5;

impl Game {
    /// A tape is to play instead of hands.
    pub(crate) fn begin_tape(&mut self, header: &Header) {
        self.players = (1..=2).map(|seat| Replayer::new(header).for_seat(seat)).collect();
    }

    /// A line of the tape: what hands did is played, what a game told is this game's own business.
    pub(crate) fn line(&mut self, line: &Line, folder: &std::path::Path) -> Result<(), String> {
        let number = line.seat as usize;
        match &line.kind {
            LineKind::Level { value, .. } if *value >= f64::from(DOWN) => self.menu.listening = None,
            LineKind::Level { .. }
            | LineKind::Pair { .. }
            | LineKind::Stands { .. }
            | LineKind::Touch { .. }
            | LineKind::Plugged { .. }
            | LineKind::Focus(_) => {}
            LineKind::View { size: [width, height], .. } => {
                self.set_view((*width, *height));
                return Ok(());
            }
            LineKind::Remap(file) => {
                // Only a file beside the tape is read, and nothing of it is shown.
                let path = tidy_lever_files::beside(folder, file)
                    .map_err(|problem| format!("the remap `{file}`: {problem}"))?;
                let remap = player_file::read(&path).map_err(|_| format!("the remap `{file}` is no player's file"))?;
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
}
