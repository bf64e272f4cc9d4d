//! From drafts to flat tables, slot by slot.

use super::*;
use crate::cue::Edge;
use crate::linkage::inputs::nine;
use crate::linkage::names::{Names, Sorted};
use crate::linkage::{HotPlan, Listener};

impl Builder<'_> {
    pub(super) fn finish(mut self) -> Result<Plan, Faults> {
        let declared = self.actions.len();
        if self.actions.len() <= MOST_ACTIONS {
            self.directions();
        }
        if self.profile.actions.is_empty() {
            self.warn(
                Spot::NONE,
                "",
                "this profile has no action, so nothing can happen; add one, as in `[action.hop]`",
            );
        }
        for action in &self.profile.actions {
            let number = self.declared(&action.name.value).unwrap_or(0);
            let silent = self.actions[number].controls.is_empty()
                && self.cues_of(number).iter().all(|cue| cue.line.subject.is_none())
                && !self.listening.iter().any(|(_, listener, role)| {
                    let cues = run(&self.actions[number].cues);
                    cues.contains(&usize::from(*listener)) && matches!(role, Role::Named(_))
                });
            if silent && action.inputs.iter().all(Option::is_none) {
                let problem = "nothing triggers this action: it has no control, and its cue listens to no other action";
                self.warn(action.name.spot, format!("action.{}", action.name.value), problem);
            }
        }
        let families = |view: &ControlView| view.control.family();
        self.actions.iter_mut().for_each(|action| action.controls.sort_by_key(families));
        let order = |fault: &Fault| (fault.spot.line == 0, fault.spot);
        self.faults.sort_by_key(order);
        self.stop_at(|_| true)?;
        Ok(self.lay_out(declared))
    }

    /// Sorts what was drafted into flat tables, slot by slot.
    pub(super) fn lay_out(mut self, declared: usize) -> Plan {
        let (order, place) = by_slot(self.contacts.iter().map(|draft| draft.slot));
        let (mut contacts, mut wires): (Vec<ContactPlan>, Vec<Wire>) = (Vec::new(), Vec::new());
        for (new, old) in order.iter().enumerate() {
            let draft = &self.contacts[*old];
            let first = wires.len() as u32;
            for wire in &draft.wires {
                if wire.leg.is_none() {
                    self.actions[usize::from(wire.action)].wires.push(wires.len() as u32);
                }
                wires.push(*wire);
            }
            contacts.push(ContactPlan {
                part: draft.part,
                down_at: draft.down_at,
                up_at: draft.up_at,
                wires: first..wires.len() as u32,
                has_legs: draft.wires.iter().any(|wire| wire.leg.is_some()),
            });
            grow(&mut self.inputs.slots[usize::from(draft.slot)].contacts, new as u32);
        }
        for contact in &mut self.inputs.leg_contacts {
            *contact = place[*contact as usize];
        }
        let (order, place) = by_slot(self.feeds.iter().map(|(slot, _)| *slot));
        for (new, old) in order.iter().enumerate() {
            grow(&mut self.inputs.slots[usize::from(self.feeds[*old].0)].feeds, new as u32);
        }
        let of_moved = self.inputs.moved.iter_mut().flat_map(|moved| &mut moved.feeds);
        for feed in of_moved.chain(&mut self.inputs.leg_feeds) {
            *feed = place[*feed as usize];
        }
        self.feeds.sort_by_key(|(slot, _)| *slot);
        self.listening.sort_by_key(|(heard, listener, _)| (*heard, *listener));
        for (place, (heard, ..)) in self.listening.iter().enumerate() {
            grow(&mut self.actions[usize::from(*heard)].listeners, place as u32);
        }
        self.finishes.sort_unstable();
        for (place, (heard, ..)) in self.finishes.iter().enumerate() {
            grow(&mut self.actions[usize::from(*heard)].finishes, place as u32);
        }
        let finishes = self.finishes.iter().map(|(_, set, finisher)| (*set, *finisher)).collect();
        let mut listeners: Vec<Listener> =
            self.listening.iter().map(|(_, listener, role)| Listener::new(*listener, *role, &self.cues.all)).collect();
        for action in &self.actions {
            for listener in listeners[run(&action.listeners)].iter().filter(|own| own.kinds & Edge::PUSH != 0) {
                self.cues.all[usize::from(listener.cue)].pushed = action.moved;
            }
        }
        for listener in &mut listeners {
            listener.pushed = self.cues.all[usize::from(listener.cue)].pushed;
        }
        for number in 0..declared {
            self.actions[number].aim = self.aims[number].and_then(|stick| self.actions[usize::from(stick)].moved);
        }
        let hot = |(number, action): (usize, &ActionPlan)| {
            HotPlan::new((number, action), &self.cues.all, &listeners[run(&action.listeners)])
        };
        let hot = self.actions.iter().enumerate().map(hot).collect();
        let mut stamp = xxhash_rust::xxh64::Xxh64::new(0);
        for action in &self.actions {
            stamp.update(action.name.as_bytes());
            stamp.update(&[0, action.kind as u8]);
        }
        for name in self.world.facts.iter().map(|f| &f.name).chain(self.world.modes.iter().map(|m| &m.name)) {
            stamp.update(name.as_bytes());
            stamp.update(&[1]);
        }
        for number in 0..self.panel.len() {
            let name = format!("{}-swipe", self.panel[number].name);
            let swipe =
                self.patches.iter().position(|(patch, _)| *patch == name && self.panel[number].kind == PatchKind::Zone);
            let slot = |place: usize| self.inputs.slot_of.get(Control::patch(place).number()).copied().flatten();
            let (own, swipes) = (slot(number), swipe.and_then(slot));
            let controls = [Some(Control::patch(number)), swipe.map(Control::patch)];
            let hears =
                |action: &&ActionPlan| action.controls.iter().any(|view| controls.contains(&Some(view.control)));
            let actions = self.actions[..declared].iter().enumerate().filter(|(_, action)| hears(action));
            let actions = actions.map(|(number, _)| number as u16).collect();
            let patch = &mut self.panel[number];
            (patch.slot, patch.swipe, patch.actions) = (own, swipes, actions);
        }
        let members = |group: usize| -> Vec<u16> {
            let of_group = |action: &u16| self.actions[usize::from(*action)].group == Some(Index::new(group as u16));
            (0..declared as u16).filter(of_group).collect()
        };
        let groups = (0..self.groups.len()).map(members).collect();
        let while_held = (0..declared as u16).filter(|n| self.actions[usize::from(*n)].while_held).collect();
        for slot in &mut self.inputs.slots {
            let is_whole = |contact: u32| matches!(contacts[contact as usize].part, Part::Whole | Part::X);
            if slot.sort == Sort::Button && slot.contacts.len() == 1 && is_whole(slot.contacts.start) {
                slot.only = core::num::NonZeroU32::new(slot.contacts.start + 1);
            }
        }
        let pairs = self.pairs(&mut wires);
        for moved in &mut self.inputs.moved {
            moved.is_heard = moved.pushes || !moved.motions.is_empty();
            moved.is_restless = moved.pushes || moved.sweep.is_some();
        }
        let moved_of = |feed: &FeedPlan| self.actions[usize::from(feed.action)].moved;
        let is_level = |slot: u16| self.inputs.slots[usize::from(slot)].sort == Sort::Level;
        let is_pair = |slot: u16, feed: &FeedPlan| !feed.leg && feed.part == Part::Whole && !is_level(slot);
        let feeds = self.feeds.into_iter().map(|(slot, feed)| FeedPlan {
            moved: moved_of(&feed),
            pair: is_pair(slot, &feed),
            bends: self.inputs.shapes.get(feed.shape as usize).cloned().unwrap_or_else(ShapePlan::plain),
            ..feed
        });
        let feeds: Vec<FeedPlan> = feeds.collect();
        let patches = self.patches.into_iter().map(|(name, _)| name).collect();
        for slot in &mut self.inputs.slots {
            let own = &feeds[run(&slot.feeds)];
            let mut moved: Vec<StickIndex> = own.iter().filter_map(|feed| feed.moved).collect();
            moved.sort_unstable();
            moved.dedup();
            let are_apart = moved.len() == own.len() && own.iter().all(|feed| !feed.leg);
            slot.is_plain = slot.sort == Sort::Pair && slot.contacts.is_empty() && are_apart;
        }
        let button = |action: &ActionPlan| {
            let ActionPlan { moved, pointer, mash_period, latched, .. } = *action;
            let works_more = pointer.is_some() || mash_period > 0;
            ButtonPlan { moved, pointer, mash_period, latched, works_more, wires: action.wires.clone() }
        };
        let buttons = self.actions.iter().map(button).collect();
        let panel = self.panel;
        let inputs = InputsPlan { contacts, wires, feeds, pairs, patches, panel, buttons, declared, ..self.inputs };
        let number = |name: &str| self.world.facts.iter().position(|fact| fact.name == name).unwrap_or(0);
        let (frozen, facing) = (number("frozen"), number("facing"));
        let known = |action: &ActionPlan| {
            let directions = action.moved.map(|stick| inputs.moved[usize::from(stick)].buttons).into_iter().flatten();
            let pointing = action.pointer.map(|pointer| &inputs.pointers[usize::from(pointer)]).into_iter();
            let pointing = pointing.flat_map(|pointer| [Some(pointer.drag), Some(pointer.click)]);
            WorldActionPlan {
                heard: action.heard.clone(),
                also: directions.chain(pointing).flatten().collect(),
                gate: action.gate.clone(),
                cooldown: action.cooldown,
                spends: action.spends.clone(),
                stages: action.stages,
                marks: action.marks.iter().map(|(_, span)| *span).collect(),
            }
        };
        let actions = self.actions[..declared].iter().map(known).collect();
        let world = WorldPlan { frozen, facing, actions, count: self.actions.len(), ..self.world };
        let cues = CuesPlan { listeners, finishes, ..self.cues };
        Plan {
            inputs,
            title: self.profile.title.clone(),
            // 0 is kept for handles that were not found.
            stamp: (stamp.digest() as u32).clamp(1, u32::MAX - 1),
            names: Names {
                actions: Sorted::new(self.actions.iter().map(|action| action.name.as_str())),
                facts: Sorted::new(world.facts.iter().map(|fact| fact.name.as_str())),
                modes: Sorted::new(world.modes.iter().map(|mode| mode.name.as_str())),
            },
            digest: 0,
            cues,
            world,
            hot,
            actions: self.actions,
            declared,
            while_held,
            groups,
            warnings: self.faults,
        }
    }

    /// What crosses give, and the pairs of legs that they stand on: those on the same controls are one.
    fn pairs(&mut self, wires: &mut [Wire]) -> Vec<PairPlan> {
        let mut pairs: Vec<PairPlan> = Vec::new();
        for (number, moved) in self.inputs.moved.iter().enumerate() {
            for place in run(&moved.crosses) {
                let [up, left, down, right] = &self.cross_legs[place];
                let contacts = |leg: &LegPlan| &self.inputs.leg_contacts[run(&leg.contacts)];
                let pair = |pairs: &mut Vec<PairPlan>, minus: &LegPlan, plus: &LegPlan| {
                    let is_keys = minus.feeds.is_empty() && plus.feeds.is_empty();
                    let same = |known: &PairPlan| {
                        (is_keys, known.is_keys, known.opposed) == (true, true, moved.opposed)
                            && contacts(&known.minus) == contacts(minus)
                            && contacts(&known.plus) == contacts(plus)
                    };
                    let place = pairs.iter().position(same).unwrap_or_else(|| {
                        let (minus, plus) = (minus.clone(), plus.clone());
                        pairs.push(PairPlan { minus, plus, opposed: moved.opposed, is_keys });
                        pairs.len() - 1
                    });
                    place as u32
                };
                let cross = &mut self.inputs.crosses[place];
                cross.pairs = [pair(&mut pairs, left, right), pair(&mut pairs, down, up)];
                (cross.moved, cross.nine) =
                    (Index::new(number as u16), nine(&self.inputs.shapes[cross.shape as usize], moved));
            }
        }
        for leg in wires.iter_mut().filter_map(|wire| wire.leg.as_mut()) {
            leg.pair = self.inputs.crosses[leg.cross as usize].pairs[usize::from(leg.upright)];
        }
        pairs
    }
}

/// In which order drafts of these slots stand slot by slot, and the place of each.
fn by_slot(slots: impl Iterator<Item = u16>) -> (Vec<usize>, Vec<u32>) {
    let slots: Vec<u16> = slots.collect();
    let mut order: Vec<usize> = (0..slots.len()).collect();
    order.sort_by_key(|draft| slots[*draft]);
    let mut place = vec![0; order.len()];
    for (new, old) in order.iter().enumerate() {
        place[*old] = new as u32;
    }
    (order, place)
}

#[cfg(test)]
mod tests {
    use crate::profile::{Action, Legs, Opposed};
    use crate::{Linkage, Profile};

    fn pairs(second: Action) -> usize {
        let keys = || Legs::cross("KeyW", "KeyA", "KeyS", "KeyD");
        let profile = Profile::new("keys").action(Action::stick("steer").keys(keys())).action(second.keys(keys()));
        Linkage::build(&profile).unwrap().0.inputs.pairs.len()
    }

    #[test]
    fn sticks_on_the_same_keys_share_their_pairs_if_they_mean_the_same_by_both_at_once() {
        assert_eq!(pairs(Action::stick("choose")), 2);
        assert_eq!(pairs(Action::stick("choose").opposed(Opposed::Oldest)), 4);
    }
}
