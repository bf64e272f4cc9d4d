//! `steer rolls down, down-forward, forward then toss within 350ms`: motions. All motions of one stick are worked
//! together, as bits in a row:
//!
//! ```text
//!   236 + toss                623 + toss            …      one bit a step: set while the motion has come so far and
//!   [down|down-f.|forward]    [forward|down|down-f.]       may go on. A direction that is entered
//!      1     1        0           0      0      0            moves bits on whose next step it is,
//!            └──── waits for forward                         keeps those that pass it over, drops the others.
//! ```
//!
//! So an event costs a few operations for 64 steps, and besides only what moves. A motion with positions of the body
//! stands twice in the row, as it is for either side; which one counts is decided when the first position is left.
//!
//! A stick's motions that ask for the same push, roll and brush are one set, which sees where the stick stands by that
//! push. What is one eighth beyond the way is borne for a while: the bit stays, and it is remembered since when.

mod finish;
mod line;
mod plan;
mod rule;
mod state;
mod turn;

pub(crate) use line::MotionLine;
pub(crate) use plan::{FRESH, MOST_MAYBES, MotionDraft, MotionPlan, MotionSet, RollsPlan, Seen};
pub(crate) use rule::Rolls;
pub(crate) use state::{Motion, MotionState, Turned, Wanted};
