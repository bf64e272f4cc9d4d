//! Playing a tape's lines onto a seat.

use super::line::device_name;
use super::{Header, Line, LineKind, TapeValue};
use crate::control::{Family, Sort};
use crate::event::{Device, DeviceName, Input, MOST_DEVICES};
use crate::fact::FactValue;
use crate::handle::{Fact, Missing};
use crate::linkage::Linkage;
use crate::seat::{ApplyError, FeedError, FeedErrorKind, Seat, TellError};
use crate::seat_input::SeatInput;
use crate::time::Moment;
use alloc::borrow::ToOwned;
use alloc::format;
use alloc::string::String;
use alloc::string::ToString;
use alloc::vec::Vec;

/// Feeds and tells a seat what a tape's lines say. Knows the tape's devices by name.
#[derive(Clone, Debug)]
pub struct Replayer {
    devices: Vec<Known>,
    seat: u32,
    /// The moment of the line before.
    last: Moment,
}

/// A device of the tape.
#[derive(Clone, Debug)]
struct Known {
    id: String,
    family: Option<Family>,
    /// The name that the header gives it, until the seat knows it.
    name: Option<DeviceName>,
}

/// A device's id, and the family that it speaks here besides its own: `kb+mouse` is `kb` and the mouse.
pub(super) fn spoken(id: &str) -> (&str, Option<Family>) {
    let other = id.rsplit_once('+').and_then(|(id, family)| Some((id, Family::from_name(family)?)));
    other.map_or((id, None), |(id, family)| (id, Some(family)))
}

/// Why a line could not be played.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum PutError {
    /// No control has this name.
    #[error("no control is called `{name}`{}", nearest.as_ref().map(|n| format!("; did you mean `{n}`?")).unwrap_or_default())]
    NoControl {
        /// The name.
        name: String,
        /// The nearest right one.
        nearest: Option<String>,
    },
    /// The name is of one part of a control: tapes hold controls as a whole.
    #[error(
        "`{name}` is a part of a control; a tape holds whole controls: write `\"control\":\"{whole}\"` with `x` and `y`"
    )]
    Part {
        /// The name.
        name: String,
        /// The whole control.
        whole: crate::control::Control,
    },
    /// The device was declared as one of another family.
    #[error("`{control}` can't come from `{device}`, which is declared as {declared}")]
    OtherFamily {
        /// The control.
        control: String,
        /// The device.
        device: String,
        /// The family it was declared with.
        declared: Family,
    },
    /// The tape names more devices than there can be.
    #[error("a tape has {MOST_DEVICES} devices at most, and `{0}` is one more")]
    TooManyDevices(String),
    /// The profile has no such fact or mode.
    #[error(transparent)]
    Missing(#[from] Missing),
    /// The seat did not take the event.
    #[error(transparent)]
    Feed(#[from] FeedError),
    /// The seat did not take what was told.
    #[error(transparent)]
    Tell(#[from] TellError),
}

impl PutError {
    /// Whether the seat's queue is full: what came before has to play first.
    pub fn is_full(&self) -> bool {
        match self {
            PutError::Feed(error) => error.why == FeedErrorKind::Full,
            PutError::Tell(error) => *error == TellError::Full,
            _ => false,
        }
    }
}

impl From<ApplyError> for PutError {
    fn from(error: ApplyError) -> PutError {
        match error {
            ApplyError::Feed(error) => error.into(),
            ApplyError::Tell(error) => error.into(),
        }
    }
}

impl Replayer {
    /// A player for a tape of this header, for its first seat.
    pub fn new(header: &Header) -> Replayer {
        let devices = header.devices.iter().map(|entry| Known {
            id: entry.id.clone(),
            family: Family::from_name(&entry.family),
            name: entry.name.as_deref().map(device_name),
        });
        Replayer { devices: devices.collect(), seat: 1, last: Moment::ZERO }
    }

    /// Plays the lines of this seat instead of the first one's; seats are numbered from 1.
    pub fn for_seat(mut self, seat: u32) -> Replayer {
        self.seat = seat;
        self
    }

    /// The number of a device, made if it is new. `kb+mouse` is the device `kb`, speaking as a mouse.
    fn device(&mut self, id: &str) -> Result<Device, PutError> {
        let (id, _) = spoken(id);
        let number = self.devices.iter().position(|known| known.id == id).unwrap_or_else(|| {
            self.devices.push(Known { id: id.to_owned(), family: None, name: None });
            self.devices.len() - 1
        });
        Device::new(number).ok_or_else(|| PutError::TooManyDevices(id.to_owned()))
    }

    /// Feeds or tells what a line says; lines for other seats, and those that only people read, do nothing.
    ///
    /// A gap (`skip`) is passed at once: what the tape says before plays up to where the gap begins, what lies in it is
    /// taken over as it ends up. So nobody may advance the seat into a gap before its line is put.
    ///
    /// # Errors
    /// A [`PutError`] when the line names what isn't there, or the seat doesn't take it.
    pub fn put(&mut self, line: &Line, seat: &mut Seat) -> Result<(), PutError> {
        let before = core::mem::replace(&mut self.last, line.at);
        self.put_after(before, line, seat)
    }

    /// The same behind a line of this moment, whichever seat that was for.
    pub(super) fn put_after(&mut self, before: Moment, line: &Line, seat: &mut Seat) -> Result<(), PutError> {
        let at = line.at;
        if line.seat != self.seat {
            return Ok(());
        }
        if let LineKind::Skip { from } = line.kind {
            let from = from.unwrap_or(before).min(at);
            if from >= seat.played() {
                seat.advance(from);
            }
        }
        if let Some(naming) = self.naming(line) {
            seat.apply(at, naming)?;
            self.named(naming);
        }
        if let LineKind::Stick { device, control: name, memory } = &line.kind {
            let (device, control) = (self.device(device)?, self.control(device, name, seat.linkage())?);
            seat.remember(device, control, memory);
        }
        if let Some(input) = self.input(line, seat.linkage())? {
            seat.apply(at, input)?;
        }
        Ok(())
    }

    /// What is to be done at a line's moment before what [`input`](Replayer::input) says: the line is the first one of its device, and
    /// the header has a name for that. Once it is done, say so with [`named`](Replayer::named).
    pub fn naming(&self, line: &Line) -> Option<SeatInput> {
        let id = line.kind.device().filter(|_| line.seat == self.seat)?;
        let (id, _) = spoken(id);
        let number = self.devices.iter().position(|known| known.id == id)?;
        Some(SeatInput::Named { device: Device::new(number)?, name: self.devices[number].name? })
    }

    /// The seat knows the name now.
    pub fn named(&mut self, naming: SeatInput) {
        if let SeatInput::Named { device, .. } = naming
            && let Some(known) = self.devices.get_mut(device.number())
        {
            known.name = None;
        }
    }

    /// What a line does to the seat; `None` if it is for another seat, for whoever plays the tape (`remap`, `profile`, `number`), or
    /// only for people to read; or if it says what was learnt of a stick, which [`put`](Replayer::put) sets. A gap's line says where the gap ends; [`put`](Replayer::put) also plays up to where it begins.
    ///
    /// # Errors
    /// A [`PutError`] when the line names what isn't there.
    pub fn input(&mut self, line: &Line, linkage: &Linkage) -> Result<Option<SeatInput>, PutError> {
        if line.seat != self.seat {
            return Ok(None);
        }
        let event = |device, input| SeatInput::Event { device, input, spread: line.spread };
        Ok(Some(match &line.kind {
            LineKind::Level { device, control: name, value } => {
                let (device, control) = (self.device(device)?, self.control(device, name, linkage)?);
                // A notch may stand as a plain press; more is a number of notches.
                let value = if control.sort() == Sort::Notch && *value <= 0.0 { 0.0 } else { *value as f32 };
                event(device, Input::Level { control, value })
            }
            LineKind::Pair { device, control: name, x, y } => {
                let (device, control) = (self.device(device)?, self.control(device, name, linkage)?);
                event(device, Input::Pair { control, x: *x as f32, y: *y as f32 })
            }
            LineKind::Stands { device, control: name, x, y } => {
                let (device, control) = (self.device(device)?, self.control(device, name, linkage)?);
                event(device, Input::Stands { control, x: *x as f32, y: *y as f32 })
            }
            LineKind::Touch { device, finger, phase, x, y } => {
                let (finger, phase, x, y) = (*finger, *phase, *x as f32, *y as f32);
                event(self.device(device)?, Input::Touch { finger, phase, x, y })
            }
            LineKind::Plugged { device, plugged } => event(self.device(device)?, Input::Plugged(*plugged)),
            LineKind::Named { device, name } => {
                SeatInput::Named { device: self.device(device)?, name: device_name(name) }
            }
            LineKind::Fact { fact, value } => {
                let fact = linkage.find::<Fact>(fact)?;
                let value = match value {
                    TapeValue::Flag(flag) => FactValue::Flag(*flag),
                    TapeValue::Word(word) => linkage.fact_value(fact, word).ok_or(TellError::NoSuchValue)?,
                };
                SeatInput::Fact { fact, value }
            }
            LineKind::Frozen(frozen) => SeatInput::Fact { fact: linkage.find("frozen")?, value: (*frozen).into() },
            LineKind::Mode { mode, on } => SeatInput::Mode { mode: linkage.find(mode)?, on: *on },
            LineKind::Set { action, value } => SeatInput::Set { toggle: linkage.find(action)?, on: *value },
            LineKind::GiveBack(action) => SeatInput::GiveBack { action: linkage.find_action(action)? },
            LineKind::View { size: [width, height], .. } => SeatInput::View { width: *width, height: *height },
            LineKind::Panel(shown) => SeatInput::Panel { shown: *shown },
            LineKind::Focus(focused) => SeatInput::Focus { focused: *focused },
            LineKind::Skip { .. } => SeatInput::Skip,
            // No input, as it takes more room than one has.
            LineKind::Stick { .. } => return Ok(None),
            // Whoever plays the tape has the profile, and relinks.
            LineKind::Remap(_) | LineKind::Number { .. } | LineKind::Profile(_) => return Ok(None),
            LineKind::Meant(_) | LineKind::End => return Ok(None),
        }))
    }

    fn control(&self, device: &str, name: &str, linkage: &Linkage) -> Result<crate::control::Control, PutError> {
        let Some(control) = linkage.control(name) else {
            if let Ok(part) = name.parse::<crate::control::Bindable>() {
                return Err(PutError::Part { name: name.to_owned(), whole: part.control });
            }
            let family = name.split(':').next().and_then(Family::from_name);
            let names: Vec<String> =
                family.into_iter().flat_map(crate::control::Control::all).map(|control| control.to_string()).collect();
            let nearest = crate::profile::nearest(name, names.iter().map(String::as_str)).map(Into::into);
            return Err(PutError::NoControl { name: name.to_owned(), nearest });
        };
        let (id, other) = spoken(device);
        let own = || self.devices.iter().find(|known| known.id == id).and_then(|known| known.family);
        let declared = other.or_else(own);
        match declared {
            Some(declared) if declared != control.family() => {
                let (control, device) = (name.to_owned(), device.to_owned());
                Err(PutError::OtherFamily { control, device, declared })
            }
            _ => Ok(control),
        }
    }
}
