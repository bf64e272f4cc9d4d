//! What adapters share: what they report, which number a device gets, and how another clock's times become moments.
//!
//! ```text
//!   window, pads, page ──▶ adapter ──Report──▶ your loop ──▶ seat.feed, seat.focus, seat.skip, …
//!                          Devices: numbers
//!                          StampClock: times of another clock; Arrivals, FrameState: events without a time
//!                          Parts: axes and arms that are told one by one; Wheel: notches
//! ```
//!
//! An adapter does the I/O and keeps to these rules, which [`Conformance`] checks in its tests:
//!
//! - A control has its exact name, its level lies in its range, up is +y and right is +x.
//! - A level is reported when it changes, and never NaN. The platform's own key repeat is dropped, also where it comes as a key
//!   going up and down again in one moment.
//! - The axes of one report of a device are one pair.
//! - Times never go back on a device, and never lie in the future.
//! - What is unplugged says nothing until it is plugged in again.
//!
//! A device that must be asked is asked once in each pass of the loop: take the time, drain the device, advance to that
//! time. What lies between two passes keeps its own time, and recorded input can still be cut into any ticks.

mod arrivals;
mod clock;
mod conformance;
mod devices;
mod frame_state;
mod parts;
mod repeats;
mod resync;
mod wheel;

use alloc::string::String;
use core::time::Duration;

pub use arrivals::Arrivals;
pub use clock::StampClock;
pub use conformance::{Breach, Conformance};
pub use devices::Devices;
pub use frame_state::FrameState;
pub use parts::Parts;
pub use repeats::Repeats;
pub use resync::resync;
pub use wheel::Wheel;

use crate::event::{Device, Event};
use crate::time::Moment;

/// What an adapter reports.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum Report {
    /// An event: feed it to a seat.
    Event(Event),
    /// The window has the focus, or not: tell it to each seat by `focus`.
    Focus(bool, Moment),
    /// The view has this size in pixels: tell it to each seat by `set_view`.
    View(u32, u32),
    /// A device was plugged in, with its plain name. Its events follow.
    Came {
        /// Its number; the one that it had before, if it was there before.
        device: Device,
        /// Its name for people.
        name: String,
        /// When.
        at: Moment,
    },
    /// A device was unplugged. What it held goes up when the event of [`Report::event`] is fed.
    Gone {
        /// Its number.
        device: Device,
        /// When.
        at: Moment,
    },
    /// The machine slept, or a breakpoint stopped it: pass the time by `skip`.
    Gap(Gap),
    /// Somebody wants to close the window.
    Close,
}

impl Report {
    /// The event to feed, if it is one: of a device that came or went, that it is plugged in or not.
    ///
    /// ```
    /// use tidy_lever::adapter::Report;
    /// use tidy_lever::{Device, Event, Moment};
    ///
    /// let (device, at) = (Device::default(), Moment::from_millis(5));
    /// assert_eq!(Report::Gone { device, at }.event(), Some(Event::plugged(at, device, false)));
    /// assert_eq!(Report::Close.event(), None);
    /// ```
    pub fn event(&self) -> Option<Event> {
        match self {
            Report::Event(event) => Some(*event),
            Report::Came { device, at, .. } => Some(Event::plugged(*at, *device, true)),
            Report::Gone { device, at } => Some(Event::plugged(*at, *device, false)),
            Report::Focus(..) | Report::View(..) | Report::Gap(_) | Report::Close => None,
        }
    }
}

/// A stretch of time in which nothing ran.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Gap {
    /// When the loop ran last.
    pub from: Moment,
    /// When it runs again.
    pub to: Moment,
}

/// Finds gaps: two passes of a loop that lie further apart than this.
///
/// ```
/// use std::time::Duration;
/// use tidy_lever::Moment;
/// use tidy_lever::adapter::{Gap, GapWatch};
///
/// let mut watch = GapWatch::new(Duration::from_secs(1));
/// let [one, two, three] = [0, 16, 9_000].map(Moment::from_millis);
/// assert_eq!((watch.pass(one), watch.pass(two)), (None, None));
/// assert_eq!(watch.pass(three), Some(Gap { from: two, to: three }));
/// ```
#[derive(Clone, Copy, Debug)]
pub struct GapWatch {
    longest: Duration,
    last: Option<Moment>,
}

impl GapWatch {
    /// Watches for passes of the loop that are further apart than this.
    pub fn new(longest: Duration) -> GapWatch {
        GapWatch { longest, last: None }
    }

    /// The loop runs at this moment: the gap since it ran last, if it is one.
    pub fn pass(&mut self, now: Moment) -> Option<Gap> {
        let from = self.last.replace(now)?;
        (now - from > self.longest).then_some(Gap { from, to: now })
    }
}
