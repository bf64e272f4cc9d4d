//! Whole tables saved and restored: all seats, who moves them, and readers' bookmarks.

use alloc::vec::Vec;

use super::{Place, Table};
use crate::event::Device;
use crate::seat::reading::Bookmark;
use crate::seat::{RestoreError, Saved, Seat};
use crate::time::Moment;

/// A table at one moment: its seats, their devices, and readers' bookmarks.
#[derive(Clone, Debug)]
pub struct SavedTable {
    played: Moment,
    lineage: Vec<u32>,
    places: Vec<Option<SavedPlace>>,
}

#[derive(Clone, Debug)]
struct SavedPlace {
    seat: Saved,
    devices: Vec<Device>,
}

/// The bookmarks of one place, in the order in which they were given.
fn of<'b>(place: usize, bookmarks: &[(usize, &'b Bookmark)]) -> impl Iterator<Item = &'b Bookmark> {
    bookmarks.iter().filter(move |(number, _)| *number == place + 1).map(|(_, bookmark)| *bookmark)
}

impl Table {
    /// Saves all seats and who moves them, and readers' bookmarks, each with the number of its seat.
    ///
    /// ```
    /// use tidy_lever::profile::{Action, Profile};
    /// use tidy_lever::table::Table;
    /// use tidy_lever::{Device, Linkage, Moment};
    ///
    /// let linkage = Linkage::build(&Profile::new("Otter Post").action(Action::button("hop").pad("south")))?;
    /// let mut table = Table::new(&linkage, 2);
    /// table.sit(&linkage, &[Device::new(0).unwrap()]);
    /// let mut bookmark = table.seat(1).unwrap().bookmark();
    /// let saved = table.saved(&[(1, &bookmark)]);
    ///
    /// // A second player joins, and the round is taken back: that player had not joined then.
    /// table.sit(&linkage, &[Device::new(1).unwrap()]);
    /// table.advance(Moment::from_millis(16));
    /// table.restore(&saved, &mut [(1, &mut bookmark)])?;
    /// assert_eq!((table.seats().count(), table.seat(1).unwrap().played()), (1, Moment::ZERO));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn saved(&self, bookmarks: &[(usize, &Bookmark)]) -> SavedTable {
        let place = |(number, place): (usize, &Option<Place>)| {
            let place = place.as_ref()?;
            let own: Vec<&Bookmark> = of(number, bookmarks).collect();
            Some(SavedPlace { seat: place.seat.saved(&own), devices: place.devices.clone() })
        };
        let places = self.places.iter().enumerate().map(place).collect();
        SavedTable { played: self.played, lineage: self.lineage.clone(), places }
    }

    /// Saves again into room that was made before. Doesn't allocate while the same places are taken by seats of the same
    /// linkage, with as many devices and bookmarks.
    pub fn save_into(&self, saved: &mut SavedTable, bookmarks: &[(usize, &Bookmark)]) {
        saved.played = self.played;
        saved.lineage.clone_from(&self.lineage);
        saved.places.resize_with(self.places.len(), || None);
        for (number, (place, saved)) in self.places.iter().zip(&mut saved.places).enumerate() {
            match (place, saved) {
                (Some(place), Some(saved)) => {
                    place.seat.save_each_into(&mut saved.seat, of(number, bookmarks));
                    saved.devices.clone_from(&place.devices);
                }
                (Some(place), saved) => {
                    let own: Vec<&Bookmark> = of(number, bookmarks).collect();
                    *saved = Some(SavedPlace { seat: place.seat.saved(&own), devices: place.devices.clone() });
                }
                (None, saved) => *saved = None,
            }
        }
    }

    /// Becomes what was saved: seats that were not there then are gone, and seats that have left since are back.
    ///
    /// # Errors
    /// A [`RestoreError`] of the first seat that can't be restored: it was relinked since, or its bookmarks are not as many
    /// as were saved. Then nothing is changed.
    pub fn restore(
        &mut self,
        saved: &SavedTable,
        bookmarks: &mut [(usize, &mut Bookmark)],
    ) -> Result<(), RestoreError> {
        for (number, place) in saved.places.iter().enumerate() {
            let Some(place) = place else { continue };
            let given = bookmarks.iter().filter(|(seat, _)| *seat == number + 1).count();
            let own = self.places.get(number).and_then(|own| own.as_ref().map(|own| &own.seat));
            place.seat.check(own, given)?;
        }
        self.played = saved.played;
        self.lineage.clone_from(&saved.lineage);
        self.places.resize_with(saved.places.len(), || None);
        for (number, (own, place)) in self.places.iter_mut().zip(&saved.places).enumerate() {
            let Some(place) = place else {
                *own = None;
                continue;
            };
            let own = own.get_or_insert_with(|| {
                let mut seat = Seat::new(place.seat.linkage().clone(), saved.played, place.seat.room());
                seat.descends_from(&saved.lineage);
                Place { seat, devices: Vec::new() }
            });
            let mut given: Vec<&mut Bookmark> = bookmarks
                .iter_mut()
                .filter(|(seat, _)| *seat == number + 1)
                .map(|(_, bookmark)| &mut **bookmark)
                .collect();
            own.seat.restore(&place.seat, &mut given)?;
            own.devices.clone_from(&place.devices);
        }
        Ok(())
    }
}
