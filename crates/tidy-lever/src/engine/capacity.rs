//! How much memory a seat reserves.

use alloc::vec::Vec;

use crate::engine::incoming::QueuedInput;
use crate::history::Happening;

/// How much memory a seat reserves. Everything is allocated when the seat is made: 24 bytes for each waiting event, 56 for
/// each happening, and what the profile needs (less than 46 KiB for the demo).
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
#[must_use]
pub struct Capacity {
    /// How many events and facts can wait to be played, up to [`MOST_CAPACITY`]. Default 1,024.
    pub waiting: usize,
    /// How many happenings the history keeps, up to [`MOST_CAPACITY`]. Default 256.
    pub history: usize,
    /// How many devices, 1 to 64. Default 8.
    pub devices: usize,
}

/// The most events that can wait, and the most happenings that can be kept.
pub const MOST_CAPACITY: usize = 1 << 24;

impl Default for Capacity {
    fn default() -> Capacity {
        Capacity { waiting: 1_024, history: 256, devices: 8 }
    }
}

/// The requested [`Capacity`] can't be had.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum CapacityError {
    /// It is outside its limits.
    #[error("a seat has room for {least} to {most} {what}, and {asked} were asked for")]
    OutOfRange {
        /// What there would be room for.
        what: &'static str,
        /// The least that can be asked for.
        least: usize,
        /// The most.
        most: usize,
        /// What was asked for.
        asked: usize,
    },
    /// There is not as much memory.
    #[error(
        "there is no memory for a seat with room for {waiting} events that wait and {history} happenings; ask for less"
    )]
    NoMemory {
        /// Events that wait.
        waiting: usize,
        /// Happenings in its history.
        history: usize,
    },
}

impl Capacity {
    /// With room for this many events and facts that wait.
    pub fn waiting(self, waiting: usize) -> Capacity {
        Capacity { waiting, ..self }
    }

    /// With this many happenings in the history.
    pub fn history(self, history: usize) -> Capacity {
        Capacity { history, ..self }
    }

    /// With room for this many devices.
    pub fn devices(self, devices: usize) -> Capacity {
        Capacity { devices, ..self }
    }

    /// Checks it.
    pub(crate) fn checked(self) -> Result<Capacity, CapacityError> {
        let Capacity { waiting, history, devices } = self;
        let limits = [
            ("events that wait", 0, MOST_CAPACITY, waiting),
            ("happenings in its history", 0, MOST_CAPACITY, history),
            ("devices", 1, crate::event::MOST_DEVICES, devices),
        ];
        match limits.into_iter().find(|(_, least, most, asked)| !(least..=most).contains(&asked)) {
            Some((what, least, most, asked)) => Err(CapacityError::OutOfRange { what, least, most, asked }),
            None if self.has_memory() => Ok(self),
            None => Err(CapacityError::NoMemory { waiting, history }),
        }
    }

    /// Whether there is memory for it now.
    pub(crate) fn has_memory(self) -> bool {
        let (waiting, history) = (self.waiting * size_of::<QueuedInput>(), self.history * size_of::<Happening>());
        let mut probe: Vec<u8> = Vec::new();
        // What the profile needs is small beside it.
        probe.try_reserve_exact(waiting + history).is_ok()
    }
}
