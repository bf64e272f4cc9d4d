//! Tidy Lever turns raw keyboard, mouse and gamepad events into character actions.
//!
//! The same input makes the same actions go off at the same microseconds, at any tick rate, and the library can explain
//! why an action went off or did not.
//!
//! ```text
//!  device ─event─▶ board ─level─▶ signal ─edge─▶ cue ─pull─▶ history ─▶ reading ─▶ game
//! ```
//!
//! Declare actions in a [`Profile`], compile it once into a [`Linkage`], and make a [`Seat`] (live state) for each player.
//! Then feed events, advance time, and read the actions. An action going off is called a *pull*.
//!
//! ```
//! use tidy_lever::{Control, Device, Event, Linkage, Moment, Profile};
//!
//! tidy_lever::levers! {
//!     /// What Pim can do.
//!     pub struct Pim { steer: Stick, hop: Button }
//! }
//!
//! let text = r#"
//! tidy-lever = 1
//! [action.steer]
//! kind = "stick"
//! keys = { up = "KeyW", left = "KeyA", down = "KeyS", right = "KeyD" }
//! [action.hop]
//! kind = "button"
//! keys = "Space"
//! "#;
//! let linkage = Linkage::build(&Profile::from_toml(text)?)?;
//! let pim = Pim::find(&linkage)?;
//! let mut seat = linkage.seat(Moment::ZERO);
//!
//! let keyboard = Device::new(0).unwrap();
//! seat.feed(Event::button(Moment::from_millis(3), keyboard, "keys:KeyD".parse()?, true))?;
//! seat.feed(Event::button(Moment::from_millis(9), keyboard, "keys:Space".parse()?, true))?;
//! seat.advance(Moment::from_millis(16));
//!
//! assert!(seat.button(pim.hop).pulled());
//! assert_eq!(seat.stick(pim.steer).xy(), (1.0, 0.0));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! | feature | default | what it adds |
//! |---|---|---|
//! | `pointing` | yes | turns a place on the screen into a place in the world, with `glam` |
//! | `files` | yes | profiles from TOML, tapes as JSON Lines, nearest names in faults. Without it the crate needs no `std` |

#![cfg_attr(not(feature = "files"), no_std)]

extern crate alloc;

// The order of the flow.
mod fixed;
mod index;
pub mod time;
mod timers;

pub mod control;
pub mod event;

pub mod direction;
mod inputs;
mod shape;
mod sweep;

pub mod cue;
mod fact;
mod gate;
mod gauge;
mod history;
mod mode;

pub mod handle;
pub mod linkage;
pub mod reading;
pub mod seat;

// Beside the flow.
pub mod access;
pub mod following;
pub mod ledger;
pub mod listening;
pub mod panel;
#[cfg(feature = "pointing")]
pub mod pointing;
pub mod profile;
pub mod prompt;
#[cfg(feature = "files")]
pub mod remap;
pub mod table;
#[cfg(feature = "files")]
pub mod tape;

pub use control::{Control, Family};
pub use direction::Direction;
pub use event::{Device, Event};
pub use handle::{Axis, Button, Fact, Gauge, Mode, Pointer, Stick, Sweep};
pub use history::{Cause, Happening, What};
pub use ledger::Attempt;
pub use linkage::Linkage;
pub use profile::Profile;
pub use reading::{Bookmark, Reading};
pub use seat::Seat;
pub use time::Moment;
