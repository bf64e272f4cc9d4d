//! The tape of a round: what seats are fed and told, and the files that it names.

use std::fs::File;
use std::io::BufWriter;
use std::path::{Path, PathBuf};

use anyhow::{Context, Result};
use tidy_lever::Family;
use tidy_lever::tape::{Header, Recorder, Said};
use tidy_lever_files::Companions;

/// A tape under way, or none.
pub(crate) struct Tape {
    pub(crate) recorder: Recorder,
    beside: Option<(PathBuf, Companions)>,
}

impl Tape {
    /// Into a file, or into none.
    pub(crate) fn new(path: Option<&Path>) -> Result<Tape> {
        let families = [("kb", Family::Keys), ("ms", Family::Mouse), ("scr", Family::Touch)];
        let header =
            families.into_iter().fold(Header::new("A round by hand"), |header, (id, family)| header.device(id, family));
        let recorder = Recorder::off(&header);
        let Some(path) = path else { return Ok(Tape { recorder, beside: None }) };
        let problem = || format!("{} can't be written", path.display());
        let file = File::create(path).with_context(problem)?;
        let recorder = recorder.with_output(BufWriter::new(file)).with_context(problem)?;
        Ok(Tape { recorder, beside: Some((path.to_owned(), Companions::of(path))) })
    }

    /// A file that the tape is to name: written beside it, as it is now.
    pub(crate) fn file(&mut self, sort: &str, text: &str, said: fn(String) -> Said) -> Vec<Said> {
        let Some((_, beside)) = &mut self.beside else { return Vec::new() };
        match beside.write(sort, text.as_bytes()) {
            Ok(name) => vec![said(name)],
            Err(problem) => {
                eprintln!("the tape lacks a {sort}: {problem}");
                Vec::new()
            }
        }
    }

    /// Says once why the tape ended early.
    pub(crate) fn complain(&mut self) {
        if let (Some(failure), Some((path, _))) = (self.recorder.take_failure(), &self.beside) {
            eprintln!("{} can't be written any more: {failure}; the tape ends there", path.display());
        }
    }
}
