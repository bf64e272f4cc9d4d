//! Random numbers, the same for the same seed on every platform.

use rand_core::{Rng, SeedableRng};
use rand_pcg::Pcg64Mcg;

/// Dice of one trial. Every trial has dice of its own, so that neither threads nor order change it.
#[derive(Clone, Debug)]
pub(crate) struct Dice(Pcg64Mcg);

impl Dice {
    /// Dice for the trial of this number, out of a seed and what it is of.
    pub(crate) fn new(seed: u64, of: &str, number: u64) -> Dice {
        // FNV-1a (Fowler, Noll, Vo): the name picks the sequence.
        let name = of
            .bytes()
            .fold(0xcbf2_9ce4_8422_2325u64, |hash, byte| (hash ^ u64::from(byte)).wrapping_mul(0x0000_0100_0000_01b3));
        let mut dice = Dice(Pcg64Mcg::seed_from_u64(seed ^ name ^ number.wrapping_mul(0x9e37_79b9_7f4a_7c15)));
        // The first numbers of near seeds are alike.
        dice.0.next_u64();
        dice
    }

    /// From 0 up to and excluding 1.
    pub(crate) fn part(&mut self) -> f64 {
        (self.0.next_u64() >> 11) as f64 / (1u64 << 53) as f64
    }

    pub(crate) fn between(&mut self, from: f64, to: f64) -> f64 {
        from + (to - from) * self.part()
    }

    /// True in this share of cases.
    pub(crate) fn chance(&mut self, share: f64) -> bool {
        self.part() < share
    }

    /// One of `count`, from 0; 0 where there is none.
    pub(crate) fn pick(&mut self, count: usize) -> usize {
        ((self.part() * count as f64) as usize).min(count.saturating_sub(1))
    }

    /// Normally distributed around 0 with a deviation of 1 (Box and Muller, *A Note on the Generation of Random Normal
    /// Deviates*, 1958).
    pub(crate) fn normal(&mut self) -> f64 {
        let (radius, angle) = (1.0 - self.part(), self.part());
        libm::sqrt(-2.0 * libm::log(radius)) * libm::cos(2.0 * core::f64::consts::PI * angle)
    }

    /// Around a middle, with this deviation; never beyond three of them, as a hand has limits.
    pub(crate) fn about(&mut self, (middle, deviation): (f64, f64)) -> f64 {
        middle + deviation * self.normal().clamp(-3.0, 3.0)
    }

    /// Log-normally distributed: around a median, with this deviation of the logarithm.
    pub(crate) fn span(&mut self, (median, deviation): (f64, f64)) -> f64 {
        median * libm::exp(deviation * self.normal().clamp(-3.0, 3.0))
    }
}
