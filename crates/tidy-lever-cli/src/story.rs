//! One attempt's story: a heading, its steps along a line of time, and what would have helped.

use std::io::Write;

use anyhow::Result;
use serde::{Serialize, Serializer};
use tidy_lever::ledger::Outcome;
use tidy_lever::{Attempt, Linkage, Moment};

use crate::paint::{self, BAD, FAINT, GOOD, NAME, WARN, in_style};
use crate::rough::Rough;

/// How many columns the line of time has where the width is free, before labels stretch it.
const COLUMNS: usize = 56;
/// What a terminal's width leaves for the last label.
const LAST_LABEL: usize = 24;
/// The most marks on one line; of more, the last.
const MOST_MARKS: usize = 9;

/// A moment of a tape.
fn clock(at: Moment) -> String {
    format!("{:.3} s", at.as_micros() as f64 / 1e6)
}

/// Something on the line of time.
struct Mark {
    at: u64,
    label: String,
    sign: char,
}

/// What an attempt missed by, or what became of it, in a word or two.
fn heading(attempt: &Attempt, linkage: &Linkage) -> String {
    match (attempt.pulled(), attempt.missed_by()) {
        (true, _) => in_style(GOOD, "pulled"),
        (false, Some(by)) => in_style(WARN, format!("missed by {}", millis(by.as_micros() as f64 / 1e3, false))),
        (false, None) => in_style(BAD, attempt.outcome(linkage).map_or("", |outcome| outcome.name())),
    }
}

/// Milliseconds: tenths of long ones, every microsecond of short ones.
fn millis(ms: f64, signed: bool) -> String {
    let places = if ms.abs() >= 10.0 { 10.0 } else { 1e3 };
    let ms = (ms * places).round() / places;
    if signed { format!("{ms:+} ms") } else { format!("{ms} ms") }
}

/// Prints one attempt.
pub(crate) fn print(
    out: &mut impl Write,
    seat: u32,
    attempt: &Attempt,
    rough: Option<Rough>,
    linkage: &Linkage,
) -> Result<()> {
    let seat = if seat == 1 { String::new() } else { format!(", seat {seat}") };
    let came = attempt.steps(linkage).count() - usize::from(is_spoiled(attempt, linkage));
    let of = if attempt.of() > 1 { format!(", {came} of {} steps", attempt.of()) } else { String::new() };
    writeln!(
        out,
        "{}  at {}{seat}  {}{}",
        in_style(NAME, attempt.action(linkage).unwrap_or_default()),
        clock(attempt.began()),
        heading(attempt, linkage),
        in_style(FAINT, of)
    )?;
    let (top, bottom) = line(attempt, linkage);
    if paint::width().is_some_and(|width| bottom.chars().count() + 2 > width) {
        // Labels that don't fit under the line are told one after the other.
        let labels: Vec<&str> = bottom.split("  ").map(str::trim).filter(|label| !label.is_empty()).collect();
        writeln!(out, "  {}", in_style(FAINT, paint::fitted(&labels.join(" · "), 2)))?;
    } else {
        writeln!(out, "  {top}")?;
        writeln!(out, "  {}", in_style(FAINT, bottom))?;
    }
    if let Some(rough) = rough {
        writeln!(out, "  {}", paint::fitted(&rough.story(), 2))?;
    }
    if attempt.pulled() {
        let kept = attempt.story(linkage).unwrap_or_default();
        if kept != "pulled" {
            writeln!(out, "  {kept}")?;
        }
        return Ok(());
    }
    let fix = attempt.fix(linkage).map_or(String::new(), |fix| format!("; to fix: {fix}"));
    writeln!(out, "  {}", paint::fitted(&format!("{}{fix}", attempt.story(linkage).unwrap_or_default()), 2))?;
    Ok(())
}

/// Whether its last step is the one that came too late, or wrong.
fn is_spoiled(attempt: &Attempt, linkage: &Linkage) -> bool {
    let spoiled = |outcome| matches!(outcome, Outcome::TooLate { .. } | Outcome::WrongWay(_) | Outcome::WrongPress(_));
    attempt.outcome(linkage).is_some_and(spoiled)
}

fn marks(attempt: &Attempt, linkage: &Linkage) -> Vec<Mark> {
    let outcome = attempt.outcome(linkage).unwrap_or(Outcome::RanOut);
    let us = |moment: Moment| moment.as_micros();
    let mut marks: Vec<Mark> = attempt
        .steps(linkage)
        .map(|step| Mark {
            at: us(step.at),
            label: if step.release { format!("{} up", step.name) } else { step.name.to_owned() },
            sign: '●',
        })
        .collect();
    if is_spoiled(attempt, linkage)
        && let Some(last) = marks.last_mut()
    {
        last.sign = '✗';
    }
    // A first position may be held for as long as one likes; its window runs from leaving it.
    let began = us(attempt.began());
    if marks.first().is_some_and(|first| first.at < began) && marks.iter().all(|mark| mark.at != began) {
        marks.push(Mark { at: us(attempt.began()), label: "leaves it".into(), sign: '├' });
    }
    let mut put = |at: u64, label: &str, sign: char| marks.push(Mark { at, label: label.to_owned(), sign });
    let pressed = attempt.steps(linkage).last().map_or(us(attempt.began()), |step| us(step.at));
    match outcome {
        Outcome::GateShut { term, since: Some(since), .. } => {
            let asked = attempt.met().map_or(pressed, us);
            if asked > pressed {
                put(asked, "held long enough", '●');
            }
            put(asked.saturating_sub(since.as_micros() as u64), &format!("{term} ends"), '┤');
        }
        Outcome::GateShut { term, opens: Some(opens), .. } => {
            let asked = attempt.met().map_or(pressed, us);
            if asked > pressed {
                put(asked, "held long enough", '●');
            }
            if us(attempt.ended()) > asked {
                put(us(attempt.ended()), "keep ends", '┤');
            }
            put(us(attempt.ended()) + opens.as_micros() as u64, term, '○');
        }
        Outcome::CoolingDown { left } => put(pressed + left.as_micros() as u64, "cooldown ends", '○'),
        Outcome::Pulled { kept } if !kept.is_zero() => put(us(attempt.ended()), "`when` is true", '○'),
        Outcome::TooSoon { .. } | Outcome::TooLong { .. } if attempt.of() == 1 => put(us(attempt.ended()), "up", '✗'),
        Outcome::Lost(cause) => put(us(attempt.ended()), cause.name(), '✗'),
        _ => {}
    }
    if !attempt.pulled()
        && let Some((_, end)) = attempt.window(linkage)
        && matches!(
            outcome,
            Outcome::TooLate { .. } | Outcome::TooSoon { .. } | Outcome::TooLong { .. } | Outcome::RanOut
        )
    {
        marks.push(Mark { at: us(end), label: "window ends".into(), sign: '┤' });
    }
    marks.sort_by_key(|mark| mark.at);
    let surplus = marks.len().saturating_sub(MOST_MARKS);
    marks.drain(..surplus);
    marks
}

/// The line of time: signs with lines between, and labels with milliseconds below them.
fn line(attempt: &Attempt, linkage: &Linkage) -> (String, String) {
    let marks = marks(attempt, linkage);
    let first = marks.first().map_or(0, |mark| mark.at);
    let span = marks.last().map_or(1, |mark| mark.at - first).max(1) as f64;
    // Milliseconds count from where the window runs.
    let zero = attempt.began().as_micros() as i64;
    let columns = paint::width().map_or(COLUMNS, |width| width - LAST_LABEL) as f64;
    let (mut top, mut bottom) = (String::new(), String::new());
    let mut column = 0usize;
    for (number, mark) in marks.iter().enumerate() {
        let wanted = ((mark.at - first) as f64 / span * columns) as usize;
        let place = wanted.max(bottom.chars().count());
        while column < place {
            // Time that is over is dotted.
            let over = marks[..number].iter().any(|mark| mark.sign == '┤');
            top.push(if over { '·' } else { '─' });
            column += 1;
        }
        top.push(mark.sign);
        column += 1;
        let ms = (mark.at as i64 - zero) as f64 / 1e3;
        let ms = millis(ms, ms != 0.0);
        while bottom.chars().count() < place {
            bottom.push(' ');
        }
        bottom += &format!("{} {ms}  ", mark.label);
    }
    (top, bottom.trim_end().to_owned())
}

/// One attempt, as a line for programs.
#[derive(Debug, Serialize)]
pub(crate) struct Told<'l> {
    at: u64,
    #[serde(skip_serializing_if = "Option::is_none")]
    seat: Option<u32>,
    action: &'l str,
    outcome: &'static str,
    began: u64,
    of: usize,
    steps: Steps<'l>,
    #[serde(skip_serializing_if = "Option::is_none")]
    missed_by: Option<u64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    kept: Option<u64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    term: Option<&'l str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    by: Option<&'l str>,
    story: String,
    #[serde(skip_serializing_if = "Option::is_none")]
    fix: Option<String>,
    /// To how many µs the moments of its events are known, where it hangs on that.
    #[serde(skip_serializing_if = "Option::is_none")]
    known_to: Option<u64>,
}

#[derive(Debug)]
struct Steps<'l>(&'l Attempt, &'l Linkage);

#[derive(Serialize)]
struct Step<'l> {
    at: u64,
    #[serde(skip_serializing_if = "Option::is_none")]
    release: Option<&'l str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    did: Option<&'l str>,
}

impl Serialize for Steps<'_> {
    fn serialize<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        let Steps(attempt, linkage) = self;
        to.collect_seq(attempt.steps(linkage).map(|step| Step {
            at: step.at.as_micros(),
            release: step.release.then_some(step.name),
            did: (!step.release).then_some(step.name),
        }))
    }
}

impl<'l> Told<'l> {
    pub(crate) fn of(seat: u32, attempt: &'l Attempt, rough: Option<Rough>, linkage: &'l Linkage) -> Told<'l> {
        let micros = |span: std::time::Duration| span.as_micros() as u64;
        let outcome = attempt.outcome(linkage).unwrap_or(Outcome::RanOut);
        let (term, by) = match outcome {
            Outcome::GateShut { term, .. } => (Some(term), None),
            Outcome::Spent { fact, by } => (Some(fact), Some(by)),
            Outcome::Served { by } | Outcome::Outranked { by } => (None, Some(by)),
            _ => (None, None),
        };
        Told {
            at: attempt.ended().as_micros(),
            seat: (seat != 1).then_some(seat),
            action: attempt.action(linkage).unwrap_or_default(),
            outcome: outcome.name(),
            began: attempt.began().as_micros(),
            of: attempt.of(),
            steps: Steps(attempt, linkage),
            missed_by: attempt.missed_by().map(micros),
            kept: match outcome {
                Outcome::Pulled { kept } if !kept.is_zero() => Some(micros(kept)),
                _ => None,
            },
            term,
            by,
            story: attempt.story(linkage).unwrap_or_default(),
            fix: attempt.fix(linkage),
            known_to: rough.map(|rough| micros(rough.spread)),
        }
    }
}
