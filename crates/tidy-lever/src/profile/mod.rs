//! Profiles: the plain data that declares a game's actions, from TOML text or built in code.
//!
//! ```text
//!   TOML text ──text──▶ Profile ──Linkage::build──▶ Linkage
//!   builder calls ────▶ (plain data, unchecked)     (checked, immutable)
//! ```
//!
//! A profile may be wrong in many ways at once; nothing is refused here but text that is not TOML at all.
//! [`Linkage::build`](crate::Linkage::build) checks every name, number and rule and reports all [`Fault`]s together.

mod action;
mod builder;
mod devices;
mod fault;
mod keys;
mod panel;
#[cfg(feature = "files")]
mod text;

use alloc::borrow::ToOwned;
use alloc::string::String;
use alloc::vec::Vec;
use core::ops::Deref;

use crate::control::Family;

pub use crate::nearest::nearest;
pub use crate::words::{is_reserved, reserved};
pub(crate) use action::ActiveIn;
pub use action::{Action, CueEntry, Inputs, Kind, Leg, Legs, Opposed, Rest, Stages};
pub use devices::{Centre, DeviceEntry};
#[cfg(all(feature = "files", feature = "std"))]
pub(crate) use fault::cut;
pub use fault::{Fault, Faults, Severity};
#[cfg(all(feature = "files", feature = "std"))]
pub(crate) use keys::ACCESS_KEYS;
#[cfg(all(feature = "files", feature = "std"))]
pub(crate) use keys::LONGEST_TITLE;
pub(crate) use keys::{ACTION_KEYS, DEVICE_KEYS, FARTHEST_MIDDLE, GUARDED, LONGEST_GUARD, title_problem, valid_name};
pub use keys::{ActionKey, KeyTable, NumberKey, TableKey, Unit, action_keys, table_keys};
pub use panel::{Corner, PatchEntry, PatchKind};
#[cfg(feature = "files")]
pub use text::{Movable, NotMoved, Number, Written, numbers, with_number};

pub use crate::direction::Sectors;
pub use crate::gauge::Gauge;
pub use crate::shape::{Bend, DeadKind, Shape};
pub use crate::time::SpanEntry;

/// A place in a profile's text: line and column from 1, or nowhere for a profile built in code.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Spot {
    /// The line, from 1; 0 where there is no text.
    pub line: u32,
    /// The column in characters, from 1; 0 where there is no text.
    pub column: u32,
}

impl Spot {
    /// No place: the profile was built in code.
    pub const NONE: Spot = Spot { line: 0, column: 0 };

    /// Whether there is a place in a text.
    pub const fn is_some(self) -> bool {
        self.line > 0
    }
}

/// A value with its place in the profile's text.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Placed<T> {
    /// What stands there.
    pub value: T,
    /// Where it stands.
    pub spot: Spot,
}

impl<T> Placed<T> {
    /// A value at a place.
    pub fn new(value: T, spot: Spot) -> Placed<T> {
        Placed { value, spot }
    }
}

impl<T> From<T> for Placed<T> {
    fn from(value: T) -> Placed<T> {
        Placed { value, spot: Spot::NONE }
    }
}

impl<T> Deref for Placed<T> {
    type Target = T;
    fn deref(&self) -> &T {
        &self.value
    }
}

impl From<&str> for Placed<SpanEntry> {
    fn from(value: &str) -> Placed<SpanEntry> {
        SpanEntry::from(value).into()
    }
}

impl From<&str> for Placed<String> {
    fn from(value: &str) -> Placed<String> {
        value.to_owned().into()
    }
}

/// Which modes cover which.
#[derive(Clone, Debug, Default, PartialEq)]
#[non_exhaustive]
pub enum Covers {
    /// It covers none.
    #[default]
    Nothing,
    /// It covers every other mode, and the actions that are heard in every mode.
    All,
    /// It covers these.
    Named(Vec<Placed<String>>),
}

/// A mode as declared: its name, whether it is on at first, and what it covers.
#[derive(Clone, Debug, PartialEq)]
#[must_use]
pub struct ModeEntry {
    pub(crate) name: Placed<String>,
    pub(crate) on: bool,
    pub(crate) covers: Covers,
}

impl ModeEntry {
    /// A mode that is off at first and covers nothing.
    pub fn new(name: impl Into<Placed<String>>) -> ModeEntry {
        ModeEntry { name: name.into(), on: false, covers: Covers::Nothing }
    }

    /// On from the start.
    pub fn on(mut self) -> ModeEntry {
        self.on = true;
        self
    }

    /// Covers every other mode while it is on.
    pub fn covers_all(mut self) -> ModeEntry {
        self.covers = Covers::All;
        self
    }

    /// Covers these modes while it is on.
    pub fn covers<T: Into<Placed<String>>>(mut self, names: impl IntoIterator<Item = T>) -> ModeEntry {
        self.covers = Covers::Named(names.into_iter().map(Into::into).collect());
        self
    }
}

/// What a fact can be, and what it is at first.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum FactEntry {
    /// True or false.
    Flag(bool),
    /// One of these words; the first to begin with.
    Words(Vec<Placed<String>>),
    /// The built-in `facing`, with its first value: `left` or `right`.
    Facing(Placed<String>),
}

impl From<bool> for FactEntry {
    fn from(value: bool) -> FactEntry {
        FactEntry::Flag(value)
    }
}

impl<const N: usize> From<[&str; N]> for FactEntry {
    fn from(words: [&str; N]) -> FactEntry {
        FactEntry::Words(words.into_iter().map(Into::into).collect())
    }
}

impl From<&str> for FactEntry {
    fn from(facing: &str) -> FactEntry {
        FactEntry::Facing(facing.into())
    }
}

/// A whole declaration: title, modes, facts, actions and touch panel. Plain data, checked by
/// [`Linkage::build`](crate::Linkage::build).
///
/// ```
/// use tidy_lever::Linkage;
/// use tidy_lever::profile::{Action, Legs, Profile};
///
/// let profile = Profile::new("Otter Post")
///     .action(Action::stick("steer").keys(Legs::cross("KeyW", "KeyA", "KeyS", "KeyD")).pad(["left-stick", "dpad"]))
///     .action(Action::button("hop").keys("Space").pad("south"));
/// let linkage = Linkage::build(&profile)?;
/// assert_eq!(linkage.title(), "Otter Post");
/// # Ok::<(), tidy_lever::profile::Faults>(())
/// ```
#[derive(Clone, Debug, Default, PartialEq)]
#[must_use]
pub struct Profile {
    pub(crate) title: String,
    pub(crate) modes: Vec<ModeEntry>,
    pub(crate) facts: Vec<(Placed<String>, FactEntry)>,
    pub(crate) actions: Vec<Action>,
    pub(crate) panel: Vec<PatchEntry>,
    /// By family.
    pub(crate) devices: [DeviceEntry; 4],
    /// How pads of a name are guarded, over what counts for all pads.
    pub(crate) named_pads: Vec<(String, DeviceEntry)>,
    /// What was wrong with the text itself, to be reported with all the rest.
    pub(crate) read_faults: Vec<Fault>,
}

impl Profile {
    /// An empty profile of that title.
    pub fn new(title: impl Into<String>) -> Profile {
        Profile { title: title.into(), ..Profile::default() }
    }

    /// Reads a profile from TOML.
    ///
    /// Unknown keys and values of the wrong type are not refused yet: they are kept as faults, so that
    /// [`Linkage::build`](crate::Linkage::build) reports them together with everything else.
    ///
    /// # Errors
    /// [`Faults`] with the places where the text is not TOML.
    ///
    /// ```
    /// use tidy_lever::{Linkage, Profile};
    ///
    /// let profile = Profile::from_toml("tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = \"Spaec\"\n")?;
    /// let faults = Linkage::build(&profile).unwrap_err();
    /// assert_eq!(
    ///     faults.to_string(),
    ///     "line 4, column 8: action.hop.keys: `keys` has no control `Spaec`; did you mean `Space`?\n"
    /// );
    /// # Ok::<(), tidy_lever::profile::Faults>(())
    /// ```
    #[cfg(feature = "files")]
    pub fn from_toml(text: &str) -> Result<Profile, Faults> {
        text::read(text)
    }

    /// Adds a mode.
    pub fn mode(mut self, mode: ModeEntry) -> Profile {
        self.modes.push(mode);
        self
    }

    /// Adds a fact with its first value: `true`, `false`, a list of words, or `"left"`/`"right"` for `facing`.
    pub fn fact(mut self, name: impl Into<Placed<String>>, entry: impl Into<FactEntry>) -> Profile {
        self.facts.push((name.into(), entry.into()));
        self
    }

    /// Adds a touch patch.
    pub fn patch(mut self, patch: PatchEntry) -> Profile {
        self.panel.push(patch);
        self
    }

    /// Says how pads of a name are guarded: what is set counts instead of what is set for all pads. In files this is a player's
    /// (`[devices.by_name."NAME"]`), and a seat learns names by [`Seat::name_device`](crate::Seat::name_device).
    ///
    /// ```
    /// use tidy_lever::profile::{Action, DeviceEntry, Profile};
    /// use tidy_lever::{Control, Device, Linkage, Moment};
    ///
    /// let profile = Profile::new("Otter Post")
    ///     .devices_named("Plain pad", DeviceEntry::new().left_stick_centre(0.04, 0.0))
    ///     .action(Action::stick("steer").pad("left-stick"));
    /// let mut seat = Linkage::build(&profile)?.seat(Moment::ZERO);
    /// seat.name_device(Device::default(), "Plain pad")?;
    /// seat.advance(Moment::from_millis(16));
    /// assert_eq!(seat.middle_of(Device::default(), Control::LEFT_STICK), Some((0.04, 0.0)));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn devices_named(mut self, name: impl Into<String>, entry: DeviceEntry) -> Profile {
        let name = name.into();
        match self.named_pads.iter_mut().find(|(known, _)| *known == name) {
            Some((_, known)) => *known = entry,
            None => self.named_pads.push((name, entry)),
        }
        self
    }

    /// Says how the devices of a family are guarded. Touch screens have no guards.
    pub fn devices(mut self, family: Family, entry: DeviceEntry) -> Profile {
        self.devices[family.index()] = entry;
        self
    }

    /// Adds an action.
    pub fn action(mut self, action: Action) -> Profile {
        self.actions.push(action);
        self
    }

    /// The title; empty if none was given.
    pub fn title(&self) -> &str {
        &self.title
    }
}
