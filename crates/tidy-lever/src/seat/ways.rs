//! Which action, cue, control and set of motions of an old plan is which in a new one.

use super::block::Block;
use super::pending::PendingPull;
use super::waiting::{Waiting, WaitingKind};
use crate::cue::Role;
use crate::index::{NONE, run};
use crate::linkage::Plan;
use alloc::vec;
use alloc::vec::Vec;

/// Where things of the old plan are in the new one.
pub(super) struct Ways<'p> {
    pub(super) old: &'p Plan,
    pub(super) new: &'p Plan,
    /// Old action numbers by new ones, and the other way about; `NONE` where there is none.
    pub(super) before: Vec<u16>,
    pub(super) after: Vec<u16>,
}

/// The place of a name among others.
pub(super) fn place<T>(all: &[T], same: impl Fn(&T) -> bool) -> u16 {
    all.iter().position(same).map_or(NONE, |place| place as u16)
}

impl<'p> Ways<'p> {
    pub(super) fn new(old: &'p Plan, new: &'p Plan) -> Ways<'p> {
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

    pub(super) fn after(&self, action: u16) -> u16 {
        self.after.get(usize::from(action)).copied().unwrap_or(NONE)
    }

    /// The old cue that is the same as a new one: of the same action, the same rule, and listening to the same ones.
    pub(super) fn cue_before(&self, cue: usize) -> Option<usize> {
        let before = usize::from(self.before[self.new.owner(cue)]);
        let mut all = run(&self.old.actions.get(before)?.cues);
        all.find(|other| self.same_cue(*other, cue))
    }

    /// The new cue that is the same as an old one, or `NONE`.
    pub(super) fn cue_after(&self, cue: u16) -> u16 {
        let Some(plan) = self.old.cues.get(usize::from(cue)) else { return NONE };
        let Some(action) = self.new.actions.get(usize::from(self.after(plan.action))) else { return NONE };
        run(&action.cues).find(|new| self.same_cue(cue.into(), *new)).map_or(NONE, |new| new as u16)
    }

    /// Whether a cue's rule, and whom it listens to, are the same in both.
    pub(super) fn same_cue(&self, before: usize, number: usize) -> bool {
        let (one, two) = (&self.old.cues[before], &self.new.cues[number]);
        let subject = |plan: &'p Plan, action: u16| plan.actions.get(usize::from(action)).map(|a| a.name.as_str());
        // Whom a chord or an order hears is not in the rule itself.
        let others = |plan: &'p Plan, number: usize| -> Vec<(&'p str, Role)> {
            let heard = |action: &'p crate::linkage::ActionPlan| {
                let roles = plan.listeners[run(&action.listeners)].iter();
                let own = roles.filter(move |listener| usize::from(listener.cue) == number);
                own.map(|listener| (action.name.as_str(), listener.role))
            };
            plan.actions.iter().flat_map(heard).collect()
        };
        // Where a motion goes is not in the rule, either.
        let is_motion = one.rule.is_motion();
        one.rule == two.rule
            && (!is_motion || one.line.rule == two.line.rule)
            && subject(self.old, one.subject) == subject(self.new, two.subject)
            && others(self.old, before) == others(self.new, number)
    }

    /// The button of the direction that a stick or an axis stood in, by its new number.
    pub(super) fn stood_in(&self, from: &Block, number: usize) -> Option<u16> {
        let before = self.old.actions.get(usize::from(self.before[number]))?;
        let (was, moved) =
            (self.old.inputs.moved.get(usize::from(before.moved))?, from.inputs.moved.get(usize::from(before.moved))?);
        Some(self.after(was.buttons[moved.direction? as usize])).filter(|button| *button != NONE)
    }

    /// Whether a stick's or an axis's value is read in another way now.
    pub(super) fn reads_anew(&self, number: usize) -> bool {
        let moved = |plan: &'p Plan, action: u16| {
            plan.actions.get(usize::from(action)).and_then(|action| plan.inputs.moved.get(usize::from(action.moved)))
        };
        match (moved(self.old, self.before[number]), moved(self.new, number as u16)) {
            (Some(was), Some(now)) => (was.compass, was.rest) != (now.compass, now.rest),
            _ => false,
        }
    }

    pub(super) fn pending(&self, pending: &PendingPull) -> Option<PendingPull> {
        let (action, cue) = (self.after(pending.action), self.cue_after(pending.cue));
        // What a gauge pulled stands on no cue.
        let stays = action != NONE && (cue != NONE || pending.cue == NONE);
        stays.then_some(PendingPull { action, cue, ..*pending })
    }

    pub(super) fn waiting(&self, waiting: &Waiting) -> Option<Waiting> {
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

impl Ways<'_> {
    /// The sets of motions that see the same stick in the same way, by their new and their old numbers.
    pub(super) fn motion_sets(&self) -> impl Iterator<Item = (usize, usize)> {
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
    pub(super) fn sweeps(&self) -> Vec<u16> {
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
