//! What every action has.

use crate::cue::Presses;
use crate::engine::part::plain_fields;
use crate::index::CueIndex;

/// What every action has.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct ActionState {
    /// Since when it is on.
    pub(crate) on_since: u64,
    /// What its last pull made of a toggle; and since when it had been on, if that pull turned it off.
    pub(crate) toggled: Toggled,
    pub(crate) was_on_since: u64,
    /// When it pulled last, and on which presses.
    pub(crate) pulled_in: u64,
    pub(crate) pulled_on: Presses,
    /// Which of its cues did.
    pub(crate) pulled_by: Option<CueIndex>,
    /// How often it pulled; it wraps.
    pub(crate) pulls: u32,
    pub(crate) on: bool,
}

/// What a pull made of a toggle, so that it can be taken back.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) enum Toggled {
    /// The action is not a toggle, or the pull was taken back.
    #[default]
    Not,
    On,
    Off,
}

const _: () = assert!(size_of::<ActionState>() <= 64);

impl ActionState {
    /// What a state's hash is made of.
    fn words(&self) -> [u64; 10] {
        let ActionState { on_since, toggled, was_on_since, .. } = *self;
        let ActionState { pulled_in, pulled_on, pulled_by, pulls, on, .. } = *self;
        let (turned, turned_since) = match toggled {
            Toggled::Not => (0, 0),
            Toggled::On => (1, 0),
            Toggled::Off => (2, was_on_since),
        };
        let [a, b, c, d] = pulled_on.words();
        let flags = pulled_by.map_or(0, |cue| u64::from(cue.number())) << 32 | u64::from(on);
        [on_since, turned, turned_since, pulled_in, a, b, c, d, u64::from(pulls), flags]
    }
}

plain_fields! {
    ActionState, own => own.words();
}
