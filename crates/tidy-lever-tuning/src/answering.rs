//! Answers at work: when what is told to a seat.
//!
//! ```text
//!   pull P ──▶ P + 1 µs + after: the fact is told ──▶ + for: it is told back
//!               a newer pull of the action begins anew
//! ```

use std::time::Duration;

use tidy_lever::tape::Recorded;
use tidy_lever::{Moment, Seat, What};

use crate::answer::{Answer, told};

/// One thing that will be told.
#[derive(Clone, Debug)]
struct Due {
    at: Moment,
    /// Which answer it is of.
    answer: usize,
    value: String,
    /// Whether the answer's own value is told, and then for how long.
    first: bool,
}

/// Answers to one seat's pulls.
#[derive(Clone, Debug, Default)]
pub struct Answering {
    answers: Vec<Answer>,
    due: Vec<Due>,
    /// What each fact was before its answer.
    before: Vec<Option<String>>,
}

impl Answering {
    /// With these answers; what an earlier one still had to tell is dropped.
    pub fn new(answers: Vec<Answer>) -> Answering {
        Answering { before: vec![None; answers.len()], answers, due: Vec::new() }
    }

    /// The answers.
    pub fn answers(&self) -> &[Answer] {
        &self.answers
    }

    /// Whether something is still to be told.
    pub fn is_busy(&self) -> bool {
        !self.due.is_empty()
    }

    /// Plays a seat up to a moment, and tells it what each pull's answer says, at its own moment: the same as in a game that
    /// answers within the microsecond, however seldom this is called. `shown` sees the seat after each piece.
    pub fn advance(&mut self, seat: &mut Recorded<'_>, to: Moment, mut shown: impl FnMut(&Seat)) {
        if self.answers.is_empty() {
            seat.advance(to);
            return shown(seat.seat());
        }
        loop {
            self.tell(seat);
            let next_due = self.due.iter().map(|due| due.at).min().filter(|due| *due <= to);
            let until = next_due.map_or(to, just_before).max(seat.seat().played());
            // The answer to a pull comes before what follows it: played once to see the pull, then up to it.
            let mut trial = seat.seat().clone();
            let mut bookmark = trial.bookmark();
            trial.advance(until);
            let reading = trial.read(&mut bookmark);
            let pulls = reading.happenings().filter(|happening| happening.what() == What::Pulled);
            let linkage = seat.seat().linkage();
            let is_answered = |action: &str| self.answers.iter().any(|answer| answer.action == action);
            let mut answered = pulls.filter(|pull| pull.action(linkage).is_some_and(is_answered));
            match answered.next().map(|pull| pull.at()) {
                Some(at) => {
                    seat.advance(at);
                    shown(seat.seat());
                    // Others that pulled in the same microsecond are answered, too.
                    let (linkage, latest) = (seat.seat().linkage(), seat.seat().latest());
                    let here = latest.happenings().filter(|pull| pull.what() == What::Pulled && pull.at() == at);
                    let names: Vec<String> = here.filter_map(|pull| pull.action(linkage).map(str::to_owned)).collect();
                    names.iter().for_each(|action| self.pulled(action, at));
                }
                None => {
                    seat.advance(until);
                    shown(seat.seat());
                    if until >= to && next_due.is_none() {
                        return;
                    }
                }
            }
        }
    }

    /// An action pulled: its answers begin anew.
    fn pulled(&mut self, action: &str, at: Moment) {
        for (number, answer) in self.answers.iter().enumerate().filter(|(_, answer)| answer.action == action) {
            self.due.retain(|due| due.answer != number);
            let at = at + Duration::from_micros(1) + answer.after;
            self.due.push(Due { at, answer: number, value: answer.value.clone(), first: true });
        }
    }

    /// Tells what is due at the next moment that plays.
    fn tell(&mut self, seat: &mut Recorded<'_>) {
        let next = seat.seat().played() + Duration::from_micros(1);
        while let Some(place) = self.due.iter().position(|due| due.at <= next) {
            let due = self.due.remove(place);
            let answer = &self.answers[due.answer];
            let Ok(fact) = seat.seat().linkage().find(&answer.fact) else { continue };
            if due.first {
                let now = seat.seat().fact(fact).to_owned();
                // A pull during the answer finds the answer's own value.
                if now != answer.value || self.before[due.answer].is_none() {
                    self.before[due.answer] = Some(now);
                }
                if let Some(lasts) = answer.lasts {
                    let back = match answer.value.as_str() {
                        "true" => "false".to_owned(),
                        "false" => "true".to_owned(),
                        _ => self.before[due.answer].clone().unwrap_or_default(),
                    };
                    self.due.push(Due { at: due.at + lasts, answer: due.answer, value: back, first: false });
                }
            }
            // A seat whose queue is full is told nothing; its next pull is answered again.
            let _ = seat.tell_at(fact, told(&due.value), due.at);
        }
    }
}

fn just_before(at: Moment) -> Moment {
    Moment::from_micros(at.as_micros().saturating_sub(1))
}
