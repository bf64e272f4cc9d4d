//! What plays: seats on the profile, what is recorded of them, what a game would answer, what came of it.

use std::collections::VecDeque;
use std::io::{BufWriter, Write as _};
use std::path::{Path, PathBuf};
use std::time::Duration;

use anyhow::{Context as _, Result, bail};
use tidy_lever::event::{Device, Event};
use tidy_lever::remap::Remap;
use tidy_lever::seat::Told;
use tidy_lever::table::{Fed, Table};
use tidy_lever::tape::{Deck, Header, Line, LineKind, OutputLine, Recorder};
use tidy_lever::{Control, Family, Linkage, Mode, Moment};
use tidy_lever_draw::Lanes;
use tidy_lever_files::{Companions, Outputs, text_beside};
use tidy_lever_pads::script::{Script, ScriptError};
use tidy_lever_tuning::{Answer, Answering, Reread, Tuning, answers_beside, read_answers, write_answers};
use tidy_lever_view::Recent;
use tidy_lever_winit::Adapter;

use crate::options::Options;
use crate::story::{Looked, Story};

/// How long the last seconds are that a key saves.
pub(crate) const RING: Duration = Duration::from_secs(30);
/// How much time the lanes show.
pub(crate) const SHOWN: Duration = Duration::from_secs(8);
/// How long the lanes go on after the last change.
pub(crate) const RUN_ON: Duration = Duration::from_secs(3);
/// How long a note is shown.
const NOTED: Duration = Duration::from_secs(6);
/// Attempts that a seat's ledger keeps between two looks.
const LEDGER: usize = 1_024;
/// Stories of the last attempts that are kept.
const STORIES: usize = 512;

/// A line for the player of the tool.
#[derive(Clone, Debug)]
pub(crate) struct Note {
    pub(crate) text: String,
    pub(crate) bad: bool,
    pub(crate) until: Moment,
}

/// The tape that is recorded, and the files beside it.
struct Recording {
    path: PathBuf,
    companions: Companions,
    /// The first profile that was written beside it.
    profile: Option<String>,
}

/// What plays.
pub(crate) struct Session {
    pub(crate) tuning: Tuning,
    pub(crate) table: Table,
    pub(crate) recent: Recent,
    pub(crate) lanes: Lanes,
    pub(crate) stories: VecDeque<Story>,
    pub(crate) note: Option<Note>,
    /// The action whose numbers are shown.
    pub(crate) chosen: Option<String>,
    /// The seat that the switches speak to.
    pub(crate) told_seat: usize,
    /// The moment of the last change: something fed, told, pulled.
    pub(crate) changed: Moment,
    pub(crate) played: Moment,
    recorder: Recorder,
    beside: Option<Recording>,
    answers: Vec<Answer>,
    /// Whether the answers came of the command line, and no file is read for them.
    answers_given: bool,
    answering: Vec<Answering>,
    /// How many attempts of each seat were told.
    looked: Vec<Looked>,
    /// The tape that plays instead of hands, and its folder.
    deck: Option<(Deck, PathBuf)>,
    first_has_pad: bool,
    /// The view's size that the seats know.
    pub(crate) view: (u32, u32),
    taped: bool,
    /// Whether what happens is printed.
    json: bool,
}

/// A player's file.
fn remap(path: &Path) -> Result<Remap> {
    let text = std::fs::read_to_string(path).with_context(|| format!("{} can't be read", path.display()))?;
    Remap::from_toml(&text).map_err(|faults| {
        let faults: Vec<String> = faults.iter().map(ToString::to_string).collect();
        anyhow::anyhow!("{}: {}", path.display(), faults.join("; "))
    })
}

impl Session {
    pub(crate) fn open(options: &Options, outputs: &mut Outputs) -> Result<Session> {
        let remap = options.remap.as_deref().map(remap).transpose()?.unwrap_or_default();
        let laid_over = (!remap.is_empty()).then(|| remap.to_toml());
        let tuning = Tuning::open(&options.profile, remap)?;
        let linkage = tuning.linkage().clone();
        let seats = usize::from(options.seats).clamp(1, tidy_lever::table::MOST_SEATS);
        let families = [("kb", Family::Keys), ("ms", Family::Mouse), ("scr", Family::Touch)];
        let title = if linkage.title().is_empty() { "tried by hand".to_owned() } else { linkage.title().to_owned() };
        let header = families.into_iter().fold(Header::new(title), |header, (id, family)| header.device(id, family));
        let mut recorder = Recorder::off(&header).ring(RING).lines();
        let mut beside = None;
        if let Some(path) = &options.record {
            let problem = || format!("{} can't be written", path.display());
            recorder = recorder.output(BufWriter::new(outputs.create(path)?)).with_context(problem)?;
            beside = Some(Recording { path: path.clone(), companions: Companions::of(path), profile: None });
        }
        let mut session = Session {
            table: Table::new(&linkage, seats).join_by(Control::PAD_START),
            lanes: Lanes::new(&linkage, (0, u64::MAX), &[]),
            tuning,
            recent: Recent::new(),
            stories: VecDeque::new(),
            note: None,
            chosen: None,
            told_seat: 1,
            changed: Moment::ZERO,
            played: Moment::ZERO,
            recorder,
            beside,
            answers: options.answers.clone(),
            answers_given: !options.answers.is_empty() || options.tape.is_some(),
            answering: Vec::new(),
            looked: Vec::new(),
            deck: None,
            first_has_pad: false,
            view: (1280, 720),
            taped: options.tape.is_some(),
            json: options.json,
        };
        let (name, linkage) = (options.profile.display(), session.tuning.linkage());
        if session.tuning.fault().is_none()
            && let Some(problem) =
                session.answers.iter().find_map(|answer| Some((answer, answer.check(linkage).err()?)))
        {
            bail!("--answer '{}': {} (in {name})", problem.0, problem.1);
        }
        session.read_answers();
        session.sit(&[Adapter::keyboard(), Adapter::mouse(), Adapter::screen()]);
        // The tape's own profile stands beside it, whatever becomes of the file; one with faults once it is mended.
        if session.tuning.fault().is_none() {
            let text = session.tuning.text().to_owned();
            session.companion("profile", &text);
        }
        if let Some(text) = laid_over
            && let Some(name) = session.companion("remap", &text)
        {
            session.recorder.note(1, LineKind::Remap(name));
        }
        session.choose_first();
        Ok(session)
    }

    /// Writes a file beside the tape that is recorded; its name.
    fn companion(&mut self, sort: &str, text: &str) -> Option<String> {
        let recording = self.beside.as_mut()?;
        match recording.companions.write(sort, text.as_bytes()) {
            Ok(name) => {
                if sort == "profile" {
                    recording.profile.get_or_insert_with(|| name.clone());
                }
                Some(name)
            }
            Err(problem) => {
                self.complain(format!("the tape lacks a {sort}: {problem}"));
                None
            }
        }
    }

    fn choose_first(&mut self) {
        let linkage = self.tuning.linkage();
        let is_there = |name: &String| name == crate::sliders::DEVICES || linkage.action(name).is_some();
        if !self.chosen.as_ref().is_some_and(is_there) {
            let numbered = |name: &str| {
                let prefix = format!("{name}.");
                self.tuning.numbers().iter().any(|number| number.path.starts_with(&prefix))
            };
            let names: Vec<&str> = linkage.actions().map(|action| action.name()).collect();
            let first = names.iter().find(|name| numbered(name)).or(names.first());
            self.chosen = first.map(|name| (*name).to_owned());
        }
    }

    /// Says something for a while.
    pub(crate) fn remark(&mut self, text: impl Into<String>) {
        self.note = Some(Note { text: text.into(), bad: false, until: self.played + NOTED });
    }

    /// Says that something went wrong; also on standard error, as the line goes away.
    pub(crate) fn complain(&mut self, text: impl Into<String>) {
        let text = text.into();
        eprintln!("{text}");
        self.note = Some(Note { text, bad: true, until: self.played + NOTED });
    }

    pub(crate) fn linkage(&self) -> &Linkage {
        self.tuning.linkage()
    }

    pub(crate) fn numbers(&self) -> Vec<usize> {
        self.table.seats().map(|(number, _)| number).collect()
    }

    fn sit(&mut self, devices: &[Device]) {
        let linkage = self.tuning.linkage().clone();
        if let Some(number) = self.table.sit(&linkage, devices) {
            self.seated(number);
        }
    }

    fn seated(&mut self, number: usize) {
        self.answering.push(Answering::new(self.answers.clone()));
        self.looked.push(Looked::default());
        if let Some(seat) = self.table.seat_mut(number) {
            seat.keep_ledger(LEDGER);
            seat.keep_swallowed(LEDGER);
            let _ = self.recorder.seat(number as u32, seat).set_view(self.view.0, self.view.1);
        }
        if number > 1 {
            self.remark(format!("seat {number} joined"));
        }
    }

    /// An event from a device.
    pub(crate) fn feed(&mut self, event: Event) {
        if self.taped {
            return;
        }
        let new = event.family() == Some(Family::Pad) && self.table.moved_by(event.device).next().is_none();
        if new && !self.first_has_pad {
            self.first_has_pad = true;
            self.table.give(1, event.device);
        }
        self.changed = self.changed.max(event.at);
        match self.recorder.feed(&mut self.table, event) {
            Ok(Fed::Joined(number)) => self.seated(number),
            Ok(Fed::Nobody) if event.family() == Some(Family::Pad) => {
                let seats = self.table.seats().count();
                self.remark(match self.table.places() > seats {
                    true => "this pad belongs to nobody; press its start button to join".to_owned(),
                    false => {
                        format!("all {seats} seats are taken; start with --seats {} to let this pad join", seats + 1)
                    }
                });
            }
            Ok(_) => {}
            Err(problem) => self.complain(problem.to_string()),
        }
    }

    /// A pad is called this.
    pub(crate) fn named(&mut self, device: Device, name: &str) {
        // A full queue only leaves the pad without what is set for its name.
        let _ = self.recorder.name_device(&mut self.table, device, name);
    }

    /// The window has the focus, or lost it.
    pub(crate) fn focus(&mut self, focused: bool, at: Moment) {
        if self.taped {
            return;
        }
        self.changed = self.changed.max(at);
        for number in self.numbers() {
            if let Some(seat) = self.table.seat_mut(number) {
                let _ = self.recorder.seat(number as u32, seat).focus_at(focused, at);
            }
        }
    }

    /// The stage has another size.
    pub(crate) fn set_view(&mut self, (wide, high): (u32, u32)) {
        let view = (wide.max(1), high.max(1));
        if view == self.view || self.taped {
            return;
        }
        self.view = view;
        for number in self.numbers() {
            if let Some(seat) = self.table.seat_mut(number) {
                let _ = self.recorder.seat(number as u32, seat).set_view(view.0, view.1);
            }
        }
    }

    /// A fact is switched by hand, in the seat that the switches speak to.
    pub(crate) fn tell(&mut self, fact: &str, value: &str) {
        let Ok(found) = self.linkage().find(fact) else { return };
        let told = match value {
            "true" => Told::Flag(true),
            "false" => Told::Flag(false),
            word => Told::Word(word),
        };
        let number = self.told_seat;
        self.changed = self.changed.max(self.played);
        if let Some(seat) = self.table.seat_mut(number)
            && let Err(problem) = self.recorder.seat(number as u32, seat).tell(found, told)
        {
            self.complain(problem.to_string());
        }
    }

    /// A mode is switched by hand.
    pub(crate) fn set_mode(&mut self, mode: &str, on: bool) {
        let Ok(found) = self.linkage().find::<Mode>(mode) else { return };
        let number = self.told_seat;
        self.changed = self.changed.max(self.played);
        if let Some(seat) = self.table.seat_mut(number)
            && let Err(problem) = self.recorder.seat(number as u32, seat).set_mode(found, on)
        {
            self.complain(problem.to_string());
        }
    }

    /// A tape is to play instead of hands.
    pub(crate) fn begin_tape(&mut self, path: &Path) -> Result<Script, ScriptError> {
        let script = Script::begin(path)?;
        let deck = Deck::new(script.header()).profile(self.tuning.text());
        self.deck = Some((deck, script.folder().to_owned()));
        Ok(script)
    }

    /// A line of the tape that plays instead of hands.
    pub(crate) fn line(&mut self, line: &Line) -> Result<(), String> {
        let number = line.seat as usize;
        while self.table.seats().count() < number {
            let before = self.table.seats().count();
            self.sit(&[]);
            if self.table.seats().count() == before {
                return Err(format!("seat {number} has no place; try it with --seats {number}"));
            }
        }
        let (Some((deck, folder)), Some(seat)) = (&mut self.deck, self.table.seat_mut(number)) else {
            return Err(format!("there is no seat {number}"));
        };
        match &line.kind {
            LineKind::Number { path, value } => {
                let read =
                    self.tuning.numbers().iter().find(|known| known.path == *path).and_then(|known| known.read(value));
                let value = read.ok_or_else(|| format!("the profile has no number `{path}` that could be {value}"))?;
                return self.set_number(path, value).map_err(|broken| broken.to_string());
            }
            LineKind::Remap(_) => {
                let read = |file: &str| text_beside(folder, file).map_err(|problem| problem.to_string());
                deck.after(line, read).map_err(|problem| problem.to_string())?;
                let remap = deck.player_file().clone();
                return self.set_remap(remap).map_err(|broken| broken.to_string());
            }
            LineKind::Profile(_) => {
                self.remark("the tape goes over to another profile here; the one that is tried plays on");
                return Ok(());
            }
            LineKind::View { size: [wide, high], .. } => self.view = (*wide, *high),
            LineKind::End => return Ok(()),
            _ => {}
        }
        deck.put(line, seat).map_err(|problem| problem.to_string())?;
        self.recorder.line(line);
        self.changed = self.changed.max(line.at);
        Ok(())
    }

    /// Plays all seats up to a moment.
    pub(crate) fn play(&mut self, now: Moment) {
        if now <= self.played {
            return;
        }
        self.played = now;
        let mut changed = false;
        let (json, mut came) = (self.json, Vec::new());
        for number in self.numbers() {
            let Some(seat) = self.table.seat_mut(number) else { continue };
            let mut hand = self.recorder.seat(number as u32, seat);
            let Some(answering) = self.answering.get_mut(number - 1) else { continue };
            let (recent, lanes, stories) = (&mut self.recent, &mut self.lanes, &mut self.stories);
            let looked = &mut self.looked[number - 1];
            answering.advance(&mut hand, now, |seat| {
                changed |= seat.latest().happenings().next().is_some();
                if json {
                    let told = |one| OutputLine::of(one, number as u32, seat.linkage(), false);
                    came.extend(seat.latest().happenings().filter_map(told).map(|line| (line.at, line.json())));
                }
                recent.look(number, seat);
                lanes.relink(seat.linkage());
                seat.latest().happenings().for_each(|happening| lanes.happened(number as u32, happening));
                lanes.played(number as u32, seat);
                stories.extend(looked.stories(number, seat));
            });
        }
        came.sort_by_key(|(at, _)| *at);
        // Whoever reads may stop reading; the window plays on.
        let _ = came.iter().try_for_each(|(_, line)| writeln!(std::io::stdout(), "{line}"));
        self.stories.drain(..self.stories.len().saturating_sub(STORIES));
        // The seats are there already; the table learns of it.
        self.recorder.advance(&mut self.table, now);
        self.recorder.take_lines().iter().for_each(|line| self.lanes.line(line));
        let oldest = now.as_micros().saturating_sub(4 * SHOWN.as_micros() as u64);
        self.lanes.forget(oldest);
        if changed {
            self.changed = self.changed.max(now);
        }
        if let Some(failure) = self.recorder.take_failure() {
            let path = self.beside.as_ref().map_or(String::new(), |recording| recording.path.display().to_string());
            self.complain(format!(
                "{path} can't be written any more: {failure}; the tape ends there, and can be played"
            ));
        }
    }

    /// Until when the loop may leave all seats alone.
    pub(crate) fn rests_until(&self) -> Option<Moment> {
        if self.answering.iter().any(Answering::is_busy) {
            return None;
        }
        self.table
            .seats()
            .map(|(_, seat)| seat.rests_until())
            .try_fold(Moment::LATEST, |first, rest| Some(first.min(rest?)))
    }

    /// Whether the lanes move: something changed lately, or a span runs out.
    pub(crate) fn is_lively(&self, now: Moment) -> bool {
        now - self.changed < RUN_ON
            || self.answering.iter().any(Answering::is_busy)
            || self.table.seats().any(|(_, seat)| seat.countdowns().next().is_some())
            || self.note.as_ref().is_some_and(|note| note.until > now)
    }

    /// Hands the tape to the system, before the loop sleeps.
    pub(crate) fn flush(&mut self) {
        self.recorder.flush();
    }

    /// All seats go over to what the tuning says now.
    fn relink(&mut self, because: &[LineKind]) {
        let linkage = self.tuning.linkage().clone();
        self.table.set_linkage(&linkage);
        self.lanes.relink(&linkage);
        let mut lost = Vec::new();
        for number in self.numbers() {
            let Some(seat) = self.table.seat_mut(number) else { continue };
            let relinked = self.recorder.seat(number as u32, seat).relink(&linkage, &mut [], because);
            lost.extend(relinked.lost);
            self.looked[number - 1] = self.table.seat(number).map_or(Looked::default(), Looked::all_of);
        }
        self.changed = self.changed.max(self.played);
        if !lost.is_empty() {
            self.remark(format!("no longer in the profile: {}", lost.join(", ")));
        }
        self.choose_first();
    }

    /// Moves a number of the profile, and plays on with it at once.
    pub(crate) fn set_number(&mut self, path: &str, value: f64) -> Result<(), tidy_lever_tuning::Broken> {
        let written = self.tuning.set(path, value)?;
        self.relink(&[LineKind::Number { path: path.to_owned(), value: written }]);
        Ok(())
    }

    /// Goes over to another player's file.
    fn set_remap(&mut self, remap: Remap) -> Result<(), tidy_lever_tuning::Broken> {
        let text = remap.to_toml();
        self.tuning.set_remap(remap)?;
        let said = self.companion("remap", &text).map(LineKind::Remap);
        self.relink(said.as_slice());
        Ok(())
    }

    /// Takes the last move back.
    pub(crate) fn undo(&mut self) {
        match self.tuning.undo() {
            Some(changed) => {
                let text: Vec<String> = changed.iter().map(|(path, value)| format!("{path} = {value}")).collect();
                let said: Vec<LineKind> =
                    changed.into_iter().map(|(path, value)| LineKind::Number { path, value }).collect();
                self.relink(&said);
                self.remark(format!("undone: {}", text.join(", ")));
            }
            None => self.remark("nothing to undo"),
        }
    }

    /// Saves the moved numbers into the profile's file.
    pub(crate) fn save(&mut self) {
        if self.tuning.moved().is_empty() {
            return self.remark("no number was moved; nothing to save");
        }
        let moved: Vec<String> = self.tuning.moved().iter().map(|(path, value)| format!("{path} = {value}")).collect();
        match self.tuning.save() {
            Ok(()) => self.remark(format!("saved {}: {}", self.tuning.path().display(), moved.join(", "))),
            Err(problem) => {
                let changed = matches!(problem, tidy_lever_tuning::SaveError::Changed(_));
                self.complain(problem.to_string());
                if changed {
                    self.reread();
                }
            }
        }
    }

    /// The profile's file was saved by somebody, or its answers were.
    pub(crate) fn reread(&mut self) {
        match self.tuning.reread() {
            Reread::Changed { gone } => {
                let text = self.tuning.text().to_owned();
                let said = self.companion("profile", &text).map(LineKind::Profile);
                self.relink(said.as_slice());
                let gone = if gone.is_empty() { String::new() } else { format!("; gone: {}", gone.join(", ")) };
                self.remark(format!("the saved profile plays{gone}"));
            }
            // The fault itself stands over the stage.
            Reread::Broken(_) => self.changed = self.changed.max(self.played),
            _ => {}
        }
        self.read_answers();
    }

    /// The answers beside the profile, unless some were given.
    fn read_answers(&mut self) {
        let path = answers_beside(self.tuning.path());
        if self.answers_given || self.tuning.fault().is_some() {
            return;
        }
        let Ok(text) = std::fs::read_to_string(&path) else { return };
        match read_answers(&text, &path.display().to_string(), self.tuning.linkage()) {
            Ok(answers) if answers == self.answers => {}
            Ok(answers) => {
                self.remark(format!("{} answers of {}", answers.len(), path.display()));
                self.answering.iter_mut().for_each(|one| *one = Answering::new(answers.clone()));
                self.answers = answers;
            }
            Err(faults) => self.complain(faults.first().map_or(String::new(), ToString::to_string)),
        }
    }

    /// Writes the answers to their file beside the profile.
    pub(crate) fn write_answers(&mut self) {
        let path = answers_beside(self.tuning.path());
        if path.exists() {
            return self.remark(format!("{} is there already; it is read whenever it is saved", path.display()));
        }
        match tidy_lever_files::write(&path, write_answers(&self.answers).as_bytes()) {
            Ok(()) => self.remark(format!("wrote {}; edit it, it is read whenever it is saved", path.display())),
            Err(problem) => self.complain(problem.to_string()),
        }
    }

    /// The answers to pulls.
    pub(crate) fn answers(&self) -> &[Answer] {
        &self.answers
    }

    /// Marks that the chosen action is meant here.
    pub(crate) fn meant(&mut self) {
        let action = self.chosen.clone().filter(|chosen| self.linkage().action(chosen).is_some());
        let Some(action) = action else { return };
        self.recorder.note(1, LineKind::Meant(action.clone()));
        self.remark(format!("marked on the tape: {action} is meant here"));
    }

    /// Saves the last seconds as a tape beside the profile.
    pub(crate) fn keep(&mut self) {
        let profile = self.tuning.path();
        let stem = profile.file_stem().unwrap_or_default().to_string_lossy().into_owned();
        let free = |number: &u32| !profile.with_file_name(format!("{stem}-kept{number}.jsonl")).exists();
        let Some(number) = (1..10_000).find(free) else { return };
        let path = profile.with_file_name(format!("{stem}-kept{number}.jsonl"));
        let mut text = Vec::new();
        let written = self.recorder.save_ring(&mut text).map_err(|error| error.to_string());
        let profile = Companions::of(&path).write("profile", self.tuning.text().as_bytes());
        match written.and_then(|()| tidy_lever_files::write(&path, &text).map_err(|error| error.to_string())) {
            Ok(()) => {
                let beside = profile.unwrap_or_default();
                self.remark(format!(
                    "the last {} s are in {}, their profile in {beside}",
                    RING.as_secs(),
                    path.display()
                ));
            }
            Err(problem) => self.complain(problem),
        }
    }

    /// The hands are lifted for good: what was recorded is written; how to play it.
    pub(crate) fn end(&mut self) -> Option<String> {
        self.recorder.end();
        let Recording { path, profile, .. } = self.beside.as_ref()?;
        let profile = path.with_file_name(profile.as_deref().unwrap_or("PROFILE"));
        Some(format!("recorded {0}; play it: tidy-lever play {1} {0}", path.display(), profile.display()))
    }
}
