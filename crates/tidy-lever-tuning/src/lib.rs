//! Tuning a profile while it plays.
//!
//! ```text
//!   file ──Watch──▶ Tuning ──▶ profile, linkage ──▶ seats (relink)
//!                     ▲ numbers moved, undone, saved into the file's own bytes
//!   answers ──▶ Answering ──▶ facts told in a game's stead, at a pull + 1 µs
//! ```
//!
//! A game uses [`Watch`] and [`Tuning`] to take over a profile as soon as it is saved; a tool moves numbers, too.

mod answer;
mod answering;
mod broken;
mod tuning;
mod watch;

pub use answer::{Answer, AnswerFault, answers_beside, read_answers, write_answers};
pub use answering::Answering;
pub use broken::Broken;
pub use tuning::{Reread, SaveError, Tuning};
pub use watch::{Unwatched, Watch};
