//! Any text as a profile: faults or a linkage, and a linkage takes a seat that plays.
#![no_main]

use libfuzzer_sys::fuzz_target;
use tidy_lever::{Linkage, Moment, Profile};

fuzz_target!(|text: &str| {
    let Ok(profile) = Profile::from_toml(text) else { return };
    match Linkage::build(&profile) {
        Ok(linkage) => {
            let mut seat = linkage.seat(Moment::ZERO);
            seat.advance(Moment::from_millis(500));
            linkage.warnings().for_each(|fault| drop(fault.to_string()));
            linkage.actions().for_each(|action| drop((action.delay(), action.responses().len())));
        }
        Err(faults) => faults.iter().for_each(|fault| drop(fault.to_string())),
    }
});
