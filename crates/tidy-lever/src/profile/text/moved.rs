//! A profile's text with one number moved: only its own digits change, or one line is added.

use alloc::borrow::ToOwned;
use alloc::format;
use alloc::string::{String, ToString};

use toml::de::{DeTable, DeValue};

use super::super::keys::Unit;
use super::numbers::{Number, numbers};
use crate::nearest::nearest;
use crate::time::parse_span;

/// Why a number was not moved. The text is as it was.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum NotMoved {
    /// The text has no number of this path.
    #[error("the profile has no number `{path}`{}", nearest.as_ref().map(|near| format!("; did you mean `{near}`?")).unwrap_or_default())]
    NoNumber {
        /// The path.
        path: String,
        /// The nearest right one.
        nearest: Option<String>,
    },
    /// The value is not a number of that unit.
    #[error("`{value}` is not a value for `{path}`; write {}", if *unit == Unit::Milliseconds { "a span, as in 150ms" } else { "a number" })]
    NoValue {
        /// The path.
        path: String,
        /// What was to be put there.
        value: String,
        /// What the number counts.
        unit: Unit,
    },
    /// The key is not written, and where it would go can't be told safely.
    #[error(
        "`{path}` is not written in the profile, and its action is not written as a table of its own; add the key by hand"
    )]
    NoPlace {
        /// The path.
        path: String,
    },
}

impl Number {
    /// A value as a profile writes it, in this number's unit: `150ms` for a span, `0.4` for others.
    pub fn written_as(&self, value: f64) -> String {
        if self.unit == Unit::Milliseconds { format!("{value}ms") } else { value.to_string() }
    }

    /// What a text as a profile writes it says for this number; spans in milliseconds. `None` if it says nothing.
    pub fn read(&self, text: &str) -> Option<f64> {
        if self.unit == Unit::Milliseconds {
            return parse_span(text).ok().map(|span| span.as_micros() as f64 / 1e3);
        }
        text.trim().parse::<f64>().ok().filter(|value| value.is_finite())
    }
}

/// The text of a profile with one number set, by its path and what a profile writes: `("hop.keep", "150ms")`.
///
/// A number that is written changes in its own digits alone. A default that the text leaves out is added as a line of its own
/// after the action's other keys, with the line's end that the text has (CRLF stays CRLF). The rest of the text stays as it
/// is, to the byte. Whether the profile is right with that value is for [`Profile::from_toml`](crate::Profile::from_toml) to
/// say.
///
/// ```
/// use tidy_lever::profile::with_number;
///
/// let text = "tidy-lever = 1\r\n[action.skim]\r\nkind = \"button\"\r\nkeys = \"KeyK\"\r\n\
///             cue = \"steer rolls down, right then skim within 350ms\"\r\n";
/// let moved = with_number(text, "skim.within", "400ms")?;
/// assert_eq!(moved, text.replace("350ms", "400ms"));
/// let added = with_number(text, "skim.early", "60ms")?;
/// assert_eq!(added, format!("{text}early = \"60ms\"\r\n"));
/// assert!(with_number(text, "skim.wihtin", "400ms").unwrap_err().to_string().ends_with("did you mean `skim.within`?"));
/// # Ok::<(), tidy_lever::profile::NotMoved>(())
/// ```
///
/// # Errors
/// [`NotMoved`] for a path that the text hasn't got, or a value that is not a number of its unit.
pub fn with_number(text: &str, path: &str, value: &str) -> Result<String, NotMoved> {
    let all = numbers(text).unwrap_or_default();
    let Some(number) = all.iter().find(|number| number.path == path) else {
        let nearest = nearest(path, all.iter().map(|number| number.path.as_str())).map(ToOwned::to_owned);
        return Err(NotMoved::NoNumber { path: path.to_owned(), nearest });
    };
    let Some(read) = number.read(value) else {
        return Err(NotMoved::NoValue { path: path.to_owned(), value: value.to_owned(), unit: number.unit });
    };
    if let Some(moved) = number.replaced(text, read) {
        return Ok(moved);
    }
    added(text, number, read).ok_or_else(|| NotMoved::NoPlace { path: path.to_owned() })
}

/// The text with a key added to an action's table. `None` where that can't be done safely.
fn added(text: &str, number: &Number, value: f64) -> Option<String> {
    let (path, key) = number.path.rsplit_once('.')?;
    let (root, _) = DeTable::parse_recoverable(text);
    let quoted = if number.unit == Unit::Milliseconds { "\"" } else { "" };
    let entry = format!("{key} = {quoted}{}{quoted}", number.written_as(value));
    let of = |table: &str, name: &str| match root.get_ref().get(table)?.get_ref() {
        DeValue::Table(table) => table.get(name),
        _ => None,
    };
    let own = match path.split_once('.') {
        Some(("devices", family)) => match of("devices", family) {
            Some(own) => own,
            // A family of its own, in a table of its own.
            None => {
                let ending = if text.contains("\r\n") { "\r\n" } else { "\n" };
                let gap = if text.ends_with('\n') { "" } else { ending };
                let result = format!("{text}{gap}{ending}[devices.{family}]{ending}{entry}{ending}");
                return is_all(text, &result, number, value).then_some(result);
            }
        },
        _ => of("action", path)?,
    };
    let DeValue::Table(table) = own.get_ref() else { return None };
    // Keys of the table's own lines, not those of `[action.hop.gauge]` further down.
    let is_own = |after: usize| text[after..].trim_start_matches([' ', '\t']).starts_with('=');
    let ends =
        table.iter().filter(|(name, _)| is_own(name.span().end)).map(|(name, value)| (name.span(), value.span().end));
    let (name, end) = ends.max_by_key(|(_, end)| *end)?;
    let line = text[..name.start].rfind('\n').map_or(0, |place| place + 1);
    let indent = &text[line..name.start];
    let (at, added) = if indent.trim().is_empty() {
        // Behind the last of its keys, and what its line says besides.
        match text[end..].find('\n') {
            Some(place) => {
                let ending = if text[..end + place].ends_with('\r') { "\r\n" } else { "\n" };
                (end + place + 1, format!("{indent}{entry}{ending}"))
            }
            None => {
                let ending = if text.contains("\r\n") { "\r\n" } else { "\n" };
                (text.len(), format!("{ending}{indent}{entry}{ending}"))
            }
        }
    } else if text[own.span()].trim_start().starts_with('{') {
        (end, format!(", {entry}"))
    } else {
        return None;
    };
    let result = format!("{}{added}{}", &text[..at], &text[at..]);
    is_all(text, &result, number, value).then_some(result)
}

/// Whether the number stands in a text now, and no other is another than before.
fn is_all(text: &str, result: &str, number: &Number, value: f64) -> bool {
    let plain = |text: &str| -> Option<alloc::vec::Vec<(String, f64)>> {
        let all = numbers(text).ok()?;
        Some(
            all.into_iter()
                .filter(|other| other.path != number.path)
                .map(|number| (number.path, number.value))
                .collect(),
        )
    };
    let read = numbers(result).ok().and_then(|all| all.into_iter().find(|other| other.path == number.path));
    read.is_some_and(|read| read.value == value && read.written.is_some())
        && plain(text).map(sorted) == plain(result).map(sorted)
}

fn sorted(mut all: alloc::vec::Vec<(String, f64)>) -> alloc::vec::Vec<(String, f64)> {
    all.sort_by(|one, other| one.0.cmp(&other.0));
    all
}
