//! The input view: what a player's hands do, what the profile makes of it, what waits, what nearly was. Drawn in software on
//! a picture of any window or game; there is no window in here.
//!
//! ```text
//!   seat ──look──▶ Recent (pulls, near misses)
//!   seat, linkage, labels, Recent, a rectangle ──▶ InputView ──▶ pixels
//! ```
//!
//! It shows what a profile has: only the devices that it uses, a dial for each stick, axis and gauge, a row for each action.
//!
//! ```
//! use tidy_lever::prompt::Labels;
//! use tidy_lever::{Linkage, Moment, Profile};
//! use tidy_lever_view::canvas::Letters;
//! use tidy_lever_view::tiny_skia::Pixmap;
//! use tidy_lever_view::{Area, InputView, Parts, Recent, Shown};
//!
//! let text = "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n";
//! let linkage = Linkage::build(&Profile::from_toml(text)?)?;
//! let mut seat = linkage.seat(Moment::ZERO);
//! let (mut view, mut recent, mut letters) = (InputView::new(), Recent::new(), Letters::new()?);
//! // In each pass of the loop:
//! seat.advance(Moment::from_millis(16));
//! recent.look(1, &seat);
//! let mut pixels = Pixmap::new(400, 600).ok_or("no size")?;
//! view.draw(&mut pixels, &mut letters, &Shown {
//!     seat: &seat,
//!     number: 1,
//!     several: false,
//!     labels: &Labels::default(),
//!     recent: &recent,
//!     now: seat.played(),
//!     area: Area { x: 0.0, y: 0.0, wide: 400.0, high: 600.0 },
//!     parts: Parts::Overlay,
//! });
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

pub mod canvas;
mod dials;
mod hand;
mod keyboard;
pub mod palette;
mod recent;
mod rows;
mod sheet;

pub use glam;
pub use recent::{Entry, Miss, Recent};
pub use rows::{ROW, rows};
pub use sheet::{InputView, Parts, Shown, came, came_on};
pub use tiny_skia;

/// A rectangle in pixels, from the top left.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Area {
    /// Its left edge.
    pub x: f32,
    /// Its upper edge.
    pub y: f32,
    /// Its width.
    pub wide: f32,
    /// Its height.
    pub high: f32,
}

impl Area {
    /// Whether a place lies in it.
    pub fn holds(&self, (x, y): (f32, f32)) -> bool {
        (self.x..self.x + self.wide).contains(&x) && (self.y..self.y + self.high).contains(&y)
    }

    /// So much smaller on each side.
    pub fn inset(&self, by: f32) -> Area {
        Area {
            x: self.x + by,
            y: self.y + by,
            wide: (self.wide - 2.0 * by).max(0.0),
            high: (self.high - 2.0 * by).max(0.0),
        }
    }
}
