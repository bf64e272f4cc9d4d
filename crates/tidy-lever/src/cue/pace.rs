//! `paced`: a time limit that follows the player's own rhythm.
//!
//! The time limit is 1.4 times the average gap between the player's presses, clamped to two limits. The average is the mean
//! of the previous average and the newest gap. Until a gap is known, the limit of the cue line applies.

use super::RuleState;

/// The two limits in µs; `None` if the time limit is fixed.
pub(crate) type Pace = Option<(u64, u64)>;

/// The longest that the time limit can become.
pub(crate) fn longest(own: u64, pace: Pace) -> u64 {
    pace.map_or(own, |(_, most)| most)
}

impl RuleState {
    /// The current time limit, which spans this many gaps.
    pub(super) fn window(&self, own: u64, pace: Pace, gaps: u32) -> u64 {
        match pace {
            Some((least, most)) if self.pace > 0 => {
                (u64::from(self.pace) * u64::from(gaps) * 14 / 10).clamp(least, most)
            }
            _ => own,
        }
    }

    /// Records a gap between two presses. A gap longer than the upper limit was not meant as one and is ignored.
    pub(super) fn keep_pace(&mut self, gap: u64, pace: Pace, gaps: u32) {
        let Some((_, most)) = pace else { return };
        if gap == 0 || gap > most / u64::from(gaps.max(1)) {
            return;
        }
        let gap = gap.min(u64::from(u32::MAX)) as u32;
        self.pace = if self.pace == 0 { gap } else { self.pace / 2 + gap / 2 };
    }
}
