//! Playing trials on a seat, and counting what it makes of them.

use std::collections::HashMap;
use std::time::Duration;

use tidy_lever::ledger::Outcome;
use tidy_lever::profile::Faults;
use tidy_lever::seat::Capacity;
use tidy_lever::{Attempt, Bookmark, Fact, Happening, Linkage, Mode, Moment, Profile, Seat, What};
use tidy_lever_tuning::{Answer, Answered, Answering, told};

use crate::distract::Doing;
use crate::grip::VIEW;
use crate::hand::Hand;
use crate::scene::{Scene, Trial};
use crate::surroundings::Surroundings;
use crate::tally::{Miss, Tally};

/// The most attempts of one trial that its ledger keeps.
const LEDGER: usize = 512;
/// The ledger tells of an attempt a second later at most: the missing step may still come.
const HINDSIGHT: Duration = Duration::from_millis(1_100);

/// A profile that hands rehearse: all of its actions that they can perform, and why not the others.
#[derive(Debug)]
pub struct Rehearsal {
    linkage: Linkage,
    /// The names of its actions with their numbers.
    numbers: HashMap<String, usize>,
    answers: Vec<Answer>,
    /// What can be performed, in the order of the profile.
    pub scenes: Vec<Scene>,
    /// What can't, and why.
    pub left_out: Vec<(String, String)>,
    template: Seat,
}

/// What a seat made of one trial.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Came {
    /// Whether the action pulled in time, and how long after it was complete.
    pub found: Option<Duration>,
    /// What pulled though nobody meant it, by number.
    pub wrong: Vec<usize>,
    /// What answers told.
    told: Vec<(Moment, String, String)>,
    /// It pulled, but later.
    late: bool,
}

/// A seat to rehearse on, made once and used again.
#[derive(Debug)]
pub struct Stage {
    seat: Seat,
    bookmark: Bookmark,
}

impl Rehearsal {
    /// Takes a profile's text, and what a game would answer.
    ///
    /// # Errors
    /// [`Faults`] of the profile.
    pub fn new(text: &str, answers: &[Answer]) -> Result<Rehearsal, Faults> {
        Ok(Rehearsal::of(Linkage::build(&Profile::from_toml(text)?)?, answers))
    }

    /// Takes a profile that was built already, and what a game would answer.
    pub fn of(linkage: Linkage, answers: &[Answer]) -> Rehearsal {
        let (mut scenes, mut left_out) = (Vec::new(), Vec::new());
        let mut around = Surroundings::new(&linkage);
        for (number, action) in linkage.actions().enumerate() {
            match Scene::new(&linkage, number, &mut around, answers) {
                Ok(scene) => scenes.push(scene),
                Err(why) if action.cue().is_some() => left_out.push((action.name().to_owned(), why)),
                Err(_) => {}
            }
        }
        drop(around);
        let numbers = linkage.actions().enumerate().map(|(number, action)| (action.name().to_owned(), number));
        let room = Capacity::default().waiting(4_096).history(4_096);
        let template = linkage.seat_with(Moment::ZERO, room).unwrap_or_else(|_| linkage.seat(Moment::ZERO));
        Rehearsal { numbers: numbers.collect(), answers: answers.to_vec(), scenes, left_out, template, linkage }
    }

    /// The profile.
    pub fn linkage(&self) -> &Linkage {
        &self.linkage
    }

    /// The scene of an action.
    pub fn scene(&self, action: &str) -> Option<&Scene> {
        self.scenes.iter().find(|scene| scene.name == action)
    }

    /// The name of an action by its number in a [`Tally`].
    pub fn name(&self, number: usize) -> &str {
        self.linkage.actions().nth(number).map_or("", |action| action.name())
    }

    /// The number of an action in a [`Tally`].
    pub fn number(&self, name: &str) -> Option<usize> {
        self.numbers.get(name).copied()
    }

    /// A seat to play on. One for each thread.
    pub fn stage(&self) -> Stage {
        Stage { bookmark: self.template.bookmark(), seat: self.template.clone() }
    }

    /// Plays trials `from` up to and excluding `to` of an action by a hand, and counts.
    ///
    /// ```
    /// use tidy_lever_hands::{Hand, Rehearsal};
    ///
    /// let text = "tidy-lever = 1\n[action.bag]\nkind = \"button\"\nkeys = \"KeyE\"\ncue = \"double tap within 240ms\"\n";
    /// let rehearsal = Rehearsal::new(text, &[])?;
    /// let (scene, mut stage) = (rehearsal.scene("bag").unwrap(), rehearsal.stage());
    /// let tally = rehearsal.rehearse(scene, &Hand::named("practised").unwrap(), 1, (0, 200), &mut stage);
    /// assert_eq!((tally.meant, tally.found > 190), (200, true));
    /// # Ok::<(), tidy_lever::profile::Faults>(())
    /// ```
    pub fn rehearse(&self, scene: &Scene, hand: &Hand, seed: u64, (from, to): (u64, u64), stage: &mut Stage) -> Tally {
        let mut tally = Tally::default();
        for number in from..to {
            let trial = scene.trial(hand, seed, number);
            let came = self.play(scene, &trial, stage);
            let is_found = u64::from(came.found.is_some());
            tally.meant += 1;
            tally.found += is_found;
            tally.micros += trial.end.as_micros();
            let way = tally.by_way.entry(trial.way).or_default();
            *way = (way.0 + 1, way.1 + is_found);
            let situation = tally.by_situation.entry(trial.situation).or_default();
            *situation = (situation.0 + 1, situation.1 + is_found);
            for action in &came.wrong {
                *tally.wrong.entry(*action).or_default() += 1;
            }
            match came.found {
                Some(delay) => tally.delays.push(delay.as_micros() as u32),
                None => {
                    let (miss, by) = self.explain(scene, &trial, &came, stage);
                    tally.misses.entry(miss).or_default().push(by.map(|by| by.as_micros() as u32));
                }
            }
        }
        tally
    }

    /// Plays one trial.
    pub fn play(&self, scene: &Scene, trial: &Trial, stage: &mut Stage) -> Came {
        self.set_up(trial, stage);
        let mut came = Came { found: None, wrong: Vec::new(), told: Vec::new(), late: false };
        if self.answers.is_empty() {
            let mut take = |seat: &Seat| {
                seat.latest().happenings().for_each(|happening| self.take(scene, trial, happening, &mut came));
            };
            self.feed(trial, &mut stage.seat, &mut take);
            stage.seat.advance(trial.end);
            take(&stage.seat);
        } else {
            self.answered(scene, trial, stage, &mut came);
        }
        came
    }

    /// A seat as at the beginning, with the trial's modes and first facts.
    fn set_up(&self, trial: &Trial, stage: &mut Stage) {
        let seat = &mut stage.seat;
        seat.clone_from(&self.template);
        // Nothing of this can fail: names are the profile's own, and the queue is empty.
        let _ = seat.set_view_at(VIEW.0, VIEW.1, Moment::ZERO);
        for (mode, on) in &trial.modes {
            if let Ok(mode) = self.linkage.find::<Mode>(mode) {
                let _ = seat.set_mode_at(mode, *on, Moment::ZERO);
            }
        }
        self.tell(seat, &trial.facts);
    }

    fn tell(&self, seat: &mut Seat, facts: &[(Moment, String, String)]) {
        for (at, fact, value) in facts {
            if let Ok(fact) = self.linkage.find::<Fact>(fact) {
                let _ = seat.tell_at(fact, told(value), *at);
            }
        }
    }

    /// Feeds all events; where the queue is full it plays what came before, and shows it.
    fn feed(&self, trial: &Trial, seat: &mut Seat, mut played: impl FnMut(&Seat)) {
        for event in &trial.events {
            if seat.feed(*event).is_err() {
                seat.advance(Moment::from_micros(event.at.as_micros().saturating_sub(1)));
                played(seat);
                let _ = seat.feed(*event);
            }
        }
    }

    /// Plays from moment to moment, so that every pull is answered a microsecond later.
    fn answered(&self, scene: &Scene, trial: &Trial, stage: &mut Stage, came: &mut Came) {
        stage.bookmark = stage.seat.bookmark();
        let mut answering = Answering::new(self.answers.clone());
        let (mut happenings, mut told) = (Vec::new(), Vec::new());
        let Stage { seat, bookmark } = stage;
        let mut to = |seat: &mut Seat, at: Moment| {
            answering.advance_seat(seat, bookmark, at, |one| told.push(one.clone()), |one| happenings.push(*one));
        };
        let mut events = trial.events.iter().peekable();
        while let Some(first) = events.next() {
            // What the devices say at one moment plays at once.
            to(seat, back(first.at));
            let _ = seat.feed(*first);
            while let Some(event) = events.next_if(|event| event.at == first.at) {
                let _ = seat.feed(*event);
            }
            to(seat, first.at);
        }
        to(seat, trial.end);
        happenings.iter().for_each(|happening| self.take(scene, trial, happening, came));
        let names: Vec<&str> = self.linkage.facts().map(|(name, _)| name).collect();
        came.told.extend(told.into_iter().filter_map(|Answered { at, fact, value }| {
            let name = names.iter().find(|name| self.linkage.find::<Fact>(name) == Ok(fact))?;
            Some((at, (*name).to_owned(), value))
        }));
    }

    /// Counts a happening.
    fn take(&self, scene: &Scene, trial: &Trial, happening: &Happening, came: &mut Came) {
        if happening.what() != What::Pulled {
            return;
        }
        let Some(number) = happening.action(&self.linkage).and_then(|name| self.number(name)) else { return };
        let at = happening.at();
        if number != scene.number {
            let is_meant = |(actions, from, to): &(Doing, Moment, Moment)| {
                *from <= at && at <= *to && actions.binary_search(&number).is_ok()
            };
            if !trial.deliberate.iter().any(is_meant) {
                came.wrong.push(number);
            }
            return;
        }
        if at >= trial.begins && at <= trial.until {
            let delay = Duration::from_micros(at.as_micros().saturating_sub(trial.done.as_micros()));
            came.found = came.found.or(Some(delay));
        }
        came.late |= at > trial.until;
    }

    /// Plays a trial that was not found again, with a ledger, and says what it ran into.
    fn explain(&self, scene: &Scene, trial: &Trial, came: &Came, stage: &mut Stage) -> (Miss, Option<Duration>) {
        self.set_up(trial, stage);
        stage.seat.keep_ledger(LEDGER);
        self.tell(&mut stage.seat, &came.told);
        self.feed(trial, &mut stage.seat, |_| {});
        stage.seat.advance(trial.end + HINDSIGHT);
        stage.seat.close_ledger();
        let own = |attempt: &&Attempt| {
            attempt.action(&self.linkage) == Some(&scene.name)
                && !attempt.pulled()
                && attempt.ended() >= trial.begins
                && attempt.began() <= trial.until
        };
        let attempt = stage.seat.attempts().filter(own).min_by_key(|attempt| attempt.distance(&self.linkage));
        let none = if came.late { Miss::PulledLate } else { Miss::Unclear };
        let told = attempt.map_or((none, None), |attempt| self.missed(attempt));
        stage.seat.keep_ledger(0);
        told
    }

    fn missed(&self, attempt: &Attempt) -> (Miss, Option<Duration>) {
        let by = attempt.missed_by();
        let Some(outcome) = attempt.outcome(&self.linkage) else { return (Miss::Unclear, None) };
        let miss = match outcome {
            Outcome::TooLate { .. } => Miss::TooLate,
            Outcome::TooSoon { .. } => Miss::TooSoon,
            Outcome::TooLong { .. } => Miss::TooLong,
            Outcome::NotFresh { .. } => Miss::NotFresh,
            Outcome::Astray { to, .. } => Miss::Astray(to.name().into()),
            Outcome::Skipped(step) => Miss::LeftOut(step.name().into()),
            Outcome::WrongWay(to) => Miss::WrongWay(to.name().into()),
            Outcome::WrongPress(name) => Miss::WrongWay(name.into()),
            Outcome::LetGo => Miss::LetGo,
            Outcome::RanOut => Miss::NeverFinished,
            Outcome::GateShut { term, since: Some(_), .. } => Miss::GateShutBefore(term.into()),
            Outcome::GateShut { term, opens: Some(_), .. } => Miss::GateNotYetOpen(term.into()),
            Outcome::GateShut { term, .. } => Miss::GateShut(term.into()),
            Outcome::CoolingDown { .. } => Miss::CoolingDown,
            Outcome::Served { by } | Outcome::Outranked { by } | Outcome::Spent { by, .. } => Miss::TakenBy(by.into()),
            other => Miss::Other(other.name().into()),
        };
        (miss, by)
    }
}

fn back(at: Moment) -> Moment {
    Moment::from_micros(at.as_micros().saturating_sub(1))
}
