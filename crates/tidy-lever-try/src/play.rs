//! From what was asked to what plays: a window, or frames without one.

use std::fs::File;
use std::path::{Path, PathBuf};

use anyhow::{Context, Result, ensure};
use tidy_lever_files::Outputs;
use tidy_lever_tuning::answers_beside;

use crate::options::Options;
use crate::session::Session;
use crate::{frames, window};

/// Opens the window and plays until it is closed; or plays without one, where frames are asked for.
///
/// # Errors
/// If there is no display, or a file can't be read or written.
pub fn run(options: &Options) -> Result<()> {
    options.check()?;
    let mut outputs = options.outputs();
    if let Some(shot) = &options.shot {
        outputs.claim(shot)?;
    }
    let session = Session::open(options, &mut outputs)?;
    match options.frames.zip(options.shot.as_ref()) {
        Some((frames, shot)) => frames::run(session, options, frames, shot, &outputs),
        None => window::run(session, options),
    }
}

impl Options {
    /// Whether the profile can be a file that is watched. Its faults are shown in the window.
    pub(crate) fn check(&self) -> Result<()> {
        let name = self.profile.display();
        ensure!(
            self.profile != Path::new("-"),
            "`try` watches and saves its profile, so it takes a file, not standard input"
        );
        ensure!(!self.profile.is_dir(), "{name} is a folder; name a file in it");
        let opened = File::open(&self.profile);
        opened.with_context(|| format!("{name} can't be opened")).map(drop)
    }

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
