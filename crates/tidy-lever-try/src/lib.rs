//! `tidy-lever try`: a window on any profile. Play it with real hands, see all that happens, move a number while playing, keep
//! the tape.
//!
//! ```text
//!   window, pads, tape ──▶ Session (seats, recorder, answers, lanes) ──▶ Screen ──▶ pixels
//!                             ▲ Tuning: file, moved numbers               │
//!                             └──────── switches, sliders, tool keys ◀────┘
//! ```

mod frames;
mod hits;
mod keys;
mod layout;
mod options;
mod screen;
mod script;
mod session;
mod sliders;
mod stage;
mod story;
mod strip;
mod switches;
mod window;

pub use keys::{Tool, ToolKey};
pub use options::Options;

use anyhow::Result;

/// Opens the window and plays until it is closed; or plays without one, where frames are asked for.
///
/// # Errors
/// If there is no display, or a file can't be read or written.
pub fn run(options: &Options) -> Result<()> {
    let mut outputs = options.outputs();
    if let Some((_, shot)) = &options.shot {
        outputs.claim(shot)?;
    }
    let session = session::Session::open(options, &mut outputs)?;
    match &options.shot {
        Some((frames, shot)) => frames::run(session, options, *frames, shot, &outputs),
        None => window::run(session, options),
    }
}
