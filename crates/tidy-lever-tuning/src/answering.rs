//! Answers at work: when what is told to a seat.
//!
//! ```text
//!   pull P ──▶ P + 1 µs + after: the fact is told ──▶ + for: it is told back
//!               a newer pull of the action begins again
//! ```

use std::time::Duration;

use tidy_lever::tape::Recorded;
use tidy_lever::{Bookmark, Fact, Happening, Moment, Seat, What};

use crate::answer::{Answer, told};

/// So many microseconds after each other are looked at where nobody knows when something is due.
const RESTLESS: u32 = 4;

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

/// A fact that a game would tell now.
#[derive(Clone, Debug)]
pub struct Answered {
    /// From when on it counts.
    pub at: Moment,
    /// The fact.
    pub fact: Fact,
    /// `true`, `false`, or one of its words.
    pub value: String,
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
            let next_due = self.next_due().filter(|due| *due <= to);
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

    /// An action pulled at a moment: its answers begin from there.
    fn pulled(&mut self, action: &str, at: Moment) {
        for (number, answer) in self.answers.iter().enumerate().filter(|(_, answer)| answer.action == action) {
            self.due.retain(|due| due.answer != number);
            let at = at + Duration::from_micros(1) + answer.after;
            self.due.push(Due { at, answer: number, value: answer.value.clone(), first: true });
        }
    }

    /// Plays a plain seat up to a moment and answers its pulls, for tools that play many: without a copy of the seat, from one
    /// moment at which something is due to the next. `told` sees what the seat is told, `happened` what happens.
    ///
    /// While something moves by itself (a stick that sweeps), or a ledger is kept, nobody knows the next such moment; then answers come
    /// within a millisecond.
    pub fn advance_seat(
        &mut self,
        seat: &mut Seat,
        bookmark: &mut Bookmark,
        to: Moment,
        mut told: impl FnMut(&Answered),
        mut happened: impl FnMut(&Happening),
    ) {
        let mut restless = 0;
        loop {
            for answered in self.take_due(seat) {
                let _ = seat.tell_at(answered.fact, self::told(&answered.value), answered.at);
                told(&answered);
            }
            let next = seat.played() + Duration::from_micros(1);
            if to < next {
                return;
            }
            let due = match seat.rests_until() {
                Some(due) => due,
                None if restless < RESTLESS => next,
                None => next + Duration::from_millis(1),
            };
            restless = if seat.rests_until().is_none() { restless + 1 } else { 0 };
            let answer = self.next_due().map_or(Moment::LATEST, just_before);
            seat.advance(due.min(answer).min(to).max(next));
            let linkage = seat.linkage();
            let reading = seat.read(bookmark);
            for happening in reading.happenings() {
                happened(happening);
                if happening.what() == What::Pulled
                    && let Some(action) = happening.action(linkage)
                {
                    self.pulled(action, happening.at());
                    restless = 0;
                }
            }
        }
    }

    /// When the next fact is due.
    fn next_due(&self) -> Option<Moment> {
        self.due.iter().map(|due| due.at).min()
    }

    /// Takes out what a seat has to be told before it plays on by a microsecond.
    fn take_due(&mut self, seat: &Seat) -> Vec<Answered> {
        let next = seat.played() + Duration::from_micros(1);
        let mut taken = Vec::new();
        while let Some(place) = self.due.iter().position(|due| due.at <= next) {
            let due = self.due.remove(place);
            let answer = &self.answers[due.answer];
            let Ok(fact) = seat.linkage().find(&answer.fact) else { continue };
            if due.first {
                let now = seat.fact(fact).to_owned();
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
            taken.push(Answered { at: due.at, fact, value: due.value });
        }
        taken
    }

    /// Tells what is due at the next moment that plays.
    fn tell(&mut self, seat: &mut Recorded<'_>) {
        for Answered { at, fact, value } in self.take_due(seat.seat()) {
            // A seat whose queue is full is told nothing; its next pull is answered again.
            let _ = seat.tell_at(fact, told(&value), at);
        }
    }
}

fn just_before(at: Moment) -> Moment {
    Moment::from_micros(at.as_micros().saturating_sub(1))
}
