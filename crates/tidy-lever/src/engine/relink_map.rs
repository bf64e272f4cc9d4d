//! Which action, cue, control and set of motions of an old plan is which in a new one.

use crate::cue::Role;
use crate::direction::Direction;
use crate::engine::incoming::{InputKind, QueuedInput};
use crate::index::{ActionIndex, CueIndex, Index, run};
use crate::linkage::{ActionPlan, Plan};
use alloc::string::String;
use alloc::vec;
use alloc::vec::Vec;

/// Where things of the old plan are in the new one.
pub(crate) struct RelinkMap<'p> {
    pub(crate) old: &'p Plan,
    pub(crate) new: &'p Plan,
    /// Old actions by new numbers, and the other way about.
    pub(crate) before: Vec<Option<ActionIndex>>,
    pub(crate) after: Vec<Option<ActionIndex>>,
    /// Old cues by new numbers: of the same action, the same rule, and listening to the same ones.
    cues: Vec<Option<usize>>,
    /// Whom each old and each new cue hears, and as what.
    heard: [Vec<Vec<(&'p str, Role)>>; 2],
}

/// Whom each cue of a plan hears, in the order of the actions.
fn heard(plan: &Plan) -> Vec<Vec<(&str, Role)>> {
    let mut heard = vec![Vec::new(); plan.cues.all.len()];
    for action in &plan.actions {
        for listener in &plan.cues.listeners[run(&action.listeners)] {
            heard[usize::from(listener.cue)].push((action.name.as_str(), listener.role));
        }
    }
    heard
}

/// The place of a name among others.
pub(crate) fn place<T, Kind>(all: &[T], same: impl Fn(&T) -> bool) -> Option<Index<Kind>> {
    Index::found(all.iter().position(same))
}

impl<'p> RelinkMap<'p> {
    pub(crate) fn new(old: &'p Plan, new: &'p Plan) -> RelinkMap<'p> {
        // Mostly nothing moved: the same place is tried first.
        let way = |from: &Plan, to: &Plan| -> Vec<Option<ActionIndex>> {
            let same = |number: usize, other: usize| {
                let (one, two) = (&from.actions[number], &to.actions[other]);
                one.name == two.name && one.kind == two.kind
            };
            let find = |number: usize| {
                let at_once = (number < to.actions.len() && same(number, number)).then_some(number);
                Index::found(at_once.or_else(|| (0..to.actions.len()).find(|other| same(number, *other))))
            };
            (0..from.actions.len()).map(find).collect()
        };
        let (before, after, heard) = (way(new, old), way(old, new), [heard(old), heard(new)]);
        let mut map = RelinkMap { old, new, before, after, cues: Vec::new(), heard };
        map.cues = (0..new.cues.all.len()).map(|cue| map.cue_before(cue)).collect();
        map
    }

    pub(crate) fn after(&self, action: u16) -> Option<ActionIndex> {
        self.after.get(usize::from(action)).copied().flatten()
    }

    /// The old action that a new one is, by its number.
    pub(crate) fn before(&self, action: usize) -> Option<usize> {
        self.before[action].map(usize::from)
    }

    /// The old cue that is the same as a new one.
    fn cue_before(&self, cue: usize) -> Option<usize> {
        let mut all = run(&self.old.actions[self.before(self.new.owner(cue))?].cues);
        all.find(|other| self.same_cue(*other, cue))
    }

    /// The new cue that is the same as an old one.
    pub(crate) fn cue_after(&self, cue: u16) -> Option<CueIndex> {
        let plan = self.old.cues.all.get(usize::from(cue))?;
        let action = &self.new.actions[usize::from(self.after(plan.action)?)];
        Index::found(run(&action.cues).find(|new| self.same_cue(cue.into(), *new)))
    }

    /// Whether a cue's rule, and whom it listens to, are the same in both.
    pub(crate) fn same_cue(&self, before: usize, number: usize) -> bool {
        let (one, two) = (&self.old.cues.all[before], &self.new.cues.all[number]);
        let subject = |plan: &'p Plan, action: u16| plan.actions.get(usize::from(action)).map(|a| a.name.as_str());
        // Where a motion goes is not in the rule, either.
        let is_motion = one.rule.is_motion();
        one.rule == two.rule
            && (!is_motion || one.line.rule == two.line.rule)
            && subject(self.old, one.subject) == subject(self.new, two.subject)
            // Whom a chord or an order hears is not in the rule itself.
            && self.heard[0][before] == self.heard[1][number]
    }

    /// The button of the direction that a stick or an axis stood in, by its new number.
    pub(crate) fn stood_in(
        &self,
        number: usize,
        direction: impl Fn(usize) -> Option<Direction>,
    ) -> Option<ActionIndex> {
        let stick = usize::from(self.old.actions[self.before(number)?].moved?);
        let direction = direction(stick)?;
        self.after(self.old.inputs.moved[stick].buttons[direction as usize]?.number())
    }

    /// Whether a stick's or an axis's value is read in another way now.
    pub(crate) fn reads_anew(&self, number: usize) -> bool {
        let moved = |plan: &'p Plan, action: usize| {
            plan.actions[action].moved.map(|stick| &plan.inputs.moved[usize::from(stick)])
        };
        match (self.before(number).and_then(|before| moved(self.old, before)), moved(self.new, number)) {
            (Some(was), Some(now)) => (was.compass, was.rest) != (now.compass, now.rest),
            _ => false,
        }
    }

    pub(crate) fn queued(&self, waiting: &QueuedInput) -> Option<QueuedInput> {
        let number = usize::from(waiting.number);
        let number = match waiting.what {
            InputKind::Fact => {
                self.new.world.facts.iter().position(|fact| fact.name == self.old.world.facts[number].name)?
            }
            InputKind::Mode => {
                self.new.world.modes.iter().position(|mode| mode.name == self.old.world.modes[number].name)?
            }
            InputKind::Set | InputKind::GiveBack => self.after(waiting.number)?.into(),
            InputKind::Control | InputKind::RoughControl | InputKind::Stands => {
                let control = self.new.inputs.same_control(&self.old.inputs, self.old.inputs.slots[number].control);
                let same = |slot: &crate::linkage::SlotPlan| {
                    Some(slot.control) == control && slot.sort == self.old.inputs.slots[number].sort
                };
                self.new.inputs.slots.iter().position(same)?
            }
            InputKind::View
            | InputKind::Panel
            | InputKind::Named
            | InputKind::Touch
            | InputKind::Focus
            | InputKind::Plugged => number,
        };
        // A fact's value counts by its word.
        let x = if waiting.what == InputKind::Fact {
            let word = self.old.world.facts[usize::from(waiting.number)].words.get(waiting.x as usize)?;
            i32::from(self.new.world.facts[number].value(word)?)
        } else {
            waiting.x
        };
        Some(QueuedInput { number: number as u16, x, ..*waiting })
    }
}

impl<'p> RelinkMap<'p> {
    /// The sets of motions that see the same stick in the same way, by their new and their old numbers.
    pub(crate) fn motion_sets(&self) -> impl Iterator<Item = (usize, usize)> {
        let sets = |plan: &'p Plan, stick: usize| plan.inputs.moved[stick].motions.iter().map(|set| usize::from(*set));
        self.by_stick().flat_map(move |(stick, before)| {
            let seen = |set: usize| self.new.cues.motions[set].seen;
            let same =
                move |set: usize| sets(self.old, before).find(|was| self.old.cues.motions[*was].seen == seen(set));
            sets(self.new, stick).filter_map(move |set| Some((set, same(set)?)))
        })
    }

    /// Sticks and axes that go over, by their new and their old numbers.
    pub(crate) fn by_stick(&self) -> impl Iterator<Item = (usize, usize)> {
        self.by_action(|action| action.moved.map(usize::from))
    }

    /// Pointers that go over, with what they were.
    pub(crate) fn by_pointer(&self) -> impl Iterator<Item = (usize, usize)> {
        self.by_action(|action| action.pointer.map(usize::from))
    }

    /// Sweeps that go over, with what they were.
    pub(crate) fn by_sweep(&self) -> impl Iterator<Item = (usize, usize)> {
        let sweep = |plan: &Plan, stick: usize| plan.inputs.moved[stick].sweep.map(|(sweep, _)| usize::from(sweep));
        self.by_stick().filter_map(move |(stick, before)| Some((sweep(self.new, stick)?, sweep(self.old, before)?)))
    }

    /// Cues whose rule is the same, with what they were.
    pub(crate) fn by_cue(&self) -> impl Iterator<Item = (usize, usize)> {
        self.cues.iter().enumerate().filter_map(|(cue, before)| Some((cue, (*before)?)))
    }

    /// What actions that go over have at most one each of.
    fn by_action(&self, own: impl Fn(&ActionPlan) -> Option<usize>) -> impl Iterator<Item = (usize, usize)> {
        let actions = self.new.actions.iter().enumerate();
        actions.filter_map(move |(number, action)| Some((own(action)?, own(&self.old.actions[self.before(number)?])?)))
    }

    /// Old sweeps by new numbers.
    pub(crate) fn sweeps(&self) -> Vec<Option<usize>> {
        let mut sweeps = vec![None; self.new.inputs.sweeps];
        self.by_sweep().for_each(|(sweep, before)| sweeps[sweep] = Some(before));
        sweeps
    }
}

/// What a relink left behind.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub struct Relinked {
    /// Actions that the new profile has not: what they held or had on ended with cause `relinked`.
    pub lost: Vec<String>,
    /// Actions whose attempts, waits and keeps were dropped, as their rule changed.
    pub begun_anew: Vec<String>,
}
