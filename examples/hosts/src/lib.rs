//! What the programs of this folder share: Pim on a quay, as a few pixels, and what became of the input as lines.
//!
//! - `polled`: a host that only says, once a frame, which keys are down (`minifb`).
//! - `threads`: a window whose input is read on one thread while the game steps on another (`winit`).

use std::io::Write;

use tidy_lever::profile::Profile;
use tidy_lever::{Button, Linkage, Seat, Stick, What};

/// The size of the picture in pixels.
pub const SIZE: (usize, usize) = (320, 200);

const PROFILE: &str = r#"
tidy-lever = 1
title = "Quay"

[action.steer]
kind = "stick"
keys = { up = "ArrowUp", left = "ArrowLeft", down = "ArrowDown", right = "ArrowRight" }

[action.hop]
kind = "button"
keys = "Space"

[action.dash]
kind = "button"
cue = "steer twice within 300ms"
"#;

/// Pim, and the handles of what moves him.
#[derive(Clone, Copy, Debug)]
pub struct Pim {
    steer: Stick,
    hop: Button,
    /// Where he stands, in pixels from the left.
    pub x: f32,
    /// How high he is, in pixels above the quay, and how fast he rises.
    pub high: (f32, f32),
}

impl Pim {
    /// A linkage of the quay, and Pim in the middle of it.
    ///
    /// # Errors
    /// None, as the profile is good.
    pub fn new() -> Result<(Linkage, Pim), Box<dyn std::error::Error>> {
        let linkage = Linkage::build(&Profile::from_toml(PROFILE)?)?;
        let (steer, hop) = (linkage.find("steer")?, linkage.find("hop")?);
        Ok((linkage, Pim { steer, hop, x: 160.0, high: (0.0, 0.0) }))
    }

    /// One step of the game, of so many seconds; a line for each pull.
    pub fn step(&mut self, seat: &Seat, seconds: f32) {
        if seat.button(self.hop).pulled() && self.high.0 <= 0.0 {
            self.high.1 = 220.0;
        }
        self.x = (self.x + seat.stick(self.steer).xy().0 * 120.0 * seconds).clamp(8.0, SIZE.0 as f32 - 8.0);
        self.high.1 -= 600.0 * seconds;
        self.high.0 = (self.high.0 + self.high.1 * seconds).max(0.0);
        let pulls = seat.latest();
        for pull in pulls.happenings().filter(|happening| happening.what() == What::Pulled) {
            let name = pull.action(seat.linkage()).unwrap_or_default();
            tell(&format!(r#"{{"at":{},"action":"{name}","what":"pulled"}}"#, pull.at().as_micros()));
        }
    }

    /// Draws him on the quay, a number for each pixel.
    pub fn draw(&self, pixels: &mut [u32], wide: usize) {
        let tall = pixels.len() / wide.max(1);
        let ground = tall * 3 / 4;
        let (left, top) = ((self.x - 8.0) as usize, ground.saturating_sub(20 + self.high.0 as usize));
        for (place, pixel) in pixels.iter_mut().enumerate() {
            let (x, y) = (place % wide, place / wide);
            let is_pim = (left..left + 16).contains(&x) && (top..top + 20).contains(&y);
            *pixel = if is_pim {
                0x7f_5a_3c
            } else if y >= ground {
                0x40_60_70
            } else {
                0xc8_e0_ea
            };
        }
    }
}

/// A line for whoever listens; one that stopped listening doesn't matter.
pub fn tell(line: &str) {
    let mut out = std::io::stdout();
    let _ = writeln!(out, "{line}").and_then(|()| out.flush());
}
