//! Which number a device gets.

use alloc::borrow::ToOwned;
use alloc::string::String;
use alloc::vec::Vec;

use crate::event::{Device, MOST_DEVICES};

/// Gives out device numbers. All adapters of a program share one.
///
/// A device that is plugged in again gets the number that it had. Of several alike, a newcomer takes the lowest number of its
/// kind that is free. Numbers of windows' keyboards, mice and screens are fixed, as windows don't tell one from another.
///
/// ```
/// use tidy_lever::adapter::Devices;
///
/// let mut devices = Devices::new();
/// let (one, twin) = (devices.plug("pad a").unwrap(), devices.plug("pad a").unwrap());
/// let other = devices.plug("pad b").unwrap();
/// assert_eq!([one, twin, other].map(|device| device.number()), [0, 1, 2]);
/// devices.unplug(one);
/// devices.unplug(other);
/// assert_eq!(devices.plug("pad a"), Some(one));
/// assert_eq!(devices.plug("pad b"), Some(other));
/// ```
#[derive(Clone, Debug, Default)]
pub struct Devices {
    known: Vec<Known>,
    /// Counts unplugging, to find who went first.
    gone: u64,
}

#[derive(Clone, Debug)]
struct Known {
    kind: String,
    /// How many had gone when it went; `None` while it is plugged in.
    gone: Option<u64>,
}

/// Numbers from here on are fixed.
const FIXED: usize = MOST_DEVICES - 3;

impl Devices {
    /// A registry that knows no device.
    pub fn new() -> Devices {
        Devices::default()
    }

    /// The keyboard of a window; all keyboards are one.
    pub fn keyboard() -> Device {
        fixed(0)
    }

    /// The mouse of a window, the same way.
    pub fn mouse() -> Device {
        fixed(1)
    }

    /// The touch screen of a window, the same way.
    pub fn screen() -> Device {
        fixed(2)
    }

    /// A device of this kind is plugged in: its number. The kind tells devices apart that are not alike: a pad's maker's and
    /// product's numbers, or its name. `None` if 61 devices are plugged in.
    pub fn plug(&mut self, kind: &str) -> Option<Device> {
        let alike = self.known.iter().position(|known| known.gone.is_some() && known.kind == kind);
        let place = alike.or_else(|| {
            if self.known.len() < FIXED {
                self.known.push(Known { kind: kind.to_owned(), gone: None });
                return Some(self.known.len() - 1);
            }
            // All numbers were given out: the one that is free for longest.
            let free = self.known.iter().enumerate().filter_map(|(place, known)| Some((known.gone?, place)));
            free.min().map(|(_, place)| place)
        })?;
        self.known[place] = Known { kind: kind.to_owned(), gone: None };
        Device::new(place)
    }

    /// A device is unplugged. Its number is kept for it.
    pub fn unplug(&mut self, device: Device) {
        if let Some(known) = self.known.get_mut(device.number()) {
            self.gone += 1;
            known.gone.get_or_insert(self.gone);
        }
    }

    /// Whether a device is plugged in.
    pub fn is_plugged(&self, device: Device) -> bool {
        self.known.get(device.number()).is_some_and(|known| known.gone.is_none())
    }
}

fn fixed(place: usize) -> Device {
    Device::new(FIXED + place).unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_full_registry_gives_away_the_number_that_is_free_for_longest() {
        let mut devices = Devices::new();
        let all: Vec<Device> = (0..FIXED).map(|n| devices.plug(&alloc::format!("pad {n}")).unwrap()).collect();
        assert_eq!((devices.plug("one more"), all[FIXED - 1].number()), (None, FIXED - 1));
        devices.unplug(all[7]);
        devices.unplug(all[3]);
        // Unplugged again it is no longer gone than it was.
        devices.unplug(all[7]);
        assert_eq!(devices.plug("one more"), Some(all[7]));
        assert_eq!(devices.plug("pad 3"), Some(all[3]));
        assert!(devices.is_plugged(all[3]) && !Devices::new().is_plugged(all[3]));
        assert_eq!([Devices::keyboard(), Devices::mouse(), Devices::screen()].map(Device::number), [61, 62, 63]);
    }
}
