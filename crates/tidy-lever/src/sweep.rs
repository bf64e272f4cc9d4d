//! Sweeps: an angle that a mouse's counts and a stick's rate add up to, exactly.
//!
//! Everything is whole numbers of 10⁻²¹ degrees: a level in 10⁻⁶ × a rate in 10⁻⁹ degrees a second × a span in 10⁻⁶ s.
//! So the total at a moment is the same however often it was looked at on the way.

/// 10⁻²¹ degrees in a 10⁻⁹ of a degree.
const NANO: i128 = 1_000_000_000_000;
/// 10⁻²¹ degrees in a count in 10⁻⁶ × a rate in 10⁻⁹.
const COUNT: i128 = 1_000_000;

/// A total goes this far either way, in 10⁻²¹ degrees: 4 billion degrees, so that differences of totals fit as well.
const MOST: i128 = 4_000_000_000 * 1_000_000_000 * NANO;

/// A sweep's running total.
#[derive(Clone, Copy, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct SweepState {
    /// Up to `since`, across and up.
    total: [i128; 2],
    /// From `since` on: the level in millionths × the rate at full deflection.
    rate: [i128; 2],
    since: u64,
    /// The total up to `since` in billionths of a degree, so that asking a sweep that rests costs no division.
    whole: [i64; 2],
}

/// Billionths of a degree, to the nearest.
fn rounded(exact: [i128; 2]) -> [i64; 2] {
    exact.map(|exact| (exact + NANO / 2).div_euclid(NANO) as i64)
}

impl SweepState {
    pub(crate) fn starting(at: u64) -> SweepState {
        SweepState { since: at, ..SweepState::default() }
    }

    /// The total at a moment, across and up, in 10⁻²¹ degrees.
    fn exact(&self, at: u64) -> [i128; 2] {
        let span = i128::from(at.saturating_sub(self.since));
        [0, 1].map(|axis| self.total[axis].saturating_add(self.rate[axis].saturating_mul(span)).clamp(-MOST, MOST))
    }

    /// The total at a moment in billionths of a degree, to the nearest.
    #[inline]
    pub(crate) fn nanos(&self, at: u64) -> [i64; 2] {
        if self.rate == [0, 0] { self.whole } else { self.moving(at) }
    }

    /// The same while it moves by itself.
    #[inline(never)]
    fn moving(&self, at: u64) -> [i64; 2] {
        rounded(self.exact(at))
    }

    /// Whether it stands at this total, in billionths of a degree, and stays there by itself.
    pub(crate) fn rests_at(&self, nanos: [i64; 2]) -> bool {
        self.rate == [0, 0] && self.whole == nanos
    }

    /// Goes on at another level of the stick.
    pub(crate) fn steer(&mut self, level: [i32; 2], per_second: [i64; 2], at: u64) {
        self.total = self.exact(at);
        (self.since, self.whole) = (at, rounded(self.total));
        self.rate = [0, 1].map(|axis| i128::from(level[axis]) * i128::from(per_second[axis]));
    }

    /// Adds counts of a mouse; whether the total stays within its bounds.
    pub(crate) fn count(&mut self, counts: [i32; 2], per_count: [i64; 2]) -> bool {
        let more = [0, 1].map(|axis| self.total[axis] + i128::from(counts[axis]) * i128::from(per_count[axis]) * COUNT);
        self.total = more.map(|total| total.clamp(-MOST, MOST));
        self.whole = rounded(self.total);
        self.total == more
    }

    /// Takes a gap out: as if nothing had moved since the total stood at this many billionths of a degree.
    pub(crate) fn pass(&mut self, nanos: [i64; 2], to: u64) {
        self.total = nanos.map(|nanos| i128::from(nanos) * NANO);
        (self.since, self.whole) = (to, nanos);
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self, at: u64) -> [u64; 8] {
        let halves = |n: i128| [n as u64, (n >> 64) as u64];
        // The total at the moment played says where it began, and when.
        let ([a, b], [x, y]) = (self.exact(at), self.rate);
        let (a, b, x, y) = (halves(a), halves(b), halves(x), halves(y));
        [a[0], a[1], b[0], b[1], x[0], x[1], y[0], y[1]]
    }
}
