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
//! Each rule is a file of its own: how it hears its subject's edges and its own timer, and whether an attempt of it is
//! under way. To add one: a file with a `hears`, a variant of [`Rule`], its words in `grammar`, and a line in `hears`
//! below. All state of a rule is one `RuleState`, each cue's own.

mod charge;
mod edge;
mod fits;
mod flicks;
pub(crate) mod grammar;
mod hold;
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
mod spins;
mod state;
mod tap;
mod taps;
mod toggle;
mod twice;
mod with;

pub(crate) use edge::{Edge, Kinds, Push, Role};
pub use grammar::CueError;
pub(crate) use grammar::nearest_rule;
pub(crate) use pace::Pace;
pub use path::{PathStep, Position};
pub(crate) use plan::{MOST_NAMES, RulePlan};
pub(crate) use presses::{NO_AMOUNT, Presses, is_newer};
pub use rule::{Cue, Rule};
pub(crate) use state::{CueMatch, RuleContext, RuleState, Verdict};
