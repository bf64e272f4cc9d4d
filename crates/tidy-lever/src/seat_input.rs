//! What is done to a seat, all of it as one enum; and the same as bytes, for games that send inputs over a wire.

use core::ops::Deref;

use crate::control::Control;
use crate::event::{Device, DeviceName, Input, Phase, Spread};
use crate::fact::FactValue;
use crate::fixed::{self, ONE};
use crate::handle::{AnyHandle, Button, Fact, Handle, Mode, Noun};
use crate::linkage::{Linkage, names};

/// One thing that is done to a seat: what a device said, or what the game tells. [`Seat::apply`](crate::Seat::apply) does it at a
/// moment; `feed`, `tell` and the others are short names for it. Whatever plays a seat from afar (a tape, a wire, another
/// language) speaks in these.
///
/// ```
/// use tidy_lever::event::Input;
/// use tidy_lever::profile::{Action, Profile};
/// use tidy_lever::{Button, Control, Device, Linkage, Moment, SeatInput};
///
/// let profile = Profile::new("Otter Post").fact("grounded", true).action(Action::button("hop").pad("south"));
/// let linkage = Linkage::build(&profile)?;
/// let mut seat = linkage.seat(Moment::ZERO);
/// let press = SeatInput::Event {
///     device: Device::default(),
///     input: Input::Level { control: Control::PAD_SOUTH, value: 1.0 },
///     spread: Default::default(),
/// };
/// seat.apply(Moment::from_millis(5), press)?;
/// seat.apply(Moment::from_millis(5), SeatInput::Fact { fact: linkage.find("grounded").unwrap(), value: false.into() })?;
/// seat.advance(Moment::from_millis(16));
/// assert!(seat.button(linkage.find("hop").unwrap()).pulled());
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub enum SeatInput {
    /// A device said something: [`Seat::feed`](crate::Seat::feed).
    Event {
        /// Which device.
        device: Device,
        /// What it said.
        input: Input,
        /// How far its moment may be off: [`Event::spread`](crate::Event::spread).
        spread: Spread,
    },
    /// A fact is now this: [`Seat::tell`](crate::Seat::tell).
    Fact {
        /// Which fact.
        fact: Fact,
        /// What it is.
        value: FactValue,
    },
    /// A mode is switched: [`Seat::set_mode`](crate::Seat::set_mode).
    Mode {
        /// Which mode.
        mode: Mode,
        /// Whether it is on.
        on: bool,
    },
    /// A toggle is set: [`Seat::set`](crate::Seat::set).
    Set {
        /// Which toggle.
        toggle: Button,
        /// Whether it is on.
        on: bool,
    },
    /// The game refused an action's last pull: [`Seat::give_back`](crate::Seat::give_back).
    GiveBack {
        /// Which action.
        action: AnyHandle,
    },
    /// The size of the view in pixels: [`Seat::set_view`](crate::Seat::set_view).
    View {
        /// How wide.
        width: u32,
        /// How high.
        height: u32,
    },
    /// The panel is shown, or hidden: [`Seat::show_panel`](crate::Seat::show_panel).
    Panel {
        /// Whether it is shown.
        shown: bool,
    },
    /// The window has the focus, or lost it: [`Seat::focus`](crate::Seat::focus).
    Focus {
        /// Whether it has it.
        focused: bool,
    },
    /// A pad has this name: [`Seat::name_device`](crate::Seat::name_device).
    Named {
        /// Which pad.
        device: Device,
        /// What its system calls it.
        name: DeviceName,
    },
    /// All time up to the moment is a gap: [`Seat::skip`](crate::Seat::skip).
    Skip,
}

impl Linkage {
    /// The value that a word is for a fact; a flag has `true` and `false`. `None` if the fact has no such word, or the handle
    /// belongs to another profile.
    pub fn fact_value(&self, fact: Fact, word: &str) -> Option<FactValue> {
        let plan = self.0.world.facts.get(self.number_in(fact.into())?)?;
        let number = plan.value(word)?;
        Some(if plan.flag { FactValue::Flag(number == 1) } else { FactValue::Word(number) })
    }

    /// The word of a fact's value; `None` if the fact can't be that, or the handle belongs to another profile.
    pub fn fact_word(&self, fact: Fact, value: FactValue) -> Option<&str> {
        let plan = self.0.world.facts.get(self.number_in(fact.into())?)?;
        plan.number(value).map(|number| plan.words[usize::from(number)].as_str())
    }

    fn number_in(&self, handle: AnyHandle) -> Option<usize> {
        if handle.stamp == self.stamp() { Some(usize::from(handle.number)) } else { self.found_again(handle) }
    }
}

/// The form of the bytes; another one is refused.
const VERSION: u8 = 1;
/// The most bytes that an input takes.
pub const MOST_INPUT_BYTES: usize = 16;

/// An input as bytes: at most [`MOST_INPUT_BYTES`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[must_use]
pub struct InputBytes {
    bytes: [u8; MOST_INPUT_BYTES],
    len: u8,
}

impl Deref for InputBytes {
    type Target = [u8];

    fn deref(&self) -> &[u8] {
        &self.bytes[..usize::from(self.len)]
    }
}

impl InputBytes {
    fn of(kind: u8) -> InputBytes {
        let mut new = InputBytes { bytes: [0; MOST_INPUT_BYTES], len: 0 };
        new.put(&[VERSION << 4 | kind]);
        new
    }

    fn put(&mut self, more: &[u8]) {
        let len = usize::from(self.len);
        self.bytes[len..len + more.len()].copy_from_slice(more);
        self.len += more.len() as u8;
    }

    fn and(mut self, more: &[u8]) -> InputBytes {
        self.put(more);
        self
    }
}

/// Why an input can't be bytes, or bytes are not an input.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum InputBytesError {
    /// The profile has no such fact, mode, action or word.
    #[error("the profile has nothing of this number; both ends must play the same profile")]
    Foreign,
    /// A place of a finger that is not a number.
    #[error("a place must be a finite number")]
    NotFinite,
    /// Too few bytes.
    #[error("the bytes end too early")]
    Short,
    /// More bytes than the input has: [`SeatInput::from_bytes`] takes one input, whole.
    #[error("there are more bytes than the input has")]
    Long,
    /// Bytes of another version.
    #[error("the bytes are of version {0}; this is version 1")]
    Version(u8),
    /// A value that no input has.
    #[error("the bytes are not an input")]
    Broken,
}

/// A place of a finger lies between −1 and 2, in millionths: this many bits hold it.
const PLACE_BITS: u32 = 22;
const PLACES: u64 = (1 << PLACE_BITS) - 1;

impl SeatInput {
    /// The input as bytes, for whoever plays the same profile: at most 16, in a versioned form of this crate. Facts, modes,
    /// actions, words and controls go by their numbers. A finger's place is rounded to millionths and cut to its range, as a
    /// seat would, and goes without its spread; everything else arrives to the bit.
    ///
    /// # Errors
    /// [`InputBytesError::Foreign`] for a handle of another profile, [`InputBytesError::NotFinite`] for a finger's place that is no
    /// number.
    pub fn to_bytes(&self, linkage: &Linkage) -> Result<InputBytes, InputBytesError> {
        let number = |handle: AnyHandle| {
            let number = linkage.number_in(handle).and_then(|number| u16::try_from(number).ok());
            number.map(u16::to_le_bytes).ok_or(InputBytesError::Foreign)
        };
        Ok(match *self {
            SeatInput::Event { device, input, spread } => with_spread(event_bytes(device, input)?, input, spread),
            SeatInput::Fact { fact, value } => {
                let (is_word, value) = match value {
                    FactValue::Flag(flag) => (0, u16::from(flag)),
                    FactValue::Word(word) => (1, word),
                };
                InputBytes::of(5).and(&number(fact.into())?).and(&[is_word]).and(&value.to_le_bytes())
            }
            SeatInput::Mode { mode, on } => InputBytes::of(6).and(&number(mode.into())?).and(&[u8::from(on)]),
            SeatInput::Set { toggle, on } => InputBytes::of(7).and(&number(toggle.into())?).and(&[u8::from(on)]),
            SeatInput::GiveBack { action } => InputBytes::of(8).and(&number(action)?),
            SeatInput::View { width, height } => InputBytes::of(9).and(&width.to_le_bytes()).and(&height.to_le_bytes()),
            SeatInput::Panel { shown } => InputBytes::of(10).and(&[u8::from(shown)]),
            SeatInput::Focus { focused } => InputBytes::of(11).and(&[u8::from(focused)]),
            SeatInput::Skip => InputBytes::of(12),
            SeatInput::Named { device, name } => {
                InputBytes::of(13).and(&[device.number() as u8]).and(&name.to_bits().to_le_bytes())
            }
        })
    }

    /// The input of these bytes, which [`to_bytes`](SeatInput::to_bytes) made on a machine that plays the same profile.
    ///
    /// # Errors
    /// [`InputBytesError`] for bytes that are none: cut, too many, of another version, or of another profile's numbers.
    pub fn from_bytes(linkage: &Linkage, bytes: &[u8]) -> Result<SeatInput, InputBytesError> {
        let mut bytes = Bytes(bytes);
        let [first] = bytes.take()?;
        if first >> 4 != VERSION {
            return Err(InputBytesError::Version(first >> 4));
        }
        let plan = &*linkage.0;
        let handle = |noun: Noun, number: u16, name: Option<&str>| {
            let name = name.ok_or(InputBytesError::Foreign)?;
            Ok(AnyHandle { number, noun, stamp: linkage.stamp(), name: names::hash(name) })
        };
        let action = |number: u16| {
            let action = plan.actions.get(usize::from(number)).ok_or(InputBytesError::Foreign)?;
            handle(Noun::Action(action.kind), number, Some(&action.name))
        };
        let input = match first & 0xf {
            kind @ 0..=4 => event_of(kind, &mut bytes)?,
            5 => {
                let (number, [is_word], value) = (bytes.u16()?, bytes.take()?, bytes.u16()?);
                let fact = plan.world.facts.get(usize::from(number)).ok_or(InputBytesError::Foreign)?;
                let value = match (is_word, value) {
                    (0, 0 | 1) => FactValue::Flag(value == 1),
                    (1, word) => FactValue::Word(word),
                    _ => return Err(InputBytesError::Broken),
                };
                fact.number(value).ok_or(InputBytesError::Foreign)?;
                SeatInput::Fact { fact: found(handle(Noun::Fact, number, Some(&fact.name))?)?, value }
            }
            6 => {
                let (number, on) = (bytes.u16()?, bytes.flag()?);
                let name = plan.world.modes.get(usize::from(number)).map(|mode| mode.name.as_str());
                SeatInput::Mode { mode: found(handle(Noun::Mode, number, name)?)?, on }
            }
            7 => {
                let (number, on) = (bytes.u16()?, bytes.flag()?);
                SeatInput::Set { toggle: found(action(number)?)?, on }
            }
            8 => SeatInput::GiveBack { action: action(bytes.u16()?)? },
            9 => SeatInput::View { width: bytes.u32()?, height: bytes.u32()? },
            10 => SeatInput::Panel { shown: bytes.flag()? },
            11 => SeatInput::Focus { focused: bytes.flag()? },
            12 => SeatInput::Skip,
            13 => {
                let [device] = bytes.take()?;
                let device = Device::new(usize::from(device)).ok_or(InputBytesError::Broken)?;
                SeatInput::Named { device, name: DeviceName::from_bits(u64::from_le_bytes(bytes.take()?)) }
            }
            _ => return Err(InputBytesError::Broken),
        };
        if bytes.0.is_empty() { Ok(input) } else { Err(InputBytesError::Long) }
    }
}

/// A handle of the kind that is wanted.
fn found<H: Handle>(any: AnyHandle) -> Result<H, InputBytesError> {
    if any.noun == H::NOUN { Ok(H::of(any)) } else { Err(InputBytesError::Foreign) }
}

fn event_bytes(device: Device, input: Input) -> Result<InputBytes, InputBytesError> {
    let begin = |kind| InputBytes::of(kind).and(&[device.number() as u8]);
    let control = |control: Control| control.to_bits().to_le_bytes();
    Ok(match input {
        Input::Level { control: which, value } => begin(0).and(&control(which)).and(&value.to_le_bytes()),
        Input::Pair { control: which, x, y } => {
            begin(1).and(&control(which)).and(&x.to_le_bytes()).and(&y.to_le_bytes())
        }
        Input::Stands { control: which, x, y } => {
            begin(2).and(&control(which)).and(&x.to_le_bytes()).and(&y.to_le_bytes())
        }
        Input::Touch { finger, phase, x, y } => {
            let place = |value: f32| {
                let value = fixed::from_f64(f64::from(value)).ok_or(InputBytesError::NotFinite)?;
                let place = value.clamp(i64::from(-ONE), i64::from(2 * ONE)) + i64::from(ONE);
                Ok(place as u64)
            };
            let places = (place(x)? | place(y)? << PLACE_BITS).to_le_bytes();
            let phase = Phase::ALL.iter().position(|known| *known == phase).unwrap_or(0) as u8;
            let device = device.number() as u8 | phase << 6;
            InputBytes::of(3).and(&[device]).and(&places[..6]).and(&finger.to_le_bytes())
        }
        Input::Plugged(plugged) => begin(4).and(&[u8::from(plugged)]),
    })
}

/// A bit of the device: the event has a spread, which comes last.
const HAS_SPREAD: u8 = 1 << 7;

/// The event, and its spread in µs if it has one and is a control's.
fn with_spread(mut event: InputBytes, input: Input, spread: Spread) -> InputBytes {
    let is_control = matches!(input, Input::Level { .. } | Input::Pair { .. } | Input::Stands { .. });
    if !is_control || spread.is_none() {
        return event;
    }
    event.bytes[1] |= HAS_SPREAD;
    event.and(&spread.as_micros().to_le_bytes())
}

fn event_of(kind: u8, bytes: &mut Bytes<'_>) -> Result<SeatInput, InputBytesError> {
    let [device] = bytes.take()?;
    let (number, phase, has_spread) = match kind {
        3 => (device & 0x3f, usize::from(device >> 6), false),
        0..=2 => (device & !HAS_SPREAD, 0, device & HAS_SPREAD != 0),
        _ => (device, 0, false),
    };
    let device = Device::new(usize::from(number)).ok_or(InputBytesError::Broken)?;
    let mut control = || Control::from_bits(bytes.u16()?).ok_or(InputBytesError::Broken);
    let input = match kind {
        0 => Input::Level { control: control()?, value: bytes.f32()? },
        1 => Input::Pair { control: control()?, x: bytes.f32()?, y: bytes.f32()? },
        2 => Input::Stands { control: control()?, x: bytes.f32()?, y: bytes.f32()? },
        3 => {
            let [a, b, c, d, e, f] = bytes.take()?;
            let places = u64::from_le_bytes([a, b, c, d, e, f, 0, 0]);
            let place = |bits: u64| match bits & PLACES {
                place if place <= 3 * ONE as u64 => Ok(fixed::to_f32(place as i32 - ONE)),
                _ => Err(InputBytesError::Broken),
            };
            let (x, y) = (place(places)?, place(places >> PLACE_BITS)?);
            if places >> (2 * PLACE_BITS) != 0 {
                return Err(InputBytesError::Broken);
            }
            Input::Touch { finger: u64::from_le_bytes(bytes.take()?), phase: Phase::ALL[phase], x, y }
        }
        _ => Input::Plugged(bytes.flag()?),
    };
    let mut spread = Spread::NONE;
    if has_spread {
        spread = Spread::from_micros(bytes.u32()?);
        if spread.is_none() {
            return Err(InputBytesError::Broken);
        }
    }
    Ok(SeatInput::Event { device, input, spread })
}

/// Bytes that are read from their beginning on.
struct Bytes<'b>(&'b [u8]);

impl Bytes<'_> {
    fn take<const N: usize>(&mut self) -> Result<[u8; N], InputBytesError> {
        let (first, rest) = self.0.split_first_chunk::<N>().ok_or(InputBytesError::Short)?;
        self.0 = rest;
        Ok(*first)
    }

    fn u16(&mut self) -> Result<u16, InputBytesError> {
        Ok(u16::from_le_bytes(self.take()?))
    }

    fn u32(&mut self) -> Result<u32, InputBytesError> {
        Ok(u32::from_le_bytes(self.take()?))
    }

    fn f32(&mut self) -> Result<f32, InputBytesError> {
        Ok(f32::from_le_bytes(self.take()?))
    }

    fn flag(&mut self) -> Result<bool, InputBytesError> {
        match self.take()? {
            [0] => Ok(false),
            [1] => Ok(true),
            _ => Err(InputBytesError::Broken),
        }
    }
}
