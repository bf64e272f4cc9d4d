//! Reading a tape line by line.

use std::io::BufRead;

use super::raw::in_one_line;
use super::{Header, Line, LineError, LineKind, VERSION};
use crate::control::Family;
use crate::profile::cut;

/// The longest line there may be, in bytes.
const LONGEST_LINE: usize = 64 * 1024;

/// So many characters of what stands in a tape are repeated in a message.
const LONGEST_QUOTE: usize = 60;

/// What is wrong with a tape, and at which line.
#[derive(Debug, thiserror::Error)]
#[error("line {line}: {problem}")]
#[non_exhaustive]
pub struct TapeError {
    /// The line's number, from 1.
    pub line: u64,
    /// What is wrong.
    pub problem: TapeProblem,
}

/// What can be wrong with a line of a tape.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum TapeProblem {
    /// The first line is not a header.
    #[error("a tape begins with its header, as in {{\"tape\":\"tidy-lever\",\"version\":1}}; found {0}")]
    NoHeader(String),
    /// The tape was made by a newer version.
    #[error("the tape has version {0}; this version of tidy-lever can read up to {VERSION}; update tidy-lever")]
    Newer(u32),
    /// The header declares a device of no family.
    #[error("`{0}` is not a family of devices; they are keys, mouse, pad and touch")]
    NoFamily(String),
    /// The header's title or a device's name is too long.
    #[error("{0}")]
    TooLongName(String),
    /// The line can't be read.
    #[error("{0}")]
    Unreadable(LineError),
    /// The line is too long to be one of a tape.
    #[error("the line is longer than {LONGEST_LINE} bytes, the longest that a tape may have")]
    TooLong,
    /// There is more behind the end.
    #[error("the line comes after the end of the tape")]
    AfterEnd,
    /// The input could not be read.
    #[error("the input could not be read")]
    Input(#[from] std::io::Error),
}

/// Reads a tape from any buffered input: the header at once, then line by line.
///
/// A tape cut in half, in the middle of a line or between two, plays up to the cut: the lines end there, and
/// [`Reader::cut_at`] says so.
///
/// ```
/// use tidy_lever::tape::Reader;
///
/// let text = "{\"tape\":\"tidy-lever\",\"version\":1}\n{\"at\":5,\"focus\":true}\n{\"at\":9,\"foc";
/// let mut reader = Reader::new(text.as_bytes())?;
/// assert_eq!(reader.by_ref().count(), 1);
/// assert_eq!(reader.cut_at(), Some(3));
/// # Ok::<(), tidy_lever::tape::TapeError>(())
/// ```
#[derive(Debug)]
pub struct Reader<R> {
    input: R,
    header: Header,
    buffer: Vec<u8>,
    number: u64,
    ended: bool,
    cut: Option<u64>,
    failed: bool,
}

impl<R: BufRead> Reader<R> {
    /// Reads the header.
    ///
    /// # Errors
    /// A [`TapeError`] at line 1 if there is none, or one of a newer version.
    pub fn new(input: R) -> Result<Reader<R>, TapeError> {
        let header = Header::new("");
        let mut reader =
            Reader { input, header, buffer: Vec::new(), number: 0, ended: false, cut: None, failed: false };
        let error = |problem| TapeError { line: 1, problem };
        let found = match reader.next_text().map_err(error)? {
            Some((text, _)) => text.to_owned(),
            None => return Err(error(TapeProblem::NoHeader("an empty file".into()))),
        };
        let header: Header = serde_json::from_str(&found).map_err(|problem| {
            let start: String = found.chars().take(60).collect();
            let profile = found.starts_with('#') || found.starts_with('[') || found.contains("tidy-lever =");
            let hint = if profile {
                "this looks like a profile, which comes before the tape".into()
            } else {
                in_one_line(&problem)
            };
            error(TapeProblem::NoHeader(format!("`{start}` ({hint})")))
        })?;
        if header.tape != "tidy-lever" {
            return Err(error(TapeProblem::NoHeader(format!("a tape of `{}`", cut(header.tape, LONGEST_QUOTE)))));
        }
        if header.version > VERSION {
            return Err(error(TapeProblem::Newer(header.version)));
        }
        if let Some(device) = header.devices.iter().find(|device| Family::from_name(&device.family).is_none()) {
            return Err(error(TapeProblem::NoFamily(cut(device.family.clone(), LONGEST_QUOTE))));
        }
        if let Some(problem) = header.problem() {
            return Err(error(TapeProblem::TooLongName(problem)));
        }
        reader.header = header;
        Ok(reader)
    }

    /// The header.
    pub fn header(&self) -> &Header {
        &self.header
    }

    /// The number of the last line read, from 1.
    pub fn line_number(&self) -> u64 {
        self.number
    }

    /// Where the tape was cut off, once all of it is read: the number of the line where its end is missing.
    pub fn cut_at(&self) -> Option<u64> {
        self.cut
    }

    /// The next line that is not blank, and whether its line's end is there.
    fn next_text(&mut self) -> Result<Option<(&str, bool)>, TapeProblem> {
        loop {
            self.buffer.clear();
            let mut limited = std::io::Read::take(&mut self.input, LONGEST_LINE as u64 + 1);
            if limited.read_until(b'\n', &mut self.buffer)? == 0 {
                return Ok(None);
            }
            self.number += 1;
            if self.buffer.len() > LONGEST_LINE {
                return Err(TapeProblem::TooLong);
            }
            if self.number == 1 && self.buffer.starts_with(b"\xef\xbb\xbf") {
                self.buffer.drain(..3);
            }
            if !self.buffer.trim_ascii().is_empty() {
                break;
            }
        }
        let whole = self.buffer.ends_with(b"\n");
        let text = std::str::from_utf8(&self.buffer);
        match text {
            Ok(text) => Ok(Some((text.trim(), whole))),
            // A character cut in two at the very end is a cut, not an error.
            Err(error) if !whole && error.error_len().is_none() => Ok(Some(("", false))),
            Err(error) => {
                let problem = format!("not valid UTF-8 from byte {} on", error.valid_up_to());
                Err(TapeProblem::Unreadable(problem.into()))
            }
        }
    }

    fn next_line(&mut self) -> Result<Option<Line>, TapeProblem> {
        let ended = self.ended;
        let read = match self.next_text()? {
            Some((text, whole)) => (Line::read(text), whole),
            None => {
                self.cut = (!ended).then_some(self.number + 1);
                return Ok(None);
            }
        };
        match read {
            _ if ended => Err(TapeProblem::AfterEnd),
            (Ok(line), _) => {
                self.ended = line.kind == LineKind::End;
                Ok(Some(line))
            }
            (Err(_), false) => {
                self.cut = Some(self.number);
                Ok(None)
            }
            (Err(problem), true) => Err(TapeProblem::Unreadable(problem)),
        }
    }
}

impl<R: BufRead> Iterator for Reader<R> {
    type Item = Result<Line, TapeError>;

    /// The next line; ends after the first error, as what follows can't be trusted.
    fn next(&mut self) -> Option<Self::Item> {
        if self.failed || self.cut.is_some() {
            return None;
        }
        let read = self.next_line().transpose();
        let read = read.map(|read| read.map_err(|problem| TapeError { line: self.number, problem }));
        self.failed = matches!(read, Some(Err(_)) | None);
        read
    }
}
