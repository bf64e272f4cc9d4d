//! An adapter: gamepads on desktop systems, as events of Tidy Lever.
//!
//! ```text
//!   system ──▶ Source ──▶ Pads ──Report──▶ your loop ──▶ seat
//!              (levels,    (layout by position, axes of one report as one pair,
//!               stamps)     no repeats, moments, numbers that stay)
//! ```
//!
//! Take the time, [`poll`](Pads::poll), feed what comes, advance to that time: once in each pass of the loop.
//!
//! ```no_run
//! use tidy_lever::adapter::Devices;
//! use tidy_lever::{Linkage, Moment, Profile};
//! use tidy_lever_pads::Pads;
//!
//! # fn main() -> Result<(), Box<dyn std::error::Error>> {
//! let linkage = Linkage::build(&Profile::from_toml("tidy-lever = 1\n[action.hop]\nkind = \"button\"\npad = \"south\"\n")?)?;
//! let (mut seat, mut devices, began) = (linkage.seat(Moment::ZERO), Devices::new(), std::time::Instant::now());
//! // Without pads the game goes on; say why, once.
//! let mut pads = Pads::open().map_err(|why| eprintln!("{why}")).ok();
//! let clock = || Moment::ZERO + began.elapsed();
//! loop {
//!     let now = clock();
//!     for report in pads.iter_mut().flat_map(|pads| pads.poll(&mut devices, clock)) {
//!         if let Some(event) = report.event() {
//!             seat.feed(event)?;
//!         }
//!     }
//!     seat.advance(now);
//! }
//! # }
//! ```
//!
//! On Linux the system's pads need the feature `real-pads` and, to build, libudev's headers (Debian: `libudev-dev` and
//! `pkg-config`). Events carry the kernel's own times there, and the times of their arrival elsewhere:
//! [`times`](Pads::times) says which.
//!
//! A pad that no layout is known for can be described in the player's file; see [`PadTables`].

mod pads;
#[cfg(any(windows, target_os = "macos", all(target_os = "linux", feature = "real-pads")))]
mod real;
pub mod script;
mod setup;
mod source;
mod tables;

pub use pads::{NoPads, Pads};
pub use setup::Setup;
pub use source::{Numbers, PadId, PadName, Place, Seen, Source, Stamped, Times};
pub use tables::{PadTables, TableError};
