//! A tape that plays instead of hands.

use std::fs::File;
use std::io::BufReader;
use std::path::{Path, PathBuf};

use anyhow::{Context as _, Result, anyhow};
use tidy_lever::Moment;
use tidy_lever::tape::{Line, Reader};
use tidy_lever_pads::script::lines;

use crate::session::Session;

/// A tape under way.
pub(crate) struct Script {
    lines: Reader<BufReader<File>>,
    next: Option<Line>,
    path: PathBuf,
}

impl Script {
    pub(crate) fn begin(path: &Path) -> Result<Script> {
        let mut script = Script { lines: lines(path)?, next: None, path: path.to_owned() };
        script.read_on()?;
        Ok(script)
    }

    fn read_on(&mut self) -> Result<()> {
        self.next = self.lines.next().transpose().with_context(|| self.path.display().to_string())?;
        Ok(())
    }

    /// Hands the session what is due by a moment.
    pub(crate) fn play(&mut self, to: Moment, session: &mut Session) -> Result<()> {
        while let Some(line) = self.next.take_if(|line| line.at <= to) {
            let number = self.lines.line_number();
            session
                .line(&line, self.lines.header())
                .map_err(|problem| anyhow!("{}, line {number}: {problem}", self.path.display()))?;
            self.read_on()?;
        }
        Ok(())
    }

    /// When its next line is due.
    pub(crate) fn next(&self) -> Option<Moment> {
        self.next.as_ref().map(|line| line.at)
    }
}
