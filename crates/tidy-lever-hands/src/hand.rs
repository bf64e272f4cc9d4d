//! A hand: one set of assumptions about how somebody presses, moves and times.

use serde::Deserialize;

use crate::wear::Wear;

/// How a hand plays. Times are milliseconds, angles degrees.
///
/// A *span* is a median with the deviation of its logarithm (log-normal); an *error* is a mean with its deviation (normal).
/// All numbers are assumptions; `docs/hands.md` lists them with their reasons.
///
/// ```
/// use tidy_lever_hands::Hand;
///
/// let average = Hand::named("average").unwrap();
/// let tired = Hand::from_toml(&average.text.replace("name = \"average\"", "name = \"tired\""))?;
/// assert_eq!((tired.name.as_str(), tired.gap), ("tired", average.gap));
/// # Ok::<(), tidy_lever_hands::HandError>(())
/// ```
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Hand {
    /// Its name in reports.
    pub name: String,
    /// Span of a plain press, from down to up.
    pub press: (f64, f64),
    /// Span between two presses of a double tap, or between giving a direction twice.
    pub gap: (f64, f64),
    /// Span between presses in an order.
    pub order: (f64, f64),
    /// Span between two directions of a motion.
    pub step: (f64, f64),
    /// Span for which the first direction of a motion is held.
    pub first: (f64, f64),
    /// How much longer than asked for something is held: a factor as median, and the deviation of its logarithm.
    pub hold: (f64, f64),
    /// Span of flicking a stick from the centre to the edge.
    pub flick: (f64, f64),
    /// Presses a second while mashing: median, and the deviation of its logarithm.
    pub mash: (f64, f64),
    /// By which share each press of mashing comes later than the one before.
    pub fatigue: f64,
    /// Error between two fingers that are meant to move together.
    pub fingers: (f64, f64),
    /// Error of the press that finishes a motion, counted from the last direction.
    pub finish: (f64, f64),
    /// Error of a press that is timed to something seen: a landing, a ledge.
    pub timing: (f64, f64),
    /// Error of a straight direction, in degrees: its deviation.
    pub aim: f64,
    /// The same for a diagonal.
    pub diagonal: f64,
    /// How far a held stick trembles from report to report, in degrees.
    pub tremble: f64,
    /// How far out a stick is pushed, 0 to 1: mean and deviation.
    pub reach: (f64, f64),
    /// In which share of motions the last direction is passed, and by how many degrees.
    pub overshoot: (f64, f64),
    /// In which share of cases a stick that is let go springs past its centre, and how far.
    pub spring: (f64, f64),
    /// Milliseconds between two reports of a stick or a touch screen.
    pub report: f64,
    /// In which share of trials the hand does something else before or beside it.
    pub distracted: f64,
    /// In which share of trials the last press is repeated out of nervousness.
    pub nervous: f64,
    /// What it plays on; not in its text.
    #[serde(skip)]
    pub wear: Wear,
    /// The text that it was read from.
    #[serde(skip)]
    pub text: String,
}

/// Why a text is not a hand.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum HandError {
    /// It is not TOML, or has other keys.
    #[error("this is not a hand: {0}")]
    Unreadable(String),
    /// A number that a hand can't have.
    #[error("a hand's `{key}` is {range}, and here it is {value}")]
    OutOfRange {
        /// The key.
        key: &'static str,
        /// What it takes.
        range: &'static str,
        /// What it is.
        value: String,
    },
}

const TEXTS: [&str; 3] =
    [include_str!("hands/practised.toml"), include_str!("hands/average.toml"), include_str!("hands/clumsy.toml")];

impl Hand {
    /// The three hands that ship: `practised`, `average` and `clumsy`.
    pub fn all() -> Vec<Hand> {
        TEXTS.iter().filter_map(|text| Hand::from_toml(text).ok()).collect()
    }

    /// One of these by its name.
    pub fn named(name: &str) -> Option<Hand> {
        Hand::all().into_iter().find(|hand| hand.name == name)
    }

    /// Reads a hand. Every key must be there.
    ///
    /// # Errors
    /// A [`HandError`] that says which key is missing, unknown or out of range.
    pub fn from_toml(text: &str) -> Result<Hand, HandError> {
        let hand: Hand =
            toml::from_str(text).map_err(|error| HandError::Unreadable(error.to_string().trim_end().into()))?;
        hand.check()?;
        Ok(Hand { text: text.to_owned(), ..hand })
    }

    fn check(&self) -> Result<(), HandError> {
        let spans = [
            ("press", self.press),
            ("gap", self.gap),
            ("order", self.order),
            ("step", self.step),
            ("first", self.first),
            ("hold", self.hold),
            ("flick", self.flick),
            ("mash", self.mash),
        ];
        for (key, span) in spans {
            let range = "a median above 0 up to 10000, and a deviation from 0 to 2";
            if !(span.0 > 0.0 && span.0 <= 10_000.0 && (0.0..=2.0).contains(&span.1)) {
                return Err(HandError::OutOfRange { key, range, value: format!("{span:?}") });
            }
        }
        for (key, error) in [("fingers", self.fingers), ("finish", self.finish), ("timing", self.timing)] {
            let range = "a mean from -1000 to 1000 ms, and a deviation from 0 to 1000 ms";
            if !((-1_000.0..=1_000.0).contains(&error.0) && (0.0..=1_000.0).contains(&error.1)) {
                return Err(HandError::OutOfRange { key, range, value: format!("{error:?}") });
            }
        }
        for (key, angle) in [("aim", self.aim), ("diagonal", self.diagonal), ("tremble", self.tremble)] {
            if !(0.0..=45.0).contains(&angle) {
                return Err(HandError::OutOfRange { key, range: "0 to 45 degrees", value: angle.to_string() });
            }
        }
        let shares = [
            ("fatigue", self.fatigue),
            ("distracted", self.distracted),
            ("nervous", self.nervous),
            ("overshoot", self.overshoot.0),
            ("spring", self.spring.0),
            ("spring", self.spring.1),
            ("reach", self.reach.0),
            ("reach", self.reach.1),
        ];
        for (key, share) in shares {
            if !(0.0..=1.0).contains(&share) {
                return Err(HandError::OutOfRange { key, range: "a share from 0 to 1", value: share.to_string() });
            }
        }
        if !(0.0..=45.0).contains(&self.overshoot.1) {
            let value = self.overshoot.1.to_string();
            return Err(HandError::OutOfRange { key: "overshoot", range: "0 to 45 degrees", value });
        }
        if !(1.0..=100.0).contains(&self.report) {
            return Err(HandError::OutOfRange { key: "report", range: "1 to 100 ms", value: self.report.to_string() });
        }
        Ok(())
    }

    /// The same hand with every spread and share times a factor; 0 gives a hand that never errs and is never distracted.
    pub fn spread(&self, factor: f64) -> Hand {
        let wide = |(middle, deviation): (f64, f64)| (middle, (deviation * factor).min(2.0));
        let error = |(middle, deviation): (f64, f64)| (middle, (deviation * factor).min(1_000.0));
        let share = |share: f64| (share * factor).clamp(0.0, 1.0);
        Hand {
            wear: self.wear,
            press: wide(self.press),
            gap: wide(self.gap),
            order: wide(self.order),
            step: wide(self.step),
            first: wide(self.first),
            hold: wide(self.hold),
            flick: wide(self.flick),
            mash: wide(self.mash),
            fatigue: share(self.fatigue),
            fingers: error(self.fingers),
            finish: error(self.finish),
            timing: error(self.timing),
            aim: (self.aim * factor).min(45.0),
            diagonal: (self.diagonal * factor).min(45.0),
            tremble: (self.tremble * factor).min(45.0),
            reach: (self.reach.0, share(self.reach.1)),
            overshoot: (share(self.overshoot.0), self.overshoot.1),
            spring: (share(self.spring.0), self.spring.1),
            distracted: share(self.distracted),
            nervous: share(self.nervous),
            name: self.name.clone(),
            report: self.report,
            text: self.text.clone(),
        }
    }
}
