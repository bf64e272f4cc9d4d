//! Writing a tape line by line.

use std::io::{self, Write};

use super::{Header, Line};

/// Writes a tape to any output: the header at once, then each line as it comes.
///
/// ```
/// use tidy_lever::Moment;
/// use tidy_lever::tape::{Header, Line, LineKind, Writer};
///
/// let mut text = Vec::new();
/// let mut writer = Writer::new(&mut text, &Header::new("a short walk"))?;
/// writer.put(&Line::new(Moment::from_millis(5), 1, LineKind::End))?;
/// assert_eq!(
///     String::from_utf8_lossy(&text),
///     "{\"tape\":\"tidy-lever\",\"version\":1,\"title\":\"a short walk\"}\n{\"at\":5000,\"end\":true}\n"
/// );
/// # Ok::<(), std::io::Error>(())
/// ```
#[derive(Debug)]
pub struct Writer<W> {
    output: W,
}

impl<W: Write> Writer<W> {
    /// Writes the header.
    ///
    /// # Errors
    /// The output's own; `InvalidInput` if the title or a device's id is longer than 200 characters, which no reader takes.
    pub fn new(mut output: W, header: &Header) -> io::Result<Writer<W>> {
        if let Some(problem) = header.problem() {
            return Err(io::Error::new(io::ErrorKind::InvalidInput, problem));
        }
        writeln!(output, "{}", serde_json::to_string(header)?)?;
        Ok(Writer { output })
    }

    /// Writes one line. Lines go in order of their moments.
    ///
    /// # Errors
    /// The output's own.
    pub fn put(&mut self, line: &Line) -> io::Result<()> {
        writeln!(self.output, "{}", line.write())
    }

    /// The output, with all that was written.
    pub fn into_inner(self) -> W {
        self.output
    }

    /// Hands what is written to the output's other side.
    ///
    /// # Errors
    /// The output's own.
    pub fn flush(&mut self) -> io::Result<()> {
        self.output.flush()
    }
}
