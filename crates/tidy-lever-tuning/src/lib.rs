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
#[cfg(feature = "files")]
mod tuning;
#[cfg(feature = "files")]
mod watch;

pub use answer::{Answer, AnswerFault, answers_beside, read_answers, told, write_answers};
pub use answering::{Answered, Answering};
pub use broken::Broken;
#[cfg(feature = "files")]
pub use tuning::{Reread, SaveError, Tuning};
#[cfg(feature = "files")]
pub use watch::{Unwatched, Watch};

/// The guide's chapter about tuning, whose program is tested here.
#[cfg(all(doctest, feature = "files"))]
#[doc = include_str!("../../../docs/guide/16-tuning.md")]
#[derive(Debug)]
pub struct Chapter;
