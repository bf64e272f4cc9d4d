//! Families of controls: keyboards, mice, gamepads, touch panels.

use core::fmt;

/// What kind of device a control sits on.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[cfg_attr(feature = "serde", serde(rename_all = "kebab-case"))]
pub enum Family {
    /// A keyboard; controls are W3C `KeyboardEvent.code` values, by position.
    Keys,
    /// A mouse or another pointing device.
    Mouse,
    /// A gamepad.
    Pad,
    /// A touch screen; its controls are the patches of a profile's panel.
    Touch,
}

impl Family {
    /// All families, in the order in which files and output name them.
    pub const ALL: [Family; 4] = [Family::Keys, Family::Mouse, Family::Pad, Family::Touch];

    /// The family's name in files: `keys`, `mouse`, `pad`, `touch`.
    pub const fn name(self) -> &'static str {
        match self {
            Family::Keys => "keys",
            Family::Mouse => "mouse",
            Family::Pad => "pad",
            Family::Touch => "touch",
        }
    }

    /// The family of that name.
    pub fn from_name(name: &str) -> Option<Family> {
        Family::ALL.into_iter().find(|family| family.name() == name)
    }

    /// The place of the family in tables of four.
    pub(crate) const fn index(self) -> usize {
        self as usize
    }
}

impl fmt::Display for Family {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.pad(self.name())
    }
}
