//! What a relink carries over of hands: devices, what is held, where sticks stand, fingers.

use alloc::vec;

use crate::cause::Cause;
use crate::control::Sort as ControlSort;
use crate::engine::inputs::fingers::Stage;
use crate::engine::inputs::{Here, Inputs, sticks};
use crate::engine::relink_map::{RelinkMap, place};
use crate::engine::values::Listening;
use crate::index::{Index, PatchIndex, run};
use crate::linkage::{ContactPlan, Plan};
use crate::timers::DuePart;

impl Inputs {
    /// Devices, what they said, what is down, fingers, and how actions are held.
    pub(crate) fn carry_over(&mut self, from: &Inputs, map: &RelinkMap<'_>) {
        let (old, new) = (&map.old.inputs, &map.new.inputs);
        self.carry_guards(from, old, new);
        self.board.carry(&from.board, old, new, &self.guards);
        self.carry_fingers(from, map);
        for number in 0..new.buttons.len() {
            if let Some(before) = map.before(number) {
                self.buttons[number] = from.buttons[before];
            }
        }
    }

    fn carry_fingers(&mut self, from: &Inputs, map: &RelinkMap<'_>) {
        self.fingers = from.fingers;
        let patch = |patch: PatchIndex| {
            let name = &map.old.inputs.panel[usize::from(patch)].name;
            place(&map.new.inputs.panel, |patch| patch.name == *name)
        };
        for finger in &mut self.fingers.played {
            finger.stage = match finger.stage {
                Stage::Owned(own) => patch(own).map_or(Stage::Dead, Stage::Owned),
                Stage::Wild(zone, points) => Stage::Wild(zone.and_then(patch), points),
                stage => stage,
            };
        }
    }

    /// What is held now, by the new wires: what nobody holds any more goes up, what is newly bound and held is stale.
    pub(crate) fn settle_hands(
        &mut self,
        here: Here<'_>,
        (from, listened): (&Inputs, &Listening),
        map: &RelinkMap<'_>,
    ) {
        let (old, new) = (map.old, map.new);
        let mut held = vec![0u16; new.declared];
        let begins = |action: usize| {
            let was = map.before(action).map(|before| listened[before]);
            here.listens[action] && was == Some(false)
        };
        for (contact, how) in new.inputs.contacts.iter().enumerate() {
            let down = self.board.contacts[contact].down;
            let before = old.inputs.contact_like(&new.inputs, contact);
            for number in run(&how.wires) {
                let wire = new.inputs.wires[number];
                let was = before.and_then(|before| {
                    let mut wires = run(&old.inputs.contacts[before].wires);
                    wires.find(|old_wire| {
                        let old_wire = old.inputs.wires[*old_wire];
                        old_wire.leg.is_none() && map.after(old_wire.action) == Some(Index::new(wire.action))
                    })
                });
                // Bound and heard before: as stale as it was. Else stale while it is held. The legs of a cross count at once.
                let was = was.filter(|_| !begins(usize::from(wire.action)));
                let stale = was.map_or(down, |was| from.stale[was] & down);
                self.stale[number] = if wire.leg.is_some() { 0 } else { stale };
                if wire.leg.is_none() && here.listens[usize::from(wire.action)] && self.board.focused {
                    held[usize::from(wire.action)] += (down & !self.stale[number]).count_ones() as u16;
                }
            }
        }
        for (number, mut held) in held.into_iter().enumerate() {
            let action = &new.actions[number];
            if let Some(stick) = action.moved {
                self.levels_anew(new, number);
                self.carry_levels(from, map, number);
                self.crossed(here, stick);
                if map.reads_anew(number) {
                    self.moved[usize::from(stick)].look_again();
                }
                // A direction that it can no longer stand in is a button of nobody's.
                let stood_in = map.stood_in(number, |stick| from.moved[stick].direction);
                if let Some(button) = stood_in.map(usize::from)
                    && !new.inputs.moved[usize::from(stick)].buttons.contains(&stood_in)
                    && self.buttons[button].held > 0
                {
                    self.let_go(here, button, Cause::Relinked);
                }
                if !begins(number) {
                    self.moved(here, stick, Cause::Relinked);
                }
                continue;
            }
            held += u16::from(self.finger_holds(from, map, number));
            if action.latched {
                held = u16::from(self.buttons[number].held > 0 && self.latch_is_bound(from, map, number));
            }
            if self.buttons[number].held > 0 && held == 0 {
                self.let_go(here, number, Cause::Relinked);
            } else {
                self.buttons[number].held = held;
            }
            if self.buttons[number].held > 0 && action.mash_period > 0 {
                let same = |before: &usize| old.actions[*before].mash_period == action.mash_period;
                let before = map.before(number).filter(same);
                let was = before.and_then(|before| from.mashing.when(before));
                let (due, phase) = was.unwrap_or((here.at + action.mash_period, DuePart::Due));
                self.mashing.set(number, due, phase);
            }
        }
    }

    /// What listens no longer by the new modes is covered; what listens now begins to, and needs a fresh press.
    /// Whether a finger that pointed holds a pointer on, as the new profile lets fingers point, too.
    pub(crate) fn finger_holds(&self, from: &Inputs, map: &RelinkMap<'_>, number: usize) -> bool {
        let Some(pointer) = map.new.actions[number].pointer else { return false };
        let Some(before) = map.before(number) else { return false };
        let (touch, was) = (map.new.inputs.pointers[usize::from(pointer)].touch, &from.buttons[before]);
        let by_controls: u32 = map.old.actions[before]
            .wires
            .iter()
            .map(|wire| {
                let contact = map.old.inputs.contacts.partition_point(|contact| contact.wires.end <= *wire);
                (from.board.contacts[contact].down & !from.stale[*wire as usize]).count_ones()
            })
            .sum();
        touch == Some(Index::new(number as u16)) && self.fingers.points() && u32::from(was.held) > by_controls
    }

    /// Whether what put a button down by one press is still bound to it; and it was one press.
    pub(crate) fn latch_is_bound(&self, from: &Inputs, map: &RelinkMap<'_>, number: usize) -> bool {
        let (old, new) = (map.old, map.new);
        let Some(before) = map.before(number) else { return false };
        let was = &old.actions[before];
        let press = from.buttons[before].press;
        was.wires.iter().any(|wire| {
            let contact = old.inputs.contacts.partition_point(|contact| contact.wires.end <= *wire);
            let still = |other: &ContactPlan| {
                run(&other.wires).any(|wire| {
                    new.inputs.wires[wire].leg.is_none() && usize::from(new.inputs.wires[wire].action) == number
                })
            };
            from.board.contacts[contact].press == press
                && new
                    .inputs
                    .contact_like(&old.inputs, contact)
                    .is_some_and(|contact| still(&new.inputs.contacts[contact]))
        })
    }

    /// An action's crosses and whole controls stand as they stood, where they are the same.
    pub(crate) fn carry_levels(&mut self, from: &Inputs, map: &RelinkMap<'_>, action: usize) {
        let (old, new) = (map.old, map.new);
        let Some(before) = map.before(action) else { return };
        let (Some(was), Some(now)) = (old.actions[before].moved, new.actions[action].moved) else { return };
        let (was, now) = (&old.inputs.moved[usize::from(was)], &new.inputs.moved[usize::from(now)]);
        let (to, source) = (run(&now.crosses), run(&was.crosses));
        if to.len() == source.len() {
            self.crosses[to].copy_from_slice(&from.crosses[source]);
        }
        for (number, feed) in new.inputs.feeds.iter().enumerate().filter(|(_, feed)| usize::from(feed.action) == action)
        {
            let control =
                new.inputs.feed_control(number).and_then(|control| old.inputs.same_control(&new.inputs, control));
            let same = |(other, known): &(usize, &crate::linkage::FeedPlan)| {
                (usize::from(known.action), known.part, known.leg) == (before, feed.part, feed.leg)
                    && old.inputs.feed_control(*other) == control
                    && old.inputs.shapes[known.shape as usize] == new.inputs.shapes[feed.shape as usize]
            };
            if let Some((other, _)) = old.inputs.feeds.iter().enumerate().find(same) {
                self.board.carry_feed(number, &from.board, other);
            }
        }
        self.board.stir(&new.inputs);
    }

    /// The levels of an action's whole controls as their devices said last, bent by its shapes as they are now.
    pub(crate) fn levels_anew(&mut self, plan: &Plan, action: usize) {
        for (slot, how) in plan.inputs.slots.iter().enumerate() {
            if !matches!(how.sort, ControlSort::Level | ControlSort::Pair) {
                continue;
            }
            for (number, feed) in (how.feeds.start..).zip(&plan.inputs.feeds[run(&how.feeds)]) {
                if usize::from(feed.action) != action {
                    continue;
                }
                let is_sweep = plan.inputs.is_of_sweep(feed);
                for (local, x, y) in self.board.levels(&plan.inputs, slot) {
                    let counts = self.guards.stands(how.guard, local as u8, (x, y), is_sweep);
                    let level = sticks::bent(feed, counts);
                    self.board.set_feed((feed, number), local as u8, level);
                }
            }
        }
    }
}
