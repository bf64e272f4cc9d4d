//! Seats: one player's live state on a linkage. Feed, tell, advance; ask in between.
//!
//! ```text
//!   feed, tell ──▶ waiting ──advance──▶ engine (board, signals, cues) ──▶ history ──▶ reading
//! ```

mod ask;
#[cfg(all(test, feature = "files"))]
mod blinking;
#[cfg(feature = "serde")]
mod bytes;
mod feed;
#[cfg(all(feature = "files", feature = "std"))]
mod lasting;
mod memory;
mod panel;
pub mod reading;
mod relink;
mod save;
mod countdowns;
mod stats;
mod tell;

use alloc::boxed::Box;
use alloc::vec::Vec;

#[cfg(all(feature = "files", feature = "std"))]
pub(crate) use crate::engine::incoming::MOST_LATE;
pub use crate::engine::{Capacity, CapacityError, MOST_CAPACITY, Relinked};
#[cfg(feature = "serde")]
pub use bytes::BytesError;
pub use countdowns::{Countdown, Runs};
pub use feed::{FeedError, FeedErrorKind};
pub use save::{RestoreError, Saved};
pub use stats::Stats;
pub use tell::{ApplyError, TellError, WIDEST_VIEW};

use crate::control::Family;
use crate::engine::{Engine, InputDigest, Tally};
use crate::event::Device;
pub use crate::fact::{FactValue, Told};
use crate::fixed::{self};
use crate::guard::SwallowedLog;
pub use crate::guard::{GuardedBy, StickMemory, Swallowed};
use crate::handle::AnyHandle;
use crate::ledger::{Attempt, Ledger};
use crate::linkage::{Linkage, Plan};
pub use crate::seat_input::{InputBytes, InputBytesError, MOST_INPUT_BYTES, SeatInput};
use crate::time::Moment;

/// One player's live state.
///
/// Call `feed` for events and `tell` for facts as they come, `advance` once per step, then read. Reading changes nothing.
///
/// ```
/// use tidy_lever::profile::{Action, Profile};
/// use tidy_lever::{Button, Control, Device, Event, Linkage, Moment};
///
/// let linkage = Linkage::build(&Profile::new("Otter Post").action(Action::button("toss").pad("west")))?;
/// let toss: Button = linkage.find("toss")?;
/// let mut seat = linkage.seat(Moment::ZERO);
/// let pad = Device::new(0).unwrap();
///
/// seat.feed(Event::button(Moment::from_micros(4_000), pad, Control::PAD_WEST, true))?;
/// seat.feed(Event::button(Moment::from_micros(13_500), pad, Control::PAD_WEST, false))?;
/// seat.advance(Moment::from_millis(16));
/// // Both edges lie inside one tick, and both are seen.
/// assert!(seat.button(toss).went_down() && seat.button(toss).went_up());
/// assert_eq!(seat.button(toss).last_held_for().as_micros(), 9_500);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
pub struct Seat {
    linkage: Linkage,
    /// The profiles that it had before, by their stamps: their handles are found again by name.
    lineage: Vec<u32>,
    pub(crate) engine: Engine,
    stats: Stats,
}

impl core::fmt::Debug for Seat {
    fn fmt(&self, f: &mut core::fmt::Formatter<'_>) -> core::fmt::Result {
        write!(f, "Seat({:?} at {})", self.linkage.title(), self.played())
    }
}

impl Clone for Seat {
    fn clone(&self) -> Seat {
        let mut engine = self.engine.copy(&self.linkage.0);
        engine.log.ring.branch();
        engine.inputs.tally = self.engine.inputs.tally;
        engine.pulls.ledger.clone_from(&self.engine.pulls.ledger);
        Seat { linkage: self.linkage.clone(), lineage: self.lineage.clone(), engine, stats: self.stats }
    }

    /// Without allocating, where both seats were made from the same linkage with the same [`Capacity`]; otherwise it makes the
    /// room that it needs. Each keeps its own ledger, which begins again on another linkage.
    fn clone_from(&mut self, other: &Seat) {
        if self.linkage.is_like(&other.linkage) {
            self.engine.go_back_to(&other.engine);
        } else {
            let ledger = self.engine.pulls.ledger.take().map(|ledger| Box::new(ledger.again(&other.linkage.0)));
            self.engine = other.engine.copy(&other.linkage.0);
            self.engine.pulls.ledger = ledger;
        }
        self.linkage = other.linkage.clone();
        self.lineage.clone_from(&other.lineage);
        self.engine.log.ring.branch();
        self.engine.inputs.tally = other.engine.inputs.tally;
        self.stats = other.stats;
    }
}

/// How full a seat's queue is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct QueueUse {
    /// How many events and tellings wait to be played.
    pub waiting: usize,
    /// How many can.
    pub room: usize,
}

/// The last level that a device reported for a control.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct StandingLevel {
    /// Which device.
    pub device: Device,
    /// Which control.
    pub control: crate::control::Control,
    /// Its level; horizontal, right positive.
    pub x: f32,
    /// Vertical, up positive; 0 for a control with one level.
    pub y: f32,
}

impl Seat {
    pub(crate) fn new(linkage: Linkage, at: Moment, room: Capacity) -> Seat {
        let engine = Engine::new(&linkage.0, at.as_micros(), room);
        Seat { linkage, lineage: Vec::new(), engine, stats: Stats::default() }
    }

    /// Takes on the handles of these profiles, by their stamps.
    pub(crate) fn descends_from(&mut self, stamps: &[u32]) {
        let own = self.linkage.stamp();
        for stamp in stamps.iter().filter(|stamp| **stamp != own) {
            if !self.lineage.contains(stamp) {
                self.lineage.push(*stamp);
            }
        }
    }

    /// The linkage that the seat was made from.
    pub fn linkage(&self) -> &Linkage {
        &self.linkage
    }

    /// The family of controls that the player used last; `None` before any. A stick's noise and a nudged mouse don't count.
    pub fn family(&self) -> Option<Family> {
        self.engine.inputs.used.family()
    }

    /// The last moment played; before the first `advance`, the moment at which the seat was made.
    pub fn played(&self) -> Moment {
        Moment::from_micros(self.engine.played())
    }

    /// Counters of unusual input that the seat survived.
    pub fn stats(&self) -> Stats {
        let Tally { repeats, moved_on, unheard, clamped, bounces, swings, middles } = self.engine.inputs.tally;
        Stats {
            repeats: self.stats.repeats + repeats,
            moved_on: self.stats.moved_on + moved_on,
            unheard: self.stats.unheard + unheard,
            clamped: self.stats.clamped + clamped,
            bounces: self.stats.bounces + bounces,
            swings: self.stats.swings + swings,
            middles: self.stats.middles + middles,
            ..self.stats
        }
    }

    /// Starts a ledger of the last `room` attempts; 0 stops it. It is off at the start, is not part of saved states, and
    /// changes nothing that happens.
    ///
    /// ```
    /// use std::time::Duration;
    /// use tidy_lever::profile::{Action, Profile};
    /// use tidy_lever::{Control, Device, Event, Linkage, Moment};
    ///
    /// let profile = Profile::new("Otter Post").action(Action::button("bag").pad("north").cue("hold 350ms"));
    /// let mut seat = Linkage::build(&profile)?.seat(Moment::ZERO);
    /// seat.keep_ledger(64);
    /// let pad = Device::new(0).unwrap();
    /// seat.feed(Event::button(Moment::from_millis(100), pad, Control::PAD_NORTH, true))?;
    /// seat.feed(Event::button(Moment::from_millis(412), pad, Control::PAD_NORTH, false))?;
    /// seat.advance(Moment::from_millis(500));
    /// let attempt = seat.attempts().next().unwrap();
    /// assert_eq!(attempt.missed_by(), Some(Duration::from_millis(38)));
    /// assert_eq!(attempt.story(seat.linkage()).unwrap(), "bag was released 38 ms too soon");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn keep_ledger(&mut self, room: usize) {
        self.engine.wake = 0;
        self.engine.pulls.ledger = (room > 0).then(|| Box::new(Ledger::new(&self.linkage.0, room, 0)));
    }

    /// The attempts that ended and are still kept, oldest first; none without a ledger. An attempt that ran out of time is
    /// listed one second later, because the missing step may still come late.
    pub fn attempts(&self) -> impl Iterator<Item = &Attempt> {
        self.attempts_since(0)
    }

    /// The attempts that ended from number `from` on; how many there have been is [`attempt_count`](Seat::attempt_count).
    pub fn attempts_since(&self, from: u64) -> impl Iterator<Item = &Attempt> {
        self.engine.pulls.ledger.iter().flat_map(move |ledger| ledger.since(from))
    }

    /// How many attempts ended since the ledger was begun.
    pub fn attempt_count(&self) -> u64 {
        self.engine.pulls.ledger.as_ref().map_or(0, |ledger| ledger.total())
    }

    /// Takes what only waits for its story's end as it stands: at the end of a tape, before the last look.
    pub fn close_ledger(&mut self) {
        let played = self.engine.played();
        self.engine.pulls.tell_unfinished(&self.linkage.0, played);
        if let Some(ledger) = &mut self.engine.pulls.ledger {
            ledger.tidy(played, true);
        }
    }

    /// Starts to note what guards keep from being heard (`[devices]`), the last `room` of it, at most 65,536; 0 stops that. It is off at the
    /// start, is not part of saved states, and changes nothing that happens.
    pub fn keep_swallowed(&mut self, room: usize) {
        self.engine.inputs.swallowed = (room > 0).then(|| Box::new(SwallowedLog::new(room)));
    }

    /// What guards kept from being heard, from number `from` on, once the span of each is over, in the order of their ends; how many
    /// there have been is [`swallowed_count`](Seat::swallowed_count).
    pub fn swallowed_since(&self, from: u64) -> impl Iterator<Item = Swallowed> {
        let played = self.engine.played();
        self.engine.inputs.swallowed.iter().flat_map(move |log| log.since(from, played))
    }

    /// How much guards kept from being heard since [`keep_swallowed`](Seat::keep_swallowed).
    pub fn swallowed_count(&self) -> u64 {
        self.engine.inputs.swallowed.as_ref().map_or(0, |log| log.total(self.engine.played()))
    }

    /// How many events and tellings wait to be played, and how many can.
    pub fn waiting(&self) -> QueueUse {
        QueueUse { waiting: self.engine.queue.len(), room: self.engine.queue.capacity() }
    }

    /// Until when a loop may leave it alone: the moment at which something happens without any input, [`Moment::LATEST`] if
    /// nothing will. `None` while something moves by itself, or nobody knows yet; then advance it as ever.
    pub fn rests_until(&self) -> Option<Moment> {
        let wake = self.engine.wake;
        (wake > 0 && self.engine.queue.len() == 0).then(|| Moment::from_micros(wake.min(Moment::LATEST.as_micros())))
    }

    /// Plays everything up to and including `to`, each at its own moment.
    ///
    /// A moment before the last one played plays nothing and is counted in [`Stats::rewinds`].
    pub fn advance(&mut self, to: Moment) {
        let to = to.as_micros();
        if !self.engine.sleeps_until(to) {
            self.advance_awake(to);
        }
    }

    #[inline(never)]
    fn advance_awake(&mut self, to: u64) {
        self.engine.input_digest.advanced(to, true);
        self.engine.begin_tick();
        if to >= self.engine.next {
            let next = self.engine.play(&self.linkage.0, to);
            self.engine.fall_asleep(next);
        } else if to + 1 < self.engine.next {
            self.stats.rewinds += 1;
        }
    }

    /// Advances up to and including `to`, but stops at the end of the moment in which the history has grown by `most`
    /// happenings or more; returns the moment up to which it played. For readers that must not miss a happening, whatever
    /// the [`Capacity`]: read, then call it again until it returns `to`.
    ///
    /// ```
    /// use tidy_lever::profile::{Action, Profile};
    /// use tidy_lever::{Linkage, Moment};
    ///
    /// let profile = Profile::new("Otter Post").action(Action::button("toss").pad("west"));
    /// let mut seat = Linkage::build(&profile)?.seat(Moment::ZERO);
    /// let to = Moment::from_millis(500);
    /// while seat.advance_some(to, 100) < to {
    ///     // Read what happened.
    /// }
    /// # Ok::<(), tidy_lever::profile::Faults>(())
    /// ```
    pub fn advance_some(&mut self, to: Moment, most: usize) -> Moment {
        let to = to.as_micros();
        if !self.engine.sleeps_until(to) {
            self.engine.begin_tick();
            if to >= self.engine.next {
                let next = self.engine.play_some(&self.linkage.0, to, most as u64);
                self.engine.input_digest.advanced(self.engine.next - 1, true);
                self.engine.fall_asleep(next);
            } else if to + 1 < self.engine.next {
                self.stats.rewinds += 1;
            }
        }
        self.played()
    }

    /// Enlarges the seat's [`Capacity`] for waiting events and for the history; it never shrinks. Unlike `feed` and `advance`
    /// this allocates, so it is for tools that can't know how much they will need.
    ///
    /// # Errors
    /// [`CapacityError`] if it asks for more than a seat can have.
    pub fn reserve(&mut self, waiting: usize, history: usize) -> Result<(), CapacityError> {
        let room = self.engine.room().waiting(waiting).history(history).checked()?;
        if room.waiting > self.engine.queue.capacity() || room.history > self.engine.log.ring.capacity() {
            self.engine.queue.reserve(room.waiting);
            self.engine.log.ring.reserve(room.history);
            self.engine.input_digest = InputDigest::fresh();
        }
        Ok(())
    }

    /// Whether there is memory for a copy of this seat: a clone, or what it is saved into.
    pub fn can_copy(&self) -> bool {
        self.engine.room().has_memory()
    }

    /// Skips a gap in time, such as a breakpoint or a suspended machine: what is held stays held, and nothing pulls. Events
    /// that wait for a moment within the gap only set levels.
    pub fn skip(&mut self, to: Moment) {
        let to = to.as_micros();
        self.engine.input_digest.advanced(to, false);
        self.engine.begin_tick();
        if to >= self.engine.next {
            self.engine.pass(&self.linkage.0, to);
        } else if to + 1 < self.engine.next {
            self.stats.rewinds += 1;
        }
    }

    /// The last level that each device reported for each control that the profile uses.
    pub fn standing(&self) -> impl Iterator<Item = StandingLevel> + '_ {
        let plan = self.plan();
        let standing = self.engine.inputs.board.standing(&plan.inputs);
        standing.map(|(device, slot, x, y)| {
            let control = plan.inputs.slots[usize::from(slot)].control;
            StandingLevel { device, control, x: fixed::to_f32(x), y: fixed::to_f32(y) }
        })
    }

    /// The number of a handle that a question is about. One of another profile is a mistake that a debug build shows.
    #[inline]
    pub(crate) fn asked(&self, handle: impl Into<AnyHandle>) -> Option<usize> {
        let handle = handle.into();
        if handle.stamp == self.linkage.stamp() {
            return Some(usize::from(handle.number));
        }
        self.asked_again(handle)
    }

    #[cold]
    #[inline(never)]
    fn asked_again(&self, handle: AnyHandle) -> Option<usize> {
        let known = handle.is_by_name() || self.lineage.contains(&handle.stamp);
        let number = if known { self.linkage.found_again(handle) } else { None };
        if number.is_none() {
            debug_assert!(
                known,
                "the handle to {handle:?} was found in another profile than {:?}; find it in this seat's linkage",
                self.linkage.title()
            );
        }
        number
    }

    /// The number of a handle that is told of; one that isn't the seat's is counted.
    pub(crate) fn told_of(&mut self, handle: impl Into<AnyHandle>) -> Result<usize, TellError> {
        let number = self.number_of(handle.into());
        self.stats.foreign += u64::from(number.is_none());
        number.ok_or(TellError::Foreign)
    }

    fn number_of(&self, handle: AnyHandle) -> Option<usize> {
        match handle.stamp {
            stamp if stamp == self.linkage.stamp() => Some(usize::from(handle.number)),
            stamp if handle.is_by_name() || self.lineage.contains(&stamp) => self.linkage.found_again(handle),
            _ => None,
        }
    }

    /// Whether a handle is one of this seat's: it was found in this profile, or in one that the seat had before a
    /// [`relink`](Seat::relink), and the profile still has its name.
    ///
    /// ```
    /// use tidy_lever::profile::{Action, Profile};
    /// use tidy_lever::{Button, Linkage, Moment};
    ///
    /// let built = |names: &[&str]| {
    ///     let all = names.iter().fold(Profile::new("Otter Post"), |all, name| all.action(Action::button(name)));
    ///     Linkage::build(&all)
    /// };
    /// let linkage = built(&["hop", "toss"])?;
    /// let (hop, toss): (Button, Button) = (linkage.find("hop").unwrap(), linkage.find("toss").unwrap());
    /// let mut seat = linkage.seat(Moment::ZERO);
    /// seat.relink(&built(&["dive", "toss"])?, &mut []);
    /// assert!(seat.knows(toss) && !seat.knows(hop));
    /// # Ok::<(), tidy_lever::profile::Faults>(())
    /// ```
    pub fn knows(&self, handle: impl Into<AnyHandle>) -> bool {
        self.number_of(handle.into()).is_some()
    }

    pub(crate) fn plan(&self) -> &Plan {
        &self.linkage.0
    }

    /// A hash of everything that decides what happens next: equal states have equal hashes, in every build and on every
    /// platform. History, stats and what only tells of the last tick are left out.
    pub fn state_hash(&self) -> u64 {
        self.engine.hash()
    }
}

impl Linkage {
    /// A new seat that begins at `at`. All memory that it will ever need is allocated here.
    ///
    /// Events at `at` itself still count; anything earlier is late.
    pub fn seat(&self, at: Moment) -> Seat {
        Seat::new(self.clone(), at, Capacity::default())
    }

    /// A new seat with a [`Capacity`] other than the default.
    ///
    /// ```
    /// use tidy_lever::seat::Capacity;
    /// use tidy_lever::{Linkage, Moment, Profile};
    ///
    /// let linkage = Linkage::build(&Profile::new("Otter Post"))?;
    /// assert!(linkage.seat_with(Moment::ZERO, Capacity::default().waiting(4_096)).is_ok());
    /// let error = linkage.seat_with(Moment::ZERO, Capacity::default().devices(65)).unwrap_err();
    /// assert_eq!(error.to_string(), "a seat has room for 1 to 64 devices, and 65 were asked for");
    /// # Ok::<(), tidy_lever::profile::Faults>(())
    /// ```
    ///
    /// # Errors
    /// [`CapacityError`] if it asks for more than a seat can have, or than there is memory for.
    pub fn seat_with(&self, at: Moment, room: Capacity) -> Result<Seat, CapacityError> {
        Ok(Seat::new(self.clone(), at, room.checked()?))
    }
}
