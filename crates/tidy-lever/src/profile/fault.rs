//! What is wrong with a profile: where, what was expected, and the nearest right name.

use alloc::string::String;
use alloc::vec::Vec;
use core::fmt;

use super::Spot;

/// Whether a profile can be used in spite of a fault.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Severity {
    /// It can't.
    Fault,
    /// It can, but may not do what was meant.
    Warning,
}

/// One thing wrong with a profile.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct Fault {
    /// Whether it stops the build.
    pub severity: Severity,
    /// Where it stands in the text, if there is one.
    pub spot: Spot,
    /// What it stands in: `action.hop.keys`.
    pub path: String,
    /// What is wrong, and what was expected.
    pub problem: String,
    /// The nearest right name, if one is near.
    pub nearest: Option<String>,
}

/// The most characters of a fault's path and problem: they quote what was written, which may be endless.
const LONGEST_PATH: usize = 200;
const LONGEST_PROBLEM: usize = 1_000;

/// A text of which at most so many characters are kept: its beginning and its end.
pub(crate) fn cut(text: String, most: usize) -> String {
    if text.len() <= most || text.char_indices().nth(most).is_none() {
        return text;
    }
    let start = text.char_indices().nth(most / 2).map_or(0, |(place, _)| place);
    let end = text.char_indices().rev().nth(most / 2 - 1).map_or(text.len(), |(place, _)| place);
    alloc::format!("{}…{}", &text[..start], &text[end..])
}

impl Fault {
    /// A fault without a nearest name.
    pub(crate) fn new(spot: Spot, path: impl Into<String>, problem: impl Into<String>) -> Fault {
        let (path, problem) = (cut(path.into(), LONGEST_PATH), cut(problem.into(), LONGEST_PROBLEM));
        Fault { severity: Severity::Fault, spot, path, problem, nearest: None }
    }

    /// The same as a warning.
    pub(crate) fn warning(mut self) -> Fault {
        self.severity = Severity::Warning;
        self
    }

    /// With the nearest of the right names, if one is near enough to be meant.
    pub(crate) fn near<'a>(mut self, wrong: &str, right: impl IntoIterator<Item = &'a str>) -> Fault {
        self.nearest = crate::nearest::nearest(wrong, right).map(Into::into);
        self
    }
}

impl fmt::Display for Fault {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if self.spot.is_some() {
            write!(f, "line {}, column {}: ", self.spot.line, self.spot.column)?;
        }
        if !self.path.is_empty() {
            write!(f, "{}: ", self.path)?;
        }
        f.write_str(&self.problem)?;
        if let Some(nearest) = &self.nearest {
            write!(f, "; did you mean `{nearest}`?")?;
        }
        Ok(())
    }
}

impl core::error::Error for Fault {}

/// Everything that is wrong with a profile, in the order of its text. Never empty.
#[derive(Clone, PartialEq, thiserror::Error)]
pub struct Faults(pub(crate) Vec<Fault>);

impl Faults {
    /// The faults one by one.
    pub fn iter(&self) -> impl Iterator<Item = &Fault> {
        self.0.iter()
    }

    /// How many there are.
    #[allow(clippy::len_without_is_empty, reason = "never empty")]
    pub fn len(&self) -> usize {
        self.0.len()
    }
}

impl<'f> IntoIterator for &'f Faults {
    type Item = &'f Fault;
    type IntoIter = core::slice::Iter<'f, Fault>;

    fn into_iter(self) -> core::slice::Iter<'f, Fault> {
        self.0.iter()
    }
}

impl IntoIterator for Faults {
    type Item = Fault;
    type IntoIter = alloc::vec::IntoIter<Fault>;

    fn into_iter(self) -> alloc::vec::IntoIter<Fault> {
        self.0.into_iter()
    }
}

impl fmt::Display for Faults {
    /// One line for each fault, at most 20; then how many more there are.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.0.iter().take(MOST_SHOWN).try_for_each(|fault| writeln!(f, "{fault}"))?;
        match self.0.len().saturating_sub(MOST_SHOWN) {
            0 => Ok(()),
            more => writeln!(f, "and {more} more"),
        }
    }
}

impl fmt::Debug for Faults {
    /// As it displays: this is what a `main` that returns the error prints.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        fmt::Display::fmt(self, f)
    }
}

/// The most faults that are shown at once.
const MOST_SHOWN: usize = 20;
