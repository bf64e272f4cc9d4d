//! Parts of two-axis controls, bindable on their own.

use core::fmt;
use core::str::FromStr;

use super::{Control, NoSuchControl, Sort};
use crate::fixed::ONE;

/// A control as a whole, or one part of a two-axis control.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
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

/// A control or a part of it: what a button or a leg is bound to, `keys:KeyJ` or `pad:left-stick.up`.
///
/// ```
/// use tidy_lever::Control;
/// use tidy_lever::control::{Bindable, Part};
///
/// let up = Bindable { control: Control::LEFT_STICK, part: Part::Up };
/// assert_eq!(up.to_string(), "pad:left-stick.up");
/// assert_eq!(Bindable::from(Control::PAD_SOUTH).to_string(), "pad:south");
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Bindable {
    /// The control.
    pub control: Control,
    /// The part of it.
    pub part: Part,
}

impl From<Control> for Bindable {
    /// All of it.
    fn from(control: Control) -> Bindable {
        Bindable { control, part: Part::Whole }
    }
}

impl FromStr for Bindable {
    type Err = NoSuchControl;

    /// Reads a full name: `keys:KeyJ`, `pad:left-stick.up`.
    fn from_str(text: &str) -> Result<Bindable, NoSuchControl> {
        if let Some((control, part)) = text.split_once('.')
            && let (Ok(control), Some(part)) = (control.parse::<Control>(), Part::from_name(part))
            && (control.sort() == Sort::Pair || control.sort() == Sort::Counts && !part.is_half())
        {
            return Ok(Bindable { control, part });
        }
        text.parse::<Control>().map(Bindable::from)
    }
}

impl fmt::Display for Bindable {
    /// In full: `pad:left-stick.up`.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.control.fmt(f)?;
        if self.part == Part::Whole { Ok(()) } else { write!(f, ".{}", self.part.name()) }
    }
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
