//! Cues: what must happen in time before an action pulls. One short line each.
//!
//! ```text
//!   line ──grammar──▶ Cue ──build──▶ plan ─┐
//!                         subject's edge ──┴─▶ rule ─▶ nothing, met, ended
//! ```
//!
//! A line names its subject in front, or means the action itself: `hold 300ms`, `use hold 350ms`. A subject's edges
//! are its own, before its cue and gate, while it listens.
//!
//! Each rule is a file of its own, which does all that `RuleLine` and `CompiledRule` ask: its words, how its line is read
//! and written, how it hears its subject's edges and its own timer, what it forgets, its windows, steps and worst wait, what
//! a player's settings make of its spans. To add one: such a file, a line in the list in `plan.rs`, and a variant of
//! [`Rule`], which is public (`blink`, of the tests alone, is one). All state of a rule is one `RuleState`, each cue's own.

mod asked;
#[cfg(test)]
mod blink;
mod idle;
mod charge;
mod compiled;
mod edge;
mod fits;
mod flicks;
mod grammar;
mod hold;
pub(crate) mod line;
mod mash;
mod order;
mod pace;
mod path;
mod plan;
mod press;
mod presses;
mod release;
mod repeat;
pub(crate) mod rolls;
mod rule;
mod scaling;
mod spins;
mod state;
mod tap;
mod taps;
mod toggle;
mod twice;
mod with;

pub(crate) use asked::{Act, Asked, By};
pub(crate) use compiled::{CompiledRule, Tolerances, WindowFrom};
use compiled::{Pressing, RuleLine};
pub(crate) use edge::{Edge, Kinds, Push, Role};
pub(crate) use grammar::nearest_rule;
pub(crate) use idle::IdleRegion;
pub use line::CueError;
pub(crate) use pace::Pace;
pub use path::{PathStep, Position};
pub(crate) use plan::RulePlan;
pub(crate) use presses::{NO_AMOUNT, Presses, is_newer};
pub(crate) use rule::MOST_NAMES;
pub use rule::{Cue, Rule};
pub(crate) use scaling::Scaling;
pub(crate) use state::{CueMatch, RuleContext, RuleState, Verdict};
