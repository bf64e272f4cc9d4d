//! `try PROFILE`: starts the program that opens a window on a profile. Its arguments are checked here first.

use std::ffi::OsString;

use anyhow::Result;

use crate::Answer;

/// What stands behind `try` on the command line.
fn arguments() -> impl Iterator<Item = OsString> {
    std::env::args_os().skip_while(|word| word != "try").skip(1)
}

pub(crate) fn run() -> Result<Answer> {
    Err(tidy_lever_try::start(arguments()).into())
}
