//! The README's program: a hop with an input buffer and coyote time. A script stands in for a window, so that it runs anywhere.
//!
//! `cargo run --example first_program`

use tidy_lever::{Device, Event, Linkage, Moment, Profile};

const PROFILE: &str = r#"
tidy-lever = 1
[facts]
grounded = true
[action.hop]
kind = "button"
keys = "Space"
when = "grounded within 90ms"   # coyote time: a hop just after the edge still counts
keep = "120ms"                  # input buffer: a hop just before the landing waits for it
"#;
tidy_lever::levers! { struct Pim { hop: Button, grounded: Fact } }

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let linkage = Linkage::build(&Profile::from_toml(PROFILE)?)?; // checks every name and number
    let (pim, mut seat) = (Pim::find(&linkage)?, linkage.seat(Moment::ZERO));
    let (mut height, mut speed) = (0.0f32, 0.0f32);
    // Presses at these ms. A real program feeds its window's events as they come.
    for at in [100, 450] {
        for (at, down) in [(at, true), (at + 50, false)] {
            seat.feed(Event::button(Moment::from_millis(at), Device::default(), "keys:Space".parse()?, down))?;
        }
    }
    for step in 1..=60 {
        seat.advance(Moment::of_tick(step, 60)); // plays every event at its own microsecond
        for hop in seat.latest().pulls(pim.hop) {
            speed = 4.1;
            println!("hop at {}, kept for {} ms", hop.at(), hop.kept_for().as_millis());
        }
        (height, speed) = ((height + speed / 60.0).max(0.0), speed - 19.6 / 60.0);
        seat.tell(pim.grounded, height == 0.0)?; // takes effect just after this step
    }
    Ok(())
}
