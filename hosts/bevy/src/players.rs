//! Players: the table of seats, who has which device, and what is laid over the profile for each.

use std::collections::BTreeMap;
use std::sync::{Mutex, PoisonError};

use bevy_asset::Handle;
use bevy_ecs::lifecycle::Remove;
use bevy_ecs::prelude::*;
use tidy_lever::adapter::Devices;
use tidy_lever::event::Device;
use tidy_lever::handle;
use tidy_lever::prompt::Labels;
use tidy_lever::remap::Remap;
use tidy_lever::table::{Fed, Table};
use tidy_lever::{Control, Event, Family, Linkage, Moment};

use crate::profile::ProfileAsset;

/// A player: the entity has a seat (one player's live state) at the table. To let a player leave, despawn the entity or remove this.
#[derive(Clone, Copy, Component, Debug, PartialEq, Eq)]
pub struct Seat {
    pub(crate) number: usize,
}

impl Seat {
    /// The place at the table, from 1.
    pub fn number(&self) -> usize {
        self.number
    }
}

/// What a fact is: true or false, or one of its words.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum FactValue {
    /// For facts that are true or false.
    Flag(bool),
    /// For facts that are one of some words.
    Word(String),
}

impl From<bool> for FactValue {
    fn from(flag: bool) -> FactValue {
        FactValue::Flag(flag)
    }
}

impl From<&str> for FactValue {
    fn from(word: &str) -> FactValue {
        FactValue::Word(word.to_owned())
    }
}

/// Something that a system told, until it is time to tell the seat.
#[derive(Debug)]
pub(crate) enum Word {
    Fact(handle::Fact, FactValue),
    Mode(handle::Mode, bool),
}

/// Whether a profile has all that a struct of handles names; if not, what is missing.
type Check = fn(&Linkage) -> Result<(), String>;

/// The table of seats, with what belongs to it.
#[derive(Debug, Resource)]
pub struct Players {
    pub(crate) asset: Handle<ProfileAsset>,
    current: Option<ProfileAsset>,
    pub(crate) table: Option<Table>,
    places: usize,
    join: Vec<Control>,
    entities: BTreeMap<usize, Entity>,
    remaps: BTreeMap<usize, Remap>,
    /// Seats, by number, that have to go over to another linkage.
    stale: Vec<usize>,
    /// What each kind of levers that the game uses needs.
    checks: Vec<Check>,
    told: Mutex<Vec<(usize, Word)>>,
    view: Option<(u32, u32)>,
    pads: Vec<Device>,
    refused: u64,
    changes: u64,
}

impl Players {
    pub(crate) fn new(asset: Handle<ProfileAsset>, places: usize, join: &[Control]) -> Players {
        Players {
            asset,
            current: None,
            table: None,
            places,
            join: join.to_vec(),
            entities: BTreeMap::new(),
            remaps: BTreeMap::new(),
            stale: Vec::new(),
            checks: Vec::new(),
            told: Mutex::new(Vec::new()),
            view: None,
            pads: Vec::new(),
            refused: 0,
            changes: 0,
        }
    }

    /// A seat, to ask it anything; `None` before the profile is loaded.
    pub fn seat(&self, seat: &Seat) -> Option<&tidy_lever::Seat> {
        self.table.as_ref()?.seat(seat.number)
    }

    /// A seat, to change it.
    pub fn seat_mut(&mut self, seat: &Seat) -> Option<&mut tidy_lever::Seat> {
        self.table.as_mut()?.seat_mut(seat.number)
    }

    /// The profile that plays; `None` before it is loaded.
    pub fn profile(&self) -> Option<&ProfileAsset> {
        self.current.as_ref()
    }

    /// How often the profile that plays was changed, its first loading included.
    pub fn changes(&self) -> u64 {
        self.changes
    }

    /// How many events no seat had room for.
    pub fn refused(&self) -> u64 {
        self.refused
    }

    /// A player's own settings and bindings, as they were set.
    pub fn remap(&self, seat: &Seat) -> Option<&Remap> {
        self.remaps.get(&seat.number)
    }

    /// Lays a player's own settings and bindings over the profile, from the next frame on; keys that are held stay held.
    pub fn set_remap(&mut self, seat: &Seat, remap: Remap) {
        self.remaps.insert(seat.number, remap);
        self.stale.push(seat.number);
    }

    /// What to show on the screen for an action, on the family of devices that the player used last: its controls' labels.
    pub fn prompts(&self, seat: &Seat, action: &str, labels: &Labels) -> Vec<String> {
        let Some(own) = self.seat(seat) else { return Vec::new() };
        let family = own.family().unwrap_or(Family::Keys);
        own.linkage().prompts(action, family, labels).into_iter().map(|prompt| prompt.text).collect()
    }

    pub(crate) fn played(&self) -> Moment {
        let seats = self.table.iter().flat_map(|table| table.seats());
        seats.map(|(_, seat)| seat.played()).max().unwrap_or(Moment::ZERO)
    }

    /// The entity of the player at a place.
    pub fn entity_of(&self, number: usize) -> Option<Entity> {
        self.entities.get(&number).copied()
    }

    pub(crate) fn needs(&mut self, check: Check) {
        self.checks.push(check);
    }

    pub(crate) fn fits(&self, linkage: &Linkage) -> Result<(), String> {
        self.checks.iter().try_for_each(|check| check(linkage))
    }

    /// Another profile plays from now on.
    pub(crate) fn change(&mut self, asset: ProfileAsset) {
        let linkage = asset.linkage.clone();
        self.current = Some(asset);
        self.changes += 1;
        match &mut self.table {
            Some(table) => {
                table.set_linkage(&linkage);
                self.stale.extend(table.seats().map(|(number, _)| number));
            }
            None => {
                let join = self.join.iter();
                self.table =
                    Some(join.fold(Table::new(&linkage, self.places), |table, control| table.join_by(*control)));
            }
        }
    }

    pub(crate) fn tell(&self, seat: &Seat, word: Word) {
        self.told.lock().unwrap_or_else(PoisonError::into_inner).push((seat.number, word));
    }

    /// Tells seats what systems told since the last step: it counts from just after what is played.
    pub(crate) fn settle(&mut self) {
        let told = std::mem::take(self.told.get_mut().unwrap_or_else(PoisonError::into_inner));
        for (number, word) in told {
            let Some(seat) = self.table.as_mut().and_then(|table| table.seat_mut(number)) else { continue };
            let done = match word {
                Word::Fact(fact, FactValue::Flag(flag)) => seat.tell(fact, flag),
                Word::Fact(fact, FactValue::Word(word)) => seat.tell(fact, word.as_str()),
                Word::Mode(mode, on) => seat.set_mode(mode, on),
            };
            if let Err(error) = done {
                tracing::warn!("player {number}: {error}");
            }
        }
    }

    /// Feeds an event; who joined by it.
    pub(crate) fn feed(&mut self, event: Event) -> Option<usize> {
        match self.table.as_mut()?.feed(event) {
            Ok(Fed::Joined(number)) => {
                // Windows tell one keyboard, one mouse and one screen: they are one player's.
                let windows = [Devices::keyboard(), Devices::mouse(), Devices::screen()];
                if windows.contains(&event.device) {
                    self.give(number, &windows);
                }
                Some(number)
            }
            Ok(_) => None,
            Err(_) => {
                self.refused += 1;
                None
            }
        }
    }

    fn give(&mut self, number: usize, devices: &[Device]) {
        let Some(table) = &mut self.table else { return };
        for device in devices.iter().filter(|device| table.moved_by(**device).next().is_none()).collect::<Vec<_>>() {
            table.give(number, *device);
        }
    }

    /// Whether one seat hears everything, and nobody has to join.
    fn is_alone(&self) -> bool {
        self.join.is_empty()
    }

    /// The one player who needn't join takes the first place.
    pub(crate) fn sit_alone(&mut self) -> Option<usize> {
        let table = self.table.as_mut().filter(|table| table.seats().next().is_none())?;
        let linkage = self.current.as_ref().filter(|_| self.join.is_empty())?.linkage.clone();
        let number = table.sit(&linkage, &[Devices::keyboard(), Devices::mouse(), Devices::screen()])?;
        let pads = self.pads.clone();
        self.give(number, &pads);
        Some(number)
    }

    /// A pad was plugged in.
    pub(crate) fn came(&mut self, device: Device, name: &str) {
        if !self.pads.contains(&device) {
            self.pads.push(device);
        }
        if self.is_alone() {
            self.give(1, &[device]);
        }
        if let Some(table) = &mut self.table {
            let _ = table.name_device(device, name);
        }
    }

    pub(crate) fn view(&mut self, width: u32, height: u32) {
        self.view = Some((width, height));
        self.each_seat(|seat| seat.set_view(width, height).is_ok());
    }

    /// Does something to each seat; what a full queue refuses is counted.
    pub(crate) fn each_seat(&mut self, mut does: impl FnMut(&mut tidy_lever::Seat) -> bool) {
        let Some(table) = &mut self.table else { return };
        for number in 1..=table.places() {
            if let Some(seat) = table.seat_mut(number)
                && !does(seat)
            {
                self.refused += 1;
            }
        }
    }

    /// The entity of a player who took a place.
    pub(crate) fn seated(&mut self, number: usize, entity: Entity) {
        self.entities.insert(number, entity);
        let view = self.view;
        if let (Some((width, height)), Some(seat)) =
            (view, self.table.as_mut().and_then(|table| table.seat_mut(number)))
        {
            let _ = seat.set_view(width, height);
        }
    }
}

/// Seats go over to what is new, before this frame's events.
pub(crate) fn relink(mut players: ResMut<Players>) {
    if players.stale.is_empty() {
        return;
    }
    let players = &mut *players;
    let (Some(current), Some(table)) = (&players.current, &mut players.table) else { return };
    let mut stale = std::mem::take(&mut players.stale);
    stale.sort_unstable();
    stale.dedup();
    for number in stale {
        let Some(seat) = table.seat_mut(number) else { continue };
        let laid = players.remaps.get(&number).map(|remap| remap.over(&current.profile));
        let linkage = match laid {
            None => current.linkage.clone(),
            Some(Ok(laid)) => laid.linkage,
            Some(Err(faults)) => {
                tracing::error!("player {number}: these settings do not fit the profile: {faults}");
                current.linkage.clone()
            }
        };
        seat.relink(&linkage, &mut []);
    }
}

/// An entity that has a seat no longer leaves its place.
pub(crate) fn leave(gone: On<Remove<Seat>>, seats: Query<&Seat>, mut players: ResMut<Players>) {
    let Ok(seat) = seats.get(gone.entity) else { return };
    if players.entities.get(&seat.number) == Some(&gone.entity) {
        players.entities.remove(&seat.number);
        players.remaps.remove(&seat.number);
        if let Some(table) = &mut players.table {
            table.leave(seat.number);
        }
    }
}
