//! One action as declared.

use alloc::string::String;
use alloc::vec;
use alloc::vec::Vec;

use super::{Gauge, Placed, Shape};
use crate::cue::{Cue, Rule};
use crate::direction::Sectors;
use crate::time::SpanEntry;
use core::fmt;

/// What sort of answer an action gives.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum Kind {
    /// Down or up.
    #[default]
    Button,
    /// One number from −1 to 1, or over a range of its own.
    Axis,
    /// Two numbers, a direction and a size of at most 1.
    Stick,
    /// An angle swept, in degrees across and up: what a mouse's counts and a stick's rate add up to.
    Sweep,
    /// A place in the view, with presses, clicks and drags.
    Pointer,
    /// A value that presses push and time pulls.
    Gauge,
}

impl Kind {
    /// All kinds.
    pub const ALL: [Kind; 6] = [Kind::Button, Kind::Axis, Kind::Stick, Kind::Sweep, Kind::Pointer, Kind::Gauge];

    /// The kind's name in files.
    pub const fn name(self) -> &'static str {
        match self {
            Kind::Button => "button",
            Kind::Axis => "axis",
            Kind::Stick => "stick",
            Kind::Sweep => "sweep",
            Kind::Pointer => "pointer",
            Kind::Gauge => "gauge",
        }
    }
}

/// One leg of a cross or of a pair of controls.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Leg {
    /// Towards +y.
    Up,
    /// Towards −x.
    Left,
    /// Towards −y.
    Down,
    /// Towards +x.
    Right,
    /// Towards −1 on an axis.
    Minus,
    /// Towards +1 on an axis.
    Plus,
}

impl Leg {
    /// The legs of a stick.
    pub const CROSS: [Leg; 4] = [Leg::Up, Leg::Left, Leg::Down, Leg::Right];

    /// The legs of an axis.
    pub const PAIR: [Leg; 2] = [Leg::Minus, Leg::Plus];

    /// The leg's key in files.
    pub const fn name(self) -> &'static str {
        match self {
            Leg::Up => "up",
            Leg::Left => "left",
            Leg::Down => "down",
            Leg::Right => "right",
            Leg::Minus => "minus",
            Leg::Plus => "plus",
        }
    }
}

/// Controls that make up a cross or a pair, leg by leg.
#[derive(Clone, Debug, Default, PartialEq)]
#[must_use]
pub struct Legs(pub(crate) Vec<(Leg, Vec<Placed<String>>)>);

impl Legs {
    /// A cross of four controls: up, left, down, right.
    pub fn cross(up: &str, left: &str, down: &str, right: &str) -> Legs {
        Legs::default().leg(Leg::Up, [up]).leg(Leg::Left, [left]).leg(Leg::Down, [down]).leg(Leg::Right, [right])
    }

    /// A pair of controls for an axis.
    pub fn pair(minus: &str, plus: &str) -> Legs {
        Legs::default().leg(Leg::Minus, [minus]).leg(Leg::Plus, [plus])
    }

    /// Adds controls to a leg; any of them will do.
    pub fn leg<'a>(mut self, leg: Leg, controls: impl IntoIterator<Item = &'a str>) -> Legs {
        self.0.push((leg, controls.into_iter().map(Into::into).collect()));
        self
    }
}

/// The controls of one family that an action hears.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum Inputs {
    /// Any of these.
    Any(Vec<Placed<String>>),
    /// A cross or a pair.
    Legs(Legs),
}

impl From<&str> for Inputs {
    fn from(control: &str) -> Inputs {
        Inputs::Any(vec![control.into()])
    }
}

impl<const N: usize> From<[&str; N]> for Inputs {
    fn from(controls: [&str; N]) -> Inputs {
        Inputs::Any(controls.into_iter().map(Into::into).collect())
    }
}

impl From<Legs> for Inputs {
    fn from(legs: Legs) -> Inputs {
        Inputs::Legs(legs)
    }
}

/// What two opposite keys held together mean.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum Opposed {
    /// The one pressed last rules; letting it go gives the other back.
    #[default]
    Newest,
    /// The one held longest rules; letting it go gives the other its turn.
    Oldest,
    /// Neither.
    Cancel,
}

/// Where an action stands when nothing moves it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum Rest {
    /// In the middle (a stick at none, an axis at the rest of its range).
    #[default]
    Middle,
    /// Where it was pushed last.
    Last,
}

/// Which modes an action is heard in.
#[derive(Clone, Debug, Default, PartialEq)]
pub(crate) enum ActiveIn {
    /// In every mode, but covered like any.
    #[default]
    Everywhere,
    /// Whatever covers.
    Always,
    /// In these.
    In(Vec<Placed<String>>),
}

/// A cue as a profile declares it: a line as in files, or built.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum CueEntry {
    /// As in files: `"hold 300ms"`.
    Line(String),
    /// Built in code.
    Built(Cue),
}

impl CueEntry {
    /// Whether it says this cue.
    pub(crate) fn is(&self, cue: &Cue) -> bool {
        match self {
            CueEntry::Line(line) => Cue::read(line).is_ok_and(|own| own == *cue),
            CueEntry::Built(own) => own == cue,
        }
    }
}

impl From<&str> for CueEntry {
    fn from(line: &str) -> CueEntry {
        CueEntry::Line(line.into())
    }
}

impl From<String> for CueEntry {
    fn from(line: String) -> CueEntry {
        CueEntry::Line(line)
    }
}

impl From<&String> for CueEntry {
    fn from(line: &String) -> CueEntry {
        CueEntry::Line(line.clone())
    }
}

impl From<&Rule> for CueEntry {
    fn from(rule: &Rule) -> CueEntry {
        CueEntry::Built(rule.clone().into())
    }
}

impl From<Cue> for CueEntry {
    fn from(cue: Cue) -> CueEntry {
        CueEntry::Built(cue)
    }
}

impl From<Rule> for CueEntry {
    fn from(rule: Rule) -> CueEntry {
        CueEntry::Built(rule.into())
    }
}

impl fmt::Display for CueEntry {
    /// The line.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            CueEntry::Line(line) => f.write_str(line),
            CueEntry::Built(cue) => cue.fmt(f),
        }
    }
}

/// How the pulls of an action grow in a row.
#[derive(Clone, Debug, Default, PartialEq)]
#[non_exhaustive]
pub struct Stages {
    /// How many stages there are; past the last it starts over.
    pub count: i64,
    /// The fact that must have counted again.
    pub after: Placed<String>,
    /// How soon after it the next pull must come, as a span.
    pub within: Placed<SpanEntry>,
}

/// One action as declared, by kind: `Action::button("hop").keys("Space")`.
#[derive(Clone, Debug, Default, PartialEq)]
#[must_use]
pub struct Action {
    pub(crate) name: Placed<String>,
    pub(crate) kind: Placed<Kind>,
    pub(crate) heard: ActiveIn,
    pub(crate) inputs: [Option<Placed<Inputs>>; 4],
    pub(crate) down_at: Option<Placed<f64>>,
    pub(crate) up_at: Option<Placed<f64>>,
    /// Any of these will do.
    pub(crate) cues: Vec<Placed<CueEntry>>,
    /// What cues forgive, and for how long: keys with their spans.
    pub(crate) forgives: Vec<(&'static str, Placed<SpanEntry>)>,
    pub(crate) from_push: Option<Placed<f64>>,
    pub(crate) paced: Option<Placed<[Placed<SpanEntry>; 2]>>,
    pub(crate) opposed: Opposed,
    pub(crate) rest: Rest,
    pub(crate) shape: Option<Placed<Shape>>,
    pub(crate) family_shape: [Option<Placed<Shape>>; 4],
    pub(crate) range: Option<Placed<[f64; 3]>>,
    pub(crate) directions: Option<Placed<i64>>,
    pub(crate) sectors: Sectors,
    pub(crate) per_count: Option<Placed<[f64; 2]>>,
    pub(crate) per_second: Option<Placed<[f64; 2]>>,
    pub(crate) drag_from: Option<Placed<f64>>,
    pub(crate) aim: Option<Placed<String>>,
    pub(crate) gauge: Option<Placed<Gauge>>,
    pub(crate) cooldown: Option<Placed<SpanEntry>>,
    /// Names with their spans.
    pub(crate) marks: Vec<(Placed<String>, Placed<SpanEntry>)>,
    pub(crate) outranks: Vec<Placed<String>>,
    pub(crate) waits_for: Vec<Placed<String>>,
    pub(crate) group: Option<Placed<String>>,
    pub(crate) when: Option<Placed<String>>,
    pub(crate) keep: Option<Placed<SpanEntry>>,
    pub(crate) while_held: bool,
    pub(crate) spends: Option<Vec<Placed<String>>>,
    pub(crate) stages: Option<Placed<Stages>>,
    pub(crate) turns_on: Vec<Placed<String>>,
    pub(crate) turns_off: Vec<Placed<String>>,
    /// Every key that was given, for checking against the kind.
    pub(crate) given: Vec<Placed<&'static str>>,
}
