//! Any line as a gate: faults, or a gate that can be asked.
#![no_main]

use libfuzzer_sys::fuzz_target;
use tidy_lever::profile::{Action, Profile};
use tidy_lever::{Control, Device, Event, Fact, Linkage, Moment};

fuzz_target!(|line: &str| {
    let profile = Profile::new("gates")
        .fact("grounded", true)
        .fact("busy", false)
        .fact("state", ["idle", "walk", "dash"])
        .action(Action::button("toss").pad("west"))
        .action(Action::button("hop").pad("south").when(line).keep("120ms"));
    match Linkage::build(&profile) {
        Ok(linkage) => {
            let mut seat = linkage.seat(Moment::ZERO);
            let pad = Device::default();
            let grounded: Fact = linkage.find("grounded").expect("declared above");
            for step in 1..20u64 {
                seat.tell_at(grounded, step % 3 == 0, Moment::from_millis(step * 31)).expect("there is room");
                let event = Event::button(Moment::from_millis(step * 40), pad, Control::PAD_SOUTH, step % 2 == 1);
                seat.feed(event).expect("there is room");
            }
            seat.advance(Moment::from_millis(2_000));
        }
        Err(faults) => faults.iter().for_each(|fault| drop(fault.to_string())),
    }
});
