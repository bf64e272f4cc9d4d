//! Cues: what must happen in time before an action pulls. One short line each.
//!
//! A line names its subject in front, or means the action itself: `press`, `release`, `use release`.
//!
//! To add a rule: a file here with its struct, a variant of [`Rule`], a line in [`Cue::read`], and what it does in
//! `hears`.

mod press;
mod release;

use alloc::borrow::ToOwned;
use alloc::string::String;
use alloc::vec::Vec;
use core::fmt;

use crate::history::Cause;

/// A cue as declared: which action it listens to, and for what.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Cue {
    /// The action whose signal it listens to; the action itself if none is named.
    pub subject: Option<String>,
    /// What must happen.
    pub rule: Rule,
}

/// What must happen for a cue to pull.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Rule {
    /// `press`: at each going down; on until let go.
    #[default]
    Press,
    /// `release`: at letting go, an instant.
    Release,
}

/// Why a text is no cue line.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[error("{problem}")]
pub struct CueError {
    /// At which character, from 0.
    pub at: usize,
    /// What was found and what would fit.
    pub problem: String,
}

impl Cue {
    /// Reads a cue line.
    ///
    /// ```
    /// use tidy_lever::cue::{Cue, Rule};
    ///
    /// let cue = Cue::read("use release")?;
    /// assert_eq!((cue.subject.as_deref(), cue.rule), (Some("use"), Rule::Release));
    /// assert_eq!(cue.to_string(), "use release");
    /// assert!(Cue::read("relaese").is_err());
    /// # Ok::<(), tidy_lever::cue::CueError>(())
    /// ```
    ///
    /// # Errors
    /// A [`CueError`] that points at the character and says what would fit.
    pub fn read(line: &str) -> Result<Cue, CueError> {
        let words: Vec<&str> = line.split_whitespace().collect();
        let rule = |word: &str| match word {
            "press" => Some(Rule::Press),
            "release" => Some(Rule::Release),
            _ => None,
        };
        match words.as_slice() {
            [word] if let Some(rule) = rule(word) => Ok(Cue { subject: None, rule }),
            [subject, word] if let Some(rule) = rule(word) => Ok(Cue { subject: Some((*subject).to_owned()), rule }),
            _ => Err(CueError { at: 0, problem: alloc::format!("`{line}` is no cue; expected `press` or `release`") }),
        }
    }
}

impl fmt::Display for Cue {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if let Some(subject) = &self.subject {
            write!(f, "{subject} ")?;
        }
        f.write_str(match self.rule {
            Rule::Press => "press",
            Rule::Release => "release",
        })
    }
}

/// What a subject's signal did.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Edge {
    /// One of its controls went down.
    Down,
    /// The last of its controls was let go, for this reason.
    Up(Cause),
}

/// What a rule makes of an edge.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Verdict {
    /// Nothing.
    None,
    /// It is met. `lasting`: it stays on until let go.
    Met { lasting: bool },
    /// What was on ends, for this reason.
    Ended(Cause),
}

impl Rule {
    /// Hears an edge of its subject.
    pub(crate) fn hears(self, edge: Edge) -> Verdict {
        match self {
            Rule::Press => press::hears(edge),
            Rule::Release => release::hears(edge),
        }
    }
}
