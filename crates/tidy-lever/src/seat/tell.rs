//! What is done to a seat, as a [`SeatInput`]; and the short names for what the game tells: facts, modes, toggles, the view, the
//! panel, the focus.

use super::{FeedError, Seat};
use crate::control::Family;
use crate::engine::incoming::{InputKind, Lateness, QueuedInput};
use crate::event::{Device, DeviceName, Event};
use crate::fact::{FactValue, Told};
use crate::handle::{self, ActionHandle};
use crate::seat_input::SeatInput;
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
    /// The action is not a toggle.
    #[error("the action is not a toggle; only what has the cue `toggle` can be set")]
    NoToggle,
    /// The fact can't be that.
    #[error("the fact has no such value; a flag is true or false, another fact one of its words")]
    NoSuchValue,
    /// There is no room for one more device: give the seat more with `Capacity::devices` in [`Capacity`](super::Capacity).
    #[error("the seat has no room for one more device; make it with a larger `Capacity::devices`")]
    TooManyDevices,
}

/// Why an input was not taken.
#[derive(Clone, Copy, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum ApplyError {
    /// An event was not taken.
    #[error(transparent)]
    Feed(#[from] FeedError),
    /// Something told was not taken.
    #[error(transparent)]
    Tell(#[from] TellError),
}

impl Seat {
    /// The first moment that is not played yet: what is told without a moment is told for this one.
    pub fn next_moment(&self) -> Moment {
        Moment::from_micros(self.engine.next)
    }

    /// Does one thing to the seat at a moment: an event is [fed](Seat::feed), what the game tells is told for that moment, and a
    /// [gap](Seat::skip) reaches up to it.
    ///
    /// # Errors
    /// What `feed` or `tell` say; the seat is as before. A gap has none.
    pub fn apply(&mut self, at: Moment, input: SeatInput) -> Result<(), ApplyError> {
        match input {
            SeatInput::Event { device, input, spread } => self.feed(Event { at, device, input, spread })?,
            SeatInput::Skip => self.skip(at),
            told => self.apply_told(at, told)?,
        }
        Ok(())
    }

    /// Puts what the game tells into the queue.
    pub(crate) fn apply_told(&mut self, at: Moment, told: SeatInput) -> Result<(), TellError> {
        let (what, number, values) = match told {
            SeatInput::Fact { fact, value } => {
                let number = self.told_of(fact)?;
                let value = self.plan().world.facts[number].number(value).ok_or(TellError::NoSuchValue)?;
                (InputKind::Fact, number, (i32::from(value), 0))
            }
            SeatInput::Mode { mode, on } => (InputKind::Mode, self.told_of(mode)?, (i32::from(on), 0)),
            SeatInput::Set { toggle, on } => {
                let number = self.told_of(toggle)?;
                if !self.plan().toggles(number) {
                    return Err(TellError::NoToggle);
                }
                (InputKind::Set, number, (i32::from(on), 0))
            }
            SeatInput::GiveBack { action } => (InputKind::GiveBack, self.told_of_action(action)?, (0, 0)),
            SeatInput::View { width, height } => {
                if !(1..=WIDEST_VIEW).contains(&width) || !(1..=WIDEST_VIEW).contains(&height) {
                    return Err(TellError::NoSuchValue);
                }
                (InputKind::View, 0, (width as i32, height as i32))
            }
            SeatInput::Panel { shown } => (InputKind::Panel, 0, (i32::from(shown), 0)),
            SeatInput::Focus { focused } => (InputKind::Focus, 0, (i32::from(focused), 0)),
            // Nobody tells what a device says, nor a gap.
            SeatInput::Event { .. } | SeatInput::Skip => return Ok(()),
            SeatInput::Named { device, name } => {
                let bits = name.to_bits();
                return self.told(InputKind::Named, 0, ((bits >> 32) as i32, bits as i32), device, at.as_micros());
            }
        };
        self.told(what, number as u16, values, Device::FIRST, at.as_micros())
    }

    /// Puts something that was told into the queue; of a device, if it has a name from now on.
    fn told(
        &mut self,
        what: InputKind,
        number: u16,
        (x, y): (i32, i32),
        device: Device,
        at: u64,
    ) -> Result<(), TellError> {
        self.make_room();
        if self.engine.queue.room() == 0 {
            self.stats.handed_back += 1;
            return Err(TellError::Full);
        }
        if what == InputKind::Named {
            let board = &mut self.engine.inputs.board;
            if !board.has_room_for(device, Family::Pad) {
                return Err(TellError::TooManyDevices);
            }
            board.expect(device, Family::Pad);
        }
        let waiting = QueuedInput { at, x, y, number, device, what, late: Lateness::default() };
        self.put(waiting);
        Ok(())
    }

    /// The number of an action; a fact or a mode is none.
    fn told_of_action(&mut self, action: handle::AnyHandle) -> Result<usize, TellError> {
        match action.noun {
            handle::Noun::Action(_) => self.told_of(action),
            handle::Noun::Fact | handle::Noun::Mode => Err(TellError::Foreign),
        }
    }

    /// Reports that the game's window lost (`false`) or regained focus, just after the played moment.
    ///
    /// Held keys, mouse buttons and touches go up, and nothing pulls. Pads are still tracked: when focus returns, their sticks
    /// count at once, and their buttons need a fresh press.
    ///
    /// # Errors
    /// [`TellError::Full`] if the queue is full.
    pub fn focus(&mut self, focused: bool) -> Result<(), TellError> {
        self.focus_at(focused, self.next_moment())
    }

    /// Reports it for the moment at which it happened.
    ///
    /// # Errors
    /// As [`Seat::focus`].
    pub fn focus_at(&mut self, focused: bool, at: Moment) -> Result<(), TellError> {
        self.apply_told(at, SeatInput::Focus { focused })
    }

    /// Says what a pad is called, from just after the played moment: what a player's file sets for pads of that name
    /// (`[devices.by_name."NAME"]`) counts for it. Say it when the pad is plugged in; it keeps its name until it gets another one.
    ///
    /// # Errors
    /// [`TellError::Full`] if the queue is full, [`TellError::TooManyDevices`] if there is no room for one more device.
    pub fn name_device(&mut self, device: Device, name: impl Into<DeviceName>) -> Result<(), TellError> {
        self.name_device_at(device, name, self.next_moment())
    }

    /// Says it for a later moment.
    ///
    /// # Errors
    /// As [`Seat::name_device`].
    pub fn name_device_at(&mut self, device: Device, name: impl Into<DeviceName>, at: Moment) -> Result<(), TellError> {
        self.apply_told(at, SeatInput::Named { device, name: name.into() })
    }

    /// Sets a toggle to what the game knows, from just after the played moment. Nothing pulls.
    ///
    /// # Errors
    /// A [`TellError`] if the action is not a toggle, the handle is another profile's, or the queue is full.
    pub fn set(&mut self, toggle: handle::Button, on: bool) -> Result<(), TellError> {
        self.set_at(toggle, on, self.next_moment())
    }

    /// Sets a toggle at a later moment.
    ///
    /// # Errors
    /// As [`Seat::set`].
    pub fn set_at(&mut self, toggle: handle::Button, on: bool, at: Moment) -> Result<(), TellError> {
        self.apply_told(at, SeatInput::Set { toggle, on })
    }

    /// Undoes the bookkeeping of an action's last pull, which the game refused: the facts it used up count again, and its stage
    /// and cooldown are as before. Takes effect just after the played moment.
    ///
    /// # Errors
    /// A [`TellError`] if the handle is another profile's or the queue is full.
    pub fn give_back(&mut self, action: impl ActionHandle) -> Result<(), TellError> {
        self.give_back_at(action, self.next_moment())
    }

    /// The same for a later moment.
    ///
    /// # Errors
    /// As [`Seat::give_back`].
    pub fn give_back_at(&mut self, action: impl ActionHandle, at: Moment) -> Result<(), TellError> {
        self.apply_told(at, SeatInput::GiveBack { action: action.into() })
    }

    /// Sets the size of the view in pixels, for pointers; 1280 by 720 until then. Takes effect just after the played moment.
    ///
    /// # Errors
    /// [`TellError::Full`] if the queue is full; [`TellError::NoSuchValue`] for a view without a width or a height.
    pub fn set_view(&mut self, width: u32, height: u32) -> Result<(), TellError> {
        self.set_view_at(width, height, self.next_moment())
    }

    /// Tells the size of the view for a later moment.
    ///
    /// # Errors
    /// As [`Seat::set_view`].
    pub fn set_view_at(&mut self, width: u32, height: u32, at: Moment) -> Result<(), TellError> {
        self.apply_told(at, SeatInput::View { width, height })
    }

    /// Shows the panel, or hides it: what fingers hold on it then goes up as cancelled. From just after the played moment.
    ///
    /// # Errors
    /// [`TellError::Full`] if the queue is full.
    pub fn show_panel(&mut self, shown: bool) -> Result<(), TellError> {
        self.show_panel_at(shown, self.next_moment())
    }

    /// The same for a later moment.
    ///
    /// # Errors
    /// As [`Seat::show_panel`].
    pub fn show_panel_at(&mut self, shown: bool, at: Moment) -> Result<(), TellError> {
        self.apply_told(at, SeatInput::Panel { shown })
    }

    /// Sets a fact: `true` or `false`, or one of its words. It takes effect just after the played moment, before the events
    /// that follow.
    ///
    /// # Errors
    /// A [`TellError`] if the fact can't be that, the handle is another profile's, or the queue is full.
    pub fn tell<'w>(&mut self, fact: handle::Fact, value: impl Into<Told<'w>>) -> Result<(), TellError> {
        self.tell_at(fact, value, self.next_moment())
    }

    /// Tells a fact for a later moment.
    ///
    /// # Errors
    /// As [`Seat::tell`].
    pub fn tell_at<'w>(&mut self, fact: handle::Fact, value: impl Into<Told<'w>>, at: Moment) -> Result<(), TellError> {
        let value = self.fact_value(fact, value.into())?;
        self.apply_told(at, SeatInput::Fact { fact, value })
    }

    /// Switches a mode on or off, just after the played moment.
    ///
    /// # Errors
    /// A [`TellError`] if the handle is another profile's or the queue is full.
    pub fn set_mode(&mut self, mode: handle::Mode, on: bool) -> Result<(), TellError> {
        self.set_mode_at(mode, on, self.next_moment())
    }

    /// Switches a mode at a later moment.
    ///
    /// # Errors
    /// As [`Seat::set_mode`].
    pub fn set_mode_at(&mut self, mode: handle::Mode, on: bool, at: Moment) -> Result<(), TellError> {
        self.apply_told(at, SeatInput::Mode { mode, on })
    }

    /// What a fact is told to be; a flag knows the words `true` and `false`, too.
    pub(crate) fn fact_value(&mut self, fact: handle::Fact, value: Told<'_>) -> Result<FactValue, TellError> {
        match value {
            Told::Flag(flag) => Ok(FactValue::Flag(flag)),
            Told::Word(word) => {
                let number = self.told_of(fact)?;
                let plan = &self.plan().world.facts[number];
                let number = plan.value(word).ok_or(TellError::NoSuchValue)?;
                Ok(if plan.flag { FactValue::Flag(number == 1) } else { FactValue::Word(number) })
            }
        }
    }
}
