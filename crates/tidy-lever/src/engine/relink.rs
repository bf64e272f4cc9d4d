//! Relinking: a running seat goes over to a changed profile, or to another remap of the same one, by names.
//!
//! ```text
//!   carries over     facts, modes, what is held, toggles, gauges, sweeps, truths, cooldowns, stages, marks
//!   where its rule   attempts, waits, keeps, timers
//!   is the same
//!   ends             what was held by a control that is bound no longer; what was on by a rule that changed
//!   stale            a control that is newly bound and held already
//! ```

use alloc::borrow::ToOwned;
use alloc::string::String;
use alloc::vec;
use alloc::vec::Vec;

use crate::cause::Cause;
use crate::control::Sort as ControlSort;
use crate::engine::Engine;
use crate::engine::inputs::Here;
use crate::engine::moment::here;
use crate::engine::ways::Ways;
use crate::history::Happening;
use crate::index::{Index, run};
use crate::linkage::ContactPlan;
use crate::linkage::Plan;
use crate::timers::DuePart;

/// What a relink left behind.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub struct Relinked {
    /// Actions that the new profile has not: what they held or had on ended with cause `relinked`.
    pub lost: Vec<String>,
    /// Actions whose attempts, waits and keeps were dropped, as their rule changed.
    pub begun_anew: Vec<String>,
}

impl Engine {
    pub(crate) fn relinked(&self, ways: &Ways<'_>) -> (Engine, Relinked) {
        let (old, new) = (ways.old, ways.new);
        let at = self.played();
        let mut engine = Engine::new(new, at, self.room());
        engine.next = self.next;
        engine.inputs.carry(&self.inputs, ways);
        engine.cues.carry(&self.cues, ways);
        engine.world.carry(&self.world, ways);
        engine.pulls.carry(&self.pulls, ways);
        engine.log.carry(&self.log, ways);
        for waiting in self.queue.iter().filter_map(|waiting| ways.waiting(waiting)) {
            engine.queue.push(waiting);
        }
        engine.log.ring = self.log.ring.mapped(new.stamp, |happening| {
            let over = happening.over.and_then(|action| ways.after(action.number()));
            Some(Happening { action: ways.after(happening.action)?.number(), over, ..*happening })
        });
        engine.carry_told(self, ways);
        engine.inputs.carry_guards(&self.inputs, &old.inputs, &new.inputs);
        engine.inputs.carry_board(&self.inputs, &old.inputs, &new.inputs);
        engine.carry_fingers(self, ways);
        engine.carry_actions(self, ways);
        let mut relinked = engine.carry_rules(self, ways);
        engine.knows_held();
        engine.settle_hands(self, ways, at);
        engine.knows_held();
        engine.settle_listening(self, ways, at);
        for local in 0..self.inputs.board.count() {
            let before = *self.inputs.board.guard(&old.inputs, local);
            engine.inputs.sees_from_middles(here!(engine, new, at), local, &before);
            engine.carry_edges(new, at);
        }
        relinked.lost =
            (0..old.declared).filter(|n| ways.after[*n].is_none()).map(|n| old.actions[n].name.to_owned()).collect();
        (engine, relinked)
    }

    /// What is held now, by the new wires: what nobody holds any more goes up, what is newly bound and held is stale.
    pub(crate) fn settle_hands(&mut self, from: &Engine, ways: &Ways<'_>, at: u64) {
        let (old, new) = (ways.old, ways.new);
        let mut held = vec![0u16; new.declared];
        let begins = |engine: &Engine, action: usize| {
            let was = ways.before(action).map(|before| from.world.listening[before]);
            engine.world.listening[action] && was == Some(false)
        };
        for (contact, how) in new.inputs.contacts.iter().enumerate() {
            let down = self.inputs.board.contacts[contact].down;
            let before = old.inputs.contact_like(&new.inputs, contact);
            for number in run(&how.wires) {
                let wire = new.inputs.wires[number];
                let was = before.and_then(|before| {
                    let mut wires = run(&old.inputs.contacts[before].wires);
                    wires.find(|old_wire| {
                        let old_wire = old.inputs.wires[*old_wire];
                        old_wire.leg.is_none() && ways.after(old_wire.action) == Some(Index::new(wire.action))
                    })
                });
                // Bound and heard before: as stale as it was. Else stale while it is held. The legs of a cross count at once.
                let was = was.filter(|_| !begins(self, usize::from(wire.action)));
                let stale = was.map_or(down, |was| from.inputs.stale[was] & down);
                self.inputs.stale[number] = if wire.leg.is_some() { 0 } else { stale };
                if wire.leg.is_none() && self.world.listening[usize::from(wire.action)] && self.inputs.board.focused {
                    held[usize::from(wire.action)] += (down & !self.inputs.stale[number]).count_ones() as u16;
                }
            }
        }
        for (number, mut held) in held.into_iter().enumerate() {
            let action = &new.actions[number];
            if let Some(stick) = action.moved {
                self.levels_anew(new, number);
                self.carry_levels(from, ways, number);
                self.inputs.crossed(here!(self, new, at), stick);
                if ways.reads_anew(number) {
                    self.inputs.moved[usize::from(stick)].look_again();
                }
                // A direction that it can no longer stand in is a button of nobody's.
                let stood_in = ways.stood_in(number, |stick| from.inputs.moved[stick].direction);
                if let Some(button) = stood_in.map(usize::from)
                    && !new.inputs.moved[usize::from(stick)].buttons.contains(&stood_in)
                    && self.inputs.buttons[button].held > 0
                {
                    self.inputs.let_go(here!(self, new, at), button, Cause::Relinked);
                    self.carry_edges(new, at);
                }
                if !begins(self, number) {
                    self.inputs.moved(here!(self, new, at), stick, Cause::Relinked);
                    self.carry_edges(new, at);
                }
                continue;
            }
            held += u16::from(self.finger_holds(from, ways, number));
            if action.latched {
                held = u16::from(self.inputs.buttons[number].held > 0 && self.latch_is_bound(from, ways, number));
            }
            if self.inputs.buttons[number].held > 0 && held == 0 {
                self.inputs.let_go(here!(self, new, at), number, Cause::Relinked);
                self.carry_edges(new, at);
            } else {
                self.inputs.buttons[number].held = held;
            }
            if self.inputs.buttons[number].held > 0 && action.mash_period > 0 {
                let same = |before: &usize| old.actions[*before].mash_period == action.mash_period;
                let before = ways.before(number).filter(same);
                let was = before.and_then(|before| from.inputs.mashing.when(before));
                let (due, phase) = was.unwrap_or((at + action.mash_period, DuePart::Due));
                self.inputs.mashing.set(number, due, phase);
            }
        }
    }

    /// What listens no longer by the new modes is covered; what listens now begins to, and needs a fresh press.
    /// Tells cues which actions are held.
    fn knows_held(&mut self) {
        for (held, button) in self.cues.held.iter_mut().zip(self.inputs.buttons.iter()) {
            *held = button.held > 0;
        }
    }

    fn settle_listening(&mut self, from: &Engine, ways: &Ways<'_>, at: u64) {
        for number in 0..ways.new.declared {
            let Some(was) = ways.before(number).map(|before| from.world.listening[before]) else { continue };
            match (was, self.world.listening[number]) {
                (true, false) => self.cover(ways.new, number, Cause::Relinked, at),
                (false, true) => self.uncover(ways.new, number, at),
                _ => {}
            }
        }
    }

    /// Whether a finger that pointed holds a pointer on, as the new profile lets fingers point, too.
    pub(crate) fn finger_holds(&self, from: &Engine, ways: &Ways<'_>, number: usize) -> bool {
        let Some(pointer) = ways.new.actions[number].pointer else { return false };
        let Some(before) = ways.before(number) else { return false };
        let (touch, was) = (ways.new.inputs.pointers[usize::from(pointer)].touch, &from.inputs.buttons[before]);
        let by_controls: u32 = ways.old.actions[before]
            .wires
            .iter()
            .map(|wire| {
                let contact = ways.old.inputs.contacts.partition_point(|contact| contact.wires.end <= *wire);
                (from.inputs.board.contacts[contact].down & !from.inputs.stale[*wire as usize]).count_ones()
            })
            .sum();
        touch == Some(Index::new(number as u16)) && self.inputs.fingers.points() && u32::from(was.held) > by_controls
    }

    /// Whether what put a button down by one press is still bound to it; and it was one press.
    pub(crate) fn latch_is_bound(&self, from: &Engine, ways: &Ways<'_>, number: usize) -> bool {
        let (old, new) = (ways.old, ways.new);
        let Some(before) = ways.before(number) else { return false };
        let was = &old.actions[before];
        let press = from.inputs.buttons[before].press;
        was.wires.iter().any(|wire| {
            let contact = old.inputs.contacts.partition_point(|contact| contact.wires.end <= *wire);
            let still = |other: &ContactPlan| {
                run(&other.wires).any(|wire| {
                    new.inputs.wires[wire].leg.is_none() && usize::from(new.inputs.wires[wire].action) == number
                })
            };
            from.inputs.board.contacts[contact].press == press
                && new
                    .inputs
                    .contact_like(&old.inputs, contact)
                    .is_some_and(|contact| still(&new.inputs.contacts[contact]))
        })
    }

    /// An action's crosses and whole controls stand as they stood, where they are the same.
    pub(crate) fn carry_levels(&mut self, from: &Engine, ways: &Ways<'_>, action: usize) {
        let (old, new) = (ways.old, ways.new);
        let Some(before) = ways.before(action) else { return };
        let (Some(was), Some(now)) = (old.actions[before].moved, new.actions[action].moved) else { return };
        let (was, now) = (&old.inputs.moved[usize::from(was)], &new.inputs.moved[usize::from(now)]);
        let (to, source) = (run(&now.crosses), run(&was.crosses));
        if to.len() == source.len() {
            self.inputs.crosses[to].copy_from_slice(&from.inputs.crosses[source]);
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
                self.inputs.board.carry_feed(number, &from.inputs.board, other);
            }
        }
        self.inputs.board.stir(&new.inputs);
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
                for (local, x, y) in self.inputs.board.levels(&plan.inputs, slot) {
                    let counts = self.inputs.guards.stands(how.guard, local as u8, (x, y), is_sweep);
                    let level = crate::engine::inputs::sticks::bent(feed, counts);
                    self.inputs.board.set_feed((feed, number), local as u8, level);
                }
            }
        }
    }
}
