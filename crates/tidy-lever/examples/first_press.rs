//! The first press: a profile, a seat, an event in, a pull out.
//!
//! `cargo run --example first_press`

use tidy_lever::{Control, Device, Event, Linkage, Moment, Profile};

const PROFILE: &str = r#"
tidy-lever = 1
title = "First press"

[action.hop]
kind = "button"
keys = "Space"
pad  = "south"
"#;

// Names become handles once, at start-up; a misspelt one is an error that names the nearest.
tidy_lever::levers! {
    struct Pim { hop: Button }
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let linkage = Linkage::build(&Profile::from_toml(PROFILE)?)?;
    let pim = Pim::find(&linkage)?;
    let mut seat = linkage.seat(Moment::ZERO);
    let pad = Device::default();

    // What the pad said, with its own times; both lie between two steps of the game.
    seat.feed(Event::button(Moment::from_micros(20_400), pad, Control::PAD_SOUTH, true))?;
    seat.feed(Event::button(Moment::from_micros(29_900), pad, Control::PAD_SOUTH, false))?;

    for step in 1..=3 {
        seat.advance(Moment::of_tick(step, 60));
        let hop = seat.button(pim.hop);
        println!("step {step}, up to {}: pulled {}, down now {}", seat.played(), hop.pulled(), hop.is_down());
        for pull in seat.latest().pulls(pim.hop) {
            println!("  a hop at {}, and the press was held for {:?}", pull.at(), hop.last_held_for());
        }
    }
    Ok(())
}
