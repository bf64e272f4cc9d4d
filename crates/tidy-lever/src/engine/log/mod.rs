//! What readers ask for: what happened, how often, and since which tick it is news.

use alloc::vec;

use crate::engine::part::{part, plain_fields};
use crate::engine::relink_map::RelinkMap;
use crate::engine::values::{EdgeKind, InputEdge};
use crate::history::{Happening, Ring, What};
use crate::linkage::Plan;
use crate::sparse::Sparse;
use crate::time::Moment;

/// Running sums of an action; they wrap, and only differences are read.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Sums {
    pub(crate) pressed: u32,
    pub(crate) released: u32,
    pub(crate) pulled: u32,
}

/// The sums of an action, and what they were before the tick that changed them last.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct ActionSums {
    pub(crate) now: Sums,
    pub(crate) before: Sums,
    pub(crate) tick: u32,
}

impl ActionSums {
    /// What a state's hash is made of. The sums before the last tick tell of that tick alone.
    fn words(&self) -> [u64; 2] {
        let Sums { pressed, released, pulled } = self.now;
        [u64::from(pressed) << 32 | u64::from(released), u64::from(pulled)]
    }
}

plain_fields! {
    ActionSums, own => own.words();
}

part! {
    /// What happened.
    Log(plan: Plan, _, room) {
        /// Counts calls of `advance`.
        past tick: u32, stays = 0;
        /// How many happenings there were before the last `advance`.
        past tick_began: u64, stays = 0;
        state sums: Sparse<ActionSums>, apart = vec![ActionSums::default(); plan.actions.len()].into();
        past ring: Ring, apart = Ring::new(room.history, plan.stamp);
    }
}

impl Log {
    /// Sums go over to another plan, by name.
    pub(crate) fn carry_sums(&mut self, from: &Log, map: &RelinkMap<'_>) {
        for number in 0..self.sums.len() {
            if let Some(before) = map.before(number) {
                self.sums[number] = from.sums[before];
            }
        }
    }

    /// Notes what a signal did: the presses and releases of its action.
    #[inline(always)]
    pub(crate) fn note_edge(&mut self, edge: &InputEdge, at: u64) {
        match edge.kind {
            EdgeKind::Down { .. } => {
                let sums = self.changes(edge.action);
                sums.pressed = sums.pressed.wrapping_add(1);
                self.happened(edge.action, What::Pressed, at, at);
            }
            EdgeKind::Lifted { since, cause } | EdgeKind::Up { since, cause, is_noted: false, .. } => {
                let sums = self.changes(edge.action);
                sums.released = sums.released.wrapping_add(1);
                self.happened(edge.action, What::Released(cause), at, since);
            }
            _ => {}
        }
    }

    /// Notes a pull.
    #[inline(always)]
    pub(crate) fn note_pull(&mut self, happening: Happening) {
        let sums = self.changes(happening.action);
        sums.pulled = sums.pulled.wrapping_add(1);
        self.ring.push(happening);
    }

    /// Notes what happened to an action.
    #[inline(always)]
    pub(crate) fn happened(&mut self, action: u16, what: What, at: u64, since: u64) {
        self.ring.push(Happening::new(Moment::played(at), Moment::played(since), action, what));
    }

    /// The sums of an action, which are about to change in this tick.
    #[inline(always)]
    fn changes(&mut self, action: u16) -> &mut Sums {
        let (tick, action) = (self.tick, usize::from(action));
        let sums = self.sums.changing(action, |sums| sums.now.pressed > 0);
        if sums.tick != tick {
            (sums.tick, sums.before) = (tick, sums.now);
        }
        &mut sums.now
    }
}
