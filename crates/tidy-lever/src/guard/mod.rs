//! Guards: what worn devices say wrong is not heard. They stand between what a control says and what it counts as.
//!
//! ```text
//!   board (what devices say) ─┬─ keys, mouse and pad buttons, arms of the d-pad ─▶ bounce ─────────┬─▶ contacts and feeds
//!                             └─ sticks ─▶ centre (where is its middle?) ─▶ swing (is it let go?) ─┘
//! ```
//!
//! All of it is decided in whole microseconds and millionths, and is part of a seat's state.

mod bounce;
mod centre;
mod memory;
mod state;
mod stick;
mod swallowed;
mod swing;

pub(crate) use bounce::Spans;
pub use memory::StickMemory;
pub(crate) use state::{Control as GuardedControl, Decided, Guards, Heard};
pub(crate) use stick::StickHeard;
pub(crate) use swallowed::{Entry as SwallowedEntry, Log as SwallowedLog};
pub use swallowed::{GuardedBy, Swallowed};

use crate::control::{Control, Family, Sort};
use crate::fixed::ONE;

/// What guards a control.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) enum GuardPlan {
    /// Nothing: analogue controls, wheels, fingers, moves.
    Nothing,
    /// A button, with its place among the bounces of its family's devices.
    Button(u16),
    /// The d-pad: four arms, with the place of the first.
    Arms(u16),
    /// A stick, with its place among the sticks of a pad.
    Stick(u16),
}

impl GuardPlan {
    pub(crate) fn is_stick(self) -> bool {
        matches!(self, GuardPlan::Stick(_))
    }
}

/// Where the middle of a stick is set; `None` if it is learnt.
pub(crate) type SetMiddle = Option<(i32, i32)>;

/// How a family's devices are guarded.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub(crate) struct FamilyGuard {
    pub(crate) spans: Spans,
    /// How long the other side counts as rest after a stick was let go, in µs; 0 for never.
    pub(crate) snapback: u64,
    /// Whether the middle of a stick is learnt.
    pub(crate) learns: bool,
    /// The middles that are set for the left and the right stick.
    pub(crate) middles: [SetMiddle; 2],
}

impl FamilyGuard {
    /// Where the middle of a stick is set.
    pub(crate) fn middle_of(&self, control: Control) -> SetMiddle {
        let fixed = match control {
            Control::LEFT_STICK => self.middles[0],
            Control::RIGHT_STICK => self.middles[1],
            _ => None,
        };
        fixed.or((!self.learns).then_some((0, 0)))
    }
}

/// The arms of the d-pad.
pub(crate) const ARMS: usize = 4;

/// What guards a control; `bounces` and `sticks` count those of its family before it.
pub(crate) fn of(control: Control, sort: Sort, bounces: &mut u16, sticks: &mut u16) -> GuardPlan {
    let take = |count: &mut u16, by: usize| {
        let place = *count;
        *count += by as u16;
        place
    };
    match (control.family(), sort) {
        (Family::Keys | Family::Mouse | Family::Pad, Sort::Button) => GuardPlan::Button(take(bounces, 1)),
        (Family::Pad, Sort::Pair) if control == Control::DPAD => GuardPlan::Arms(take(bounces, ARMS)),
        (Family::Pad, Sort::Pair) => GuardPlan::Stick(take(sticks, 1)),
        _ => GuardPlan::Nothing,
    }
}

/// A length in hundredths, squared.
const fn hundredths(length: i64) -> i64 {
    let length = length * (ONE as i64) / 100;
    length * length
}

/// From here on a stick is pushed.
const PUSHED: i64 = hundredths(60);
/// How far a sample may lie from the first one of a stretch of rest, on either axis.
const STILL: i32 = ONE * 3 / 100;

/// Whether a sample belongs to the stretch of rest that began with another one.
fn is_still((x, y): (i32, i32), first: (i32, i32)) -> bool {
    (x - first.0).abs() <= STILL && (y - first.1).abs() <= STILL
}
