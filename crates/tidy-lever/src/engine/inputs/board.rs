//! The board: what is down now, by device; and what each device said last, so that repeats are not news.

mod carry;
mod feeds;

use alloc::vec;
use alloc::vec::Vec;

use crate::control::Family;
use crate::engine::incoming::Due;
use crate::engine::inputs::busy::{Busy, Taken};
use crate::engine::part::own_fields;
use crate::engine::press::{DIRECTION, ORDER_BITS};
use crate::event::{Device, DeviceName, MOST_DEVICES};
use crate::fixed;
use crate::guard::FamilyGuard;
use crate::index::SlotIndex;
use crate::linkage::{ContactPlan, InputsPlan, SlotPlan};
use crate::sparse::{Sparse, copy_list};
use feeds::{ActiveFeeds, Feed};

/// No level was heard yet.
const UNKNOWN: i32 = i32::MIN;

/// What a device said last about one control, as far as it was played.
#[derive(Clone, Copy, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Lane {
    x: i32,
    y: i32,
    busy: Busy,
}

const SILENT: Lane = Lane { x: UNKNOWN, y: 0, busy: Busy { changed: 0, until: 0, pending: (0, 0) } };

/// A control used as a button.
#[derive(Clone, Copy, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Contact {
    /// One bit a device.
    pub(crate) down: u64,
    /// The newest press: its identity grows with each going down, whatever went down.
    pub(crate) press: u64,
}

/// A device as this seat knows it.
#[derive(Clone, Copy, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
struct Known {
    who: Who,
    /// Where its lanes begin.
    lanes: u32,
    /// Which of the plan's guards counts for it; follows from its family and its name.
    guard: u16,
}

/// A device, and a family that it speaks.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
struct Who {
    device: Device,
    family: Family,
}

#[derive(Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Board {
    /// Those that spoke, in the order of playing.
    known: Vec<Known>,
    /// What those are called.
    names: Vec<DeviceName>,
    /// Those, and the ones whose events wait.
    expected: Vec<Who>,
    /// The places of those above that spoke last, by family. They only save time.
    last_known: [u8; 4],
    last_expected: [u8; 4],
    /// How many devices there is room for.
    devices: usize,
    lanes: Sparse<Lane>,
    pub(crate) contacts: Vec<Contact>,
    /// By contact: the devices from which it is being taken away. Empty between losses.
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) lost: Vec<u64>,
    /// By contact: whether the event being played turned it, 1 down, −1 up. Empty between events.
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) turned: Vec<i8>,
    /// Of the devices that are known, one after the other.
    feeds: Vec<Feed>,
    /// By feed, one bit a device: away from rest.
    pub(crate) away: Vec<u64>,
    /// By stick or axis: its whole feeds that are away from rest, counted by device. It only saves time, and follows from
    /// the above.
    #[cfg_attr(feature = "serde", serde(skip))]
    stirred: Vec<ActiveFeeds>,
    /// Counts presses, and what leaves its rest.
    order: u64,
    pub(crate) focused: bool,
}

/// A family's slots are the lanes of one of its devices.
fn lanes_of(plan: &InputsPlan, family: Family) -> usize {
    plan.slots.iter().filter(|slot| slot.family == family).count()
}

impl Board {
    pub(crate) fn new(plan: &InputsPlan, devices: usize) -> Board {
        let devices = devices.clamp(1, MOST_DEVICES);
        let widest = Family::ALL.into_iter().map(|family| lanes_of(plan, family)).max().unwrap_or(0);
        Board {
            known: Vec::with_capacity(devices),
            names: Vec::with_capacity(devices),
            expected: Vec::with_capacity(devices),
            last_known: [0; 4],
            last_expected: [0; 4],
            devices,
            lanes: Sparse::with_capacity(devices * widest),
            contacts: vec![Contact::default(); plan.contacts.len()],
            lost: vec![0; plan.contacts.len()],
            turned: vec![0; plan.contacts.len()],
            feeds: Vec::with_capacity(plan.feeds.len() * devices),
            away: vec![0; plan.feeds.len()],
            stirred: vec![ActiveFeeds::default(); plan.moved.len()],
            order: 0,
            focused: true,
        }
    }

    /// The seat's own number of a device, made if new: by the order of playing, so that the order of feeding decides nothing.
    /// A device that speaks two families counts as two. There is room, as the device was expected.
    #[inline]
    pub(crate) fn local(&mut self, plan: &InputsPlan, device: Device, family: Family) -> u8 {
        let who = Who { device, family };
        let last = self.last_known[family.index()];
        if self.known.get(usize::from(last)).is_some_and(|known| known.who == who) {
            return last;
        }
        let place = self.look_up(plan, who);
        self.last_known[family.index()] = place;
        place
    }

    #[inline(never)]
    fn look_up(&mut self, plan: &InputsPlan, who: Who) -> u8 {
        let place = self.known.iter().position(|known| known.who == who).unwrap_or_else(|| {
            let lanes = self.lanes.len() as u32;
            self.known.push(Known { who, lanes, guard: plan.guard_of(who.family, DeviceName::NONE) });
            self.names.push(DeviceName::NONE);
            // Within the capacity: each device takes at most the widest family's lanes.
            self.lanes.extend((0..lanes_of(plan, who.family)).map(|_| SILENT));
            self.feeds.extend((0..plan.feeds.len()).map(|_| Feed::default()));
            self.known.len() - 1
        });
        place as u8
    }

    /// A device will speak: there is room for it.
    #[inline]
    pub(crate) fn expect(&mut self, device: Device, family: Family) {
        let who = Who { device, family };
        if !self.expects(device, family) {
            let place = self.expected.iter().position(|expected| *expected == who).unwrap_or_else(|| {
                self.expected.push(who);
                self.expected.len() - 1
            });
            self.last_expected[family.index()] = place as u8;
        }
    }

    /// Whether a device is the one of its family that spoke last.
    #[inline(always)]
    pub(crate) fn expects(&self, device: Device, family: Family) -> bool {
        self.expected.get(usize::from(self.last_expected[family.index()])) == Some(&Who { device, family })
    }

    /// Whether a device spoke before, or there is room for it.
    #[inline]
    pub(crate) fn has_room_for(&self, device: Device, family: Family) -> bool {
        let who = Who { device, family };
        self.expects(device, family) || self.expected.len() < self.devices || self.expected.contains(&who)
    }

    /// The bits of the devices of a kind.
    pub(crate) fn bits(&self, which: impl Fn(Device, Family) -> bool) -> u64 {
        let known = self.known.iter().enumerate();
        known
            .filter(|(_, known)| which(known.who.device, known.who.family))
            .fold(0, |bits, (local, _)| bits | 1 << local)
    }

    /// Notes the level of a control, or a wheel's notches, as they are played: whether they play now.
    #[inline]
    pub(crate) fn note(&mut self, slot: &SlotPlan, local: u8, due: Due, (x, y): (i32, i32)) -> Taken {
        let place = self.known[usize::from(local)].lanes as usize + usize::from(slot.lane);
        let lane = self.lanes.changing(place, |lane| lane.busy.spoke());
        if slot.has_level {
            let turn = lane.busy.change(due, (lane.x, lane.y), (x, y), false);
            if turn == Taken::Now {
                (lane.x, lane.y) = (x, y);
            }
            return turn;
        }
        lane.busy.notches(due, (x / fixed::ONE).max(1) as u64)
    }

    /// How a device is guarded, by the seat's own number of it.
    #[inline(always)]
    pub(crate) fn guard<'p>(&self, plan: &'p InputsPlan, local: u8) -> &'p FamilyGuard {
        plan.guard(self.known[usize::from(local)].guard)
    }

    /// A device has a name.
    pub(crate) fn name(&mut self, plan: &InputsPlan, local: u8, name: DeviceName) {
        let known = &mut self.known[usize::from(local)];
        known.guard = plan.guard_of(known.who.family, name);
        self.names[usize::from(local)] = name;
    }

    /// How many devices spoke, each in one family.
    pub(crate) fn count(&self) -> u8 {
        self.known.len() as u8
    }

    /// The family that a device speaks, by the seat's own number of it.
    pub(crate) fn family(&self, local: u8) -> Family {
        self.known[usize::from(local)].who.family
    }

    /// The seat's own number of a device that spoke in a family.
    pub(crate) fn known(&self, device: Device, family: Family) -> Option<u8> {
        let who = Who { device, family };
        self.known.iter().position(|known| known.who == who).map(|local| local as u8)
    }

    /// A device by the seat's own number of it.
    pub(crate) fn device(&self, local: u8) -> Device {
        self.known[usize::from(local)].who.device
    }

    /// Where a device said last that a control stands; at rest before it said anything.
    pub(crate) fn said(&self, slot: &SlotPlan, local: u8) -> (i32, i32) {
        let lane = self.lanes[self.known[usize::from(local)].lanes as usize + usize::from(slot.lane)];
        if lane.x == UNKNOWN { (0, 0) } else { (lane.x, lane.y) }
    }

    /// What each device said last of each of its controls.
    pub(crate) fn standing<'b>(&'b self, plan: &'b InputsPlan) -> impl Iterator<Item = (Device, u16, i32, i32)> + 'b {
        self.known.iter().flat_map(move |known| {
            let own = plan.slots.iter().enumerate().filter(|(_, slot)| slot.family == known.who.family);
            own.filter_map(move |(number, slot)| {
                let lane = self.lanes[known.lanes as usize + usize::from(slot.lane)];
                (lane.x != UNKNOWN).then_some((known.who.device, number as u16, lane.x, lane.y))
            })
        })
    }

    /// What each device said last of a control with a level, by its local number.
    pub(crate) fn levels(&self, plan: &InputsPlan, slot: usize) -> Vec<(usize, i32, i32)> {
        let how = &plan.slots[slot];
        let own = self.known.iter().enumerate().filter(|(_, known)| known.who.family == how.family);
        let lanes = own.map(|(local, known)| (local, self.lanes[known.lanes as usize + usize::from(how.lane)]));
        lanes.filter(|(_, lane)| lane.x != UNKNOWN).map(|(local, lane)| (local, lane.x, lane.y)).collect()
    }

    /// How many devices there is room for.
    pub(crate) fn device_room(&self) -> usize {
        self.devices
    }

    /// Forgets what these devices said last: whatever they say next is news.
    pub(crate) fn forget(&mut self, plan: &InputsPlan, bits: u64) {
        for (local, known) in self.known.iter().enumerate() {
            if bits & (1 << local) != 0 {
                let lanes = known.lanes as usize..known.lanes as usize + lanes_of(plan, known.who.family);
                lanes.for_each(|lane| self.lanes[lane].x = UNKNOWN);
            }
        }
    }

    /// Plays a control's new level on a contact of it; whether that went down or up, if either.
    #[inline]
    pub(crate) fn turn(&mut self, plan: &InputsPlan, number: usize, local: u8, (x, y): (i32, i32)) -> Option<bool> {
        let how = &plan.contacts[number];
        self.turn_to(how, number, local, how.part.level(x, y))
    }

    /// Plays the level of a contact's own part on it; whether it went down or up, if either.
    #[inline(always)]
    pub(crate) fn turn_to(&mut self, how: &ContactPlan, number: usize, local: u8, level: i32) -> Option<bool> {
        let bit = 1u64 << local;
        let contact = &mut self.contacts[number];
        let was = contact.down & bit != 0;
        let is = if was { level > how.up_at } else { level >= how.down_at };
        if is == was {
            return None;
        }
        contact.down ^= bit;
        if is {
            self.contacts[number].press = self.fresh_press(local);
        }
        Some(is)
    }

    /// Takes away what these devices hold: their contacts are lost, their feeds at rest.
    pub(crate) fn take_away(&mut self, plan: &InputsPlan, bits: u64) {
        for contact in 0..self.contacts.len() {
            self.take_contact(contact, bits);
        }
        let feeds = self.away.len().max(1);
        for (local, own) in self.feeds.chunks_mut(feeds).enumerate() {
            if bits & (1 << local) != 0 {
                own.fill(Feed::default());
            }
        }
        self.away.iter_mut().for_each(|away| *away &= !bits);
        self.stir(plan);
    }

    /// Takes a contact away from these devices.
    pub(crate) fn take_contact(&mut self, contact: usize, bits: u64) {
        let (contact, lost) = (&mut self.contacts[contact], &mut self.lost[contact]);
        *lost |= contact.down & bits;
        contact.down &= !bits;
    }

    /// A number larger than any before: for what leaves its rest.
    pub(crate) fn next_order(&mut self) -> u64 {
        self.order += 1;
        self.order << ORDER_BITS
    }

    /// The identity of a new press, made by this device. Its low half is enough to tell presses apart, and is never 0.
    pub(crate) fn fresh_press(&mut self, local: u8) -> u64 {
        let mut press = self.next_order() | u64::from(local);
        if press as u32 == 0 {
            press = self.next_order() | u64::from(local);
        }
        press
    }

    /// The identity of the entering of a direction.
    pub(crate) fn fresh_direction(&mut self, local: u8) -> u64 {
        self.fresh_press(local) | DIRECTION
    }

    /// The slot of a control that somebody hears.
    pub(crate) fn slot(plan: &InputsPlan, control: crate::control::Control) -> Option<SlotIndex> {
        plan.slot_of.get(control.number()).copied().flatten()
    }

    /// Whether a board that was read has the size of this plan's, and room for so many devices.
    #[cfg(feature = "serde")]
    pub(crate) fn fits(&self, plan: &InputsPlan, devices: usize) -> bool {
        let lanes = |(known, name): (&Known, &DeviceName)| {
            known.guard == plan.guard_of(known.who.family, *name)
                && known.lanes as usize + lanes_of(plan, known.who.family) <= self.lanes.len()
        };
        self.devices == devices
            && self.known.len() <= devices
            && self.expected.len() <= devices
            && self.names.len() == self.known.len()
            && self.known.iter().zip(&self.names).all(lanes)
            && self.contacts.len() == plan.contacts.len()
            && self.feeds.len() == plan.feeds.len() * self.known.len()
            && self.away.len() == plan.feeds.len()
    }

    pub(crate) fn copy_from(&mut self, other: &Board) {
        copy_list(&mut self.known, &other.known);
        copy_list(&mut self.names, &other.names);
        copy_list(&mut self.expected, &other.expected);
        self.lanes.copy_from(&other.lanes);
        copy_list(&mut self.contacts, &other.contacts);
        copy_list(&mut self.feeds, &other.feeds);
        copy_list(&mut self.away, &other.away);
        copy_list(&mut self.stirred, &other.stirred);
        (self.devices, self.order, self.focused) = (other.devices, other.order, other.focused);
        (self.last_known, self.last_expected) = (other.last_known, other.last_expected);
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self, mut word: impl FnMut(u64)) {
        let pair = |x: i32, y: i32| u64::from(x as u32) << 32 | u64::from(y as u32);
        word(self.order);
        word(u64::from(self.focused));
        for (known, name) in self.known.iter().zip(&self.names) {
            word(known.who.device.number() as u64);
            word(known.who.family.index() as u64);
            word(name.to_bits());
        }
        for lane in self.lanes.iter() {
            let Lane { x, y, busy } = *lane;
            word(pair(x, y));
            busy.words().into_iter().for_each(&mut word);
        }
        for contact in &self.contacts {
            let Contact { down, press } = *contact;
            word(down);
            word(press);
        }
        let feeds = self.away.len();
        for feed in 0..feeds {
            for local in 0..self.devices {
                let feed = self.feeds.get(local * feeds + feed).copied().unwrap_or_default();
                let Feed { x, y, push: _, left } = feed;
                word(pair(x, y));
                word(left);
            }
        }
    }
}

own_fields! {
    Board, (own, _, word) => own.words(word);
}
