//! Rolls ten ticks back and plays them again: the same pulls, the same hash. Then once more with an event that came late
//! over a wire, at its own moment this time.
//!
//! `cargo run --example rollback`

use std::time::Duration;

use tidy_lever::profile::{Action, Legs, Profile};
use tidy_lever::{Bookmark, Device, Event, Linkage, Moment, Seat};

tidy_lever::levers! {
    struct Pim { hop: Button, grounded: Fact }
}

/// Plays ten ticks from a moment; how often Pim hopped, told to the reader.
fn ten_ticks(
    seat: &mut Seat,
    reader: &mut Bookmark,
    pim: &Pim,
    events: &[Event],
) -> Result<u32, Box<dyn std::error::Error>> {
    let start = seat.played();
    for event in events.iter().filter(|event| event.at > start) {
        seat.feed(*event)?;
    }
    let mut hops = 0;
    for tick in 1..=10 {
        seat.advance(start + Duration::from_millis(16) * tick);
        hops += seat.read(reader).button(pim.hop).pulls();
        // The body leaves the ground with its hop and lands six ticks in.
        if hops > 0 {
            seat.tell(pim.grounded, tick >= 6)?;
        }
    }
    Ok(hops)
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let profile = Profile::new("Rollback")
        .fact("grounded", true)
        .action(Action::stick("steer").keys(Legs::cross("KeyW", "KeyA", "KeyS", "KeyD")))
        .action(Action::button("hop").keys("Space").when("grounded within 90ms").keep("150ms"));
    let linkage = Linkage::build(&profile)?;
    let pim = Pim::find(&linkage)?;
    let mut seat = linkage.seat(Moment::ZERO);
    let mut reader = seat.bookmark();
    let (keyboard, space) = (Device::default(), "keys:Space".parse()?);
    let key = |millis, down| Event::button(Moment::from_millis(millis), keyboard, space, down);
    let mut events = vec![key(350, true), key(380, false), key(410, true), key(430, false)];

    seat.advance(Moment::from_millis(320));
    seat.read(&mut reader);
    let saved = seat.saved(&[&reader]);

    let hops = ten_ticks(&mut seat, &mut reader, &pim, &events)?;
    let hash = seat.state_hash();
    println!("played ten ticks: {hops} hops, state {hash:016x}");

    seat.restore(&saved, &mut [&mut reader])?;
    println!("rolled back to {}", seat.played());
    let again = ten_ticks(&mut seat, &mut reader, &pim, &events)?;
    println!("played them again: {again} hops, state {:016x}", seat.state_hash());
    println!("the same: {}", if (hops, hash) == (again, seat.state_hash()) { "yes" } else { "no" });

    // A press that the wire brought late belongs at 330 ms: roll back, and play with it.
    seat.restore(&saved, &mut [&mut reader])?;
    events.insert(0, key(330, true));
    events.insert(1, key(340, false));
    let with_it = ten_ticks(&mut seat, &mut reader, &pim, &events)?;
    println!("with the late press at its own moment: {with_it} hops, state {:016x}", seat.state_hash());
    Ok(())
}
