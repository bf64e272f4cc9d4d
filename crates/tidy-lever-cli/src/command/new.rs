//! `new FILE`: a small commented profile.

use std::io::Write;
use std::path::Path;

use anyhow::{Result, bail};
use tidy_lever_files::Kept;

use crate::Answer;
use crate::arguments::New;
use crate::input::name;
use crate::paint::{self, GOOD, in_style};

const STARTER: &str = include_str!("starter.toml");

pub(crate) fn run(arguments: &New) -> Result<Answer> {
    let path = &arguments.file;
    let mut out = paint::out();
    if path == Path::new("-") {
        out.write_all(STARTER.as_bytes())?;
        return Ok(Answer::Yes);
    }
    // Put into place at once, and never over a file that exists.
    let file = Kept::lock(path)?;
    if path.is_file() {
        bail!("{} exists already and is left as it is; choose another name", name(path));
    }
    file.write(STARTER.as_bytes())?;
    writeln!(out, "{} {}: three actions to start from", in_style(GOOD, "wrote"), name(path))?;
    writeln!(out, "next: tidy-lever check {}", name(path))?;
    Ok(Answer::Yes)
}
