//! `tidy-lever try`: a window on any profile. Play it with real hands, see all that happens, move a number while playing, keep
//! the tape.
//!
//! ```text
//!   window, pads, tape ──▶ Session (seats, recorder, answers, lanes) ──▶ Screen ──▶ pixels
//!                             ▲ Tuning: file, moved numbers               │
//!                             └──────── switches, sliders, tool keys ◀────┘
//! ```
//!
//! Without the feature `window` there is only what the command needs to know: [`Options`], and how the program that opens the
//! window is [started](start).

#[cfg(feature = "window")]
mod frames;
#[cfg(feature = "window")]
mod hits;
mod keys;
#[cfg(feature = "window")]
mod layout;
mod options;
#[cfg(feature = "window")]
mod play;
mod start;
#[cfg(feature = "window")]
mod screen;
#[cfg(feature = "window")]
#[cfg(feature = "window")]
mod session;
#[cfg(feature = "window")]
mod sliders;
#[cfg(feature = "window")]
mod stage;
#[cfg(feature = "window")]
mod story;
#[cfg(feature = "window")]
mod strip;
#[cfg(feature = "window")]
mod switches;
#[cfg(feature = "window")]
mod window;

pub use keys::{Tool, ToolKey};
pub use options::Options;
#[cfg(feature = "window")]
pub use play::run;
pub use start::{Missing, PROGRAM, start};
