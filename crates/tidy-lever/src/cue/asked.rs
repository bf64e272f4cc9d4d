//! What a rule asks of a hand, step by step.

use core::time::Duration;

use super::path::Position;
use crate::direction::Direction;

/// What the hand does in one step.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Act {
    Press,
    /// Press, and then let go.
    Release,
    Hold(Duration),
    /// Press, and let go sooner than this.
    Tap(Duration),
    /// Press this often within the span.
    Mash(u32, Duration),
    /// Turn the stick there, and hold it for so long.
    Toward(Position, Duration),
    /// Give the same direction, any, twice.
    Twice,
    /// Turn the stick round, so many eighths of a circle.
    Circle(u32),
    /// Push the stick from the centre to its edge at once.
    Flick,
}

/// By what it does it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum By<'r> {
    /// The cue's subject.
    Subject,
    /// A direction of it, as a button.
    Direction(Direction),
    Action(&'r str),
}

/// One step that a rule asks for.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Asked<'r> {
    pub(crate) act: Act,
    pub(crate) by: By<'r>,
    /// Together with the step before, and not after it.
    pub(crate) together: bool,
}

impl Asked<'_> {
    /// A step of the cue's subject.
    pub(super) fn of(act: Act) -> Asked<'static> {
        Asked { act, by: By::Subject, together: false }
    }

    /// A step of another action.
    pub(super) fn by(name: &str, act: Act) -> Asked<'_> {
        Asked { act, by: By::Action(name), together: false }
    }
}
