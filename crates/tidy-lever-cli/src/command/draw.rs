//! `draw …`: pictures.

use std::io::Write;
use std::path::Path;

use anyhow::{Context, Result, bail};
use tidy_lever::Linkage;
use tidy_lever::profile::numbers;
use tidy_lever::tape::{Line, LineKind, Reader};
use tidy_lever_draw::{Curve, Drawing, Rehearsed};
use tidy_lever_files::Outputs;

use crate::Answer;
use crate::arguments::{Draw, DrawRehearsal, DrawSpans, DrawStick, DrawTimeline, Picture};
use crate::input;
use crate::lanes::Watched;
use crate::out::Out;
use crate::paint::{GOOD, in_style};
use crate::rehearsing::{Troupe, Variation};
use crate::run::{Cuts, Relinks, play};

/// The most samples of a tape that are drawn.
const MOST_SAMPLES: usize = 20_000;

pub(crate) fn run(arguments: &Draw) -> Result<Answer> {
    match arguments {
        Draw::Stick(stick) => self::stick(stick),
        Draw::Timeline(timeline) => self::timeline(timeline),
        Draw::Rehearsal(rehearsal) => self::rehearsal(rehearsal),
        Draw::Spans(spans) => self::spans(spans),
        Draw::Panel(panel) => {
            let outputs = claimed(&panel.output, [panel.profile.as_path()])?;
            let linkage = input::built(&panel.profile)?;
            if linkage.patches().next().is_none() {
                bail!("{} has no panel; declare touch controls, as in [panel.thumb]", input::name(&panel.profile));
            }
            save(&tidy_lever_draw::panel(&linkage, panel.screen.size, panel.screen.dpi), &panel.output, &outputs)
        }
    }
}

fn spans(arguments: &DrawSpans) -> Result<Answer> {
    let outputs = claimed(&arguments.output, [arguments.profile.as_path()])?;
    let laid = input::overlaid(&arguments.profile, None)?;
    only_actions(&laid.linkage, &arguments.actions)?;
    let mut numbers = numbers(&laid.text)?;
    if !arguments.actions.is_empty() {
        numbers.retain(|number| {
            arguments.actions.iter().any(|action| Some(action.as_str()) == number.path.split('.').next())
        });
    }
    let name = input::name(&arguments.profile);
    let title = if laid.linkage.title().is_empty() { name.clone() } else { laid.linkage.title().to_owned() };
    let Some(drawing) = tidy_lever_draw::spans(&format!("{title}: spans"), &numbers) else {
        bail!("no action there has a span");
    };
    save(&drawing, &arguments.output, &outputs)
}

/// That all of these are actions.
fn only_actions(linkage: &Linkage, names: &[String]) -> Result<()> {
    let Some(unknown) = names.iter().find(|name| linkage.action(name).is_none()) else { return Ok(()) };
    let missing = linkage.find::<tidy_lever::Button>(unknown).err();
    bail!("{}", missing.map_or(String::new(), |missing| missing.to_string()))
}

fn rehearsal(arguments: &DrawRehearsal) -> Result<Answer> {
    let inputs = arguments.company.files(&arguments.profile);
    let outputs = claimed(&arguments.output, inputs.iter().map(AsRef::as_ref))?;
    let (troupe, linkage) = Troupe::new(&arguments.profile, &arguments.company)?;
    let variation = Variation::read(&arguments.vary, arguments.steps, &troupe.text)?;
    let points = variation.run(&troupe, &variation.action)?;
    let curves = troupe.hands.iter().enumerate().map(|(hand, own)| {
        let all = || points.iter().filter_map(|point| point.hands.get(hand));
        Curve {
            name: format!("{} hand", own.name),
            found: all().map(|(tally, _)| tally.share()).collect(),
            false_pulls: all().map(|(_, a_minute)| *a_minute).collect(),
        }
    });
    let cues =
        linkage.action(&variation.action).map_or(Vec::new(), |action| action.cues().map(ToString::to_string).collect());
    let number = &variation.number;
    let unit = match number.unit.name() {
        "" => String::new(),
        unit => format!(" in {unit}"),
    };
    let rehearsed = Rehearsed {
        title: format!("{}: {} found by model hands", linkage.title(), variation.action),
        about: format!(
            "cue: {}; {} trials for each value and hand, seed {}",
            cues.join("; "),
            troupe.count,
            troupe.seed
        ),
        number: format!("{}{unit}", number.path),
        values: variation.values.clone(),
        now: (number.value, number.written_as(number.value)),
        curves: curves.collect(),
    };
    save(&rehearsed.draw(), &arguments.output, &outputs)
}

fn timeline(arguments: &DrawTimeline) -> Result<Answer> {
    let outputs = claimed(&arguments.output, [arguments.profile.as_path(), &arguments.tape])?;
    let laid = input::overlaid(&arguments.profile, None)?;
    let linkage = laid.linkage.clone();
    only_actions(&linkage, &arguments.actions)?;
    let name = input::name(&arguments.tape);
    let micros = |moment: Option<std::time::Duration>| moment.map(|moment| moment.as_micros() as u64);
    let (from, to) = (micros(arguments.from).unwrap_or(0), micros(arguments.to).unwrap_or(u64::MAX));
    if from >= to {
        bail!("--from must lie before --to");
    }
    let mut lanes = Watched::new(&linkage, (from, to), &arguments.actions);
    // A second more, so that what was just too late is still told.
    let until = arguments.to.map(|to| tidy_lever::Moment::ZERO + to + std::time::Duration::from_secs(1));
    let relinks = Relinks::of(&laid, &arguments.tape);
    let cuts = Cuts { until, relinks: Some(&relinks), ..Cuts::default() };
    let played = play(&linkage, input::open(&arguments.tape)?, &name, cuts, &mut lanes)?;
    let end = played.end.as_micros();
    if from >= end {
        bail!("{name} ends at {} s; nothing lies behind --from", end as f64 / 1e6);
    }
    let title = if played.header.title.is_empty() { name.clone() } else { played.header.title.clone() };
    let timeline = lanes.finish(title, to.min(end));
    if timeline.lanes.is_empty() {
        bail!("nothing happens there in {name}; widen --from and --to, or name other actions");
    }
    save(&timeline.draw(), &arguments.output, &outputs)
}

fn stick(arguments: &DrawStick) -> Result<Answer> {
    let inputs = [Some(arguments.profile.as_path()), arguments.tape.as_deref()];
    let outputs = claimed(&arguments.output, inputs.into_iter().flatten())?;
    let linkage = input::built(&arguments.profile)?;
    let samples = match &arguments.tape {
        Some(tape) => samples(&linkage, &arguments.action, tape)?,
        None => Vec::new(),
    };
    let drawing = tidy_lever_draw::stick(&linkage, &arguments.action, &samples).or_else(|error| {
        let near = linkage.find::<tidy_lever::Stick>(&arguments.action).err();
        bail!("{}", near.map_or(error.to_string(), |near| near.to_string()))
    })?;
    save(&drawing, &arguments.output, &outputs)
}

/// The places that a tape's sticks say, for the sticks of an action.
fn samples(linkage: &tidy_lever::Linkage, action: &str, tape: &Path) -> Result<Vec<(f32, f32)>> {
    let name = input::name(tape);
    let own: Vec<String> =
        linkage.action(action).map_or(Vec::new(), |action| action.controls().iter().map(|c| c.name.clone()).collect());
    let mut samples = Vec::new();
    for line in Reader::new(input::open(tape)?).with_context(|| name.clone())? {
        let Line { kind: said, .. } = line.with_context(|| name.clone())?;
        if let LineKind::Pair { control, x, y, .. } = said
            && own.contains(&control)
            && samples.len() < MOST_SAMPLES
        {
            samples.push((x as f32, y as f32));
        }
    }
    if samples.is_empty() {
        bail!("{name} has no sample of a stick of `{action}`; it hears {}", own.join(", "));
    }
    Ok(samples)
}

/// Checks the picture's file before anything is drawn: it is none of the files that are read, and replaces none unasked.
fn claimed<'p>(picture: &Picture, inputs: impl IntoIterator<Item = &'p Path>) -> Result<Outputs> {
    let mut outputs = Outputs::new(inputs).replacing(picture.replace);
    outputs.claim(&picture.output)?;
    Ok(outputs)
}

/// Writes a picture by its file's ending: whole or not at all.
fn save(drawing: &Drawing, picture: &Picture, outputs: &Outputs) -> Result<Answer> {
    let path = &picture.output;
    let is_svg = path.extension().is_some_and(|ending| ending == "svg");
    let bytes = if is_svg { drawing.svg().into_bytes() } else { drawing.png()? };
    outputs.write(path, &bytes)?;
    writeln!(Out::screen(), "{} {}", in_style(GOOD, "drew"), input::name(path))?;
    Ok(Answer::Yes)
}
