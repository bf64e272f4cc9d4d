//! The board: what is down now, by device; and what each device said last, so that repeats are no news.

use alloc::vec;
use alloc::vec::Vec;

use crate::control::{Family, Sort};
use crate::event::{Device, MOST_DEVICES};
use crate::fixed::{self, ONE};
use crate::linkage::{NONE, Plan, run};

/// No level was heard yet.
const UNKNOWN: i32 = i32::MIN;

/// What a device said last about one control, while feeding.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Lane {
    /// The moment of the last change.
    at: u64,
    x: i32,
    y: i32,
}

/// A control used as a button.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Contact {
    /// One bit a device.
    pub(crate) down: u64,
    /// Grows with each going down: the press's identity, and which came later.
    pub(crate) order: u64,
    /// The device that made the newest press.
    pub(crate) by: u8,
    /// Whether the event being played turned it: 1 down, −1 up.
    pub(crate) turned: i8,
}

/// A control used as a level, on one device: shaped, unless it is a leg.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Feed {
    pub(crate) x: i32,
    pub(crate) y: i32,
    /// How long the pair is.
    pub(crate) size: i32,
    /// Which left its rest later; 0 while at rest.
    pub(crate) left: u64,
}

/// A device as this seat knows it.
#[derive(Clone, Copy, Debug)]
struct Known {
    device: Device,
    family: Family,
    /// Where its lanes begin.
    lanes: u32,
}

/// Why an event found no lane.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct NoRoom;

#[derive(Debug)]
pub(crate) struct Board {
    known: Vec<Known>,
    /// How many devices there is room for.
    devices: usize,
    lanes: Vec<Lane>,
    pub(crate) contacts: Vec<Contact>,
    /// By feed, then by device.
    feeds: Vec<Feed>,
    /// By feed, one bit a device: away from rest.
    away: Vec<u64>,
    /// The press counter.
    pub(crate) order: u64,
    pub(crate) focused: bool,
}

/// A family's slots are the lanes of one of its devices.
fn lanes_of(plan: &Plan, family: Family) -> usize {
    plan.slots.iter().filter(|slot| slot.control.family() == family).count()
}

impl Board {
    pub(crate) fn new(plan: &Plan, devices: usize) -> Board {
        let devices = devices.clamp(1, MOST_DEVICES);
        let widest = Family::ALL.into_iter().map(|family| lanes_of(plan, family)).max().unwrap_or(0);
        Board {
            known: Vec::with_capacity(devices),
            devices,
            lanes: Vec::with_capacity(devices * widest),
            contacts: vec![Contact::default(); plan.contacts.len()],
            feeds: vec![Feed::default(); plan.feeds.len() * devices],
            away: vec![0; plan.feeds.len()],
            order: 0,
            focused: true,
        }
    }

    /// The seat's own number of a device, made if new. A device that speaks two families counts as two.
    #[inline]
    pub(crate) fn local(&mut self, plan: &Plan, device: Device, family: Family) -> Result<u8, NoRoom> {
        if let Some(local) = self.known.iter().position(|known| known.device == device && known.family == family) {
            return Ok(local as u8);
        }
        if self.known.len() == self.devices {
            return Err(NoRoom);
        }
        let lanes = self.lanes.len() as u32;
        self.known.push(Known { device, family, lanes });
        // Within the capacity: each device takes at most the widest family's lanes.
        self.lanes.extend((0..lanes_of(plan, family)).map(|_| Lane { at: 0, x: UNKNOWN, y: 0 }));
        Ok(self.known.len() as u8 - 1)
    }

    /// The bits of the devices of a kind.
    pub(crate) fn bits(&self, which: impl Fn(Device, Family) -> bool) -> u64 {
        let known = self.known.iter().enumerate();
        known.filter(|(_, known)| which(known.device, known.family)).fold(0, |bits, (local, _)| bits | 1 << local)
    }

    /// Notes what is being fed: the moment from which it counts, or `None` if it is no news.
    ///
    /// A second change of one control in one moment moves on by 1 µs.
    pub(crate) fn note(&mut self, plan: &Plan, slot: u16, local: u8, at: u64, (x, y): (i32, i32)) -> Option<u64> {
        let slot = &plan.slots[usize::from(slot)];
        let lane = &mut self.lanes[self.known[usize::from(local)].lanes as usize + usize::from(slot.lane)];
        match slot.sort {
            Sort::Button | Sort::Level | Sort::Pair => {
                if (lane.x, lane.y) == (x, y) {
                    return None;
                }
                let first = lane.x == UNKNOWN && lane.at == 0;
                let at = if first { at } else { at.max(lane.at + 1) };
                *lane = Lane { at, x, y };
                Some(at)
            }
            Sort::Notch => {
                // Each notch is a press and a release: two moments.
                let at = if lane.at == 0 { at } else { at.max(lane.at + 1) };
                lane.at = at + 2 * (i64::from(x) / i64::from(ONE)).max(1) as u64 - 1;
                Some(at)
            }
            Sort::Counts | Sort::Place => Some(at),
        }
    }

    /// What each device said last of each of its controls.
    pub(crate) fn standing<'b>(&'b self, plan: &'b Plan) -> impl Iterator<Item = (Device, u16, i32, i32)> + 'b {
        self.known.iter().flat_map(move |known| {
            let own = plan.slots.iter().enumerate().filter(|(_, slot)| slot.control.family() == known.family);
            own.filter_map(move |(number, slot)| {
                let lane = self.lanes[known.lanes as usize + usize::from(slot.lane)];
                (lane.x != UNKNOWN).then_some((known.device, number as u16, lane.x, lane.y))
            })
        })
    }

    /// What each device said last of a control with a level, by its local number.
    pub(crate) fn levels(&self, plan: &Plan, slot: usize) -> Vec<(usize, i32, i32)> {
        let how = &plan.slots[slot];
        let own = self.known.iter().enumerate().filter(|(_, known)| known.family == how.control.family());
        let lanes = own.map(|(local, known)| (local, self.lanes[known.lanes as usize + usize::from(how.lane)]));
        lanes.filter(|(_, lane)| lane.x != UNKNOWN).map(|(local, lane)| (local, lane.x, lane.y)).collect()
    }

    /// How many devices there is room for.
    pub(crate) fn device_room(&self) -> usize {
        self.devices
    }

    /// A feed stands on every device as another one did on another board.
    pub(crate) fn carry_feed(&mut self, feed: usize, from: &Board, other: usize) {
        let (to, source) = (feed * self.devices, other * from.devices);
        let shared = self.devices.min(from.devices);
        self.feeds[to..to + shared].copy_from_slice(&from.feeds[source..source + shared]);
        let away = self.feeds[to..to + self.devices].iter().enumerate().filter(|(_, feed)| feed.left > 0);
        self.away[feed] = away.fold(0, |bits, (local, _)| bits | 1 << local);
    }

    /// Takes over what another board, of another plan, knows: devices, what they said last, and what is down.
    pub(crate) fn carry(&mut self, from: &Board, old: &Plan, new: &Plan) {
        (self.order, self.focused) = (from.order, from.focused);
        for known in &from.known {
            let lanes = self.lanes.len() as u32;
            self.known.push(Known { lanes, ..*known });
            self.lanes.extend((0..lanes_of(new, known.family)).map(|_| Lane { at: 0, x: UNKNOWN, y: 0 }));
            for slot in new.slots.iter().filter(|slot| slot.control.family() == known.family) {
                let same = |other: &&crate::linkage::SlotPlan| other.control == slot.control && other.sort == slot.sort;
                if let Some(before) = old.slots.iter().find(same) {
                    let lane = from.lanes[known.lanes as usize + usize::from(before.lane)];
                    self.lanes[lanes as usize + usize::from(slot.lane)] = lane;
                }
            }
        }
        for contact in 0..new.contacts.len() {
            if let Some(before) = old.contact_like(new, contact) {
                self.contacts[contact] = from.contacts[before];
                continue;
            }
            // A new threshold, or part, of a control that spoke before.
            let Some(slot) = new.slots.iter().position(|slot| run(&slot.contacts).contains(&contact)) else { continue };
            let how = &new.contacts[contact];
            for (local, x, y) in self.levels(new, slot) {
                if how.part.level(x, y) >= how.press_at {
                    let order = self.fresh();
                    let contact = &mut self.contacts[contact];
                    (contact.down, contact.order, contact.by) = (contact.down | 1 << local, order, local as u8);
                }
            }
        }
    }

    /// Forgets what these devices said last: whatever they say next is news.
    pub(crate) fn forget(&mut self, plan: &Plan, bits: u64) {
        for (local, known) in self.known.iter().enumerate() {
            if bits & (1 << local) != 0 {
                let lanes = known.lanes as usize..known.lanes as usize + lanes_of(plan, known.family);
                self.lanes[lanes].iter_mut().for_each(|lane| lane.x = UNKNOWN);
            }
        }
    }

    /// Plays a control's new level on a contact of it; whether that went down or up, if either.
    #[inline]
    pub(crate) fn turn(&mut self, plan: &Plan, contact: usize, local: u8, (x, y): (i32, i32)) -> Option<bool> {
        let bit = 1u64 << local;
        let (contact, how) = (&mut self.contacts[contact], &plan.contacts[contact]);
        let level = how.part.level(x, y);
        let was = contact.down & bit != 0;
        let is = if was { level > how.release_at } else { level >= how.press_at };
        if is == was {
            return None;
        }
        contact.down ^= bit;
        if is {
            self.order += 1;
            (contact.order, contact.by) = (self.order, local);
        }
        Some(is)
    }

    /// A feed on each of the devices on which it is away from rest.
    #[inline]
    pub(crate) fn away(&self, feed: usize) -> impl Iterator<Item = &Feed> {
        let (mut bits, first) = (self.away[feed], feed * self.devices);
        core::iter::from_fn(move || {
            let local = (bits != 0).then_some(bits.trailing_zeros() as usize)?;
            bits &= bits - 1;
            self.feeds.get(first + local)
        })
    }

    /// How many feeds there are, devices aside.
    pub(crate) fn feed_count(&self) -> usize {
        self.feeds.len() / self.devices
    }

    /// Sets a feed's level on one device; it left its rest when it was at 0.
    pub(crate) fn set_feed(&mut self, feed: usize, local: usize, (x, y): (i32, i32)) {
        let (away, feed) = (&mut self.away[feed], &mut self.feeds[feed * self.devices + local]);
        let was_at_rest = (feed.x, feed.y) == (0, 0);
        (feed.x, feed.y, feed.size) = (x, y, fixed::length(x, y));
        if (x, y) == (0, 0) {
            *away &= !(1 << local);
            feed.left = 0;
        } else if was_at_rest {
            *away |= 1 << local;
            self.order += 1;
            feed.left = self.order;
        }
    }

    /// Sets all feeds of these devices to rest.
    pub(crate) fn rest_feeds(&mut self, bits: u64) {
        let devices = self.devices;
        for (place, feed) in self.feeds.iter_mut().enumerate() {
            if bits & (1 << (place % devices)) != 0 {
                *feed = Feed::default();
            }
        }
        self.away.iter_mut().for_each(|away| *away &= !bits);
    }

    /// The identity of a press that no contact made.
    pub(crate) fn fresh(&mut self) -> u64 {
        self.order += 1;
        self.order
    }

    /// The slot of a control that somebody hears.
    pub(crate) fn slot(plan: &Plan, control: crate::control::Control) -> Option<u16> {
        plan.slot_of.get(control.number()).copied().filter(|slot| *slot != NONE)
    }

    pub(crate) fn copy_from(&mut self, other: &Board) {
        self.known.clone_from(&other.known);
        self.lanes.clone_from(&other.lanes);
        self.contacts.clone_from(&other.contacts);
        self.feeds.clone_from(&other.feeds);
        self.away.clone_from(&other.away);
        (self.devices, self.order, self.focused) = (other.devices, other.order, other.focused);
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self, mut word: impl FnMut(u64)) {
        let pair = |x: i32, y: i32| u64::from(x as u32) << 32 | u64::from(y as u32);
        word(self.order);
        word(u64::from(self.focused));
        for known in &self.known {
            word(known.device.number() as u64);
            word(known.family.index() as u64);
        }
        for lane in &self.lanes {
            word(lane.at);
            word(pair(lane.x, lane.y));
        }
        for contact in &self.contacts {
            word(contact.down);
            word(contact.order << 8 | u64::from(contact.by));
        }
        for feed in &self.feeds {
            word(pair(feed.x, feed.y));
            word(feed.left);
        }
    }
}
