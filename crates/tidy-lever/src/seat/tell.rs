//! What the game tells a seat: facts, modes, toggles, the view, the focus.

use super::Seat;
use super::waiting::WaitingKind;
use crate::fact::Told;
use crate::handle::{self, ActionHandle};
use crate::time::Moment;

/// The most pixels that a view is wide or high.
pub const WIDEST_VIEW: u32 = 1 << 20;

/// Why something told was not taken.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
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

impl Seat {
    /// The first moment that is not played yet.
    #[cfg(all(feature = "std", feature = "files"))]
    pub(crate) fn next_moment(&self) -> Moment {
        Moment::from_micros(self.block.next)
    }

    /// Reports that the game's window lost (`false`) or regained focus, at a moment.
    ///
    /// Held keys, mouse buttons and touches go up, and nothing pulls. Pads are still tracked: when focus returns, their sticks
    /// count at once, and their buttons need a fresh press.
    ///
    /// # Errors
    /// [`TellError::Full`] if the queue is full.
    pub fn focus(&mut self, focused: bool, at: Moment) -> Result<(), TellError> {
        self.told(WaitingKind::Focus, 0, (i32::from(focused), 0), at.as_micros())
    }

    /// Sets a toggle to what the game knows, from just after the played moment. Nothing pulls.
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
        let number = self.told_of(toggle)?;
        if !self.plan().toggles(number) {
            return Err(TellError::NoToggle);
        }
        self.told(WaitingKind::Set, number as u16, (i32::from(on), 0), at.as_micros())
    }

    /// Undoes the bookkeeping of an action's last pull, which the game refused: the facts it used up count again, and its stage
    /// and cooldown are as before. Takes effect just after the played moment.
    ///
    /// # Errors
    /// A [`TellError`] if the handle is another profile's or the queue is full.
    pub fn give_back(&mut self, action: impl ActionHandle) -> Result<(), TellError> {
        self.give_back_at(action, Moment::from_micros(self.block.next))
    }

    /// The same for a later moment.
    ///
    /// # Errors
    /// As [`Seat::give_back`].
    pub fn give_back_at(&mut self, action: impl ActionHandle, at: Moment) -> Result<(), TellError> {
        let number = self.told_of(action)?;
        self.told(WaitingKind::GiveBack, number as u16, (0, 0), at.as_micros())
    }

    /// Sets the size of the view in pixels, for pointers; 1280 by 720 until then. Takes effect just after the played moment.
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
        if !(1..=WIDEST_VIEW).contains(&width) || !(1..=WIDEST_VIEW).contains(&height) {
            return Err(TellError::NoSuchValue);
        }
        self.told(WaitingKind::View, 0, (width as i32, height as i32), at.as_micros())
    }

    /// Sets a fact: `true` or `false`, or one of its words. It takes effect just after the played moment, before the events
    /// that follow.
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
        let number = self.told_of(fact)?;
        let plan = &self.linkage.0.world.facts[number];
        let value = match value.into() {
            Told::Flag(flag) => Some(u16::from(flag)).filter(|_| plan.flag),
            Told::Word(word) => plan.value(word),
        };
        let value = value.ok_or(TellError::NoSuchValue)?;
        self.told(WaitingKind::Fact, number as u16, (i32::from(value), 0), at.as_micros())
    }

    /// Switches a mode on or off, just after the played moment.
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
        let number = self.told_of(mode)?;
        self.told(WaitingKind::Mode, number as u16, (i32::from(on), 0), at.as_micros())
    }
}
