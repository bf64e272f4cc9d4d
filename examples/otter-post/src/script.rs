//! Tapes as the game reads them: for playing instead of hands, and as scripts of a simulated pad.

use std::fs::File;
use std::io::BufReader;
use std::path::{Path, PathBuf};

use anyhow::{Context, Result};
use tidy_lever::Moment;
use tidy_lever::tape::{Line, Reader};

use crate::game::Game;

/// The lines of a tape, one by one.
pub(crate) fn lines(path: &Path) -> Result<Reader<BufReader<File>>> {
    let file = File::open(path).with_context(|| format!("{} can't be opened", path.display()))?;
    Reader::new(BufReader::new(file)).with_context(|| path.display().to_string())
}

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
