//! What hands do: what is down, what stands where, and what sticks, sweeps, pointers and fingers make of it.

use alloc::vec;
use alloc::vec::Vec;

use crate::cue::Calm;
use crate::engine::inputs::board::Board;
use crate::engine::inputs::cross::CrossState;
use crate::engine::inputs::fingers::Fingers;
use crate::engine::inputs::pointer::{PointerState, VIEW};
use crate::engine::inputs::signal::{self, Moved};
use crate::engine::inputs::used::Used;
use crate::engine::inputs::value::Value;
use crate::engine::part::part;
use crate::guard::Guards;
use crate::index::StickIndex;
use crate::linkage::Plan;
use crate::linkage::{InputsPlan, MovedPlan};
use crate::sparse::Sparse;
use crate::sweep::SweepState;

/// What an event that moves a stick does.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) enum Moves {
    /// A key, or an arm of a cross, goes down or up with others.
    #[default]
    Press,
    /// A key goes up.
    Lift,
    /// A level changes.
    Level,
}

part! {
    /// What hands do.
    Inputs(plan, at, room) {
        state board: Board, apart = Board::new(&plan.inputs, room.devices);
        /// What counts of what worn devices say.
        state guards: Guards, apart = Guards::new(plan.inputs.guarded, room.devices);
        /// By wire, one bit a device: held since before the action listened.
        state stale: Sparse<u64>, apart = vec![0; plan.inputs.wires.len()].into();
        state crosses: Vec<CrossState>, apart = vec![CrossState::default(); plan.inputs.crosses.len()];
        state moved: Vec<Moved>, by_stick = vec![Moved::default(); plan.inputs.moved.len()];
        state sweeps: Vec<SweepState>, by_sweep = vec![SweepState::starting(at); plan.inputs.sweeps];
        /// The sweeps' totals before the last `advance`, in billionths of a degree.
        past swept: Vec<[i64; 2]>, by_sweep = vec![[0; 2]; plan.inputs.sweeps];
        state pointers: Sparse<PointerState>, by_pointer =
            vec![PointerState::default(); plan.inputs.pointers.len()].into();
        state view: [u32; 2], stays = VIEW;
        state fingers: Fingers, apart = Fingers::default();
        state used: Used, stays = Used::default();
        /// The devices that moved each stick lately; and the one whose event is played.
        state hands: Vec<u64>, by_stick = vec![0; plan.inputs.moved.len()];
        state hand: u8, stays = 0;
        /// What that event does, and whether it only gave a stick back: news of this event alone.
        #[cfg_attr(feature = "serde", serde(skip))]
        scratch moves: Moves, again = Moves::default();
        #[cfg_attr(feature = "serde", serde(skip))]
        scratch gave_back: bool, again = false;
        /// How far each axis and stick may be pushed and mean nothing, while what hears it stays as it is. It only saves time.
        #[cfg_attr(feature = "serde", serde(skip))]
        scratch calm: Vec<Calm>, again = vec![Calm::NONE; plan.inputs.moved.len()];
        /// Whether the sweeps' totals are known to be those above, and to stay so by themselves. It only saves time.
        #[cfg_attr(feature = "serde", serde(skip))]
        scratch sweeps_rest: bool, again = false;
    }
}

impl Inputs {
    /// Every push of an axis or a stick, if it is one, is looked at again.
    #[inline(always)]
    pub(crate) fn unsettle(&mut self, moved: Option<StickIndex>) {
        if let Some(stick) = moved {
            self.calm[usize::from(stick)] = Calm::NONE;
        }
    }

    /// Devices, what they said and what is down go over to another plan.
    pub(crate) fn carry_board(&mut self, from: &Inputs, old: &InputsPlan, new: &InputsPlan) {
        self.board.carry(&from.board, old, new, &self.guards);
    }

    /// What the controls of an axis or a stick say together.
    #[inline(always)]
    pub(crate) fn value(&self, plan: &Plan, moved: (usize, &MovedPlan)) -> Value {
        signal::combine(&plan.inputs, &self.board, &self.crosses, moved)
    }
}
