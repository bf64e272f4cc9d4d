//! Cues as declared: a rule, the action it listens to, and the line that says both.

use alloc::string::String;
use alloc::vec::Vec;
use core::fmt;
use core::time::Duration;

use super::path::PathStep;

/// The most names in an order, and positions in a motion.
pub(crate) const MOST_NAMES: usize = 16;

/// A cue as declared: which action it listens to, and for what.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub struct Cue {
    /// The action whose signal it listens to; the action itself if none is named.
    pub subject: Option<String>,
    /// What must happen.
    pub rule: Rule,
}

/// What must happen for a cue to pull.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub enum Rule {
    /// `press`: at each going down; on until let go.
    #[default]
    Press,
    /// `release`: at letting go, an instant.
    Release,
    /// `hold 300ms`: once, when down that long from its first control; on until let go.
    Hold {
        /// How long.
        span: Duration,
    },
    /// `tap under 200ms`: at letting go, if it was down for less; an instant.
    Tap {
        /// Below which span.
        under: Duration,
    },
    /// `2 taps 240ms apart`: at the last press, each gap within the span, then again; on until let go. Or
    /// `… counted on release`: at the last letting go, gaps between lettings go; an instant.
    Taps {
        /// How many; 2 to 64.
        count: u32,
        /// The longest gap.
        apart: Duration,
        /// Counted at letting go instead of at the press.
        on_release: bool,
    },
    /// `twice within 240ms`: the same direction of a stick given twice, and let go between; on while it points that way.
    Twice {
        /// The longest gap between the two.
        within: Duration,
        /// `… until neutral`: on until the stick comes to rest, wherever it points.
        until_neutral: bool,
    },
    /// `repeat after 400ms every 80ms`: at the press, then on and on; on until let go.
    Repeat {
        /// From the press to the first repeat.
        after: Duration,
        /// Between repeats.
        every: Duration,
    },
    /// `toggle`: at each press; on as it stands, which the game can set.
    Toggle,
    /// `mash 5 within 1s`: when this many presses fall in one sliding span; on until the rate drops.
    Mash {
        /// How many; 2 to 64.
        count: u32,
        /// The sliding span.
        within: Duration,
    },
    /// `with guard within 40ms`: when both are down, in either order; on until either is let go.
    With {
        /// The other action.
        other: String,
        /// The longest gap between the two.
        within: Duration,
    },
    /// `charge 200ms to 1.2s`: at letting go, with an amount of 0 to 1; sooner nothing. An instant.
    Charge {
        /// From here on it counts, as 0.
        from: Duration,
        /// From here on it is all, 1.
        to: Duration,
    },
    /// `order left, right, hop within 2s`: these presses in a row; hears only what it names, and the last this many always
    /// count. On until the last is let go.
    Order {
        /// Actions, and directions of the stick that is the subject; 2 to 16.
        names: Vec<String>,
        /// From the first press to the last.
        within: Duration,
    },
    /// `rolls down, down-forward, forward then toss within 350ms`: a motion of a stick. On until the action behind `then`
    /// is let go; without one, until neutral.
    Motion {
        /// Where it goes; 2 to 16 steps.
        steps: Vec<PathStep>,
        /// The action whose press finishes it.
        then: Option<String>,
        /// From leaving the first position to the finish.
        within: Duration,
        /// Letting go of the action finishes it, and not its press; then it is an instant.
        on_release: bool,
    },
    /// `spins 1 within 900ms`: a stick goes round, either way, from any start. On until neutral.
    Spins {
        /// How far, in eighths of the circle; 2 to 32.
        eighths: u32,
        /// From leaving the start to coming round.
        within: Duration,
    },
    /// `blink`: of the tests alone.
    #[cfg(test)]
    Blink,
    /// `flicks over 0.8 within 60ms`: a stick goes from the centre out to there at once. On until neutral.
    Flicks {
        /// How far out, in millionths.
        over: i32,
        /// From leaving the centre.
        within: Duration,
    },
}

impl Cue {
    /// A cue that listens to another action.
    pub fn of(subject: impl Into<String>, rule: Rule) -> Cue {
        Cue { subject: Some(subject.into()), rule }
    }
}

impl From<Rule> for Cue {
    fn from(rule: Rule) -> Cue {
        Cue { subject: None, rule }
    }
}

impl fmt::Display for Cue {
    /// The line, which reads back to the same cue.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if let Some(subject) = &self.subject {
            write!(f, "{subject} ")?;
        }
        self.rule.fmt(f)
    }
}
