//! The demo's profile hard-coded: one struct, flags and timers, the way a careful engineer writes it for one game.
//!
//! It plays at the events' own times, as the library does, and pulls the same on the demo's round (`tests/by_hand.rs`).
//! What it leaves out: it can't be remapped or tuned, knows one keyboard and one pad, keeps no history beyond the last pulls,
//! reports no ends, can't be saved, and can't say why.

mod input;
mod path;
mod steering;

pub use input::{Input, Key};
use path::Path;

const MS: u64 = 1_000;

/// A direction as an eighth of a circle, 0 right, counter-clockwise.
type Eighth = u8;
const RIGHT: Eighth = 0;
const UP: Eighth = 2;
const LEFT: Eighth = 4;
const DOWN: Eighth = 6;
const DOWN_LEFT: Eighth = 5;
const DOWN_RIGHT: Eighth = 7;

/// Which of an action's controls hold it, and since when.
#[derive(Clone, Copy, Debug, Default)]
struct Held {
    by: u8,
    since: u64,
}

impl Held {
    fn down(&mut self, control: u8, at: u64) {
        if self.by == 0 {
            self.since = at;
        }
        self.by |= 1 << control;
    }

    /// Let go by the last of its controls: how long it was held.
    fn up(&mut self, control: u8, at: u64) -> Option<u64> {
        let was = self.by;
        self.by &= !(1 << control);
        (was != 0 && self.by == 0).then(|| at - self.since)
    }
}

/// The whole game's input.
#[derive(Clone, Debug)]
pub struct ByHand {
    /// The last pulls, oldest overwritten.
    pub pulls: Vec<(u64, &'static str)>,
    next: usize,
    pub total: u64,
    // What is down, newest press highest.
    order: u64,
    legs: [u64; 8],
    stick: (f32, f32),
    dpad: (f32, f32),
    stick_left: u64,
    dpad_left: u64,
    keys_left: u64,
    pub steer: (f32, f32),
    direction: Option<Eighth>,
    chosen: Option<Eighth>,
    // What the game told.
    grounded: bool,
    grounded_ended: Option<u64>,
    grounded_spent: Option<u64>,
    grounded_broken: bool,
    grounded_counts: u64,
    near_punt: bool,
    busy: bool,
    facing_left: bool,
    free: bool,
    // Modes.
    ashore: bool,
    afloat: bool,
    menu: bool,
    // Actions.
    hop: Held,
    hop_kept: Option<u64>,
    hop_stage: u8,
    toss: Held,
    toss_cool: u64,
    toss_kept: Option<u64>,
    tossed: Option<u64>,
    throw: Held,
    r#use: Held,
    bag_due: Option<u64>,
    guard: Held,
    guarded: Option<u64>,
    used: Option<u64>,
    slip_kept: Option<u64>,
    whistle: Held,
    lamp: bool,
    paddle: Held,
    paddle_value: f32,
    paddle_at: u64,
    rush: [u64; 5],
    rush_on: bool,
    scroll_due: Option<u64>,
    scroll_back_due: Option<u64>,
    twice: Option<(Eighth, u64)>,
    rested: bool,
    skim: [Path; 2],
    salute: Path,
    knock: [(u8, u64); 4],
    marks: Vec<(u64, &'static str)>,
}

const PULLS: usize = 256;
const SKIM: [[Eighth; 3]; 2] = [[DOWN, DOWN_RIGHT, RIGHT], [DOWN, DOWN_LEFT, LEFT]];
const SALUTE: [Eighth; 4] = [LEFT, DOWN, RIGHT, UP];
const KNOCK: [u8; 4] = [1, 1, 2, 1];

impl Default for ByHand {
    fn default() -> ByHand {
        ByHand {
            pulls: Vec::with_capacity(PULLS),
            next: 0,
            total: 0,
            order: 0,
            legs: [0; 8],
            stick: (0.0, 0.0),
            dpad: (0.0, 0.0),
            stick_left: 0,
            dpad_left: 0,
            keys_left: 0,
            steer: (0.0, 0.0),
            direction: None,
            chosen: None,
            grounded: true,
            grounded_ended: None,
            grounded_spent: None,
            grounded_broken: false,
            grounded_counts: 0,
            near_punt: false,
            busy: false,
            facing_left: false,
            free: true,
            ashore: true,
            afloat: false,
            menu: false,
            hop: Held::default(),
            hop_kept: None,
            hop_stage: 0,
            toss: Held::default(),
            toss_cool: 0,
            toss_kept: None,
            tossed: None,
            throw: Held::default(),
            r#use: Held::default(),
            bag_due: None,
            guard: Held::default(),
            guarded: None,
            used: None,
            slip_kept: None,
            whistle: Held::default(),
            lamp: false,
            paddle: Held::default(),
            paddle_value: 1.0,
            paddle_at: 0,
            rush: [0; 5],
            rush_on: false,
            scroll_due: None,
            scroll_back_due: None,
            twice: None,
            rested: true,
            skim: [Path::default(); 2],
            salute: Path::default(),
            knock: [(0, 0); 4],
            marks: Vec::with_capacity(16),
        }
    }
}

impl ByHand {
    /// Where the stick points, counter-clockwise from the right.
    pub fn points(&self) -> Option<u8> {
        self.direction
    }

    fn pull(&mut self, at: u64, action: &'static str) {
        if self.pulls.len() < PULLS {
            self.pulls.push((at, action));
        } else {
            self.pulls[self.next] = (at, action);
        }
        self.next = if self.next + 1 == PULLS { 0 } else { self.next + 1 };
        self.total += 1;
    }

    fn walks(&self) -> bool {
        self.ashore && !self.menu
    }

    /// Plays what falls due up to a moment.
    pub fn advance(&mut self, to: u64) {
        if let Some(due) = self.bag_due.filter(|due| *due <= to) {
            self.bag_due = None;
            self.pull(due, "open-bag");
        }
        while let Some(due) = self.scroll_due.filter(|due| *due <= to) {
            self.scroll_due = Some(due + 80 * MS);
            self.pull(due, "scroll");
        }
        while let Some(due) = self.scroll_back_due.filter(|due| *due <= to) {
            self.scroll_back_due = Some(due + 80 * MS);
            self.pull(due, "scroll-back");
        }
        if let Some(kept) = self.toss_kept
            && self.toss_cool <= to
        {
            self.toss_kept = None;
            if self.toss_cool <= kept + 150 * MS {
                self.tosses(self.toss_cool.max(kept));
            }
        }
        if self.grounded
            && let Some(spent) = self.grounded_spent
        {
            let counts = spent + if self.grounded_broken { 90 * MS } else { 250 * MS };
            if counts <= to {
                (self.grounded_spent, self.grounded_counts) = (None, counts);
                self.hop_again(counts);
            }
        }
        if self.rush_on && self.rush[0] + 1_000 * MS < to {
            self.rush_on = false;
        }
        self.marks.retain(|(at, _)| *at > to);
    }

    /// An event, in order of its moment.
    pub fn input(&mut self, at: u64, input: Input) {
        // What is due at this very moment comes first.
        self.advance(at);
        match input {
            Input::Key(key, true) => self.down(key, at),
            Input::Key(key, false) => self.up(key, at),
            Input::Stick(x, y) => {
                let size = x.hypot(y);
                let scaled = ((size - 0.15) / 0.8).clamp(0.0, 1.0);
                self.stick = if scaled > 0.0 { (x / size * scaled, y / size * scaled) } else { (0.0, 0.0) };
                self.stick_left = self.left(self.stick, self.stick_left);
                self.steers(at);
            }
            Input::Dpad(x, y) => {
                let size = x.hypot(y).max(1.0);
                self.dpad = (x / size, y / size);
                self.dpad_left = self.left(self.dpad, self.dpad_left);
                self.steers(at);
            }
            Input::Grounded(grounded) => self.stands(grounded, at),
            Input::NearPunt(near) => self.near_punt = near,
            Input::Busy(busy) => {
                self.busy = busy;
                self.slip_again(at);
            }
            Input::FacingLeft(left) => self.facing_left = left,
            Input::Free(free) => self.free = free,
            Input::Menu(on) => self.switch(self.ashore, self.afloat, on, at),
            Input::Focus(false) => {
                self.legs = [0; 8];
                self.drop_all();
                self.steers(at);
            }
            Input::Focus(true) => {}
        }
    }

    fn left(&mut self, value: (f32, f32), before: u64) -> u64 {
        if value == (0.0, 0.0) {
            return 0;
        }
        if before > 0 {
            return before;
        }
        self.order += 1;
        self.order
    }

    fn stands(&mut self, grounded: bool, at: u64) {
        if grounded == self.grounded {
            return;
        }
        self.grounded = grounded;
        if !grounded {
            self.grounded_ended = Some(at);
            self.grounded_broken |= self.grounded_spent.is_some();
            return;
        }
        self.grounded_ended = None;
        match self.grounded_spent {
            Some(spent) if self.grounded_broken && spent + 90 * MS > at => {}
            Some(_) if !self.grounded_broken => {}
            Some(_) => {
                (self.grounded_spent, self.grounded_counts) = (None, at);
                self.hop_again(at);
            }
            None => self.hop_again(at),
        }
        self.slip_again(at);
    }

    fn may_hop(&self, at: u64) -> bool {
        let lingers = self.grounded_ended.is_some_and(|ended| at - ended <= 90 * MS);
        self.grounded_spent.is_none() && (self.grounded || lingers)
    }

    fn hop_again(&mut self, at: u64) {
        if self.hop_kept.take_if(|kept| at <= *kept + 120 * MS).is_some() && self.walks() {
            self.hops(at);
        }
    }

    fn hops(&mut self, at: u64) {
        let again = self.hop_stage > 0 && self.grounded_counts > 0 && at - self.grounded_counts <= 180 * MS;
        self.hop_stage = if again && self.hop_stage < 3 { self.hop_stage + 1 } else { 1 };
        (self.grounded_spent, self.grounded_broken) = (Some(at), !self.grounded);
        self.pull(at, "hop");
    }

    fn tosses(&mut self, at: u64) {
        self.toss_cool = at + 150 * MS;
        self.marks.push((at + 400 * MS, "land"));
        self.pull(at, "toss");
    }

    fn slip_again(&mut self, at: u64) {
        if self.grounded && !self.busy && self.slip_kept.take_if(|kept| at <= *kept + 60 * MS).is_some() && self.walks()
        {
            self.slips(at);
        }
    }

    fn slips(&mut self, at: u64) {
        self.marks.extend([(at + 150 * MS, "hidden"), (at + 183_333, "turn")]);
        self.pull(at, "slip");
    }

    fn skims(&mut self, at: u64) -> bool {
        for side in 0..2 {
            let path = &mut self.skim[side];
            if path.step == 3 && at <= path.left_at + 350 * MS && path.left_facing == (side == 1) {
                path.step = 0;
                self.pull(at, "skim");
                return true;
            }
        }
        false
    }

    fn knocks(&mut self, what: u8, at: u64) {
        self.knock.rotate_left(1);
        self.knock[3] = (what, at);
        let right = self.knock.iter().zip(KNOCK).all(|((came, _), wanted)| *came == wanted);
        if right && at - self.knock[0].1 <= 2_000 * MS {
            self.knock = [(0, 0); 4];
            self.pull(at, "knock");
        }
    }

    fn press_toss(&mut self, control: u8, at: u64) {
        if control != 2 {
            self.throw.down(control, at);
        }
        self.toss.down(control, at);
        if self.skims(at) {
            return;
        }
        if self.guard.by != 0 && self.guarded.take_if(|guarded| at <= *guarded + 40 * MS).is_some() {
            return self.pull(at, "bow");
        }
        self.tossed = Some(at);
        if at >= self.toss_cool { self.tosses(at) } else { self.toss_kept = Some(at) }
    }

    fn down(&mut self, key: Key, at: u64) {
        match key {
            Key::W | Key::Up | Key::A | Key::Left | Key::S | Key::Down | Key::D | Key::Right => {
                self.order += 1;
                self.legs[leg(key)] = self.order;
                self.steers(at);
            }
            Key::Space | Key::South if self.menu => self.pull(at, "pick"),
            Key::Space | Key::South if self.ashore => {
                self.hop.down(u8::from(key == Key::South), at);
                if self.may_hop(at) { self.hops(at) } else { self.hop_kept = Some(at) }
            }
            Key::South | Key::K | Key::I if self.afloat && !self.menu => self.paddles(key, at),
            Key::J if self.walks() => self.press_toss(0, at),
            Key::West if self.walks() => self.press_toss(1, at),
            Key::MouseLeft if self.walks() => self.press_toss(2, at),
            Key::E if self.menu => self.pull(at, "pick"),
            Key::E | Key::East if self.walks() => {
                let first = self.r#use.by == 0;
                self.r#use.down(u8::from(key == Key::East), at);
                if first {
                    self.bag_due = Some(at + 350 * MS);
                }
                self.knocks(1, at);
                if self.guard.by != 0 && self.guarded.take_if(|guarded| at <= *guarded + 60 * MS).is_some() {
                    self.slip_met(at);
                } else {
                    self.used = Some(at);
                }
            }
            Key::G | Key::LeftShoulder if self.walks() => {
                self.guard.down(u8::from(key == Key::LeftShoulder), at);
                self.knocks(2, at);
                if self.toss.by != 0 && self.tossed.take_if(|tossed| at <= *tossed + 40 * MS).is_some() {
                    return self.pull(at, "bow");
                }
                if self.r#use.by != 0 && self.used.take_if(|used| at <= *used + 60 * MS).is_some() {
                    return self.slip_met(at);
                }
                self.guarded = Some(at);
                self.pull(at, "guard");
            }
            Key::F | Key::RightThumb if self.walks() => self.pull(at, "about"),
            Key::Q | Key::North if self.walks() => self.whistle.down(u8::from(key == Key::North), at),
            Key::L | Key::Select if !self.menu => {
                self.lamp = !self.lamp;
                self.pull(at, "lamp");
            }
            Key::R | Key::RightShoulder if !self.menu => {
                if self.ashore && self.near_punt {
                    self.pull(at, "board");
                    self.switch(false, true, false, at);
                } else if self.afloat {
                    self.pull(at, "leave");
                    self.switch(true, false, false, at);
                }
            }
            Key::Enter | Key::Start if self.menu => {
                self.pull(at, "close-menu");
                self.switch(self.ashore, self.afloat, false, at);
            }
            Key::Escape if self.menu => {
                self.pull(at, "close-menu");
                self.switch(self.ashore, self.afloat, false, at);
            }
            Key::Enter | Key::Start if self.ashore || self.afloat => {
                self.pull(at, "open-menu");
                self.switch(self.ashore, self.afloat, true, at);
            }
            Key::WheelDown if !self.menu => self.pull(at, "next-parcel"),
            Key::WheelUp if !self.menu => self.pull(at, "last-parcel"),
            _ => {}
        }
    }

    /// Both are down: the slip goes before what each of them does alone.
    fn slip_met(&mut self, at: u64) {
        if self.grounded && !self.busy {
            self.bag_due = None;
            self.used = None;
            self.slips(at);
            // The tap that the press began comes to nothing.
            self.r#use.since = 0;
        } else {
            self.slip_kept = Some(at);
        }
    }

    fn paddles(&mut self, key: Key, at: u64) {
        self.paddle.down(if key == Key::South { 2 } else { u8::from(key == Key::I) }, at);
        self.paddle_value = (self.paddle(at) * 1.35).min(6.0);
        self.paddle_at = at;
        if key != Key::South {
            self.rush.rotate_left(1);
            self.rush[4] = at;
            if !self.rush_on && self.rush[0] > 0 && at - self.rush[0] <= 1_000 * MS {
                self.rush_on = true;
                self.pull(at, "rush");
            }
        }
    }

    /// How fast the punt is paddled, in closed form.
    pub fn paddle(&self, at: u64) -> f32 {
        let rested = at.saturating_sub(self.paddle_at + 260 * MS) as f32;
        (self.paddle_value * 0.85f32.powf(rested / 100_000.0)).max(1.0)
    }

    fn up(&mut self, key: Key, at: u64) {
        match key {
            Key::W | Key::Up | Key::A | Key::Left | Key::S | Key::Down | Key::D | Key::Right => {
                self.legs[leg(key)] = 0;
                self.steers(at);
            }
            Key::Space => drop(self.hop.up(0, at)),
            Key::South => {
                self.hop.up(1, at);
                self.paddle.up(2, at);
            }
            Key::J => self.let_go_of_toss(0, at),
            Key::West => self.let_go_of_toss(1, at),
            Key::MouseLeft => self.let_go_of_toss(2, at),
            Key::E | Key::East => {
                let held = self.r#use.up(u8::from(key == Key::East), at);
                if held.is_some() {
                    self.bag_due = None;
                }
                if held.is_some_and(|held| held < 200 * MS) && !self.busy {
                    self.pull(at, "use");
                }
            }
            Key::G | Key::LeftShoulder => drop(self.guard.up(u8::from(key == Key::LeftShoulder), at)),
            Key::Q | Key::North => self.let_go_of_whistle(u8::from(key == Key::North), at),
            Key::K => drop(self.paddle.up(0, at)),
            Key::I => drop(self.paddle.up(1, at)),
            _ => {}
        }
    }

    fn let_go_of_whistle(&mut self, control: u8, at: u64) {
        if self.whistle.up(control, at).is_some() {
            self.pull(at, "whistle");
        }
    }

    fn let_go_of_toss(&mut self, control: u8, at: u64) {
        self.toss.up(control, at);
        if control != 2 && self.throw.up(control, at).is_some_and(|held| held >= 300 * MS) {
            self.pull(at, "throw");
        }
    }

    /// Nothing that is held or was begun counts any more.
    fn drop_all(&mut self) {
        for held in
            [&mut self.hop, &mut self.toss, &mut self.throw, &mut self.r#use, &mut self.guard, &mut self.whistle]
        {
            held.by = 0;
        }
        (self.hop_kept, self.toss_kept, self.slip_kept, self.bag_due) = (None, None, None, None);
        (self.tossed, self.guarded, self.used, self.twice) = (None, None, None, None);
        (self.skim, self.salute, self.knock) = ([Path::default(); 2], Path::default(), [(0, 0); 4]);
    }

    /// Modes change: what is held is let go, and nothing that was begun counts.
    fn switch(&mut self, ashore: bool, afloat: bool, menu: bool, at: u64) {
        let walked = self.walks();
        (self.ashore, self.afloat, self.menu) = (ashore, afloat, menu);
        if walked && !self.walks() {
            self.drop_all();
        }
        if !self.afloat || self.menu {
            (self.paddle.by, self.rush, self.rush_on) = (0, [0; 5], false);
        }
        (self.scroll_due, self.scroll_back_due) = (None, None);
        self.steers(at);
    }
}

fn leg(key: Key) -> usize {
    match key {
        Key::W => 0,
        Key::A => 1,
        Key::S => 2,
        Key::D => 3,
        Key::Up => 4,
        Key::Left => 5,
        Key::Down => 6,
        _ => 7,
    }
}
