//! `demo [RECIPE]`: plays the shipped demo or a recipe.

use std::io::Write;

use anyhow::{Result, bail};
use include_dir::{Dir, File};

use crate::Answer;
use crate::arguments::Demo;
use crate::input;
use crate::out::Out;
use crate::paint::{self, FAINT, HEAD, NAME, in_style};
use crate::run::{Cuts, Relinks, play};
use crate::shipped::{SHIPPED, name, names, recipes, text};
use crate::view::View;

pub(crate) fn run(arguments: &Demo) -> Result<Answer> {
    let mut out = Out::screen();
    match &arguments.recipe {
        _ if arguments.list => list(&mut out)?,
        Some(name) => recipe(&mut out, name)?,
        None => round(&mut out)?,
    }
    Ok(Answer::Yes)
}

/// What a recipe is for: the first paragraph under its heading.
fn need(dir: &Dir<'_>) -> String {
    let readme = dir.get_file(dir.path().join("README.md")).map(text).unwrap_or_default();
    let lines = readme.lines().skip_while(|line| line.starts_with('#') || line.is_empty());
    lines.take_while(|line| !line.is_empty()).collect::<Vec<_>>().join(" ")
}

fn list(out: &mut impl Write) -> Result<()> {
    let wide = recipes().iter().map(|dir| name(dir).len()).max().unwrap_or(0);
    for dir in recipes() {
        let need = need(dir);
        let first = need.split_inclusive(". ").next().unwrap_or_default().trim();
        writeln!(out, "{}  {}", in_style(NAME, format!("{:<wide$}", name(dir))), paint::fitted(first, wide + 2))?;
    }
    writeln!(out, "\nshow one: tidy-lever demo NAME")?;
    Ok(())
}

fn show(out: &mut impl Write, profile: &File<'_>, tape: &File<'_>, beside: &[&File<'_>]) -> Result<()> {
    let (_, linkage) = input::read(text(profile))?;
    let name = format!("demo/{}", tape.path().display());
    let mut view = View::new(&linkage, false);
    let file_name =
        |file: &File<'_>| file.path().file_name().map_or(String::new(), |name| name.to_string_lossy().into_owned());
    let shipped = beside.iter().map(|file| (file_name(file), text(file).to_owned())).collect();
    let relinks = Relinks::inside(text(profile), shipped);
    let cuts = Cuts { relinks: Some(&relinks), ..Cuts::default() };
    let played = play(&linkage, tape.contents(), &name, cuts, &mut view)?;
    view.print(out, &name, &played)
}

/// The morning's round: the whole profile, a minute of play.
fn round(out: &mut impl Write) -> Result<()> {
    let (Some(profile), Some(tape)) = (SHIPPED.get_file("otter-post.toml"), SHIPPED.get_file("morning-round.jsonl"))
    else {
        bail!("the demo's files are missing from this build");
    };
    show(out, profile, tape, &[])?;
    writeln!(
        out,
        "\n{}",
        in_style(
            FAINT,
            paint::fitted(
                "next: `tidy-lever demo --list`, `tidy-lever new my-game.toml`, `tidy-lever check demo/otter-post.toml`",
                0
            )
        )
    )?;
    Ok(())
}

fn recipe(out: &mut impl Write, wanted: &str) -> Result<()> {
    let all = recipes();
    let Some(dir) = all.iter().find(|dir| name(dir) == wanted) else {
        bail!("there is no recipe `{wanted}`; the recipes are {}", names().join(", "));
    };
    writeln!(out, "{}", in_style(HEAD, wanted))?;
    writeln!(out, "{}", paint::fitted(&need(dir), 0))?;
    let mut tapes: Vec<&File<'_>> =
        dir.files().filter(|file| file.path().extension().is_some_and(|e| e == "jsonl")).collect();
    tapes.retain(|file| file.path().file_name().is_some_and(|name| name.to_string_lossy().starts_with("tape")));
    tapes.sort_by_key(|file| file.path().file_stem());
    let players: Vec<&File<'_>> =
        dir.files().filter(|file| file.path().extension().is_some_and(|e| e == "toml")).collect();
    let Some(profile) = dir.get_file(dir.path().join("profile.toml")) else { bail!("the recipe has no profile") };
    for tape in tapes {
        writeln!(out)?;
        show(out, profile, tape, &players)?;
    }
    writeln!(out, "\n{}", in_style(FAINT, format!("settings and things to try: demo/recipes/{wanted}/README.md")))?;
    Ok(())
}
