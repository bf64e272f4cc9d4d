//! Edges become pulls: cues hear edges, gates let pass what they meet, and who wins a press pulls.

pub(crate) mod actions;
mod carry;
pub(crate) mod cues;
mod ends;
mod hear;
mod met;
pub(crate) mod motions;
mod nearly;
pub(crate) mod pending;
mod pull;
pub(crate) mod lists;
mod settle;
pub(crate) mod state;
pub(crate) mod tales;

pub(crate) use state::Pulls;

#[cfg(test)]
mod tests;
