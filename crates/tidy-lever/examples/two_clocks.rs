//! Physics at a fixed step and frames at another rate read one seat: each sees every edge exactly once, whether physics
//! runs 0, 1 or 3 times in a frame.
//!
//! `cargo run --example two_clocks`

use std::time::Duration;

use tidy_lever::profile::{Action, Profile};
use tidy_lever::{Device, Event, Linkage, Moment};

tidy_lever::levers! {
    struct Pim { hop: Button }
}

/// A step of physics.
const STEP: Duration = Duration::from_micros(8_333);

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let profile = Profile::new("Two clocks").action(Action::button("hop").keys("Space"));
    let linkage = Linkage::build(&profile)?;
    let pim = Pim::find(&linkage)?;
    let mut seat = linkage.seat(Moment::ZERO);
    let (keyboard, space) = (Device::default(), "keys:Space".parse()?);
    // A tap that is shorter than a frame, a hold across frames, and a tap in a frame without physics.
    for (micros, down) in
        [(3_000, true), (6_000, false), (40_000, true), (95_000, false), (121_000, true), (123_000, false)]
    {
        seat.feed(Event::button(Moment::from_micros(micros), keyboard, space, down))?;
    }
    let (mut physics, mut frames) = (seat.bookmark(), seat.bookmark());
    let (mut simulated, mut in_physics, mut in_frames) = (Moment::ZERO, 0, 0);
    println!("  frame  steps  hops in physics  hops in the frame");
    // How long each frame took: physics runs once, not at all, or up to three times in one.
    for (frame, micros) in
        [12_000u64, 2_000, 25_000, 8_000, 4_000, 25_000, 9_000, 25_000, 12_000, 3_000, 25_000].into_iter().enumerate()
    {
        let now = Moment::from_micros(micros) + (simulated - Moment::ZERO);
        let (mut steps, mut hops) = (0, 0);
        while simulated + STEP <= now {
            simulated = simulated + STEP;
            seat.advance(simulated);
            hops += seat.read(&mut physics).button(pim.hop).pulls();
            steps += 1;
        }
        let seen = seat.read(&mut frames).button(pim.hop).pulls();
        (in_physics, in_frames) = (in_physics + hops, in_frames + seen);
        println!("  {frame:>5}  {steps:>5}  {hops:>15}  {seen:>17}");
    }
    println!("hops in all: {in_physics} in physics, {in_frames} in frames");
    Ok(())
}
