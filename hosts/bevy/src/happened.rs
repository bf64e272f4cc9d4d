//! What happened in a step, as messages, and as entity events for observers.

use bevy_ecs::prelude::*;
use tidy_lever::Happening;
use tidy_lever::handle::ActionHandle;

/// A player joined: the entity has a [`Seat`](crate::Seat) from now on.
#[derive(Clone, Copy, Debug, EntityEvent, Message)]
pub struct Joined {
    /// The player.
    pub entity: Entity,
    /// The place at the table, from 1.
    pub number: usize,
}

macro_rules! happened {
    ($(#[$meta:meta])* $name:ident) => {
        $(#[$meta])*
        #[derive(Clone, Copy, Debug, EntityEvent, Message)]
        pub struct $name {
            /// The player.
            pub entity: Entity,
            /// The place at the table, from 1.
            pub number: usize,
            /// What happened, with its moment, stage, amount, aim and all else.
            pub what: Happening,
        }

        impl $name {
            /// Whether it is this action's.
            pub fn is_of(&self, handle: impl ActionHandle) -> bool {
                self.what.is_of(handle)
            }
        }
    };
}

happened! {
    /// An action fired.
    Pulled
}
happened! {
    /// What an action had on ended.
    Ended
}
happened! {
    /// A mark of a pull was reached.
    Marked
}
