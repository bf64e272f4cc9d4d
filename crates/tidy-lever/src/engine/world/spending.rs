//! What an action's last pull left behind: its cooldown and its stage.

use crate::engine::part::plain_fields;

/// What goes by an action's last pull, on the world's clock.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Spending {
    /// Until when it cools down; 0 for not.
    pub(crate) cool_until: u64,
    /// Which stage its last pull was, and the one before; 0 for none.
    pub(crate) stage: u8,
    pub(crate) stage_before: u8,
}

impl Spending {
    /// What a state's hash is made of.
    fn words(&self) -> [u64; 2] {
        let Spending { cool_until, stage, stage_before } = *self;
        [cool_until, u64::from(stage) << 8 | u64::from(stage_before)]
    }
}

plain_fields! {
    Spending, own => own.words();
}
