//! Numbers that stand for entries of the plan's flat tables, and runs of them.

use core::ops::Range;

/// No such number.
pub(crate) const NONE: u16 = u16::MAX;

/// A run in one of the plan's flat tables.
pub(crate) type Run = Range<u32>;

pub(crate) fn run(run: &Run) -> Range<usize> {
    run.start as usize..run.end as usize
}
