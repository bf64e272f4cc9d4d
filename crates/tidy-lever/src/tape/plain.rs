//! A fast reader for the commonest lines of a tape, in the key order that [`Line::write`] uses: controls, fingers, facts, modes,
//! views and `meant`. Every other line, and every error message, is left to [`Raw`](super::raw::Raw). `tests/it/tapes.rs` compares
//! both, line by line.
//!
//! A line takes 900 instructions here and 4,000 with `Raw` (callgrind, a tape of 23,000 lines); playing it takes 900.

use alloc::borrow::ToOwned;

use super::line::{Line, LineKind, TapeValue};
use crate::event::Phase;
use crate::seat::WIDEST_VIEW;
use crate::table::MOST_SEATS;
use crate::time::Moment;

/// The longest name in bytes; a name of that many bytes is never too long in characters.
const LONGEST_NAME: usize = 255;
/// With up to this many digits both the digits and the power of ten are exact, so that their quotient is correctly rounded.
const MOST_DIGITS: usize = 15;

/// The rest of a line.
struct Letters<'t>(&'t [u8]);

impl<'t> Letters<'t> {
    fn take(&mut self, word: &[u8]) -> Option<()> {
        self.0 = self.0.strip_prefix(word)?;
        Some(())
    }

    /// Reads digits: their value and their count.
    fn digits(&mut self) -> (u64, usize) {
        let (mut number, mut count) = (0_u64, 0);
        while let Some(digit) = self.0.get(count).filter(|letter| letter.is_ascii_digit()) {
            if count == 18 {
                // Too long: the digit that follows makes the caller give up.
                break;
            }
            number = number * 10 + u64::from(digit - b'0');
            count += 1;
        }
        self.0 = &self.0[count..];
        (number, count)
    }

    /// A whole number from 0.
    fn whole(&mut self) -> Option<u64> {
        let starts_with_0 = self.0.first() == Some(&b'0');
        let (number, count) = self.digits();
        (count > 0 && !(starts_with_0 && count > 1)).then_some(number)
    }

    fn number(&mut self) -> Option<f64> {
        let below_0 = self.take(b"-").is_some();
        let before = self.0.len();
        let whole = self.whole()?;
        let mut digits = before - self.0.len();
        let mut number = whole as f64;
        if self.take(b".").is_some() {
            let (part, count) = self.digits();
            digits += count;
            if count == 0 || digits > MOST_DIGITS {
                return None;
            }
            let scale = 10_u64.pow(count as u32);
            number = (whole * scale + part) as f64 / scale as f64;
        }
        (digits <= MOST_DIGITS).then_some(if below_0 { -number } else { number })
    }

    /// A quoted text without escapes.
    fn text(&mut self) -> Option<&'t str> {
        self.take(b"\"")?;
        let end = self.0.iter().position(|letter| matches!(letter, b'"' | b'\\' | 0..0x20))?;
        let (text, rest) = self.0.split_at(end);
        self.0 = rest;
        self.take(b"\"")?;
        core::str::from_utf8(text).ok().filter(|text| text.len() <= LONGEST_NAME)
    }

    /// The keys `x` and `y`.
    fn pair(&mut self) -> Option<(f64, f64)> {
        self.take(b",\"x\":")?;
        let x = self.number()?;
        self.take(b",\"y\":")?;
        Some((x, self.number()?))
    }

    fn flag(&mut self) -> Option<bool> {
        let flag = self.take(b"true").is_some();
        if !flag {
            self.take(b"false")?;
        }
        Some(flag)
    }
}

/// Reads a line, or returns `None` if it is not one of the common ones.
pub(super) fn line(text: &str) -> Option<Line> {
    let mut left = Letters(text.as_bytes());
    left.take(b"{\"at\":")?;
    let at = left.whole().filter(|at| *at <= Moment::LATEST.as_micros())?;
    let mut seat = 1;
    if left.take(b",\"seat\":").is_some() {
        seat = left.whole().filter(|seat| (1..=MOST_SEATS as u64).contains(seat))? as u32;
    }
    left.take(b",\"")?;
    let said = if left.take(b"dev\":").is_some() {
        let device = left.text()?.to_owned();
        if left.take(b",\"touch\":").is_some() {
            let finger = left.whole()?;
            left.take(b",\"phase\":")?;
            let phase = left.text()?;
            let phase = Phase::ALL.into_iter().find(|known| known.name() == phase)?;
            let (x, y) = left.pair()?;
            LineKind::Touch { device, finger, phase, x, y }
        } else {
            left.take(b",\"control\":")?;
            let control = left.text()?.to_owned();
            if left.take(b",\"value\":").is_some() {
                LineKind::Level { device, control, value: left.number()? }
            } else {
                let (x, y) = left.pair()?;
                LineKind::Pair { device, control, x, y }
            }
        }
    } else if left.take(b"fact\":").is_some() {
        let fact = left.text()?.to_owned();
        left.take(b",\"value\":")?;
        let value = match left.flag() {
            Some(flag) => TapeValue::Flag(flag),
            None => TapeValue::Word(left.text()?.to_owned()),
        };
        LineKind::Fact { fact, value }
    } else if left.take(b"mode\":").is_some() {
        let mode = left.text()?.to_owned();
        left.take(b",\"on\":")?;
        LineKind::Mode { mode, on: left.flag()? }
    } else if left.take(b"meant\":").is_some() {
        LineKind::Meant(left.text()?.to_owned())
    } else if left.take(b"view\":[").is_some() {
        let side = |side: u64| u32::try_from(side).ok().filter(|side| (1..=WIDEST_VIEW).contains(side));
        let wide = side(left.whole()?)?;
        left.take(b",")?;
        let high = side(left.whole()?)?;
        left.take(b"]")?;
        LineKind::View { size: [wide, high], dpi: None }
    } else {
        return None;
    };
    (left.0 == b"}").then_some(Line::new(Moment::from_micros(at), seat, said))
}
