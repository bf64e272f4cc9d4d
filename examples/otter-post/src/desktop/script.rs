//! A tape that the game plays instead of hands.

use std::fs::File;
use std::io::BufReader;
use std::path::{Path, PathBuf};

use anyhow::{Context, Result};
use tidy_lever::Moment;
use tidy_lever::tape::{Line, Reader};
use tidy_lever_pads::script::lines;

use crate::game::Game;

/// A tape that plays instead of hands.
pub(crate) struct Script {
    lines: Reader<BufReader<File>>,
    next: Option<Line>,
    path: PathBuf,
    folder: PathBuf,
}

impl Script {
    /// Opens a tape, and tells the game of its devices.
    pub(crate) fn begin(path: &Path, game: &mut Game) -> Result<Script> {
        let lines = lines(path)?;
        game.begin_tape(lines.header());
        let folder = path.parent().map(Path::to_owned).unwrap_or_default();
        let mut script = Script { lines, next: None, path: path.to_owned(), folder };
        script.read_on()?;
        Ok(script)
    }

    fn read_on(&mut self) -> Result<()> {
        self.next = self.lines.next().transpose().with_context(|| self.path.display().to_string())?;
        Ok(())
    }

    /// Hands the game what is due by a moment.
    ///
    /// # Errors
    /// With the line's number, if it can't be read or played.
    pub(crate) fn play(&mut self, to: Moment, game: &mut Game) -> Result<()> {
        while let Some(line) = self.next.take_if(|line| line.at <= to) {
            let number = self.lines.line_number();
            game.line(&line, &self.folder)
                .map_err(|problem| anyhow::anyhow!("{}, line {number}: {problem}", self.path.display()))?;
            self.read_on()?;
        }
        Ok(())
    }

    /// Whether all of it was played.
    pub(crate) fn is_over(&self) -> bool {
        self.next.is_none()
    }
}
