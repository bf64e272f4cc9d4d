//! A seat whose calls are recorded.

use alloc::borrow::ToOwned;
use alloc::string::String;

use super::{LineKind, Recorder};
use crate::event::Event;
use crate::fact::Told;
use crate::handle::{ActionHandle, AnyHandle, Button, Fact, Mode};
use crate::linkage::Linkage;
use crate::seat::reading::Bookmark;
use crate::seat::{FeedError, Relinked, Seat, TellError};
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
    fn put(&mut self, at: Moment, said: impl FnOnce() -> Option<LineKind>) {
        if self.recorder.is_on()
            && let Some(said) = said()
        {
            self.recorder.put(self.number, self.seat.next_moment(), at, said);
        }
    }

    fn name(&self, handle: impl Into<AnyHandle>) -> Option<String> {
        self.seat.linkage().name_of(handle).map(ToOwned::to_owned)
    }

    /// The seat, to be read.
    pub fn seat(&self) -> &Seat {
        self.seat
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
    pub fn focus(&mut self, focused: bool, at: Moment) -> Result<(), TellError> {
        self.seat.focus(focused, at)?;
        self.put(at, || Some(LineKind::Focus(focused)));
        Ok(())
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
        let value = value.into();
        self.seat.tell_at(fact, value, at)?;
        let name = self.name(fact);
        self.put(at, || {
            Some(match (name?, value) {
                (name, Told::Flag(value)) if name == "frozen" => LineKind::Frozen(value),
                (fact, value) => LineKind::Fact { fact, value: value.into() },
            })
        });
        Ok(())
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
        self.seat.set_mode_at(mode, on, at)?;
        let name = self.name(mode);
        self.put(at, || Some(LineKind::Mode { mode: name?, on }));
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
    pub fn set_at(&mut self, toggle: Button, value: bool, at: Moment) -> Result<(), TellError> {
        self.seat.set_at(toggle, value, at)?;
        let name = self.name(toggle);
        self.put(at, || Some(LineKind::Set { action: name?, value }));
        Ok(())
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
        self.seat.give_back_at(action, at)?;
        let name = self.name(action);
        self.put(at, || Some(LineKind::GiveBack(name?)));
        Ok(())
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
        self.seat.set_view_at(width, height, at)?;
        self.put(at, || Some(LineKind::View { size: [width, height], dpi: None }));
        Ok(())
    }

    /// As [`Seat::show_panel`].
    ///
    /// # Errors
    /// The same.
    pub fn show_panel(&mut self, shown: bool) -> Result<(), TellError> {
        let at = self.seat.next_moment();
        self.seat.show_panel_at(shown, at)?;
        self.put(at, || Some(LineKind::Panel(shown)));
        Ok(())
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
