//! `try PROFILE`: a window on a profile.

use anyhow::{Result, bail};
use tidy_lever_try::Options;

use crate::Answer;
use crate::arguments::Try;
use crate::input;

pub(crate) fn run(arguments: &Try) -> Result<Answer> {
    if arguments.profile == std::path::Path::new("-") {
        bail!("`try` watches and saves its profile, so it takes a file, not standard input");
    }
    // What is no file at all is told as everywhere; faults are shown in the window.
    input::text(&arguments.profile)?;
    tidy_lever_try::run(&Options {
        profile: arguments.profile.clone(),
        remap: arguments.remap.clone(),
        record: arguments.record.clone(),
        tape: arguments.tape.clone(),
        pad: arguments.pad.clone(),
        seats: usize::from(arguments.seats),
        answers: arguments.answers.clone(),
        tool_keys: arguments.tool_keys.clone(),
        shot: arguments.frames.zip(arguments.shot.clone()),
        replace: arguments.replace,
        json: arguments.json,
        size: arguments.size,
        scale: arguments.scale,
    })?;
    Ok(Answer::Yes)
}
