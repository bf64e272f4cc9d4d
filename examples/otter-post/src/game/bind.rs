//! What the menu changes: keys and access, laid over the profile while it plays, and saved.

use std::time::Duration;

use serde_json::json;
use tidy_lever::access::Access;
use tidy_lever::control::Bindable;
use tidy_lever::listening::{Heard, Listening, Want};
use tidy_lever::remap::{Clash, Remap, Target};
use tidy_lever::tape::LineKind;
use tidy_lever::{Control, Family, Moment, Profile};

use super::Game;
use crate::hands::MenuWishes;
use crate::menu::Wanted;
use tidy_lever_tuning::Broken;

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
            Some(Wanted::ResetAll) => self.change(|remap, _| {
                remap.reset_all();
                Ok("everything is as the profile has it".into())
            }),
            Some(Wanted::Close) => {
                let menu = self.tuned.hands.menu;
                if let Some(seat) = self.table.seat_mut(number) {
                    let _ = self.tape.recorder.seat(number as u32, seat).set_mode(menu, false);
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
                if let Some((target, listening)) = self.menu.listening.take() {
                    self.menu.clearing = Some(listening);
                    self.bind(&target, control);
                }
                return;
            }
            Heard::TimedOut => "no input came; nothing was changed",
            _ => "cancelled; nothing was changed",
        };
        self.menu.clearing = self.menu.listening.take().map(|(_, listening)| listening);
        self.report.say(at, "unheard", json!({ "because": word }));
        self.menu.word = word.into();
    }

    /// Binds a control; whoever had it gets what this one had.
    fn bind(&mut self, target: &Target, control: Bindable) {
        let label = self.tuned.linkage.label(control, &self.labels);
        self.change(|remap, profile| {
            // What the profile binds to the same control moves with it.
            let bound = remap
                .bind(profile, target, &[control], Clash::Swap)
                .map_err(|refused| format!("{label} can't be bound: {refused}"))?;
            let mut word = format!("{label} is bound to {}", target.action);
            if let Some(other) = bound.conflicts.first() {
                word += &format!("; {} takes its old control", other.other.action);
            }
            Ok(word)
        });
    }

    fn set_access(&mut self, access: &Access) {
        self.change(|remap, _| {
            remap.set_access(access);
            Ok("saved".into())
        });
    }

    /// Changes the player's file, plays on with it, and saves it. Another program may have changed it meanwhile: the change
    /// is made to what the file says now, while nobody else writes.
    fn change(&mut self, change: impl Fn(&mut Remap, &Profile) -> Result<String, String>) {
        let at = self.played();
        let store = self.setup.player.take();
        let mut changed_it = false;
        let mut put = |kept: Option<Remap>| {
            let mut remap = kept.unwrap_or_else(|| self.remap.clone());
            let changed = change(&mut remap, &self.tuned.profile);
            let worn = changed.and_then(|word| self.wear(remap).map(|()| word).map_err(|broken| broken.to_string()));
            changed_it = worn.is_ok();
            self.menu.word = worn.unwrap_or_else(|problem| problem);
            changed_it.then(|| self.remap.to_toml())
        };
        let saved = match &store {
            Some(store) => store.change(&mut put),
            None => {
                put(None);
                Ok(())
            }
        };
        let mut told = json!({ "word": self.menu.word, "remap": self.remap.to_toml() });
        if let Err(problem) = saved {
            self.menu.word = format!("active until the game ends, but not saved: {problem}");
            told["not_saved"] = json!(problem);
        }
        if changed_it {
            self.report.say(at, "changed", told);
        }
        self.setup.player = store;
    }

    /// Lays a remap over the profile while it plays.
    pub(super) fn wear(&mut self, remap: Remap) -> Result<(), Broken> {
        let tuned = self.tuned.with(&remap)?;
        self.remap = remap;
        let said = self.tape.file("remap", &self.remap.to_toml(), LineKind::Remap);
        self.relink(tuned, &said);
        Ok(())
    }
}
