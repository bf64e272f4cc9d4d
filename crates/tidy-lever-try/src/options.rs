//! What `try` is asked to do.

use std::path::PathBuf;

use tidy_lever_files::Outputs;
use tidy_lever_tuning::{Answer, answers_beside};

use crate::keys::ToolKey;

/// What `try` is asked to do.
#[derive(Clone, Debug, Default)]
pub struct Options {
    /// The profile's file.
    pub profile: PathBuf,
    /// A player's file over it.
    pub remap: Option<PathBuf>,
    /// Where to record a tape.
    pub record: Option<PathBuf>,
    /// A tape that plays instead of hands.
    pub tape: Option<PathBuf>,
    /// A script of a simulated pad.
    pub pad: Option<PathBuf>,
    /// How many may play, 1 to 8; 0 is 1.
    pub seats: usize,
    /// What the game would answer to pulls.
    pub answers: Vec<Answer>,
    /// Keys of the tool that are not to be chosen by themselves.
    pub tool_keys: Vec<ToolKey>,
    /// So many frames without a window, and the picture of the last of them.
    pub shot: Option<(u32, PathBuf)>,
    /// Whether a tape or picture that exists is replaced; otherwise it is refused.
    pub replace: bool,
    /// Whether what happens is printed, a JSON object a line, as `play --json` does.
    pub json: bool,
    /// The window's or the picture's width and height in pixels; a window on a finer screen has as many more as the system
    /// says.
    pub size: (u32, u32),
    /// How much larger all is drawn than usual; 0 is 1. A window on a finer screen is finer by that screen's own factor, too.
    pub scale: f32,
}

impl Options {
    /// What is going to be written, against all that is read.
    pub(crate) fn outputs(&self) -> Outputs {
        let answers = answers_beside(&self.profile);
        let inputs = [Some(&self.profile), Some(&answers), self.remap.as_ref(), self.tape.as_ref(), self.pad.as_ref()];
        Outputs::new(inputs.into_iter().flatten().map(PathBuf::as_path)).replacing(self.replace)
    }

    /// How much larger all is drawn on a screen of this factor.
    pub(crate) fn scale_on(&self, screen: f64) -> f32 {
        screen as f32 * if self.scale > 0.0 { self.scale } else { 1.0 }
    }
}
