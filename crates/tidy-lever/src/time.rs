//! Moments of the game's own clock, and spans between them. Whole microseconds everywhere; nothing sums floats.

use alloc::string::String;
use core::fmt;
use core::ops::{Add, Sub};
use core::time::Duration;

use thiserror::Error;

/// The longest span that a profile may ask for: one day.
pub const LONGEST_SPAN: Duration = Duration::from_secs(24 * 60 * 60);

/// The last moment there is: 2^62 µs, some 146,000 years.
const LATEST: u64 = 1 << 62;

/// No moment is as late as this; whole numbers are compared faster than options.
pub(crate) const NEVER: u64 = u64::MAX;

/// A point on the game's own clock, in whole microseconds since a start of the game's choosing.
///
/// ```
/// use std::time::Duration;
/// use tidy_lever::Moment;
///
/// let landing = Moment::from_millis(1_500);
/// assert_eq!(landing + Duration::from_micros(1), Moment::from_micros(1_500_001));
/// assert_eq!(landing - Moment::from_millis(400), Duration::from_millis(1_100));
/// assert_eq!(landing.to_string(), "1.500000 s");
/// ```
#[derive(Clone, Copy, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Moment(u64);

impl Moment {
    /// The clock's start.
    pub const ZERO: Moment = Moment(0);

    /// The last moment there is (2^62 µs); later ones are taken as this one.
    pub const LATEST: Moment = Moment(LATEST);

    /// A moment from whole microseconds.
    pub const fn from_micros(micros: u64) -> Moment {
        Moment(if micros > LATEST { LATEST } else { micros })
    }

    /// A moment that is known to be none too late: one that a seat played.
    pub(crate) const fn played(micros: u64) -> Moment {
        Moment(micros)
    }

    /// A moment from whole milliseconds.
    pub const fn from_millis(millis: u64) -> Moment {
        Moment::from_micros(millis.saturating_mul(1_000))
    }

    /// The moment at which tick number `tick` of a loop at `rate` ticks per second ends, to the nearest microsecond.
    ///
    /// Counted from the start each time, so that nothing drifts. A `rate` of 0 gives [`Moment::LATEST`].
    pub const fn of_tick(tick: u64, rate: u32) -> Moment {
        if rate == 0 {
            return Moment::LATEST;
        }
        let rate = rate as u128;
        let micros = (tick as u128 * 1_000_000 + rate / 2) / rate;
        Moment::from_micros(if micros > LATEST as u128 { LATEST } else { micros as u64 })
    }

    /// Whole microseconds since the clock's start.
    pub const fn as_micros(self) -> u64 {
        self.0
    }

    /// Seconds since the clock's start, for showing; never computed with here.
    pub fn as_secs_f64(self) -> f64 {
        self.0 as f64 / 1e6
    }
}

impl fmt::Debug for Moment {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}us", self.0)
    }
}

impl fmt::Display for Moment {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}.{:06} s", self.0 / 1_000_000, self.0 % 1_000_000)
    }
}

impl Add<Duration> for Moment {
    type Output = Moment;

    /// The moment `span` later, at most [`Moment::LATEST`].
    fn add(self, span: Duration) -> Moment {
        Moment::from_micros(self.0.saturating_add(micros(span)))
    }
}

#[cfg(feature = "serde")]
impl serde::Serialize for Moment {
    /// As whole microseconds.
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_u64(self.0)
    }
}

#[cfg(feature = "serde")]
impl<'de> serde::Deserialize<'de> for Moment {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Moment, D::Error> {
        let micros = u64::deserialize(deserializer)?;
        let beyond = || serde::de::Error::custom("the moment is beyond the last possible one");
        if micros <= LATEST { Ok(Moment(micros)) } else { Err(beyond()) }
    }
}

impl Sub<Duration> for Moment {
    type Output = Moment;

    /// The moment `span` earlier, at least [`Moment::ZERO`].
    fn sub(self, span: Duration) -> Moment {
        Moment(self.0.saturating_sub(micros(span)))
    }
}

impl Sub for Moment {
    type Output = Duration;

    /// The span from `earlier` to here; nothing if `earlier` is later.
    fn sub(self, earlier: Moment) -> Duration {
        Duration::from_micros(self.0.saturating_sub(earlier.0))
    }
}

/// A span in whole microseconds, as used inside.
pub(crate) fn micros(span: Duration) -> u64 {
    u64::try_from(span.as_micros()).unwrap_or(LATEST).min(LATEST)
}

/// A span as a profile declares it: text as in files, or a [`Duration`].
///
/// ```
/// use std::time::Duration;
/// use tidy_lever::time::SpanEntry;
///
/// assert_eq!(SpanEntry::from("0.35s").read(), Ok(Duration::from_millis(350)));
/// assert_eq!(SpanEntry::from(Duration::from_millis(350)).to_string(), "350ms");
/// ```
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum SpanEntry {
    /// As in files: `"120ms"`, `"0.35s"`, `"6t@60"`.
    Text(String),
    /// Exactly this long, in whole microseconds.
    Exact(Duration),
}

impl SpanEntry {
    /// The span, to the nearest microsecond.
    ///
    /// # Errors
    /// A [`SpanError`] if the text doesn't read, or the span is longer than [`LONGEST_SPAN`].
    pub fn read(&self) -> Result<Duration, SpanError> {
        match self {
            SpanEntry::Text(text) => parse_span(text),
            SpanEntry::Exact(span) => spanned(span.as_micros()),
        }
    }
}

impl Default for SpanEntry {
    fn default() -> SpanEntry {
        SpanEntry::Text(String::new())
    }
}

impl From<&str> for SpanEntry {
    fn from(text: &str) -> SpanEntry {
        SpanEntry::Text(text.into())
    }
}

impl From<String> for SpanEntry {
    fn from(text: String) -> SpanEntry {
        SpanEntry::Text(text)
    }
}

impl From<Duration> for SpanEntry {
    fn from(span: Duration) -> SpanEntry {
        SpanEntry::Exact(span)
    }
}

impl fmt::Display for SpanEntry {
    /// As in a file.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            SpanEntry::Text(text) => f.write_str(text),
            SpanEntry::Exact(span) => Plain(*span).fmt(f),
        }
    }
}

/// A span as files have it, in the shortest exact way.
pub(crate) struct Plain(pub(crate) Duration);

impl fmt::Display for Plain {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.0.as_micros() {
            us if us % 1_000_000 == 0 && us > 0 => write!(f, "{}s", us / 1_000_000),
            us if us % 1_000 == 0 => write!(f, "{}ms", us / 1_000),
            us => write!(f, "{us}us"),
        }
    }
}

/// Why a text is not a span.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum SpanError {
    /// It doesn't read as a number and a unit.
    #[error("a span is a number with `ms` or `s`, or ticks at a rate: \"120ms\", \"0.35s\", \"6t@60\"")]
    Unreadable,
    /// It is longer than [`LONGEST_SPAN`].
    #[error("a span may last a day (86400s) at most")]
    TooLong,
    /// Ticks at no rate at all.
    #[error("ticks need a rate above 0, as in \"6t@60\"")]
    NoRate,
}

/// Reads a span: `"120ms"`, `"0.35s"`, `"250us"`, or ticks at a rate, `"6t@60"`; to the nearest microsecond.
///
/// ```
/// use std::time::Duration;
/// use tidy_lever::time::parse_span;
///
/// assert_eq!(parse_span("0.35s"), Ok(Duration::from_millis(350)));
/// assert_eq!(parse_span("1t@60"), Ok(Duration::from_micros(16_667)));
/// assert!(parse_span("fast").is_err());
/// ```
///
/// # Errors
/// A [`SpanError`] when the text doesn't read, or asks for more than a day.
pub fn parse_span(text: &str) -> Result<Duration, SpanError> {
    let text = text.trim();
    if let Some((ticks, rate)) = text.split_once("t@") {
        let (ticks, rate) = (decimal(ticks)?, decimal(rate)?);
        if rate == 0 {
            return Err(SpanError::NoRate);
        }
        return spanned((ticks * 1_000_000 + rate / 2) / rate);
    }
    let unit = text.trim_end_matches(|c: char| c.is_ascii_alphabetic());
    let number = decimal(unit.trim_end())?;
    match &text[unit.len()..] {
        "us" => spanned((number + NANO / 2) / NANO),
        "ms" => spanned((number * 1_000 + NANO / 2) / NANO),
        "s" => spanned((number * 1_000_000 + NANO / 2) / NANO),
        _ => Err(SpanError::Unreadable),
    }
}

/// Decimals are read in billionths.
const NANO: u128 = 1_000_000_000;

/// A plain decimal number in billionths; further digits are dropped.
fn decimal(text: &str) -> Result<u128, SpanError> {
    let (whole, part) = text.split_once('.').unwrap_or((text, "0"));
    let digits = |s: &str| !s.is_empty() && s.bytes().all(|b| b.is_ascii_digit());
    if !digits(whole) || !digits(part) {
        return Err(SpanError::Unreadable);
    }
    if whole.len() > 15 {
        return Err(SpanError::TooLong);
    }
    let mut number = whole.bytes().fold(0u128, |n, b| n * 10 + u128::from(b - b'0')) * NANO;
    let mut place = NANO / 10;
    for digit in part.bytes().take(9) {
        number += u128::from(digit - b'0') * place;
        place /= 10;
    }
    Ok(number)
}

fn spanned(micros: u128) -> Result<Duration, SpanError> {
    match u64::try_from(micros).map(Duration::from_micros) {
        Ok(span) if span <= LONGEST_SPAN => Ok(span),
        _ => Err(SpanError::TooLong),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn spans_read_to_the_nearest_microsecond() {
        let cases = [
            ("120ms", 120_000),
            ("0.35s", 350_000),
            ("6t@60", 100_000),
            ("9t@60", 150_000),
            ("1t@144", 6_944),
            ("0.0000005s", 1),
            ("1.5t@59.94", 25_025),
            (" 40us ", 40),
            ("86400s", 86_400_000_000),
            ("0ms", 0),
        ];
        for (text, micros) in cases {
            assert_eq!(parse_span(text), Ok(Duration::from_micros(micros)), "{text}");
        }
    }

    #[test]
    fn what_is_no_span_says_why() {
        for text in ["", "120", "ms", "-5ms", "1e3ms", "12 0ms", "6t60", "t@60", ".5s", "1.s", "5min", "NaNs", "½s"] {
            assert_eq!(parse_span(text), Err(SpanError::Unreadable), "{text}");
        }
        assert_eq!(parse_span("86401s"), Err(SpanError::TooLong));
        assert_eq!(parse_span("99999999999999999999s"), Err(SpanError::TooLong));
        assert_eq!(parse_span("6t@0"), Err(SpanError::NoRate));
    }

    #[test]
    fn moments_saturate_and_ticks_do_not_drift() {
        assert_eq!(Moment::LATEST + Duration::MAX, Moment::LATEST);
        assert_eq!(Moment::ZERO - Moment::from_millis(5), Duration::ZERO);
        assert_eq!(Moment::of_tick(3, 60), Moment::from_micros(50_000));
        assert_eq!(Moment::of_tick(u64::MAX, 1), Moment::LATEST);
    }
}
