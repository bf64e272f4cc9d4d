//! `new FILE`: a small commented profile.

use std::io::Write;
use std::path::Path;

use anyhow::{Context, Result, bail};

use crate::Answer;
use crate::arguments::New;
use crate::input::{self, name};
use crate::paint::{GOOD, in_style};

const STARTER: &str = include_str!("starter.toml");

pub(crate) fn run(arguments: &New) -> Result<Answer> {
    let path = &arguments.file;
    if path == Path::new("-") {
        anstream::stdout().write_all(STARTER.as_bytes())?;
        return Ok(Answer::Yes);
    }
    // Put into place at once, and never over a file that exists.
    let file = input::aside(path, STARTER.as_bytes())?;
    match file.persist_noclobber(path) {
        Ok(_) => {}
        Err(error) if error.error.kind() == std::io::ErrorKind::AlreadyExists => {
            bail!("{} exists already and is left as it is; choose another name", name(path))
        }
        Err(error) => return Err(error.error).with_context(|| format!("{} can't be written", name(path))),
    }
    anstream::println!("{} {}: three actions to start from", in_style(GOOD, "wrote"), name(path));
    anstream::println!("next: tidy-lever check {}", name(path));
    Ok(Answer::Yes)
}
