//! What the benches play and compare with: the demo's profile and its round, the same game coded by hand, and how figures are
//! drawn.
#![allow(missing_docs, clippy::unwrap_used, reason = "for benches, which can not go on either")]

pub mod by_hand;
pub mod cases;
#[cfg(feature = "measure")]
pub mod chart;
pub mod fair;
pub mod read;
