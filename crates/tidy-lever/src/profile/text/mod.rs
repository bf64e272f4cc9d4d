//! Reading a profile from TOML: every key and value with its place, every fault kept.

use alloc::borrow::ToOwned;
use alloc::format;
use alloc::string::{String, ToString};
use alloc::vec::Vec;
use core::ops::Range;

use toml::Spanned;
use toml::de::{DeTable, DeValue};

use super::keys::{GAUGE_KEYS, PATCH_KEYS, TableKey};
use super::{ACTION_KEYS, Covers, FactEntry, Fault, Faults, ModeEntry, PatchEntry, Placed, Profile, Spot};

mod action;
mod devices;
mod movable;
mod moved;
mod numbers;
mod words;

pub use movable::Movable;
pub use moved::{NotMoved, with_number};
pub use numbers::{Number, Written, numbers};

/// The version of the format that this crate reads.
const VERSION: i64 = 1;
/// The most entries of a list of names, controls or lines.
const LONGEST_LIST: usize = 20_000;
/// The most actions, modes, facts or touch controls that are read; a profile can have fewer of most.
const LARGEST_TABLE: usize = 65_000;

/// Keys that were renamed, with their new names.
const RENAMED: &[(&str, &str)] = &[("roll", "key_gap")];

pub(super) fn read(text: &str) -> Result<Profile, Faults> {
    read_with(text, |_| ()).map(|(profile, ())| profile)
}

/// Reads a profile, and something else of its tables besides.
fn read_with<T>(text: &str, other: impl FnOnce(&DeTable<'_>) -> T) -> Result<(Profile, T), Faults> {
    let lines = Lines::new(text);
    let (root, errors) = DeTable::parse_recoverable(text);
    if !errors.is_empty() {
        if text.trim_start().starts_with('{') && text.lines().next().is_some_and(|line| line.contains("\"tape\"")) {
            let problem = "this is a tape, not a profile; a command takes the profile first, then the tape";
            return Err(Faults(alloc::vec![Fault::new(Spot { line: 1, column: 1 }, "", problem)]));
        }
        let mut faults: Vec<Fault> = Vec::new();
        let mut again = Vec::new();
        for error in &errors {
            let spot = error.span().map_or(Spot::NONE, |span| lines.spot(&span));
            if error.message() != "duplicate key" {
                faults.push(Fault::new(spot, "", format!("this is not valid TOML: {}", error.message())));
                continue;
            }
            // The keys of a table that is defined twice are told with the table.
            if again.contains(&lines.table_of(spot.line)) {
                continue;
            }
            let (what, first) = lines.first_of(spot);
            if what.starts_with('[') {
                again.push(Some(spot.line));
            }
            let first = first.map_or(String::new(), |line| format!("; the first is at line {line}"));
            faults.push(Fault::new(spot, "", format!("`{what}` is defined twice{first}; keep one of them")));
        }
        return Err(Faults(faults));
    }
    let mut reader = Reader { lines, profile: Profile::default() };
    reader.root(&root);
    Ok((reader.profile, other(root.get_ref())))
}

/// Where lines begin, to turn byte offsets into lines and columns.
struct Lines<'t> {
    text: &'t str,
    starts: Vec<usize>,
}

impl<'t> Lines<'t> {
    pub(super) fn new(text: &'t str) -> Lines<'t> {
        let starts = core::iter::once(0).chain(text.match_indices('\n').map(|(i, _)| i + 1)).collect();
        Lines { text, starts }
    }

    /// A line, from 1.
    pub(super) fn line(&self, number: u32) -> &'t str {
        let start = self.starts.get(number.saturating_sub(1) as usize).copied().unwrap_or(self.text.len());
        self.text[start..].lines().next().unwrap_or_default()
    }

    /// The line of the table's head that a line belongs to.
    pub(super) fn table_of(&self, line: u32) -> Option<u32> {
        (1..=line).rev().find(|line| self.line(*line).trim_start().starts_with('['))
    }

    /// What a line defines, a table or a key, and the line that defined it before.
    pub(super) fn first_of(&self, spot: Spot) -> (String, Option<u32>) {
        let head = |line: &str| line.trim().split('#').next().unwrap_or_default().trim_end().to_owned();
        let own = head(self.line(spot.line));
        if own.starts_with('[') {
            let first = (1..spot.line).find(|line| head(self.line(*line)) == own);
            return (own, first);
        }
        let key = |line: u32| self.line(line).split_once('=').map(|(key, _)| key.trim().to_owned());
        let own = key(spot.line);
        let from = self.table_of(spot.line).map_or(1, |head| head + 1);
        let first = (from..spot.line).find(|line| key(*line) == own);
        (own.unwrap_or_default(), first)
    }

    pub(super) fn spot(&self, span: &Range<usize>) -> Spot {
        let offset = span.start.min(self.text.len());
        let line = self.starts.partition_point(|start| *start <= offset);
        let start = self.starts[line - 1];
        let column = self.text.get(start..offset).map_or(0, |before| before.chars().count());
        Spot { line: line as u32, column: column as u32 + 1 }
    }
}

type Value<'i> = Spanned<DeValue<'i>>;
type Table<'i> = DeTable<'i>;

struct Reader<'t> {
    lines: Lines<'t>,
    profile: Profile,
}

/// A number as TOML writes it; `None` for anything else, and for `nan` and `inf`.
fn number(value: &DeValue<'_>) -> Option<f64> {
    match value {
        DeValue::Integer(n) => i64::from_str_radix(n.as_str(), n.radix()).ok().map(|n| n as f64),
        DeValue::Float(n) => n.as_str().parse().ok().filter(|n: &f64| n.is_finite()),
        _ => None,
    }
}

fn names(keys: &[TableKey]) -> Vec<&'static str> {
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

    pub(super) fn root(&mut self, root: &Spanned<Table<'_>>) {
        const KEYS: [&str; 7] = ["tidy-lever", "title", "modes", "facts", "action", "panel", "devices"];
        let mut versioned = false;
        for (key, value) in root.get_ref() {
            match key.get_ref().as_ref() {
                "tidy-lever" => {
                    versioned = true;
                    match number(value.get_ref()) {
                        Some(n) if n == VERSION as f64 => {}
                        Some(n) if n > VERSION as f64 => {
                            let problem = format!(
                                "format {n} is newer than this version can read (up to {VERSION}); update tidy-lever"
                            );
                            self.fault(self.spot(value), "tidy-lever", problem);
                        }
                        _ => self.wrong(value, "tidy-lever", "the format's number, 1"),
                    }
                }
                "title" => {
                    if let Some(title) = self.text(value, "title") {
                        match super::title_problem(&title) {
                            Some(problem) => self.fault(title.spot, "title", problem),
                            None => self.profile.title = title.value,
                        }
                    }
                }
                "modes" => self.each(value, "modes", Reader::mode),
                "facts" => self.each(value, "facts", Reader::fact),
                "action" => self.each(value, "action", Reader::action),
                "panel" => self.each(value, "panel", Reader::patch),
                "devices" => self.devices(value),
                _ => self.unknown(key, "", &KEYS),
            }
        }
        if !versioned {
            self.fault(
                Spot { line: 1, column: 1 },
                "",
                "a profile must begin with its format: write `tidy-lever = 1` in the first line",
            );
        }
        // Tables come sorted by name; a profile means the order of its text.
        self.profile.modes.sort_by_key(|mode| mode.name.spot);
        self.profile.facts.sort_by_key(|(name, _)| name.spot);
        self.profile.actions.sort_by_key(|action| action.name.spot);
        self.profile.panel.sort_by_key(|patch| patch.name.spot);
    }

    /// Reads each entry of a table of named things.
    pub(super) fn each(&mut self, value: &Value<'_>, path: &str, one: fn(&mut Self, Placed<String>, &Value<'_>, &str)) {
        if let DeValue::Array(list) = value.get_ref() {
            // The names alone, as other formats have them.
            let name = list.iter().find_map(|item| item.get_ref().as_str()).filter(|name| super::valid_name(name));
            let name = name.unwrap_or("name");
            let problem = match path {
                "facts" => format!("`facts` is a table: write `[facts]`, and below it `{name} = false`"),
                "modes" => format!("`modes` is a table: write `[modes.{name}]`, and below it `on = true`"),
                _ => format!("`{path}` is a table: write `[{path}.{name}]`, and its keys below it"),
            };
            return self.fault(self.spot(value), path, problem);
        }
        let Some(table) = self.table(value, path) else { return };
        if table.len() > LARGEST_TABLE {
            let problem = format!("a table has at most {LARGEST_TABLE} entries, and this one has {}", table.len());
            return self.fault(self.spot(value), path, problem);
        }
        if path == "action" {
            self.profile.actions.reserve_exact(table.len());
        }
        for (key, value) in table {
            let name = Placed::new(key.get_ref().to_string(), self.lines.spot(&key.span()));
            let path = format!("{path}.{}", name.value);
            one(self, name, value, &path);
        }
    }

    pub(super) fn mode(&mut self, name: Placed<String>, value: &Value<'_>, path: &str) {
        let mut mode = ModeEntry::new(name);
        let Some(table) = self.table(value, path) else { return };
        for (key, value) in table {
            let inner = format!("{path}.{}", key.get_ref());
            match key.get_ref().as_ref() {
                "on" => mode.on = self.flag(value, &inner).unwrap_or_default(),
                "covers" => {
                    mode.covers = match value.get_ref() {
                        DeValue::String(word) if word == "all" => Covers::All,
                        _ => Covers::Named(self.texts(value, &inner).unwrap_or_default()),
                    }
                }
                _ => self.unknown(key, path, &["on", "covers"]),
            }
        }
        self.profile.modes.push(mode);
    }

    pub(super) fn fact(&mut self, name: Placed<String>, value: &Value<'_>, path: &str) {
        let entry = match value.get_ref() {
            DeValue::Boolean(flag) => FactEntry::Flag(*flag),
            DeValue::Array(_) => FactEntry::Words(self.texts(value, path).unwrap_or_default()),
            DeValue::String(word) if name.value == "facing" => {
                FactEntry::Facing(Placed::new(word.to_string(), self.spot(value)))
            }
            _ => return self.wrong(value, path, "true, false or a list of words, as in [\"idle\", \"walk\"]"),
        };
        self.profile.facts.push((name, entry));
    }

    pub(super) fn patch(&mut self, name: Placed<String>, value: &Value<'_>, path: &str) {
        let Some(table) = self.table(value, path) else { return };
        let spot = name.spot;
        let empty = || Placed::new(String::new(), spot);
        let mut patch =
            PatchEntry { name, kind: empty(), from: empty(), at: [f64::NAN; 2], size: [f64::NAN; 2], floats: false };
        for (key, value) in table {
            let inner = format!("{path}.{}", key.get_ref());
            match key.get_ref().as_ref() {
                "kind" => patch.kind = self.text(value, &inner).unwrap_or_default(),
                "from" => patch.from = self.text(value, &inner).unwrap_or_default(),
                "at" => patch.at = self.numbers(value, &inner).unwrap_or_default(),
                "size" => {
                    patch.size = match value.get_ref() {
                        DeValue::Array(_) => self.numbers(value, &inner).unwrap_or([0.1; 2]),
                        _ => self.number(value, &inner).map_or([0.1; 2], |n| [n.value; 2]),
                    };
                }
                "floats" => patch.floats = self.flag(value, &inner).unwrap_or_default(),
                _ => self.unknown(key, path, &names(PATCH_KEYS)),
            }
        }
        self.profile.panel.push(patch);
    }
}
