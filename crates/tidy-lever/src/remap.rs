//! Remaps: a player's file with key bindings and settings, applied over a profile. It holds only differences, and keeps
//! entries that this version does not understand.
//!
//! ```text
//!   profile ──┐
//!             ├─ over ─▶ linkage, and what was left alone
//!   remap ────┘
//! ```

mod access;
mod clash;
mod devices;
mod lay;
mod target;

use alloc::format;
use alloc::string::{String, ToString};
use alloc::vec::Vec;

use toml_edit::{Array, DocumentMut, InlineTable, Item, Table, TableLike, Value};

pub use clash::{Bound, Clash, Conflict, Refused};
pub use target::{Target, TargetError};

use crate::access::Access;
use crate::control::Family;
use crate::linkage::Linkage;
use crate::profile::{Fault, Faults, Spot};

/// The version of the format that this crate writes.
const VERSION: i64 = 1;
/// The largest file that is read, in bytes.
const LARGEST_REMAP: usize = 1 << 20;
/// How many steps back there are.
const MOST_UNDO: usize = 64;

/// A player's file: bindings and accessibility settings that differ from the profile's.
///
/// ```
/// use tidy_lever::Profile;
/// use tidy_lever::remap::{Clash, Remap};
///
/// let profile = Profile::from_toml("tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n")?;
/// let mut remap = Remap::new();
/// remap.bind(&profile, &"hop.keys".parse()?, &["KeyJ"], Clash::Refuse)?;
/// assert_eq!(remap.to_toml(), "tidy-lever = 1\n\n[action.hop]\nkeys = \"KeyJ\"\n");
/// let played = remap.over(&profile)?;
/// assert_eq!(played.linkage.action("hop").unwrap().controls()[0].name, "keys:KeyJ");
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
#[must_use]
pub struct Remap {
    document: DocumentMut,
    /// What it was before each change, newest last.
    past: Vec<DocumentMut>,
}

impl PartialEq for Remap {
    /// Whether both say the same; what can be undone doesn't count.
    fn eq(&self, other: &Remap) -> bool {
        self.to_toml() == other.to_toml()
    }
}

#[cfg(feature = "serde")]
impl serde::Serialize for Remap {
    /// As the text of the file.
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(&self.to_toml())
    }
}

#[cfg(feature = "serde")]
impl<'de> serde::Deserialize<'de> for Remap {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Remap, D::Error> {
        let text = String::deserialize(deserializer)?;
        Remap::from_toml(&text).map_err(serde::de::Error::custom)
    }
}

impl Default for Remap {
    fn default() -> Remap {
        Remap::new()
    }
}

/// A profile with a remap applied.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Overlaid {
    /// The linkage to make seats from.
    pub linkage: Linkage,
    /// Entries that have no effect, because this profile has no place for them. They stay in the file.
    pub left_alone: Vec<Fault>,
}

impl Remap {
    /// One that changes nothing.
    pub fn new() -> Remap {
        let mut document = DocumentMut::new();
        document["tidy-lever"] = toml_edit::value(VERSION);
        Remap { document, past: Vec::new() }
    }

    /// Reads a player's file. Entries that this version does not understand stay in it.
    ///
    /// # Errors
    /// [`Faults`] with the place where the text is not valid TOML.
    pub fn from_toml(text: &str) -> Result<Remap, Faults> {
        let text = text.strip_prefix('\u{feff}').unwrap_or(text);
        if text.len() > LARGEST_REMAP {
            let problem = format!("a player's file has at most {LARGEST_REMAP} bytes, and this one has {}", text.len());
            return Err(Faults(alloc::vec![Fault::new(Spot::NONE, "", problem)]));
        }
        match text.parse::<DocumentMut>() {
            Ok(document) => Ok(Remap { document, past: Vec::new() }),
            Err(error) => {
                let at = error.span().map_or(0, |span| span.start.min(text.len()));
                let before = text.get(..at).unwrap_or(text);
                let line = before.matches('\n').count() as u32 + 1;
                let column = before.rsplit('\n').next().unwrap_or_default().chars().count() as u32 + 1;
                let problem = format!("this is not valid TOML: {}", error.message());
                Err(Faults(alloc::vec![Fault::new(Spot { line, column }, "", problem)]))
            }
        }
    }

    /// The file's text.
    pub fn to_toml(&self) -> String {
        self.document.to_string()
    }

    /// Whether it changes nothing.
    pub fn is_empty(&self) -> bool {
        let (entries, _) = self.entries();
        entries.is_empty() && self.access() == Access::default()
    }

    /// The accessibility settings; a value out of range counts as the default.
    pub fn access(&self) -> Access {
        access::read(&self.document).0
    }

    /// Changes the accessibility settings.
    pub fn set_access(&mut self, access: &Access) {
        self.remember();
        access::write(&mut self.document, access);
    }

    fn remember(&mut self) {
        if self.past.len() == MOST_UNDO {
            self.past.remove(0);
        }
        self.past.push(self.document.clone());
    }

    /// Binds controls without checking for conflicts; an empty list unbinds. [`bind`](Remap::bind) checks.
    pub fn set(&mut self, target: &Target, controls: &[&str]) {
        self.remember();
        self.put(target, controls);
    }

    fn put(&mut self, target: &Target, controls: &[&str]) {
        let value = match controls {
            [one] => Value::from(*one),
            many => Value::from(many.iter().copied().collect::<Array>()),
        };
        let actions = self.document.entry("action").or_insert_with(|| {
            let mut table = Table::new();
            table.set_implicit(true);
            Item::Table(table)
        });
        let Some(actions) = actions.as_table_like_mut() else { return };
        let action = actions.entry(&target.action).or_insert_with(|| Item::Table(Table::new()));
        let Some(action) = action.as_table_like_mut() else { return };
        match target.leg {
            None => drop(action.insert(target.family.name(), Item::Value(value))),
            Some(leg) => {
                let legs = action
                    .entry(target.family.name())
                    .or_insert_with(|| Item::Value(Value::InlineTable(InlineTable::new())));
                if !legs.is_table_like() {
                    *legs = Item::Value(Value::InlineTable(InlineTable::new()));
                }
                if let Some(legs) = legs.as_table_like_mut() {
                    legs.insert(leg.name(), Item::Value(value));
                }
            }
        }
    }

    /// Undoes the last change. Returns whether there was one.
    pub fn undo(&mut self) -> bool {
        let before = self.past.pop();
        before.map(|document| self.document = document).is_some()
    }

    /// Resets an action to the profile's controls. Returns whether anything changed. Its other entries stay.
    pub fn reset(&mut self, action: &str) -> bool {
        let before = self.document.clone();
        let mut changed = false;
        if let Some(actions) = self.document.get_mut("action").and_then(Item::as_table_like_mut) {
            if let Some(table) = actions.get_mut(action).and_then(Item::as_table_like_mut) {
                for family in Family::ALL {
                    changed |= table.remove(family.name()).is_some();
                }
            }
            let empty = actions.get(action).and_then(Item::as_table_like).is_some_and(TableLike::is_empty);
            if empty {
                actions.remove(action);
            }
        }
        if changed {
            self.remember_as(before);
        }
        changed
    }

    /// Resets one family of an action, or one leg, to the profile's controls. Returns whether anything changed.
    pub fn reset_target(&mut self, target: &Target) -> bool {
        let before = self.document.clone();
        let actions = self.document.get_mut("action").and_then(Item::as_table_like_mut);
        let Some(table) = actions.and_then(|all| all.get_mut(&target.action)).and_then(Item::as_table_like_mut) else {
            return false;
        };
        let family = target.family.name();
        let changed = match target.leg {
            None => table.remove(family).is_some(),
            Some(leg) => {
                let legs = table.get_mut(family).and_then(Item::as_table_like_mut);
                legs.is_some_and(|legs| legs.remove(leg.name()).is_some())
            }
        };
        if table.get(family).and_then(Item::as_table_like).is_some_and(TableLike::is_empty) {
            table.remove(family);
        }
        if table.is_empty()
            && let Some(actions) = self.document.get_mut("action").and_then(Item::as_table_like_mut)
        {
            actions.remove(&target.action);
        }
        if changed {
            self.remember_as(before);
        }
        changed
    }

    fn remember_as(&mut self, before: DocumentMut) {
        self.remember();
        if let Some(last) = self.past.last_mut() {
            *last = before;
        }
    }

    /// Resets all controls and settings to the profile's. Other entries of the file stay.
    pub fn reset_all(&mut self) {
        let (entries, _) = self.entries();
        let before = self.document.clone();
        for entry in entries {
            self.reset_target(&entry.target);
            self.past.pop();
        }
        self.document.remove("access");
        self.remember_as(before);
    }

    /// The actions whose controls it changes.
    pub fn changed(&self) -> Vec<Target> {
        self.entries().0.into_iter().map(|entry| entry.target).collect()
    }
}
