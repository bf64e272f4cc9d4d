//! What is printed: colours by meaning, no control characters from anybody else, and no fuss when nobody reads any more.
//!
//! Colours reach terminals only; `anstream` takes them out elsewhere. A title or a file's name can hold any character: all
//! but line ends and tabs that would steer a terminal are shown escaped. A style is therefore put into a text as a mark that
//! no text can hold by chance, and becomes a colour at the very end.

use std::collections::hash_map::RandomState;
use std::fmt::Display;
use std::hash::{BuildHasher, Hasher};
use std::io::{self, BufWriter, ErrorKind, Write};
use std::sync::{LazyLock, Mutex};

use anstream::AutoStream;
use anstyle::{AnsiColor, Style};
use comfy_table::{ContentArrangement, Table, presets};

/// One of the styles.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Tone(u8);

pub(crate) const BAD: Tone = Tone(1);
pub(crate) const WARN: Tone = Tone(2);
pub(crate) const GOOD: Tone = Tone(3);
pub(crate) const NAME: Tone = Tone(4);
pub(crate) const HEAD: Tone = Tone(5);
pub(crate) const FAINT: Tone = Tone(6);

const STYLES: [Style; 6] = [
    AnsiColor::Red.on_default().bold(),
    AnsiColor::Yellow.on_default(),
    AnsiColor::Green.on_default(),
    AnsiColor::Cyan.on_default(),
    Style::new().bold(),
    Style::new().dimmed(),
];

/// Unicode keeps these for a program's own use.
const OPEN: char = '\u{fdd0}';
const CLOSE: char = '\u{fdd1}';

/// What makes a mark ours, another one each time.
static KEY: LazyLock<String> = LazyLock::new(|| format!("{:x}", RandomState::new().build_hasher().finish()));

/// A text in a style.
pub(crate) fn in_style(tone: Tone, text: impl Display) -> String {
    let key = &*KEY;
    format!("{OPEN}{key}{}{CLOSE}{text}{OPEN}{key}0{CLOSE}", tone.0)
}

/// The style that a text begins with, and how long its mark is; `None` ends one.
fn mark(text: &str) -> Option<(Option<Style>, usize)> {
    let rest = text.strip_prefix(OPEN)?.strip_prefix(KEY.as_str())?;
    let (number, rest) = rest.split_at_checked(1)?;
    let rest = rest.strip_prefix(CLOSE)?;
    let number: usize = number.parse().ok()?;
    let style = number.checked_sub(1).map(|number| STYLES.get(number).copied().unwrap_or_default());
    Some((style, text.len() - rest.len()))
}

/// Whether a character steers a terminal, or turns the direction of what is read.
fn steers(c: char) -> bool {
    (c.is_control() && c != '\n' && c != '\t')
        || matches!(c, '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}' | OPEN..='\u{fdef}')
}

/// A text with its marks as colours, and everything else harmless.
fn harmless(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    let (mut rest, mut open) = (text, Style::new());
    while let Some(c) = rest.chars().next() {
        if let Some((style, length)) = mark(rest) {
            match style {
                Some(style) => {
                    open = style;
                    out += &style.render().to_string();
                }
                None => out += &open.render_reset().to_string(),
            }
            rest = &rest[length..];
            continue;
        }
        if steers(c) {
            out.extend(c.escape_unicode());
        } else {
            out.push(c);
        }
        rest = &rest[c.len_utf8()..];
    }
    out
}

/// Why standard output could not be written to; the first reason.
static FAILED: Mutex<Option<ErrorKind>> = Mutex::new(None);

/// What standard output failed by in all, for the command's end: `None` if all was written.
pub(crate) fn failure() -> Option<ErrorKind> {
    FAILED.lock().ok().and_then(|failed| *failed)
}

/// Standard output. Where it is closed or full, what follows is dropped, and the command comes to its end.
pub(crate) struct Out {
    inner: BufWriter<AutoStream<io::Stdout>>,
    failed: bool,
}

/// How wide tables and pictures may be: the terminal's width, from 80 to 200 columns. `None` where standard output is no
/// terminal, so that they are as wide as they need.
pub(crate) fn width() -> Option<usize> {
    terminal_size::terminal_size_of(io::stdout()).map(|(width, _)| usize::from(width.0).clamp(80, 200))
}

/// An empty table, as wide as it needs; in a terminal it fits that.
pub(crate) fn table() -> Table {
    let mut table = Table::new();
    table.load_preset(presets::NOTHING).set_content_arrangement(ContentArrangement::Disabled);
    if let Some(width) = width() {
        table.set_content_arrangement(ContentArrangement::Dynamic).set_width(width as u16);
    }
    table
}

/// Writes a table, its heads fainter than its rows.
pub(crate) fn rows(out: &mut impl Write, table: &Table) -> anyhow::Result<()> {
    for (row, line) in table.lines().enumerate() {
        let line = line.trim_end();
        writeln!(out, "{}", if row == 0 { in_style(FAINT, line) } else { line.to_owned() })?;
    }
    Ok(())
}

/// A text in lines of at most this many columns, broken between words; a word that is longer keeps a line of its own.
pub(crate) fn wrapped(text: &str, width: usize) -> Vec<String> {
    let mut lines = vec![String::new()];
    for word in text.split(' ') {
        let Some(last) = lines.last_mut() else { break };
        if last.is_empty() {
            *last = word.into();
        } else if last.chars().count() + 1 + word.chars().count() <= width {
            *last += " ";
            *last += word;
        } else {
            lines.push(word.into());
        }
    }
    lines
}

/// A text in lines that fit the terminal; lines after the first begin with `indent` spaces.
pub(crate) fn fitted(text: &str, indent: usize) -> String {
    let width = width().map_or(usize::MAX, |width| width.saturating_sub(indent).max(20));
    wrapped(text, width).join(&format!("\n{:indent$}", ""))
}

/// Standard output, for one command.
pub(crate) fn out() -> Out {
    Out { inner: BufWriter::with_capacity(1 << 16, AutoStream::auto(io::stdout())), failed: false }
}

impl Out {
    /// Whether nobody reads any more.
    pub(crate) fn is_closed(&self) -> bool {
        self.failed
    }

    fn took(&mut self, result: io::Result<()>) {
        if let (Err(error), Ok(mut failed)) = (result, FAILED.lock()) {
            self.failed = true;
            failed.get_or_insert(error.kind());
        }
    }
}

impl Write for Out {
    /// Takes whole characters: all that is printed comes as texts.
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        if !self.failed {
            let text = String::from_utf8_lossy(bytes);
            let plain = !text.chars().any(steers);
            let result =
                if plain { self.inner.write_all(bytes) } else { self.inner.write_all(harmless(&text).as_bytes()) };
            self.took(result);
        }
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        if !self.failed {
            let result = self.inner.flush();
            self.took(result);
        }
        Ok(())
    }
}

impl Drop for Out {
    fn drop(&mut self) {
        let _ = self.flush();
        if self.failed {
            // What is left in the buffer would be tried once more.
            let empty = BufWriter::with_capacity(0, AutoStream::never(io::stdout()));
            let (_, _) = std::mem::replace(&mut self.inner, empty).into_parts();
        }
    }
}

/// One line of JSON, whose texts steer no terminal, either.
pub(crate) fn json(line: &str) -> String {
    let mut out = String::with_capacity(line.len());
    for c in line.chars() {
        if steers(c) {
            // Only within a text: `serde_json` escapes what stands outside.
            let mut units = [0; 2];
            out.extend(c.encode_utf16(&mut units).iter().map(|unit| format!("\\u{unit:04x}")));
        } else {
            out.push(c);
        }
    }
    out
}

/// A line on standard error; where that is closed there is nobody to tell.
pub(crate) fn tell(line: impl Display) {
    let _ = writeln!(AutoStream::auto(io::stderr()), "{}", harmless(&line.to_string()));
}

/// A note on standard error.
pub(crate) fn note(text: impl Display) {
    tell(format!("{} {text}", in_style(WARN, "note:")));
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn styles_become_colours_and_nothing_else_steers_a_terminal() {
        let told =
            harmless(&format!("{} \u{1b}[31mred\u{9b}0m\u{202e}\r\u{7f}\t\n{OPEN}1{CLOSE}", in_style(BAD, "bad")));
        assert_eq!(
            told,
            "\u{1b}[1m\u{1b}[31mbad\u{1b}[0m \\u{1b}[31mred\\u{9b}0m\\u{202e}\\u{d}\\u{7f}\t\n\\u{fdd0}1\\u{fdd1}"
        );
    }
}
