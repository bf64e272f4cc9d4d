//! What the game told, and what goes by the world's clock.

mod clock;
pub(crate) mod marks;
pub(crate) mod state;
