//! Reads single values: texts, numbers, words, lists. What is of the wrong type, or no key, becomes a fault with its place.

use alloc::borrow::ToOwned;
use alloc::format;
use alloc::string::{String, ToString};
use alloc::vec::Vec;

use toml::Spanned;
use toml::de::{DeTable, DeValue};

use super::super::keys::{GAUGE_KEYS, TableKey};
use super::super::{ACTION_KEYS, Fault, Placed, Profile, Spot};
use super::lines::Lines;

/// The most entries of a list of names, controls or lines.
const LONGEST_LIST: usize = 20_000;
/// Keys that were renamed, with their new names.
const RENAMED: &[(&str, &str)] = &[("roll", "key_gap")];

pub(super) type Value<'i> = Spanned<DeValue<'i>>;
pub(super) type Table<'i> = DeTable<'i>;

pub(super) struct Reader<'t> {
    pub(super) lines: Lines<'t>,
    pub(super) profile: Profile,
}

/// A number as TOML writes it; `None` for anything else, and for `nan` and `inf`.
pub(super) fn number(value: &DeValue<'_>) -> Option<f64> {
    match value {
        DeValue::Integer(n) => i64::from_str_radix(n.as_str(), n.radix()).ok().map(|n| n as f64),
        DeValue::Float(n) => n.as_str().parse().ok().filter(|n: &f64| n.is_finite()),
        _ => None,
    }
}

pub(super) fn names(keys: &[TableKey]) -> Vec<&'static str> {
    keys.iter().map(|key| key.name).collect()
}

/// Whether a key takes a span.
fn is_span(key: &str) -> bool {
    ACTION_KEYS.iter().any(|known| known.name == key && known.takes.starts_with("a span"))
        || GAUGE_KEYS.iter().any(|known| known.name == key && known.takes.starts_with("a span"))
        || key == "within"
}

fn what(value: &DeValue<'_>) -> &'static str {
    match value {
        DeValue::String(_) => "a text",
        DeValue::Integer(_) => "a whole number",
        DeValue::Float(_) => "a number",
        DeValue::Boolean(_) => "true or false",
        DeValue::Datetime(_) => "a date",
        DeValue::Array(_) => "a list",
        DeValue::Table(_) => "a table",
    }
}

/// The key of a shape that is written as one of an action, by its name or one from habit, with a value to begin with.
fn shape_key(name: &str) -> Option<(&'static str, &'static str)> {
    Some(match name {
        "dead" | "deadzone" | "dead_zone" => ("dead", "0.2"),
        "full" | "outer" => ("full", "0.95"),
        "curve" | "exponent" => ("curve", "1.7"),
        "scale" | "sensitivity" => ("scale", "1.5"),
        "invert" | "inverted" => ("invert", "\"y\""),
        "dead_kind" => ("dead_kind", "\"round\""),
        _ => return None,
    })
}

impl Reader<'_> {
    pub(super) fn spot(&self, value: &Value<'_>) -> Spot {
        self.lines.spot(&value.span())
    }

    pub(super) fn fault(&mut self, spot: Spot, path: &str, problem: impl Into<String>) {
        self.profile.read_faults.push(Fault::new(spot, path, problem));
    }

    /// Says that a value has the wrong type; where nothing better can be told.
    pub(super) fn wrong(&mut self, value: &Value<'_>, path: &str, expected: &str) {
        let problem = format!("expected {expected}, found {}", what(value.get_ref()));
        self.fault(self.spot(value), path, problem);
    }

    pub(super) fn unknown(&mut self, key: &Spanned<alloc::borrow::Cow<'_, str>>, path: &str, known: &[&str]) {
        let name = key.get_ref();
        let spot = self.lines.spot(&key.span());
        let place = if path.is_empty() { "a profile".to_owned() } else { format!("`{path}`") };
        let mut fault =
            Fault::new(spot, path, format!("{place} has no key `{name}`")).near(name, known.iter().copied());
        if let Some((own, sample)) = shape_key(name).filter(|_| path.starts_with("action.") && known.contains(&"shape"))
        {
            fault.problem += &format!("; it is part of the shape: write `shape = {{ {own} = {sample} }}`");
            fault.nearest = None;
            return self.profile.read_faults.push(fault);
        }
        let renamed = RENAMED.iter().find(|(old, new)| old == name && known.contains(new));
        fault.nearest = renamed.map(|(_, new)| (*new).to_owned()).or(fault.nearest);
        if fault.nearest.is_none() {
            fault.problem += &format!("; its keys are {}", known.join(", "));
        }
        self.profile.read_faults.push(fault);
    }

    pub(super) fn table<'v, 'i>(&mut self, value: &'v Value<'i>, path: &str) -> Option<&'v Table<'i>> {
        match value.get_ref() {
            DeValue::Table(table) => Some(table),
            _ => {
                self.wrong(value, path, "a table");
                None
            }
        }
    }

    pub(super) fn text(&mut self, value: &Value<'_>, path: &str) -> Option<Placed<String>> {
        match value.get_ref() {
            DeValue::String(text) => Some(Placed::new(text.to_string(), self.spot(value))),
            other => {
                let of_time = is_span(path.rsplit('.').next().unwrap_or_default());
                match other {
                    DeValue::Integer(n) => {
                        let (what, unit) = if of_time { ("a span in quotes", "ms") } else { ("a text in quotes", "") };
                        let found = n.as_str();
                        let problem = format!("expected {what}, found the number {found}; write \"{found}{unit}\"");
                        self.fault(self.spot(value), path, problem);
                    }
                    DeValue::Float(_) if of_time => {
                        self.wrong(value, path, "a span in quotes, with its unit, as in \"120ms\" or \"0.5s\"");
                    }
                    _ => self.wrong(value, path, "a text in quotes"),
                }
                None
            }
        }
    }

    pub(super) fn flag(&mut self, value: &Value<'_>, path: &str) -> Option<bool> {
        match value.get_ref() {
            DeValue::Boolean(flag) => Some(*flag),
            _ => {
                self.wrong(value, path, "true or false");
                None
            }
        }
    }

    pub(super) fn number(&mut self, value: &Value<'_>, path: &str) -> Option<Placed<f64>> {
        let read = number(value.get_ref());
        if read.is_none() {
            self.wrong(value, path, "a finite number");
        }
        read.map(|n| Placed::new(n, self.spot(value)))
    }

    pub(super) fn numbers<const N: usize>(&mut self, value: &Value<'_>, path: &str) -> Option<[f64; N]> {
        if let DeValue::Array(list) = value.get_ref() {
            let read: Vec<f64> = list.iter().filter_map(|item| number(item.get_ref())).collect();
            if list.len() == N
                && let Ok(numbers) = read.try_into()
            {
                return Some(numbers);
            }
        }
        self.wrong(value, path, &format!("a list of {N} numbers"));
        None
    }

    /// One text, or a list of them.
    pub(super) fn texts(&mut self, value: &Value<'_>, path: &str) -> Option<Vec<Placed<String>>> {
        match value.get_ref() {
            DeValue::String(_) => self.text(value, path).map(|text| alloc::vec![text]),
            DeValue::Array(list) if list.len() > LONGEST_LIST => {
                let problem = format!("a list has at most {LONGEST_LIST} entries, and this one has {}", list.len());
                self.fault(self.spot(value), path, problem);
                None
            }
            DeValue::Array(list) => Some(list.iter().filter_map(|item| self.text(item, path)).collect()),
            _ => {
                self.wrong(value, path, "a text in quotes, or a list of texts");
                None
            }
        }
    }

    /// One of a few words.
    pub(super) fn word<T: Copy>(&mut self, value: &Value<'_>, path: &str, words: &[(&str, T)]) -> Option<T> {
        let text = self.text(value, path)?;
        let found = words.iter().find(|(word, _)| *word == text.value);
        if found.is_none() {
            let names: Vec<&str> = words.iter().map(|(word, _)| *word).collect();
            let list: Vec<String> = names.iter().map(|name| format!("\"{name}\"")).collect();
            let problem = format!("expected {}, found \"{}\"", list.join(" or "), text.value);
            self.profile.read_faults.push(Fault::new(text.spot, path, problem).near(&text.value, names));
        }
        found.map(|(_, value)| *value)
    }
}
