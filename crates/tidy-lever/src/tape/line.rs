//! One line of a tape, from and to JSON.

use alloc::borrow::ToOwned;
use alloc::string::{String, ToString};
use alloc::vec::Vec;

use serde::{Deserialize, Serialize};

use super::VERSION;
use crate::control::Family;
use crate::event::{DeviceName, Event, Input, Phase, Spread};
use crate::fact::FactValue;
use crate::handle::AnyHandle;
use crate::linkage::Linkage;
#[cfg(feature = "std")]
use crate::profile::{LONGEST_TITLE, title_problem};
use crate::seat::StickMemory;
use crate::seat_input::SeatInput;
use crate::time::Moment;

/// A device as a tape's header declares it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[non_exhaustive]
pub struct DeviceEntry {
    /// The name that lines call it by.
    pub id: String,
    /// Its family: `keys`, `mouse`, `pad` or `touch`.
    pub family: String,
    /// Of a pad, what its system calls it: settings for pads of that name count for it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
}

/// A tape's first line.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[non_exhaustive]
#[must_use]
pub struct Header {
    /// Always `tidy-lever`.
    pub tape: String,
    /// The version of the format.
    pub version: u32,
    /// What the tape shows.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub title: String,
    /// The devices; those that are not declared take the family of their first control.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub devices: Vec<DeviceEntry>,
}

impl Header {
    /// A header of the current version.
    pub fn new(title: impl Into<String>) -> Header {
        Header { tape: "tidy-lever".into(), version: VERSION, title: title.into(), devices: Vec::new() }
    }

    /// What is too long in it.
    #[cfg(feature = "std")]
    pub(super) fn problem(&self) -> Option<String> {
        let long = |device: &&DeviceEntry| {
            [Some(&device.id), device.name.as_ref()].into_iter().flatten().any(|it| it.chars().count() > LONGEST_TITLE)
        };
        let device = || self.devices.iter().position(|device| long(&device));
        title_problem(&self.title).or_else(|| {
            device().map(|number| {
                format!(
                    "the id or the name of device {} is longer than {LONGEST_TITLE} characters; shorten it",
                    number + 1
                )
            })
        })
    }

    /// Declares a device.
    pub fn device(mut self, id: impl Into<String>, family: Family) -> Header {
        self.devices.push(DeviceEntry { id: id.into(), family: family.name().into(), name: None });
        self
    }

    /// Declares a pad, with what its system calls it.
    pub fn named_pad(mut self, id: impl Into<String>, name: impl Into<String>) -> Header {
        self.devices.push(DeviceEntry { id: id.into(), family: Family::Pad.name().into(), name: Some(name.into()) });
        self
    }
}

/// Why a text is not a line of a tape.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{problem}")]
#[non_exhaustive]
pub struct LineError {
    /// What is wrong, for people.
    pub problem: String,
}

impl From<String> for LineError {
    fn from(problem: String) -> LineError {
        LineError { problem }
    }
}

/// True, false or a word.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(untagged)]
#[non_exhaustive]
pub enum TapeValue {
    /// For facts that are true or false, and for sets.
    Flag(bool),
    /// For facts that are one of some words.
    Word(String),
}

/// What a line says.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum LineKind {
    /// A control with one level.
    Level {
        /// The device's name.
        device: String,
        /// The control's full name.
        control: String,
        /// Its level.
        value: f64,
    },
    /// A control with two levels, or counts.
    Pair {
        /// The device's name.
        device: String,
        /// The control's full name.
        control: String,
        /// Horizontal, right positive.
        x: f64,
        /// Vertical, up positive; down from the top for `mouse:place`.
        y: f64,
    },
    /// A button, a trigger or a two-axis control stands here, as its device said when it was asked for its whole state.
    Stands {
        /// The device's name.
        device: String,
        /// The control's full name.
        control: String,
        /// Its level; horizontal, right positive.
        x: f64,
        /// Vertical, up positive; 0 for a control with one level.
        y: f64,
    },
    /// A finger.
    Touch {
        /// The device's name.
        device: String,
        /// Which finger.
        finger: u64,
        /// What it did.
        phase: Phase,
        /// Place from the left, 0 to 1.
        x: f64,
        /// Place from the top, 0 to 1.
        y: f64,
    },
    /// A device was unplugged or plugged in.
    Plugged {
        /// The device's name.
        device: String,
        /// Whether it is plugged in now.
        plugged: bool,
    },
    /// A pad has a name.
    Named {
        /// What the tape calls it.
        device: String,
        /// What its system calls it; or `#` and 16 hexadecimal digits, where whoever recorded it only knew
        /// [`DeviceName::to_bits`].
        name: String,
    },
    /// What was learnt of a stick before the tape begins: [`Seat::remember`](crate::Seat::remember).
    Stick {
        /// The pad's name.
        device: String,
        /// The stick's full name.
        control: String,
        /// What was learnt.
        memory: StickMemory,
    },
    /// A fact was told.
    Fact {
        /// The fact's name.
        fact: String,
        /// What it is.
        value: TapeValue,
    },
    /// A mode was switched.
    Mode {
        /// The mode's name.
        mode: String,
        /// Whether it is on now.
        on: bool,
    },
    /// A toggle was set by the game.
    Set {
        /// The action's name.
        action: String,
        /// What it is set to.
        value: bool,
    },
    /// The window has the focus, or not.
    Focus(bool),
    /// The panel is shown, or hidden.
    Panel(bool),
    /// The built-in fact `frozen`.
    Frozen(bool),
    /// The game refused a pull of this action.
    GiveBack(String),
    /// A gap up to here was skipped.
    Skip {
        /// Where it began; without, at the line before.
        from: Option<Moment>,
    },
    /// A remap was laid over the profile, by its file's name.
    Remap(String),
    /// A number of the profile was moved: from here on the seat plays on the profile with it.
    Number {
        /// Its path, as [`numbers`](crate::profile::numbers) lists it: `hop.keep`.
        path: String,
        /// What it is now, as a profile writes it: `150ms`, `0.4`.
        value: String,
    },
    /// Another profile went into the place of the one before, by its file's name.
    Profile(String),
    /// The view's size in pixels and its dpi in dots per inch.
    View {
        /// Width and height.
        size: [u32; 2],
        /// Dots an inch, if known.
        dpi: Option<f64>,
    },
    /// What the player meant to do here, for people and tools; the seat doesn't hear it.
    Meant(String),
    /// The tape ends here.
    End,
}

/// The name that a line tells.
pub(super) fn device_name(name: &str) -> DeviceName {
    let digits = name.strip_prefix('#').filter(|digits| digits.len() == 16);
    let bits = digits.and_then(|digits| u64::from_str_radix(digits, 16).ok());
    bits.map_or_else(|| DeviceName::of(name), DeviceName::from_bits)
}

/// A level as it was fed, to the millionth.
pub(super) fn millionths(value: f32) -> f64 {
    libm::round(f64::from(value) * 1e6) / 1e6
}

impl LineKind {
    /// What a tape says of an event that is fed, by a name for its device.
    ///
    /// ```
    /// use tidy_lever::tape::{Line, LineKind};
    /// use tidy_lever::{Control, Device, Event, Moment};
    ///
    /// let event = Event::pair(Moment::from_millis(5), Device::default(), Control::LEFT_STICK, 0.71, -0.2);
    /// let line = Line::new(event.at, 1, LineKind::of(&event, "p1"));
    /// assert_eq!(line.write(), r#"{"at":5000,"dev":"p1","control":"pad:left-stick","x":0.71,"y":-0.2}"#);
    /// ```
    pub fn of(event: &Event, device: &str) -> LineKind {
        let device = device.to_owned();
        match event.input {
            Input::Level { control, value } => {
                LineKind::Level { device, control: control.to_string(), value: millionths(value) }
            }
            Input::Pair { control, x, y } => {
                LineKind::Pair { device, control: control.to_string(), x: millionths(x), y: millionths(y) }
            }
            Input::Stands { control, x, y } => {
                LineKind::Stands { device, control: control.to_string(), x: millionths(x), y: millionths(y) }
            }
            Input::Touch { finger, phase, x, y } => {
                LineKind::Touch { device, finger, phase, x: millionths(x), y: millionths(y) }
            }
            Input::Plugged(plugged) => LineKind::Plugged { device, plugged },
        }
    }

    /// What a tape says of anything that is done to a seat, by a name for the device of an event. A gap begins where the line before
    /// was. `None` for what the profile hasn't got.
    pub fn of_input(at: Moment, input: SeatInput, device: &str, linkage: &Linkage) -> Option<LineKind> {
        let name = |handle: AnyHandle| linkage.name_of(handle).map(ToOwned::to_owned);
        Some(match input {
            SeatInput::Event { device: number, input, .. } => LineKind::of(&Event::new(at, number, input), device),
            SeatInput::Fact { fact, value } => match (name(fact.into())?, value) {
                (name, FactValue::Flag(frozen)) if name == "frozen" => LineKind::Frozen(frozen),
                (fact, FactValue::Flag(flag)) => LineKind::Fact { fact, value: TapeValue::Flag(flag) },
                (name, word) => {
                    let value = TapeValue::Word(linkage.fact_word(fact, word)?.to_owned());
                    LineKind::Fact { fact: name, value }
                }
            },
            SeatInput::Mode { mode, on } => LineKind::Mode { mode: name(mode.into())?, on },
            SeatInput::Set { toggle, on } => LineKind::Set { action: name(toggle.into())?, value: on },
            SeatInput::GiveBack { action } => LineKind::GiveBack(name(action)?),
            SeatInput::View { width, height } => LineKind::View { size: [width, height], dpi: None },
            SeatInput::Panel { shown } => LineKind::Panel(shown),
            SeatInput::Focus { focused } => LineKind::Focus(focused),
            SeatInput::Skip => LineKind::Skip { from: None },
            SeatInput::Named { name, .. } => {
                LineKind::Named { device: device.to_owned(), name: alloc::format!("#{:016x}", name.to_bits()) }
            }
        })
    }
}

impl LineKind {
    /// What the tape calls the device that the line is of.
    pub fn device(&self) -> Option<&str> {
        match self {
            LineKind::Level { device, .. }
            | LineKind::Pair { device, .. }
            | LineKind::Stands { device, .. }
            | LineKind::Touch { device, .. }
            | LineKind::Plugged { device, .. }
            | LineKind::Named { device, .. }
            | LineKind::Stick { device, .. } => Some(device),
            _ => None,
        }
    }

    /// Whether a device said it.
    pub(super) fn is_event(&self) -> bool {
        matches!(
            self,
            LineKind::Level { .. }
                | LineKind::Pair { .. }
                | LineKind::Stands { .. }
                | LineKind::Touch { .. }
                | LineKind::Plugged { .. }
        )
    }
}

/// One line of a tape behind its header.
#[derive(Clone, Debug, PartialEq)]
pub struct Line {
    /// When, in whole microseconds of the game's clock.
    pub at: Moment,
    /// Which seat it is for, where several play; 1 is the first.
    pub seat: u32,
    /// What it says.
    pub kind: LineKind,
    /// How far the moment of an event may be off: [`Event::spread`](crate::Event::spread).
    pub spread: Spread,
}

impl Line {
    /// A line of which the moment is exact.
    pub const fn new(at: Moment, seat: u32, kind: LineKind) -> Line {
        Line { at, seat, kind, spread: Spread::NONE }
    }
}
