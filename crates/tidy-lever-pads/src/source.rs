//! Where pads come from: a small trait, so that another source can take the place of the real one.

use tidy_lever::Control;

/// A number by which a source knows one pad while it is plugged in.
pub type PadId = usize;

/// What a pad is called, what tells it from pads of another kind, and what it has.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct PadName {
    /// Its plain name, for people and for a player's file.
    pub name: String,
    /// Its maker's and its product's numbers, where they are known.
    pub numbers: Option<(u16, u16)>,
    /// What it has of the standard layout, as far as the source can tell.
    pub controls: Vec<Control>,
    /// The numbers of its buttons and axes, as a player's file names them; `None` where the source can't tell.
    pub has: Option<Numbers>,
}

/// The numbers of a pad's buttons and axes.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Numbers {
    /// Its buttons.
    pub buttons: Vec<u32>,
    /// Its axes.
    pub axes: Vec<u32>,
}

impl PadName {
    /// What is the same for pads that can't be told apart.
    pub(crate) fn kind(&self) -> String {
        let (vendor, product) = self.numbers.unwrap_or_default();
        format!("{vendor:04x}:{product:04x} {}", self.name)
    }
}

/// Where on a pad something was moved.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum Place {
    /// A button or a trigger of the standard layout, by its position.
    At(Control),
    /// An arm of the directional pad: across (−1 or 1), or up and down.
    Arm {
        /// −1 left, 1 right.
        x: i8,
        /// −1 down, 1 up.
        y: i8,
    },
    /// One axis of a stick, or of the directional pad where that is a hat: up or across.
    Axis {
        /// The stick, or the directional pad.
        of: Control,
        /// Up and down, not left and right.
        upright: bool,
    },
    /// A button that the source knows by a number alone.
    Button(u32),
    /// An axis that the source knows by a number alone.
    RawAxis(u32),
}

/// What a source saw.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum Seen {
    /// A pad was plugged in, or was there when the source was opened.
    Came(PadId, PadName),
    /// It was unplugged.
    Gone(PadId),
    /// Something of it stands at a level: 0 to 1 for buttons and triggers, −1 to 1 for axes, up and right positive.
    Moved(PadId, Place, f32),
    /// The same, where the source knows it by its number, too: that place (a button or an axis) stands at that level, as a player's
    /// file counts it.
    Numbered(PadId, Place, f32, (Place, f32)),
}

/// Something that a source saw, and when.
#[derive(Clone, Debug, PartialEq)]
pub struct Stamped {
    /// In microseconds of the source's own clock; `None` where it doesn't know.
    pub stamp: Option<u64>,
    /// What it saw.
    pub seen: Seen,
    /// Whether it is how a pad stands, as the system said when it was asked (after lost reports, say), and not what a hand did just
    /// now: then it presses nothing.
    pub asked: bool,
}

/// Where the moments of a source's events come from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Times {
    /// The system stamped them as they happened.
    System,
    /// They are the moments at which the program took them.
    Arrival,
}

/// Access to pads, and nothing else: no dead zones, no repeats, no filters.
pub trait Source: core::fmt::Debug {
    /// The next thing that it saw, without waiting.
    fn next(&mut self) -> Option<Stamped>;

    /// Where its times come from.
    fn times(&self) -> Times;

    /// What the clock of its stamps reads now, in microseconds, where it can be asked.
    fn clock(&self) -> Option<u64> {
        None
    }
}
