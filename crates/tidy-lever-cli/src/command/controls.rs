//! `controls [FAMILY]`: the names of controls.

use std::io::Write;

use anyhow::{Result, bail};
use tidy_lever::control::{Control, Family, Part, Sort};

use crate::Answer;
use crate::arguments::Controls;
use crate::out::Out;
use crate::paint::{self, FAINT, HEAD, in_style};

pub(crate) fn run(arguments: &Controls) -> Result<Answer> {
    let families = match &arguments.family {
        None => Family::ALL.to_vec(),
        Some(name) => match Family::from_name(name) {
            Some(family) => vec![family],
            None => bail!("`{name}` is not a family of controls; they are keys, mouse, pad and touch"),
        },
    };
    let mut out = Out::screen();
    for family in families {
        if arguments.json {
            for control in Control::all(family) {
                let (full, sort) = (control.to_string(), sort(control.sort()));
                let parts: Vec<&str> = parts(control.sort()).iter().map(|part| part.name()).collect();
                writeln!(out, "{}", serde_json::json!({"control": full, "sort": sort, "parts": parts}))?;
            }
            continue;
        }
        writeln!(out, "{}", in_style(HEAD, family))?;
        if family == Family::Touch {
            writeln!(out, "  the names of the profile's touch controls, as in [panel.thumb]")?;
        } else if family == Family::Keys {
            writeln!(out, "  {}", in_style(FAINT, "by position (W3C KeyboardEvent.code); each is a button"))?;
            columns(&mut out, Control::all(family))?;
        } else {
            for control in Control::all(family) {
                let parts: Vec<String> = parts(control.sort()).iter().map(|part| format!(".{}", part.name())).collect();
                let note = format!("{} {}", sort(control.sort()), parts.join(" "));
                writeln!(out, "  {:<16} {}", control.name().to_string(), in_style(FAINT, note.trim_end()))?;
            }
        }
        writeln!(out)?;
    }
    Ok(Answer::Yes)
}

fn columns(out: &mut impl Write, controls: impl Iterator<Item = Control>) -> Result<()> {
    let names: Vec<String> = controls.map(|control| control.name().to_string()).collect();
    let wide = names.iter().map(String::len).max().unwrap_or(0) + 2;
    for row in names.chunks((paint::width().unwrap_or(100) - 2) / wide) {
        let row: String = row.iter().map(|name| format!("{name:<wide$}")).collect();
        writeln!(out, "  {}", row.trim_end())?;
    }
    Ok(())
}

fn parts(sort: Sort) -> &'static [Part] {
    match sort {
        Sort::Pair => &Part::NAMED,
        Sort::Counts => &[Part::X, Part::Y],
        _ => &[],
    }
}

fn sort(sort: Sort) -> &'static str {
    match sort {
        Sort::Button => "button",
        Sort::Level => "level 0 to 1",
        Sort::Pair => "two axes, -1 to 1",
        Sort::Counts => "relative counts",
        Sort::Notch => "a press a notch",
        _ => "a place in the view",
    }
}
