//! Where a stick pointed when something pulled.

use crate::direction::Direction;

/// Where a stick pointed when something pulled: nowhere, unless it ever did.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Aim {
    pub(crate) push: (i32, i32),
    /// The direction that it is held in, or was held in last.
    pub(crate) direction: Option<Direction>,
    pub(crate) held: bool,
    /// How long ago it was let go, in µs; 0 while it is held.
    pub(crate) age: u64,
}

impl Aim {
    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> [u64; 3] {
        let Aim { push, direction, held, age } = *self;
        let pair = u64::from(push.0 as u32) << 32 | u64::from(push.1 as u32);
        [pair, direction.map_or(0, |direction| direction as u64 + 1) << 1 | u64::from(held), age]
    }
}
