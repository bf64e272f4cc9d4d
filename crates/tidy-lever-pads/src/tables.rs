//! Layouts of pads in a player's file.

use std::collections::BTreeMap;

use tidy_lever::Control;
use tidy_lever::profile::nearest;
use toml_edit::{DocumentMut, Item, Table, value};

use crate::source::{PadName, Place};

/// Pads that a player described: for a pad that no layout is known for, or whose layout is wrong.
///
/// ```toml
/// [pad."Quay pad"]
/// south        = "button-3"
/// left-stick-x = "axis-0"
/// left-stick-y = "-axis-1"    # turned about
/// left-trigger = "axis-5"
/// dpad-up      = "button-12"
/// ```
///
/// The keys are the names of a pad's buttons and triggers, and `left-stick-x`, `left-stick-y`, `right-stick-x`,
/// `right-stick-y`, `dpad-x`, `dpad-y`, `dpad-up`, `dpad-down`, `dpad-left`, `dpad-right`. The numbers are the source's own;
/// [`Setup`](crate::Setup) fills a table by listening. A table stands in the file that holds the player's bindings.
///
/// ```
/// use tidy_lever_pads::PadTables;
///
/// let tables = PadTables::from_toml("[pad.\"Quay pad\"]\nsouth = \"button-3\"\n")?;
/// assert!(tables.has("Quay pad"));
/// let wrong = PadTables::from_toml("[pad.\"Quay pad\"]\nsoutn = \"button-3\"\n").unwrap_err();
/// assert_eq!(wrong.to_string(), "pad.\"Quay pad\".soutn: a pad has no control `soutn`; did you mean `south`?");
/// # Ok::<(), tidy_lever_pads::TableError>(())
/// ```
#[derive(Clone, Debug, Default, PartialEq)]
pub struct PadTables(BTreeMap<String, BTreeMap<String, Raw>>);

/// A button or an axis by its number.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Raw {
    pub(crate) axis: bool,
    pub(crate) number: u32,
    /// Whether the axis counts the other way.
    pub(crate) minus: bool,
}

/// What is wrong with a table.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum TableError {
    /// The text is not TOML.
    #[error("this is not valid TOML: {0}")]
    NotToml(String),
    /// A key or a value that says nothing.
    #[error("{path}: {problem}")]
    Wrong {
        /// Where it stands.
        path: String,
        /// What is wrong, and what would be right.
        problem: String,
    },
}

/// The axes that a table can name.
const AXES: [(&str, Control, bool); 6] = [
    ("left-stick-x", Control::LEFT_STICK, false),
    ("left-stick-y", Control::LEFT_STICK, true),
    ("right-stick-x", Control::RIGHT_STICK, false),
    ("right-stick-y", Control::RIGHT_STICK, true),
    ("dpad-x", Control::DPAD, false),
    ("dpad-y", Control::DPAD, true),
];

/// The arms of the directional pad that a table can name.
const ARMS: [(&str, i8, i8); 4] = [("dpad-up", 0, 1), ("dpad-down", 0, -1), ("dpad-left", -1, 0), ("dpad-right", 1, 0)];

/// What a key of a table stands for.
pub(crate) fn place(key: &str) -> Option<Place> {
    let axis = AXES.iter().find(|(name, ..)| *name == key);
    let arm = ARMS.iter().find(|(name, ..)| *name == key);
    match (axis, arm) {
        (Some((_, of, upright)), _) => Some(Place::Axis { of: *of, upright: *upright }),
        (_, Some((_, x, y))) => Some(Place::Arm { x: *x, y: *y }),
        _ => {
            let control = Control::in_family(tidy_lever::Family::Pad, key)?;
            let single = control.sort() != tidy_lever::control::Sort::Pair;
            single.then_some(Place::At(control))
        }
    }
}

/// All keys that a table may have.
pub(crate) fn keys() -> Vec<String> {
    let buttons = Control::all(tidy_lever::Family::Pad).map(|control| control.name().to_string());
    let all = buttons.filter(|name| place(name).is_some());
    all.chain(AXES.iter().map(|(name, ..)| (*name).to_owned()))
        .chain(ARMS.iter().map(|(name, ..)| (*name).to_owned()))
        .collect()
}

/// A player's file.
fn document(text: &str) -> Result<DocumentMut, TableError> {
    text.parse().map_err(|error: toml_edit::TomlError| TableError::NotToml(error.message().to_owned()))
}

impl Raw {
    /// What a source knows by a number alone; `None` for what it knows by its place.
    pub(crate) fn of(place: Place) -> Option<Raw> {
        let (axis, number) = match place {
            Place::Button(number) => (false, number),
            Place::RawAxis(number) => (true, number),
            _ => return None,
        };
        Some(Raw { axis, number, minus: false })
    }

    /// Whether both are the same button or axis, turned about or not.
    pub(crate) fn is_same(self, other: Raw) -> bool {
        (self.axis, self.number) == (other.axis, other.number)
    }

    fn read(text: &str) -> Option<Raw> {
        let (minus, text) = text.strip_prefix('-').map_or((false, text), |text| (true, text));
        let (axis, number) = match text.strip_prefix("button-") {
            Some(number) if !minus => (false, number),
            _ => (true, text.strip_prefix("axis-")?),
        };
        Some(Raw { axis, number: number.parse().ok()?, minus })
    }

    pub(crate) fn text(self) -> String {
        let kind = if self.axis { "axis" } else { "button" };
        format!("{}{kind}-{}", if self.minus { "-" } else { "" }, self.number)
    }
}

impl PadName {
    /// Whether it has a button or an axis, as far as the system can tell.
    fn has(&self, raw: Raw) -> bool {
        self.has.as_ref().is_none_or(|has| if raw.axis { &has.axes } else { &has.buttons }.contains(&raw.number))
    }
}

/// Whether two places move the same.
fn is_same_place(one: Place, other: Place) -> bool {
    match (one, other) {
        (Place::Arm { y, .. }, Place::Axis { of: Control::DPAD, upright })
        | (Place::Axis { of: Control::DPAD, upright }, Place::Arm { y, .. }) => upright == (y != 0),
        _ => one == other,
    }
}

impl PadTables {
    /// The tables `[pad."NAME"]` of a player's file; whatever else is in it is passed over.
    ///
    /// # Errors
    /// A [`TableError`] for the first thing that is wrong.
    pub fn from_toml(text: &str) -> Result<PadTables, TableError> {
        let document = document(text)?;
        let wrong = |path: &str, problem: String| TableError::Wrong { path: path.to_owned(), problem };
        let mut tables = PadTables::default();
        let Some(pads) = document.get("pad") else { return Ok(tables) };
        let Some(pads) = pads.as_table_like() else {
            return Err(wrong("pad", "write a table for each pad, as in [pad.\"Quay pad\"]".into()));
        };
        for (name, table) in pads.iter() {
            let path = format!("pad.\"{name}\"");
            let Some(table) = table.as_table_like() else {
                return Err(wrong(&path, format!("write a table, as in [pad.\"{name}\"]")));
            };
            let own = tables.0.entry(name.to_owned()).or_default();
            for (key, item) in table.iter() {
                let path = format!("{path}.{key}");
                if place(key).is_none() {
                    let keys = keys();
                    let near = nearest(key, keys.iter().map(String::as_str));
                    let hint = near.map_or(String::new(), |near| format!("; did you mean `{near}`?"));
                    return Err(wrong(&path, format!("a pad has no control `{key}`{hint}")));
                }
                let raw = item.as_str().and_then(Raw::read).ok_or_else(|| {
                    wrong(&path, "write \"button-3\", \"axis-1\", or \"-axis-1\" for one that is turned about".into())
                })?;
                own.insert(key.to_owned(), raw);
            }
        }
        Ok(tables)
    }

    /// Whether a pad is described.
    pub fn has(&self, name: &str) -> bool {
        self.0.contains_key(name)
    }

    /// Puts the tables into a player's file; everything else in it stays as it is.
    ///
    /// # Errors
    /// [`TableError::NotToml`] if the file is none.
    pub fn written_into(&self, text: &str) -> Result<String, TableError> {
        let mut document = document(text)?;
        let pads = document.entry("pad").or_insert_with(|| {
            let mut pads = Table::new();
            pads.set_implicit(true);
            Item::Table(pads)
        });
        for (name, own) in &self.0 {
            let mut table = Table::new();
            for (key, raw) in own {
                table.insert(key, value(raw.text()));
            }
            if let Some(pads) = pads.as_table_like_mut() {
                pads.insert(name, Item::Table(table));
            }
        }
        Ok(document.to_string())
    }

    pub(crate) fn insert(&mut self, name: &str, own: BTreeMap<String, Raw>) {
        self.0.insert(name.to_owned(), own);
    }

    /// What a pad's table says that fits no button or axis of it.
    pub(crate) fn misfits(&self, pad: &PadName) -> Vec<String> {
        let (Some(own), Some(has)) = (self.0.get(&pad.name), &pad.has) else { return Vec::new() };
        let listed = |numbers: &[u32]| numbers.iter().map(u32::to_string).collect::<Vec<String>>().join(", ");
        let wrong = own.iter().filter(|(_, raw)| !pad.has(**raw));
        wrong
            .map(|(key, raw)| {
                let (what, numbers) = if raw.axis { ("axes", &has.axes) } else { ("buttons", &has.buttons) };
                let found =
                    if numbers.is_empty() { format!("no {what}") } else { format!("{what} {}", listed(numbers)) };
                format!(
                    "pad.\"{}\".{key}: this pad has no {}; it has {found}",
                    pad.name,
                    raw.text().trim_start_matches('-')
                )
            })
            .collect()
    }

    /// What a pad's place stands for, with its level: as the player described it, else by the standard layout. `numbered` is the same
    /// place by its number, where it is known.
    pub(crate) fn read(&self, pad: &PadName, seen: (Place, f32), numbered: (Place, f32)) -> Option<(Place, f32)> {
        let Some(own) = self.0.get(&pad.name) else { return Some(seen) };
        let entry = Raw::of(numbered.0).and_then(|found| own.iter().find(|(_, raw)| raw.is_same(found)));
        let Some((key, raw)) = entry else {
            // What the system knows by its place needs no table, unless that gives the place to something else.
            let given = own.iter().filter(|(_, raw)| pad.has(**raw)).filter_map(|(key, _)| place(key));
            let is_taken = { given }.any(|given| is_same_place(given, seen.0));
            return (Raw::of(seen.0).is_none() && !is_taken).then_some(seen);
        };
        let level = if raw.minus { -numbered.1 } else { numbered.1 };
        let place = place(key)?;
        // A trigger that is an axis rests at −1.
        let level = if raw.axis && matches!(place, Place::At(_)) { (level + 1.0) / 2.0 } else { level };
        Some((place, level))
    }
}
