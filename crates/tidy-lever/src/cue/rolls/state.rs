//! How far the motions of a stick have come.

use alloc::vec;
use alloc::vec::Vec;

use super::plan::{FinisherPlan, MotionSet, StepPlan};
use crate::cue::Presses;
use crate::direction::Direction;
use crate::index::{ActionIndex, CueIndex};
use crate::sparse::copy_list;

/// How a motion came to its last matched step.
#[derive(Clone, Copy, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Slot {
    /// When the first position was left.
    pub(crate) began: u64,
    /// The directions entered.
    pub(super) presses: Presses,
    /// What `facing` was then.
    pub(super) facing: u16,
    /// It is meant for the other side.
    pub(super) averted: bool,
    /// Since when the stick stands one eighth beyond the way; only read where it does.
    pub(super) strayed: u64,
    pub(super) strayed_to: Option<Direction>,
}

/// The last press, or letting go, of an action that finishes motions.
#[derive(Clone, Copy, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(super) struct Finish {
    pub(super) at: u64,
    /// 0 for none yet.
    pub(super) press: u64,
}

/// How far the motions of one stick have come.
#[derive(Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct MotionState {
    pub(super) active: Vec<u64>,
    /// The bits, of those, whose stick stands one eighth beyond the way.
    pub(super) strayed: Vec<u64>,
    pub(super) slots: Vec<Slot>,
    /// When each direction was entered and left last, and what `facing` was at leaving.
    pub(super) entered: [u64; 8],
    pub(super) left: [u64; 8],
    pub(super) facing: [u16; 8],
    /// Since when the stick stood in a direction or beside it, when it was entered last.
    pub(super) fresh: [u64; 8],
    /// The directions, a bit each, that only neighbours were visited from since they were left.
    pub(super) brushed: u8,
    pub(crate) stands: Option<Direction>,
    /// Where keys stood before the stick came to rest.
    pub(super) stood: Option<Direction>,
    pub(super) digital: bool,
    pub(super) finishes: Vec<Finish>,
    /// The devices that moved the stick since the last time nothing was under way.
    pub(crate) by: u64,
}

/// What became of a motion.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Motion {
    /// It came as far as this bit.
    Came { bit: u16, from: u16 },
    /// The next step, or the finish, came this many µs too late.
    Late { bit: u16, by: u64 },
    /// A step was left this many µs too soon.
    Short { bit: u16, by: u64 },
    /// The first position had been held this many µs too long.
    Stale { bit: u16, by: u64 },
    /// The finish came this many µs too early before the last direction.
    Early { bit: u16, by: u64 },
    /// The stick stood beside the way this many µs too long when the finish came.
    Strayed { bit: u16, by: u64 },
    /// Another direction came; what was borne for a while broke at that moment.
    Broken { bit: u16, borne_until: Option<u64> },
    /// It was finished, but is meant for the other side.
    Averted { bit: u16 },
    /// It is complete.
    Done { bit: u16, presses: Presses, facing: u16, pressed: u64 },
    /// Its last direction is entered, and must be held until then.
    Holds { bit: u16, until: u64 },
}

impl Motion {
    /// Puts it aside. There is room for all that one event can do.
    pub(crate) fn put(self, shown: &mut Vec<Motion>) {
        debug_assert!(shown.len() < shown.capacity(), "a seat never allocates while it plays");
        shown.push(self);
    }
}

/// What is to be shown of a turn.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Wanted {
    All,
    Last,
}

/// A moment of a stick: where it turns, as which press, and what `facing` is.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Turned {
    pub(crate) at: u64,
    pub(crate) to: Option<Direction>,
    pub(crate) press: u64,
    pub(crate) facing: u16,
    /// Keys, a cross or a directional pad push it.
    pub(crate) digital: bool,
}

pub(super) fn each_bit(mut word: u64) -> impl Iterator<Item = usize> {
    core::iter::from_fn(move || {
        let top = 63u32.checked_sub(word.leading_zeros())?;
        word &= !(1 << top);
        Some(top as usize)
    })
}

impl Clone for MotionState {
    fn clone(&self) -> MotionState {
        let mut clone = MotionState::default();
        clone.clone_from(self);
        clone
    }

    /// Without allocating, where both are of the same set.
    fn clone_from(&mut self, other: &MotionState) {
        copy_list(&mut self.active, &other.active);
        copy_list(&mut self.strayed, &other.strayed);
        copy_list(&mut self.slots, &other.slots);
        copy_list(&mut self.finishes, &other.finishes);
        self.track_like(other);
    }
}

impl MotionState {
    pub(crate) fn new(set: &MotionSet) -> MotionState {
        MotionState {
            active: vec![0; set.rows.len()],
            strayed: vec![0; set.rows.len()],
            slots: vec![Slot::default(); set.steps.len()],
            finishes: vec![Finish::default(); set.finishers.len()],
            ..MotionState::default()
        }
    }

    /// Whether a state that was read is one of this set.
    #[cfg(feature = "serde")]
    pub(crate) fn fits(&self, set: &MotionSet) -> bool {
        let rows = [self.active.len(), self.strayed.len()];
        let steps = (self.slots.len(), self.finishes.len());
        rows == [set.rows.len(); 2]
            && steps == (set.steps.len(), set.finishers.len())
            && self.bits().all(|bit| bit < steps.0)
    }

    /// Takes over where the stick stands and stood.
    pub(super) fn track_like(&mut self, other: &MotionState) {
        (self.entered, self.left, self.facing, self.fresh) = (other.entered, other.left, other.facing, other.fresh);
        (self.stands, self.stood, self.digital) = (other.stands, other.stood, other.digital);
        (self.brushed, self.by) = (other.brushed, other.by);
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self, word: &mut impl FnMut(u64)) {
        let MotionState { active, strayed, slots, entered, left, facing, fresh, brushed, .. } = self;
        let MotionState { stands, stood, digital, finishes, by, .. } = self;
        let number = |direction: &Option<Direction>| direction.map_or(0, |direction| direction as u64 + 1);
        word(number(stands) | number(stood) << 8 | u64::from(*brushed) << 16 | u64::from(*digital) << 24);
        word(*by);
        for place in 0..8 {
            let facing = u64::from(facing[place]);
            [entered[place], left[place], facing, fresh[place]].into_iter().for_each(&mut *word);
        }
        for finish in finishes {
            let Finish { at, press } = *finish;
            word(at);
            word(press);
        }
        for (row, active) in active.iter().enumerate() {
            word(*active);
            // What is not set is set before it is read.
            for bit in each_bit(*active).map(|bit| &slots[row * 64 + bit]) {
                let Slot { began, presses, facing, averted, strayed: _, strayed_to: _ } = *bit;
                word(began);
                word(u64::from(facing) << 1 | u64::from(averted));
                presses.words().into_iter().for_each(&mut *word);
            }
            word(strayed[row]);
            each_bit(strayed[row]).for_each(|bit| word(slots[row * 64 + bit].strayed));
        }
    }

    pub(super) fn has(&self, bit: usize) -> bool {
        self.active[bit / 64] >> (bit % 64) & 1 == 1
    }

    /// Whether anything is under way behind a first position.
    pub(crate) fn is_idle(&self) -> bool {
        self.active.iter().all(|active| *active == 0)
    }

    /// Drops what a cue's motions have come to.
    pub(crate) fn drop_cue(&mut self, set: &MotionSet, cue: u16) {
        for (row, mask) in set.bits_of(cue) {
            self.active[row] &= !mask;
            self.strayed[row] &= !mask;
        }
    }

    /// Drops everything; the motions that had begun are shown.
    pub(crate) fn drop_all(&mut self, mut show: impl FnMut(usize)) {
        for (row, active) in self.active.iter_mut().enumerate() {
            each_bit(core::mem::take(active)).for_each(|bit| show(row * 64 + bit));
        }
        self.strayed.fill(0);
        (self.stood, self.brushed, self.by) = (None, 0, 0);
        self.finishes.fill(Finish::default());
    }

    /// The finishing presses by which a cue's motions may still be completed.
    pub(crate) fn finished_on(&self, set: &MotionSet, cue: u16) -> impl Iterator<Item = u32> {
        let own = set.of_cue(cue).iter();
        own.filter_map(|motion| self.finishes.get(usize::from(motion.finisher?))).map(|finish| finish.press as u32)
    }

    /// Forgets the finishing presses that are gone.
    pub(crate) fn drop_finishes(&mut self, gone: impl Fn(u32) -> bool) {
        for finish in self.finishes.iter_mut().filter(|finish| gone(finish.press as u32)) {
            *finish = Finish::default();
        }
    }

    /// The bits that are set: how far each motion has come.
    pub(crate) fn bits(&self) -> impl Iterator<Item = usize> {
        self.active.iter().enumerate().flat_map(|(row, active)| each_bit(*active).map(move |bit| row * 64 + bit))
    }

    /// Takes over how far another set's motions of the same stick have come, where they are the same; `after` says which
    /// action is which here.
    pub(crate) fn carry(
        &mut self,
        set: &MotionSet,
        from: &MotionState,
        old: &MotionSet,
        (after, cue_after): (impl Fn(u16) -> Option<ActionIndex>, impl Fn(u16) -> Option<CueIndex>),
    ) {
        self.track_like(from);
        for (finish, plan) in self.finishes.iter_mut().zip(&set.finishers) {
            let own = (Some(ActionIndex::new(plan.action)), plan.on_release);
            let same = |known: &FinisherPlan| (after(known.action), known.on_release) == own;
            if let Some(place) = old.finishers.iter().position(same) {
                *finish = from.finishes[place];
            }
        }
        for motion in &set.motions {
            let Some(was) = set.twin(motion, old, &after, &cue_after).map(|was| &old.motions[was]) else { continue };
            for step in 0..usize::from(motion.count) {
                let (to, source) = (usize::from(motion.first) + step, usize::from(was.first) + step);
                self.active[to / 64] |= u64::from(from.has(source)) << (to % 64);
                self.strayed[to / 64] |= (from.strayed[source / 64] >> (source % 64) & 1) << (to % 64);
                self.slots[to] = from.slots[source];
            }
        }
    }

    /// How long the position of a step was held last, in µs.
    pub(super) fn held(&self, position: Direction, at: u64) -> u64 {
        let place = position as usize;
        let until = if self.stands == Some(position) { at } else { self.left[place] };
        until.saturating_sub(self.entered[place])
    }

    /// Whether what a bit stands for is meant for the side that the body does not face.
    pub(crate) fn is_averted(&self, set: &MotionSet, bit: usize) -> bool {
        let (step, motion) = set.step(bit);
        match (step.index, step.position) {
            (0, Some(position)) => motion.facing.is_some_and(|meant| meant != self.facing[position as usize]),
            _ => self.slots[bit].averted,
        }
    }

    /// What `facing` was when the motion of a bit left its first position.
    pub(crate) fn facing_of(&self, bit: usize) -> u16 {
        self.slots[bit].facing
    }

    /// When a direction was entered last.
    pub(crate) fn entered(&self, direction: Direction) -> u64 {
        self.entered[direction as usize]
    }

    /// When the motion of a set bit left its first position; `None` while it is there.
    pub(crate) fn began(&self, set: &MotionSet, bit: usize) -> Option<u64> {
        let (step, _) = set.step(bit);
        match (step.index, step.position) {
            (0, position) if self.stands == position => None,
            (0, Some(position)) => Some(self.left[position as usize]),
            _ => Some(self.slots[bit].began),
        }
    }

    /// The same of what was set before this moment, when its first position may have been entered again.
    pub(crate) fn began_before(&self, set: &MotionSet, bit: usize, at: u64) -> Option<u64> {
        match set.step(bit).0 {
            StepPlan { index: 0, position: Some(position), .. } if self.entered(position) == at => {
                Some(self.left[position as usize])
            }
            _ => self.began(set, bit),
        }
    }
}
