//! `report PROFILE [TAPE…] -o FILE.html`: who will manage, and what players' tapes say, on one page.
//!
//! ```text
//!   rehearse, why, check --tape, tune ──lines for programs──▶ page: bars, strips, tables
//! ```
//! The page shows the figures of these commands, and nothing that it worked out itself.

use std::io::Write;
use std::path::Path;

use anyhow::Result;
use serde_json::Value;
use tidy_lever::profile::{Number, numbers};
use tidy_lever_files::Outputs;

use crate::Answer;
use crate::arguments::{Rehearse, Report, Tune};
use crate::attempts::NEAR;
use crate::command::{check, rehearse, tune, why};
use crate::input::{self, Laid};
use crate::out::Out;
use crate::page::{Found, OnTape, Page};
use crate::paint::{GOOD, in_style};

/// The most near misses of a tape that are shown, the smallest margin first.
const MOST_NEAR: usize = 12;

pub(crate) fn run(arguments: &Report) -> Result<Answer> {
    let mut inputs = arguments.company.files(&arguments.profile);
    inputs.extend(arguments.tapes.iter().cloned());
    let mut outputs = Outputs::new(inputs.iter().map(AsRef::as_ref)).replacing(arguments.replace);
    outputs.claim(&arguments.output)?;
    let laid = input::overlaid(&arguments.profile, None)?;
    let rehearsed = Out::lines_of(|out| rehearse::on(out, &rehearsal(arguments)).map(drop))?;
    let all = numbers(&laid.text)?;
    let tapes = arguments.tapes.iter().map(|tape| on_tape((&laid, &all), tape)).collect::<Result<Vec<_>>>()?;
    let tuned = match arguments.tapes.is_empty() {
        true => Vec::new(),
        false => Out::lines_of(|out| tune::on(out, &tuning(arguments)).map(drop))?,
    };
    let name = input::name(&arguments.profile);
    let title = Some(laid.linkage.title()).filter(|title| !title.is_empty()).map_or(name.clone(), str::to_owned);
    let page = Page { title: &title, profile: &name, found: Found { rehearsed }, tapes, tuned };
    outputs.write(&arguments.output, page.to_string().as_bytes())?;
    let mut out = Out::screen();
    writeln!(out, "{} {}", in_style(GOOD, "wrote"), arguments.output.display())?;
    Ok(Answer::Yes)
}

fn rehearsal(arguments: &Report) -> Rehearse {
    let (profile, company) = (arguments.profile.clone(), arguments.company.clone());
    Rehearse { profile, actions: Vec::new(), company, vary: None, steps: 2, tape: None, replace: false, json: true }
}

fn tuning(arguments: &Report) -> Tune {
    let (profile, tapes) = (arguments.profile.clone(), arguments.tapes.clone());
    let answers = arguments.company.answers.clone();
    Tune { profile, tapes, action: None, probably: false, answers, write: false, jobs: None, json: true }
}

/// What one tape says: near misses, and devices.
fn on_tape((laid, all): (&Laid, &[Number]), tape: &Path) -> Result<OnTape> {
    let mut near = Out::lines_of(|out| why::on(out, laid, tape))?;
    let is_near = |line: &Value| line["missed_by"].as_u64().is_some_and(|by| u128::from(by) <= NEAR);
    near.retain(|line| is_near(line) && line["outcome"] != "pulled");
    near.sort_by_key(|line| line["missed_by"].as_u64());
    let count = near.len();
    near.truncate(MOST_NEAR);
    let wear = check::read(tape)?;
    let devices: Vec<Value> = Out::lines_of(|out| check::devices_as_lines(out, &wear, all))?;
    Ok(OnTape { name: input::name(tape), count, near, devices })
}
