//! `new FILE`: a small commented profile, or one for a kind of game with a tape to play at once.

use std::io::Write;
use std::path::Path;

use anyhow::{Result, bail};
use tidy_lever_files::Kept;

use crate::Answer;
use crate::arguments::{New, Template};
use crate::input::name;
use crate::out::Out;
use crate::paint::{GOOD, in_style};

const STARTER: &str = include_str!("../templates/starter.toml");

/// A template's profile, and its tape.
fn texts(template: Template) -> (&'static str, &'static str) {
    match template {
        Template::SideView => {
            (include_str!("../templates/side-view.toml"), include_str!("../templates/side-view.jsonl"))
        }
        Template::FromAbove => {
            (include_str!("../templates/from-above.toml"), include_str!("../templates/from-above.jsonl"))
        }
        Template::Duel => (include_str!("../templates/duel.toml"), include_str!("../templates/duel.jsonl")),
        Template::TouchScreen => {
            (include_str!("../templates/touch-screen.toml"), include_str!("../templates/touch-screen.jsonl"))
        }
    }
}

pub(crate) fn run(arguments: &New) -> Result<Answer> {
    let path = &arguments.file;
    let (profile, tape) = match arguments.template {
        Some(template) => {
            let (profile, tape) = texts(template);
            (profile, Some(tape))
        }
        None => (STARTER, None),
    };
    let mut out = Out::screen();
    if path == Path::new("-") {
        out.write_all(profile.as_bytes())?;
        return Ok(Answer::Yes);
    }
    let beside = path.with_extension("jsonl");
    if tape.is_some() && beside == *path {
        bail!("{} is the profile's name, and its tape would have the same; end it in .toml", name(path));
    }
    // Put into place at once, and never over a file that exists.
    let files = [(path, Some(profile)), (&beside, tape)];
    let files: Vec<_> = files.into_iter().filter_map(|(path, text)| Some((path, text?))).collect();
    if let Some((taken, _)) = files.iter().find(|(path, _)| path.is_file()) {
        bail!("{} exists already and is left as it is; choose another name", name(taken));
    }
    for (path, text) in &files {
        let file = Kept::lock(path)?;
        if path.is_file() {
            bail!("{} exists already and is left as it is; choose another name", name(path));
        }
        file.write(text.as_bytes())?;
    }
    match tape {
        Some(_) => {
            let (profile, tape) = (name(path), name(&beside));
            writeln!(out, "{} {profile}, and {tape}: a tape to play on it", in_style(GOOD, "wrote"))?;
            writeln!(out, "next: tidy-lever play {profile} {tape}")?;
        }
        None => {
            writeln!(out, "{} {}: three actions to start from", in_style(GOOD, "wrote"), name(path))?;
            writeln!(out, "next: tidy-lever check {}", name(path))?;
        }
    }
    Ok(Answer::Yes)
}
