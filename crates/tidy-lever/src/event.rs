//! Events: what a device said, and when.

use core::fmt;
use core::time::Duration;

use xxhash_rust::xxh64::xxh64;

use crate::control::{Control, Family};
use crate::time::Moment;

/// The most devices there can be: numbers 0 to 63.
pub const MOST_DEVICES: usize = 64;

/// A device, by a number of the game's or the adapter's own choosing, below [`MOST_DEVICES`].
///
/// The same number must mean the same device for a seat's whole life; an unplugged device keeps its number.
#[derive(Clone, Copy, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Device(u8);

impl Device {
    /// The first one.
    pub(crate) const FIRST: Device = Device(0);

    /// The device with this number; `None` from 64 up.
    pub const fn new(number: usize) -> Option<Device> {
        if number < MOST_DEVICES { Some(Device(number as u8)) } else { None }
    }

    /// Its number.
    pub const fn number(self) -> usize {
        self.0 as usize
    }
}

impl fmt::Debug for Device {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "dev{}", self.0)
    }
}

/// The name of a device, as its system tells it: settings for pads of one name (`[devices.by_name]` in a player's file) go by it.
/// A seat only knows names apart; it can't tell them again.
///
/// ```
/// use tidy_lever::event::DeviceName;
///
/// assert_eq!(DeviceName::of("Plain pad"), "Plain pad".into());
/// assert_ne!(DeviceName::of("Plain pad"), DeviceName::of("plain pad"));
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct DeviceName(u64);

impl DeviceName {
    /// A device without a name.
    pub(crate) const NONE: DeviceName = DeviceName(0);

    /// The name that reads so.
    pub fn of(name: &str) -> DeviceName {
        // Never 0.
        DeviceName(xxh64(name.as_bytes(), 1).max(1))
    }

    /// As a number, the same on every machine.
    pub const fn to_bits(self) -> u64 {
        self.0
    }

    /// The name of that number.
    pub const fn from_bits(bits: u64) -> DeviceName {
        DeviceName(bits)
    }
}

impl From<&str> for DeviceName {
    fn from(name: &str) -> DeviceName {
        DeviceName::of(name)
    }
}

/// What happened to a finger on a touch screen.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[cfg_attr(feature = "serde", serde(rename_all = "kebab-case"))]
pub enum Phase {
    /// It came down.
    Down,
    /// It moved.
    Move,
    /// It was lifted.
    Up,
    /// The system took it away; nothing may be made of it.
    Cancel,
}

impl Phase {
    /// All phases.
    pub const ALL: [Phase; 4] = [Phase::Down, Phase::Move, Phase::Up, Phase::Cancel];

    /// The phase's name in tapes.
    pub const fn name(self) -> &'static str {
        match self {
            Phase::Down => "down",
            Phase::Move => "move",
            Phase::Up => "up",
            Phase::Cancel => "cancel",
        }
    }
}

/// What an [`Event`] says.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[cfg_attr(feature = "serde", serde(rename_all = "kebab-case"))]
pub enum Input {
    /// A control stands at a new level: 0 or 1 for a button, 0 to 1 for a trigger, notches for a wheel.
    Level {
        /// Which control.
        control: Control,
        /// Its level, or the number of notches.
        value: f32,
    },
    /// A two-axis control stands at a new place (−1 to 1, up and right positive); the mouse moved by counts; the
    /// pointer is at a place in the view (0 to 1 from the top left).
    Pair {
        /// Which control.
        control: Control,
        /// Horizontal, right positive.
        x: f32,
        /// Vertical, up positive; for `mouse:place`, down from the top.
        y: f32,
    },
    /// A finger on a touch screen, at a place in the view (0 to 1 from the top left).
    Touch {
        /// Which finger; free again once it is up.
        finger: u64,
        /// What it did.
        phase: Phase,
        /// Horizontal place.
        x: f32,
        /// Vertical place, down from the top.
        y: f32,
    },
    /// The device was unplugged, or plugged in again.
    Plugged(bool),
    /// A button, a trigger or a two-axis control stands here, as its device said when it was asked for its whole state: see
    /// [`adapter::resync`](crate::adapter::resync). Where that is news, it counts as a level: what was held goes up with cause
    /// `resynced`, what is down needs a fresh press, and nothing pulls.
    Stands {
        /// Which control.
        control: Control,
        /// Its level; horizontal, right positive.
        x: f32,
        /// Vertical, up positive; 0 for a control with one level.
        y: f32,
    },
}

/// How far a moment may be off, in whole microseconds up to 71 minutes.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Spread(u32);

impl Spread {
    /// Not at all: the moment is exact.
    pub const NONE: Spread = Spread(0);

    /// Whether the moment is exact.
    pub const fn is_none(&self) -> bool {
        self.0 == 0
    }

    /// In µs.
    pub const fn as_micros(self) -> u32 {
        self.0
    }

    /// As many µs.
    pub const fn from_micros(micros: u32) -> Spread {
        Spread(micros)
    }
}

impl From<Duration> for Spread {
    /// A longer one than can be told is cut.
    fn from(span: Duration) -> Spread {
        Spread(u32::try_from(span.as_micros()).unwrap_or(u32::MAX))
    }
}

impl From<Spread> for Duration {
    fn from(spread: Spread) -> Duration {
        Duration::from_micros(spread.0.into())
    }
}

/// What one device said at one moment.
///
/// ```
/// use tidy_lever::{Control, Device, Event, Moment};
///
/// let pad = Device::new(1).unwrap();
/// let at = Moment::from_millis(120);
/// let press = Event::button(at, pad, Control::PAD_SOUTH, true);
/// let push = Event::pair(at, pad, Control::LEFT_STICK, 0.71, -0.2);
/// assert!(press != push);
/// // One of which a host only knows that it came within the last 33 ms.
/// let rough = Event { spread: std::time::Duration::from_millis(33).into(), ..press };
/// assert!(rough != press);
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Event {
    /// When, on the game's clock.
    pub at: Moment,
    /// Which device.
    pub device: Device,
    /// What it said.
    pub input: Input,
    /// How far the moment may be off: the stretch over which [`Arrivals`](crate::adapter::Arrivals) spread it. Zero where the host
    /// tells when it came. An event whose spread is longer than `debounce` is not debounced: its spacing proves nothing.
    #[cfg_attr(feature = "serde", serde(default, skip_serializing_if = "Spread::is_none"))]
    pub spread: Spread,
}

impl Event {
    /// What a device said at an exact moment.
    pub const fn new(at: Moment, device: Device, input: Input) -> Event {
        Event { at, device, input, spread: Spread::NONE }
    }

    /// A button going down or up.
    pub const fn button(at: Moment, device: Device, control: Control, down: bool) -> Event {
        Event::level(at, device, control, if down { 1.0 } else { 0.0 })
    }

    /// A trigger at a level of 0 to 1, or a wheel turned by this many notches.
    pub const fn level(at: Moment, device: Device, control: Control, value: f32) -> Event {
        Event::new(at, device, Input::Level { control, value })
    }

    /// A two-axis control at a place, or a mouse moved by counts.
    pub const fn pair(at: Moment, device: Device, control: Control, x: f32, y: f32) -> Event {
        Event::new(at, device, Input::Pair { control, x, y })
    }

    /// A finger on a touch screen.
    pub const fn touch(at: Moment, device: Device, finger: u64, phase: Phase, x: f32, y: f32) -> Event {
        Event::new(at, device, Input::Touch { finger, phase, x, y })
    }

    /// A control stands here, as its device said when it was asked.
    pub const fn stands(at: Moment, device: Device, control: Control, x: f32, y: f32) -> Event {
        Event::new(at, device, Input::Stands { control, x, y })
    }

    /// The device was unplugged (`false`) or plugged in again.
    pub const fn plugged(at: Moment, device: Device, plugged: bool) -> Event {
        Event::new(at, device, Input::Plugged(plugged))
    }

    /// The family of the device, where the event tells it.
    pub const fn family(&self) -> Option<Family> {
        match self.input {
            Input::Level { control, .. } | Input::Pair { control, .. } | Input::Stands { control, .. } => {
                Some(control.family())
            }
            Input::Touch { .. } => Some(Family::Touch),
            Input::Plugged(_) => None,
        }
    }
}

#[cfg(feature = "serde")]
impl serde::Serialize for Device {
    /// As its number.
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_u8(self.0)
    }
}

#[cfg(feature = "serde")]
impl<'de> serde::Deserialize<'de> for Device {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Device, D::Error> {
        let number = u8::deserialize(deserializer)?;
        Device::new(usize::from(number)).ok_or_else(|| serde::de::Error::custom("a device's number is 0 to 63"))
    }
}
