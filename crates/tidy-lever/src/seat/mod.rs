//! Seats: one player's live state on a linkage. Feed, tell, advance; ask in between.
//!
//! ```text
//!   feed, tell ──▶ waiting ──advance──▶ block (board, signals, cues) ──▶ history ──▶ reading
//! ```

mod block;
mod play;
mod settle;
mod stats;
mod waiting;
mod world;

use core::sync::atomic::{AtomicU64, Ordering};

pub(crate) use block::{ActionState, Block, Sums};
pub use stats::Stats;
use waiting::{Sort, Waiting};

use crate::control::{Family, Sort as ControlSort};
use crate::event::{Device, Event, Input};
pub use crate::fact::Told;
use crate::fixed::{self, ONE};
use crate::handle;
use crate::linkage::{Linkage, NONE, Plan};
use crate::reading::{
    AxisReading, Bookmark, ButtonReading, GaugeReading, PointerReading, Reading, StickReading, SweepReading,
};
use crate::time::Moment;

/// How much a seat has room for. Everything is allocated when the seat is made.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Room {
    /// Events and tellings that wait to be played. Default 1,024.
    pub waiting: usize,
    /// Happenings kept for asking about single moments. Default 256.
    pub history: usize,
    /// Devices, 1 to 64. Default 8.
    pub devices: usize,
}

impl Default for Room {
    fn default() -> Room {
        Room { waiting: 1_024, history: 256, devices: 8 }
    }
}

/// Why an event was not taken. The event is handed back.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Untaken {
    /// The queue is full: advance, then feed it again.
    Full,
    /// A level that is no finite number. Counted; drop it.
    NotFinite,
    /// A pair of levels for a control with one, or the other way round. Counted; mend the adapter.
    WrongSort,
    /// There is no room for one more device: give the seat more with [`Room::devices`].
    TooManyDevices,
}

/// An event that was not taken, and why.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct FeedError {
    /// The event, as it was fed.
    pub event: Event,
    /// Why it was not taken.
    pub why: Untaken,
}

impl core::fmt::Display for FeedError {
    fn fmt(&self, f: &mut core::fmt::Formatter<'_>) -> core::fmt::Result {
        let Event { at, device, input } = self.event;
        let why = match self.why {
            Untaken::Full => "the seat's queue is full; advance it, then feed this again",
            Untaken::NotFinite => "a level must be a finite number; it was refused",
            Untaken::WrongSort => "the control has another number of axes; a stick takes a pair, a button one level",
            Untaken::TooManyDevices => {
                "the seat has no room for one more device; make it with a larger `Room::devices`"
            }
        };
        match input {
            Input::Level { control, value } => write!(f, "{control} = {value} from {device:?} at {at}: {why}"),
            Input::Pair { control, x, y } => write!(f, "{control} = {x}, {y} from {device:?} at {at}: {why}"),
            _ => write!(f, "{input:?} from {device:?} at {at}: {why}"),
        }
    }
}

impl core::error::Error for FeedError {}

/// Why something told was not taken.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum TellError {
    /// The queue is full.
    #[error("the seat's queue is full; advance it, then tell this again")]
    Full,
    /// The handle belongs to another profile.
    #[error("the handle belongs to another profile; find it in this seat's linkage")]
    Foreign,
    /// The action is no toggle.
    #[error("the action is no toggle; only what has the cue `toggle` can be set")]
    NoToggle,
    /// The fact can't be that.
    #[error("the fact has no such value; a flag is true or false, another fact one of its words")]
    NoSuchValue,
}

/// One player's live state.
///
/// `feed` events and `tell` facts and modes as they come, `advance` once a step, then ask. Asking never changes anything.
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
/// seat.feed(Event::button(Moment::from_micros(9_500), pad, Control::PAD_WEST, false))?;
/// seat.advance(Moment::from_millis(16));
/// // Both edges lie inside one tick, and both are seen.
/// assert!(seat.button(toss).was_pressed() && seat.button(toss).was_released());
/// assert_eq!(seat.button(toss).was_held_for().as_micros(), 5_500);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
pub struct Seat {
    linkage: Linkage,
    pub(crate) block: Block,
    stats: Stats,
    /// Counted by questions, which change nothing that anybody can ask about but this.
    foreign: AtomicU64,
}

impl core::fmt::Debug for Seat {
    fn fmt(&self, f: &mut core::fmt::Formatter<'_>) -> core::fmt::Result {
        write!(f, "Seat({:?} at {})", self.linkage.title(), self.played())
    }
}

impl Clone for Seat {
    fn clone(&self) -> Seat {
        let foreign = AtomicU64::new(self.foreign.load(Ordering::Relaxed));
        Seat { linkage: self.linkage.clone(), block: self.block.copy(), stats: self.stats, foreign }
    }

    /// Without allocating, where both seats were made from the same linkage with the same [`Room`].
    fn clone_from(&mut self, other: &Seat) {
        self.linkage = other.linkage.clone();
        self.block.copy_from(&other.block);
        self.stats = other.stats;
        self.foreign.store(other.foreign.load(Ordering::Relaxed), Ordering::Relaxed);
    }
}

/// Cuts a level to a range; whether that changed it.
fn cut(value: i64, low: i32, high: i32) -> (i32, bool) {
    let cut = value.clamp(i64::from(low), i64::from(high));
    (cut as i32, cut != value)
}

/// The most notches of a wheel in one event.
const MOST_NOTCHES: i32 = 64;

impl Seat {
    pub(crate) fn new(linkage: Linkage, at: Moment, room: Room) -> Seat {
        let block = Block::new(&linkage.0, at.as_micros(), room);
        Seat { linkage, block, stats: Stats::default(), foreign: AtomicU64::new(0) }
    }

    /// The linkage it sits on.
    pub fn linkage(&self) -> &Linkage {
        &self.linkage
    }

    /// The last moment played; the one it was made at, before the first `advance`.
    pub fn played(&self) -> Moment {
        Moment::from_micros(self.block.played())
    }

    /// What it counted and survived.
    pub fn stats(&self) -> Stats {
        Stats { foreign: self.foreign.load(Ordering::Relaxed), ..self.stats }
    }

    /// How many events and tellings wait to be played, and how many can.
    pub fn waiting(&self) -> (usize, usize) {
        (self.block.queue.len(), self.block.queue.capacity())
    }

    /// Takes an event. It plays in the `advance` that reaches its moment; if that is played already, 1 µs after it.
    ///
    /// Levels are rounded to millionths; a level outside its control's range is cut to it and counted.
    ///
    /// # Errors
    /// A [`FeedError`] hands the event back: the queue is full, a level is not finite or of the wrong sort, or there is
    /// no room for one more device. The seat is as before.
    pub fn feed(&mut self, event: Event) -> Result<(), FeedError> {
        self.take(&event).map_err(|why| {
            match why {
                Untaken::NotFinite | Untaken::WrongSort => self.stats.refused += 1,
                Untaken::Full | Untaken::TooManyDevices => self.stats.handed_back += 1,
            }
            FeedError { event, why }
        })
    }

    fn take(&mut self, event: &Event) -> Result<(), Untaken> {
        let at = event.at.as_micros();
        let finite = |value: f32| fixed::from_f64(f64::from(value)).ok_or(Untaken::NotFinite);
        let (control, x, y, pair) = match event.input {
            Input::Level { control, value } => (control, finite(value)?, 0, false),
            Input::Pair { control, x, y } => (control, finite(x)?, finite(y)?, true),
            Input::Plugged(plugged) => return self.plugged(event.device, plugged, at),
            Input::Touch { x, y, .. } => {
                finite(x)?;
                finite(y)?;
                self.stats.unheard += 1;
                return Ok(());
            }
        };
        let Some(slot) = Block::slot(&self.linkage.0, control) else {
            self.stats.unheard += 1;
            return Ok(());
        };
        let sort = self.linkage.0.slots[usize::from(slot)].sort;
        let (x, y, clamped) = match (sort, pair) {
            (ControlSort::Button | ControlSort::Level, false) => {
                let (x, clamped) = cut(x, 0, ONE);
                (x, 0, clamped)
            }
            (ControlSort::Notch, false) => {
                let (x, clamped) = cut(x, 0, MOST_NOTCHES * ONE);
                (x, 0, clamped)
            }
            (ControlSort::Pair, true) => {
                let ((x, cx), (y, cy)) = (cut(x, -ONE, ONE), cut(y, -ONE, ONE));
                (x, y, cx || cy)
            }
            (ControlSort::Counts | ControlSort::Place, true) => {
                let ((x, cx), (y, cy)) = (cut(x, i32::MIN + 1, i32::MAX), cut(y, i32::MIN + 1, i32::MAX));
                (x, y, cx || cy)
            }
            _ => return Err(Untaken::WrongSort),
        };
        self.control(event.device, control.family(), slot, sort, at, (x, y))?;
        self.stats.clamped += u64::from(clamped);
        Ok(())
    }

    fn control(
        &mut self,
        device: Device,
        family: Family,
        slot: u16,
        sort: ControlSort,
        at: u64,
        (x, y): (i32, i32),
    ) -> Result<(), Untaken> {
        let plan = &*self.linkage.0;
        let notches = if sort == ControlSort::Notch { (x + ONE / 2) / ONE } else { 1 };
        let needed = if sort == ControlSort::Notch { 2 * notches as usize } else { 1 };
        if self.block.queue.room() < needed {
            return Err(Untaken::Full);
        }
        let local = self.block.board.local(plan, device, family).map_err(|_| Untaken::TooManyDevices)?;
        if notches == 0 {
            self.stats.repeats += 1;
            return Ok(());
        }
        let wanted = at.max(self.block.next);
        let Some(at_last) = self.block.board.note(plan, slot, local, wanted, (x.min(notches * ONE), y)) else {
            self.stats.repeats += 1;
            return Ok(());
        };
        self.stats.late += u64::from(wanted > at);
        self.stats.moved_on += u64::from(at_last > wanted);
        let mut put = |at, x| {
            self.block.queue.push(Waiting { at, x, y, number: slot, local, what: Sort::Control });
        };
        if sort == ControlSort::Notch {
            for notch in 0..notches as u64 {
                put(at_last + 2 * notch, ONE);
                put(at_last + 2 * notch + 1, 0);
            }
        } else {
            put(at_last, x);
        }
        Ok(())
    }

    fn plugged(&mut self, device: Device, plugged: bool, at: u64) -> Result<(), Untaken> {
        let number = device.number() as u16;
        self.put(Sort::Plugged, number, i32::from(plugged), at).map_err(|_| Untaken::Full)?;
        let bits = self.block.board.bits(|other, _| other == device);
        self.block.board.forget(&self.linkage.0, bits);
        Ok(())
    }

    /// Puts something into the queue that is no control; late if its moment is played already.
    fn put(&mut self, what: Sort, number: u16, x: i32, at: u64) -> Result<(), TellError> {
        self.put_pair(what, number, (x, 0), at)
    }

    fn put_pair(&mut self, what: Sort, number: u16, (x, y): (i32, i32), at: u64) -> Result<(), TellError> {
        if self.block.queue.room() == 0 {
            self.stats.handed_back += 1;
            return Err(TellError::Full);
        }
        self.stats.late += u64::from(at < self.block.next);
        let at = at.max(self.block.next);
        self.block.queue.push(Waiting { at, x, y, number, local: 0, what });
        Ok(())
    }

    /// Tells that the game's window lost (`false`) or regained the focus, at a moment.
    ///
    /// What keys, mouse and touch hold goes up and pulls nothing; pads are followed unseen, and after the return their
    /// sticks count at once while their buttons need a fresh press.
    ///
    /// # Errors
    /// [`TellError::Full`] if the queue is full.
    pub fn focus(&mut self, focused: bool, at: Moment) -> Result<(), TellError> {
        self.put(Sort::Focus, 0, i32::from(focused), at.as_micros())?;
        let bits = self.block.board.bits(|_, family| family != Family::Pad);
        self.block.board.forget(&self.linkage.0, bits);
        Ok(())
    }

    /// Sets a toggle, from just after the played moment: the game owns the truth. Nothing pulls.
    ///
    /// # Errors
    /// A [`TellError`] if the action is no toggle, the handle is another profile's, or the queue is full.
    pub fn set(&mut self, toggle: handle::Button, on: bool) -> Result<(), TellError> {
        self.set_at(toggle, on, Moment::from_micros(self.block.next))
    }

    /// Sets a toggle at a later moment.
    ///
    /// # Errors
    /// As [`Seat::set`].
    pub fn set_at(&mut self, toggle: handle::Button, on: bool, at: Moment) -> Result<(), TellError> {
        let number = self.own(toggle.number, toggle.stamp).ok_or(TellError::Foreign)?;
        if self.plan().actions[number].cue != Some(crate::cue::RulePlan::Toggle) {
            return Err(TellError::NoToggle);
        }
        self.put(Sort::Set, toggle.number, i32::from(on), at.as_micros())
    }

    /// The game refused an action's last pull: what it spent counts again, its stage and cooldown are as before. From just
    /// after the played moment.
    ///
    /// # Errors
    /// A [`TellError`] if the handle is another profile's or the queue is full.
    pub fn give_back(&mut self, action: handle::Button) -> Result<(), TellError> {
        self.give_back_at(action, Moment::from_micros(self.block.next))
    }

    /// The same for a later moment.
    ///
    /// # Errors
    /// As [`Seat::give_back`].
    pub fn give_back_at(&mut self, action: handle::Button, at: Moment) -> Result<(), TellError> {
        self.own(action.number, action.stamp).ok_or(TellError::Foreign)?;
        self.put(Sort::GiveBack, action.number, 0, at.as_micros())
    }

    /// Tells the size of the view in pixels, for pointers; 1280 by 720 until told. From just after the played moment.
    ///
    /// # Errors
    /// [`TellError::Full`] if the queue is full; [`TellError::NoSuchValue`] for a view without a width or a height.
    pub fn set_view(&mut self, width: u32, height: u32) -> Result<(), TellError> {
        self.set_view_at(width, height, Moment::from_micros(self.block.next))
    }

    /// Tells the size of the view for a later moment.
    ///
    /// # Errors
    /// As [`Seat::set_view`].
    pub fn set_view_at(&mut self, width: u32, height: u32, at: Moment) -> Result<(), TellError> {
        const WIDEST: u32 = 1 << 20;
        if !(1..=WIDEST).contains(&width) || !(1..=WIDEST).contains(&height) {
            return Err(TellError::NoSuchValue);
        }
        self.put_pair(Sort::View, 0, (width as i32, height as i32), at.as_micros())
    }

    /// Tells a fact: `true` or `false`, or one of its words. It counts from just after the played moment, before the
    /// events that follow.
    ///
    /// # Errors
    /// A [`TellError`] if the fact can't be that, the handle is another profile's, or the queue is full.
    pub fn tell<'w>(&mut self, fact: handle::Fact, value: impl Into<Told<'w>>) -> Result<(), TellError> {
        self.tell_at(fact, value, Moment::from_micros(self.block.next))
    }

    /// Tells a fact for a later moment.
    ///
    /// # Errors
    /// As [`Seat::tell`].
    pub fn tell_at<'w>(&mut self, fact: handle::Fact, value: impl Into<Told<'w>>, at: Moment) -> Result<(), TellError> {
        let number = self.own(fact.number, fact.stamp).ok_or(TellError::Foreign)?;
        let plan = &self.linkage.0.facts[number];
        let value = match value.into() {
            Told::Flag(flag) => Some(u16::from(flag)).filter(|_| plan.flag),
            Told::Word(word) => plan.value(word),
        };
        let value = value.ok_or(TellError::NoSuchValue)?;
        self.put(Sort::Fact, fact.number, i32::from(value), at.as_micros())
    }

    /// Switches a mode, from just after the played moment.
    ///
    /// # Errors
    /// A [`TellError`] if the handle is another profile's or the queue is full.
    pub fn set_mode(&mut self, mode: handle::Mode, on: bool) -> Result<(), TellError> {
        self.set_mode_at(mode, on, Moment::from_micros(self.block.next))
    }

    /// Switches a mode at a later moment.
    ///
    /// # Errors
    /// As [`Seat::set_mode`].
    pub fn set_mode_at(&mut self, mode: handle::Mode, on: bool, at: Moment) -> Result<(), TellError> {
        self.own(mode.number, mode.stamp).ok_or(TellError::Foreign)?;
        self.put(Sort::Mode, mode.number, i32::from(on), at.as_micros())
    }

    /// Plays everything up to and including `to`, each at its own moment.
    ///
    /// A moment before the last one played plays nothing and is counted in [`Stats::rewinds`].
    pub fn advance(&mut self, to: Moment) {
        let to = to.as_micros();
        self.block.begin_tick();
        if to >= self.block.next {
            self.block.play(&self.linkage.0, to);
        } else if to + 1 < self.block.next {
            self.stats.rewinds += 1;
        }
    }

    /// Passes a gap, as after a breakpoint or a sleep: what is held stays held, nothing pulls. Changes that wait for a
    /// moment within the gap are taken over as they end up.
    pub fn skip(&mut self, to: Moment) {
        let to = to.as_micros();
        self.block.begin_tick();
        if to >= self.block.next {
            self.block.pass(&self.linkage.0, to);
        } else if to + 1 < self.block.next {
            self.stats.rewinds += 1;
        }
    }

    /// The number of a handle, if it is this profile's; counts it otherwise.
    pub(crate) fn own(&self, number: u16, stamp: u32) -> Option<usize> {
        if stamp == self.linkage.stamp() && number != NONE {
            return Some(usize::from(number));
        }
        self.foreign.fetch_add(1, Ordering::Relaxed);
        None
    }

    /// Whether a handle's stamp is this seat's profile's.
    pub fn knows(&self, handle: impl Into<AnyHandle>) -> bool {
        handle.into().0 == self.linkage.stamp()
    }

    pub(crate) fn plan(&self) -> &Plan {
        &self.linkage.0
    }

    /// What the last `advance` played.
    pub fn latest(&self) -> Reading<'_> {
        Reading::latest(self)
    }

    /// A new reader's place, at what is played now.
    pub fn bookmark(&self) -> Bookmark {
        Bookmark::new(self)
    }

    /// Reads on from a bookmark to what is played now, and moves the bookmark there. Every reader gets every edge and
    /// pull exactly once.
    pub fn read<'s>(&'s self, bookmark: &'s mut Bookmark) -> Reading<'s> {
        Reading::since(self, bookmark)
    }

    /// What a button did in the last `advance`, and how it stands.
    pub fn button(&self, button: handle::Button) -> ButtonReading {
        self.latest().button(button)
    }

    /// How an axis stands.
    pub fn axis(&self, axis: handle::Axis) -> AxisReading {
        self.latest().axis(axis)
    }

    /// How a stick stands.
    pub fn stick(&self, stick: handle::Stick) -> StickReading {
        self.latest().stick(stick)
    }

    /// What a sweep swept in the last `advance`, and in all.
    pub fn sweep(&self, sweep: handle::Sweep) -> SweepReading {
        self.latest().sweep(sweep)
    }

    /// How a gauge stands.
    pub fn gauge(&self, gauge: handle::Gauge) -> GaugeReading {
        self.latest().gauge(gauge)
    }

    /// Where a pointer is.
    pub fn pointer(&self, pointer: handle::Pointer) -> PointerReading {
        self.latest().pointer(pointer)
    }

    /// Whether a fact that is true or false is true now.
    pub fn is(&self, fact: handle::Fact) -> bool {
        self.own(fact.number, fact.stamp)
            .is_some_and(|number| self.plan().facts[number].flag && self.block.facts[number] == 1)
    }

    /// What a fact is now: `true`, `false`, or one of its words. Empty for another profile's handle.
    pub fn fact(&self, fact: handle::Fact) -> &str {
        let number = self.own(fact.number, fact.stamp);
        number.map_or("", |number| &self.plan().facts[number].words[usize::from(self.block.facts[number])])
    }

    /// Whether a mode is on now, covered or not.
    pub fn is_mode_on(&self, mode: handle::Mode) -> bool {
        self.own(mode.number, mode.stamp).is_some_and(|number| self.block.modes.is_on(number))
    }

    /// A hash of everything that decides what happens next: equal states have equal hashes, in every build and on every
    /// platform. History, stats and what only tells of the last tick are left out.
    pub fn state_hash(&self) -> u64 {
        self.block.hash()
    }

    /// Room to save this seat and some bookmarks into, made once.
    pub fn saved(&self, bookmarks: &[&Bookmark]) -> Saved {
        let bookmarks = bookmarks.iter().map(|bookmark| (*bookmark).clone()).collect();
        Saved { stamp: self.linkage.stamp(), block: self.block.copy(), bookmarks }
    }

    /// Saves the seat, and its readers' bookmarks with it, so that after a restore they see again what is played again.
    /// Doesn't allocate when `saved` was made by this seat for as many bookmarks.
    pub fn save_into(&self, saved: &mut Saved, bookmarks: &[&Bookmark]) {
        saved.stamp = self.linkage.stamp();
        saved.block.copy_from(&self.block);
        saved.bookmarks.truncate(bookmarks.len());
        for (place, bookmark) in bookmarks.iter().enumerate() {
            match saved.bookmarks.get_mut(place) {
                Some(kept) => kept.clone_from(bookmark),
                None => saved.bookmarks.push((*bookmark).clone()),
            }
        }
    }

    /// Becomes what was saved, bookmarks too, in the order in which they were saved. Doesn't allocate.
    ///
    /// # Errors
    /// A [`RestoreError`] if it was saved from another profile, or with another number of bookmarks. The seat is as
    /// before.
    pub fn restore(&mut self, saved: &Saved, bookmarks: &mut [&mut Bookmark]) -> Result<(), RestoreError> {
        if saved.stamp != self.linkage.stamp() || saved.block.actions.len() != self.block.actions.len() {
            return Err(RestoreError::OtherProfile);
        }
        if saved.bookmarks.len() != bookmarks.len() {
            return Err(RestoreError::OtherBookmarks { saved: saved.bookmarks.len(), given: bookmarks.len() });
        }
        self.block.copy_from(&saved.block);
        for (bookmark, kept) in bookmarks.iter_mut().zip(&saved.bookmarks) {
            (**bookmark).clone_from(kept);
        }
        Ok(())
    }
}

/// A seat's state and its readers' bookmarks at one moment.
#[derive(Debug)]
pub struct Saved {
    stamp: u32,
    block: Block,
    bookmarks: alloc::vec::Vec<Bookmark>,
}

/// Why a seat could not be restored.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum RestoreError {
    /// It was saved from a seat of another profile.
    #[error("this was saved from a seat of another profile; restore it on a seat of the same one")]
    OtherProfile,
    /// It was saved with another number of bookmarks.
    #[error("this was saved with {saved} bookmarks, and {given} are given; give the same ones in the same order")]
    OtherBookmarks {
        /// How many were saved.
        saved: usize,
        /// How many were given.
        given: usize,
    },
}

/// Any handle, for [`Seat::knows`].
#[derive(Clone, Copy, Debug)]
pub struct AnyHandle(u32);

macro_rules! any {
    ($($name:ident),*) => {$(
        impl From<handle::$name> for AnyHandle {
            fn from(handle: handle::$name) -> AnyHandle {
                AnyHandle(handle.stamp)
            }
        }
    )*};
}

any!(Button, Axis, Stick, Sweep, Pointer, Gauge, Fact, Mode);

impl Block {
    /// Passes a gap: plays what waits, without a pull.
    fn pass(&mut self, plan: &Plan, to: u64) {
        self.muted = true;
        self.play(plan, to);
        self.muted = false;
        self.drop_all_attempts(plan, to);
        for (sweep, swept) in self.sweeps.iter_mut().zip(&self.swept) {
            sweep.pass(*swept, to);
        }
    }
}
