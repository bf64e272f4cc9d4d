//! `check PROFILE`: what is wrong with it, and what it says.

use std::io::Write;
use std::path::Path;

use anyhow::{Context, Result};
use serde_json::json;
use tidy_lever::linkage::ActionView;
use tidy_lever::profile::{self, Fault, Number, Severity};
use tidy_lever::tape::Reader;
use tidy_lever::{Linkage, Profile};

use crate::Answer;
use crate::arguments::Check;
use crate::input;
use crate::out::Out;
use crate::paint::{self, BAD, GOOD, HEAD, WARN, in_style};
use crate::wear::{Wear, advice_for_buttons, advice_for_stick};

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
    let wear = arguments.tape.as_deref().map(read).transpose()?;
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
        if let Some(tape) = &wear {
            devices_as_lines(&mut out, tape, &profile::numbers(&text).unwrap_or_default())?;
        } else if arguments.numbers {
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
        if let Some(tape) = &wear {
            devices(&mut out, tape, &profile::numbers(&text).unwrap_or_default())?;
        } else if arguments.numbers {
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

/// What a tape says of its devices.
pub(crate) fn read(tape: &Path) -> Result<Wear> {
    let name = input::name(tape);
    let mut wear = Wear::default();
    for line in Reader::new(input::open(tape)?).with_context(|| name.clone())? {
        wear.line(&line.with_context(|| name.clone())?);
    }
    Ok(wear)
}

/// How long a family's `debounce` is in a profile with these numbers, in ms; as by default where no action has such controls.
fn debounce(numbers: &[Number], family: &str) -> f64 {
    let path = format!("devices.{family}.debounce");
    let keys = profile::table_keys().into_iter().flat_map(|table| table.keys);
    let default = || keys.filter(|key| key.name == "debounce").find_map(|key| key.number?.default);
    let written = numbers.iter().find(|number| number.path == path).map(|number| number.value);
    written.or_else(default).unwrap_or_default()
}

fn times(count: u64) -> String {
    if count == 1 { "once".to_owned() } else { format!("{count} times") }
}

fn devices(out: &mut Out, wear: &Wear, numbers: &[Number]) -> Result<()> {
    let mut said = 0;
    for (device, family, buttons) in wear.buttons() {
        said += 1;
        writeln!(out, "{} ({family}): {} edges of buttons", in_style(HEAD, device), buttons.edges)?;
        let bounced = match &buttons.worst {
            None => "none bounced".to_owned(),
            Some((worst, most)) => format!(
                "bounced {}, for {:.1} ms at most; {worst} most often, {}",
                times(buttons.bounces),
                buttons.longest as f64 / 1e3,
                times(*most)
            ),
        };
        writeln!(out, "  {bounced}")?;
        if let Some(advice) = advice_for_buttons(family, &buttons, debounce(numbers, family)) {
            writeln!(out, "  {}", in_style(GOOD, paint::fitted(&advice, 2)))?;
        }
    }
    for (device, control, stick) in wear.sticks() {
        said += 1;
        let often =
            stick.interval.map_or(String::new(), |gap| format!(", {:.0} per second while it moves", 1e6 / gap as f64));
        writeln!(out, "{} {control}: {} reports{often}", in_style(HEAD, device), stick.reports)?;
        let [left, right, down, up] = stick.reach;
        writeln!(out, "  reach: left {left:.2}, right {right:.2}, down {down:.2}, up {up:.2}")?;
        let rest = stick.rests_at.map_or(String::new(), |(x, y)| format!("; it rests at {x:.2}, {y:.2}"));
        writeln!(out, "  spring-backs: {}, swings past its middle: {}{rest}", stick.spring_backs, stick.swings)?;
        let advice = advice_for_stick(&stick);
        let advice = if advice.is_empty() { vec!["nothing stands out".to_owned()] } else { advice };
        for line in advice {
            writeln!(out, "  {}", in_style(GOOD, paint::fitted(&line, 2)))?;
        }
    }
    if said == 0 {
        writeln!(out, "the tape has no events of buttons or sticks")?;
    }
    writeln!(out)?;
    Ok(())
}

pub(crate) fn devices_as_lines(out: &mut Out, wear: &Wear, numbers: &[Number]) -> Result<()> {
    for (device, family, buttons) in wear.buttons() {
        let advice = advice_for_buttons(family, &buttons, debounce(numbers, family));
        let worst = buttons.worst.map(|(control, _)| control);
        out.json(&json!({"what": "buttons", "device": device, "family": family, "edges": buttons.edges,
            "bounces": buttons.bounces, "longest": buttons.longest, "worst": worst, "advice": advice}))?;
    }
    for (device, control, stick) in wear.sticks() {
        let [left, right, down, up] = stick.reach;
        let rests_at = stick.rests_at.map(|(x, y)| [x, y]);
        out.json(&json!({"what": "stick", "device": device, "control": control, "reports": stick.reports,
            "interval": stick.interval, "reach": {"left": left, "right": right, "down": down, "up": up},
            "spring_backs": stick.spring_backs, "rests_at": rests_at, "swings": stick.swings,
            "farthest": stick.farthest, "advice": advice_for_stick(&stick)}))?;
    }
    Ok(())
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
