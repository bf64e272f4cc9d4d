//! Inputs: what devices say becomes edges of buttons and values of sticks.
//!
//! ```text
//!   event ─▶ board (what is down, what stands where) ─┬─▶ edges of buttons
//!                                                      └─▶ signal (crosses, shapes, the winner) ─▶ value, direction
//! ```
//!
//! `plan` is what a profile compiles to. Nothing here knows of cues, gates or pulls.

pub(crate) mod board;
pub(crate) mod busy;
pub(crate) mod cross;
pub(crate) mod fingers;
pub(crate) mod plan;
pub(crate) mod pointer;
pub(crate) mod signal;
pub(crate) mod used;
pub(crate) mod value;

pub(crate) use plan::{
    Alone, ContactPlan, CrossPlan, FeedPlan, InputsPlan, LegOf, LegPlan, MovedPlan, PairPlan, PointerPlan, Points,
    SlotPlan, Stand, Wire,
};
