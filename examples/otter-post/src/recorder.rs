//! The tape of a round: what seats are fed and told, and the files that it names.

use tidy_lever::Family;
use tidy_lever::tape::{Header, LineKind, Recorder};

/// Where the files go that a tape names.
pub(crate) trait Beside {
    /// Puts one more file of a sort (`profile`, `remap`) there; the name that the tape is to call it by.
    ///
    /// # Errors
    /// Says why it can't be put there.
    fn put(&mut self, sort: &str, text: &str) -> Result<String, String>;

    /// What the tape is called where it can't be written any more.
    fn tape(&self) -> String;
}

/// A tape under way, or none.
pub(crate) struct Tape {
    pub(crate) recorder: Recorder,
    beside: Option<Box<dyn Beside>>,
}

impl Tape {
    /// No tape.
    pub(crate) fn off() -> Tape {
        let families = [("kb", Family::Keys), ("ms", Family::Mouse), ("scr", Family::Touch)];
        let header =
            families.into_iter().fold(Header::new("A round by hand"), |header, (id, family)| header.device(id, family));
        Tape { recorder: Recorder::off(&header), beside: None }
    }

    /// A recorder that is made to record, and where the files go that its tape names.
    pub(crate) fn new<E>(
        on: impl FnOnce(Recorder) -> Result<Recorder, E>,
        beside: impl Beside + 'static,
    ) -> Result<Tape, E> {
        Ok(Tape { recorder: on(Tape::off().recorder)?, beside: Some(Box::new(beside)) })
    }

    /// A file that the tape is to name, as it is now.
    pub(crate) fn file(&mut self, sort: &str, text: &str, said: fn(String) -> LineKind) -> Vec<LineKind> {
        let Some(beside) = &mut self.beside else { return Vec::new() };
        match beside.put(sort, text) {
            Ok(name) => vec![said(name)],
            Err(problem) => {
                eprintln!("the tape lacks a {sort}: {problem}");
                Vec::new()
            }
        }
    }

    /// Says once why the tape ended early.
    pub(crate) fn complain(&mut self) {
        if let (Some(failure), Some(beside)) = (self.recorder.take_failure(), &self.beside) {
            eprintln!("{} can't be written any more: {failure}; the tape ends there", beside.tape());
        }
    }
}
