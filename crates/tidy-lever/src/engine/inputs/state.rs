//! What hands do: what is down, what stands where, and what sticks, sweeps, pointers and fingers make of it.

use alloc::boxed::Box;
use alloc::vec;
use alloc::vec::Vec;

use crate::engine::incoming::QueuedInput;
use crate::engine::inputs::board::Board;
use crate::engine::inputs::cross::CrossState;
use crate::engine::inputs::fingers::Fingers;
use crate::engine::inputs::held::ButtonState;
use crate::engine::inputs::pointer::{PointerState, VIEW};
use crate::engine::inputs::signal::{self, AxisState};
use crate::engine::inputs::used::Used;
use crate::engine::inputs::value::Value;
use crate::engine::part::part;
use crate::engine::queue::Queue;
use crate::engine::tally::Tally;
use crate::engine::values::{InputEdge, Listening};
use crate::guard::{Guards, SwallowedLog};
use crate::linkage::{InputsPlan, MovedPlan};
use crate::sparse::Sparse;
use crate::sweep::SweepState;
use crate::timers::Timers;

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
        state moved: Vec<AxisState>, by_stick = vec![AxisState::default(); plan.inputs.moved.len()];
        state sweeps: Vec<SweepState>, by_sweep = vec![SweepState::starting(at); plan.inputs.sweeps];
        /// The sweeps' totals before the last `advance`, in billionths of a degree.
        past swept: Vec<[i64; 2]>, by_sweep = vec![[0; 2]; plan.inputs.sweeps];
        state pointers: Sparse<PointerState>, by_pointer =
            vec![PointerState::default(); plan.inputs.pointers.len()].into();
        state view: [u32; 2], stays = VIEW;
        state fingers: Fingers, apart = Fingers::default();
        state used: Used, stays = Used::default();
        /// The devices that moved each stick lately; and the one whose event is played.
        state stick_devices: Vec<u64>, by_stick = vec![0; plan.inputs.moved.len()];
        state device: u8, stays = 0;
        /// How the controls of each action are held.
        state buttons: Sparse<ButtonState>, apart = vec![ButtonState::default(); plan.inputs.buttons.len()].into();
        /// By action: when holding it presses it again.
        state mashing: Timers, apart = Timers::new(plan.inputs.mashing());
        /// What signals did, on its way to who hears it.
        #[cfg_attr(feature = "serde", serde(skip))]
        scratch edges: Queue<InputEdge>, again = Queue::with_room(plan.inputs.most_edges());
        /// What plays later than it came: a second change of one control in one moment.
        #[cfg_attr(feature = "serde", serde(skip))]
        scratch later: Queue<QueuedInput>, again = Queue::with_room(4);
        /// These lie outside the state.
        #[cfg_attr(feature = "serde", serde(skip))]
        scratch tally: Tally, stays = Tally::default();
        #[cfg_attr(feature = "serde", serde(skip))]
        scratch swallowed: Option<Box<SwallowedLog>>, apart = None;
        /// What that event does, and whether it only gave a stick back: news of this event alone.
        #[cfg_attr(feature = "serde", serde(skip))]
        scratch moves: Moves, again = Moves::default();
        #[cfg_attr(feature = "serde", serde(skip))]
        scratch gave_back: bool, again = false;
        /// Whether the sweeps' totals are known to be those above, and to stay so by themselves. It only saves time.
        #[cfg_attr(feature = "serde", serde(skip))]
        scratch sweeps_rest: bool, again = false;
    }
}

/// What a step goes by: the plan, who listens, and the moment.
#[derive(Clone, Copy)]
pub(crate) struct Here<'p> {
    pub(crate) plan: &'p InputsPlan,
    pub(crate) listens: &'p Listening,
    pub(crate) at: u64,
}

impl Inputs {
    /// Devices, what they said and what is down go over to another plan.
    pub(crate) fn carry_board(&mut self, from: &Inputs, old: &InputsPlan, new: &InputsPlan) {
        self.board.carry(&from.board, old, new, &self.guards);
    }

    /// What the controls of an axis or a stick say together.
    #[inline(always)]
    pub(crate) fn value(&self, plan: &InputsPlan, axis: (usize, &MovedPlan)) -> Value {
        signal::combine(plan, &self.board, &self.crosses, axis)
    }

    /// When something is due here: mashing, or what a guard decides.
    #[inline(always)]
    pub(crate) fn next_due(&self) -> u64 {
        self.mashing.next_at().min(self.guards.next_due())
    }
}
