//! A whole small game loop: keys, pad and touch, a menu, rebinding, saving, two players.
//!
//! `cargo run --example whole_loop`. The hands are a script here; a real game gets its events from an adapter.

use std::time::Duration;

use tidy_lever::event::Phase;
use tidy_lever::listening::{Heard, Listening};
use tidy_lever::remap::{Clash, Remap};
use tidy_lever::table::{Fed, Table};
use tidy_lever::{Control, Device, Event, Linkage, Moment, Profile};

const PROFILE: &str = r#"
tidy-lever = 1
title = "Two otters"
modes = { ashore = { on = true }, menu = { covers = "all" } }
facts = { grounded = true }
[action.steer]
kind = "stick"
modes = ["ashore"]
keys = { up = "KeyW", left = "KeyA", down = "KeyS", right = "KeyD" }
pad = ["left-stick", "dpad"]
touch = "thumb"
pad_shape = { dead = 0.15 }
[action.hop]
kind = "button"
modes = ["ashore"]
keys = "Space"
pad = "south"
when = "grounded within 90ms"
keep = "120ms"
[action.open-menu]
kind = "button"
modes = ["ashore"]
keys = "Enter"
group = "menu"
turns_on = ["menu"]
[action.close-menu]
kind = "button"
modes = ["menu"]
keys = ["Enter", "Escape"]
group = "menu"
turns_off = ["menu"]
[panel]
thumb = { kind = "stick", from = "bottom-left", at = [0.22, 0.24], size = 0.15 }
"#;

tidy_lever::levers! {
    struct Otter { steer: Stick, hop: Button, open as "open-menu": Button, grounded: Fact, menu: Mode }
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let profile = Profile::from_toml(PROFILE)?;
    let mut remap = Remap::new(); // the player's file, if there is one
    let otter = Otter::find(&Linkage::build(&profile)?)?;
    let linkage = remap.over(&profile)?.linkage;
    let mut table = Table::new(&linkage, 2).join_by(Control::PAD_START);
    let [keyboard, screen, pad] = [0, 1, 2].map(|number| Device::new(number).unwrap_or_default());
    table.sit(&linkage, &[keyboard, screen]);

    let ms = Moment::from_millis;
    let key = |at, name: &str, down| {
        Ok::<_, tidy_lever::control::NoSuchControl>(Event::button(ms(at), keyboard, name.parse()?, down))
    };
    let mut hands = vec![
        Event::touch(ms(20), screen, 1, Phase::Down, 0.12, 0.76), // the thumb lands, and pushes right
        Event::touch(ms(40), screen, 1, Phase::Move, 0.22, 0.76),
        Event::button(ms(100), pad, Control::PAD_START, true), // the second otter joins
        Event::pair(ms(200), pad, Control::LEFT_STICK, -1.0, 0.0),
        key(300, "keys:Space", true)?,
        Event::button(ms(340), pad, Control::PAD_SOUTH, true),
        key(600, "keys:Enter", true)?, // the menu opens
        key(650, "keys:Enter", false)?,
        key(900, "keys:KeyJ", true)?,    // the answer to "press the new key for hop"
        key(1_000, "keys:Enter", true)?, // the menu closes
        key(1_300, "keys:KeyJ", true)?,  // hop, on its new key
    ];
    hands.reverse();

    let (mut places, mut airborne) = ([0.0f32; 2], [0u32; 2]);
    let mut listening: Option<Listening> = None;
    for step in 1..=90 {
        let now = Moment::of_tick(step, 60);
        while let Some(event) = hands.pop_if(|event| event.at <= now) {
            // While a player binds a key, its press goes nowhere else.
            if let Some(open) = &mut listening
                && let Heard::Control(control) = open.hear(&event)
            {
                remap.bind(&profile, &"hop.keys".parse()?, &[control], Clash::Swap)?;
                let changed = remap.over(&profile)?.linkage;
                for number in 1..=2 {
                    table.seat_mut(number).map(|seat| seat.relink(&changed, &mut []));
                }
                println!("{}: hop is on {control}; to be saved:\n{}", event.at, remap.to_toml().trim());
                listening = None;
            } else if let Fed::Joined(place) = table.feed(event)? {
                println!("{}: otter {place} joins", event.at);
            }
        }
        table.advance(now);
        for number in 1..=2 {
            let Some(seat) = table.seat_mut(number) else { continue };
            if seat.button(otter.open).pulled() {
                println!("{now}: otter {number} opens the menu, and binds hop");
                let limit = Duration::from_secs(5);
                listening = Some(Listening::new(now).limit(limit).way_out("keys:Escape".parse()?).after(seat));
            }
            for hop in seat.latest().pulls(otter.hop) {
                println!("{}: otter {number} hops at {:.2} m", hop.at(), places[number - 1]);
                airborne[number - 1] = 30;
            }
            places[number - 1] += seat.stick(otter.steer).xy().0 * 3.0 / 60.0;
            airborne[number - 1] = airborne[number - 1].saturating_sub(1);
            seat.tell(otter.grounded, airborne[number - 1] == 0)?;
        }
    }
    println!("the otters stand at {:.2} m and {:.2} m", places[0], places[1]);
    Ok(())
}
