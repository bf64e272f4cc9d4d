//! An attempt's story, for pointing at it in the lanes.

use tidy_lever::seat::{GuardedBy, Swallowed};
use tidy_lever::{Attempt, Linkage, Moment, Seat};

/// What became of an attempt, told.
#[derive(Clone, Debug)]
pub(crate) struct Story {
    pub(crate) seat: usize,
    pub(crate) action: String,
    /// The moments at which it stands in the lanes: its last step, and its end.
    pub(crate) at: [Moment; 2],
    /// Its heading, then its steps and what would help.
    pub(crate) lines: Vec<String>,
}

/// How many attempts of a seat were told, and how much that guards kept from being heard.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Looked {
    attempts: u64,
    swallowed: u64,
}

impl Looked {
    /// All that there is so far.
    pub(crate) fn all_of(seat: &Seat) -> Looked {
        Looked { attempts: seat.attempt_count(), swallowed: seat.swallowed_count() }
    }

    /// The stories that are new since the last look.
    pub(crate) fn stories(&mut self, number: usize, seat: &Seat) -> Vec<Story> {
        let before = std::mem::replace(self, Looked::all_of(seat));
        let attempts = seat.attempts_since(before.attempts);
        let told = attempts.filter_map(|attempt| Story::of(number, attempt, seat.linkage()));
        told.chain(seat.swallowed_since(before.swallowed).map(|one| Story::unheard(number, &one))).collect()
    }
}

fn millis(ms: f64) -> String {
    format!("{} ms", (ms * 10.0).round() / 10.0)
}

impl Story {
    /// What a guard kept from being heard, on the lane of its control.
    fn unheard(seat: usize, swallowed: &Swallowed) -> Story {
        let heading = format!("{swallowed}, at {:.3} s", swallowed.from.as_micros() as f64 / 1e6);
        let setting = match swallowed.by {
            GuardedBy::Snapback => "snapback",
            GuardedBy::DropOut => "drop_out",
            _ => "debounce",
        };
        let family = swallowed.control.family().name();
        let lines = vec![heading, format!("not heard: `{setting}` of {family} in [devices]")];
        Story { seat, action: swallowed.control.to_string(), at: [swallowed.from, swallowed.to], lines }
    }

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
        let fix = attempt.fix(linkage).filter(|_| !attempt.pulled());
        lines.push(story + &fix.map_or(String::new(), |fix| format!("; to fix: {fix}")));
        let last = attempt.steps(linkage).last().map_or(attempt.ended(), |step| step.at);
        Some(Story { seat, action, at: [last, attempt.ended()], lines })
    }
}

#[cfg(test)]
mod tests {
    use tidy_lever::{Device, Event, Linkage, Moment, Profile};

    use super::*;

    #[test]
    fn what_was_not_heard_is_told_once_on_the_lane_of_its_control() -> Result<(), Box<dyn std::error::Error>> {
        let text = "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n";
        let mut seat = Linkage::build(&Profile::from_toml(text)?)?.seat(Moment::ZERO);
        seat.keep_swallowed(16);
        let mut looked = Looked::all_of(&seat);
        for (at, down) in [(100, true), (101, false), (103, true)] {
            seat.feed(Event::button(Moment::from_millis(at), Device::default(), "keys:Space".parse()?, down))?;
        }
        seat.advance(Moment::from_millis(120));
        let stories = looked.stories(2, &seat);
        let told: Vec<_> =
            stories.iter().map(|story| (story.seat, story.action.as_str(), story.lines.join("; "))).collect();
        let line = "keys:Space bounced for 3 ms, at 0.100 s; not heard: `debounce` of keys in [devices]";
        assert_eq!(told, [(2, "keys:Space", line.to_owned())]);
        assert!(looked.stories(2, &seat).is_empty());
        Ok(())
    }
}
