//! Tidy Lever turns raw keyboard, mouse, touch and gamepad events into character actions.
//!
//! The same input fires the same actions at the same microseconds, at any tick rate, and the library can explain why an action
//! fired or did not.
//!
//! ```text
//!  device ─event─▶ board ─level─▶ signal ─edge─▶ cue ─pull─▶ history ─▶ reading ─▶ game
//! ```
//!
//! Declare actions in a [`Profile`], compile it once into a [`Linkage`], and make a [`Seat`] (live state) for each player.
//! Then feed events, advance time, and read the actions. An action that fires is called a *pull*.
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
//! # In order
//!
//! | step | types |
//! |---|---|
//! | declare what a character can do | [`Profile`]; in code [`profile::Action`], [`cue::Rule`], [`profile::Shape`] |
//! | check and compile it | [`Linkage`], [`profile::Faults`]; [`levers!`] and [`Linkage::find`] for handles: [`Button`], [`Stick`], [`Axis`], [`Sweep`], [`Pointer`], [`Gauge`], [`Fact`], [`Mode`] |
//! | one player's live state | [`Seat`], [`seat::Capacity`]; several in a [`table::Table`] |
//! | what devices say | [`Event`], [`Control`], [`Device`], [`Moment`]; adapters: [`adapter`] |
//! | ask | [`Seat::button`] and its sisters, [`Reading`], [`Bookmark`], [`Happening`] |
//! | ask why | [`Seat::keep_ledger`], [`Attempt`], [`ledger::Outcome`] |
//! | record and replay | [`tape::Recorder`], [`tape::Replayer`], [`tape::Deck`], [`tape::Reader`] |
//! | let players change it | [`remap::Remap`], [`listening::Listening`], [`prompt`], [`access::Access`] |
//! | go back in time | [`Seat::save_into`], [`Seat::restore`], [`Seat::state_hash`] |
//! | around it | [`following`] (cameras, turning bodies), [`pointing`] (places in the world), [`panel`] (touch controls) |
//!
//! The guide in the repository, `docs/guide/`, goes the same way, chapter by chapter.
//!
//! | feature | default | what it adds |
//! |---|---|---|
//! | `std` | yes | players' files, reading and writing whole tapes, nearest names in faults. Without it the crate needs only `core` and `alloc` |
//! | `files` | yes | profiles from TOML, and lines of tapes as JSON |
//! | `serde` | no | events, happenings and players' files for `serde`; saved seats as bytes |
//! | `pointing` | yes | turns a place on the screen into a place in the world, with `glam` |

#![cfg_attr(not(feature = "std"), no_std)]

extern crate alloc;

// In order: each module imports only those above it. `tests/it/layers.rs` reads the imports and enforces this.

// Numbers, moments and names.
mod cause;
mod fixed;
mod index;
mod nearest;
mod serial;
mod sparse;
pub mod time;
mod timers;
mod words;

// What devices say, and what a cue waits for.
pub mod control;
pub mod event;
pub mod adapter;
pub mod direction;
mod end;
pub mod cue;

// What a profile declares.
mod fact;
mod gauge;
mod mode;
mod shape;
pub mod profile;

// What worn devices say wrong; from levels to edges; through gates.
mod guard;
mod sweep;
mod gate;

// The profile compiled.
pub mod access;
pub mod linkage;
pub mod handle;
mod seat_input;

// What happened, and one player's live state.
mod history;
pub mod ledger;
mod engine;
pub mod panel;
pub mod seat;

// Around seats.
pub mod following;
pub mod listening;
#[cfg(feature = "pointing")]
pub mod pointing;
pub mod prompt;
mod print;
#[cfg(all(feature = "files", feature = "std"))]
pub mod remap;
pub mod table;
#[cfg(feature = "files")]
pub mod tape;

// The guide's programs are tests.
#[cfg(all(doctest, feature = "files", feature = "std"))]
mod guide;

pub use cause::Cause;
pub use control::{Control, Family};
pub use direction::Direction;
pub use event::{Device, Event};
pub use handle::{Axis, Button, Fact, Gauge, Mode, Pointer, Stick, Sweep};
pub use history::{Happening, What};
pub use ledger::Attempt;
pub use linkage::Linkage;
pub use profile::Profile;
pub use seat::Seat;
pub use seat::reading::{self, Bookmark, Reading};
pub use seat_input::SeatInput;
pub use time::Moment;
