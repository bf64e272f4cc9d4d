//! Causes: why something ended, or went up.

use core::fmt;

/// Why something ended or went up.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[non_exhaustive]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[cfg_attr(feature = "serde", serde(rename_all = "kebab-case"))]
pub enum Cause {
    /// The control was released.
    #[default]
    LetGo,
    /// A mode covered the action, or the last of its modes was switched off.
    Covered,
    /// The game's window lost its focus.
    FocusLost,
    /// The device was unplugged.
    Unplugged,
    /// Another action took the press.
    Outranked,
    /// A toggle was pressed again.
    Toggled,
    /// The game set it.
    Set,
    /// A touch was cancelled: by the system, or as the panel changed under it.
    Cancelled,
    /// The seat was linked to a changed profile that has no place for it.
    Relinked,
    /// The device, asked for its whole state, says that it is up: a report was lost.
    Resynced,
}

impl Cause {
    /// The cause's words in output.
    pub const fn name(self) -> &'static str {
        match self {
            Cause::LetGo => "let go",
            Cause::Covered => "covered",
            Cause::FocusLost => "focus lost",
            Cause::Unplugged => "unplugged",
            Cause::Outranked => "outranked",
            Cause::Toggled => "toggled",
            Cause::Set => "set",
            Cause::Cancelled => "cancelled",
            Cause::Relinked => "relinked",
            Cause::Resynced => "resynced",
        }
    }
}

impl fmt::Display for Cause {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.pad(self.name())
    }
}
