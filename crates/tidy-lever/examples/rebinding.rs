//! A player binds a key: listening, what the seat hears meanwhile, and the new profile under running hands.
//!
//! `cargo run --example rebinding`

use std::time::Duration;

use tidy_lever::listening::{Heard, Listening};
use tidy_lever::prompt::{Labels, PromptStep};
use tidy_lever::remap::{Clash, Remap};
use tidy_lever::{Control, Device, Event, Family, Linkage, Moment, Profile};

// `bag` has no key of its own: its cue names `take`, so both are on one key, and stay there.
const PROFILE: &str = r#"
tidy-lever = 1
title = "Rebinding"

[action.walk]
kind = "axis"
keys = { minus = "KeyA", plus = "KeyD" }

[action.take]
kind = "button"
keys = "KeyE"

[action.bag]
kind = "button"
cue  = "take hold 350ms"
"#;

tidy_lever::levers! {
    struct Pim { walk: Axis, take: Button, bag: Button }
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let profile = Profile::from_toml(PROFILE)?;
    let linkage = Linkage::build(&profile)?;
    let pim = Pim::find(&linkage)?;
    let mut seat = linkage.seat(Moment::ZERO);
    let mut labels = Labels::default();
    labels.set("keys:KeyZ".parse()?, "Y");

    // D is held when the player opens the menu, and chooses to bind `take`.
    let keyboard = Device::default();
    let key = |ms, name: &str, down| -> Result<Event, Box<dyn std::error::Error>> {
        Ok(Event::button(Moment::from_millis(ms), keyboard, name.parse::<Control>()?, down))
    };
    seat.feed(key(10, "keys:KeyD", true)?)?;
    seat.advance(Moment::from_millis(100));
    let mut remap = Remap::new();
    let way_out = "keys:Escape".parse()?;
    let mut listening = Some(
        Listening::new(seat.played()).only(&[Family::Keys]).limit(Duration::from_secs(5)).way_out(way_out).after(&seat),
    );

    let typed = [
        key(150, "keys:KeyD", false)?, // held since before: the seat hears it go up
        key(200, "keys:KeyZ", true)?,  // the answer: nothing for the seat
        key(260, "keys:KeyZ", false)?,
        key(400, "keys:KeyZ", true)?, // plays again, as `take`
    ];
    for event in typed {
        let mut goes_on = true;
        if let Some(open) = &mut listening {
            let was_open = open.by(event.at) == Heard::Nothing;
            let heard = open.hear(&event);
            goes_on = open.lets_through(&event);
            if let (true, Heard::Control(control)) = (was_open, heard) {
                let bound = remap.bind(&profile, &"take.keys".parse()?, &[control], Clash::Swap)?;
                println!("{}: take is on {}", event.at, linkage.label(control, &labels));
                for conflict in &bound.conflicts {
                    println!("  {}", conflict.told(&linkage, &labels));
                }
                // Handles stay good; what is held goes on.
                seat.relink(&remap.over(&profile)?.linkage, &mut []);
            }
            if open.is_clear() {
                listening = None;
            }
        }
        println!("{}: the seat hears {:?}: {goes_on}", event.at, event.input);
        if goes_on {
            seat.feed(event)?;
        }
        seat.advance(event.at + Duration::from_millis(10));
        println!("  walk {:+}, take {}", seat.axis(pim.walk).value(), seat.button(pim.take).is_down());
    }
    seat.advance(Moment::from_millis(800));
    println!("{}: bag is on: {}", seat.played(), seat.button(pim.bag).is_on());
    for steps in seat.linkage().prompt_steps("bag", Family::Keys, &labels, false) {
        println!("to open the bag: {}", PromptStep::line(&steps));
    }
    Ok(())
}
