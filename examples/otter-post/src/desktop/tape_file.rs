//! A round's tape as a file, with the files that it names beside it.

use std::io::BufWriter;
use std::path::{Path, PathBuf};

use anyhow::{Context, Result};
use tidy_lever_files::{Companions, Outputs};

use crate::recorder::{Beside, Tape};

struct Folder {
    tape: PathBuf,
    companions: Companions,
}

impl Beside for Folder {
    fn put(&mut self, sort: &str, text: &str) -> Result<String, String> {
        self.companions.write(sort, text.as_bytes()).map_err(|problem| problem.to_string())
    }

    fn tape(&self) -> String {
        self.tape.display().to_string()
    }
}

/// A tape into a file.
pub(crate) fn open(path: &Path, outputs: &mut Outputs) -> Result<Tape> {
    let problem = || format!("{} can't be written", path.display());
    let file = outputs.create(path)?;
    let folder = Folder { tape: path.to_owned(), companions: Companions::of(path) };
    Tape::new(|recorder| recorder.output(BufWriter::new(file)), folder).with_context(problem)
}
