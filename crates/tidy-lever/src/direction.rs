//! Directions: the circle cut into four or eight, with a true none.
//!
//! Each direction owns the part of the circle around it, and keeps it a little beyond its border, so that a hand
//! that trembles on a border doesn't chatter. Decided with whole numbers alone.

use core::fmt;

use crate::fixed;

/// How the circle is cut into directions.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum Sectors {
    /// Equal sectors around the directions.
    #[default]
    Equal,
    /// Each axis for itself: beyond half way counts.
    Box,
}

/// One of eight directions, counter-clockwise from the right.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[cfg_attr(feature = "serde", serde(rename_all = "kebab-case"))]
pub enum Direction {
    /// 0°
    Right,
    /// 45°
    UpRight,
    /// 90°
    Up,
    /// 135°
    UpLeft,
    /// 180°
    Left,
    /// 225°
    DownLeft,
    /// 270°
    Down,
    /// 315°
    DownRight,
}

use Direction::{Down, DownLeft, DownRight, Left, Right, Up, UpLeft, UpRight};

impl Direction {
    /// All eight, counter-clockwise from the right.
    pub const ALL: [Direction; 8] = [Right, UpRight, Up, UpLeft, Left, DownLeft, Down, DownRight];

    /// The angle of its middle in degrees: 0 right, 90 up, counter-clockwise.
    pub const fn degrees(self) -> u16 {
        self as u16 * 45
    }

    /// The direction's name in files and output: `up-right`.
    pub const fn name(self) -> &'static str {
        match self {
            Right => "right",
            UpRight => "up-right",
            Up => "up",
            UpLeft => "up-left",
            Left => "left",
            DownLeft => "down-left",
            Down => "down",
            DownRight => "down-right",
        }
    }

    /// The direction of that name.
    pub fn from_name(name: &str) -> Option<Direction> {
        Direction::ALL.into_iter().find(|direction| direction.name() == name)
    }

    /// The signs of its two axes: `(1, 1)` for up-right.
    pub const fn signs(self) -> (i8, i8) {
        match self {
            Right => (1, 0),
            UpRight => (1, 1),
            Up => (0, 1),
            UpLeft => (-1, 1),
            Left => (-1, 0),
            DownLeft => (-1, -1),
            Down => (0, -1),
            DownRight => (1, -1),
        }
    }

    /// Whether it lies between two straights.
    pub const fn is_diagonal(self) -> bool {
        self as u8 % 2 == 1
    }

    /// The direction straight across.
    pub const fn opposite(self) -> Direction {
        Direction::ALL[(self as usize + 4) % 8]
    }

    /// The direction as a mirror shows it: left for right.
    pub const fn mirrored(self) -> Direction {
        Direction::ALL[(12 - self as usize) % 8]
    }

    /// By how many eighths of the circle to turn to get there on the shorter way, counter-clockwise above 0: −3 to 4.
    pub(crate) const fn eighths_to(self, to: Direction) -> i32 {
        let turn = (to as i32 - self as i32).rem_euclid(8);
        if turn > 4 { turn - 8 } else { turn }
    }

    /// Whether it is the same, or one eighth away.
    pub(crate) const fn is_beside(self, other: Direction) -> bool {
        (self as u8).wrapping_sub(other as u8).wrapping_add(1) & 7 <= 2
    }

    /// The direction this many eighths of the circle on, counter-clockwise above 0.
    pub(crate) const fn turned_by(self, eighths: i32) -> Direction {
        Direction::ALL[(self as i32 + eighths).rem_euclid(8) as usize]
    }

    /// The direction with these signs; `None` for no sign at all.
    fn from_signs(x: i32, y: i32) -> Option<Direction> {
        Direction::ALL.into_iter().find(|d| (i32::from(d.signs().0), i32::from(d.signs().1)) == (x, y))
    }

    /// Whether this diagonal contains that straight.
    pub(crate) fn contains(self, straight: Direction) -> bool {
        let ((ax, ay), (bx, by)) = (self.signs(), straight.signs());
        self.is_diagonal() && !straight.is_diagonal() && (ax == bx || ay == by)
    }
}

impl fmt::Display for Direction {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.pad(self.name())
    }
}

/// How a stick's value is read as a direction.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Compass {
    /// Four directions instead of eight.
    pub(crate) four: bool,
    pub(crate) sectors: Sectors,
    /// For box sectors: the levels at which an axis begins and ceases to count.
    pub(crate) down_at: i32,
    pub(crate) up_at: i32,
}

/// A value counts as a direction from this size on (4 %), and then down to nothing at all: noise at the edge of
/// a dead zone doesn't chatter.
const ENTERS_AT: i32 = 40_000;

/// tan 22.5° in billionths: the border between a straight and a diagonal. Irrational, so no whole pair lies on it.
const BORDER: i64 = 414_213_562;
/// How far past its border a direction is kept, in degrees.
pub const HYSTERESIS_DEGREES: f64 = 4.0;
/// tan (22.5 + 4)° and tan (45 + 4)°, in billionths.
const KEPT_OF_EIGHT: i64 = 498_581_562;
const KEPT_OF_FOUR: i64 = 1_150_368_407;
const BILLION: i64 = 1_000_000_000;

impl Compass {
    /// The direction of a value, given the one that stood before.
    #[inline(never)]
    pub(crate) fn read(&self, x: i32, y: i32, before: Option<Direction>) -> Option<Direction> {
        match self.sectors {
            Sectors::Equal => self.equal(x, y, before),
            Sectors::Box => self.boxed(x, y, before),
        }
    }

    fn equal(&self, x: i32, y: i32, before: Option<Direction>) -> Option<Direction> {
        match before {
            _ if (x, y) == (0, 0) => None,
            None if !fixed::reaches(x, y, ENTERS_AT) => None,
            Some(before) if self.keeps(x, y, before) => Some(before),
            _ => Some(self.sector(x, y)),
        }
    }

    /// The sector that a value lies in, borders aside. Every value but none lies in exactly one.
    fn sector(&self, x: i32, y: i32) -> Direction {
        let (wide, high) = (i64::from(x.abs()), i64::from(y.abs()));
        // In four sectors an exact diagonal belongs to the horizontal one.
        let border = if self.four { BILLION } else { BORDER };
        let flat = high * BILLION <= wide * border;
        let steep = if self.four { !flat } else { wide * BILLION <= high * border };
        let signs = (if steep { 0 } else { x.signum() }, if flat { 0 } else { y.signum() });
        Direction::from_signs(signs.0, signs.1).unwrap_or(Right)
    }

    /// The same where there are eight sectors: nearly always the direction that stands is kept.
    #[inline(always)]
    pub(crate) fn read_of_eight(&self, x: i32, y: i32, before: Option<Direction>) -> Option<Direction> {
        match before {
            Some(stood) if self.sectors == Sectors::Equal && self.keeps(x, y, stood) => before,
            _ => self.read(x, y, before),
        }
    }

    /// Whether a direction that stands is kept: the value lies within its sector, or a little beyond.
    #[inline(always)]
    fn keeps(&self, x: i32, y: i32, before: Direction) -> bool {
        let (sx, sy) = before.signs();
        let (sx, sy, x, y) = (i64::from(sx), i64::from(sy), i64::from(x), i64::from(y));
        let along = x * sx + y * sy;
        let across = (x * sy - y * sx).abs();
        let kept = if self.four { KEPT_OF_FOUR } else { KEPT_OF_EIGHT };
        along > 0 && across * BILLION <= along * kept
    }

    /// Of two keys held at a right angle, read in four directions: the one pressed later, as with opposite keys.
    pub(crate) fn newest_of_two(
        &self,
        (x, y): (i32, i32),
        before: (i32, i32),
        stood: Option<Direction>,
    ) -> Option<Direction> {
        match (x.signum() != before.0.signum(), y.signum() != before.1.signum()) {
            (true, false) => Direction::from_signs(x.signum(), 0),
            (false, true) => Direction::from_signs(0, y.signum()),
            _ => self.read(x, y, stood),
        }
    }

    /// Each axis for itself: counts from `down_at` on, and then down to `up_at`.
    fn boxed(&self, x: i32, y: i32, before: Option<Direction>) -> Option<Direction> {
        let (bx, by) = before.map_or((0, 0), |d| (i32::from(d.signs().0), i32::from(d.signs().1)));
        let side = |level: i32, stood: i32| {
            let keeps = stood != 0 && level.signum() == stood && level.abs() > self.up_at;
            if keeps || level.abs() >= self.down_at { level.signum() } else { 0 }
        };
        let (mut sx, mut sy) = (side(x, bx), side(y, by));
        if self.four && sx != 0 && sy != 0 {
            // Of two, the one that stood stays; else the longer, the horizontal of equals.
            let keep_x = if (bx != 0) != (by != 0) { bx != 0 } else { x.abs() >= y.abs() };
            if keep_x { sy = 0 } else { sx = 0 }
        }
        Direction::from_signs(sx, sy)
    }
}

#[cfg(test)]
mod tests;
