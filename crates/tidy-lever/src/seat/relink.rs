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
use alloc::boxed::Box;
use alloc::string::String;
use alloc::vec;
use alloc::vec::Vec;

use super::block::{Block, MARKS, Mark, PendingPull, Standing};
use super::waiting::{Waiting, WaitingKind};
use super::{Room, Seat};
use crate::cause::Cause;
use crate::control::Sort as ControlSort;
use crate::cue::rolls::MotionPlan;
use crate::cue::{Role, RulePlan};
use crate::gauge::GaugeState;
use crate::history::Happening;
use crate::index::{NONE, run};
use crate::inputs::ContactPlan;
use crate::inputs::fingers::Stage;
use crate::linkage::{Linkage, Plan};
use crate::seat::reading::Bookmark;
use crate::timers::DuePart;

/// What a relink left behind.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Relinked {
    /// Actions that the new profile has not: what they held or had on ended with cause `relinked`.
    pub lost: Vec<String>,
    /// Actions whose attempts, waits and keeps were dropped, as their rule changed.
    pub begun_anew: Vec<String>,
}

/// Where things of the old plan are in the new one.
struct Ways<'p> {
    old: &'p Plan,
    new: &'p Plan,
    /// Old action numbers by new ones, and the other way about; `NONE` where there is none.
    before: Vec<u16>,
    after: Vec<u16>,
}

/// The place of a name among others.
fn place<T>(all: &[T], same: impl Fn(&T) -> bool) -> u16 {
    all.iter().position(same).map_or(NONE, |place| place as u16)
}

impl<'p> Ways<'p> {
    fn new(old: &'p Plan, new: &'p Plan) -> Ways<'p> {
        // Mostly nothing moved: the same place is tried first.
        let way = |from: &Plan, to: &Plan| -> Vec<u16> {
            let same = |number: usize, other: usize| {
                let (one, two) = (&from.actions[number], &to.actions[other]);
                one.name == two.name && one.kind == two.kind
            };
            let find = |number: usize| {
                if number < to.actions.len() && same(number, number) {
                    return number as u16;
                }
                (0..to.actions.len()).find(|other| same(number, *other)).map_or(NONE, |other| other as u16)
            };
            (0..from.actions.len()).map(find).collect()
        };
        Ways { old, new, before: way(new, old), after: way(old, new) }
    }

    fn after(&self, action: u16) -> u16 {
        self.after.get(usize::from(action)).copied().unwrap_or(NONE)
    }

    /// The old cue that is the same as a new one: of the same action, the same rule, and listening to the same ones.
    fn cue_before(&self, cue: usize) -> Option<usize> {
        let before = usize::from(self.before[self.new.owner(cue)]);
        let mut all = run(&self.old.actions.get(before)?.cues);
        all.find(|other| self.same_cue(*other, cue))
    }

    /// The new cue that is the same as an old one, or `NONE`.
    fn cue_after(&self, cue: u16) -> u16 {
        let Some(plan) = self.old.cues.get(usize::from(cue)) else { return NONE };
        let Some(action) = self.new.actions.get(usize::from(self.after(plan.action))) else { return NONE };
        run(&action.cues).find(|new| self.same_cue(cue.into(), *new)).map_or(NONE, |new| new as u16)
    }

    /// Whether a cue's rule, and whom it listens to, are the same in both.
    fn same_cue(&self, before: usize, number: usize) -> bool {
        let (one, two) = (&self.old.cues[before], &self.new.cues[number]);
        let subject = |plan: &'p Plan, action: u16| plan.actions.get(usize::from(action)).map(|a| a.name.as_str());
        // Whom a chord or an order hears is not in the rule itself.
        let others = |plan: &'p Plan, number: usize| -> Vec<(&'p str, Role)> {
            let heard = |action: &'p crate::linkage::ActionPlan| {
                let roles = plan.listeners[run(&action.listeners)].iter();
                let own = roles.filter(move |(by, _)| usize::from(*by) == number);
                own.map(|(_, role)| (action.name.as_str(), *role))
            };
            plan.actions.iter().flat_map(heard).collect()
        };
        // Where a motion goes is not in the rule, either.
        let is_motion = matches!(one.rule, RulePlan::Rolls { .. });
        one.rule == two.rule
            && (!is_motion || one.line.rule == two.line.rule)
            && subject(self.old, one.subject) == subject(self.new, two.subject)
            && others(self.old, before) == others(self.new, number)
    }

    /// The button of the direction that a stick or an axis stood in, by its new number.
    fn stood_in(&self, from: &Block, number: usize) -> Option<u16> {
        let before = self.old.actions.get(usize::from(self.before[number]))?;
        let (was, moved) =
            (self.old.inputs.moved.get(usize::from(before.moved))?, from.moved.get(usize::from(before.moved))?);
        Some(self.after(was.buttons[moved.direction? as usize])).filter(|button| *button != NONE)
    }

    /// Whether a stick's or an axis's value is read in another way now.
    fn reads_anew(&self, number: usize) -> bool {
        let moved = |plan: &'p Plan, action: u16| {
            plan.actions.get(usize::from(action)).and_then(|action| plan.inputs.moved.get(usize::from(action.moved)))
        };
        match (moved(self.old, self.before[number]), moved(self.new, number as u16)) {
            (Some(was), Some(now)) => (was.compass, was.rest) != (now.compass, now.rest),
            _ => false,
        }
    }

    fn pending(&self, pending: &PendingPull) -> Option<PendingPull> {
        let (action, cue) = (self.after(pending.action), self.cue_after(pending.cue));
        // What a gauge pulled stands on no cue.
        let stays = action != NONE && (cue != NONE || pending.cue == NONE);
        stays.then_some(PendingPull { action, cue, ..*pending })
    }

    fn waiting(&self, waiting: &Waiting) -> Option<Waiting> {
        let number = usize::from(waiting.number);
        let number = match waiting.what {
            WaitingKind::Fact => place(&self.new.facts, |fact| fact.name == self.old.facts[number].name),
            WaitingKind::Mode => place(&self.new.modes, |mode| mode.name == self.old.modes[number].name),
            WaitingKind::Set | WaitingKind::GiveBack => self.after(waiting.number),
            WaitingKind::Control => {
                let control = self.new.inputs.same_control(&self.old.inputs, self.old.inputs.slots[number].control);
                let same = |slot: &crate::inputs::SlotPlan| {
                    Some(slot.control) == control && slot.sort == self.old.inputs.slots[number].sort
                };
                place(&self.new.inputs.slots, same)
            }
            WaitingKind::View | WaitingKind::Panel | WaitingKind::Touch | WaitingKind::Focus | WaitingKind::Plugged => {
                waiting.number
            }
        };
        // A fact's value counts by its word.
        let x = if waiting.what == WaitingKind::Fact && number != NONE {
            let word = self.old.facts[usize::from(waiting.number)].words.get(waiting.x as usize)?;
            i32::from(self.new.facts[usize::from(number)].value(word)?)
        } else {
            waiting.x
        };
        (number != NONE).then_some(Waiting { number, x, ..*waiting })
    }
}

impl Seat {
    /// Goes over to another linkage, by names: a profile that was changed while it plays, or the same with another remap.
    ///
    /// What is held stays held, toggles, gauges, facts and modes stay as they are; attempts and keeps go on where the
    /// compiled rule is the same. What was held by a control that is bound no longer, or was on by a rule that changed,
    /// ends with cause `relinked`. A control that is newly bound and held already is stale. Bookmarks go over with the
    /// seat. Handles of a profile with the same names stay good; of another, find them again. A ledger begins again,
    /// and numbers its attempts on.
    ///
    /// ```
    /// use tidy_lever::{Button, Control, Device, Event, Linkage, Moment, Profile};
    ///
    /// let text = "tidy-lever = 1\n[action.hop]\nkind = \"button\"\npad = [\"south\", \"east\"]\n";
    /// let linkage = Linkage::build(&Profile::from_toml(text)?)?;
    /// let hop: Button = linkage.find("hop")?;
    /// let mut seat = linkage.seat(Moment::ZERO);
    /// seat.feed(Event::button(Moment::from_millis(1), Device::new(0).unwrap(), Control::PAD_SOUTH, true))?;
    /// seat.advance(Moment::from_millis(10));
    /// let tuned = Linkage::build(&Profile::from_toml(&text.replace("south", "west"))?)?;
    /// seat.relink(&tuned, &mut []);
    /// assert!(!seat.button(hop).is_down() && seat.button(hop).went_up());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn relink(&mut self, linkage: &Linkage, bookmarks: &mut [&mut Bookmark]) -> Relinked {
        let (old, new) = (self.linkage.clone(), linkage.clone());
        let ways = Ways::new(&old.0, &new.0);
        let ledger = self.block.ledger.as_ref().map(|ledger| ledger.anew(&new.0));
        let (block, relinked) = self.block.relinked(&ways);
        for bookmark in bookmarks {
            let point = block.ring.carried(bookmark.point(), &self.block.ring);
            bookmark.relink(&ways.before, &ways.sweeps(), point);
        }
        self.block = block;
        self.block.ledger = ledger.map(Box::new);
        self.linkage = new.clone();
        relinked
    }
}

impl Ways<'_> {
    /// The sets of motions that see the same stick in the same way, by their new and their old numbers.
    fn motion_sets(&self) -> impl Iterator<Item = (usize, usize)> {
        let all = self.new.inputs.moved.iter().flat_map(|moved| moved.motions.iter().map(move |set| (moved, *set)));
        all.filter_map(|(moved, set)| {
            let before = self.old.actions.get(usize::from(self.before[usize::from(moved.action)]))?;
            let mut known = self.old.inputs.moved.get(usize::from(before.moved))?.motions.iter();
            let seen = self.new.motion_sets[usize::from(set)].seen;
            let was = known.find(|was| self.old.motion_sets[usize::from(**was)].seen == seen)?;
            Some((usize::from(set), usize::from(*was)))
        })
    }

    /// Old sweep numbers by new ones.
    fn sweeps(&self) -> Vec<u16> {
        let mut sweeps = vec![NONE; self.new.sweeps];
        for moved in &self.new.inputs.moved {
            let before = usize::from(self.before[usize::from(moved.action)]);
            let old =
                self.old.actions.get(before).and_then(|action| self.old.inputs.moved.get(usize::from(action.moved)));
            if let (Some((number, _)), Some((was, _))) = (moved.sweep, old.and_then(|old| old.sweep)) {
                sweeps[usize::from(number)] = was;
            }
        }
        sweeps
    }
}

impl Block {
    fn relinked(&self, ways: &Ways<'_>) -> (Block, Relinked) {
        let (old, new) = (ways.old, ways.new);
        let at = self.played();
        let room =
            Room { waiting: self.queue.capacity(), history: self.ring.capacity(), devices: self.board.device_room() };
        let mut block = Block::new(new, at, room);
        block.tally = self.tally;
        (block.next, block.tick, block.tick_began) = (self.next, self.tick, self.tick_began);
        (block.view, block.used, block.hand) = (self.view, self.used, self.hand);
        (block.frozen_since, block.frozen_for, block.recheck) = (self.frozen_since, self.frozen_for, self.recheck);
        for waiting in self.queue.iter().filter_map(|waiting| ways.waiting(waiting)) {
            block.queue.push(waiting);
        }
        block.ring = self.ring.mapped(|happening| {
            let over = ways.after(happening.over);
            Happening { action: ways.after(happening.action), over, ..*happening }
        });
        block.carry_told(self, ways);
        block.board.carry(&self.board, &old.inputs, &new.inputs);
        block.carry_fingers(self, ways);
        block.carry_actions(self, ways);
        let mut relinked = block.carry_rules(self, ways);
        block.settle_hands(self, ways, at);
        relinked.lost =
            (0..old.declared).filter(|n| ways.after[*n] == NONE).map(|n| old.actions[n].name.to_owned()).collect();
        (block, relinked)
    }

    /// Facts, modes, and how the truths of facts stand.
    fn carry_told(&mut self, from: &Block, ways: &Ways<'_>) {
        let (old, new) = (ways.old, ways.new);
        for (number, fact) in new.facts.iter().enumerate() {
            let Some(before) = old.facts.iter().position(|known| known.name == fact.name) else { continue };
            let word = &old.facts[before].words[usize::from(from.facts[before])];
            if let Some(value) = fact.value(word) {
                self.facts[number] = value;
            }
        }
        let before = |name: &str| old.modes.iter().position(|mode| mode.name == name);
        let known: Vec<(usize, u64)> = new
            .modes
            .iter()
            .enumerate()
            .filter_map(|(n, mode)| Some((n, from.modes.since(before(&mode.name)?))))
            .collect();
        self.modes.carry(&from.modes, &known);
        for action in 0..new.declared {
            let listens = self.modes.hears(&new.modes, &new.actions[action].heard);
            self.actions[action].listens = listens;
            if let Some(moved) = new.inputs.moved.get(usize::from(new.actions[action].moved)) {
                self.listens_too(&moved.buttons, listens);
            }
            self.pointers_too(new, action, listens);
        }
        for (number, truth) in new.truths.iter().enumerate() {
            let (fact, word) = (&new.facts[usize::from(truth.fact)], usize::from(truth.value));
            self.truths[number].holds = self.facts[usize::from(truth.fact)] == truth.value;
            let same = |known: &&crate::gate::TruthPlan| {
                let other = &old.facts[usize::from(known.fact)];
                other.name == fact.name && other.words.get(usize::from(known.value)) == fact.words.get(word)
            };
            let Some(was) =
                old.truths.iter().find(same).and_then(|known| old.truths.iter().position(|other| other == known))
            else {
                continue;
            };
            let holds = self.truths[number].holds;
            self.truths[number] = from.truths[was];
            self.truths[number].holds = holds;
            let spender = self.truths[number].spender;
            self.truths[number].spender = ways.after(spender);
            self.watch_truth(new, number, self.world(from.played()));
        }
    }

    fn carry_fingers(&mut self, from: &Block, ways: &Ways<'_>) {
        self.fingers = from.fingers;
        let patch = |number: u16| {
            let name = ways.old.panel.get(usize::from(number)).map(|patch| &patch.name);
            name.map_or(NONE, |name| place(&ways.new.panel, |patch| patch.name == *name))
        };
        for finger in &mut self.fingers.played {
            finger.stage = match finger.stage {
                Stage::Owned(number) if patch(number) == NONE => Stage::Dead,
                Stage::Owned(number) => Stage::Owned(patch(number)),
                Stage::Wild(zone, points) => Stage::Wild(patch(zone), points),
                stage => stage,
            };
        }
    }

    /// What actions are and were, by name: sums, stages, gauges, sweeps, pointers, directions.
    fn carry_actions(&mut self, from: &Block, ways: &Ways<'_>) {
        let (old, new) = (ways.old, ways.new);
        let world = from.world(from.played());
        for number in 0..new.actions.len() {
            let before = usize::from(ways.before[number]);
            let (Some(was), listens) = (from.actions.get(before), self.actions[number].listens) else { continue };
            let (one, two) = (&old.actions[before], &new.actions[number]);
            self.actions[number] = super::ActionState { listens, ..*was };
            if two.stages.is_none() {
                (self.actions[number].stage, self.actions[number].stage_before) = (0, 0);
            }
            if self.actions[number].cool_until > world {
                self.world_timers.set(new.cool_timer(number as u16), self.actions[number].cool_until, DuePart::Due);
            }
            if let (Some(plan), Some(known)) =
                (new.gauges.get(usize::from(two.gauge)), old.gauges.get(usize::from(one.gauge)))
            {
                let state = GaugeState::carried(&from.gauges[usize::from(one.gauge)], known, plan, world);
                self.gauges[usize::from(two.gauge)] = state;
                self.gauge_goes_on(new, usize::from(two.gauge), world);
            }
            if two.pointer != NONE && one.pointer != NONE {
                self.pointers[usize::from(two.pointer)] = from.pointers[usize::from(one.pointer)];
            }
            if two.moved != NONE && one.moved != NONE {
                self.moved[usize::from(two.moved)] = from.moved[usize::from(one.moved)];
                self.hands[usize::from(two.moved)] = from.hands[usize::from(one.moved)];
            }
        }
        for (number, before) in ways.sweeps().into_iter().enumerate().filter(|(_, before)| *before != NONE) {
            self.sweeps[number] = from.sweeps[usize::from(before)];
            self.swept[number] = from.swept[usize::from(before)];
        }
        for (owner, Mark { action, mark, pull }) in from.marks.iter().copied().enumerate() {
            let Some((due, phase)) = from.world_timers.when(old.first_mark_timer() + owner) else { continue };
            let after = ways.after(action);
            let name = old.actions.get(usize::from(action)).and_then(|action| action.marks.get(usize::from(mark)));
            let same = new.actions.get(usize::from(after)).and_then(|action| {
                action.marks.iter().position(|(other, _)| name.is_some_and(|(name, _)| name == other))
            });
            let first = new.first_mark_timer();
            if let (Some(mark), Some(free)) =
                (same, self.world_timers.free_from(first).filter(|free| free - first < MARKS * new.marks))
            {
                self.marks[free - first] = Mark { action: after, mark: mark as u8, pull };
                self.world_timers.set(free, due, phase);
            }
        }
    }

    /// How far rules have come, where they are the same; others begin again, and what was on by them ends.
    fn carry_rules(&mut self, from: &Block, ways: &Ways<'_>) -> Relinked {
        let (old, new) = (ways.old, ways.new);
        let mut relinked = Relinked::default();
        let at = from.played();
        let mut begun_anew = |action: u16| {
            if let Some(action) = new.actions.get(usize::from(ways.after(action)))
                && !relinked.begun_anew.contains(&action.name)
            {
                relinked.begun_anew.push(action.name.clone());
            }
        };
        let mut carried = vec![NONE; new.motion_sets.len()];
        for (set, was) in ways.motion_sets() {
            let (motions, known) = (&new.motion_sets[set], &old.motion_sets[was]);
            let (after, cue_after) = (|action| ways.after(action), |cue| ways.cue_after(cue));
            self.motions[set].carry(motions, &from.motions[was], known, (after, cue_after));
            carried[set] = was as u16;
            // Steps that are being held go on.
            for motion in &motions.motions {
                let twin = motions.twin(motion, known, after, cue_after).map(|twin| &known.motions[twin]);
                if let (Some(timer), Some(before)) = (motion.timer(), twin.and_then(MotionPlan::timer))
                    && let Some((due, phase)) = from.timers.when(old.first_motion_timer() + before)
                {
                    self.timers.set(new.first_motion_timer() + timer, due, phase);
                }
            }
        }
        for (was, motions) in old.motion_sets.iter().enumerate() {
            let set = carried.iter().position(|carried| usize::from(*carried) == was);
            for bit in from.motions[was].bits() {
                let (_, before) = motions.step(bit);
                let has_twin = set.is_some_and(|set| {
                    let now = &new.motion_sets[set];
                    let is_its = |motion: &MotionPlan| {
                        let twin = now.twin(motion, motions, |action| ways.after(action), |cue| ways.cue_after(cue));
                        twin.is_some_and(|twin| core::ptr::eq(&motions.motions[twin], before))
                    };
                    now.motions.iter().any(is_its)
                });
                if !has_twin {
                    begun_anew(old.cues[usize::from(before.cue)].action);
                }
            }
        }
        for cue in 0..new.cues.len() {
            let Some(before) = ways.cue_before(cue) else { continue };
            self.rule_states[cue] = from.rule_states[before];
            let (to, source) = (run(&new.cues[cue].moments), run(&old.cues[before].moments));
            self.moments[to].copy_from_slice(&from.moments[source]);
            if let Some((due, phase)) = from.timers.when(before) {
                self.timers.set(cue, due, phase);
            }
        }
        for number in 0..new.declared {
            let before = usize::from(ways.before[number]);
            if before >= from.actions.len() {
                continue;
            }
            // What went on on a cue that is no more, is over.
            let gone = |cue: usize| ways.cue_after(cue as u16) == NONE;
            let lines = run(&old.actions[before].cues);
            if lines.clone().any(|cue| gone(cue) && from.rule_states[cue].open) {
                relinked.begun_anew.push(new.actions[number].name.clone());
            }
            let was = old.while_held.binary_search(&(before as u16)).ok();
            if let (Some(was), Some(standing)) = (was, self.standing_of(new, number)) {
                let cue = ways.cue_after(from.standing[was].cue);
                if cue != NONE {
                    *standing = Standing { cue, ..from.standing[was] };
                }
            }
            let several = old.actions[before].has_several();
            let stays = |cue: usize| !gone(cue) && (!several || from.rule_states[cue].on);
            let none = old.actions[before].cues == (0..0) && new.actions[number].cues.is_empty();
            self.actions[number].pulled_by = ways.cue_after(from.actions[before].pulled_by);
            let goes_on = none || lines.into_iter().any(stays) || (old.toggles(before) && new.toggles(number));
            if !goes_on {
                self.end(new, number, Cause::Relinked, at);
            }
        }
        self.waits.extend(from.waits.iter().filter_map(|pending| ways.pending(pending)));
        for kept in &from.kept {
            let Some(pending) = ways.pending(kept) else { continue };
            let (before, keep) =
                (old.actions[usize::from(kept.action)].keep, new.actions[usize::from(pending.action)].keep);
            // From when it was kept, by the world's clock, which may have stood still since.
            if let (Some((due, _)), true) = (from.world_timers.when(old.keep_timer(kept.action)), keep > 0) {
                self.world_timers.set(new.keep_timer(pending.action), due - before + keep, DuePart::Expire);
                self.kept.push(pending);
            }
        }
        relinked
    }

    /// What is held now, by the new wires: what nobody holds any more goes up, what is newly bound and held is stale.
    fn settle_hands(&mut self, from: &Block, ways: &Ways<'_>, at: u64) {
        let (old, new) = (ways.old, ways.new);
        let mut held = vec![0u16; new.declared];
        for (contact, how) in new.inputs.contacts.iter().enumerate() {
            let down = self.board.contacts[contact].down;
            let before = old.inputs.contact_like(&new.inputs, contact);
            for number in run(&how.wires) {
                let wire = new.inputs.wires[number];
                let was = before.and_then(|before| {
                    let mut wires = run(&old.inputs.contacts[before].wires);
                    wires.find(|old_wire| {
                        let old_wire = old.inputs.wires[*old_wire];
                        old_wire.leg.is_none() && ways.after(old_wire.action) == wire.action
                    })
                });
                // Bound before: as stale as it was. Bound again: stale while it is held. The legs of a cross count at once.
                let stale = was.map_or(down, |was| from.stale[was] & down);
                self.stale[number] = if wire.leg.is_some() { 0 } else { stale };
                if wire.leg.is_none() && self.actions[usize::from(wire.action)].listens && self.board.focused {
                    held[usize::from(wire.action)] += (down & !self.stale[number]).count_ones() as u16;
                }
            }
        }
        for (number, mut held) in held.into_iter().enumerate() {
            let action = &new.actions[number];
            if action.moved != NONE {
                self.levels_anew(new, number);
                self.carry_levels(from, ways, number);
                self.crossed(new, number as u16);
                if ways.reads_anew(number) {
                    self.moved[usize::from(action.moved)].look_again();
                }
                // A direction that it can no longer stand in is a button of nobody's.
                if let Some(button) = ways.stood_in(from, number).map(usize::from)
                    && !new.inputs.moved[usize::from(action.moved)].buttons.contains(&(button as u16))
                    && self.actions[button].held > 0
                {
                    self.let_go(new, button, Cause::Relinked, at);
                }
                self.moved(new, number as u16, Cause::Relinked, at);
                continue;
            }
            held += u16::from(self.finger_holds(from, ways, number));
            if action.latched {
                held = u16::from(self.actions[number].held > 0 && self.latch_is_bound(from, ways, number));
            }
            if self.actions[number].held > 0 && held == 0 {
                self.let_go(new, number, Cause::Relinked, at);
            } else {
                self.actions[number].held = held;
            }
            if self.actions[number].held > 0 && action.mash_period > 0 {
                let before = usize::from(ways.before[number]);
                let same = old.actions.get(before).is_some_and(|was| was.mash_period == action.mash_period);
                let was = from.timers.when(old.first_mash_timer() + before).filter(|_| same);
                let (due, phase) = was.unwrap_or((at + action.mash_period, DuePart::Due));
                self.timers.set(new.first_mash_timer() + number, due, phase);
            }
        }
    }

    /// Whether a finger that pointed holds a pointer on, as the new profile lets fingers point, too.
    fn finger_holds(&self, from: &Block, ways: &Ways<'_>, number: usize) -> bool {
        let (action, before) = (&ways.new.actions[number], usize::from(ways.before[number]));
        let Some(pointer) = ways.new.inputs.pointers.get(usize::from(action.pointer)) else { return false };
        let Some(was) = from.actions.get(before) else { return false };
        let by_controls: u32 = ways.old.actions[before]
            .wires
            .iter()
            .map(|wire| {
                let contact = ways.old.inputs.contacts.partition_point(|contact| contact.wires.end <= *wire);
                (from.board.contacts[contact].down & !from.stale[*wire as usize]).count_ones()
            })
            .sum();
        usize::from(pointer.touch) == number && self.fingers.points() && u32::from(was.held) > by_controls
    }

    /// Whether what put a button down by one press is still bound to it; and it was one press.
    fn latch_is_bound(&self, from: &Block, ways: &Ways<'_>, number: usize) -> bool {
        let (old, new) = (ways.old, ways.new);
        let before = usize::from(ways.before[number]);
        let Some(was) = old.actions.get(before) else { return false };
        let press = from.actions[before].press;
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
    fn carry_levels(&mut self, from: &Block, ways: &Ways<'_>, action: usize) {
        let (old, new) = (ways.old, ways.new);
        let before = ways.before[action];
        let Some(was) =
            old.actions.get(usize::from(before)).and_then(|known| old.inputs.moved.get(usize::from(known.moved)))
        else {
            return;
        };
        let now = &new.inputs.moved[usize::from(new.actions[action].moved)];
        let (to, source) = (run(&now.crosses), run(&was.crosses));
        if to.len() == source.len() {
            self.crosses[to].copy_from_slice(&from.crosses[source]);
        }
        for (number, feed) in new.inputs.feeds.iter().enumerate().filter(|(_, feed)| usize::from(feed.action) == action)
        {
            let control =
                new.inputs.feed_control(number).and_then(|control| old.inputs.same_control(&new.inputs, control));
            let same = |(other, known): &(usize, &crate::inputs::FeedPlan)| {
                (known.action, known.part, known.leg) == (before, feed.part, feed.leg)
                    && old.inputs.feed_control(*other) == control
                    && old.inputs.shapes[known.shape as usize] == new.inputs.shapes[feed.shape as usize]
            };
            if let Some((other, _)) = old.inputs.feeds.iter().enumerate().find(same) {
                self.board.carry_feed(number, &from.board, other);
            }
        }
    }

    /// The levels of an action's whole controls as their devices said last, bent by its shapes as they are now.
    fn levels_anew(&mut self, plan: &Plan, action: usize) {
        for (slot, how) in plan.inputs.slots.iter().enumerate() {
            if !matches!(how.sort, ControlSort::Level | ControlSort::Pair) {
                continue;
            }
            for place in run(&how.feeds) {
                let number = plan.inputs.slot_feeds[place] as usize;
                if usize::from(plan.inputs.feeds[number].action) != action {
                    continue;
                }
                for (local, x, y) in self.board.levels(&plan.inputs, slot) {
                    let level = super::play::bent(plan, number, how.sort, (x, y));
                    self.board.set_feed(number, local, level);
                }
            }
        }
    }
}
