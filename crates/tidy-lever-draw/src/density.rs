//! Density of a crowded lane: the share of time that each tone covers, and how many signs there are.
//!
//! Uses the same memory for a tape of any length: a fixed number of time slices, whose length doubles when they run out.

use crate::timeline::{Moment, Sign, Span, Tone};

/// A lane with more items than this is drawn as density. That is one span for every second pixel column; a sign counts as
/// `WIDE` spans.
const MOST_APART: usize = 540;
const WIDE: usize = 5;
/// The most time slices: two for each pixel column.
const MOST_STRETCHES: usize = 2_160;
/// The first length of a slice, in µs.
const FIRST: u64 = 1_000;

/// Whether a lane with this many spans and moments is crowded.
pub(crate) fn is_crowd(spans: usize, moments: usize) -> bool {
    spans + WIDE * moments > MOST_APART
}

/// What a lane shows, in time slices of equal length.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Density {
    from: u64,
    step: u64,
    stretches: Vec<Stretch>,
}

/// One time slice of a lane.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
struct Stretch {
    /// How long each tone covers it, in µs.
    covered: [u64; Tone::ALL.len()],
    /// How many of each sign it holds.
    signs: [u32; Sign::ALL.len()],
}

impl Density {
    pub(crate) fn new(from: u64) -> Density {
        Density { from, step: FIRST, stretches: Vec::new() }
    }

    /// The index of the slice that contains a moment.
    fn place(&mut self, at: u64) -> usize {
        let after = at.saturating_sub(self.from);
        while after / self.step >= MOST_STRETCHES as u64 {
            self.step *= 2;
            self.stretches =
                self.stretches.chunks(2).map(|pair| pair.iter().fold(Stretch::default(), Stretch::and)).collect();
        }
        let place = (after / self.step) as usize;
        if place >= self.stretches.len() {
            self.stretches.resize(place + 1, Stretch::default());
        }
        place
    }

    pub(crate) fn cover(&mut self, span: &Span) {
        let (from, to) = (span.from.max(self.from), span.to.max(span.from + 1).max(self.from));
        self.place(to);
        let (first, last) = (self.place(from), self.place(to));
        for place in first..=last {
            let begins = self.from + place as u64 * self.step;
            let covered = to.min(begins + self.step).saturating_sub(from.max(begins));
            self.stretches[place].covered[span.tone as usize] += covered;
        }
    }

    pub(crate) fn mark(&mut self, moment: &Moment) {
        let place = self.place(moment.at);
        self.stretches[place].signs[moment.sign as usize] += 1;
    }

    /// Where a tone is, with the covered share in eighths, rounded up: from, to, eighths. Equal neighbours are merged.
    pub(crate) fn covered(&self, tone: Tone) -> impl Iterator<Item = (u64, u64, u64)> {
        let eighths = move |stretch: &Stretch| {
            let covered = stretch.covered[tone as usize].min(self.step);
            (covered * 8).div_ceil(self.step)
        };
        self.runs(eighths)
    }

    /// The highest count of a sign in one slice.
    pub(crate) fn most(&self, sign: Sign) -> u32 {
        self.stretches.iter().map(|stretch| stretch.signs[sign as usize]).max().unwrap_or(0)
    }

    /// Where a sign is, with its count per slice: from, to, count. Equal neighbours are merged.
    pub(crate) fn signs(&self, sign: Sign) -> impl Iterator<Item = (u64, u64, u64)> {
        self.runs(move |stretch| u64::from(stretch.signs[sign as usize]))
    }

    /// Runs of slices with the same value; runs of 0 are skipped.
    fn runs(&self, of: impl Fn(&Stretch) -> u64) -> impl Iterator<Item = (u64, u64, u64)> {
        let mut place = 0;
        std::iter::from_fn(move || {
            while self.stretches.get(place).is_some_and(|stretch| of(stretch) == 0) {
                place += 1;
            }
            let (first, value) = (place, of(self.stretches.get(place)?));
            while self.stretches.get(place).is_some_and(|stretch| of(stretch) == value) {
                place += 1;
            }
            let at = |place: usize| self.from + place as u64 * self.step;
            Some((at(first), at(place), value))
        })
    }
}

impl Stretch {
    fn and(mut self, other: &Stretch) -> Stretch {
        self.covered.iter_mut().zip(other.covered).for_each(|(own, other)| *own += other);
        self.signs.iter_mut().zip(other.signs).for_each(|(own, other)| *own += other);
        self
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_lane_of_any_length_keeps_how_much_of_it_was_covered() {
        let mut density = Density::new(0);
        // Half of the time, for three hours.
        for second in 0..10_800_u64 {
            let (from, to) = (second * 1_000_000, second * 1_000_000 + 500_000);
            density.cover(&Span { from, to, label: String::new(), short: "", tone: Tone::Held });
            density.mark(&Moment { at: from, label: String::new(), sign: Sign::Pull });
        }
        assert!(density.stretches.len() <= MOST_STRETCHES, "{} stretches", density.stretches.len());
        let covered: u64 = density.stretches.iter().map(|stretch| stretch.covered[Tone::Held as usize]).sum();
        assert_eq!(covered, 10_800 * 500_000);
        let parts: Vec<u64> = density.covered(Tone::Held).map(|(.., eighths)| eighths).collect();
        assert!(parts.iter().filter(|eighths| (3..=6).contains(*eighths)).count() * 10 > parts.len() * 9, "{parts:?}");
        let pulls: u64 = density.signs(Sign::Pull).map(|(from, to, each)| (to - from) / density.step * each).sum();
        assert_eq!(pulls, 10_800);
        assert_eq!(density.covered(Tone::On).count(), 0);
    }
}
