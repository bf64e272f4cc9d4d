//! `completions SHELL`

use anyhow::Result;
use clap::CommandFactory;

use crate::Answer;
use crate::arguments::{Arguments, Completions};

pub(crate) fn run(arguments: &Completions) -> Result<Answer> {
    clap_complete::generate(arguments.shell, &mut Arguments::command(), "tidy-lever", &mut std::io::stdout());
    Ok(Answer::Yes)
}
