//! The touch panel as declared: patches and where they lie.

use alloc::string::String;

use super::Placed;

/// What a patch is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum PatchKind {
    /// Four arms, and the diagonals between them.
    Cross,
    /// A stick, fixed or floating.
    Stick,
    /// A button.
    Button,
    /// An area of the screen for taps, and for swipes through its second control, `NAME-swipe`.
    Zone,
}

impl PatchKind {
    /// All kinds.
    pub const ALL: [PatchKind; 4] = [PatchKind::Cross, PatchKind::Stick, PatchKind::Button, PatchKind::Zone];

    /// Its word in files.
    pub const fn name(self) -> &'static str {
        match self {
            PatchKind::Cross => "cross",
            PatchKind::Stick => "stick",
            PatchKind::Button => "button",
            PatchKind::Zone => "zone",
        }
    }

    pub(crate) fn from_name(name: &str) -> Option<PatchKind> {
        PatchKind::ALL.into_iter().find(|kind| kind.name() == name)
    }
}

/// A corner of the screen.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Corner {
    /// Below, on the left.
    BottomLeft,
    /// Below, on the right.
    BottomRight,
    /// Above, on the left.
    TopLeft,
    /// Above, on the right.
    TopRight,
}

impl Corner {
    /// All corners.
    pub const ALL: [Corner; 4] = [Corner::BottomLeft, Corner::BottomRight, Corner::TopLeft, Corner::TopRight];

    /// Its word in files.
    pub const fn name(self) -> &'static str {
        match self {
            Corner::BottomLeft => "bottom-left",
            Corner::BottomRight => "bottom-right",
            Corner::TopLeft => "top-left",
            Corner::TopRight => "top-right",
        }
    }

    pub(crate) fn from_name(name: &str) -> Option<Corner> {
        Corner::ALL.into_iter().find(|corner| corner.name() == name)
    }
}

/// A touch patch as declared: what the on-screen control is and where it lies.
#[derive(Clone, Debug, PartialEq)]
pub struct PatchEntry {
    pub(crate) name: Placed<String>,
    pub(crate) kind: Placed<String>,
    pub(crate) from: Placed<String>,
    pub(crate) at: [f64; 2],
    /// Half its width and height.
    pub(crate) size: [f64; 2],
    pub(crate) floats: bool,
}

impl PatchEntry {
    /// A patch of a kind so far from a corner, and so large: half its width. All in units of the screen's shorter side.
    pub fn new(name: &str, kind: PatchKind, from: Corner, at: [f64; 2], size: f64) -> PatchEntry {
        let (kind, from) = (kind.name().into(), from.name().into());
        PatchEntry { name: name.into(), kind, from, at, size: [size; 2], floats: false }
    }

    /// A zone's half width and half height.
    pub fn size(mut self, wide: f64, high: f64) -> PatchEntry {
        self.size = [wide, high];
        self
    }

    /// A stick whose middle is where the thumb goes down.
    pub fn floats(mut self) -> PatchEntry {
        self.floats = true;
        self
    }
}
