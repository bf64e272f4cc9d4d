//! Model hands: how players of different skill would perform a profile's actions, and how many of their attempts the profile
//! finds.
//!
//! ```text
//!   profile ─▶ Scene (devices, cue lines, gate, modes) ─┐
//!   Hand (spans, errors, habits), seed, number ─────────┴─▶ Trial ─▶ Rehearsal plays it on a seat ─▶ Tally
//! ```
//!
//! The hands know a profile only by its text: which controls, which directions, how long to hold. They do not know how long
//! the engine waits or what it forgives. Nothing here reads files, clocks or threads; a trial depends on its hand, its
//! seed and its number alone, and is the same on every platform.

mod dice;
mod distract;
mod fix;
mod grip;
mod hand;
mod interval;
mod perform;
mod rehearsal;
mod scene;
mod sketch;
mod surroundings;
mod tally;
mod wear;

pub use fix::{Fix, fix};
pub use grip::Way;
pub use hand::{Hand, HandError};
pub use interval::interval;
pub use rehearsal::{Came, Rehearsal, Stage};
pub use scene::{Scene, Situation, Trial};
pub use tally::{Miss, Tally};
pub use wear::Wear;
