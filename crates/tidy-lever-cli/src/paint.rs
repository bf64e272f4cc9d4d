//! How it is printed: colours by meaning, and no control characters from anybody else.
//!
//! Colours reach terminals only. A title or a file's name can hold any character: all
//! but line ends and tabs that would steer a terminal are shown escaped. A style is therefore put into a text as a mark that
//! no text can hold by chance, and becomes a colour at the very end.

use std::collections::hash_map::RandomState;
use std::fmt::Display;
use std::hash::{BuildHasher, Hasher};
use std::io::{self, Write};
use std::sync::LazyLock;

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
pub(crate) fn steers(c: char) -> bool {
    (c.is_control() && c != '\n' && c != '\t')
        || matches!(c, '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}' | OPEN..='\u{fdef}')
}

/// A text with its marks as colours, or without them, and everything else harmless.
pub(crate) fn harmless(text: &str, coloured: bool) -> String {
    let mut out = String::with_capacity(text.len());
    let (mut rest, mut open) = (text, Style::new());
    while let Some(c) = rest.chars().next() {
        if let Some((style, length)) = mark(rest) {
            match style {
                _ if !coloured => {}
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

/// How wide tables and pictures may be: the terminal's width, from 80 to 200 columns. `None` where standard output is no
/// terminal, so that they are as wide as they need.
pub(crate) fn width() -> Option<usize> {
    columns().map(|width| width.clamp(80, 200))
}

/// The columns of the terminal, which may say that it has no rows.
fn columns() -> Option<usize> {
    #[cfg(unix)]
    let columns = rustix::termios::tcgetwinsize(io::stdout()).map(|size| usize::from(size.ws_col)).ok();
    #[cfg(not(unix))]
    let columns = terminal_size::terminal_size_of(io::stdout()).map(|(width, _)| usize::from(width.0));
    columns.filter(|columns| *columns > 0)
}

/// A share in the colour of how good it is.
pub(crate) fn rated(share: f64, text: impl Display) -> String {
    let tone = match () {
        () if share >= 0.97 => GOOD,
        () if share >= 0.9 => WARN,
        () => BAD,
    };
    in_style(tone, text)
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

/// The most lines that a table may have for each of its rows before its cells are put one below the other.
const MOST_LINES: usize = 2;

/// Writes a table, its heads fainter than its rows; in a terminal too narrow for it, each row as a paragraph.
pub(crate) fn rows(out: &mut impl Write, table: &Table) -> anyhow::Result<()> {
    if width().is_some_and(|width| is_too_narrow(table, width)) {
        return paragraphs(out, table);
    }
    for (row, line) in table.lines().enumerate() {
        let line = line.trim_end();
        writeln!(out, "{}", if row == 0 { in_style(FAINT, line) } else { line.to_owned() })?;
    }
    Ok(())
}

/// Whether a table of this width would break its names, or need many lines for each row.
fn is_too_narrow(table: &Table, width: usize) -> bool {
    let longest_word = |column: usize| {
        let cells = table.row_iter().filter_map(|row| row.cell_iter().nth(column));
        let words = cells.flat_map(|cell| cell.content().split([' ', '\n']).map(|word| word.chars().count()).max());
        words.max().unwrap_or(0) + 2
    };
    let least: usize = (0..table.column_iter().count()).map(longest_word).sum();
    least > width || table.lines().count() > MOST_LINES * (table.row_count() + 1)
}

/// Writes each row of a table as a paragraph: its first cell, then the others behind their heads, as many on a line as fit.
fn paragraphs(out: &mut impl Write, table: &Table) -> anyhow::Result<()> {
    let cells = |row: &comfy_table::Row| row.cell_iter().map(|cell| cell.content()).collect::<Vec<String>>();
    let heads = table.header().map(cells).unwrap_or_default();
    let most = width().unwrap_or(usize::MAX).saturating_sub(INDENT);
    for row in table.row_iter() {
        let cells = cells(row);
        let Some((name, others)) = cells.split_first() else { continue };
        writeln!(out, "{}", in_style(NAME, name))?;
        let mut taken = 0;
        for (head, cell) in heads.iter().skip(1).zip(others) {
            let words: Vec<&str> = cell.split_whitespace().collect();
            if matches!(words[..], [] | ["-"]) {
                continue;
            }
            let cell = words.join(" ");
            let own = head.chars().count() + 1 + cell.chars().count();
            let gap = match taken {
                0 => format!("{:INDENT$}", ""),
                taken if taken + 3 + own <= most => "   ".to_owned(),
                _ => {
                    taken = 0;
                    format!("\n{:INDENT$}", "")
                }
            };
            taken += own + if taken > 0 { 3 } else { 0 };
            let all = fitted(&format!("{head}{NO_BREAK}{cell}"), 2 * INDENT);
            let (_, value) = all.split_once(NO_BREAK).unwrap_or_default();
            write!(out, "{gap}{} {value}", in_style(FAINT, head))?;
        }
        writeln!(out)?;
    }
    Ok(())
}

/// How far a paragraph's lines are indented; what is broken in them, twice as far.
const INDENT: usize = 2;
/// Between a head and its cell while the two are broken into lines.
const NO_BREAK: char = '\u{a0}';

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

/// A line on standard error; where that is closed there is nobody to tell. While tapes play side by side it is told when it is
/// its tape's turn.
pub(crate) fn tell(line: impl Display) {
    let Some(line) = crate::out::aside(line.to_string()) else { return };
    let _ = writeln!(AutoStream::auto(io::stderr()), "{}", harmless(&line, true));
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
        let told = format!("{} \u{1b}[31mred\u{9b}0m\u{202e}\r\u{7f}\t\n{OPEN}1{CLOSE}", in_style(BAD, "bad"));
        let (told, bare) = (harmless(&told, true), harmless(&told, false));
        assert_eq!(bare, told.replace("\u{1b}[1m\u{1b}[31mbad\u{1b}[0m", "bad"));
        assert_eq!(
            told,
            "\u{1b}[1m\u{1b}[31mbad\u{1b}[0m \\u{1b}[31mred\\u{9b}0m\\u{202e}\\u{d}\\u{7f}\t\n\\u{fdd0}1\\u{fdd1}"
        );
    }
}
