//! `check PROFILE`: what is wrong with it, and what it says.

use std::io::Write;

use anyhow::Result;
use serde_json::json;
use tidy_lever::linkage::ActionView;
use tidy_lever::profile::{self, Fault, Severity};
use tidy_lever::{Linkage, Profile};

use crate::Answer;
use crate::arguments::Check;
use crate::input;
use crate::out::Out;
use crate::paint::{self, BAD, GOOD, HEAD, WARN, in_style};

/// How wide a line of controls may be.
const WIDE: usize = 32;

pub(crate) fn run(arguments: &Check) -> Result<Answer> {
    let (name, text) = (input::name(&arguments.profile), input::text(&arguments.profile)?);
    let mut built = input::read(&text).map(|(_, linkage)| linkage);
    // What a player's file says that has no effect or shares a control, and what is wrong with the panel.
    let mut notes: Vec<String> = Vec::new();
    if let (Ok(linkage), Some(over)) = (&mut built, &arguments.remap) {
        let (profile, remap) = (Profile::from_toml(&text)?, input::remap(over)?);
        let laid = remap.over(&profile)?;
        notes.extend(laid.left_alone.iter().map(ToString::to_string));
        notes.extend(remap.conflicts(&profile)?.iter().map(ToString::to_string));
        *linkage = laid.linkage;
    }
    if let Ok(linkage) = &built {
        let ((width, height), dpi) = (arguments.screen.size, arguments.screen.dpi);
        notes.extend(linkage.panel_problems(width, height, dpi));
    }
    let faults: Vec<&Fault> = match &built {
        // What of a player's settings was kept within limits is a note already.
        Ok(linkage) => linkage.warnings().filter(|fault| !fault.path.starts_with("access.")).collect(),
        Err(faults) => faults.iter().collect(),
    };
    let hard = faults.iter().filter(|fault| fault.severity == Severity::Fault || arguments.strict).count()
        + if arguments.strict { notes.len() } else { 0 };
    let over = arguments.remap.as_deref().map(input::name).unwrap_or_default();
    let mut out = Out::screen();
    if arguments.json {
        for fault in &faults {
            let severity = if fault.severity == Severity::Fault { "fault" } else { "warning" };
            let (line, column) = (fault.spot.line, fault.spot.column);
            let told = json!({"what": severity, "line": line, "column": column, "path": fault.path,
                "problem": fault.problem, "nearest": fault.nearest});
            out.json(&told)?;
        }
        for note in &notes {
            out.json(&json!({"what": "warning", "problem": note}))?;
        }
        if arguments.numbers {
            super::numbers::lines(&mut out, &profile::numbers(&text).unwrap_or_default())?;
        } else if let Ok(linkage) = &built {
            for action in linkage.actions() {
                let controls: Vec<&str> = action.controls().iter().map(|c| c.name.as_str()).collect();
                let cue = action.cue().map(ToString::to_string);
                let cues: Vec<String> = action.cues().map(ToString::to_string).collect();
                let delay = action.delay().map(|delay| delay.at_most.as_micros() as u64);
                let why = action.delay().map(|delay| delay.why).filter(|why| !why.is_empty());
                let modes: Option<Vec<&str>> = action.modes().map(Iterator::collect);
                let mut told = json!({"what": "action", "action": action.name(), "kind": action.kind().name(),
                    "controls": controls, "cue": cue, "delay": delay, "why": why, "modes": modes});
                if cues.len() > 1 {
                    told["cues"] = json!(cues);
                }
                writeln!(out, "{told}")?;
            }
        }
    } else {
        if arguments.numbers {
            super::numbers::table(&mut out, &profile::numbers(&text).unwrap_or_default())?;
        } else if let Ok(linkage) = &built {
            summary(&mut out, linkage)?;
        }
        write!(out, "{}", input::all_told(faults.iter().copied(), &name, &text))?;
        for note in notes.iter().take(input::MOST_FAULTS) {
            let file = if note.starts_with("panel.") { &name } else { &over };
            writeln!(out, "{} {file}: {note}", in_style(WARN, "warning"))?;
        }
        if notes.len() > input::MOST_FAULTS {
            writeln!(out, "and {} more", notes.len() - input::MOST_FAULTS)?;
        }
        let warnings = notes.len() + faults.len() - faults.iter().filter(|f| f.severity == Severity::Fault).count();
        let count = |n: usize, what: &str| format!("{n} {what}{}", if n == 1 { "" } else { "s" });
        match &built {
            Err(_) => writeln!(out, "{}: {name} can't be used", in_style(BAD, count(faults.len(), "fault")))?,
            Ok(_) if warnings > 0 => {
                let end = if arguments.strict { "; --strict takes them as faults" } else { "; it can be used" };
                writeln!(out, "{}: {name}{end}", in_style(WARN, count(warnings, "warning")))?;
            }
            Ok(_) => writeln!(out, "{}: {name} has no faults", in_style(GOOD, "good"))?,
        }
    }
    Ok(if hard > 0 { Answer::No } else { Answer::Yes })
}

/// An action's controls, a line or more a family.
fn controls(action: ActionView<'_>) -> String {
    let mut lines: Vec<String> = Vec::new();
    let mut family = "";
    for control in action.controls() {
        let (own, short) = control.name.split_once(':').unwrap_or(("", &control.name));
        match lines.last_mut() {
            Some(line) if own == family && line.len() + short.len() < WIDE => *line += &format!(" {short}"),
            _ if own == family => lines.push(format!("{:1$} {short}", "", own.len() + 1)),
            Some(line) if own != family && line.len() + own.len() + short.len() + 5 < WIDE => {
                *line += &format!("   {own}: {short}");
            }
            _ => lines.push(format!("{own}: {short}")),
        }
        family = own;
    }
    lines.join("\n")
}

/// The longest that a pull may come after the movement that decides it.
fn delay(action: ActionView<'_>) -> String {
    match action.delay() {
        None => "-".into(),
        Some(delay) if delay.why.is_empty() => format!("{} ms", delay.at_most.as_millis()),
        Some(delay) => format!("{} ms ({})", delay.at_most.as_secs_f64() * 1e3, delay.why),
    }
}

/// The actions as a table.
fn summary(out: &mut impl Write, linkage: &Linkage) -> Result<()> {
    if !linkage.title().is_empty() {
        writeln!(out, "{}", in_style(HEAD, linkage.title()))?;
    }
    let mut table = paint::table();
    table.set_header(["action", "kind", "active in", "cue", "delay", "controls"]);
    for action in linkage.actions() {
        let heard = match action.modes() {
            Some(modes) => modes.collect::<Vec<_>>().join(", "),
            None if action.is_always_heard() => "always".into(),
            None => "every mode".into(),
        };
        let cues: Vec<String> = action.cues().map(ToString::to_string).collect();
        let cue = if cues.is_empty() { "-".to_owned() } else { cues.join(", or ") };
        let controls = controls(action);
        table.add_row([action.name(), action.kind().name(), &heard, &cue, &delay(action), &controls]);
    }
    paint::rows(out, &table)?;
    writeln!(out)?;
    Ok(())
}
