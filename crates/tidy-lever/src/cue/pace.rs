//! At the hand's pace: a window that follows how fast the player's own presses came lately.
//!
//! The window is 1.4 times the gap, within two limits; the gap is the mean of the one before and the last. Until one is
//! known the window is the line's own.

use super::RuleState;

/// The limits of the window in µs; `None` where it stays as the line says.
pub(crate) type Pace = Option<(u64, u64)>;

/// The longest that a window can become.
pub(crate) fn longest(own: u64, pace: Pace) -> u64 {
    pace.map_or(own, |(_, most)| most)
}

impl RuleState {
    /// The window as it stands, which spans this many gaps.
    pub(super) fn window(&self, own: u64, pace: Pace, gaps: u32) -> u64 {
        match pace {
            Some((least, most)) if self.pace > 0 => {
                (u64::from(self.pace) * u64::from(gaps) * 14 / 10).clamp(least, most)
            }
            _ => own,
        }
    }

    /// Two presses came this far apart. What lies further apart than any window was not meant as one.
    pub(super) fn keep_pace(&mut self, gap: u64, pace: Pace, gaps: u32) {
        let Some((_, most)) = pace else { return };
        if gap == 0 || gap > most / u64::from(gaps.max(1)) {
            return;
        }
        let gap = gap.min(u64::from(u32::MAX)) as u32;
        self.pace = if self.pace == 0 { gap } else { self.pace / 2 + gap / 2 };
    }
}
