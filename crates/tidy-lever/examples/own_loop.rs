//! A loop of one's own, without any file: the profile is built in code, physics has a fixed step, the game tells facts.
//!
//! `cargo run --example own_loop`

use tidy_lever::profile::{Action, Legs, Profile};
use tidy_lever::{Control, Device, Event, Linkage, Moment};

tidy_lever::levers! {
    struct Pim { steer: Stick, hop: Button, grounded: Fact }
}

/// Pim's body: a place along the quay, a height, and how fast it rises.
#[derive(Default)]
struct Body {
    along: f32,
    height: f32,
    rising: f32,
}

impl Body {
    fn step(&mut self, walk: f32, seconds: f32) {
        self.along += walk * 3.0 * seconds;
        self.rising -= 20.0 * seconds;
        self.height = (self.height + self.rising * seconds).max(0.0);
        if self.height == 0.0 {
            self.rising = 0.0;
        }
    }
}

/// What the hand does: walk right, hop early on the way down, and let go.
fn hand(at: Moment, keyboard: Device) -> Vec<Event> {
    let key = |name: &str| -> Control { name.parse().unwrap_or(Control::MOUSE_LEFT) };
    let script = [
        (100, "keys:KeyD", true),
        (300, "keys:Space", true),
        (360, "keys:Space", false),
        (720, "keys:Space", true),
        (800, "keys:Space", false),
        (1_300, "keys:KeyD", false),
    ];
    let due = script.into_iter().filter(|(millis, ..)| Moment::from_millis(*millis) == at);
    due.map(|(millis, control, down)| Event::button(Moment::from_millis(millis), keyboard, key(control), down))
        .collect()
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let profile = Profile::new("Own loop")
        .fact("grounded", true)
        .action(Action::stick("steer").keys(Legs::cross("KeyW", "KeyA", "KeyS", "KeyD")).pad("left-stick"))
        .action(Action::button("hop").keys("Space").pad("south").when("grounded within 90ms").keep("150ms"));
    let linkage = Linkage::build(&profile)?;
    let pim = Pim::find(&linkage)?;
    let mut seat = linkage.seat(Moment::ZERO);
    let (mut body, mut hops) = (Body::default(), 0);

    // A hundred steps a second; anything else that is fixed would do.
    for step in 1..=150u64 {
        let now = Moment::from_millis(step * 10);
        for event in hand(now, Device::default()) {
            seat.feed(event)?;
        }
        seat.advance(now);
        let (walk, _) = seat.stick(pim.steer).xy();
        for pull in seat.latest().pulls(pim.hop) {
            hops += 1;
            body.rising = 5.0;
            println!("{now}: hop {hops} at {:.2} m, kept for {:?}", body.along, pull.kept_for());
        }
        body.step(walk, 0.01);
        // Counts from just after `now`, before the events that follow.
        seat.tell(pim.grounded, body.height == 0.0)?;
    }
    println!("{hops} hops, and Pim stands at {:.2} m", body.along);
    Ok(())
}
