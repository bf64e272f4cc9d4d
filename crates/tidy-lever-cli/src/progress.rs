//! Progress bars on standard error, and stopping a long command with Ctrl-C.

use std::sync::atomic::{AtomicBool, Ordering};

use indicatif::{ProgressBar, ProgressDrawTarget, ProgressState, ProgressStyle};

/// A progress bar on standard error, if that is a terminal. It shows the count and the estimated time left.
pub(crate) fn bar(length: u64, counted: &str) -> ProgressBar {
    let bar = ProgressBar::with_draw_target(Some(length), ProgressDrawTarget::stderr());
    let left = |state: &ProgressState, to: &mut dyn std::fmt::Write| {
        // There is no estimate before the first step.
        if state.pos() > 0 {
            let _ = write!(to, ", about {} s left", state.eta().as_secs());
        }
    };
    let style = ProgressStyle::with_template(&format!("{{bar:40}} {{human_pos}} of {{human_len}} {counted}{{left}}"));
    bar.with_style(style.unwrap_or_else(|_| ProgressStyle::default_bar()).with_key("left", left))
}

/// Whether Ctrl-C was pressed.
static STOPPED: AtomicBool = AtomicBool::new(false);

/// The error of a command that was stopped with Ctrl-C.
#[derive(Debug)]
pub(crate) struct Stopped;

impl std::fmt::Display for Stopped {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("stopped")
    }
}

impl std::error::Error for Stopped {}

/// From now on the first Ctrl-C sets a flag, so that the command can print its partial results. A second one exits at once.
pub(crate) fn can_be_stopped() {
    // If no handler can be installed, Ctrl-C ends the command at once.
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

/// Fails once Ctrl-C was pressed.
///
/// # Errors
/// [`Stopped`].
pub(crate) fn go_on() -> Result<(), Stopped> {
    if is_stopped() { Err(Stopped) } else { Ok(()) }
}
