//! Parts of two-axis controls, bindable on their own.

use crate::fixed::ONE;

/// A control as a whole, or one part of a two-axis control.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Part {
    /// All of it.
    Whole,
    /// The horizontal axis, right positive: `left-stick.x`.
    X,
    /// The vertical axis, up positive: `left-stick.y`.
    Y,
    /// The upper half of the vertical axis, 0 to 1: `dpad.up`.
    Up,
    /// The lower half of the vertical axis, 0 to 1.
    Down,
    /// The left half of the horizontal axis, 0 to 1.
    Left,
    /// The right half of the horizontal axis, 0 to 1.
    Right,
}

impl Part {
    /// Every part that has a name of its own.
    pub const NAMED: [Part; 6] = [Part::X, Part::Y, Part::Up, Part::Down, Part::Left, Part::Right];

    /// The name behind the dot; empty for the whole.
    pub const fn name(self) -> &'static str {
        match self {
            Part::Whole => "",
            Part::X => "x",
            Part::Y => "y",
            Part::Up => "up",
            Part::Down => "down",
            Part::Left => "left",
            Part::Right => "right",
        }
    }

    /// The part of that name.
    pub fn from_name(name: &str) -> Option<Part> {
        Part::NAMED.into_iter().find(|part| part.name() == name)
    }

    /// Whether the part is half an axis, with a level from 0 to 1.
    pub const fn is_half(self) -> bool {
        matches!(self, Part::Up | Part::Down | Part::Left | Part::Right)
    }

    /// The part's own level of a control that stands at `x`, `y`. As a button, a whole pair goes by its longer axis.
    pub(crate) fn level(self, x: i32, y: i32) -> i32 {
        match self {
            Part::Whole | Part::X => x,
            Part::Y => y,
            Part::Up => y.max(0),
            Part::Down => (-y).clamp(0, ONE),
            Part::Left => (-x).clamp(0, ONE),
            Part::Right => x.max(0),
        }
    }
}
