//! All that stands between edges and pulls.

use alloc::boxed::Box;
use alloc::vec;

use crate::engine::Capacity;
use crate::engine::part::Field;
use crate::engine::pulls::actions::ActionState;
use crate::engine::pulls::cues::Cues;
use crate::engine::pulls::lists::Lists;
use crate::engine::queue::Queue;
use crate::engine::relink_map::RelinkMap;
use crate::engine::values::{Listening, Outcome};
use crate::ledger::Ledger;
use crate::linkage::Plan;
use crate::sparse::Sparse;

/// Cues, and what they met.
#[derive(Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Pulls {
    pub(crate) cues: Cues,
    pub(crate) lists: Lists,
    /// By declared action: no direction pulls.
    pub(crate) actions: Sparse<ActionState>,
    /// Who listens, and which way the character faces, as was told last.
    pub(crate) listening: Listening,
    pub(crate) facing: u16,
    /// What pulls and ends cause, on its way to who does it.
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) outcomes: Queue<Outcome>,
    /// It lies outside the state: neither saved nor hashed.
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) ledger: Option<Box<Ledger>>,
}

impl Pulls {
    /// As it is at first.
    pub(crate) fn new(plan: &Plan, at: u64, room: Capacity, listening: &Listening) -> Pulls {
        Pulls {
            cues: Cues::new(plan, at, room),
            lists: Lists::new(plan, at, room),
            actions: vec![ActionState::default(); plan.declared].into(),
            listening: Listening(listening.0.clone()),
            facing: plan.world.facts[plan.world.facing].first,
            // A pull over another, and what it had on.
            outcomes: Queue::with_room(16),
            ledger: None,
        }
    }

    /// Becomes another one, without allocating where both were made for the same linkage and room.
    pub(crate) fn copy_from(&mut self, other: &Pulls) {
        self.cues.copy_from(&other.cues);
        self.lists.copy_from(&other.lists);
        self.actions.copy(&other.actions);
        self.listening.copy(&other.listening);
        self.facing = other.facing;
    }

    /// What a state's hash is made of; who listens and the facing are the world's.
    pub(crate) fn words(&self, played: u64, word: &mut impl FnMut(u64)) {
        self.cues.words(played, word);
        self.lists.words(played, word);
        self.actions.words(played, word);
    }

    /// Takes over from one of another plan what goes over as it is.
    pub(crate) fn carry(&mut self, from: &Pulls, map: &RelinkMap<'_>) {
        self.cues.carry(&from.cues, map);
        self.lists.carry(&from.lists, map);
    }

    /// Whether one that was read is of the size of one that was made.
    #[cfg(feature = "serde")]
    pub(crate) fn fits(&self, made: &Pulls) -> bool {
        self.cues.fits(&made.cues)
            && self.lists.fits(&made.lists)
            && Field::fits(&self.actions, &made.actions)
            && self.listening.fits(&made.listening)
    }
}
