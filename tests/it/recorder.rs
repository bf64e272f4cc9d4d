//! Promise: what is recorded plays again to the same, whatever was fed and told, and in whatever order.

use std::io::{self, Write};
use std::sync::{Arc, Mutex};
use std::time::Duration;

use proptest::prelude::*;
use tidy_lever::event::Phase;
use tidy_lever::table::Table;
use tidy_lever::tape::{Header, LineKind, OutputLine, Reader, Recorder, Replayer};
use tidy_lever::{Bookmark, Button, Control, Device, Event, Fact, Family, Linkage, Mode, Moment, Profile, Seat};

const TEXT: &str = r#"
tidy-lever = 1
[modes]
ashore = { on = true }
menu = {}
[facts]
grounded = true
state = ["idle", "walk"]
[action.steer]
kind = "stick"
keys = { up = "KeyW", left = "KeyA", down = "KeyS", right = "KeyD" }
pad = "left-stick"
touch = "thumb"
[action.hop]
kind = "button"
keys = "Space"
pad = "south"
when = "grounded within 90ms"
keep = "120ms"
spends = "grounded"
cooldown = "200ms"
[action.lamp]
kind = "button"
keys = "KeyL"
cue = "toggle"
[action.ring]
kind = "button"
keys = "KeyR"
cue = "hold 300ms"
modes = ["ashore"]
[action.paddle]
kind = "gauge"
keys = "KeyK"
mouse = "left"
gauge = { floor = 1, ceiling = 6, push = "x1.35", rest = "60ms", fade = "x0.5 every 50ms" }
[action.pick]
kind = "button"
mouse = ["wheel-up", "left"]
pad = "west"
cue = ["2 taps 240ms apart", "hold 80ms"]
[action.burst]
kind = "button"
keys = "KeyB"
cue = "repeat after 60ms every 25ms"
when = "not frozen"
keep = "100ms"
while_held = true
[panel.thumb]
kind = "stick"
from = "bottom-left"
at = [0.3, 0.3]
size = 0.2
"#;

/// An output that can be looked at while it is written.
#[derive(Clone, Default)]
struct Paper(Arc<Mutex<Vec<u8>>>);

impl Write for Paper {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.0.lock().unwrap().write(bytes)
    }
    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}

impl Paper {
    fn text(&self) -> String {
        String::from_utf8(self.0.lock().unwrap().clone()).unwrap()
    }
}

fn build(text: &str) -> Linkage {
    Linkage::build(&Profile::from_toml(text).unwrap()).unwrap()
}

fn header() -> Header {
    let families = [("kb", Family::Keys), ("ms", Family::Mouse), ("scr", Family::Touch), ("p1", Family::Pad)];
    families.into_iter().fold(Header::new(""), |header, (id, family)| header.device(id, family))
}

/// What happened in a seat since a bookmark, as lines.
fn told(seat: &Seat, bookmark: &mut Bookmark, number: u32, came: &mut Vec<String>) {
    let told = |one| OutputLine::of(one, number, seat.linkage(), true).map(|line| line.json());
    came.extend(seat.read(bookmark).happenings().filter_map(told));
}

/// What a tape brings about in one of its seats, and the seat's state at the end.
fn played(text: &str, linkage: &Linkage, number: u32) -> (Vec<String>, u64) {
    let mut reader = Reader::new(text.as_bytes()).unwrap();
    let mut player = Replayer::new(reader.header()).for_seat(number);
    let mut seat = linkage.seat(Moment::ZERO);
    let mut bookmark = seat.bookmark();
    let (mut came, mut before) = (Vec::new(), Moment::ZERO);
    for line in reader.by_ref() {
        let line = line.unwrap();
        // What lies in a gap plays at its end.
        if line.at > before && !text.contains("skip") {
            seat.advance(before);
        }
        before = line.at;
        player.put(&line, &mut seat).unwrap();
    }
    seat.advance(before);
    told(&seat, &mut bookmark, number, &mut came);
    (came, seat.state_hash())
}

/// One call of a game.
#[derive(Clone, Debug)]
enum Call {
    Key(&'static str, bool, i64),
    /// The keyboard itself has buttons of a mouse, and a wheel of so many notches; the pad has keys.
    Mouse(bool, i64),
    Wheel(u8, i64),
    PadKey(&'static str, bool, i64),
    Pad(bool, i64),
    Stick(f32, f32),
    Finger(Phase, f32, f32),
    Fact(bool, i64),
    Word(&'static str),
    Mode(bool, i64),
    Set(bool, i64),
    GiveBack(i64),
    Focus(bool),
    View(u32, u32),
    Unplug(bool, usize),
    Advance(u64),
    Skip(u64),
    Frozen(bool, i64),
}

impl Call {
    fn strategy(gaps: bool) -> impl Strategy<Value = Call> {
        let skip = (1_u64..60_000).prop_map(Call::Skip);
        prop_oneof![40 => call(), u32::from(gaps) => skip]
    }
}

/// Moments before or behind the played one: some at it, some in its neighbourhood, some far off.
fn off() -> impl Strategy<Value = i64> {
    prop_oneof![2 => Just(0_i64), 2 => -3_i64..4, 3 => -20_000_i64..20_000]
}

fn call() -> impl Strategy<Value = Call> {
    let key = || prop::sample::select(vec!["KeyW", "KeyA", "KeyD", "Space", "KeyL", "KeyR", "KeyK", "KeyB"]);
    let phase = prop::sample::select(Phase::ALL.to_vec());
    prop_oneof![
        // Some come late, some early.
        8 => (key(), any::<bool>(), off()).prop_map(|(key, down, at)| Call::Key(key, down, at)),
        2 => (any::<bool>(), off()).prop_map(|(down, at)| Call::Mouse(down, at)),
        2 => (1_u8..4, off()).prop_map(|(notches, at)| Call::Wheel(notches, at)),
        2 => (key(), any::<bool>(), off()).prop_map(|(key, down, at)| Call::PadKey(key, down, at)),
        1 => (any::<bool>(), off()).prop_map(|(down, at)| Call::Pad(down, at)),
        2 => (-1.0_f32..1.0, -1.0_f32..1.0).prop_map(|(x, y)| Call::Stick(x, y)),
        1 => (phase, 0.0_f32..1.0, 0.0_f32..1.0).prop_map(|(phase, x, y)| Call::Finger(phase, x, y)),
        3 => (any::<bool>(), off()).prop_map(|(on, at)| Call::Fact(on, at)),
        1 => prop::sample::select(vec!["idle", "walk"]).prop_map(Call::Word),
        1 => (any::<bool>(), off()).prop_map(|(on, at)| Call::Mode(on, at)),
        1 => (any::<bool>(), off()).prop_map(|(on, at)| Call::Set(on, at)),
        1 => off().prop_map(Call::GiveBack),
        1 => any::<bool>().prop_map(Call::Focus),
        1 => (100_u32..2000, 100_u32..2000).prop_map(|(wide, high)| Call::View(wide, high)),
        1 => (any::<bool>(), prop::sample::select(vec![0_usize, 3])).prop_map(|(on, device)| Call::Unplug(on, device)),
        2 => (any::<bool>(), off()).prop_map(|(on, at)| Call::Frozen(on, at)),
        6 => (1_u64..60_000).prop_map(Call::Advance),
        2 => (0_u64..3).prop_map(Call::Advance),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]
    #[test]
    fn a_tape_of_any_calls_plays_to_the_same(calls in prop::collection::vec(Call::strategy(false), 1..60)) {
        recorded_plays_to_the_same(&calls)?;
    }

    #[test]
    fn a_tape_with_gaps_plays_to_the_same(calls in prop::collection::vec(Call::strategy(true), 1..60)) {
        recorded_plays_to_the_same(&calls)?;
    }
}

fn recorded_plays_to_the_same(calls: &[Call]) -> Result<(), TestCaseError> {
    let linkage = build(TEXT);
    let (grounded, state): (Fact, Fact) = (linkage.find("grounded").unwrap(), linkage.find("state").unwrap());
    let (frozen, menu): (Fact, Mode) = (linkage.find("frozen").unwrap(), linkage.find("menu").unwrap());
    let (lamp, hop): (Button, Button) = (linkage.find("lamp").unwrap(), linkage.find("hop").unwrap());
    let (board, pad) = (Device::default(), Device::new(3).unwrap());
    let paper = Paper::default();
    let mut recorder = Recorder::off(&header()).output(paper.clone()).unwrap();
    let mut seat = linkage.seat(Moment::ZERO);
    let (mut came, mut bookmark) = (Vec::new(), seat.bookmark());
    let mut now = 0;
    // Each device says what it is first, so that the tape's devices have the numbers of the seat's.
    let mut hand = recorder.seat(1, &mut seat);
    hand.feed(Event::button(Moment::ZERO, board, "keys:KeyW".parse().unwrap(), false)).unwrap();
    hand.feed(Event::pair(Moment::ZERO, pad, Control::LEFT_STICK, 0.0, 0.0)).unwrap();
    for call in calls {
        let mut hand = recorder.seat(1, &mut seat);
        let at = Moment::from_micros(now + 500);
        let near = |off: i64| Moment::from_micros((now as i64 + off).max(0) as u64);
        let key = |key: &str| format!("keys:{key}").parse::<Control>().unwrap();
        match *call {
            Call::Key(name, down, off) => hand.feed(Event::button(near(off), board, key(name), down)).unwrap(),
            Call::PadKey(name, down, off) => hand.feed(Event::button(near(off), pad, key(name), down)).unwrap(),
            Call::Mouse(down, off) => hand.feed(Event::button(near(off), board, Control::MOUSE_LEFT, down)).unwrap(),
            Call::Wheel(notches, off) => {
                hand.feed(Event::level(near(off), board, Control::WHEEL_UP, f32::from(notches))).unwrap();
            }
            Call::Pad(down, off) => hand.feed(Event::button(near(off), pad, Control::PAD_WEST, down)).unwrap(),
            Call::Stick(x, y) => hand.feed(Event::pair(at, pad, Control::LEFT_STICK, x, y)).unwrap(),
            Call::Finger(phase, x, y) => hand.feed(Event::touch(at, Device::new(2).unwrap(), 7, phase, x, y)).unwrap(),
            Call::Fact(on, off) => hand.tell_at(grounded, on, near(off)).unwrap(),
            Call::Word(word) => hand.tell_at(state, word, at).unwrap(),
            Call::Mode(on, off) => hand.set_mode_at(menu, on, near(off)).unwrap(),
            Call::Set(on, off) => hand.set_at(lamp, on, near(off)).unwrap(),
            Call::GiveBack(off) => hand.give_back_at(hop, near(off)).unwrap(),
            Call::Focus(on) => hand.focus_at(on, at).unwrap(),
            Call::View(wide, high) => hand.set_view(wide, high).unwrap(),
            Call::Unplug(plugged, device) => {
                hand.feed(Event::plugged(at, Device::new(device).unwrap(), plugged)).unwrap();
            }
            Call::Frozen(on, off) => hand.tell_at(frozen, on, near(off)).unwrap(),
            Call::Skip(by) => {
                now += by;
                hand.skip(Moment::from_micros(now));
                told(&seat, &mut bookmark, 1, &mut came);
            }
            Call::Advance(by) => {
                now += by;
                hand.advance(Moment::from_micros(now));
                told(&seat, &mut bookmark, 1, &mut came);
            }
        }
    }
    // Everything plays that was fed ahead.
    recorder.seat(1, &mut seat).advance(Moment::from_micros(now + 30_000));
    told(&seat, &mut bookmark, 1, &mut came);
    recorder.end();
    let (again, state) = played(&paper.text(), &linkage, 1);
    prop_assert_eq!(&again, &came, "{}", paper.text());
    prop_assert_eq!(state, seat.state_hash(), "{}", paper.text());
    Ok(())
}

#[test]
fn two_seats_at_a_table_share_a_tape_in_order_of_time() {
    let linkage = build(TEXT);
    let mut table = Table::new(&linkage, 2);
    let (kb, pad) = (Device::default(), Device::new(3).unwrap());
    table.sit(&linkage, &[kb]);
    table.sit(&linkage, &[pad]);
    let paper = Paper::default();
    let mut recorder = Recorder::off(&header()).output(paper.clone()).unwrap();
    let grounded: Fact = linkage.find("grounded").unwrap();
    let space: Control = "keys:Space".parse().unwrap();
    let mut came = [Vec::new(), Vec::new()];
    let mut bookmarks: Vec<Bookmark> = table.seats().map(|(_, seat)| seat.bookmark()).collect();
    let presses = [(10, kb, space), (12, pad, Control::PAD_SOUTH), (9, kb, space), (300, pad, Control::PAD_SOUTH)];
    for (n, (at, device, control)) in presses.into_iter().enumerate() {
        for (at, down) in [(at, true), (at + 5, false)] {
            recorder.feed(&mut table, Event::button(Moment::from_millis(at), device, control, down)).unwrap();
        }
        if n == 2 {
            recorder.seat(2, table.seat_mut(2).unwrap()).tell_at(grounded, false, Moment::from_millis(200)).unwrap();
        }
        recorder.advance(&mut table, Moment::from_millis(100 * (n as u64 + 1)));
        for (number, seat) in table.seats() {
            told(seat, &mut bookmarks[number - 1], number as u32, &mut came[number - 1]);
        }
    }
    recorder.end();
    let text = paper.text();
    for number in 1..=2 {
        assert_eq!(played(&text, &linkage, number).0, came[number as usize - 1], "{text}");
    }
    assert!(text.contains(r#""dev":"p1","control":"pad:south""#) && text.contains(r#""seat":2"#), "{text}");
    let moments: Vec<u64> = Reader::new(text.as_bytes()).unwrap().map(|line| line.unwrap().at.as_micros()).collect();
    assert!(moments.is_sorted(), "{moments:?}");
}

#[test]
fn a_gap_is_skipped_on_the_tape_too() {
    let linkage = build(TEXT);
    let paper = Paper::default();
    let mut recorder = Recorder::off(&header()).output(paper.clone()).unwrap();
    let mut seat = linkage.seat(Moment::ZERO);
    let ring: Control = "keys:KeyR".parse().unwrap();
    let (mut came, mut bookmark) = (Vec::new(), seat.bookmark());
    let mut hand = recorder.seat(1, &mut seat);
    hand.feed(Event::button(Moment::from_millis(50), Device::default(), ring, true)).unwrap();
    hand.advance(Moment::from_millis(100));
    told(&seat, &mut bookmark, 1, &mut came);
    let mut hand = recorder.seat(1, &mut seat);
    hand.feed(Event::button(Moment::from_millis(900), Device::default(), ring, false)).unwrap();
    hand.skip(Moment::from_millis(5_000));
    told(&seat, &mut bookmark, 1, &mut came);
    let mut hand = recorder.seat(1, &mut seat);
    hand.feed(Event::button(Moment::from_millis(5_100), Device::default(), ring, true)).unwrap();
    hand.advance(Moment::from_millis(6_000));
    told(&seat, &mut bookmark, 1, &mut came);
    recorder.end();
    let (again, state) = played(&paper.text(), &linkage, 1);
    assert_eq!((again, state), (came, seat.state_hash()), "{}", paper.text());
}

#[test]
fn a_crash_keeps_all_but_the_last_half_second() {
    let linkage = build(TEXT);
    let paper = Paper::default();
    let file = io::BufWriter::with_capacity(1 << 20, paper.clone());
    let mut recorder = Recorder::off(&header()).output(file).unwrap();
    let mut seat = linkage.seat(Moment::ZERO);
    let space: Control = "keys:Space".parse().unwrap();
    for n in 1..=100_u64 {
        let mut hand = recorder.seat(1, &mut seat);
        hand.feed(Event::button(Moment::from_millis(n * 50), Device::default(), space, n % 2 == 1)).unwrap();
        hand.advance(Moment::from_millis(n * 50 + 16));
    }
    // Nothing is dropped, as where a program is killed.
    let text = paper.text();
    std::mem::forget(recorder);
    let mut reader = Reader::new(text.as_bytes()).unwrap();
    let last = reader.by_ref().map(|line| line.unwrap().at).last().unwrap();
    assert!(last >= Moment::from_millis(4_500), "{last:?}");
    assert!(reader.cut_at().is_some(), "it has no end");
}

/// An output that is full after so many bytes.
struct Full(usize);

impl Write for Full {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.0 = self.0.checked_sub(bytes.len()).ok_or(io::Error::from(io::ErrorKind::StorageFull))?;
        Ok(bytes.len())
    }
    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}

#[test]
fn a_full_disk_is_told_once_and_the_game_plays_on() {
    let linkage = build(TEXT);
    let mut recorder = Recorder::off(&header()).output(Full(200)).unwrap();
    let mut seat = linkage.seat(Moment::ZERO);
    let space: Control = "keys:Space".parse().unwrap();
    let mut failures = 0;
    for n in 1..=50_u64 {
        let mut hand = recorder.seat(1, &mut seat);
        hand.feed(Event::button(Moment::from_millis(n * 50), Device::default(), space, n % 2 == 1)).unwrap();
        hand.advance(Moment::from_millis(n * 50));
        failures += u32::from(recorder.take_failure().is_some());
    }
    assert_eq!((failures, recorder.is_on()), (1, false));
    assert_eq!(seat.played(), Moment::from_millis(2_500));
}

#[test]
fn a_ring_that_holds_all_keeps_all_moments() {
    let linkage = build(TEXT);
    let mut recorder = Recorder::off(&header()).ring(Duration::from_secs(2));
    let mut seat = linkage.seat(Moment::ZERO);
    let mut hand = recorder.seat(1, &mut seat);
    hand.set_view(640, 400).unwrap();
    hand.feed(Event::button(Moment::from_micros(100_007), Device::default(), "keys:Space".parse().unwrap(), true))
        .unwrap();
    hand.advance(Moment::from_millis(200));
    let mut text = Vec::new();
    recorder.save_ring(&mut text).unwrap();
    let lines = Reader::new(text.as_slice()).unwrap().map(|line| line.unwrap().at.as_micros());
    assert_eq!(lines.collect::<Vec<_>>(), [0, 100_007, 200_000]);
}

#[test]
fn the_ring_holds_the_last_span_and_what_stood_before_it() {
    let linkage = build(TEXT);
    let mut recorder = Recorder::off(&header()).ring(Duration::from_secs(2));
    let mut seat = linkage.seat(Moment::ZERO);
    let (grounded, lamp): (Fact, Button) = (linkage.find("grounded").unwrap(), linkage.find("lamp").unwrap());
    let key = |name: &str| format!("keys:{name}").parse::<Control>().unwrap();
    let mut hand = recorder.seat(1, &mut seat);
    hand.tell(grounded, false).unwrap();
    hand.set(lamp, true).unwrap();
    // Held through; and one that was let go long before the span.
    hand.feed(Event::button(Moment::from_millis(100), Device::default(), key("KeyD"), true)).unwrap();
    hand.feed(Event::button(Moment::from_millis(200), Device::default(), key("Space"), true)).unwrap();
    hand.feed(Event::button(Moment::from_millis(300), Device::default(), key("Space"), false)).unwrap();
    for step in 1..=100_u64 {
        hand.advance(Moment::from_millis(step * 100));
        hand.feed(Event::button(Moment::from_millis(step * 100 + 1), Device::default(), key("KeyL"), step % 2 == 0))
            .unwrap();
    }
    hand.tell(grounded, true).unwrap();
    hand.feed(Event::button(Moment::from_millis(10_050), Device::default(), key("Space"), true)).unwrap();
    hand.advance(Moment::from_millis(10_100));
    let mut text = Vec::new();
    recorder.save_ring(&mut text).unwrap();
    let text = String::from_utf8(text).unwrap();
    let lines: Vec<_> = Reader::new(text.as_bytes()).unwrap().map(Result::unwrap).collect();
    assert!(lines.len() < 50, "{text}");
    let end = lines.last().unwrap();
    assert!(
        end.kind == LineKind::End && end.at >= Moment::from_millis(2_000) && end.at <= Moment::from_millis(3_000),
        "{end:?}"
    );
    let (_, state) = played(&text, &linkage, 1);
    let again = {
        let mut seat = linkage.seat(Moment::ZERO);
        let mut player = Replayer::new(&header());
        lines.iter().for_each(|line| player.put(line, &mut seat).unwrap());
        seat.advance(end.at);
        seat
    };
    assert_eq!(again.state_hash(), state);
    let steer: tidy_lever::Stick = linkage.find("steer").unwrap();
    let hop: Button = linkage.find("hop").unwrap();
    assert_eq!((again.stick(steer).xy(), seat.stick(steer).xy()), ((1.0, 0.0), (1.0, 0.0)));
    assert!(again.is(grounded) && again.button(hop).is_down() && seat.button(hop).is_on() == again.button(hop).is_on());
}

#[test]
fn one_that_is_off_keeps_nothing() {
    let linkage = build(TEXT);
    let mut recorder = Recorder::off(&header());
    let mut seat = linkage.seat(Moment::ZERO);
    let mut hand = recorder.seat(1, &mut seat);
    hand.feed(Event::button(Moment::from_millis(1), Device::default(), "keys:Space".parse().unwrap(), true)).unwrap();
    hand.advance(Moment::from_millis(5));
    let mut text = Vec::new();
    recorder.end();
    recorder.save_ring(&mut text).unwrap();
    assert_eq!((String::from_utf8(text).unwrap().lines().count(), recorder.is_on()), (1, false));
}
