//! A seat whose calls are recorded.

use alloc::borrow::ToOwned;
use alloc::string::String;

use super::{LineKind, Recorder};
use crate::control::Family;
use crate::event::{Device, Event, Spread};
use crate::fact::Told;
use crate::handle::{ActionHandle, Button, Fact, Mode};
use crate::linkage::Linkage;
use crate::seat::reading::Bookmark;
use crate::seat::{ApplyError, FeedError, Relinked, Seat, TellError};
use crate::seat_input::SeatInput;
use crate::time::Moment;

/// A seat whose calls are recorded. Each does what the seat's own method of the name does, with its errors.
#[derive(Debug)]
pub struct Recorded<'r> {
    recorder: &'r mut Recorder,
    number: u32,
    seat: &'r mut Seat,
}

impl Recorder {
    /// A seat whose calls are recorded, by its number on the tape, from 1.
    pub fn seat<'r>(&'r mut self, number: u32, seat: &'r mut Seat) -> Recorded<'r> {
        self.sees(number, seat);
        Recorded { recorder: self, number, seat }
    }
}

impl Recorded<'_> {
    /// Tells the seat, and records that once it was taken.
    fn apply_told(&mut self, at: Moment, told: SeatInput) -> Result<(), TellError> {
        self.seat.apply_told(at, told)?;
        let device = match told {
            SeatInput::Named { device, .. } => self.recorder.name(device.number(), Some(Family::Pad)),
            _ => String::new(),
        };
        if self.recorder.is_on()
            && let Some(kind) = LineKind::of_input(at, told, &device, self.seat.linkage())
        {
            self.recorder.put(self.number, self.seat.next_moment(), at, Spread::NONE, kind);
        }
        Ok(())
    }

    /// The seat, to be read.
    pub fn seat(&self) -> &Seat {
        self.seat
    }

    /// As [`Seat::apply`].
    ///
    /// # Errors
    /// The same.
    pub fn apply(&mut self, at: Moment, input: SeatInput) -> Result<(), ApplyError> {
        match input {
            SeatInput::Event { device, input, spread } => self.feed(Event { at, device, input, spread })?,
            SeatInput::Skip => self.skip(at),
            told => self.apply_told(at, told)?,
        }
        Ok(())
    }

    /// As [`Seat::feed`].
    ///
    /// # Errors
    /// The same.
    pub fn feed(&mut self, event: Event) -> Result<(), FeedError> {
        self.seat.feed(event)?;
        if self.recorder.is_on() {
            self.recorder.event(self.number, self.seat.next_moment(), &event);
        }
        Ok(())
    }

    /// As [`Seat::focus`].
    ///
    /// # Errors
    /// The same.
    pub fn focus(&mut self, focused: bool) -> Result<(), TellError> {
        self.focus_at(focused, self.seat.next_moment())
    }

    /// As [`Seat::focus_at`].
    ///
    /// # Errors
    /// The same.
    pub fn focus_at(&mut self, focused: bool, at: Moment) -> Result<(), TellError> {
        self.apply_told(at, SeatInput::Focus { focused })
    }

    /// As [`Seat::tell`].
    ///
    /// # Errors
    /// The same.
    pub fn tell<'w>(&mut self, fact: Fact, value: impl Into<Told<'w>>) -> Result<(), TellError> {
        let at = self.seat.next_moment();
        self.tell_at(fact, value, at)
    }

    /// As [`Seat::tell_at`].
    ///
    /// # Errors
    /// The same.
    pub fn tell_at<'w>(&mut self, fact: Fact, value: impl Into<Told<'w>>, at: Moment) -> Result<(), TellError> {
        let value = self.seat.fact_value(fact, value.into())?;
        self.apply_told(at, SeatInput::Fact { fact, value })
    }

    /// As [`Seat::set_mode`].
    ///
    /// # Errors
    /// The same.
    pub fn set_mode(&mut self, mode: Mode, on: bool) -> Result<(), TellError> {
        let at = self.seat.next_moment();
        self.set_mode_at(mode, on, at)
    }

    /// As [`Seat::set_mode_at`].
    ///
    /// # Errors
    /// The same.
    pub fn set_mode_at(&mut self, mode: Mode, on: bool, at: Moment) -> Result<(), TellError> {
        self.apply_told(at, SeatInput::Mode { mode, on })
    }

    /// As [`Seat::name_device`].
    ///
    /// # Errors
    /// The same.
    pub fn name_device(&mut self, device: Device, name: &str) -> Result<(), TellError> {
        let at = self.seat.next_moment();
        self.seat.name_device_at(device, name, at)?;
        self.recorder.named(self.number, at, device, name);
        Ok(())
    }

    /// As [`Seat::set`].
    ///
    /// # Errors
    /// The same.
    pub fn set(&mut self, toggle: Button, on: bool) -> Result<(), TellError> {
        let at = self.seat.next_moment();
        self.set_at(toggle, on, at)
    }

    /// As [`Seat::set_at`].
    ///
    /// # Errors
    /// The same.
    pub fn set_at(&mut self, toggle: Button, on: bool, at: Moment) -> Result<(), TellError> {
        self.apply_told(at, SeatInput::Set { toggle, on })
    }

    /// As [`Seat::give_back`].
    ///
    /// # Errors
    /// The same.
    pub fn give_back(&mut self, action: impl ActionHandle) -> Result<(), TellError> {
        let at = self.seat.next_moment();
        self.give_back_at(action, at)
    }

    /// As [`Seat::give_back_at`].
    ///
    /// # Errors
    /// The same.
    pub fn give_back_at(&mut self, action: impl ActionHandle, at: Moment) -> Result<(), TellError> {
        self.apply_told(at, SeatInput::GiveBack { action: action.into() })
    }

    /// As [`Seat::set_view`].
    ///
    /// # Errors
    /// The same.
    pub fn set_view(&mut self, width: u32, height: u32) -> Result<(), TellError> {
        let at = self.seat.next_moment();
        self.set_view_at(width, height, at)
    }

    /// As [`Seat::set_view_at`].
    ///
    /// # Errors
    /// The same.
    pub fn set_view_at(&mut self, width: u32, height: u32, at: Moment) -> Result<(), TellError> {
        self.apply_told(at, SeatInput::View { width, height })
    }

    /// As [`Seat::show_panel`].
    ///
    /// # Errors
    /// The same.
    pub fn show_panel(&mut self, shown: bool) -> Result<(), TellError> {
        let at = self.seat.next_moment();
        self.apply_told(at, SeatInput::Panel { shown })
    }

    /// As [`Seat::advance`]; what all recorded seats have played is written.
    pub fn advance(&mut self, to: Moment) {
        self.seat.advance(to);
        self.recorder.sees(self.number, self.seat);
        self.recorder.write_played();
    }

    /// As [`Seat::skip`]. What was fed for the very moment at which the seat was made still plays, as it will from the tape.
    pub fn skip(&mut self, to: Moment) {
        let from = self.seat.played();
        if self.seat.next_moment() == from {
            self.seat.advance(from);
        }
        self.seat.skip(to);
        self.recorder.sees(self.number, self.seat);
        self.recorder.skipped(self.number, from, to);
    }

    /// As [`Seat::relink`], with what tells of it on the tape: the numbers that were moved, or the file that was laid over
    /// or put in the profile's place.
    pub fn relink(&mut self, linkage: &Linkage, bookmarks: &mut [&mut Bookmark], because: &[LineKind]) -> Relinked {
        let relinked = self.seat.relink(linkage, bookmarks);
        because.iter().for_each(|said| self.recorder.note(self.number, said.to_owned()));
        relinked
    }
}
