//! Shapes: how a raw level becomes the value that the game gets.
//!
//! ```text
//!   out
//!    1 ┤            ╭────   full: from here on it is all the way
//!      │          ╱
//!      │       ╱·           curve: bends what lies between
//!    0 ┼───────┴──────▶ in
//!        dead: from 0 up to here nothing
//! ```
//!
//! What the dead zone leaves is rescaled, so that the value begins at 0 and ends at 1 without a jump.

mod plan;

use alloc::vec::Vec;

pub use plan::ResponseEdges;
pub(crate) use plan::{Bent, ShapePlan};

/// Over what a dead zone is measured.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum DeadKind {
    /// Over the distance from the middle: a circle.
    #[default]
    Round,
    /// Over each axis for itself: a plus sign, which keeps straight pushes straight.
    EachAxis,
}

/// The curve between dead zone and outer edge.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum Bend {
    /// `out = in ^ exponent`: above 1 is finer near the middle. From 0.1 to 10.
    Exponent(f64),
    /// Straight lines between points `[in, out]`, both 0 to 1 and rising; `[0, 0]` and `[1, 1]` are added where missing.
    Points(Vec<[f64; 2]>),
}

/// How a signal is bent. All levels are fractions of full deflection.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
#[must_use]
pub struct Shape {
    /// Up to here nothing happens; 0 to below `full`. Default 0.
    pub dead: f64,
    /// From here on it is all the way; above `dead`, up to 1. Default 1.
    pub full: f64,
    /// The curve between. Default straight.
    pub curve: Bend,
    /// A factor on the outcome, −1000 to 1000; the outcome still never exceeds 1. Default 1.
    pub scale: f64,
    /// Turns left and right about.
    pub invert_x: bool,
    /// Turns up and down about.
    pub invert_y: bool,
    /// Over what the dead zone is measured.
    pub dead_kind: DeadKind,
}

impl Default for Shape {
    fn default() -> Shape {
        Shape {
            dead: 0.0,
            full: 1.0,
            curve: Bend::Exponent(1.0),
            scale: 1.0,
            invert_x: false,
            invert_y: false,
            dead_kind: DeadKind::Round,
        }
    }
}

impl Shape {
    /// With a dead zone up to here.
    pub fn dead(self, dead: f64) -> Shape {
        Shape { dead, ..self }
    }

    /// With full deflection from here on.
    pub fn full(self, full: f64) -> Shape {
        Shape { full, ..self }
    }

    /// With this curve between dead zone and outer edge.
    pub fn curve(self, curve: Bend) -> Shape {
        Shape { curve, ..self }
    }

    /// With this factor on the outcome.
    pub fn scale(self, scale: f64) -> Shape {
        Shape { scale, ..self }
    }

    /// Inverts the axes: whether left and right change places, and up and down.
    pub fn inverted(self, x: bool, y: bool) -> Shape {
        Shape { invert_x: x, invert_y: y, ..self }
    }

    /// With a dead zone measured so.
    pub fn dead_kind(self, dead_kind: DeadKind) -> Shape {
        Shape { dead_kind, ..self }
    }
}
