//! Promise: a tape of the last seconds begins with all that the seat had by then, and gives the pulls that were lived.

use std::time::Duration;

use crate::common::us;
use fastrand::Rng;
use tidy_lever::remap::Remap;
use tidy_lever::tape::{Header, Reader, Recorder, Replayer};
use tidy_lever::{Bookmark, Control, Device, Event, Linkage, Moment, Profile, Seat, What};

const MS: u64 = 1_000;
const SECOND: u64 = 1_000_000;

const PROFILE: &str = r#"
tidy-lever = 1
[modes]
ashore = { on = true }
afloat = { covers = ["ashore"] }
[action.steer]
kind = "stick"
pad = "left-stick"
pad_shape = { dead = 0.1, full = 0.95 }
[action.board]
kind = "button"
keys = "KeyB"
turns_on = ["afloat"]
[action.land]
kind = "button"
keys = "KeyL"
modes = ["afloat"]
turns_off = ["afloat"]
[action.hop]
kind = "button"
modes = ["ashore"]
keys = "Space"
[action.paddle]
kind = "button"
modes = ["afloat"]
keys = "Space"
[action.lamp]
kind = "button"
keys = "KeyT"
cue = "toggle"
[action.glow]
kind = "button"
keys = "KeyG"
when = "lamp on"
[action.sneak]
kind = "button"
keys = "KeyS"
[action.slip]
kind = "button"
keys = "KeyG"
when = "sneak on"
[action.veer]
kind = "button"
cue = "steer.left press"
[action.knock]
kind = "button"
cue = "steer.right press"
"#;

fn linkage() -> Linkage {
    let remap =
        "tidy-lever = 1\n[access]\ntoggled = [\"sneak\"]\n[devices.by_name.\"Quay pad\"]\nsnapback = \"90ms\"\n";
    let laid = Remap::from_toml(remap).unwrap().over(&Profile::from_toml(PROFILE).unwrap()).unwrap();
    assert!(laid.left_alone.is_empty());
    laid.linkage
}

/// The pulls that a reader has not read yet, as moments and names.
fn pulls(seat: &Seat, bookmark: &mut Bookmark) -> Vec<(u64, String)> {
    let linkage = seat.linkage().clone();
    let reading = seat.read(bookmark);
    let all = reading.happenings().filter(|one| matches!(one.what(), What::Pulled));
    all.map(|one| (one.at().as_micros(), one.action(&linkage).unwrap_or_default().to_owned())).collect()
}

/// Half a minute and more of play on a worn pad and keys: what is said, in order of time.
fn play(dice: &mut Rng, seconds: u64) -> Vec<Event> {
    let pad = Device::new(1).unwrap();
    let (off_x, off_y) = (0.09 + dice.f32() * 0.04, dice.f32() * 0.1 - 0.05);
    let (mut events, mut at) = (Vec::new(), 400 * MS);
    events.push(Event::pair(us(at), pad, Control::LEFT_STICK, off_x, off_y));
    while at < seconds * SECOND {
        at += dice.u64(150 * MS..700 * MS);
        if dice.bool() {
            let key: Control =
                format!("keys:{}", ["KeyB", "KeyL", "Space", "KeyT", "KeyG", "KeyS"][dice.usize(..6)]).parse().unwrap();
            let held = dice.u64(30 * MS..120 * MS);
            events.push(Event::button(us(at), Device::default(), key, true));
            events.push(Event::button(us(at + held), Device::default(), key, false));
            at += held;
            continue;
        }
        // A push that springs back, and swings past its middle now and then.
        let side = if dice.bool() { 0.95 } else { -0.95 };
        let swing = if dice.u8(..3) == 0 { -side * 0.4 } else { off_x };
        for (after, x) in [(0, side), (90, side * 0.5), (98, swing), (115, off_x)] {
            events.push(Event::pair(us(at + after * MS), pad, Control::LEFT_STICK, x, off_y));
        }
        at += 300 * MS;
    }
    events.sort_by_key(|event| event.at);
    events
}

#[test]
fn a_tape_of_the_last_seconds_gives_the_pulls_that_were_lived() {
    let linkage = linkage();
    let (mut compared, mut learnt, mut afloat, mut sneaking) = (0, 0, 0, 0);
    for case in 0..40 {
        let mut dice = Rng::with_seed(case);
        let seconds = dice.u64(20..45);
        let (mut seat, header) = (linkage.seat(Moment::ZERO), Header::new("ring"));
        let mut recorder = Recorder::off(&header).ring(Duration::from_secs(8));
        let (mut bookmark, mut lived) = (seat.bookmark(), Vec::new());
        recorder.seat(1, &mut seat).name_device(Device::new(1).unwrap(), "Quay pad").unwrap();
        let mut events = play(&mut dice, seconds).into_iter().peekable();
        while let Some(next) = events.peek() {
            let to = (seat.played() + Duration::from_micros(dice.u64(5 * MS..30 * MS))).max(Moment::ZERO);
            let mut hand = recorder.seat(1, &mut seat);
            if next.at <= to {
                hand.feed(events.next().unwrap()).unwrap();
                continue;
            }
            hand.advance(to);
            lived.extend(pulls(&seat, &mut bookmark));
        }
        let end = seat.played() + Duration::from_secs(1);
        recorder.seat(1, &mut seat).advance(end);
        lived.extend(pulls(&seat, &mut bookmark));
        let mut tape = Vec::new();
        recorder.save_ring(&mut tape).unwrap();

        let mut reader = Reader::new(tape.as_slice()).unwrap();
        let (mut again, mut replayer) = (linkage.seat(Moment::ZERO), Replayer::new(reader.header()));
        let (mut bookmark, mut came, mut last) = (again.bookmark(), Vec::new(), Moment::ZERO);
        for line in reader.by_ref() {
            let line = line.unwrap();
            if line.at > again.next_moment() + Duration::from_millis(100) {
                again.advance(line.at - Duration::from_micros(1));
                came.extend(pulls(&again, &mut bookmark));
            }
            replayer.put(&line, &mut again).unwrap();
            last = line.at;
        }
        again.advance(last);
        came.extend(pulls(&again, &mut bookmark));
        let begin = end - last;
        assert!(last >= us(8 * SECOND) && last <= us(11 * SECOND + 50 * MS), "{last}");
        // What is held as it begins may pull once more, and what was under way then is not there.
        let warm = 400 * MS;
        let shifted = lived.iter().map(|(at, name)| (at.saturating_sub(begin.as_micros() as u64), name.clone()));
        let lived: Vec<_> = shifted.filter(|(at, _)| *at > warm).collect();
        came.retain(|(at, _)| *at > warm);
        let text = String::from_utf8(tape).unwrap();
        assert_eq!(came, lived, "case {case}\n{}", text.lines().take(40).collect::<Vec<_>>().join("\n"));
        compared += lived.len();
        learnt += usize::from(text.contains("\"middle\":[0.1") && text.contains("\"swings\":["));
        afloat += usize::from(text.contains("\"mode\":\"afloat\",\"on\":true"));
        sneaking += usize::from(text.contains("{\"at\":1,\"dev\":\"kb\",\"control\":\"keys:KeyS\",\"value\":0"));
        // The tape's devices have numbers of their own.
        let of = |seat: &Seat, number| seat.memory_of(Device::new(number).unwrap(), Control::LEFT_STICK);
        let middles = [&again, &seat].map(|seat| (0..3).find_map(|number| of(seat, number)));
        assert_eq!(middles[0], middles[1], "case {case}");
    }
    assert!(compared > 400 && learnt > 10 && afloat > 5 && sneaking > 5, "{compared} {learnt} {afloat} {sneaking}");
}
