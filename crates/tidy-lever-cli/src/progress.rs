//! How far a long command is, on standard error; and that it is asked to stop.

use std::sync::atomic::{AtomicBool, Ordering};

use indicatif::{ProgressBar, ProgressDrawTarget, ProgressState, ProgressStyle};

/// A bar on standard error, if that is a terminal: so many of what it counts, and how long the rest will take.
pub(crate) fn bar(length: u64, counted: &str) -> ProgressBar {
    let bar = ProgressBar::with_draw_target(Some(length), ProgressDrawTarget::stderr());
    let left = |state: &ProgressState, to: &mut dyn std::fmt::Write| {
        // In the first moments nobody knows.
        if state.pos() > 0 {
            let _ = write!(to, ", about {} s left", state.eta().as_secs());
        }
    };
    let style = ProgressStyle::with_template(&format!("{{bar:40}} {{human_pos}} of {{human_len}} {counted}{{left}}"));
    bar.with_style(style.unwrap_or_else(|_| ProgressStyle::default_bar()).with_key("left", left))
}

/// Whether Ctrl-C was pressed.
static STOPPED: AtomicBool = AtomicBool::new(false);

/// It was asked to stop.
#[derive(Debug)]
pub(crate) struct Stopped;

impl std::fmt::Display for Stopped {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("stopped")
    }
}

impl std::error::Error for Stopped {}

/// From now on Ctrl-C asks the command to tell what it knows; a second one ends it at once.
pub(crate) fn can_be_stopped() {
    // Where signals can't be heard, Ctrl-C ends the command as ever.
    let _ = ctrlc::set_handler(|| {
        if STOPPED.swap(true, Ordering::Relaxed) {
            std::process::exit(i32::from(crate::STOPPED));
        }
    });
}

/// Whether Ctrl-C was pressed since.
pub(crate) fn is_stopped() -> bool {
    STOPPED.load(Ordering::Relaxed)
}

/// Goes on, unless Ctrl-C was pressed.
///
/// # Errors
/// [`Stopped`].
pub(crate) fn go_on() -> Result<(), Stopped> {
    if is_stopped() { Err(Stopped) } else { Ok(()) }
}
