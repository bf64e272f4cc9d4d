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
use crate::engine::inputs::tally::Tally;
use crate::engine::inputs::used::Used;
use crate::engine::inputs::value::Value;
use crate::engine::part::part;
use crate::engine::queue::Queue;
use crate::engine::values::{InputEdge, Listening};
use crate::guard::{Guards, SwallowedLog};
use crate::history::Aim;
use crate::index::StickIndex;
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
    Inputs(plan: InputsPlan, at, room) {
        state board: Board, apart = Board::new(plan, room.devices);
        /// What counts of what worn devices say.
        state guards: Guards, apart = Guards::new(plan.guarded, room.devices);
        /// By wire, one bit a device: held since before the action listened.
        state stale: Sparse<u64>, apart = vec![0; plan.wires.len()].into();
        state crosses: Vec<CrossState>, apart = vec![CrossState::default(); plan.crosses.len()];
        state moved: Vec<AxisState>, by_stick = vec![AxisState::default(); plan.moved.len()];
        state sweeps: Vec<SweepState>, by_sweep = vec![SweepState::starting(at); plan.sweeps];
        /// The sweeps' totals before the last `advance`, in billionths of a degree.
        past swept: Vec<[i64; 2]>, by_sweep = vec![[0; 2]; plan.sweeps];
        state pointers: Sparse<PointerState>, by_pointer =
            vec![PointerState::default(); plan.pointers.len()].into();
        state view: [u32; 2], stays = VIEW;
        state fingers: Fingers, apart = Fingers::default();
        state used: Used, stays = Used::default();
        /// The devices that moved each stick lately; and the one whose event is played.
        state stick_devices: Vec<u64>, by_stick = vec![0; plan.moved.len()];
        state device: u8, stays = 0;
        /// How the controls of each action are held.
        state buttons: Sparse<ButtonState>, apart = vec![ButtonState::default(); plan.buttons.len()].into();
        /// By action: when holding it presses it again.
        state mashing: Timers, apart = Timers::new(plan.mashing());
        /// What signals did, on its way to who hears it.
        #[cfg_attr(feature = "serde", serde(skip))]
        scratch edges: Queue<InputEdge>, again = Queue::with_room(plan.most_edges());
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

impl<'p> Here<'p> {
    pub(crate) fn new(plan: &'p InputsPlan, listens: &'p Listening, at: u64) -> Here<'p> {
        Here { plan, listens, at }
    }
}

impl Inputs {
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

    /// Where a stick points, for what pulls now.
    pub(crate) fn aim(&self, stick: StickIndex, at: u64) -> Aim {
        self.moved[usize::from(stick)].aim(at)
    }
}
