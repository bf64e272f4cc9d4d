//! Every number of a profile's text: its path, what it means, and where its digits stand.

use alloc::borrow::ToOwned;
use alloc::format;
use alloc::string::{String, ToString};
use alloc::vec::Vec;
use core::ops::Range;

use toml::de::{DeTable, DeValue};

use super::super::keys::{DEVICE_KEYS, GAUGE_KEYS, GUARDED, NumberKey, PATCH_KEYS, SHAPE_KEYS, TableKey, Unit};
use super::super::{ACTION_KEYS, Faults, Kind, Profile, Spot};
use super::lines::Lines;
use super::reader::{Value, number};
use super::words::{self, Word};
use crate::cue::{Cue, Rule};
use crate::time::parse_span;

/// One number of a profile: where it is, what it counts and what it may be.
///
/// A path is an action's name and a key, and goes on into tables, lines and lists: `hop.keep`, `steer.pad_shape.dead`,
/// `skim.within` (a word of its cue), `slip.cue[1].within` (of several cues, counted from 0), `hop.when.grounded` (a term of
/// its gate), `panel.thumb.size`.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct Number {
    /// Its path.
    pub path: String,
    /// What it is, in its unit; spans are in milliseconds, whatever the text writes.
    pub value: f64,
    /// What it counts.
    pub unit: Unit,
    /// The smallest that its place takes.
    pub least: f64,
    /// The largest that its place takes.
    pub most: f64,
    /// What counts where nothing is written, if that is one number.
    pub default: Option<f64>,
    /// What it is for, in a line.
    pub meaning: &'static str,
    /// Where it is written; `None` for a default that the text leaves out.
    pub written: Option<Written>,
}

/// Where a number is written.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Written {
    /// Its line and column.
    pub spot: Spot,
    /// Its digits, with the unit of a span, as bytes of the text.
    pub bytes: Range<usize>,
}

impl Number {
    /// The text with another value in the place of this one, written in the shortest way. `None` if the number is a default
    /// that the text leaves out.
    ///
    /// ```
    /// use tidy_lever::profile::numbers;
    ///
    /// let text = "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\ncue = \"hold 0.3s\"\n";
    /// let all = numbers(text)?;
    /// assert_eq!((all[0].path.as_str(), all[0].value), ("hop.hold", 300.0));
    /// assert!(all[0].replaced(text, 280.0).unwrap().contains("cue = \"hold 280ms\""));
    /// # Ok::<(), tidy_lever::profile::Faults>(())
    /// ```
    pub fn replaced(&self, text: &str, value: f64) -> Option<String> {
        let bytes = self.written.as_ref()?.bytes.clone();
        let (before, behind) = (text.get(..bytes.start)?, text.get(bytes.end..)?);
        let signed = text.get(bytes)?.starts_with('+') && value >= 0.0;
        let unit = if self.unit == Unit::Milliseconds { "ms" } else { "" };
        Some(format!("{before}{}{value}{unit}{behind}", if signed { "+" } else { "" }))
    }
}

/// Every number of a profile's text, in the order of its actions, then of its panel; after an action's own, the tolerances of
/// its cues that it leaves at their defaults.
///
/// ```
/// use tidy_lever::profile::numbers;
///
/// let text = r#"
/// tidy-lever = 1
/// [facts]
/// grounded = true
/// [action.hop]
/// kind = "button"
/// keys = "Space"
/// when = "grounded within 90ms"
/// keep = "0.15s"
/// "#;
/// let told: Vec<String> = numbers(text)?.iter().map(|n| format!("{} {}{}", n.path, n.value, n.unit.name())).collect();
/// assert_eq!(told[..2], ["hop.when.grounded 90ms", "hop.keep 150ms"]);
/// // And of the guards of keyboards, which are not written:
/// assert_eq!(told[2..], ["devices.keys.debounce 8ms", "devices.keys.drop_out 0ms"]);
/// # Ok::<(), tidy_lever::profile::Faults>(())
/// ```
///
/// # Errors
/// [`Faults`] with the places where the text is not TOML. A line that can't be read as a cue or a gate tells no numbers.
pub fn numbers(text: &str) -> Result<Vec<Number>, Faults> {
    // What is not TOML at all is told as ever.
    with_profile(text).map(|(_, numbers)| numbers)
}

/// A profile, and its numbers.
pub(super) fn with_profile(text: &str) -> Result<(Profile, Vec<Number>), Faults> {
    super::read_with(text, |root| of(text, root))
}

/// The numbers of a text's tables.
fn of(text: &str, root: &DeTable<'_>) -> Vec<Number> {
    let mut scan = Scan { text, lines: Lines::new(text), all: Vec::new() };
    let tables = |name: &str| match root.get(name).map(|value| value.get_ref()) {
        Some(DeValue::Table(table)) => in_order(table),
        _ => Vec::new(),
    };
    for (name, action) in tables("action") {
        if let DeValue::Table(action) = action.get_ref() {
            scan.action(&name, action);
        }
    }
    for (name, patch) in tables("panel") {
        if let DeValue::Table(patch) = patch.get_ref() {
            scan.table(&format!("panel.{name}"), patch, PATCH_KEYS);
        }
    }
    let devices = tables("devices");
    for (name, device) in &devices {
        if let DeValue::Table(device) = device.get_ref() {
            scan.table(&format!("devices.{name}"), device, DEVICE_KEYS);
        }
    }
    scan.guards(&tables("action").iter().map(|(_, action)| *action).collect::<Vec<_>>());
    scan.all
}

/// The entries of a table in the order of the text.
fn in_order<'v, 'i>(table: &'v DeTable<'i>) -> Vec<(String, &'v Value<'i>)> {
    let mut all: Vec<_> =
        table.iter().map(|(key, value)| (key.span().start, key.get_ref().to_string(), value)).collect();
    all.sort_by_key(|(start, ..)| *start);
    all.into_iter().map(|(_, name, value)| (name, value)).collect()
}

struct Scan<'t> {
    text: &'t str,
    lines: Lines<'t>,
    all: Vec<Number>,
}

impl Scan<'_> {
    fn put(&mut self, path: String, value: f64, key: NumberKey, bytes: Range<usize>) {
        let written = Some(Written { spot: self.lines.spot(&bytes), bytes });
        let NumberKey { unit, least, most, default, meaning } = key;
        // The second of one name in a line is told apart by its place.
        let same = self.all.iter().filter(|other| other.path == path).count();
        let path = if same > 0 { format!("{path}[{same}]") } else { path };
        self.all.push(Number { path, value, unit, least, most, default, meaning, written });
    }

    /// A value that is one number, or a span in quotes.
    fn plain(&mut self, path: &str, value: &Value<'_>, key: NumberKey) {
        // A span without quotes is a fault.
        if let Some(read) = number(value.get_ref()).filter(|_| key.unit != Unit::Milliseconds) {
            return self.put(path.to_owned(), read, key, value.span());
        }
        if let DeValue::String(text) = value.get_ref()
            && key.unit == Unit::Milliseconds
            && let Ok(span) = parse_span(text)
        {
            let bytes = self.inside(&value.span(), text, 0);
            self.put(path.to_owned(), millis(span), key, bytes);
        }
    }

    /// A list of numbers or spans, each with its name.
    fn named(&mut self, path: &str, value: &Value<'_>, names: &[&str], key: NumberKey) {
        match value.get_ref() {
            DeValue::Array(list) if list.len() == names.len() => {
                for (name, item) in names.iter().zip(list.iter()) {
                    self.plain(&format!("{path}.{name}"), item, key);
                }
            }
            DeValue::Table(table) => {
                for (name, item) in in_order(table).iter().filter(|(name, _)| names.contains(&name.as_str())) {
                    self.plain(&format!("{path}.{name}"), item, key);
                }
            }
            _ => self.plain(path, value, key),
        }
    }

    /// Where a word of a quoted line stands in the text; the search begins so many bytes behind the line's beginning.
    fn inside(&self, line: &Range<usize>, word: &str, from: usize) -> Range<usize> {
        let start = (line.start + from).min(line.end);
        let found = self.text.get(start..line.end).and_then(|raw| raw.find(word)).unwrap_or(0);
        start + found..start + found + word.len()
    }

    fn action(&mut self, name: &str, action: &DeTable<'_>) {
        let first = self.all.len();
        for (key, value) in in_order(action) {
            let path = format!("{name}.{key}");
            match (key.as_str(), value.get_ref()) {
                ("cue", DeValue::Array(list)) => {
                    for (place, line) in list.iter().enumerate() {
                        self.cue(&format!("{path}[{place}]"), line);
                    }
                }
                ("cue", _) => self.cue(name, value),
                ("when", _) => self.gate(&path, value),
                ("gauge", DeValue::Table(gauge)) => self.table(&path, gauge, GAUGE_KEYS),
                ("marks", DeValue::Table(marks)) => {
                    for (mark, span) in in_order(marks) {
                        self.plain(&format!("{path}.{mark}"), span, own_key("marks"));
                    }
                }
                ("stages", DeValue::Table(stages)) => {
                    for (key, value) in in_order(stages) {
                        let own = match key.as_str() {
                            "count" => own_key("stages"),
                            _ => NumberKey::span(None).means("how soon after `after` the next pull must come"),
                        };
                        self.plain(&format!("{path}.{key}"), value, own);
                    }
                }
                (_, DeValue::Table(shape)) if key.ends_with("shape") => self.table(&path, shape, SHAPE_KEYS),
                _ => {
                    let Some(known) = ACTION_KEYS.iter().find(|known| known.name == key) else { continue };
                    let Some(number) = known.number else { continue };
                    let names: &[&str] = match known.name {
                        "paced" => &["least", "most"],
                        "range" => &["low", "rest", "high"],
                        _ => &["across", "up"],
                    };
                    self.named(&path, value, names, number);
                }
            }
        }
        self.defaults(name, action, first);
    }

    /// The numbers of a table of keys.
    fn table(&mut self, path: &str, table: &DeTable<'_>, keys: &'static [TableKey]) {
        for (key, value) in in_order(table) {
            let Some(known) = keys.iter().find(|known| known.name == key) else { continue };
            let (Some(number), path) = (known.number, format!("{path}.{key}")) else { continue };
            match (known.name, value.get_ref()) {
                ("push" | "fade" | "refill" | "drain", DeValue::String(_)) => self.change(&path, value, number),
                ("curve", DeValue::Array(points)) => {
                    let level = NumberKey::level(None).means("a point of the curve");
                    for (place, point) in points.iter().enumerate() {
                        let path = format!("{path}[{place}]");
                        self.named(&path, point, &["in", "out"], level);
                    }
                }
                ("steps" | "push", DeValue::Array(steps)) => {
                    for (place, step) in steps.iter().enumerate() {
                        self.plain(&format!("{path}[{place}]"), step, number);
                    }
                }
                ("at", _) => self.named(&path, value, &["across", "along"], number),
                _ => self.named(&path, value, &["wide", "high"], number),
            }
        }
    }

    /// What a gauge changes by: `+1`, `x0.85 every 100ms`.
    fn change(&mut self, path: &str, value: &Value<'_>, key: NumberKey) {
        let DeValue::String(line) = value.get_ref() else { return };
        let mut from = 0;
        for Word { text: word, before, .. } in words::of(line) {
            let bytes = self.inside(&value.span(), word, from);
            from = bytes.end - value.span().start;
            if before == "every" {
                if let Ok(span) = parse_span(word) {
                    let every = NumberKey::span(None).means("how often that is");
                    self.put(format!("{path}.every"), millis(span), every, bytes);
                }
            } else if let Some(factor) = word.strip_prefix('x') {
                let by = NumberKey { unit: Unit::Factor, least: 0.0, most: 1000.0, ..key };
                if let Ok(factor) = factor.parse() {
                    self.put(path.to_owned(), factor, by, bytes.start + 1..bytes.end);
                }
            } else if let Ok(amount) = word.parse() {
                self.put(path.to_owned(), amount, key, bytes);
            }
        }
    }

    /// The numbers of a cue line, each named by the word that it goes with.
    fn cue(&mut self, path: &str, value: &Value<'_>) {
        let DeValue::String(line) = value.get_ref() else { return };
        if Cue::read(line).is_err() {
            return;
        }
        let mut from = 0;
        for word in words::of(line) {
            let bytes = self.inside(&value.span(), word.text, from);
            from = bytes.end - value.span().start;
            let Some((name, key)) = words::of_cue(&word) else { continue };
            let read = parse_span(word.text).ok().filter(|_| key.unit == Unit::Milliseconds).map(millis);
            if let Some(read) = read.or_else(|| word.text.parse().ok()) {
                self.put(format!("{path}.{name}"), read, key, bytes);
            }
        }
    }

    /// The spans of a gate, each named by the fact that lingers.
    fn gate(&mut self, path: &str, value: &Value<'_>) {
        let DeValue::String(line) = value.get_ref() else { return };
        let (mut from, all) = (0, words::of(line));
        for (place, word) in all.iter().enumerate() {
            let bytes = self.inside(&value.span(), word.text, from);
            from = bytes.end - value.span().start;
            let (Ok(span), "within", 2..) = (parse_span(word.text), word.before, place) else { continue };
            let is_word = place >= 4 && all[place - 3].text == "is";
            let fact = all[if is_word { place - 4 } else { place - 2 }].text;
            let key = NumberKey::span(None).means("how long it still counts after it ended (coyote time)");
            self.put(format!("{path}.{fact}"), millis(span), key, bytes);
        }
    }

    /// The guards' numbers that are left out, of families that any action has controls of.
    fn guards(&mut self, actions: &[&Value<'_>]) {
        for (family, count) in GUARDED {
            let has = |action: &&Value<'_>| matches!(action.get_ref(), DeValue::Table(own) if own.contains_key(family.name()));
            if !actions.iter().any(&has) {
                continue;
            }
            for key in &DEVICE_KEYS[..count] {
                let path = format!("devices.{family}.{}", key.name);
                let (Some(number), Some(value)) = (key.number, key.number.and_then(|number| number.default)) else {
                    continue;
                };
                if !self.all.iter().any(|number| number.path == path) {
                    let NumberKey { unit, least, most, default, meaning } = number;
                    self.all.push(Number { path, value, unit, least, most, default, meaning, written: None });
                }
            }
        }
    }

    /// The tolerances that an action's cues have without its saying so.
    fn defaults(&mut self, name: &str, action: &DeTable<'_>, first: usize) {
        let lines: Vec<&str> = match action.get("cue").map(|value| value.get_ref()) {
            Some(DeValue::String(line)) => Vec::from([line.as_ref()]),
            Some(DeValue::Array(list)) => list.iter().filter_map(|line| line.get_ref().as_str()).collect(),
            _ => Vec::new(),
        };
        let rules: Vec<Rule> = lines.into_iter().filter_map(|line| Some(Cue::read(line).ok()?.rule)).collect();
        let is_stick = action.get("kind").and_then(|kind| kind.get_ref().as_str()) == Some(Kind::Stick.name());
        for key in ACTION_KEYS {
            let own = rules.iter().find_map(|rule| rule.default_of(key.name));
            let default = own.or(key.number.and_then(|number| number.default));
            let forgives = |rule: &Rule| rule.forgives(key.name);
            let applies = rules.iter().any(forgives) || (is_stick && key.name == "settles");
            let (Some(number), Some(value), true) = (key.number, default, applies) else { continue };
            let path = format!("{name}.{}", key.name);
            if !self.all[first..].iter().any(|number| number.path == path) {
                let NumberKey { unit, least, most, meaning, .. } = number;
                self.all.push(Number { path, value, unit, least, most, default, meaning, written: None });
            }
        }
    }
}

/// A span in milliseconds.
fn millis(span: core::time::Duration) -> f64 {
    span.as_micros() as f64 / 1e3
}

/// What the list of keys says of an action's number.
fn own_key(name: &str) -> NumberKey {
    let known = ACTION_KEYS.iter().find(|known| known.name == name);
    known.and_then(|known| known.number).unwrap_or(NumberKey::span(None))
}
