//! What the benches play.

use std::time::Duration;

use crate::by_hand::{ByHand, Input};
use crate::read;
use tidy_lever::profile::{Action, Profile};
use tidy_lever::seat::Saved;
use tidy_lever::tape::{Line, LineKind, OutputLine, Reader, Replayer};
use tidy_lever::{Control, Device, Direction, Event, Linkage, Moment, Seat};

pub const DEMO: &str = include_str!("../../demo/otter-post.toml");
/// Events in one round.
pub const EVENTS: u64 = 1_000;

pub fn demo() -> Linkage {
    Linkage::build(&Profile::from_toml(DEMO).unwrap()).unwrap()
}

/// Keys go down and up, one after another, 8 ms apart.
pub fn taps(names: &[&str]) -> Vec<Event> {
    let keyboard = Device::new(0).unwrap();
    let controls: Vec<Control> = names.iter().map(|name| name.parse().unwrap()).collect();
    let event = |n: u64| {
        let at = Moment::from_micros(8_000 * (n + 1));
        Event::button(at, keyboard, controls[(n / 2) as usize % controls.len()], n.is_multiple_of(2))
    };
    (0..EVENTS).map(event).collect()
}

/// A thumb on the left stick that swings about by this much; with presses, two of sixteen events are west's.
fn thumb_about(pad: usize, swing: f32, presses: bool) -> Vec<Event> {
    let mut dice = fastrand::Rng::with_seed(4);
    let pad = Device::new(pad).unwrap();
    let mut angle = 0.0f32;
    let event = |n: u64| {
        let at = Moment::from_micros(8_000 * (n + 1));
        if presses && n % 16 >= 14 {
            return Event::button(at, pad, Control::PAD_WEST, n.is_multiple_of(2));
        }
        angle += (dice.f32() - 0.3) * swing;
        let (y, x) = angle.sin_cos();
        Event::pair(at, pad, Control::LEFT_STICK, x, y)
    };
    (0..EVENTS).map(event).collect()
}

/// A thumb that goes round and about.
pub fn thumb() -> Vec<Event> {
    thumb_about(1, 0.6, false)
}

/// A thumb that goes round and about, with a press now and then.
pub fn thumb_and_press() -> Vec<Event> {
    thumb_about(0, 1.2, true)
}

/// Plays a round behind everything that was played already, each event in a tick of its own.
pub fn play(seat: &mut Seat, events: &[Event]) {
    let begin = seat.played() - Moment::ZERO;
    for event in events {
        let at = event.at + begin;
        seat.feed(Event { at, ..*event }).unwrap();
        seat.advance(at);
    }
}

/// Frames that a rollback plays again, seats that play, and events that each seat has in a frame.
pub const BACK: usize = 8;
pub const SEATS: usize = 4;
pub const EVENTS_A_FRAME: usize = 10;
/// Frames that were played before.
const PLAYED: usize = 1_000;

/// Four seats of a match at 60 frames a second. Each frame saves all of them; a late input of one takes them all back by eight
/// frames, which are then played again, each saved again.
#[derive(Debug)]
pub struct Match {
    seats: Vec<Seat>,
    /// What the seats were like before each of the last frames, by its number.
    saved: Vec<Vec<Saved>>,
    /// What each seat is fed, frame by frame.
    events: Vec<Event>,
    /// How many inputs came late.
    late: usize,
}

/// How much sooner a late input was made than it had seemed, every other time.
const SOONER: Duration = Duration::from_micros(400);

impl Default for Match {
    /// One that has played some seconds, so that its history is full.
    fn default() -> Match {
        let linkage = demo();
        let seats: Vec<Seat> = (0..SEATS).map(|_| linkage.seat(Moment::ZERO)).collect();
        let saved = vec![seats.iter().map(|seat| seat.saved(&[])).collect(); BACK];
        // A key's press or release, then a place of the stick, in turn; 1.5 ms apart.
        let (keys, sticks) = (taps(&["keys:KeyD", "keys:KeyJ", "keys:Space", "keys:KeyE"]), thumb());
        let event = |number: usize| {
            let (place, frame) = (number / 2 % EVENTS as usize, (number / EVENTS_A_FRAME) as u64);
            let within = Duration::from_micros(1_500 * (number % EVENTS_A_FRAME + 1) as u64);
            let event = if number.is_multiple_of(2) { keys[place] } else { sticks[place] };
            Event { at: Moment::of_tick(frame, 60) + within, ..event }
        };
        let events = (0..PLAYED * EVENTS_A_FRAME).map(event).collect();
        let mut new = Match { seats, saved, events, late: 0 };
        (0..PLAYED).for_each(|frame| new.play(frame));
        new
    }
}

impl Match {
    fn play(&mut self, frame: usize) {
        for (seat, saved) in self.seats.iter().zip(&mut self.saved[frame % BACK]) {
            seat.save_into(saved, &[]);
        }
        let to = Moment::of_tick(frame as u64 + 1, 60);
        // Whoever is late gave the first input of the frames played again sooner, and the next time as it had seemed.
        let (turn, who) = (self.late / SEATS, self.late % SEATS);
        for (number, seat) in self.seats.iter_mut().enumerate() {
            let [first, others @ ..] = &self.events[frame * EVENTS_A_FRAME..][..EVENTS_A_FRAME] else { return };
            let was_late = turn + usize::from(number <= who);
            let sooner = frame == PLAYED - BACK && !was_late.is_multiple_of(2);
            let at = first.at - if sooner { SOONER } else { Duration::ZERO };
            seat.feed(Event { at, ..*first }).unwrap();
            for event in others {
                seat.feed(*event).unwrap();
            }
            seat.advance(to);
        }
    }

    /// One player's input comes late: the last eight frames are played again.
    pub fn roll_back(&mut self) {
        for (seat, saved) in self.seats.iter_mut().zip(&self.saved[PLAYED % BACK]) {
            seat.restore(saved, &mut []).unwrap();
        }
        (PLAYED - BACK..PLAYED).for_each(|frame| self.play(frame));
        self.late += 1;
    }

    /// What all of it came to.
    pub fn hash(&self) -> u64 {
        self.seats.iter().map(Seat::state_hash).fold(0, u64::wrapping_add)
    }
}

/// One button that is pressed, among this many that are not.
pub fn untouched(count: usize) -> Linkage {
    let mut profile = Profile::new("untouched").action(Action::button("act").keys("KeyJ"));
    let keys: Vec<String> = Control::all(tidy_lever::Family::Keys).map(|key| key.name().to_string()).collect();
    let others: Vec<&String> = keys.iter().filter(|key| *key != "KeyJ").collect();
    for number in 0..count {
        let cue = ["press", "hold 300ms", "2 taps 240ms apart", "toggle"][number % 4];
        let action = Action::button(&format!("other-{number}")).keys(others[number % others.len()].as_str()).cue(cue);
        profile = profile.action(action);
    }
    Linkage::build(&profile).unwrap()
}

/// What one event is made of: a name, and a round of them on the demo's profile.
pub fn events() -> Vec<(&'static str, Vec<Event>)> {
    vec![
        ("a key that walks", taps(&["keys:KeyD"])),
        ("a key that tosses", taps(&["keys:KeyJ"])),
        ("keys in turn", taps(&["keys:KeyD", "keys:Space", "keys:KeyE", "keys:KeyG", "keys:KeyL", "keys:KeyQ"])),
        ("a stick", thumb()),
        ("a key that nobody hears", taps(&["keys:F9"])),
    ]
}

/// The same events as the hard-coded version takes them.
pub fn inputs(events: &[Event]) -> Vec<(u64, Input)> {
    let input = |event: &Event| Some((event.at.as_micros(), read::input(&LineKind::of(event, ""))?));
    events.iter().filter_map(input).collect()
}

/// Plays a round by hand, behind everything that was played already.
pub fn play_by_hand(hand: &mut ByHand, begin: u64, inputs: &[(u64, Input)]) {
    for (at, input) in inputs {
        hand.input(begin + at, *input);
        hand.advance(begin + at);
    }
}

/// The demo's round: a minute of play, with what the game tells.
pub const ROUND: &[u8] = include_bytes!("../../demo/morning-round.jsonl");

/// A tape's text in, what came of it out, as lines of text.
pub fn text_to_text(linkage: &Linkage) -> String {
    let mut reader = Reader::new(ROUND).unwrap();
    let (mut player, mut seat) = (Replayer::new(reader.header()), linkage.seat(Moment::ZERO));
    let mut out = String::new();
    for line in reader.by_ref() {
        let line = line.unwrap();
        player.put(&line, &mut seat).unwrap();
        seat.advance(line.at);
        let reading = seat.latest();
        for came in reading.happenings().filter_map(|one| OutputLine::of(one, 1, linkage, false)) {
            out.push_str(&came.json());
            out.push('\n');
        }
    }
    out
}

/// The events and tellings of a round as calls; without names to look up, as a replay has them.
pub fn calls(linkage: &Linkage) -> Vec<Event> {
    let reader = Reader::new(ROUND).unwrap();
    let devices = reader.header().devices.clone();
    let device = |id: &str| Device::new(devices.iter().position(|entry| entry.id == id).unwrap_or(9)).unwrap();
    let event = |line: Line| match &line.kind {
        LineKind::Level { device: id, control, value } => {
            Some(Event::level(line.at, device(id), linkage.control(control)?, *value as f32))
        }
        LineKind::Pair { device: id, control, x, y } => {
            Some(Event::pair(line.at, device(id), linkage.control(control)?, *x as f32, *y as f32))
        }
        _ => None,
    };
    reader.map(Result::unwrap).filter_map(event).collect()
}

/// A stick, a button, and this many different motions of three to five positions, half of them finished by the button.
pub fn motions(motions: usize) -> Linkage {
    let mut dice = fastrand::Rng::with_seed(3);
    let mut profile = Profile::new("motions")
        .action(Action::stick("steer").pad("left-stick"))
        .action(Action::button("toss").pad("west"));
    for number in 0..motions {
        let mut stands = dice.usize(0..8);
        let mut path = Direction::ALL[stands].name().to_owned();
        for _ in 0..dice.usize(2..5) {
            stands = (stands + dice.usize(1..8)) % 8;
            path += &format!(", {}", Direction::ALL[stands].name());
        }
        let then = if number % 2 == 0 { " then toss" } else { "" };
        let cue = format!("steer rolls {path}{then} within 400ms");
        profile = profile.action(Action::button(&format!("motion-{number}")).cue(&cue).outranks(["toss"]));
    }
    Linkage::build(&profile).unwrap()
}
