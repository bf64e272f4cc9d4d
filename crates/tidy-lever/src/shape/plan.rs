//! A shape made ready, and how it bends levels and pairs: all in whole millionths.

use alloc::string::String;
use alloc::vec::Vec;
use core::hash::{Hash, Hasher};

use super::{Bend, DeadKind, Shape};
use crate::fixed::{self, ONE};

/// The smallest and largest exponent of a curve.
const EXPONENTS: (f64, f64) = (0.1, 10.0);
/// The largest factor, either way.
const MOST_SCALE: f64 = 1000.0;
/// The most points of a curve.
const MOST_POINTS: usize = 64;

/// A bent pair, or a level and 0.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Bent {
    /// What the game gets.
    pub(crate) to: (i32, i32),
    /// What the dead zone leaves, before curve and scale: how far a hand pushes.
    pub(crate) push: (i32, i32),
}

impl Bent {
    /// What no shape bends.
    pub(crate) fn straight(to: (i32, i32)) -> Bent {
        Bent { to, push: to }
    }
}

/// Levels have 20 bits at most, so the outcome is off by less than 2^-24 of a millionth: less than what keeps a quotient
/// from the next whole number.
const STRETCH_BITS: u32 = 44;

/// By what the levels between dead zone and outer edge grow.
fn stretch(dead: i32, full: i32) -> u64 {
    let span = i64::from(full) - i64::from(dead);
    ((ONE as u64) << STRETCH_BITS) / span.max(1) as u64 + 1
}

/// The square of a length that leaves something beyond a round dead zone.
fn moves_from(dead: i32) -> i64 {
    // By 4 millionths beyond it at least 4 are left, and of those 2 on the longer axis. A dead zone that is a fault may be as
    // large as any number.
    fixed::square(dead.saturating_add(4), 0)
}

/// A shape made ready: whole millionths, checked.
#[derive(Clone, Debug, PartialEq, Hash)]
pub(crate) struct ShapePlan {
    dead: i32,
    full: i32,
    /// By what a level beyond the dead zone grows, in parts of 2^44.
    stretch: u64,
    /// From this length on, squared, a pair is certainly not bent to rest; never, where that takes working it out.
    moves_from: i64,
    curve: Curve,
    scale: i64,
    invert_x: bool,
    invert_y: bool,
    dead_kind: DeadKind,
    /// Nothing to do at all.
    plain: bool,
    /// Nothing but a round dead zone and an outer edge.
    is_round: bool,
}

#[derive(Clone, Debug, PartialEq)]
enum Curve {
    Straight,
    Exponent(f64),
    Points(Vec<(i32, i32)>),
}

impl Hash for Curve {
    fn hash<H: Hasher>(&self, state: &mut H) {
        core::mem::discriminant(self).hash(state);
        match self {
            Curve::Straight => {}
            Curve::Exponent(exponent) => exponent.to_bits().hash(state),
            Curve::Points(points) => points.hash(state),
        }
    }
}

/// Where a response begins and ends to do anything, from 0 to 1.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct ResponseEdges {
    /// Up to here nothing happens.
    pub dead: f32,
    /// From here on it is all the way.
    pub full: f32,
    /// Whether each axis is cut for itself.
    pub each_axis: bool,
}

impl ShapePlan {
    /// The shape that changes nothing.
    pub(crate) fn plain() -> ShapePlan {
        ShapePlan {
            dead: 0,
            full: ONE,
            stretch: stretch(0, ONE),
            moves_from: moves_from(0),
            curve: Curve::Straight,
            scale: i64::from(ONE),
            invert_x: false,
            invert_y: false,
            dead_kind: DeadKind::Round,
            plain: true,
            is_round: true,
        }
    }

    /// Checks a shape and makes it ready; what is wrong goes to `problem`, as a key and what it should be.
    pub(crate) fn build(shape: &Shape, mut problem: impl FnMut(&str, String)) -> ShapePlan {
        use alloc::format;
        let (dead, full) = (shape.dead, shape.full);
        if !(0.0..1.0).contains(&dead) {
            problem("dead", format!("`dead` must be from 0 to below 1, found {dead}"));
        }
        if !(full > dead && full <= 1.0) {
            problem("full", format!("`full` must be above `dead` ({dead}), up to and including 1, found {full}"));
        }
        if !(shape.scale.abs() <= MOST_SCALE && shape.scale != 0.0) {
            problem(
                "scale",
                format!("`scale` must be from -{MOST_SCALE} to {MOST_SCALE} and not 0, found {}", shape.scale),
            );
        }
        let curve = match &shape.curve {
            Bend::Exponent(n) if *n == 1.0 => Curve::Straight,
            Bend::Exponent(n) => {
                if !(EXPONENTS.0..=EXPONENTS.1).contains(n) {
                    problem(
                        "curve",
                        format!("the exponent must be from {} to {}, found {n}", EXPONENTS.0, EXPONENTS.1),
                    );
                }
                Curve::Exponent(*n)
            }
            Bend::Points(points) => {
                if points.is_empty() {
                    problem(
                        "curve",
                        "a curve needs at least one point, as in [[0.5, 0.2]]; remove `curve` for a straight line"
                            .into(),
                    );
                }
                let micro = |value: f64| fixed::from_f64(value).unwrap_or(-1).clamp(-1, i64::from(ONE) + 1) as i32;
                let mut line: Vec<(i32, i32)> = points.iter().map(|[x, y]| (micro(*x), micro(*y))).collect();
                if line.first().is_none_or(|point| point.0 != 0) {
                    line.insert(0, (0, 0));
                }
                if line.last().is_none_or(|point| point.0 != ONE) {
                    line.push((ONE, ONE));
                }
                let inside = line.iter().all(|(x, y)| (0..=ONE).contains(x) && (0..=ONE).contains(y));
                let rising = line.windows(2).all(|pair| pair[0].0 < pair[1].0 && pair[0].1 <= pair[1].1);
                if !inside || !rising {
                    problem(
                        "curve",
                        "the points must rise from [0, 0] to [1, 1]: each first number above the one before, no second number below the one before".into(),
                    );
                }
                if line.len() > MOST_POINTS {
                    problem("curve", format!("a curve can have at most {MOST_POINTS} points, found {}", line.len()));
                }
                Curve::Points(line)
            }
        };
        let is_round = *shape == Shape { dead, full, ..Shape::default() };
        let micro = |value: f64| fixed::from_f64(value).unwrap_or(0) as i32;
        let (dead, full) = (micro(dead), micro(full));
        ShapePlan {
            dead,
            full,
            stretch: stretch(dead, full),
            moves_from: if is_round { moves_from(dead) } else { i64::MAX },
            curve,
            scale: fixed::from_f64(shape.scale).unwrap_or(0),
            invert_x: shape.invert_x,
            invert_y: shape.invert_y,
            dead_kind: shape.dead_kind,
            plain: *shape == Shape::default(),
            is_round,
        }
    }

    /// Dead zone and outer edge as fractions, and whether each axis is cut for itself.
    pub(crate) fn edges(&self) -> ResponseEdges {
        let each_axis = self.dead_kind == DeadKind::EachAxis;
        ResponseEdges { dead: fixed::to_f32(self.dead), full: fixed::to_f32(self.full), each_axis }
    }

    /// Whether small levels are cut off.
    pub(crate) fn has_dead_zone(&self) -> bool {
        self.dead > 0
    }

    /// The factors across and up, with their signs, in millionths; for counts, which have no dead zone and no edge.
    pub(crate) fn factors(&self) -> (i64, i64) {
        let sign = |inverted: bool| if inverted { -self.scale } else { self.scale };
        (sign(self.invert_x), sign(self.invert_y))
    }

    /// Bends a pair; the outcome is never longer than one. Besides, what the dead zone leaves of it before curve and scale.
    #[inline(always)]
    pub(crate) fn pair(&self, x: i32, y: i32) -> Bent {
        if self.is_round { self.round_pair(x, y) } else { self.bent_pair(x, y) }
    }

    /// Whether it is nothing but a round dead zone and an outer edge, as nearly all are.
    #[inline(always)]
    pub(crate) fn is_round(&self) -> bool {
        self.is_round
    }

    /// The same, if it is.
    #[inline(always)]
    pub(crate) fn round_pair(&self, x: i32, y: i32) -> Bent {
        if self.plain {
            return Bent::straight(fixed::within_one(x, y));
        }
        let size = fixed::length_of_levels(x, y);
        let wanted = self.past_dead(size);
        if wanted == 0 {
            return Bent::default();
        }
        let (x, y) = (fixed::share(x, wanted, size), fixed::share(y, wanted, size));
        Bent::straight(fixed::within_one(x, y))
    }

    /// The same for any shape.
    #[inline(never)]
    fn bent_pair(&self, x: i32, y: i32) -> Bent {
        let (x, y) = match self.dead_kind {
            DeadKind::Round => (x, y),
            DeadKind::EachAxis => (self.past_dead(x), self.past_dead(y)),
        };
        let size = fixed::length(x, y);
        if size == 0 {
            return Bent::default();
        }
        let cut = match self.dead_kind {
            DeadKind::Round => self.past_dead(size),
            DeadKind::EachAxis => size.min(ONE),
        };
        let wanted = self.scaled(self.bent(cut));
        let turned = |(x, y): (i32, i32)| (if self.invert_x { -x } else { x }, if self.invert_y { -y } else { y });
        let long = |wanted: i32| (fixed::scale(x, wanted, size), fixed::scale(y, wanted, size));
        let (x, y) = turned(long(wanted));
        let to = fixed::within_one(x, y);
        // A scale below 0 turns what is pushed, too.
        let plain = if wanted < 0 { -cut } else { cut };
        Bent { to, push: if plain == wanted { to } else { turned(long(plain)) } }
    }

    /// Bends a single level. On an axis either way of inverting turns it about.
    #[inline(always)]
    pub(crate) fn level(&self, level: i32) -> Bent {
        if self.is_round { self.round_level(level) } else { self.bent_level(level) }
    }

    /// The same, if it is round.
    #[inline(always)]
    pub(crate) fn round_level(&self, level: i32) -> Bent {
        Bent::straight((self.past_dead(level), 0))
    }

    /// The same for any shape.
    #[inline(never)]
    fn bent_level(&self, level: i32) -> Bent {
        let cut = self.past_dead(level);
        let wanted = self.scaled(self.bent(cut.abs()));
        let turns = (cut < 0) != (self.invert_x || self.invert_y);
        let (to, plain) = (if turns { -wanted } else { wanted }, cut.abs());
        Bent { to: (to, 0), push: (if to < 0 { -plain } else { plain }, 0) }
    }

    /// What the dead zone leaves of a signed level, rescaled to begin at 0 and to end at 1.
    #[inline]
    fn past_dead(&self, level: i32) -> i32 {
        let size = level.abs();
        if size <= self.dead {
            return 0;
        }
        if size >= self.full {
            return if level < 0 { -ONE } else { ONE };
        }
        // Below `full`, so it is less than 2^64, and as near to the quotient as it takes to be rounded down to the same.
        let left = (((size - self.dead) as u64 * self.stretch) >> STRETCH_BITS) as i32;
        if level < 0 { -left } else { left }
    }

    /// The curve over 0..=1.
    fn bent(&self, level: i32) -> i32 {
        match &self.curve {
            Curve::Straight => level,
            _ if level <= 0 || level >= ONE => level.clamp(0, ONE),
            Curve::Exponent(n) => {
                let bent = libm::pow(f64::from(level) / f64::from(ONE), *n);
                fixed::from_f64(bent).unwrap_or(0) as i32
            }
            Curve::Points(points) => {
                let after = points.partition_point(|point| point.0 <= level).clamp(1, points.len() - 1);
                let ((x0, y0), (x1, y1)) = (points[after - 1], points[after]);
                y0 + fixed::scale(level - x0, y1 - y0, x1 - x0)
            }
        }
    }

    /// The factor, signed; at most one either way.
    fn scaled(&self, level: i32) -> i32 {
        let one = i64::from(ONE);
        (i64::from(level) * self.scale / one).clamp(-one, one) as i32
    }
}

#[cfg(test)]
mod tests;
