//! What the menu changes: keys and access, laid over the profile while it plays, and saved.

use std::time::Duration;

use serde_json::json;
use tidy_lever::access::Access;
use tidy_lever::listening::{Heard, Listening, Want};
use tidy_lever::remap::{Clash, Conflict, Refused, Remap, Target};
use tidy_lever::{Control, Family, Moment};

use super::Game;
use crate::hands::MenuWishes;
use crate::menu::{Wanted, together};
use crate::player;
use crate::tuning::{Broken, Tuned};

/// How long the menu waits for a key.
const PATIENCE: Duration = Duration::from_secs(5);

impl Game {
    pub(super) fn menu_step(&mut self, number: usize, at: Moment, wishes: MenuWishes) {
        if let Some((_, listening)) = &mut self.menu.listening {
            let heard = listening.by(at);
            self.heard(heard, at);
            return;
        }
        let (family, access) = (self.family(), self.remap.access());
        let row = self.menu.row;
        let wanted = self.menu.step(wishes, family, &access);
        if row != self.menu.row {
            self.report.say(at, "row", json!({ "row": self.menu.row, "name": self.menu.now(family).name() }));
        }
        match wanted {
            Some(Wanted::Listen(target)) => self.listen(number, target, at),
            Some(Wanted::Access(access)) => self.set_access(&access),
            Some(Wanted::ResetAll) => {
                let mut remap = self.remap.clone();
                remap.reset_all();
                self.change(remap, "everything is as the profile has it".into());
            }
            Some(Wanted::Close) => {
                let menu = self.tuned.hands.menu;
                if let Some(seat) = self.table.seat_mut(number)
                    && seat.set_mode(menu, false).is_ok()
                {
                    let at = at + Duration::from_micros(1);
                    self.recorder.iter_mut().for_each(|recorder| recorder.mode(number, at, "menu", false));
                }
            }
            None => {}
        }
    }

    fn listen(&mut self, number: usize, target: Target, at: Moment) {
        let Some(seat) = self.table.seat(number) else { return };
        let pad_walk = target.family == Family::Pad && target.action == "steer";
        let want = if pad_walk { Want::Stick } else { Want::Button };
        let mut listening = Listening::new(at).only(&[target.family]).want(want).limit(PATIENCE).after(seat);
        if let Ok(escape) = "keys:Escape".parse::<Control>() {
            listening = listening.way_out(escape);
        }
        self.report.say(at, "listening", json!({ "for": target.to_string() }));
        self.menu.word.clear();
        self.menu.listening = Some((target, listening));
    }

    /// Something came of listening, or nothing yet.
    pub(super) fn heard(&mut self, heard: Heard, at: Moment) {
        let word = match heard {
            Heard::Nothing => return,
            Heard::Control(control) => {
                if let Some((target, _)) = self.menu.listening.take() {
                    self.bind(&target, &control);
                }
                return;
            }
            Heard::Out => "nothing was changed",
            Heard::TimedOut => "nothing came, and nothing was changed",
        };
        self.menu.listening = None;
        self.report.say(at, "unheard", json!({ "because": word }));
        self.menu.word = word.into();
    }

    /// Binds a control; whoever had it gets what this one had.
    fn bind(&mut self, target: &Target, control: &str) {
        // In its own family a control goes by its short name.
        let control = control.split_once(':').map_or(control, |(_, name)| name);
        let mut remap = self.remap.clone();
        let mut swapped: Vec<Conflict> = Vec::new();
        let mut problem: Option<Refused> = None;
        for (place, action) in together(&target.action).enumerate() {
            let own = Target { action: action.to_owned(), ..target.clone() };
            // Who goes with it by the profile hears the same; that is no conflict.
            let clash = if place == 0 { Clash::Swap } else { Clash::Share };
            match remap.bind(&self.tuned.profile, &own, &[control], clash) {
                Ok(told) if place == 0 => swapped = told,
                Ok(_) => {}
                Err(refused) => problem = problem.or(Some(refused)),
            }
        }
        if let Some(problem) = problem {
            self.menu.word = format!("{control} can't be had: {problem}");
            return;
        }
        let mut word = format!("{} is on {control} now", target.action);
        if let Some(other) = swapped.first() {
            word += &format!("; {} got what it had", other.other.action);
        }
        self.change(remap, word);
    }

    fn set_access(&mut self, access: &Access) {
        let mut remap = self.remap.clone();
        remap.set_access(access);
        self.change(remap, "saved".into());
    }

    /// Plays on with a changed remap, and saves it.
    fn change(&mut self, remap: Remap, word: String) {
        let at = self.played();
        if let Err(broken) = self.wear(remap) {
            self.menu.word = broken.to_string();
            return;
        }
        let at_next = at + Duration::from_micros(1);
        let numbers = self.numbers();
        self.recorder.iter_mut().for_each(|recorder| recorder.remap(&numbers, at_next, &self.remap));
        self.report.say(at, "changed", json!({ "word": word, "remap": self.remap.to_toml() }));
        self.menu.word = word;
        if let Some(path) = &self.setup.player
            && let Err(problem) = player::write(path, &self.remap.to_toml())
        {
            self.menu.word = format!("it plays, and could not be saved: {problem:#}");
        }
    }

    /// Lays a remap over the profile while it plays.
    pub(super) fn wear(&mut self, remap: Remap) -> Result<(), Broken> {
        let tuned = Tuned::of(self.tuned.profile.clone(), &remap)?;
        self.remap = remap;
        self.relink(tuned);
        Ok(())
    }
}
