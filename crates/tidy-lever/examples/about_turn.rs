//! Turn about on a button: towards the direction held now or in the last 120 ms, with none straight back; in steps of
//! 45 degrees and by at least 90. The body turns at 500 degrees a second, the camera follows after.
//!
//! `cargo run --example about_turn`

use std::time::Duration;

use tidy_lever::following::{follow_degrees, in_steps, short_way, turn_towards};
use tidy_lever::profile::{Action, Legs, Profile};
use tidy_lever::{Device, Event, Happening, Linkage, Moment};

tidy_lever::levers! {
    struct Pim { about: Button }
}

/// Where a pull wants her to look, given where she looks.
fn wanted(pull: &Happening, body: f64) -> f64 {
    let given = pull.last_aim().filter(|(_, age)| *age <= Duration::from_millis(120));
    let Some((direction, _)) = given else { return body + 180.0 };
    let way = short_way(body, in_steps(f64::from(direction.degrees()), 45.0));
    if way.abs() < 90.0 { body + 90.0_f64.copysign(way) } else { body + way }
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let profile = Profile::new("About turn")
        .action(Action::stick("steer").keys(Legs::cross("KeyW", "KeyA", "KeyS", "KeyD")))
        .action(Action::button("about").keys("KeyQ").aim("steer"));
    let linkage = Linkage::build(&profile)?;
    let pim = Pim::find(&linkage)?;
    let mut seat = linkage.seat(Moment::ZERO);
    let keyboard = Device::default();
    // Left is held while she turns about; half a second later she turns with no direction given.
    for (millis, key, down) in [
        (20, "keys:KeyA", true),
        (40, "keys:KeyQ", true),
        (90, "keys:KeyQ", false),
        (120, "keys:KeyA", false),
        (700, "keys:KeyQ", true),
        (760, "keys:KeyQ", false),
    ] {
        seat.feed(Event::button(Moment::from_millis(millis), keyboard, key.parse()?, down))?;
    }
    let (mut body, mut target, mut camera) = (0.0, 0.0, 0.0);
    let step = Duration::from_millis(20);
    for tick in 1..=70 {
        seat.advance(Moment::from_millis(20 * tick));
        for pull in seat.latest().pulls(pim.about) {
            target = wanted(pull, body);
            let aim = pull.last_aim().map_or("none".into(), |(way, age)| format!("{way}, {} ms ago", age.as_millis()));
            println!("{}: about! direction given: {aim}", pull.at());
        }
        body = turn_towards(body, target, 500.0, step);
        camera = follow_degrees(camera, body, 4.0, step);
        if tick % 5 == 0 {
            println!("{}: body {body:5.1}, camera {camera:5.1} degrees", seat.played());
        }
    }
    Ok(())
}
