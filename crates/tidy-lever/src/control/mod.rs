//! Controls: the physical things a hand moves, by exact names that never change with layout or device.
//!
//! A control belongs to a [`Family`] and has a [`Sort`], which says what its level means. Two-axis controls have
//! [`Part`]s that can be bound on their own: `left-stick.x`, `dpad.up`. Keys are known by their W3C codes, [`Code`] of the
//! crate `keyboard-types`.

mod bits;
mod codes;
mod family;
mod part;
mod synonyms;

use alloc::string::{String, ToString};
use core::fmt;
use core::str::FromStr;

pub use keyboard_types::Code;

use codes::CODES;
pub use family::Family;
pub use part::{Bindable, Part};
pub(crate) use synonyms::{advice, meant};

/// The most touch patches that one profile may name.
pub const MOST_PATCHES: usize = 64;

/// What a control's level means.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum Sort {
    /// Down or up: 1 or 0.
    Button,
    /// A level from 0 to 1: a trigger.
    Level,
    /// Two axes from −1 to 1 each: a stick or a directional pad.
    Pair,
    /// Relative counts on two axes, with no rest position: a mouse's motion.
    Counts,
    /// Single notches: a wheel. Each is a press, and a release 1 µs later.
    Notch,
    /// A place in the view: the pointer.
    Place,
}

/// One physical control, as a small number: made once from its name, compared and looked up for free.
///
/// ```
/// use tidy_lever::{Control, Family};
///
/// let hop: Control = "keys:Space".parse()?;
/// assert_eq!(hop.family(), Family::Keys);
/// assert_eq!(hop.to_string(), "keys:Space");
/// assert_eq!(Control::PAD_SOUTH.to_string(), "pad:south");
/// # Ok::<(), tidy_lever::control::NoSuchControl>(())
/// ```
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Control(u16);

const MOUSE_BASE: u16 = 256;
const PAD_BASE: u16 = 288;
const TOUCH_BASE: u16 = 320;

/// Behind all patches: a finger that hits none.
const TOUCH_PLACE: u16 = TOUCH_BASE + MOST_PATCHES as u16;

/// How many numbers [`Control`] can take.
pub(crate) const CONTROLS: usize = TOUCH_PLACE as usize + 1;

const MOUSE: [(&str, Sort); 11] = [
    ("left", Sort::Button),
    ("right", Sort::Button),
    ("middle", Sort::Button),
    ("back", Sort::Button),
    ("forward", Sort::Button),
    ("wheel-up", Sort::Notch),
    ("wheel-down", Sort::Notch),
    ("wheel-left", Sort::Notch),
    ("wheel-right", Sort::Notch),
    ("move", Sort::Counts),
    ("place", Sort::Place),
];

const PAD: [(&str, Sort); 16] = [
    ("south", Sort::Button),
    ("east", Sort::Button),
    ("west", Sort::Button),
    ("north", Sort::Button),
    ("left-shoulder", Sort::Button),
    ("right-shoulder", Sort::Button),
    ("left-trigger", Sort::Level),
    ("right-trigger", Sort::Level),
    ("select", Sort::Button),
    ("start", Sort::Button),
    ("home", Sort::Button),
    ("left-thumb", Sort::Button),
    ("right-thumb", Sort::Button),
    ("left-stick", Sort::Pair),
    ("right-stick", Sort::Pair),
    ("dpad", Sort::Pair),
];

macro_rules! named {
    ($($(#[$doc:meta])* $name:ident = $number:expr;)*) => {
        impl Control {
            $($(#[$doc])* pub const $name: Control = Control($number);)*
        }
    };
}

named! {
    /// `mouse:left`
    MOUSE_LEFT = MOUSE_BASE;
    /// `mouse:right`
    MOUSE_RIGHT = MOUSE_BASE + 1;
    /// `mouse:middle`
    MOUSE_MIDDLE = MOUSE_BASE + 2;
    /// `mouse:back`
    MOUSE_BACK = MOUSE_BASE + 3;
    /// `mouse:forward`
    MOUSE_FORWARD = MOUSE_BASE + 4;
    /// `mouse:wheel-up`
    WHEEL_UP = MOUSE_BASE + 5;
    /// `mouse:wheel-down`
    WHEEL_DOWN = MOUSE_BASE + 6;
    /// `mouse:wheel-left`
    WHEEL_LEFT = MOUSE_BASE + 7;
    /// `mouse:wheel-right`
    WHEEL_RIGHT = MOUSE_BASE + 8;
    /// `mouse:move`: relative counts
    MOUSE_MOVE = MOUSE_BASE + 9;
    /// `mouse:place`: the pointer
    MOUSE_PLACE = MOUSE_BASE + 10;
    /// `pad:south`
    PAD_SOUTH = PAD_BASE;
    /// `pad:east`
    PAD_EAST = PAD_BASE + 1;
    /// `pad:west`
    PAD_WEST = PAD_BASE + 2;
    /// `pad:north`
    PAD_NORTH = PAD_BASE + 3;
    /// `pad:left-shoulder`
    LEFT_SHOULDER = PAD_BASE + 4;
    /// `pad:right-shoulder`
    RIGHT_SHOULDER = PAD_BASE + 5;
    /// `pad:left-trigger`
    LEFT_TRIGGER = PAD_BASE + 6;
    /// `pad:right-trigger`
    RIGHT_TRIGGER = PAD_BASE + 7;
    /// `pad:select`
    PAD_SELECT = PAD_BASE + 8;
    /// `pad:start`
    PAD_START = PAD_BASE + 9;
    /// `pad:home`
    PAD_HOME = PAD_BASE + 10;
    /// `pad:left-thumb`: the left stick pressed in
    LEFT_THUMB = PAD_BASE + 11;
    /// `pad:right-thumb`: the right stick pressed in
    RIGHT_THUMB = PAD_BASE + 12;
    /// `pad:left-stick`
    LEFT_STICK = PAD_BASE + 13;
    /// `pad:right-stick`
    RIGHT_STICK = PAD_BASE + 14;
    /// `pad:dpad`
    DPAD = PAD_BASE + 15;
    /// `touch:place`: a finger where no patch is, as pointers follow it
    TOUCH_PLACE = TOUCH_PLACE;
}

impl Control {
    /// The key at a position; `None` for `Code::Unidentified` and for positions newer than this crate.
    pub fn key(code: Code) -> Option<Control> {
        CODES.binary_search(&code).ok().map(|i| Control(i as u16))
    }

    /// The touch patch with this number in its linkage.
    pub(crate) const fn patch(number: usize) -> Control {
        Control(TOUCH_BASE + number as u16)
    }

    /// The number of a touch patch.
    pub(crate) fn patch_number(self) -> Option<usize> {
        self.0.checked_sub(TOUCH_BASE).map(usize::from).filter(|number| *number < MOST_PATCHES)
    }

    /// The control's number, below [`CONTROLS`].
    pub(crate) const fn number(self) -> usize {
        self.0 as usize
    }

    /// The family it belongs to.
    pub const fn family(self) -> Family {
        match self.0 {
            0..MOUSE_BASE => Family::Keys,
            MOUSE_BASE..PAD_BASE => Family::Mouse,
            PAD_BASE..TOUCH_BASE => Family::Pad,
            _ => Family::Touch,
        }
    }

    /// What its level means. Touch patches count as pairs here; their panel knows better.
    pub fn sort(self) -> Sort {
        match self.family() {
            Family::Keys => Sort::Button,
            Family::Mouse => MOUSE[usize::from(self.0 - MOUSE_BASE)].1,
            Family::Pad => PAD[usize::from(self.0 - PAD_BASE)].1,
            Family::Touch if self.0 == TOUCH_PLACE => Sort::Place,
            Family::Touch => Sort::Pair,
        }
    }

    /// The control of this name within a family; touch patches are found through their linkage only.
    pub fn in_family(family: Family, name: &str) -> Option<Control> {
        let at = |base: u16, list: &[(&str, Sort)]| {
            list.iter().position(|(n, _)| *n == name).map(|i| Control(base + i as u16))
        };
        match family {
            Family::Keys => Code::from_str(name).ok().and_then(Control::key),
            Family::Mouse => at(MOUSE_BASE, &MOUSE),
            Family::Pad => at(PAD_BASE, &PAD),
            Family::Touch => None,
        }
    }

    /// Every control of a family, in the order of the tables; none for touch, whose controls a panel names.
    pub fn all(family: Family) -> impl Iterator<Item = Control> {
        let (base, count) = match family {
            Family::Keys => (0, CODES.len()),
            Family::Mouse => (MOUSE_BASE, MOUSE.len()),
            Family::Pad => (PAD_BASE, PAD.len()),
            Family::Touch => (TOUCH_BASE, 0),
        };
        (0..count as u16).map(move |i| Control(base + i))
    }

    /// The name within the family, as in `keys = "Space"`.
    pub fn name(self) -> impl fmt::Display {
        fmt::from_fn(move |f| match self.family() {
            Family::Keys => write!(f, "{}", CODES[self.number()]),
            Family::Mouse => f.write_str(MOUSE[usize::from(self.0 - MOUSE_BASE)].0),
            Family::Pad => f.write_str(PAD[usize::from(self.0 - PAD_BASE)].0),
            Family::Touch if self.0 == TOUCH_PLACE => f.write_str("place"),
            Family::Touch => write!(f, "patch-{}", self.0 - TOUCH_BASE),
        })
    }
}

impl fmt::Display for Control {
    /// In full: `keys:Space`, `pad:left-stick`.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}:{}", self.family(), self.name())
    }
}

impl fmt::Debug for Control {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        fmt::Display::fmt(self, f)
    }
}

/// A text names no control.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("no control is named `{text}`; {advice}")]
#[non_exhaustive]
pub struct NoSuchControl {
    /// The text, shortened to 64 letters.
    pub text: String,
    /// The full name that was probably meant.
    pub nearest: Option<String>,
    advice: String,
}

impl NoSuchControl {
    fn new(text: &str) -> NoSuchControl {
        let (named, name) = match text.split_once(':') {
            Some((family, name)) => (Family::from_name(family), name),
            None => (None, text),
        };
        let in_full = |family: Family, name: &str| alloc::format!("{family}:{name}");
        // The family that was named, or else every one in turn: `Space`, `south`, then habits such as `Esc`.
        let families = || Family::ALL.into_iter().filter(|family| named.is_none_or(|named| named == *family));
        let exact = families().find(|family| Control::in_family(*family, name).is_some());
        let near = |family: Family| {
            let names: alloc::vec::Vec<String> =
                Control::all(family).map(|control| control.name().to_string()).collect();
            crate::nearest::nearest(name, names.iter().map(String::as_str)).map(|near| in_full(family, near))
        };
        let nearest = exact
            .map(|family| in_full(family, name))
            .or_else(|| families().find_map(|family| Some(in_full(family, synonyms::meant(family, name).first()?))))
            .or_else(|| families().find_map(near));
        let advice = match &nearest {
            Some(nearest) => alloc::format!("did you mean `{nearest}`?"),
            None if named == Some(Family::Touch) => "touch controls are declared under `[panel]` in a profile".into(),
            None => "a full name is a family and a control, such as `keys:Space` or `pad:south`".into(),
        };
        NoSuchControl { text: text.chars().take(64).collect(), nearest, advice }
    }
}

impl FromStr for Control {
    type Err = NoSuchControl;

    /// Reads a full name such as `keys:KeyW`. Touch patches belong to a linkage and are not found here.
    fn from_str(text: &str) -> Result<Control, NoSuchControl> {
        text.split_once(':')
            .and_then(|(family, name)| Control::in_family(Family::from_name(family)?, name))
            .ok_or_else(|| NoSuchControl::new(text))
    }
}

#[cfg(feature = "serde")]
impl serde::Serialize for Control {
    /// As its full name; a patch of a panel by its number there, `touch:patch-3`.
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_str(self)
    }
}

#[cfg(feature = "serde")]
impl<'de> serde::Deserialize<'de> for Control {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Control, D::Error> {
        let text = alloc::string::String::deserialize(deserializer)?;
        let patch = text.strip_prefix("touch:patch-").and_then(|number| number.parse().ok());
        match patch.filter(|number| *number < MOST_PATCHES) {
            Some(number) => Ok(Control::patch(number)),
            None => text.parse().map_err(serde::de::Error::custom),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_control_reads_back_from_its_own_name() {
        let mut seen = 0;
        for family in Family::ALL {
            for control in Control::all(family) {
                assert_eq!(control.to_string().parse(), Ok(control));
                assert_eq!(control.family(), family);
                seen += 1;
            }
        }
        assert_eq!(seen, CODES.len() + MOUSE.len() + PAD.len());
        assert!(CODES.len() <= usize::from(MOUSE_BASE));
    }

    #[test]
    fn the_named_constants_are_what_they_say() {
        let cases = [
            (Control::MOUSE_FORWARD, "mouse:forward"),
            (Control::WHEEL_RIGHT, "mouse:wheel-right"),
            (Control::MOUSE_PLACE, "mouse:place"),
            (Control::RIGHT_TRIGGER, "pad:right-trigger"),
            (Control::PAD_HOME, "pad:home"),
            (Control::DPAD, "pad:dpad"),
        ];
        for (control, name) in cases {
            assert_eq!(control.to_string(), name);
        }
    }

    #[test]
    fn near_misses_are_no_controls() {
        for name in
            ["Space", "keys:space", "keys:Unidentified", "pad:a", "pad:left-stick.x", "touch:thumb", "keys:", ":"]
        {
            assert_eq!(name.parse::<Control>().unwrap_err().text, name);
        }
    }

    #[test]
    fn a_name_that_is_no_control_leads_to_one() {
        let told = [
            ("Space", "no control is named `Space`; did you mean `keys:Space`?"),
            ("keys:space", "no control is named `keys:space`; did you mean `keys:Space`?"),
            ("keys:Esc", "no control is named `keys:Esc`; did you mean `keys:Escape`?"),
            ("pad:soth", "no control is named `pad:soth`; did you mean `pad:south`?"),
            ("LMB", "no control is named `LMB`; did you mean `mouse:left`?"),
            (
                "touch:thumb",
                "no control is named `touch:thumb`; touch controls are declared under `[panel]` in a profile",
            ),
            (
                "?",
                "no control is named `?`; a full name is a family and a control, such as `keys:Space` or `pad:south`",
            ),
        ];
        for (text, message) in told {
            assert_eq!(text.parse::<Control>().unwrap_err().to_string(), message);
        }
    }
}
