//! A tape that plays instead of hands.

use std::path::Path;

use tidy_lever::tape::{Deck, Line, LineKind};
use tidy_lever_files::text_beside;
use tidy_lever_pads::script::{Script, ScriptError};

use super::{Game, PLACES};
use crate::menu::Menu;
use crate::tuning::Tuned;

/// A control goes down from here on.
const DOWN: f32 = 0.5;

impl Game {
    /// A tape is to play instead of hands.
    pub(crate) fn begin_tape(&mut self, path: &Path) -> Result<Script, ScriptError> {
        let script = Script::begin(path)?;
        let deck = Deck::new(script.header()).profile(self.tuned.text.as_str()).remap(self.remap.clone());
        self.deck = Some((deck, script.folder().to_owned()));
        Ok(script)
    }

    /// A line of the tape: what hands did is played, what a game told is this game's own business.
    pub(crate) fn line(&mut self, line: &Line) -> Result<(), String> {
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
            LineKind::Remap(_) | LineKind::Profile(_) | LineKind::Number { .. } => return self.go_over(line),
            _ => return Ok(()),
        }
        while self.table.seats().count() < number && number <= PLACES {
            self.sit(&[]);
        }
        let (Some((deck, _)), Some(seat)) = (&mut self.deck, self.table.seat_mut(number)) else {
            return Err(format!("seat {number} doesn't play here; there are two"));
        };
        deck.put(line, seat).map_err(|problem| problem.to_string())
    }

    /// The game goes over to what the tape's game went over to.
    fn go_over(&mut self, line: &Line) -> Result<(), String> {
        let Some((deck, folder)) = &mut self.deck else { return Ok(()) };
        let read = |file: &str| text_beside(folder, file).map_err(|problem| problem.to_string());
        deck.after(line, read).map_err(|problem| problem.to_string())?;
        if matches!(line.kind, LineKind::Remap(_)) {
            let remap = deck.player_file().clone();
            self.menu = Menu { row: self.menu.row, ..Menu::default() };
            return self.wear(remap).map_err(|broken| broken.to_string());
        }
        // The menu may have changed the player's file meanwhile.
        let text = deck.text().to_owned();
        let tuned = Tuned::new(&text, &self.remap).map_err(|broken| broken.to_string())?;
        let said = match line.kind {
            LineKind::Number { .. } => vec![line.kind.clone()],
            _ => self.tape.file("profile", &text, LineKind::Profile),
        };
        self.relink(tuned, &said);
        Ok(())
    }
}
