//! How actions are held.

use crate::engine::part::plain_fields;

/// How the controls of an action are held.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct ButtonState {
    /// Since when it is down, of its first control.
    pub(crate) since: u64,
    /// How long it was down last, in µs.
    pub(crate) last_held: u64,
    /// The newest press of its own; 0 before any.
    pub(crate) press: u64,
    /// How many controls hold it down, counted by device.
    pub(crate) held: u16,
}

const _: () = assert!(size_of::<ButtonState>() <= 32);

impl ButtonState {
    /// What a state's hash is made of.
    fn words(&self) -> [u64; 4] {
        let ButtonState { since, last_held, press, held } = *self;
        [since, last_held, press, u64::from(held)]
    }
}

plain_fields! {
    ButtonState, own => own.words();
}
