//! Any bytes as what a hand, a game and a clock do to a seat: cut into ticks or not, saved and restored or not, the same
//! is left.
#![no_main]

use std::sync::LazyLock;
use std::time::Duration;

use libfuzzer_sys::fuzz_target;
use tidy_lever::event::Phase;
use tidy_lever::{Control, Device, Event, Fact, Family, Linkage, Mode, Moment, Profile, Seat};

static DEMO: LazyLock<Linkage> = LazyLock::new(|| {
    let text = include_str!("../../demo/otter-post.toml");
    Linkage::build(&Profile::from_toml(text).expect("it reads")).expect("the demo's profile is right")
});
static CONTROLS: LazyLock<Vec<Control>> = LazyLock::new(|| {
    let mut bound: Vec<Control> =
        DEMO.actions().flat_map(|action| action.controls()).map(|view| view.control).collect();
    bound.extend(Control::all(Family::Mouse));
    bound
});

/// One thing that is done, of five bytes: how long after the one before, what, and with which values.
fn act(seat: &mut Seat, at: Moment, [what, which, x, y]: [u8; 4]) {
    let level = |byte: u8| (f32::from(byte) - 128.0) / 100.0;
    let device = Device::new(usize::from(which >> 6)).unwrap_or_default();
    let control = CONTROLS[usize::from(which) % CONTROLS.len()];
    let fact = |name: &str| DEMO.find::<Fact>(name).expect("declared");
    match what % 16 {
        0..6 => {
            let _ = seat.feed(Event::level(at, device, control, f32::from(x & 1)));
        }
        6 => {
            let _ = seat.feed(Event::level(at, device, control, level(x)));
        }
        7 | 8 => {
            let _ = seat.feed(Event::pair(at, device, control, level(x), level(y)));
        }
        9 => {
            let phase = [Phase::Down, Phase::Move, Phase::Up, Phase::Cancel][usize::from(which & 3)];
            let event =
                Event::touch(at, device, u64::from(which >> 2 & 7), phase, f32::from(x) / 255.0, f32::from(y) / 255.0);
            let _ = seat.feed(event);
        }
        10 => {
            let _ =
                seat.tell_at(fact(["grounded", "near_punt", "busy", "frozen"][usize::from(which & 3)]), x & 1 == 1, at);
        }
        11 => {
            let _ = seat.tell_at(fact("state"), ["idle", "walk", "dash"][usize::from(which % 3)], at);
        }
        12 => {
            let _ = seat.focus_at(x & 1 == 1, at);
        }
        13 => {
            let _ = seat.feed(Event::plugged(at, device, x & 1 == 1));
        }
        14 => {
            let mode: Mode = DEMO.find(["ashore", "afloat", "menu"][usize::from(which % 3)]).expect("declared");
            {
                let _ = seat.set_mode_at(mode, x & 1 == 1, at);
            }
        }
        _ => {
            let _ = seat.tell_at(fact("facing"), ["left", "right"][usize::from(x & 1)], at);
        }
    }
}

fuzz_target!(|bytes: &[u8]| {
    // Never more at once than the queue holds, so that nothing is handed back.
    let bytes = &bytes[..bytes.len().min(5 * 400)];
    let (mut whole, mut cut) = (DEMO.seat(Moment::ZERO), DEMO.seat(Moment::ZERO));
    whole.keep_ledger(64);
    let mut at = Moment::from_micros(1);
    for (number, step) in bytes.chunks_exact(5).enumerate() {
        at = at + Duration::from_micros(u64::from(step[0]) * u64::from(step[0]) * 4);
        let what = [step[1], step[2], step[3], step[4]];
        act(&mut whole, at, what);
        act(&mut cut, at, what);
        // Up to just before: what comes next may still come at this very moment.
        cut.advance(Moment::from_micros(at.as_micros() - 1));
        if number % 7 == 3 {
            let saved = cut.saved(&[]);
            act(&mut cut, at, [0, step[2], 1, 0]);
            cut.advance(at + Duration::from_millis(300));
            cut.restore(&saved, &mut []).expect("the same linkage");
        }
        let _ = cut.latest().happenings().count();
    }
    let end = at + Duration::from_secs(3);
    whole.advance(end);
    cut.advance(end);
    assert_eq!(whole.state_hash(), cut.state_hash(), "cutting time changes nothing");
});
