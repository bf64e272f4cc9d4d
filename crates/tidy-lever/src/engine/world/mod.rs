//! The world: what the game told, and what goes by its clock. It says whether a gate stands open, and who listens.

mod carry;
mod clock;
mod gates;
pub(crate) mod marks;
mod modes;
mod spending;
mod state;

pub(crate) use state::{MARKS, World};

#[cfg(test)]
mod tests;
