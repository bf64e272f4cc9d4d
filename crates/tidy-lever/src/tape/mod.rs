//! Tapes: what was fed and told, as JSON Lines. A header, then one object a line, in order of `at`.
//!
//! ```text
//!   text ──Reader──▶ Line ──Replayer──▶ seat
//!                         ──Deck──────▶ all seats of a tape, with profiles, player's files and numbers that it goes over to
//!   Line ──Writer──▶ text
//!   a game's calls ──Recorder──▶ seat, and its lines
//!   what happened in a seat ──OutputLine──▶ text
//! ```
//!
//! Reading and writing stream: a tape of any length takes the same memory.

#[cfg(feature = "std")]
mod deck;
mod output_line;
mod line;
mod plain;
mod replayer;
mod raw;
#[cfg(feature = "std")]
mod reader;
#[cfg(feature = "std")]
mod recorded;
#[cfg(feature = "std")]
mod recorder;
#[cfg(feature = "std")]
mod ring;
#[cfg(feature = "std")]
mod state;
#[cfg(feature = "std")]
mod writer;

#[cfg(feature = "std")]
pub use deck::{Deck, DeckError};
pub use line::{DeviceEntry, Header, Line, LineError, LineKind, TapeValue};
pub use output_line::{Decimal, OutputLine, Swept};
#[cfg(feature = "std")]
pub use reader::{Reader, TapeError, TapeProblem};
#[cfg(feature = "std")]
pub use recorded::Recorded;
#[cfg(feature = "std")]
pub use recorder::Recorder;
pub use replayer::{PutError, Replayer};
#[cfg(feature = "std")]
pub use writer::Writer;

/// The version of the format that this crate reads and writes.
pub const VERSION: u32 = 1;
