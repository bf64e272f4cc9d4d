//! `completions SHELL`: a script that asks the command itself what fits.

use std::io::Write;

use anyhow::{Context, Result};
use clap::CommandFactory;
use clap_complete::env::{CompleteEnv, Shells};

use crate::Answer;
use crate::arguments::{Arguments, Completions};
use crate::out::Out;

/// By this the script asks.
const ASKS: &str = "TIDY_LEVER_COMPLETE";
const COMMAND: &str = "tidy-lever";

/// Answers the script, if it is the one that calls; then this is the end.
pub(crate) fn answer() {
    CompleteEnv::with_factory(Arguments::command).var(ASKS).bin(COMMAND).completer(COMMAND).complete();
}

pub(crate) fn run(arguments: &Completions) -> Result<Answer> {
    let shells = Shells::builtins();
    let shell = arguments.shell.to_string();
    let shell = shells.completer(&shell).with_context(|| format!("there are no completions for {shell}"))?;
    let mut script = Vec::new();
    shell.write_registration(ASKS, COMMAND, COMMAND, COMMAND, &mut script)?;
    Out::screen().write_all(&script)?;
    Ok(Answer::Yes)
}
