//! Reading a profile from TOML: every key and value with its place, every fault kept.

use alloc::format;
use alloc::string::{String, ToString};
use alloc::vec::Vec;

use toml::Spanned;
use toml::de::{DeTable, DeValue};

use super::keys::PATCH_KEYS;
use super::{Covers, FactEntry, Fault, Faults, ModeEntry, PatchEntry, Placed, Profile, Spot};

mod action;
mod devices;
mod lines;
mod movable;
mod moved;
mod numbers;
mod reader;
mod words;

use lines::Lines;
pub use movable::Movable;
pub use moved::{NotMoved, with_number};
pub use numbers::{Number, Written, numbers};
use reader::{Reader, Table, Value, names, number};

/// The version of the format that this crate reads.
const VERSION: i64 = 1;
/// The most actions, modes, facts or touch controls that are read; a profile can have fewer of most.
const LARGEST_TABLE: usize = 65_000;

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

impl Reader<'_> {
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
