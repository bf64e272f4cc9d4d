//! Numbers that are each given once, to what must be told from all others of its kind while the program runs.

use core::sync::atomic::{AtomicUsize, Ordering};

static NEXT: AtomicUsize = AtomicUsize::new(1);

/// A number that nothing else has; 0 if none is left, as may be where they are short.
pub(crate) fn serial() -> u64 {
    NEXT.fetch_update(Ordering::Relaxed, Ordering::Relaxed, |number| number.checked_add(1))
        .map_or(0, |number| number as u64)
}
