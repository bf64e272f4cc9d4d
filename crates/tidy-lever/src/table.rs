//! The table: several players' seats, and which device moves which seat.
//!
//! ```text
//!   device ──▶ the seats that it was given to ──▶ feed
//!          └─▶ nobody's: pressing the joining control takes the next free place
//! ```

mod saved;

pub use saved::SavedTable;

use alloc::vec::Vec;

use crate::control::Control;
use crate::event::{Device, DeviceName, Event, Input, MOST_DEVICES};
use crate::linkage::Linkage;
use crate::seat::{Capacity, CapacityError, FeedError, Seat, TellError};
use crate::time::Moment;

/// The most places at a table.
pub const MOST_SEATS: usize = 8;
/// A joining control is down from here on.
const DOWN: f32 = 0.55;

/// What happened to an event.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Fed {
    /// This many seats took it.
    Heard(usize),
    /// Its device joined and took this place. The press that joined does nothing else.
    Joined(usize),
    /// The device belongs to no seat, and this event did not join; or all places are taken.
    Nobody,
}

/// One place.
#[derive(Clone, Debug)]
struct Place {
    seat: Seat,
    devices: Vec<Device>,
}

/// Several seats, and the devices that move them. Places are numbered from 1.
///
/// An unplugged device stays with its seat and moves it again when it is plugged in. One device may move two seats, each
/// with its own linkage: two players on one pad, or on the two halves of a keyboard.
///
/// ```
/// use tidy_lever::table::{Fed, Table};
/// use tidy_lever::{Button, Control, Device, Event, Linkage, Moment, Profile};
///
/// let text = "tidy-lever = 1\n[action.hop]\nkind = \"button\"\npad = [\"south\", \"start\"]\n";
/// let linkage = Linkage::build(&Profile::from_toml(text)?)?;
/// let hop: Button = linkage.find("hop")?;
/// let mut table = Table::new(&linkage, 2).join_by(Control::PAD_START);
/// let pad = Device::new(3).unwrap();
/// let press = |at, control| Event::button(Moment::from_millis(at), pad, control, true);
/// assert_eq!(table.feed(press(1, Control::PAD_SOUTH))?, Fed::Nobody);
/// assert_eq!(table.feed(press(2, Control::PAD_START))?, Fed::Joined(1));
/// assert_eq!(table.feed(press(3, Control::PAD_SOUTH))?, Fed::Heard(1));
/// table.advance(Moment::from_millis(16));
/// assert_eq!(table.seat(1).unwrap().button(hop).presses(), 1);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct Table {
    linkage: Linkage,
    capacity: Capacity,
    join: Vec<Control>,
    places: Vec<Option<Place>>,
    played: Moment,
    /// What pads are called.
    names: Vec<(Device, DeviceName)>,
    /// The profiles of players who joined before, by their stamps: their handles are good on seats that are made later.
    lineage: Vec<u32>,
}

impl Table {
    /// A table with this many places, 1 to 8, all free. Players who join use this linkage.
    pub fn new(linkage: &Linkage, places: usize) -> Table {
        let places = (0..places.clamp(1, MOST_SEATS)).map(|_| None).collect();
        let (capacity, join, names, lineage) = (Capacity::default(), Vec::new(), Vec::new(), Vec::new());
        Table { linkage: linkage.clone(), capacity, join, places, played: Moment::ZERO, names, lineage }
    }

    /// Lets a press of this control, on a device that belongs to no seat, take the next free place.
    pub fn join_by(mut self, control: Control) -> Table {
        self.join.push(control);
        self
    }

    /// Sets the linkage of players who join from now on. Existing seats keep theirs; see [`Seat::relink`]. Handles that were
    /// found in the linkage before are good on the new seats, too, where the profile still has their names.
    pub fn set_linkage(&mut self, linkage: &Linkage) {
        if !self.lineage.contains(&self.linkage.stamp()) {
            self.lineage.push(self.linkage.stamp());
        }
        self.linkage = linkage.clone();
    }

    /// Sets the [`Capacity`] of seats that are made from now on.
    ///
    /// # Errors
    /// [`CapacityError`] if it asks for more than a seat can have.
    pub fn capacity(mut self, capacity: Capacity) -> Result<Table, CapacityError> {
        self.capacity = capacity.checked()?;
        Ok(self)
    }

    /// Takes the next free place with these devices, on its own linkage; `None` if all are taken. Devices that already move
    /// another seat then move both.
    pub fn sit(&mut self, linkage: &Linkage, devices: &[Device]) -> Option<usize> {
        let free = self.places.iter().position(Option::is_none)?;
        let mut seat = Seat::new(linkage.clone(), self.played, self.capacity);
        seat.descends_from(&self.lineage);
        // What is played already is past for it, too.
        seat.advance(self.played);
        for (device, name) in self.names.iter().filter(|(device, _)| devices.contains(device)) {
            // A new seat has room for it.
            let _ = seat.name_device(*device, *name);
        }
        self.places[free] = Some(Place { seat, devices: devices.to_vec() });
        Some(free + 1)
    }

    /// Gives a device to a seat, in addition to the seats that it already moves. Returns whether the seat exists.
    pub fn give(&mut self, number: usize, device: Device) -> bool {
        let name = self.names.iter().find(|(named, _)| *named == device).copied();
        let Some(place) = self.place_mut(number) else { return false };
        if !place.devices.contains(&device) {
            place.devices.push(device);
            if let Some((device, name)) = name {
                // Where its queue is full, the pad goes without what is set for its name.
                let _ = place.seat.name_device(device, name);
            }
        }
        true
    }

    /// Says what a pad is called, to the seats that it moves and to those that it will move: see [`Seat::name_device`].
    ///
    /// # Errors
    /// A [`TellError`] of the first seat that would not take it.
    pub fn name_device(&mut self, device: Device, name: impl Into<DeviceName>) -> Result<(), TellError> {
        let name = name.into();
        self.names.retain(|(named, _)| *named != device);
        self.names.push((device, name));
        for place in self.places.iter_mut().flatten().filter(|place| place.devices.contains(&device)) {
            place.seat.name_device(device, name)?;
        }
        Ok(())
    }

    /// Takes a device from a seat: what it held there goes up as unplugged, just after the played moment.
    ///
    /// # Errors
    /// A [`FeedError`] if the seat's queue is full.
    pub fn take(&mut self, number: usize, device: Device) -> Result<(), FeedError> {
        let at = self.played;
        if let Some(place) = self.place_mut(number)
            && place.devices.contains(&device)
        {
            place.seat.feed(Event::plugged(at, device, false))?;
            place.devices.retain(|own| *own != device);
        }
        Ok(())
    }

    /// Frees a place, and returns its seat.
    pub fn leave(&mut self, number: usize) -> Option<Seat> {
        let place = self.places.get_mut(number.checked_sub(1)?)?.take()?;
        Some(place.seat)
    }

    /// Feeds an event to the seats that its device moves, or lets its device join.
    ///
    /// # Errors
    /// A [`FeedError`] of the first seat that would not take it. No seat has taken it then, so it can be fed again.
    pub fn feed(&mut self, event: Event) -> Result<Fed, FeedError> {
        let moved = |place: &&mut Place| place.devices.contains(&event.device);
        if let Some(place) =
            self.places.iter_mut().flatten().filter(moved).find(|place| place.seat.weigh(&event).is_err())
        {
            // Refused and counted by that seat alone.
            place.seat.feed(event)?;
        }
        let mut heard = 0;
        for place in self.places.iter_mut().flatten().filter(moved) {
            place.seat.feed(event)?;
            heard += 1;
        }
        match heard {
            0 if self.joins(&event) => {
                let linkage = self.linkage.clone();
                Ok(self.sit(&linkage, &[event.device]).map_or(Fed::Nobody, Fed::Joined))
            }
            0 => Ok(Fed::Nobody),
            heard => Ok(Fed::Heard(heard)),
        }
    }

    fn joins(&self, event: &Event) -> bool {
        matches!(event.input, Input::Level { control, value } if value >= DOWN && self.join.contains(&control))
    }

    /// Plays all seats up to and including a moment.
    pub fn advance(&mut self, to: Moment) {
        self.played = self.played.max(to);
        self.places.iter_mut().flatten().for_each(|place| place.seat.advance(to));
    }

    fn place_mut(&mut self, number: usize) -> Option<&mut Place> {
        self.places.get_mut(number.checked_sub(1)?)?.as_mut()
    }

    /// The seat at a place.
    pub fn seat(&self, number: usize) -> Option<&Seat> {
        self.places.get(number.checked_sub(1)?)?.as_ref().map(|place| &place.seat)
    }

    /// The seat at a place, to change it.
    pub fn seat_mut(&mut self, number: usize) -> Option<&mut Seat> {
        self.place_mut(number).map(|place| &mut place.seat)
    }

    /// How many places there are, taken or free.
    pub fn places(&self) -> usize {
        self.places.len()
    }

    /// The seats that are taken, with their numbers.
    pub fn seats(&self) -> impl Iterator<Item = (usize, &Seat)> {
        let taken = self.places.iter().enumerate();
        taken.filter_map(|(number, place)| place.as_ref().map(|place| (number + 1, &place.seat)))
    }

    /// The seats that a device moves.
    pub fn moved_by(&self, device: Device) -> impl Iterator<Item = usize> {
        let taken = self.places.iter().enumerate();
        taken.filter_map(move |(number, place)| {
            place.as_ref().filter(|place| place.devices.contains(&device)).map(|_| number + 1)
        })
    }
}

const _: () = assert!(MOST_SEATS <= MOST_DEVICES);
