//! Attempts as they end, seat by seat: each is looked at once.

use tidy_lever::{Attempt, Seat};

/// Attempts that a seat's ledger keeps between two looks.
pub(crate) const ROOM: usize = 4_096;
/// A miss by no more than this is a near one, in µs.
pub(crate) const NEAR: u128 = 100_000;

/// How many attempts of each seat were seen.
#[derive(Debug, Default)]
pub(crate) struct Seen(Vec<(u32, u64)>);

impl Seen {
    /// The attempts of a seat that ended since the last look, and how many of them are lost.
    pub(crate) fn look<'s>(&mut self, seat: u32, now: &'s Seat) -> (impl Iterator<Item = &'s Attempt> + use<'s>, u64) {
        let place = self.0.iter().position(|(known, _)| *known == seat).unwrap_or_else(|| {
            self.0.push((seat, 0));
            self.0.len() - 1
        });
        let from = std::mem::replace(&mut self.0[place].1, now.attempt_count());
        let lost = now.attempt_count() - from - now.attempts_since(from).count() as u64;
        (now.attempts_since(from), lost)
    }
}
