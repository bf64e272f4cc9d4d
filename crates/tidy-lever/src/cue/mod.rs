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
mod flicks;
pub(crate) mod grammar;
mod hold;
mod mash;
mod order;
mod pace;
mod path;
mod press;
mod release;
mod repeat;
pub(crate) mod rolls;
mod spins;
mod tap;
mod taps;
mod toggle;
mod twice;
mod with;

use alloc::string::String;
use alloc::vec::Vec;
use core::fmt;
use core::time::Duration;

pub use grammar::CueError;
pub(crate) use grammar::nearest_rule;
pub(crate) use pace::{Pace, longest};
pub use path::{PathStep, Position};
pub(crate) use twice::TwicePlan;

use crate::cause::Cause;
use crate::cue::rolls::RollsPlan;
use crate::direction::Direction;
use crate::end::{Did, End};
use crate::index::NONE;
use crate::time::micros;
use crate::timers::{DuePart, Timers};

/// A cue as declared: which action it listens to, and for what.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Cue {
    /// The action whose signal it listens to; the action itself if none is named.
    pub subject: Option<String>,
    /// What must happen.
    pub rule: Rule,
}

/// What must happen for a cue to pull.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub enum Rule {
    /// `press`: at each going down; on until let go.
    #[default]
    Press,
    /// `release`: at letting go, an instant.
    Release,
    /// `hold 300ms`: once, when down that long from its first control; on until let go.
    Hold {
        /// How long.
        span: Duration,
    },
    /// `tap under 200ms`: at letting go, if it was down for less; an instant.
    Tap {
        /// Below which span.
        under: Duration,
    },
    /// `2 taps 240ms apart`: at the last press, each gap within the span, then again; on until let go. Or
    /// `… counted on release`: at the last letting go, gaps between lettings go; an instant.
    Taps {
        /// How many; 2 to 64.
        count: u32,
        /// The longest gap.
        apart: Duration,
        /// Counted at letting go instead of at the press.
        on_release: bool,
    },
    /// `twice within 240ms`: the same direction of a stick given twice, and let go between; on while it points that way.
    Twice {
        /// The longest gap between the two.
        within: Duration,
        /// `… until neutral`: on until the stick comes to rest, wherever it points.
        until_neutral: bool,
    },
    /// `repeat after 400ms every 80ms`: at the press, then on and on; on until let go.
    Repeat {
        /// From the press to the first repeat.
        after: Duration,
        /// Between repeats.
        every: Duration,
    },
    /// `toggle`: at each press; on as it stands, which the game can set.
    Toggle,
    /// `mash 5 within 1s`: when this many presses fall in one sliding span; on until the rate drops.
    Mash {
        /// How many; 2 to 64.
        count: u32,
        /// The sliding span.
        within: Duration,
    },
    /// `with guard within 40ms`: when both are down, in either order; on until either is let go.
    With {
        /// The other action.
        other: String,
        /// The longest gap between the two.
        within: Duration,
    },
    /// `charge 200ms to 1.2s`: at letting go, with an amount of 0 to 1; sooner nothing. An instant.
    Charge {
        /// From here on it counts, as 0.
        from: Duration,
        /// From here on it is all, 1.
        to: Duration,
    },
    /// `order left, right, hop within 2s`: these presses in a row; hears only what it names, and the last this many always
    /// count. On until the last is let go.
    Order {
        /// Actions, and directions of the stick that is the subject; 2 to 16.
        names: Vec<String>,
        /// From the first press to the last.
        within: Duration,
    },
    /// `rolls down, down-forward, forward then toss within 350ms`: a motion of a stick. On until the action behind `then`
    /// is let go; without one, until neutral.
    Rolls {
        /// Where it goes; 2 to 16 steps.
        steps: Vec<PathStep>,
        /// The action whose press finishes it.
        then: Option<String>,
        /// From leaving the first position to the finish.
        within: Duration,
        /// Letting go of the action finishes it, and not its press; then it is an instant.
        on_release: bool,
    },
    /// `spins 1 within 900ms`: a stick goes round, either way, from any start. On until neutral.
    Spins {
        /// How far, in eighths of the circle; 2 to 32.
        eighths: u32,
        /// From leaving the start to coming round.
        within: Duration,
    },
    /// `flicks over 0.8 within 60ms`: a stick goes from the centre out to there at once. On until neutral.
    Flicks {
        /// How far out, in millionths.
        over: i32,
        /// From leaving the centre.
        within: Duration,
    },
}

impl Cue {
    /// Reads a cue line.
    ///
    /// ```
    /// use tidy_lever::cue::{Cue, Rule};
    /// use std::time::Duration;
    ///
    /// let cue = Cue::read("use hold 0.35s")?;
    /// assert_eq!(cue, Cue::of("use", Rule::Hold { span: Duration::from_millis(350) }));
    /// assert_eq!(cue.to_string(), "use hold 350ms");
    ///
    /// let error = Cue::read("hold long").unwrap_err();
    /// assert_eq!((error.at, error.to_string().as_str()), (5, "at character 6: expected a span, as in 300ms, found `long`"));
    /// # Ok::<(), tidy_lever::cue::CueError>(())
    /// ```
    ///
    /// # Errors
    /// A [`CueError`] that points at the character and says what would fit.
    pub fn read(line: &str) -> Result<Cue, CueError> {
        grammar::read(line)
    }

    /// A cue that listens to another action.
    pub fn of(subject: impl Into<String>, rule: Rule) -> Cue {
        Cue { subject: Some(subject.into()), rule }
    }
}

impl From<Rule> for Cue {
    fn from(rule: Rule) -> Cue {
        Cue { subject: None, rule }
    }
}

/// The span that these words say, in the shortest exact way.
struct Span(Duration);

impl fmt::Display for Span {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.0.as_micros() {
            us if us % 1_000_000 == 0 && us > 0 => write!(f, "{}s", us / 1_000_000),
            us if us % 1_000 == 0 => write!(f, "{}ms", us / 1_000),
            us => write!(f, "{us}us"),
        }
    }
}

impl fmt::Display for Cue {
    /// The line, which reads back to the same cue.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if let Some(subject) = &self.subject {
            write!(f, "{subject} ")?;
        }
        self.rule.fmt(f)
    }
}

impl fmt::Display for Rule {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Rule::Press => f.write_str("press"),
            Rule::Release => f.write_str("release"),
            Rule::Hold { span } => write!(f, "hold {}", Span(*span)),
            Rule::Tap { under } => write!(f, "tap under {}", Span(*under)),
            Rule::Taps { count, apart, on_release } => {
                write!(f, "{count} taps {} apart", Span(*apart))?;
                if *on_release { f.write_str(" counted on release") } else { Ok(()) }
            }
            Rule::Twice { within, until_neutral } => {
                write!(f, "twice within {}", Span(*within))?;
                if *until_neutral { f.write_str(" until neutral") } else { Ok(()) }
            }
            Rule::Repeat { after, every } => write!(f, "repeat after {} every {}", Span(*after), Span(*every)),
            Rule::Toggle => f.write_str("toggle"),
            Rule::Mash { count, within } => write!(f, "mash {count} within {}", Span(*within)),
            Rule::With { other, within } => write!(f, "with {other} within {}", Span(*within)),
            Rule::Charge { from, to } => write!(f, "charge {} to {}", Span(*from), Span(*to)),
            Rule::Order { names, within } => write!(f, "order {} within {}", names.join(", "), Span(*within)),
            Rule::Rolls { steps, then, within, on_release } => {
                f.write_str("rolls ")?;
                for (place, step) in steps.iter().enumerate() {
                    write!(f, "{}{step}", if place == 0 { "" } else { ", " })?;
                }
                if let Some(then) = then {
                    write!(f, " then {then}")?;
                }
                write!(f, " within {}", Span(*within))?;
                if *on_release { f.write_str(" counted on release") } else { Ok(()) }
            }
            Rule::Spins { eighths, within } => {
                write!(f, "spins {} within {}", f64::from(*eighths) / 8.0, Span(*within))
            }
            Rule::Flicks { over, within } => {
                write!(f, "flicks over {} within {}", f64::from(*over) / f64::from(crate::fixed::ONE), Span(*within))
            }
        }
    }
}

/// The amount of what has none.
pub(crate) const NO_AMOUNT: i32 = -1;

/// The presses that a pull stands on, by identity. Of more than eight the last are kept; 0 is none.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Presses([u32; 8]);

impl Presses {
    pub(crate) fn one(press: u64) -> Presses {
        Presses([press as u32, 0, 0, 0, 0, 0, 0, 0])
    }

    pub(crate) fn push(&mut self, press: u64) {
        self.0.rotate_right(1);
        self.0[0] = press as u32;
    }

    pub(crate) fn iter(&self) -> impl Iterator<Item = u32> {
        self.0.into_iter().filter(|press| *press != 0)
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> [u64; 4] {
        let [a, b, c, d, e, f, g, h] = self.0.map(u64::from);
        [a << 32 | b, c << 32 | d, e << 32 | f, g << 32 | h]
    }

    /// Those that are kept, in their order.
    pub(crate) fn retain(&mut self, keeps: impl Fn(u32) -> bool) {
        let mut kept = Presses::default();
        for (place, press) in self.iter().filter(|press| keeps(*press)).enumerate() {
            kept.0[place] = press;
        }
        *self = kept;
    }

    /// The press that completes a cue.
    pub(crate) fn last(&self) -> u32 {
        self.0[0]
    }

    /// The one made last, whichever completed the cue; 0 for none. Numbers wrap around.
    pub(crate) fn newest_made(&self) -> u32 {
        self.iter().reduce(|one, other| if is_newer(other, one) { other } else { one }).unwrap_or(0)
    }

    pub(crate) fn shares(&self, other: &Presses) -> bool {
        self.iter().any(|press| other.has(press))
    }

    pub(crate) fn has(&self, press: u32) -> bool {
        self.0.contains(&press)
    }
}

/// Whether a press was made after another one.
pub(crate) fn is_newer(press: u32, than: u32) -> bool {
    press != than && press.wrapping_sub(than) < 1 << 31
}

/// What a subject's signal did.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Edge {
    /// One of its controls went down: the press, whether it is the first, and whether it is a direction that another key
    /// gave back by going up.
    Down { press: u64, first: bool, back: bool },
    /// The last of its controls was let go, for this reason, after this many µs.
    Up { cause: Cause, held: u64 },
    /// A stick points elsewhere.
    Turn { from: Option<Direction>, to: Option<Direction>, press: u64, cause: Cause },
    /// A stick is pushed so far.
    Push(Push),
}

/// How far a stick is pushed.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Push {
    /// What the game gets, in millionths; 0 at rest.
    pub(crate) size: i32,
    /// What the dead zone leaves, before curve and scale: now, and before.
    pub(crate) now: (i32, i32),
    pub(crate) before: (i32, i32),
    /// Where it points, and the identity of the entering of that direction.
    pub(crate) to: Option<Direction>,
    pub(crate) press: u64,
    /// Keys, a cross or a directional pad push it.
    pub(crate) digital: bool,
    /// Nobody gave it: something else was let go, and gave it back.
    pub(crate) back: bool,
    pub(crate) cause: Cause,
}

/// Who an edge is of.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) enum Role {
    /// The cue's subject.
    Subject,
    /// The other action of a chord.
    Other,
    /// One of the names of an order, by its first place there.
    Named(u8),
}

/// What a rule makes of an edge or of its timer.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Verdict {
    /// Nothing.
    None,
    /// It is met.
    Matched(CueMatch),
    /// What was on ends, for this reason.
    Ended(Cause),
}

/// A cue that was met.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct CueMatch {
    /// It stays on until the rule ends it.
    pub(crate) lasting: bool,
    /// The presses it stands on.
    pub(crate) presses: Presses,
    /// The moment of its (first) press.
    pub(crate) pressed: u64,
    /// A charge's amount in millionths, or `NO_AMOUNT`.
    pub(crate) amount: i32,
    /// A repeat behind the first pull; never kept.
    pub(crate) repeated: bool,
    /// The value of the fact `facing` that counts; `NONE` for that of the moment.
    pub(crate) facing: u16,
}

impl CueMatch {
    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> [u64; 7] {
        let CueMatch { lasting, presses, pressed, amount, repeated, facing } = *self;
        let [a, b, c, d] = presses.words();
        let flags = u64::from(lasting) | u64::from(repeated) << 1 | u64::from(facing) << 8;
        [a, b, c, d, pressed, u64::from(amount as u32), flags]
    }
}

impl Default for CueMatch {
    fn default() -> CueMatch {
        let presses = Presses::default();
        CueMatch { lasting: false, presses, pressed: 0, amount: NO_AMOUNT, repeated: false, facing: NONE }
    }
}

impl Verdict {
    fn lasting(presses: Presses, pressed: u64) -> Verdict {
        Verdict::Matched(CueMatch { lasting: true, presses, pressed, ..CueMatch::default() })
    }

    fn instant(presses: Presses, pressed: u64) -> Verdict {
        Verdict::Matched(CueMatch { presses, pressed, ..CueMatch::default() })
    }
}

/// How far a rule has come: all of its state, the same shape for every rule.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct RuleState {
    /// The presses of the attempt under way, or of the hold.
    pub(crate) presses: Presses,
    /// Where the attempt began.
    began: u64,
    /// The last moment that counted.
    last: u64,
    count: u32,
    /// A rule's own flags and small numbers.
    note: u32,
    /// How far apart the player's presses came lately, in µs, for rules that keep pace with them; 0 for not known yet.
    pace: u32,
    /// Whether an attempt is under way that may still complete.
    pub(crate) open: bool,
    /// Whether what this line pulled is on, of an action with several.
    pub(crate) on: bool,
}

impl RuleState {
    /// Drops the attempt; what is on stays.
    pub(crate) fn drop_attempt(&mut self) {
        (self.open, self.count, self.presses) = (false, 0, Presses::default());
        // A held direction's and a chord's marks belong to the attempt, too.
        self.note = 0;
    }

    /// The moment whose windows are over for a motion, and 1; others' last moment is their own.
    pub(crate) fn motion_over(&self) -> u64 {
        self.last
    }

    pub(crate) fn set_motion_over(&mut self, over: u64) {
        self.last = over;
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> [u64; 9] {
        let RuleState { presses, began, last, count, note, pace, open, on } = *self;
        let [a, b, c, d] = presses.words();
        let flags = u64::from(pace) << 2 | u64::from(open) << 1 | u64::from(on);
        [a, b, c, d, began, last, u64::from(count), u64::from(note), flags]
    }
}

/// What a rule can reach while it hears something.
pub(crate) struct RuleContext<'b> {
    pub(crate) at: u64,
    pub(crate) state: &'b mut RuleState,
    /// The cues' timers, of which one is its own.
    pub(crate) timers: &'b mut Timers,
    pub(crate) timer: usize,
    /// The last moments of presses, for rules that slide; the newest is overwritten last.
    pub(crate) moments: &'b mut [u64],
    /// Whether the pull is on.
    pub(crate) on: bool,
    /// Why the attempt came to nothing, and whether this edge was a step of one, for the ledger alone.
    pub(crate) missed: Option<End>,
    pub(crate) stepped: Option<Did>,
}

impl RuleContext<'_> {
    fn due(&mut self, at: u64) {
        self.timers.set(self.timer, at, DuePart::Due);
    }

    fn expire(&mut self, at: u64) {
        self.timers.set(self.timer, at, DuePart::Expire);
    }

    /// Tells the ledger why the attempt under way comes to nothing.
    fn missed(&mut self, end: End) {
        self.missed = Some(end);
    }

    fn no_timer(&mut self) {
        self.timers.drop(self.timer);
    }
}

/// A rule made ready: spans in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) enum RulePlan {
    Press,
    Release,
    Hold {
        span: u64,
    },
    Tap {
        under: u64,
    },
    Taps {
        count: u32,
        apart: u64,
        on_release: bool,
        pace: Pace,
    },
    Twice(TwicePlan),
    Repeat {
        after: u64,
        every: u64,
    },
    Toggle,
    Mash {
        count: u32,
        within: u64,
        pace: Pace,
    },
    With {
        within: u64,
        one_by_one: bool,
    },
    Charge {
        from: u64,
        to: u64,
    },
    /// Its names are in the plan's table of orders.
    Order {
        count: u32,
        within: u64,
        names: [u8; MOST_NAMES],
    },
    /// Works through its stick's set of motions.
    Rolls {
        within: u64,
        how: RollsPlan,
        then: bool,
    },
    Spins {
        eighths: u32,
        within: u64,
    },
    Flicks {
        over: i32,
        within: u64,
        /// How long the stick must have rested before.
        rested: u64,
    },
}

/// The most names in an order, and positions in a motion.
pub(crate) const MOST_NAMES: usize = 16;

impl RulePlan {
    pub(crate) fn of(rule: &Rule) -> RulePlan {
        match rule {
            Rule::Press => RulePlan::Press,
            Rule::Release => RulePlan::Release,
            Rule::Hold { span } => RulePlan::Hold { span: micros(*span) },
            Rule::Tap { under } => RulePlan::Tap { under: micros(*under) },
            Rule::Taps { count, apart, on_release } => {
                RulePlan::Taps { count: *count, apart: micros(*apart), on_release: *on_release, pace: None }
            }
            Rule::Twice { within, until_neutral } => {
                RulePlan::Twice(TwicePlan { until_neutral: *until_neutral, ..TwicePlan::within(micros(*within)) })
            }
            Rule::Repeat { after, every } => RulePlan::Repeat { after: micros(*after), every: micros(*every) },
            Rule::Toggle => RulePlan::Toggle,
            Rule::Mash { count, within } => RulePlan::Mash { count: *count, within: micros(*within), pace: None },
            Rule::With { within, .. } => RulePlan::With { within: micros(*within), one_by_one: false },
            Rule::Charge { from, to } => RulePlan::Charge { from: micros(*from), to: micros(*to) },
            Rule::Order { names, within } => {
                // Each is known by the first place at which it stands.
                let mut places = [0; MOST_NAMES];
                for (place, name) in places.iter_mut().zip(names) {
                    *place = names.iter().position(|first| first == name).unwrap_or(0) as u8;
                }
                RulePlan::Order { count: names.len() as u32, within: micros(*within), names: places }
            }
            Rule::Rolls { then, within, .. } => {
                RulePlan::Rolls { within: micros(*within), how: RollsPlan::default(), then: then.is_some() }
            }
            Rule::Spins { eighths, within } => RulePlan::Spins { eighths: *eighths, within: micros(*within) },
            Rule::Flicks { over, within } => {
                RulePlan::Flicks { over: *over, within: micros(*within), rested: flicks::RESTED }
            }
        }
    }

    /// Hears an edge of its subject, or of the other action it names.
    #[inline(never)]
    pub(crate) fn hears(&self, edge: &Edge, role: Role, context: &mut RuleContext<'_>) -> Verdict {
        match *self {
            RulePlan::Press => press::hears(*edge, context.at),
            RulePlan::Release => release::hears(*edge, context),
            RulePlan::Hold { span } => hold::hears(span, *edge, context),
            RulePlan::Tap { under } => tap::hears(under, *edge, context),
            RulePlan::Taps { count, apart, on_release, pace } => {
                taps::hears((count, apart, on_release, pace), *edge, context)
            }
            RulePlan::Twice(ref how) => twice::hears(how, *edge, context),
            RulePlan::Repeat { after, .. } => repeat::hears(after, *edge, context),
            RulePlan::Toggle => toggle::hears(*edge, context),
            RulePlan::Mash { count, within, pace } => mash::hears((count, within, pace), *edge, context),
            RulePlan::With { within, one_by_one } => with::hears(within, one_by_one, *edge, role, context),
            RulePlan::Charge { from, to } => charge::hears(from, to, *edge, context),
            RulePlan::Order { count, within, ref names } => {
                order::hears(within, &names[..count as usize], *edge, role, context)
            }
            RulePlan::Rolls { .. } => Verdict::None,
            RulePlan::Spins { eighths, within } => spins::hears(eighths, within, *edge, context),
            RulePlan::Flicks { over, within, rested } => flicks::hears((over, within, rested), *edge, context),
        }
    }

    /// What it makes of an edge if it remembers nothing, as most do.
    #[inline]
    pub(crate) fn hears_alone(&self, edge: &Edge, at: u64) -> Option<Verdict> {
        matches!(self, RulePlan::Press).then(|| press::hears(*edge, at))
    }

    /// Its timer fell due.
    #[inline(never)]
    pub(crate) fn falls_due(&self, context: &mut RuleContext<'_>) -> Verdict {
        match *self {
            RulePlan::Hold { .. } => hold::falls_due(context),
            RulePlan::Repeat { every, .. } => repeat::falls_due(every, context),
            RulePlan::Mash { .. } => mash::falls_due(context),
            RulePlan::Flicks { .. } => flicks::falls_due(context),
            RulePlan::Order { count, within, ref names } => order::falls_due(within, &names[..count as usize], context),
            RulePlan::Taps { .. } => taps::falls_due(context),
            RulePlan::Twice(ref how) => twice::falls_due(how, context),
            _ => {
                // The window of the attempt is over.
                context.state.drop_attempt();
                Verdict::None
            }
        }
    }

    /// Presses are gone: their device is lost, or another action took them. What stands on them is dropped; whether an
    /// attempt was.
    pub(crate) fn forgets(&self, gone: impl Fn(u32) -> bool, context: &mut RuleContext<'_>) -> bool {
        if let RulePlan::Taps { on_release: true, .. } = self {
            return taps::forgets(gone, context);
        }
        if !context.state.presses.iter().any(&gone) {
            return false;
        }
        let was_open = context.state.open;
        match self {
            // What presses of a motion were used up stays known.
            RulePlan::Rolls { .. } => return false,
            // Each control's own press counts for itself.
            RulePlan::Release => {
                context.state.presses.retain(|press| !gone(press));
                context.state.open &= context.state.presses != Presses::default();
                return was_open && !context.state.open;
            }
            RulePlan::Spins { .. } => spins::forget(context),
            RulePlan::Twice(_) => twice::forget(context),
            RulePlan::Flicks { .. } => flicks::forget(context),
            // What is on goes on until its rate drops.
            RulePlan::Mash { .. } if context.on => {
                (context.state.count, context.state.presses) = (0, Presses::default())
            }
            _ => {
                context.state.drop_attempt();
                context.no_timer();
            }
        }
        was_open
    }

    /// The span that an attempt has to be finished in, or to be held for, in µs.
    pub(crate) fn window(self) -> Option<u64> {
        match self {
            RulePlan::Press | RulePlan::Release | RulePlan::Toggle | RulePlan::Repeat { .. } => None,
            RulePlan::Hold { span } => Some(span),
            RulePlan::Tap { under } => Some(under),
            RulePlan::Charge { from, .. } => Some(from),
            RulePlan::Taps { apart, .. } => Some(apart),
            RulePlan::Twice(TwicePlan { within, .. })
            | RulePlan::Mash { within, .. }
            | RulePlan::With { within, .. }
            | RulePlan::Order { within, .. }
            | RulePlan::Rolls { within, .. }
            | RulePlan::Spins { within, .. }
            | RulePlan::Flicks { within, .. } => Some(within),
        }
    }

    /// How many steps it has, for people.
    pub(crate) fn steps(self) -> u8 {
        match self {
            RulePlan::Taps { count, .. } | RulePlan::Mash { count, .. } | RulePlan::Order { count, .. } => count as u8,
            RulePlan::Twice(_) | RulePlan::With { .. } => 2,
            RulePlan::Spins { eighths, .. } => eighths as u8,
            _ => 1,
        }
    }

    /// Whether an edge is one of its steps.
    pub(crate) fn counts(self, edge: Edge) -> bool {
        match (self, edge) {
            (RulePlan::Spins { .. } | RulePlan::Flicks { .. }, Edge::Turn { to: Some(_), .. }) => true,
            (RulePlan::Taps { on_release, .. }, Edge::Up { cause: Cause::LetGo, .. }) => on_release,
            (RulePlan::Taps { on_release, .. }, Edge::Down { .. }) => !on_release,
            (
                RulePlan::Hold { .. } | RulePlan::Tap { .. } | RulePlan::Charge { .. } | RulePlan::Release,
                Edge::Down { first, .. },
            ) => first,
            (RulePlan::Twice(_) | RulePlan::Spins { .. } | RulePlan::Flicks { .. } | RulePlan::Rolls { .. }, _) => {
                false
            }
            (RulePlan::Order { .. }, Edge::Down { back: true, .. }) => false,
            (_, Edge::Down { .. }) => true,
            _ => false,
        }
    }

    /// How many moments it must remember.
    pub(crate) fn moments(self) -> usize {
        match self {
            RulePlan::Mash { count, .. } | RulePlan::Order { count, .. } => count as usize,
            RulePlan::Spins { eighths, .. } => spins::moments(eighths),
            RulePlan::Twice(_) => twice::MOMENTS,
            _ => 0,
        }
    }

    /// How long after a press an attempt on it can stay open, in µs; `None` for as long as it is held.
    pub(crate) fn longest_wait(self) -> Option<u64> {
        match self {
            RulePlan::Press | RulePlan::Repeat { .. } | RulePlan::Toggle => Some(0),
            RulePlan::Release | RulePlan::Charge { .. } => None,
            RulePlan::Hold { span } => Some(span),
            RulePlan::Tap { under } => Some(under),
            RulePlan::Taps { on_release: true, .. } => None,
            RulePlan::Taps { count, apart, pace, .. } => Some(u64::from(count - 1) * longest(apart, pace)),
            RulePlan::Twice(TwicePlan { within, pace, .. }) => Some(longest(within, pace)),
            RulePlan::Mash { within, pace, .. } => Some(longest(within, pace)),
            RulePlan::With { within, .. }
            | RulePlan::Order { within, .. }
            | RulePlan::Spins { within, .. }
            | RulePlan::Flicks { within, .. } => Some(within),
            // Whoever shares its finishing press waits for the last direction; others share a direction.
            RulePlan::Rolls { within, how, then } => Some(if then { how.early } else { within }),
        }
    }

    /// How long it takes from the movement that decides to the pull, in µs.
    pub(crate) fn own_delay(self) -> u64 {
        if let RulePlan::Hold { span } = self { span } else { 0 }
    }

    /// Whether it pulls at any press at all.
    pub(crate) fn is_eager(self) -> bool {
        matches!(self, RulePlan::Press | RulePlan::Repeat { .. } | RulePlan::Toggle)
    }

    /// Whether one press, held and let go in some way, can make both pull.
    pub(crate) fn overlaps(self, other: RulePlan) -> bool {
        let one_way = |a: RulePlan, b: RulePlan| match (a, b) {
            _ if a.is_eager() => true,
            (RulePlan::Release, _) => true,
            (RulePlan::Tap { under }, RulePlan::Hold { span }) => under > span,
            (RulePlan::Tap { under }, RulePlan::Charge { from, .. }) => under > from,
            (RulePlan::Tap { .. }, RulePlan::Tap { .. } | RulePlan::Taps { .. } | RulePlan::Mash { .. }) => true,
            (RulePlan::Hold { .. }, RulePlan::Hold { .. } | RulePlan::Charge { .. } | RulePlan::Taps { .. }) => true,
            (RulePlan::Taps { .. }, RulePlan::Taps { .. } | RulePlan::Mash { .. }) => true,
            _ => false,
        };
        one_way(self, other) || one_way(other, self)
    }
}
