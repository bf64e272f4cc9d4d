//! Promise: a rollback plays frames again, saving over what it saved before: each save holds what came out this time, whether
//! that was the same or not.

use crate::common::{device, lines, linkage, us};
use tidy_lever::event::Phase;
use tidy_lever::seat::Saved;
use tidy_lever::{Bookmark, Control, Event, Linkage, Moment, Seat};

const PROFILE: &str = r#"
[modes]
quay = { on = true }
[facts]
wet = false
[panel.paddle]
kind = "button"
from = "bottom-left"
at = [0.2, 0.2]
size = 0.3
[action.steer]
kind = "stick"
pad = "left-stick"
keys = { up = "KeyW", left = "KeyA", down = "KeyS", right = "KeyD" }
[action.hop]
kind = "button"
keys = "Space"
pad = "south"
touch = "paddle"
when = "not wet"
keep = "40ms"
[action.throw]
kind = "button"
keys = "KeyJ"
cue = "hold 30ms"
modes = ["quay"]
[action.lamp]
kind = "button"
keys = "KeyL"
cue = "toggle"
aim = "steer"
"#;

const FRAME: u64 = 16_000;
const FRAMES: usize = 6;

/// What is done to a seat, at moments since its frame began.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Deed {
    Key(u64, usize, bool),
    Pad(u64, usize, bool),
    Stick(u64, f32, f32),
    Finger(u64, u64, Phase),
    Wet(u64, bool),
    Quay(u64, bool),
    Lamp(bool),
    Focus(u64, bool),
    View(u32),
    Advance(u64),
    Skip(u64),
}

fn any(dice: &mut fastrand::Rng) -> Deed {
    let at = dice.u64(0..FRAME);
    match dice.u8(0..16) {
        0..=4 => Deed::Key(at, dice.usize(0..5), dice.bool()),
        5 => Deed::Pad(at, dice.usize(1..3), dice.bool()),
        6..=8 => Deed::Stick(at, f32::from(dice.i8(-4..=4)) / 4.0, f32::from(dice.i8(-4..=4)) / 4.0),
        9 => Deed::Finger(at, dice.u64(0..3), if dice.bool() { Phase::Down } else { Phase::Up }),
        10 => Deed::Wet(at, dice.bool()),
        11 => Deed::Quay(at, dice.bool()),
        12 => Deed::Lamp(dice.bool()),
        13 => Deed::Focus(at, dice.bool()),
        14 => Deed::View(dice.u32(600..604)),
        _ if dice.u8(0..4) == 0 => Deed::Skip(at),
        _ => Deed::Advance(at),
    }
}

/// The same but for one small thing.
fn nearly(deed: Deed, dice: &mut fastrand::Rng) -> Deed {
    match deed {
        Deed::Key(at, key, down) => match dice.u8(0..3) {
            0 => Deed::Key(at + 1, key, down),
            1 => Deed::Key(at, key ^ 1, down),
            _ => Deed::Key(at, key, !down),
        },
        Deed::Pad(at, pad, down) => Deed::Pad(at, 3 - pad, down),
        Deed::Stick(at, x, y) if dice.bool() => Deed::Stick(at, y, x),
        Deed::Stick(at, x, y) => Deed::Stick(at, x * 0.999_99, y),
        Deed::Finger(at, finger, phase) => Deed::Finger(at, finger + (1 << 40), phase),
        Deed::Wet(at, wet) => Deed::Wet(at, !wet),
        Deed::Quay(at, quay) => Deed::Quay(at + 1, quay),
        Deed::Lamp(on) => Deed::Lamp(!on),
        Deed::Focus(at, focused) => Deed::Focus(at, !focused),
        Deed::View(high) => Deed::View(high + 1),
        Deed::Advance(at) => Deed::Skip(at),
        Deed::Skip(at) => Deed::Skip(at + 1),
    }
}

fn put(seat: &mut Seat, linkage: &Linkage, frame: usize, deed: Deed) {
    let when = |at: u64| us(FRAME * frame as u64 + at);
    let keys = ["KeyD", "KeyW", "Space", "KeyJ", "KeyL", "KeyA"];
    match deed {
        Deed::Key(at, key, down) => {
            let key = linkage.control(&format!("keys:{}", keys[key])).unwrap_or_else(|| "keys:F9".parse().unwrap());
            seat.feed(Event::button(when(at), device(0), key, down)).unwrap();
        }
        Deed::Pad(at, pad, down) => {
            seat.feed(Event::button(when(at), device(pad), Control::PAD_SOUTH, down)).unwrap();
        }
        Deed::Stick(at, x, y) => seat.feed(Event::pair(when(at), device(1), Control::LEFT_STICK, x, y)).unwrap(),
        Deed::Finger(at, finger, phase) => {
            // There may be no more room for names.
            let _ = seat.feed(Event::touch(when(at), device(5), finger, phase, 0.1, 0.9));
        }
        Deed::Wet(at, wet) => seat.tell_at(linkage.find("wet").unwrap(), wet, when(at)).unwrap(),
        Deed::Quay(at, on) => seat.set_mode_at(linkage.find("quay").unwrap(), on, when(at)).unwrap(),
        Deed::Lamp(on) => seat.set(linkage.find("lamp").unwrap(), on).unwrap(),
        Deed::Focus(at, focused) => seat.focus_at(focused, when(at)).unwrap(),
        Deed::View(high) => seat.set_view(800, high).unwrap(),
        Deed::Advance(at) => seat.advance(when(at)),
        Deed::Skip(at) => seat.skip(when(at)),
    }
}

fn play(seat: &mut Seat, linkage: &Linkage, frame: usize, deeds: &[Deed]) {
    deeds.iter().for_each(|deed| put(seat, linkage, frame, *deed));
    seat.advance(us(FRAME * (frame as u64 + 1)));
}

/// All that can be seen of a seat.
fn looks(seat: &Seat, linkage: &Linkage, beginning: &Bookmark) -> String {
    let mut beginning = beginning.clone();
    let reading = seat.read(&mut beginning);
    let (steer, hop) = (seat.stick(linkage.find("steer").unwrap()), seat.button(linkage.find("hop").unwrap()));
    let (latest, told) = (lines(&seat.latest(), linkage), lines(&reading, linkage));
    let state = (seat.state_hash(), seat.played(), seat.waiting(), steer.xy(), hop.is_down());
    format!("{state:?} {latest:?} {told:?} {:?}", seat.family())
}

#[test]
fn what_is_played_again_is_saved_as_it_came_out_this_time() {
    let linkage = linkage(PROFILE);
    let mut dice = fastrand::Rng::with_seed(77);
    let mut the_same = 0;
    for round in 0..400 {
        let mut deeds: Vec<Vec<Deed>> =
            (0..FRAMES).map(|_| (0..dice.usize(0..5)).map(|_| any(&mut dice)).collect()).collect();
        let mut seat = linkage.seat(Moment::ZERO);
        let beginning = seat.bookmark();
        let first = seat.saved(&[&beginning]);
        let mut saved: Vec<Saved> = vec![first.clone(); FRAMES];
        for again in 0..8 {
            // Nothing else, one deed a little otherwise, one more, or one less.
            let frame = dice.usize(0..FRAMES);
            let place = dice.usize(0..=deeds[frame].len());
            match (dice.u8(0..5), deeds[frame].get(place).copied()) {
                (0, _) => deeds[frame].insert(place, any(&mut dice)),
                (1, Some(_)) => _ = deeds[frame].remove(place),
                (2 | 3, Some(deed)) => deeds[frame][place] = nearly(deed, &mut dice),
                _ => the_same += 1,
            }
            let from = if again == 0 { 0 } else { dice.usize(0..=frame) };
            let mut mark = beginning.clone();
            seat.restore(if from == 0 { &first } else { &saved[from] }, &mut [&mut mark]).unwrap();
            let mut fresh = linkage.seat(Moment::ZERO);
            let fresh_beginning = fresh.bookmark();
            for (frame, deeds) in deeds.iter().enumerate() {
                if frame >= from {
                    seat.save_into(&mut saved[frame], &[&beginning]);
                    let mut held = linkage.seat(Moment::ZERO);
                    held.restore(&saved[frame], &mut [&mut mark]).unwrap();
                    let wanted = looks(&fresh, &linkage, &fresh_beginning);
                    assert_eq!(
                        looks(&held, &linkage, &mark),
                        wanted,
                        "round {round}, {again}, frame {frame}: {deeds:?}"
                    );
                    play(&mut seat, &linkage, frame, deeds);
                }
                play(&mut fresh, &linkage, frame, deeds);
            }
        }
    }
    assert!(the_same > 400, "{the_same}");
}
