//! By hand, and what the library has beside pulls: a queue in the order of moments, repeats and lateness, counts by action,
//! and a full log of presses, releases, pulls and ends. So this is what a game would have to write to have as much.

use crate::by_hand::{ByHand, Input, Key};

/// How many inputs can wait, and how many entries the log keeps.
const WAITING: usize = 64;
const LOG: usize = 256;
/// Sticks stand behind the keys.
const STICK: usize = 40;
const DPAD: usize = 41;
/// Numbers of the stick itself, of its first direction, and of the mirror axis with its two ends.
const STEER: u16 = 1;
const FIRST: u16 = 2;
const MIRROR: [u16; 3] = [11, 12, 13];
/// What pulls, whichever it was.
const PULLED: u16 = 20;

/// As large as a happening of the library.
#[allow(dead_code, reason = "what a log keeps is only read when somebody asks")]
#[derive(Clone, Copy, Debug, Default)]
struct Entry {
    at: u64,
    since: u64,
    kept: u64,
    aim_age: u64,
    aim: (i32, i32),
    amount: i32,
    action: u16,
    over: u16,
    what: [u8; 8],
}

#[derive(Clone, Copy, Debug, PartialEq)]
#[repr(u8)]
enum What {
    Pressed,
    Released,
    Pulled,
    Ended,
}

/// What readers ask of an action.
#[derive(Clone, Copy, Debug, Default)]
struct Action {
    since: u64,
    last_held: u64,
    on_since: u64,
    sums: [u32; 3],
    /// The sums before the tick that changed them last.
    before: [u32; 3],
    tick: u32,
    held: u16,
    on: bool,
}

/// What was said last of a control, and when.
#[derive(Clone, Copy, Debug, Default)]
struct Lane {
    at: u64,
    x: f32,
    y: f32,
}

#[derive(Debug)]
pub struct Fair {
    pub hand: ByHand,
    waiting: Vec<(u64, Input)>,
    first: usize,
    next: u64,
    tick: u32,
    lanes: [Lane; 42],
    actions: [Action; 64],
    log: Vec<Entry>,
    pub total: u64,
    direction: Option<u8>,
    side: i8,
    pub late: u64,
    pub repeats: u64,
}

/// The actions that a key presses.
fn pressed_by(key: Key) -> &'static [u16] {
    match key {
        Key::Space => &[21, 22],
        Key::J | Key::West | Key::MouseLeft => &[23, 24],
        Key::E | Key::East => &[25, 26],
        Key::G | Key::LeftShoulder => &[27],
        Key::Q | Key::North => &[28],
        Key::L | Key::Select => &[29],
        Key::F | Key::RightThumb => &[30],
        Key::R | Key::RightShoulder => &[31],
        Key::Enter | Key::Start => &[32],
        _ => &[],
    }
}

impl Default for Fair {
    fn default() -> Fair {
        Fair {
            hand: ByHand::default(),
            waiting: Vec::with_capacity(WAITING),
            first: 0,
            next: 0,
            tick: 0,
            lanes: [Lane::default(); 42],
            actions: [Action::default(); 64],
            log: vec![Entry::default(); LOG],
            total: 0,
            direction: None,
            side: 0,
            late: 0,
            repeats: 0,
        }
    }
}

impl Fair {
    /// Checks an input and puts it in its place; whether there was room.
    pub fn feed(&mut self, at: u64, input: Input) -> bool {
        let (lane, x, y) = match input {
            Input::Key(key, down) => (key as usize, f32::from(u8::from(down)), 0.0),
            Input::Stick(x, y) => (STICK, x, y),
            Input::Dpad(x, y) => (DPAD, x, y),
            _ => return false,
        };
        if !x.is_finite() || !y.is_finite() || self.waiting.len() == WAITING {
            return false;
        }
        let lane = &mut self.lanes[lane];
        if (lane.x, lane.y) == (x, y) {
            self.repeats += 1;
            return true;
        }
        // Not before what is played, and a second change of one control not in the same moment.
        let when = at.max(self.next).max(lane.at + 1);
        self.late += u64::from(when > at);
        *lane = Lane { at: when, x, y };
        let behind = self.waiting[self.first..].iter().rposition(|(other, _)| *other <= when);
        let place = behind.map_or(self.first, |behind| self.first + behind + 1);
        self.waiting.insert(place, (when, input));
        true
    }

    pub fn advance(&mut self, to: u64) {
        self.tick += 1;
        while let Some((at, input)) = self.waiting.get(self.first).copied().filter(|(at, _)| *at <= to) {
            self.first += 1;
            if self.first == self.waiting.len() {
                self.waiting.clear();
                self.first = 0;
            }
            self.play(at, input);
        }
        self.hand.advance(to);
        self.next = to + 1;
    }

    fn play(&mut self, at: u64, input: Input) {
        let before = self.hand.total;
        if let Input::Key(key, down) = input {
            for action in pressed_by(key) {
                if down { self.press(*action, at) } else { self.release(*action, at) }
            }
        }
        self.hand.input(at, input);
        let (from, to) = (self.direction, self.hand.points());
        if from != to {
            self.direction = to;
            if let Some(from) = from {
                self.release(FIRST + u16::from(from), at);
            }
            match (from, to) {
                (None, Some(_)) => self.press(STEER, at),
                (Some(_), None) => self.release(STEER, at),
                _ => {}
            }
            if let Some(to) = to {
                self.press(FIRST + u16::from(to), at);
            }
        }
        let side = if self.hand.steer.0 > 0.0 { 1 } else { -i8::from(self.hand.steer.0 < 0.0) };
        if side != self.side {
            let was = core::mem::replace(&mut self.side, side);
            if was != 0 {
                self.release(MIRROR[if was > 0 { 1 } else { 2 }], at);
            }
            match (was, side) {
                (0, _) => self.press(MIRROR[0], at),
                (_, 0) => self.release(MIRROR[0], at),
                _ => {}
            }
            if side != 0 {
                self.press(MIRROR[if side > 0 { 1 } else { 2 }], at);
            }
        }
        for _ in before..self.hand.total {
            self.touch(PULLED).sums[2] += 1;
            let action = &mut self.actions[usize::from(PULLED)];
            (action.on, action.on_since) = (true, at);
            self.log(PULLED, What::Pulled, at, at);
        }
    }

    fn touch(&mut self, action: u16) -> &mut Action {
        let action = &mut self.actions[usize::from(action) & 63];
        if action.tick != self.tick {
            (action.tick, action.before) = (self.tick, action.sums);
        }
        action
    }

    fn press(&mut self, action: u16, at: u64) {
        let state = self.touch(action);
        if state.held == 0 {
            state.since = at;
        }
        state.held += 1;
        state.sums[0] += 1;
        self.log(action, What::Pressed, at, at);
    }

    fn release(&mut self, action: u16, at: u64) {
        let state = self.touch(action);
        state.held = state.held.saturating_sub(1);
        if state.held > 0 {
            return;
        }
        state.last_held = at - state.since;
        state.sums[1] += 1;
        let (since, on, on_since) = (state.since, core::mem::take(&mut state.on), state.on_since);
        self.log(action, What::Released, at, since);
        if on {
            self.log(action, What::Ended, at, on_since);
        }
    }

    fn log(&mut self, action: u16, what: What, at: u64, since: u64) {
        let mut kind = [0; 8];
        kind[0] = what as u8;
        let entry = Entry { at, since, action, amount: -1, over: u16::MAX, what: kind, ..Entry::default() };
        self.log[(self.total % LOG as u64) as usize] = entry;
        self.total += 1;
    }
}
