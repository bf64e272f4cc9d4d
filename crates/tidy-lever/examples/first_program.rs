//! A whole program: Pim walks and hops, 60 steps a second. A script stands in for a window, so that it runs anywhere.
//!
//! `cargo run --example first_program`

use std::time::{Duration, Instant};

use tidy_lever::{Device, Event, Linkage, Moment, Profile};

const PROFILE: &str = r#"
tidy-lever = 1

[facts]
grounded = true

[action.steer]
kind = "stick"
keys = { up = "KeyW", left = "KeyA", down = "KeyS", right = "KeyD" }

[action.hop]
kind = "button"
keys = "Space"
when = "grounded within 90ms"   # a hop just after the edge still counts
keep = "120ms"                  # a hop just before the landing waits for it
"#;

tidy_lever::levers! {
    struct Pim { steer: Stick, hop: Button, grounded: Fact }
}

/// What the hands do: milliseconds, key, down. A real program gets this from its window.
const HANDS: [(u64, &str, bool); 6] = [
    (100, "keys:KeyD", true),
    (300, "keys:Space", true),
    (360, "keys:Space", false),
    (650, "keys:Space", true), // too early: she is in the air until 733 ms
    (690, "keys:Space", false),
    (900, "keys:KeyD", false),
];

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let linkage = Linkage::build(&Profile::from_toml(PROFILE)?)?; // checks every name, number and rule
    let pim = Pim::find(&linkage)?; // one error lists every missing name
    let mut seat = linkage.seat(Moment::ZERO); // one player's live state
    let (began, mut hands) = (Instant::now(), HANDS.iter().peekable());
    let (mut x, mut y, mut fall) = (0.0, 0.0, 0.0);

    for step in 1..=75 {
        let now = Moment::of_tick(step, 60);
        // Events carry their own times; where the steps lie makes no difference.
        while let Some((at, key, down)) = hands.next_if(|(at, ..)| Moment::from_millis(*at) <= now) {
            seat.feed(Event::button(Moment::from_millis(*at), Device::default(), key.parse()?, *down))?;
        }
        seat.advance(now);
        x += seat.stick(pim.steer).xy().0 * 3.4 / 60.0;
        for hop in seat.latest().pulls(pim.hop) {
            fall = 4.1;
            println!("hop at {}, kept for {} ms", hop.at(), hop.kept_for().as_millis());
        }
        (y, fall) = (y + fall / 60.0, fall - 19.6 / 60.0);
        if y < 0.0 {
            (y, fall) = (0.0, 0.0);
        }
        seat.tell(pim.grounded, y == 0.0)?; // takes effect just after `now`
        std::thread::sleep(
            (began + Duration::from_secs(1) * step as u32 / 60).saturating_duration_since(Instant::now()),
        );
    }
    println!("walked {x:.2} m");
    Ok(())
}
