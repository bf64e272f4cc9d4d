//! What every rule does: its line is read and written, it is made ready, hears edges, falls due, forgets, and tells of
//! itself. Each rule's own file does it for one.

use alloc::string::String;
use alloc::vec::Vec;
use core::fmt;
use core::time::Duration;

use super::asked::Asked;
use super::edge::{Edge, Kinds, Role};
use super::idle::IdleRegion;
use super::line::{Input, Read};
use super::pace::Pace;
use super::rule::Rule;
use super::scaling::Scaling;
use super::state::{RuleContext, RuleState, Verdict};
use crate::direction::Direction;

/// Where the window of an attempt is shown from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum WindowFrom {
    /// From where the attempt began.
    Beginning,
    /// From the last step that was in time.
    LastStep,
    /// It slides, and is not shown.
    Nowhere,
}

/// What a rule makes of one press that is held and let go; spans in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Pressing {
    /// It pulls, however long it is held.
    Any,
    /// It pulls once it is let go.
    LetGo,
    /// It pulls if it is let go sooner.
    Tap { under: u64 },
    /// It pulls once it is held for so long.
    Hold { span: u64 },
    /// It pulls if it is let go later.
    Charge { from: u64 },
    /// It counts it as one of a few.
    Taps,
    /// It counts it into a rate.
    Rate,
    /// It wants more, or something else.
    Other,
}

impl Pressing {
    /// Whether one press, held and let go in some way, can make both pull.
    pub(crate) fn overlaps(self, other: Pressing) -> bool {
        let one_way = |a: Pressing, b: Pressing| match (a, b) {
            (Pressing::Any | Pressing::LetGo, _) => true,
            (Pressing::Tap { under }, Pressing::Hold { span }) => under > span,
            (Pressing::Tap { under }, Pressing::Charge { from }) => under > from,
            (Pressing::Tap { .. }, Pressing::Tap { .. } | Pressing::Taps | Pressing::Rate) => true,
            (Pressing::Hold { .. }, Pressing::Hold { .. } | Pressing::Charge { .. } | Pressing::Taps) => true,
            (Pressing::Taps, Pressing::Taps | Pressing::Rate) => true,
            _ => false,
        };
        one_way(self, other) || one_way(other, self)
    }
}

/// Why a rule that pulls as it is let go can't pull again while it is held.
pub(super) const ON_RELEASE: &str = "it pulls on release, and is never held";

/// What a quick movement of a stick says where it listens to none.
pub(super) const NEEDS_STICK: &str =
    "`spins` and `flicks` need a stick: name it first, as in `steer spins 1 within 900ms`";

/// A rule as its line says it.
pub(crate) trait RuleLine {
    /// The words that it begins with; none for one that begins with a number.
    const WORDS: &'static [&'static str];

    /// Reads it; backtracks where another rule stands.
    ///
    /// # Errors
    /// Says what would fit at the word that doesn't.
    fn read(input: &mut Input<'_>) -> Read<Rule>;

    /// Writes it as a line that reads back to the same; `None` if it is another rule.
    fn write(rule: &Rule, f: &mut fmt::Formatter<'_>) -> Option<fmt::Result>;

    /// Its spans, but those of steps; `None` if it is another rule.
    fn spans(rule: &Rule) -> Option<[Option<Duration>; 2]>;

    /// The keys of an action that say what it forgives, beside its line.
    fn forgives(_: &Rule) -> &'static [&'static str] {
        &[]
    }

    /// The other action that must be down with it, if it wants one.
    fn with(_: &Rule) -> Option<&str> {
        None
    }

    /// The action that finishes it, if one does.
    fn finished_by(_: &Rule) -> Option<&str> {
        None
    }

    /// The names that it hears and nothing else, if it hears only what it names.
    fn hears_only(_: &Rule) -> Option<&[String]> {
        None
    }

    /// What a key says where nobody says it, in milliseconds or as a level, if that is the rule's own.
    #[cfg(feature = "files")]
    fn default_of(_: &Rule, _key: &str) -> Option<f64> {
        None
    }

    /// What would come next, by its name, after so many steps, if that is one thing.
    fn next(_: &Rule, _came: usize) -> Option<&str> {
        None
    }

    /// What it asks of a hand, step by step; where none says more, a press.
    fn asks(_: &Rule) -> Option<Vec<Asked<'_>>> {
        None
    }

    /// What keeps one that was built in code from being one: what its line could not say.
    fn unfit(_: &Rule) -> Option<String> {
        None
    }
}

/// What a profile says that a rule forgives: of its action, or of the stick that it listens to.
pub(crate) trait Tolerances {
    /// A span in µs by its key; the default where nothing is said.
    fn span(&mut self, key: &'static str, default: u64) -> u64;

    /// The same as the profile has it, whatever the player's settings make of it.
    fn declared_span(&mut self, key: &'static str, default: u64) -> u64;

    /// From which push on a stick's positions count, in millionths.
    fn push_level(&mut self, default: i32) -> i32;

    /// The levels at which the action's own presses begin and end, in millionths.
    fn levels(&self, default: (i32, i32)) -> (i32, i32);

    /// Reports what is wrong with a span that was said.
    fn fault(&mut self, key: &'static str, problem: &str);
}

/// A rule made ready: spans in µs.
pub(crate) trait CompiledRule: Copy {
    /// What a declared rule comes to; `None` if it is another one.
    fn of(rule: &Rule) -> Option<Self>;

    /// Hears an edge of its subject, or of another action that it names.
    fn hears(&self, edge: Edge, role: Role, context: &mut RuleContext<'_>) -> Verdict;

    /// The kinds of edges that mean anything to it.
    fn kinds(&self) -> Kinds {
        Edge::DOWN | Edge::UP
    }

    /// Whether a push of the stick certainly means nothing to it, in the direction in which it stood before; `on` while its
    /// pull is. Then it narrows the pushes that mean nothing as long as the direction and its state stay.
    fn is_idle(&self, _: (i32, i32), _: Option<Direction>, _: &RuleState, _on: bool, _: &mut IdleRegion) -> bool {
        false
    }

    /// Its timer fell due. Unless it says more, the window of the attempt is over.
    fn falls_due(&self, context: &mut RuleContext<'_>) -> Verdict {
        context.state.drop_attempt();
        Verdict::None
    }

    /// Presses are gone: their device is lost, or another action took them. What stands on them is dropped; whether an
    /// attempt was.
    fn forgets(&self, gone: &dyn Fn(u32) -> bool, context: &mut RuleContext<'_>) -> bool {
        drop_those(self, gone, context)
    }

    /// Drops what it has of an attempt.
    fn drops(&self, context: &mut RuleContext<'_>) {
        context.state.drop_attempt();
        context.no_timer();
    }

    /// The span that an attempt has to be finished in, or to be held for, in µs.
    fn window(&self) -> Option<u64>;

    /// How many steps it has, for people.
    fn steps(&self) -> u8 {
        1
    }

    /// Whether an edge is one of its steps.
    fn counts(&self, edge: Edge) -> bool {
        matches!(edge, Edge::Down { .. })
    }

    /// How many moments it must remember.
    fn moments(&self) -> usize {
        0
    }

    /// How long after a press an attempt on it can stay open, in µs; `None` for as long as it is held.
    fn longest_wait(&self) -> Option<u64> {
        Some(self.window().unwrap_or(0))
    }

    /// How long it takes from the movement that decides to the pull, in µs.
    fn own_delay(&self) -> u64 {
        0
    }

    /// Whether it pulls at any press at all.
    fn is_eager(&self) -> bool {
        false
    }

    /// What it makes of one press that is held and let go.
    fn pressing(&self) -> Pressing {
        if self.is_eager() { Pressing::Any } else { Pressing::Other }
    }

    /// Takes on what the profile says that it forgives.
    fn forgive(&mut self, _declared: &Rule, _by: &mut dyn Tolerances) {}

    /// Its spans as a player has them.
    fn scale(&mut self, by: &Scaling<'_>);

    /// Where the player's own rhythm goes, for rules that keep pace with it.
    fn pace(&mut self) -> Option<&mut Pace> {
        None
    }

    /// Whether it must be the only cue of its action.
    fn is_only(&self) -> bool {
        false
    }

    /// What to say where it listens to neither a stick nor an axis, if it needs one.
    fn needs_stick(&self) -> Option<&'static str> {
        None
    }

    /// Why it can't pull again while it is held; `None` if it can.
    fn never_held(&self) -> Option<&'static str> {
        None
    }

    /// How long it must be held to count at all, in µs, if it is a hold.
    fn held_for(&self) -> Option<u64> {
        None
    }

    /// Below which span it must be let go, in µs, if it is a tap.
    fn let_go_under(&mut self) -> Option<&mut u64> {
        None
    }

    /// Whether it is on as long as a rate is kept up.
    fn is_rate(&self) -> bool {
        false
    }

    /// Whether presses of other actions may finish it.
    fn is_of_several(&self) -> bool {
        false
    }

    /// Whether two actions make its steps.
    fn is_of_two(&self) -> bool {
        false
    }

    /// Whether a turn of the stick is a step of it even if nothing is under way.
    fn steps_anew(&self) -> bool {
        false
    }

    /// Whether what comes late begins again with the same turn.
    fn turns_on(&self) -> bool {
        false
    }

    /// The names that it wants one after the other, by their places, if it does.
    fn names(&self) -> Option<&[u8]> {
        None
    }

    /// Within which span a direction must be given again, in µs, if that is what it wants.
    fn again_within(&self) -> Option<u64> {
        None
    }

    /// Where the window of an attempt is shown from.
    fn window_from(&self) -> WindowFrom {
        WindowFrom::Beginning
    }

    /// The word of the line that sets its time limit.
    fn limit_word(&self) -> &'static str {
        "within"
    }
}

/// Drops an attempt that stands on presses which are gone; whether there was one.
pub(super) fn drop_those(rule: &impl CompiledRule, gone: &dyn Fn(u32) -> bool, context: &mut RuleContext<'_>) -> bool {
    if !context.state.presses.iter().any(gone) {
        return false;
    }
    let was_open = context.state.open;
    rule.drops(context);
    was_open
}
