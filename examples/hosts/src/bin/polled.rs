//! A window that only says, once a frame, which keys are down: `FrameState` makes events of that, with moments between the frames.
//!
//! ```text
//! cargo run -p tidy-lever-hosts --bin polled
//! ```
//! Arrow keys walk (twice quickly: a dash), the space bar hops, Escape ends.

use std::time::Instant;

use minifb::{Key, Window, WindowOptions};
use tidy_lever::adapter::FrameState;
use tidy_lever::{Control, Device, Moment};
use tidy_lever_hosts::{Pim, SIZE, tell};

/// The keys that the quay hears, by what the host calls them.
const KEYS: [(Key, &str); 5] = [
    (Key::Up, "keys:ArrowUp"),
    (Key::Left, "keys:ArrowLeft"),
    (Key::Down, "keys:ArrowDown"),
    (Key::Right, "keys:ArrowRight"),
    (Key::Space, "keys:Space"),
];

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let (linkage, mut pim) = Pim::new()?;
    let mut seat = linkage.seat(Moment::ZERO);
    let mut window = Window::new("Quay, polled", SIZE.0, SIZE.1, WindowOptions::default())?;
    window.set_target_fps(60);
    let keys: Vec<(Key, Control)> =
        KEYS.iter().map(|(key, name)| Ok((*key, name.parse()?))).collect::<Result<_, Box<dyn std::error::Error>>>()?;
    let (began, mut frames, mut pixels) = (Instant::now(), FrameState::new(Moment::ZERO), vec![0; SIZE.0 * SIZE.1]);
    tell(r#"{"host":"ready"}"#);
    let mut is_active = false;
    while window.is_open() && !window.is_key_down(Key::Escape) {
        if std::mem::replace(&mut is_active, window.is_active()) != window.is_active() && is_active {
            tell(r#"{"host":"focus"}"#);
        }
        let (before, now) = (seat.played(), Moment::ZERO + began.elapsed());
        for (_, control) in keys.iter().filter(|(key, _)| window.is_key_down(*key)) {
            frames.is_down(Device::default(), *control);
        }
        let mut full = None;
        if let Some(gap) = frames.end(now, before, |event| full = full.or(seat.feed(event).err())) {
            seat.skip(gap.to);
        }
        if let Some(error) = full {
            return Err(error.into());
        }
        seat.advance(now);
        pim.step(&seat, (now - before).as_secs_f32());
        pim.draw(&mut pixels, SIZE.0);
        window.update_with_buffer(&pixels, SIZE.0, SIZE.1)?;
    }
    Ok(())
}
