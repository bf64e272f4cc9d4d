//! Promise: nothing is allocated after a seat is made: not in feeding, telling, advancing, asking, saving or restoring.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

#[path = "it/common/mod.rs"]
mod common;

use common::{linkage, us};
use tidy_lever::{Axis, Button, Control, Device, Event, Fact, Mode, Moment, Stick};

#[global_allocator]
static COUNTING: dhat::Alloc = dhat::Alloc;

/// Without the test harness, whose own threads would be counted as well.
fn main() {
    a_thousand_ticks_allocate_nothing();
    println!("test a_thousand_ticks_allocate_nothing ... ok");
}

fn a_thousand_ticks_allocate_nothing() {
    let text = include_str!("../demo/otter-post.toml");
    let linkage = linkage(text.trim_start_matches(|c| c != '['));
    let (hop, steer): (Button, Stick) = (linkage.find("hop").unwrap(), linkage.find("steer").unwrap());
    let (dive, grounded): (Axis, Fact) = (linkage.find("dive").unwrap(), linkage.find("grounded").unwrap());
    let menu: Mode = linkage.find("menu").unwrap();
    let keys = ["keys:KeyW", "keys:KeyD", "keys:Space", "keys:KeyX", "mouse:wheel-down"];
    let keys = keys.map(|name| name.parse::<Control>().unwrap());
    let toss = "keys:KeyJ".parse::<Control>().unwrap();
    let [keyboard, mouse, pad] = [0, 1, 2].map(|number| Device::new(number).unwrap());
    let mut seat = linkage.seat(Moment::ZERO);
    // With the ledger kept there is more to write down, and still nothing to allocate.
    seat.keep_ledger(64);
    let mut frames = seat.bookmark();
    let mut saved = seat.saved(&[&frames]);
    let mut copy = seat.clone();

    let _profiler = dhat::Profiler::builder().testing().build();
    let before = dhat::HeapStats::get().total_blocks;
    let mut pulls = 0;
    for tick in 0..1_000u64 {
        let at = tick * 16_667;
        for (n, key) in keys.into_iter().enumerate() {
            let device = if n == 4 { mouse } else { keyboard };
            let down = (tick / (n as u64 + 2)).is_multiple_of(2);
            seat.feed(Event::button(us(at + n as u64), device, key, down)).unwrap();
        }
        let tilt = (tick % 20) as f32 / 10.0 - 1.0;
        seat.feed(Event::pair(us(at + 9), pad, Control::LEFT_STICK, tilt, -tilt)).unwrap();
        // Quarter circles with and without their diagonal: what was nearly one is told, too.
        let (x, y) =
            [(0.0, -1.0), (0.7, -0.7), (1.0, 0.0), (0.0, 0.0), (0.0, -1.0), (0.0, 0.0), (1.0, 0.0)][tick as usize % 7];
        seat.feed(Event::pair(us(at + 8), pad, Control::DPAD, x, y)).unwrap();
        seat.feed(Event::button(us(at + 9), keyboard, toss, tick % 7 == 6)).unwrap();
        seat.feed(Event::plugged(us(at + 10), pad, tick % 50 != 0)).unwrap();
        seat.tell(grounded, tick % 3 == 0).unwrap();
        seat.set_mode(menu, tick % 40 < 10).unwrap();
        seat.focus_at(tick % 90 != 0, us(at + 11)).unwrap();
        seat.advance(us(at + 16_666));
        pulls += seat.button(hop).pulls();
        let reading = seat.read(&mut frames);
        let _ = (reading.stick(steer).last_direction(), reading.axis(dive).value(), reading.pulls(hop).last());
        if tick % 10 == 0 {
            seat.save_into(&mut saved, &[&frames]);
        } else if tick % 10 == 5 {
            copy.clone_from(&seat);
            seat.restore(&saved, &mut [&mut frames]).unwrap();
            seat.clone_from(&copy);
        }
        let _ = seat.state_hash();
    }
    let after = dhat::HeapStats::get().total_blocks;
    assert!(seat.attempt_count() > 400, "the ledger was written: {} attempts", seat.attempt_count());
    assert!(pulls > 50, "the ticks did something: {pulls} hops");
    assert_eq!(after - before, 0, "blocks allocated");
}
