//! What a seat counted and survived.

/// Counts of what came late, wrong or in vain. They tell of the seat's whole life and lie outside its saved state.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub struct Stats {
    /// Fed or told for a moment already played; played 1 µs after it.
    pub late: u64,
    /// Refused: NaN, infinite, or the wrong sort of level for its control.
    pub refused: u64,
    /// Cut to the range of its control; or a sweep's total cut to 4 billion degrees.
    pub clamped: u64,
    /// Of a control that no action hears.
    pub unheard: u64,
    /// No change when it was played: a key's repeat, a level said twice.
    pub repeats: u64,
    /// Handed back because the queue was full, or for want of room for one more device.
    pub handed_back: u64,
    /// Mouse moves that were added to the next one because the queue was full.
    pub merged: u64,
    /// Moved on because it was its control's second change in one moment.
    pub moved_on: u64,
    /// Edges of keys and buttons that bounced, and were not heard when they came (`debounce`, `drop_out`).
    pub bounces: u64,
    /// Events of sticks that swung to the other side after they were let go, and counted as rest (`snapback`).
    pub swings: u64,
    /// New middles of sticks that were learnt (`centre`).
    pub middles: u64,
    /// Calls of `advance` into the past; they played nothing.
    pub rewinds: u64,
    /// Tellings with another profile's handle, or of a name that the profile no longer has; they were refused.
    pub foreign: u64,
}
