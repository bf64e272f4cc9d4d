//! What a seat learnt of a stick.

use alloc::vec::Vec;

use crate::fixed;

/// Right and up, in millionths.
type Place = (i32, i32);

/// What a seat learnt of one stick of one pad, for a tape that begins in the middle: [`Seat::memory_of`](crate::Seat::memory_of),
/// [`Seat::remember`](crate::Seat::remember).
#[derive(Clone, Debug, Default, PartialEq)]
#[non_exhaustive]
pub struct StickMemory {
    /// Its middle, as the pad says it: right and up.
    pub middle: [f32; 2],
    /// The last places at which it came to rest after springing back, at most five, the newest last.
    pub rests: Vec<[f32; 2]>,
    /// Whether each of its last falls swung to the other side, at most eight, the newest last.
    pub swings: Vec<bool>,
}

impl StickMemory {
    /// As whole millionths: the middle, and the rests. `None` where a place isn't within -1 to 1.
    pub(crate) fn places(&self) -> Option<(Place, Vec<Place>)> {
        let part = |value: f32| (value.abs() <= 1.0).then(|| fixed::within(value));
        let place = |[x, y]: [f32; 2]| Some((part(x)?, part(y)?));
        let rests = self.rests.iter().map(|rest| place(*rest)).collect::<Option<Vec<_>>>()?;
        Some((place(self.middle)?, rests))
    }

    /// Whether nothing was learnt.
    #[cfg(all(feature = "files", feature = "std"))]
    pub(crate) fn is_empty(&self) -> bool {
        self.middle == [0.0, 0.0] && self.rests.is_empty() && self.swings.is_empty()
    }
}
