//! The path of a motion: which positions a stick goes through, one after another.
//!
//! ```text
//!   7 8 9     up-back    up    up-forward        digits as they lie on a number pad, for a body that faces right;
//!   4 5 6     back    neutral   forward          forward and back follow the game's fact `facing`
//!   1 2 3     down-back  down  down-forward
//! ```

use alloc::vec::Vec;
use core::fmt;
use core::time::Duration;

use crate::direction::Direction;
use crate::time::Plain;

/// Where a stick stands, as a motion names it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Position {
    /// A direction of the screen.
    Screen(Direction),
    /// A direction of the body: as it is when the body faces right, mirrored when it faces left.
    Body(Direction),
    /// At rest.
    Neutral,
}

/// The words for directions of the body, with what they are when it faces right.
const BODY: [(&str, Direction); 6] = [
    ("forward", Direction::Right),
    ("up-forward", Direction::UpRight),
    ("up-back", Direction::UpLeft),
    ("back", Direction::Left),
    ("down-back", Direction::DownLeft),
    ("down-forward", Direction::DownRight),
];

/// The digits 1 to 9.
const DIGITS: [&str; 9] =
    ["down-back", "down", "down-forward", "back", "neutral", "forward", "up-back", "up", "up-forward"];

impl Position {
    /// The position of that word.
    pub fn from_name(name: &str) -> Option<Position> {
        let body = || BODY.into_iter().find(|(word, _)| *word == name).map(|(_, direction)| Position::Body(direction));
        match name {
            "neutral" => Some(Position::Neutral),
            _ => Direction::from_name(name).map(Position::Screen).or_else(body),
        }
    }

    /// Its word.
    pub fn name(self) -> &'static str {
        match self {
            Position::Screen(direction) => direction.name(),
            Position::Body(direction) => {
                BODY.into_iter().find(|(_, of)| *of == direction).map_or(direction.name(), |(word, _)| word)
            }
            Position::Neutral => "neutral",
        }
    }

    /// The direction that it is on the screen for a body that faces this way; `None` at rest.
    pub fn on_screen(self, faces_left: bool) -> Option<Direction> {
        match self {
            Position::Screen(direction) => Some(direction),
            Position::Body(direction) if faces_left => Some(direction.mirrored()),
            Position::Body(direction) => Some(direction),
            Position::Neutral => None,
        }
    }
}

/// One step of a motion.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct PathStep {
    /// Where to.
    pub position: Position,
    /// It may be left out.
    pub maybe: bool,
    /// How long it must be held there; zero for not at all.
    pub held: Duration,
}

impl PathStep {
    /// Whether it must be fresh where a motion begins with it: a plain `forward` or `back`, which a hand that walks holds
    /// anyway.
    pub(crate) fn must_be_fresh(&self) -> bool {
        self.held.is_zero() && matches!(self.position, Position::Body(Direction::Right | Direction::Left))
    }
}

impl From<Position> for PathStep {
    fn from(position: Position) -> PathStep {
        PathStep { position, maybe: false, held: Duration::ZERO }
    }
}

impl fmt::Display for PathStep {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if self.maybe {
            f.write_str("maybe ")?;
        }
        f.write_str(self.position.name())?;
        if self.held.is_zero() { Ok(()) } else { write!(f, " held {}", Plain(self.held)) }
    }
}

/// The position that a digit stands for.
pub(super) fn from_digit(digit: &str) -> Option<Position> {
    let number = digit.parse::<usize>().ok()?;
    Position::from_name(DIGITS.get(number.checked_sub(1)?)?)
}

/// The steps that digits stand for, `236`; `None` if one is not a digit of a number pad.
pub(super) fn from_digits(digits: &str) -> Option<Vec<PathStep>> {
    (0..digits.len()).map(|at| from_digit(digits.get(at..=at)?).map(PathStep::from)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_position_has_one_word_and_mirrors_with_the_body() {
        for name in DIGITS.into_iter().chain(Direction::ALL.into_iter().map(Direction::name)) {
            assert_eq!(Position::from_name(name).map(Position::name), Some(name));
        }
        let forward = Position::from_name("down-forward").unwrap();
        assert_eq!(forward.on_screen(false), Some(Direction::DownRight));
        assert_eq!(forward.on_screen(true), Some(Direction::DownLeft));
        // Straight up and down are the screen's and the body's alike.
        assert_eq!(Position::from_name("up").and_then(|up| up.on_screen(true)), Some(Direction::Up));
    }
}
