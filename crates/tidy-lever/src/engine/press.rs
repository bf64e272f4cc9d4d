//! The identity of a press, which every match carries.

use crate::event::MOST_DEVICES;

/// A press's identity: a number that grows, then whether it is the entering of a direction, then the device that made it.
const MAKER_BITS: u32 = 6;
pub(crate) const DIRECTION: u64 = 1 << MAKER_BITS;
pub(crate) const ORDER_BITS: u32 = MAKER_BITS + 1;
const _: () = assert!(1 << MAKER_BITS == MOST_DEVICES);

/// The bit of the device that made a press.
pub(crate) fn maker(press: u32) -> u64 {
    1 << (press & ((1 << MAKER_BITS) - 1))
}

/// Whether a press is the entering of a direction.
pub(crate) fn is_direction(press: u32) -> bool {
    u64::from(press) & DIRECTION != 0
}
