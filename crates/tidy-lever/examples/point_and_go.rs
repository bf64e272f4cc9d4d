//! Click the quay and Pim goes there; hold and she chases; a click at the sky changes nothing.
//!
//! `cargo run --example point_and_go`

use std::time::Duration;

use glam::camera::rh::{proj::directx::perspective, view::look_at_mat4};
use glam::{Vec2, Vec3};
use tidy_lever::pointing::{Plane, Ray, Trip};
use tidy_lever::profile::{Action, Profile};
use tidy_lever::{Control, Device, Event, Linkage, Moment};

tidy_lever::levers! {
    struct Pim { point: Pointer }
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let profile = Profile::new("Point and go").action(Action::pointer("point").mouse(["place", "left"]).drag_from(6.0));
    let linkage = Linkage::build(&profile)?;
    let pim = Pim::find(&linkage)?;
    let mut seat = linkage.seat(Moment::ZERO);
    seat.set_view(1280, 720)?;
    let mouse = Device::default();
    let place = |millis, x, y| Event::pair(Moment::from_millis(millis), mouse, Control::MOUSE_PLACE, x, y);
    let left = |millis, down| Event::button(Moment::from_millis(millis), mouse, Control::MOUSE_LEFT, down);
    // A click on the quay; one at the sky; then the button is held while the pointer moves.
    for event in [
        place(10, 0.7, 0.6),
        left(100, true),
        left(160, false),
        place(900, 0.5, 0.02),
        left(1_000, true),
        left(1_060, false),
        place(1_400, 0.3, 0.7),
        left(1_500, true),
        place(1_700, 0.4, 0.8),
        left(2_400, false),
    ] {
        seat.feed(event)?;
    }
    let camera = perspective(0.9, 16.0 / 9.0, 0.1, 100.0)
        * look_at_mat4(Vec3::new(0.0, 3.0, 9.0), Vec3::new(0.0, 1.5, 0.0), Vec3::Y);
    let (mut otter, mut trip) = (Vec3::ZERO, Trip::at_speed(4.0));
    let step = Duration::from_millis(20);
    for tick in 1..=150 {
        seat.advance(Moment::from_millis(20 * tick));
        let pointer = seat.pointer(pim.point);
        let asked = pointer.edges().went_down() || pointer.edges().is_down();
        if let Some((x, y)) = pointer.in_view().filter(|_| asked) {
            let ground =
                Ray::through_view(camera.inverse(), Vec2::new(x, y)).and_then(|ray| ray.hits(Plane::ground(0.0)));
            match ground {
                Some(target) => trip.aim(target),
                None if pointer.edges().went_down() => {
                    println!("{}: that is the sky; nothing changes", seat.played())
                }
                None => {}
            }
        }
        let was_going = !trip.has_arrived();
        otter = trip.step(otter, step);
        if tick % 10 == 0 || (was_going && trip.has_arrived()) {
            let going = trip.target().map_or("stands".into(), |to| format!("heads for {:.2}, {:.2}", to.x, to.z));
            println!("{}: Pim at {:.2}, {:.2} {going}", seat.played(), otter.x, otter.z);
        }
    }
    Ok(())
}
