//! The game: hands and the world, step by step.
//!
//! ```text
//!   events ─feed─▶ seats ─advance─▶ wishes ─▶ world.step ─▶ facts ─tell─▶ seats
//! ```

mod bind;
mod feed;
#[cfg(not(target_arch = "wasm32"))]
mod taped;

use std::time::Duration;

use serde_json::json;
use tidy_lever::adapter::Devices;
use tidy_lever::following::follow;
use tidy_lever::prompt::Labels;
use tidy_lever::remap::Remap;
use tidy_lever::seat::Told;
use tidy_lever::table::Table;
#[cfg(not(target_arch = "wasm32"))]
use tidy_lever::tape::Deck;
use tidy_lever::tape::LineKind;
use tidy_lever::{Control, Device, Family, Moment, Seat};
use tidy_lever_tuning::Broken;
use tidy_lever_view::Recent;

use crate::camera::{Camera, Looks};
use crate::hands::MenuWishes;
use crate::menu::Menu;
use crate::player::Store;
use crate::recorder::Tape;
use crate::report::Report;
use crate::tuning::Tuned;
use crate::world::{STEPS_A_SECOND, Wishes, World};

/// The ledger's room: attempts between two steps.
const LEDGER: usize = 256;
/// How many otters play at once.
const PLACES: usize = 2;
/// Behind by more than this, time is skipped instead of played.
const GAP: Duration = Duration::from_secs(2);
/// How fast the camera follows: it covers this many times the way left in a second.
const LAG: f64 = 5.0;

/// A line that the game shows on the screen.
#[derive(Clone, Debug)]
pub(crate) struct Note {
    pub(crate) text: String,
    pub(crate) bad: bool,
    /// The line of the profile that it is about.
    #[cfg_attr(not(target_arch = "wasm32"), allow(dead_code, reason = "only a page has the profile beside the game"))]
    pub(crate) line: Option<u32>,
    /// Until when; without, until something else is to be told.
    pub(crate) until: Option<Moment>,
}

/// How the game is begun.
#[derive(Debug, Default)]
pub(crate) struct Setup {
    /// Where changes that the menu makes go.
    pub(crate) player: Option<Box<dyn Store>>,
    /// Pads move a second otter from the start.
    pub(crate) two: bool,
    /// A tape plays instead of hands.
    pub(crate) taped: bool,
    /// Whether things happen in real time, so that delays can be told.
    pub(crate) live: bool,
    /// Whether the screen can be touched: until something else plays, it shows where.
    pub(crate) touch: bool,
}

pub(crate) struct Game {
    pub(crate) tuned: Tuned,
    pub(crate) remap: Remap,
    pub(crate) table: Table,
    pub(crate) world: World,
    pub(crate) camera: Camera,
    /// Where each of two otters is looked at, while they are too far apart for one picture.
    apart: Option<[f32; 2]>,
    pub(crate) menu: Menu,
    pub(crate) labels: Labels,
    pub(crate) note: Option<Note>,
    pub(crate) recent: Recent,
    pub(crate) report: Report,
    pub(crate) tape: Tape,
    setup: Setup,
    /// The tape that plays instead of hands, and its folder.
    #[cfg(not(target_arch = "wasm32"))]
    deck: Option<(Deck, std::path::PathBuf)>,
    /// The facts told last, by seat.
    told: Vec<[Option<Told<'static>>; 5]>,
    tick: u64,
    in_menu: bool,
    refused: u64,
    first_has_pad: bool,
    /// How often the profile or the remap changed.
    pub(crate) relinks: u32,
}

impl Game {
    pub(crate) fn new(tuned: Tuned, remap: Remap, setup: Setup, report: Report, tape: Tape) -> Game {
        let table = Table::new(&tuned.linkage, PLACES).join_by(Control::PAD_START);
        let mut game = Game {
            tuned,
            remap,
            table,
            world: World::new(),
            camera: Camera { x: 0.0, size: (1280.0, 800.0), covered: 0.0 },
            apart: None,
            menu: Menu::default(),
            labels: Labels::default(),
            note: None,
            recent: Recent::new(),
            report,
            tape,
            setup,
            #[cfg(not(target_arch = "wasm32"))]
            deck: None,
            told: Vec::new(),
            tick: 0,
            in_menu: false,
            refused: 0,
            first_has_pad: false,
            relinks: 0,
        };
        game.camera.look(game.world.otters[0].place.now.x);
        game.sit(&[Devices::keyboard(), Devices::mouse(), Devices::screen()]);
        let (title, left) = (game.tuned.linkage.title().to_owned(), game.tuned.left_alone.clone());
        game.report.say(Moment::ZERO, "ready", json!({ "title": title, "left_alone": left }));
        if !game.remap.is_empty() {
            let said = game.tape.file("remap", &game.remap.to_toml(), LineKind::Remap);
            said.into_iter().for_each(|said| game.tape.recorder.note(1, said));
        }
        game
    }

    /// Another player sits down.
    fn sit(&mut self, devices: &[Device]) {
        if let Some(number) = self.table.sit(&self.tuned.linkage, devices) {
            self.seated(number);
        }
    }

    /// A seat was taken: its ledger is kept, and it learns how large the view is.
    fn seated(&mut self, number: usize) {
        self.told.push([None; 5]);
        if number > 1 {
            self.world.join();
            self.report.say(self.played(), "joined", json!({ "seat": number }));
        }
        if let Some(seat) = self.table.seat_mut(number) {
            seat.keep_ledger(LEDGER);
        }
        self.set_view((self.camera.size.0 as u32, self.camera.size.1 as u32));
    }

    /// The numbers of the seats that are taken.
    fn numbers(&self) -> Vec<usize> {
        self.table.seats().map(|(number, _)| number).collect()
    }

    /// The last moment that was played.
    pub(crate) fn played(&self) -> Moment {
        Moment::of_tick(self.tick, STEPS_A_SECOND)
    }

    pub(crate) fn is_in_menu(&self) -> bool {
        self.in_menu
    }

    /// Whether a picture now would be the same in a while, but for the water.
    pub(crate) fn is_calm(&self) -> bool {
        let at = self.played();
        let shown = self.camera.covered > 0.0;
        let lately = shown && self.recent.is_new(at, Duration::from_secs(5));
        let busy = self.table.seats().any(|(_, seat)| seat.waiting().waiting > 0 || seat.countdowns().next().is_some());
        (self.world.is_calm() || self.in_menu) && !busy && !lately
    }

    /// The seat that the pictures are about, by its number.
    pub(crate) fn first(&self) -> Option<&Seat> {
        self.table.seat(1)
    }

    /// The family that prompts are to speak of; a mouse lies beside a keyboard.
    pub(crate) fn family(&self) -> Family {
        match self.first().and_then(Seat::family) {
            None if self.setup.touch => Family::Touch,
            None | Some(Family::Mouse) => Family::Keys,
            Some(family) => family,
        }
    }

    /// So many pixels at the right lie under something.
    pub(crate) fn set_covered(&mut self, pixels: f32) {
        self.camera.covered = pixels;
    }

    /// The window has another size.
    pub(crate) fn set_view(&mut self, (width, height): (u32, u32)) {
        self.camera.size = (width.max(1) as f32, height.max(1) as f32);
        self.camera.look(self.camera.x);
        let numbers = self.numbers();
        for number in numbers {
            if let Some(seat) = self.table.seat_mut(number) {
                // A seat whose queue is full plays on with the view that it has.
                let _ = self.tape.recorder.seat(number as u32, seat).set_view(width.max(1), height.max(1));
            }
        }
    }

    /// Plays all steps that are due by a moment. After a long gap time is skipped.
    pub(crate) fn play(&mut self, now: Moment) {
        if now - self.played() > GAP {
            while Moment::of_tick(self.tick + 1, STEPS_A_SECOND) <= now {
                self.tick += 1;
            }
            let at = self.played();
            let numbers = self.numbers();
            for number in numbers {
                if let Some(seat) = self.table.seat_mut(number) {
                    self.tape.recorder.seat(number as u32, seat).skip(at);
                }
            }
            self.report.say(at, "skipped", json!({}));
        }
        while Moment::of_tick(self.tick + 1, STEPS_A_SECOND) <= now {
            self.step(now);
        }
    }

    /// One fixed step; `now` is the clock's time.
    fn step(&mut self, now: Moment) {
        self.tick += 1;
        let at = self.played();
        self.tape.recorder.advance(&mut self.table, at);
        self.tape.complain();
        let hands = self.tuned.hands;
        let asked: Vec<(usize, Wishes, MenuWishes, bool)> = self
            .table
            .seats()
            .map(|(number, seat)| (number, hands.wishes(seat), hands.menu_wishes(seat), seat.is_mode_on(hands.menu)))
            .collect();
        for (number, _, _, _) in &asked {
            self.look_back(*number, now);
        }
        self.menus(at, &asked);
        if !self.in_menu {
            let wishes: Vec<Wishes> = asked.into_iter().map(|(_, wishes, ..)| self.aimed(wishes)).collect();
            self.world.step(&wishes);
            self.follow();
        }
        self.tell(at);
    }

    /// A place in the view becomes one on the quay.
    fn aimed(&self, mut wishes: Wishes) -> Wishes {
        wishes.target = wishes.goes_to.and_then(|place| self.looks(self.camera.size).quay_under(place));
        wishes
    }

    fn menus(&mut self, at: Moment, asked: &[(usize, Wishes, MenuWishes, bool)]) {
        let open = asked.iter().find(|(_, _, _, open)| *open);
        if open.is_some() != self.in_menu {
            self.in_menu = open.is_some();
            self.menu = Menu::default();
            self.report.say(at, "menu", json!({ "open": self.in_menu }));
        }
        if let Some((number, _, wishes, _)) = open {
            self.menu_step(*number, at, *wishes);
        }
    }

    fn follow(&mut self) {
        let otters = &self.world.otters;
        let middle = otters.iter().map(|otter| otter.place.now.x).sum::<f32>() / otters.len() as f32;
        let aside = otters[0].pan;
        let span = Duration::from_secs(1) / STEPS_A_SECOND;
        let x = follow(f64::from(self.camera.x), f64::from(self.camera.aim(middle + aside)), LAG, span);
        self.camera.look(x as f32);
        let [one, other] = &otters[..] else {
            self.apart = None;
            return;
        };
        let places = [one, other].map(|otter| otter.place.now.x);
        let is_far = self.camera.is_too_narrow((places[0] - places[1]).abs(), self.apart.is_some());
        let before = self.apart.unwrap_or(places);
        let at = |number: usize| follow(f64::from(before[number]), f64::from(places[number]), LAG, span) as f32;
        self.apart = is_far.then(|| [at(0), at(1)]);
    }

    /// What a picture of this size looks at.
    pub(crate) fn looks(&self, size: (f32, f32)) -> Looks {
        let camera = Camera { size, ..self.camera };
        self.apart.map_or(Looks::Together(camera), |places| Looks::Apart(camera.halves(places)))
    }

    /// Tells each seat what is true of its otter now, where it changed.
    fn tell(&mut self, at: Moment) {
        let numbers = self.numbers();
        for (place, number) in numbers.into_iter().enumerate() {
            let facts = self.tuned.hands.facts(&self.world.otters[place], self.world.is_near_punt(place));
            self.report.otter(at, place, &self.world.otters[place]);
            for (told, (fact, value)) in self.told[place].iter_mut().zip(facts) {
                let Some(seat) = self.table.seat_mut(number) else { continue };
                if *told != Some(value) && self.tape.recorder.seat(number as u32, seat).tell(fact, value).is_ok() {
                    *told = Some(value);
                }
            }
        }
    }

    /// Notes what a seat's last step brought, for the report and the input view.
    fn look_back(&mut self, number: usize, now: Moment) {
        let Some(seat) = self.table.seat(number) else { return };
        self.report.happened(number as u32, seat, self.setup.live.then_some(now));
        let new = self.recent.look(number, seat);
        for miss in self.recent.misses().take(new).collect::<Vec<_>>().into_iter().rev() {
            let told = json!({ "action": miss.action, "by": miss.by.as_micros(), "story": miss.entry.more });
            self.report.say(miss.entry.at, "missed", told);
        }
    }

    /// The profile's file was saved: the game goes over to it, or says what is wrong with it and plays on.
    pub(crate) fn retune(&mut self, text: Result<String, String>) {
        let at = self.played();
        let tuned =
            text.map_err(Broken::because).and_then(|text| Tuned::new(&text, &self.remap).map(|tuned| (tuned, text)));
        match tuned {
            Ok((tuned, text)) => {
                let said = self.tape.file("profile", &text, LineKind::Profile);
                self.relink(tuned, &said);
                self.note = Some(Note::passing("the new profile is active", at));
            }
            Err(broken) => {
                self.report.say(at, "fault", json!({ "line": broken.line, "problem": broken.to_string() }));
                let text = format!("This profile has errors; the game keeps using the previous one. {broken}");
                self.note = Some(Note { text, bad: true, line: (broken.line > 0).then_some(broken.line), until: None });
            }
        }
    }

    /// All seats go over to another linkage; what is held stays held.
    fn relink(&mut self, tuned: Tuned, because: &[LineKind]) {
        self.tuned = tuned;
        self.relinks += 1;
        self.table.set_linkage(&self.tuned.linkage);
        let numbers = self.numbers();
        for number in numbers {
            let at = self.played();
            if let Some(seat) = self.table.seat_mut(number) {
                let mut hand = self.tape.recorder.seat(number as u32, seat);
                let relinked = hand.relink(&self.tuned.linkage, &mut [], because);
                self.report.say(at, "relinked", json!({ "lost": relinked.lost, "begun_anew": relinked.begun_anew }));
            }
        }
    }

    #[cfg(not(target_arch = "wasm32"))]
    /// The hands are lifted for good: what was recorded is written.
    pub(crate) fn end(&mut self) {
        let at = self.played();
        self.tape.recorder.end();
        self.tape.complain();
        self.report.say(at, "ended", json!({ "delivered": self.world.delivered, "refused": self.refused }));
    }
}

impl Note {
    pub(crate) fn passing(text: impl Into<String>, at: Moment) -> Note {
        Note { text: text.into(), bad: false, line: None, until: Some(at + Duration::from_secs(4)) }
    }
}
