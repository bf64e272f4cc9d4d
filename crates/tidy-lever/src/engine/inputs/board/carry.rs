//! A board goes over to another plan.

use super::{Board, Feed, Known, SILENT, lanes_of};
use crate::guard::Guards;
use crate::index::run;
use crate::linkage::InputsPlan;

impl Board {
    /// A feed stands on every device as another one did on another board.
    pub(crate) fn carry_feed(&mut self, feed: usize, from: &Board, other: usize) {
        let (own, others) = (self.away.len(), from.away.len());
        self.away[feed] = 0;
        for local in 0..self.known.len() {
            let was = from.feeds[local * others + other];
            self.feeds[local * own + feed] = was;
            self.away[feed] |= u64::from(was.left > 0) << local;
        }
        // Counted again once all of them are carried over.
    }

    /// Takes over what another board, of another plan, knows: devices, what they said last, and what is down.
    pub(crate) fn carry(&mut self, from: &Board, old: &InputsPlan, new: &InputsPlan, guards: &Guards) {
        (self.order, self.focused) = (from.order, from.focused);
        self.expected.clone_from(&from.expected);
        self.names.clone_from(&from.names);
        for (known, name) in from.known.iter().zip(&from.names) {
            let lanes = self.lanes.len() as u32;
            self.known.push(Known { lanes, guard: new.guard_of(known.who.family, *name), ..*known });
            self.lanes.extend((0..lanes_of(new, known.who.family)).map(|_| SILENT));
            self.feeds.extend((0..new.feeds.len()).map(|_| Feed::default()));
            for slot in new.slots.iter().filter(|slot| slot.family == known.who.family) {
                let Some(control) = old.same_control(new, slot.control) else { continue };
                let same = |other: &&crate::linkage::SlotPlan| other.control == control && other.sort == slot.sort;
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
                let (x, y) = guards.stands(new.slots[slot].guard, local as u8, (x, y), false);
                if how.part.level(x, y) >= how.down_at {
                    let press = self.fresh_press(local as u8);
                    let contact = &mut self.contacts[contact];
                    (contact.down, contact.press) = (contact.down | 1 << local, press);
                }
            }
        }
    }
}
