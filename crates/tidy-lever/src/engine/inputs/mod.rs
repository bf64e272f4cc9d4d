//! Inputs: what devices say becomes edges of buttons and values of sticks.
//!
//! ```text
//!   event ─▶ board (what is down, what stands where) ─┬─▶ edges of buttons
//!                                                      └─▶ signal (crosses, shapes, the winner) ─▶ value, direction
//! ```
//!
//! Nothing here knows of cues, gates or pulls.

pub(crate) mod board;
mod buttons;
pub(crate) mod busy;
mod carry;
pub(crate) mod cross;
pub(crate) mod fingers;
mod guarded;
pub(crate) mod held;
mod levels;
mod listen;
pub(crate) mod losses;
pub(crate) mod pointer;
mod pointing;
pub(crate) mod says;
pub(crate) mod signal;
mod state;
mod sticks;
pub(crate) mod tally;
mod touch;
pub(crate) mod used;
mod using;
pub(crate) mod value;

pub(crate) use state::{Here, Inputs, Moves};

#[cfg(test)]
mod tests;
