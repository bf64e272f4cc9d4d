//! A stick that was let go and swings to the other side: for a moment that is rest.

use super::{PUSHED, hundredths, is_still};
use crate::fixed::{ONE, square};

/// A fall is complete below this push.
const FALLEN: i64 = hundredths(20);
/// It takes no longer than this, in µs.
const FALL: u64 = 45_000;
/// After so long on the other side a push is looked at: one that is held doesn't fall back.
const HELD: u64 = 40_000;
/// By so much a held push may have fallen back.
const SLACK: i32 = ONE / 50;
/// A swing is one from here on.
const SWUNG: i64 = hundredths(15);
/// A fall comes to rest within this, after so long in one place.
const SETTLES: u64 = 150_000;
const REST: u64 = 60_000;
/// How many falls must be known, all of them without a swing, for the guard to sleep.
const ENOUGH: u32 = 3;
/// How many falls are known.
const MOST_KNOWN: usize = 8;

/// Where a fall is.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
enum Phase {
    #[default]
    Quiet,
    /// The stick falls from its side, and is not near the middle yet.
    Falls,
    /// It was let go: the other side is rest until then.
    Guards { until: u64 },
}

/// What one stick swings like.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Swing {
    /// The last vector of 0.6 or more, and whether the stick stands at it.
    pub(super) side: (i32, i32),
    pushed: bool,
    phase: Phase,
    /// The moment of the first vector on the other side, plus 1; and the longest push there.
    crossed: u64,
    peak: i32,
    /// Whether that push was looked at.
    looked: bool,
    /// The fall whose rest is looked for: when it began, plus 1, the first sample of the stretch of rest, and its moment.
    began: u64,
    first: (i32, i32),
    since: u64,
    swung: bool,
    /// Of the last eight falls that came to rest, the newest in the lowest bit: whether each swung; and how many are known.
    swings: u8,
    known: u8,
}

fn dot(one: (i32, i32), other: (i32, i32)) -> i64 {
    i64::from(one.0) * i64::from(other.0) + i64::from(one.1) * i64::from(other.1)
}

impl Swing {
    /// A vector that the stick says now, with the guard's span; what counts of it.
    #[inline]
    pub(super) fn says(&mut self, span: u64, at: u64, now: (i32, i32)) -> (i32, i32) {
        if self.began > 0 {
            self.comes_to_rest(at, now);
        }
        let push = square(now.0, now.1);
        if push >= PUSHED {
            (self.side, self.pushed, self.phase, self.began) = (now, true, Phase::Quiet, 0);
            return now;
        }
        if core::mem::take(&mut self.pushed) {
            (self.phase, self.crossed, self.peak, self.looked) = (Phase::Falls, 0, 0, false);
            (self.began, self.first, self.since, self.swung) = (at + 1, now, at, false);
        }
        let across = dot(now, self.side) < 0;
        self.swung |= self.began > 0 && across && push >= SWUNG;
        if self.phase == Phase::Falls && (push < FALLEN || across) {
            let fell = at + 1 - self.began;
            let guards = fell <= FALL && !self.is_calm() && span > 0;
            self.phase = if guards { Phase::Guards { until: at + span } } else { Phase::Quiet };
        }
        let Phase::Guards { .. } = self.phase else { return now };
        if !across {
            return now;
        }
        if self.crossed == 0 {
            self.crossed = at + 1;
        }
        self.peak = self.peak.max(crate::fixed::length(now.0, now.1));
        (0, 0)
    }

    /// As it is at a moment, while the stick stands where it stood: a fall may have come to rest by then.
    pub(super) fn at(mut self, at: u64) -> Swing {
        if self.began > 0 {
            self.comes_to_rest(at, self.first);
        }
        self
    }

    /// Whether each of the last falls that came to rest swung, the newest last.
    pub(super) fn known(&self) -> impl Iterator<Item = bool> + use<> {
        let swings = self.swings;
        (0..self.known).rev().map(move |fall| swings >> fall & 1 == 1)
    }

    /// One that knows whether the last falls swung.
    pub(super) fn that_knows(falls: &[bool]) -> Swing {
        let last = &falls[falls.len().saturating_sub(MOST_KNOWN)..];
        let swings = last.iter().fold(0, |swings, swung| swings << 1 | u8::from(*swung));
        Swing { swings, known: last.len() as u8, ..Swing::default() }
    }

    /// Whether nothing but a fall, or a push, is news.
    pub(super) fn is_idle(&self) -> bool {
        self.phase == Phase::Quiet && self.began == 0
    }

    /// Whether it swings on none of the falls that are known.
    fn is_calm(&self) -> bool {
        u32::from(self.known) >= ENOUGH && self.swings == 0
    }

    /// A fall that stayed in one place for long enough came to rest before this.
    fn comes_to_rest(&mut self, at: u64, now: (i32, i32)) {
        let last = self.began - 1 + SETTLES;
        if at >= self.since + REST && self.since + REST <= last {
            self.swings = self.swings << 1 | u8::from(self.swung);
            self.known = (self.known + 1).min(MOST_KNOWN as u8);
            self.began = 0;
        } else if at > last {
            self.began = 0;
        } else if !is_still(now, self.first) {
            (self.first, self.since) = (now, at);
        }
    }

    /// While it guards: when the stick was on the other side first, and the guard's end.
    pub(super) fn guards_since(&self) -> Option<(u64, u64)> {
        let Phase::Guards { until } = self.phase else { return None };
        Some((self.crossed.checked_sub(1)?, until))
    }

    /// When the guard is looked at; `None` while it doesn't guard.
    pub(super) fn due(&self) -> Option<u64> {
        let Phase::Guards { until } = self.phase else { return None };
        let held = if self.crossed > 0 && !self.looked { self.crossed - 1 + HELD } else { until };
        Some(held.min(until))
    }

    /// It is looked at; the stick stands here: what counts of that.
    pub(super) fn looks(&mut self, at: u64, now: (i32, i32)) -> (i32, i32) {
        let Phase::Guards { until } = self.phase else { return now };
        let across = dot(now, self.side) < 0;
        let is_held = across && crate::fixed::length(now.0, now.1) >= self.peak - SLACK;
        if at >= until || is_held {
            self.phase = Phase::Quiet;
            return now;
        }
        self.looked = true;
        if across { (0, 0) } else { now }
    }

    /// Where the stick was is forgotten.
    pub(super) fn is_asked(&mut self) {
        self.pushed = false;
    }

    /// It counts as it stands, from now on.
    pub(super) fn lets_go(&mut self) {
        (self.phase, self.began) = (Phase::Quiet, 0);
    }

    /// What a state's hash is made of.
    pub(super) fn words(&self, mut word: impl FnMut(u64)) {
        let pair = |(x, y): (i32, i32)| u64::from(x as u32) << 32 | u64::from(y as u32);
        word(pair(self.side));
        let phase = match self.phase {
            Phase::Quiet => 0,
            Phase::Falls => 1,
            Phase::Guards { until } => until + 2,
        };
        word(phase);
        word(self.crossed);
        word(self.began);
        word(pair(self.first));
        word(self.since);
        let flags = u64::from(self.pushed) | u64::from(self.swung) << 1 | u64::from(self.looked) << 2;
        word(u64::from(self.peak as u32) << 32 | u64::from(self.swings) << 16 | u64::from(self.known) << 8 | flags);
    }
}
