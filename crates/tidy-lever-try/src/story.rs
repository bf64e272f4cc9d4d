//! An attempt's story, for pointing at it in the lanes.

use tidy_lever::{Attempt, Linkage, Moment};

/// What became of an attempt, told.
#[derive(Clone, Debug)]
pub(crate) struct Story {
    pub(crate) seat: usize,
    pub(crate) action: String,
    /// The moments at which it stands in the lanes: its last step, and its end.
    pub(crate) at: [Moment; 2],
    /// Its heading, then its steps and what it needed.
    pub(crate) lines: Vec<String>,
}

fn millis(ms: f64) -> String {
    format!("{} ms", (ms * 10.0).round() / 10.0)
}

impl Story {
    pub(crate) fn of(seat: usize, attempt: &Attempt, linkage: &Linkage) -> Option<Story> {
        let action = attempt.action(linkage)?.to_owned();
        let story = attempt.story(linkage)?;
        let outcome = match (attempt.pulled(), attempt.missed_by()) {
            (true, _) => "pulled".to_owned(),
            (false, Some(by)) => format!("missed by {}", millis(by.as_micros() as f64 / 1e3)),
            (false, None) => attempt.outcome(linkage).map_or("", |outcome| outcome.name()).to_owned(),
        };
        let began = attempt.began();
        let seconds = |at: Moment| format!("{:.3} s", at.as_micros() as f64 / 1e6);
        let mut lines = vec![format!("{action} at {}: {outcome}", seconds(began))];
        let offset = |at: Moment| (at.as_micros() as f64 - began.as_micros() as f64) / 1e3;
        let step = |step: tidy_lever::ledger::Step<'_>| {
            let up = if step.release { " up" } else { "" };
            format!("{}{up} {:+} ms", step.name, (offset(step.at) * 10.0).round() / 10.0)
        };
        let steps: Vec<String> = attempt.steps(linkage).map(step).collect();
        if steps.len() > 1 {
            lines.push(steps.join("  ·  "));
        }
        if let (false, Some((_, end))) = (attempt.pulled(), attempt.window(linkage)) {
            lines.push(format!("its window ends at {:+} ms", (offset(end) * 10.0).round() / 10.0));
        }
        let so = if attempt.missed_by().is_some() { "it would pull with" } else { "it needed" };
        let wants = attempt.wants(linkage).filter(|_| !attempt.pulled());
        lines.push(story + &wants.map_or(String::new(), |wants| format!("; {so} {wants}")));
        let last = attempt.steps(linkage).last().map_or(attempt.ended(), |step| step.at);
        Some(Story { seat, action, at: [last, attempt.ended()], lines })
    }
}
