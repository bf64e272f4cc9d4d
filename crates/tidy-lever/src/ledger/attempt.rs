//! One attempt: the steps of a cue that came, and what became of them.

use alloc::string::String;
use core::time::Duration;

use crate::cause::Cause;
use crate::cue::{CompiledRule, WindowFrom};
use crate::direction::Direction;
use crate::end::{Did, End};
use crate::handle::{ActionHandle, AnyHandle};
use crate::linkage::Linkage;
use crate::time::Moment;

/// The most steps that an attempt remembers; of more, the last.
const MOST_STEPS: usize = 17;

/// One attempt of a cue, finished: which of its steps came and when, and what became of it.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Attempt {
    pub(crate) number: u64,
    /// The names that its numbers are of.
    pub(crate) stamp: u32,
    pub(crate) action: u16,
    /// Which of the action's cues.
    pub(crate) cue: u16,
    pub(crate) began: u64,
    pub(crate) ended: u64,
    /// When its cue was met, which a `hold` is later than its last step; 0 where it was not.
    pub(crate) met: u64,
    /// How many steps the cue has.
    pub(crate) of: u8,
    pub(crate) count: u8,
    pub(crate) steps: [(u64, Did); MOST_STEPS],
    pub(crate) end: End,
    /// Its steps are presses of two actions.
    pub(crate) pair: bool,
    /// The gate that refused it opened this many µs later.
    pub(crate) opened: Option<u64>,
    /// The finish came this many µs too early before the last direction; or 0.
    pub(crate) early: u64,
}

/// How far from a pull an attempt ended: the smaller, the nearer. See [`Attempt::distance`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Distance {
    /// Whether more than a margin kept it from pulling.
    is_more: bool,
    /// The steps that lack.
    lacks: usize,
    missed_by: Option<Duration>,
}

impl Attempt {
    pub(crate) fn push(&mut self, at: u64, did: Did) {
        if usize::from(self.count) == MOST_STEPS {
            self.steps.rotate_left(1);
            self.count -= 1;
        }
        self.steps[usize::from(self.count)] = (at, did);
        self.count += 1;
    }

    /// Forgets the steps behind a moment; whether there were any.
    pub(super) fn forget_after(&mut self, played: u64) -> bool {
        let stays = |step: &&(u64, Did)| step.0 <= played;
        let stayed = self.steps[..usize::from(self.count)].iter().take_while(stays).count() as u8;
        core::mem::replace(&mut self.count, stayed) > stayed
    }

    /// Whether a step, come in time, would have carried it on.
    pub(super) fn lacks(&self, did: Did) -> bool {
        match (self.steps[0].1, did) {
            // The two of a chord are different; others count more of the same.
            (Did::Press(first), Did::Press(now)) => (first != now) == self.pair,
            (first, now) => first == now,
        }
    }
}

/// What ended an attempt.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub enum Outcome<'l> {
    /// It pulled, after it was kept this long.
    Pulled {
        /// How long the gate kept it waiting.
        kept: Duration,
    },
    /// The rest never came.
    RanOut,
    /// The next step came this much too late.
    TooLate {
        /// By how much.
        by: Duration,
    },
    /// It was let go, or its finish came, this much too soon.
    TooSoon {
        /// By how much.
        by: Duration,
    },
    /// It was held, or took, this much too long.
    TooLong {
        /// By how much.
        by: Duration,
    },
    /// One of two was let go before the other came.
    LetGo,
    /// Its first position had been held this much longer than `fresh` accepts.
    NotFresh {
        /// By how much.
        by: Duration,
    },
    /// A direction beside the way lasted this much longer than `astray` accepts.
    Astray {
        /// The direction.
        to: Direction,
        /// By how much.
        by: Duration,
    },
    /// This direction did not come in between.
    Skipped(Direction),
    /// A direction came that is not part of it.
    WrongWay(Direction),
    /// An action was pressed that comes elsewhere in the order.
    WrongPress(&'l str),
    /// It was made for the other side: the fact `facing` was this.
    Faced(&'l str),
    /// The gate was shut.
    GateShut {
        /// The term that shut it: `grounded`, `not busy`, `hop on`.
        term: &'l str,
        /// The term had ceased to let pulls pass this long before.
        since: Option<Duration>,
        /// The gate opened this long after the pull was given up.
        opens: Option<Duration>,
    },
    /// It cooled down still.
    CoolingDown {
        /// For this much longer.
        left: Duration,
    },
    /// Another pull had spent the fact that lets it through.
    Spent {
        /// The fact.
        fact: &'l str,
        /// The action that spent it.
        by: &'l str,
    },
    /// Its press had served another pull of its group.
    Served {
        /// The action that it served.
        by: &'l str,
    },
    /// Another action took its press.
    Outranked {
        /// That action.
        by: &'l str,
    },
    /// It was dropped: covered, the focus lost, unplugged.
    Lost(Cause),
    /// A gap in time was passed.
    Gap,
}

impl Outcome<'_> {
    /// Its word for programs.
    pub const fn name(&self) -> &'static str {
        match self {
            Outcome::Pulled { .. } => "pulled",
            Outcome::RanOut => "ran out",
            Outcome::TooLate { .. } => "too late",
            Outcome::TooSoon { .. } => "too soon",
            Outcome::TooLong { .. } => "too long",
            Outcome::NotFresh { .. } => "not fresh",
            Outcome::Astray { .. } => "astray",
            Outcome::Skipped(_) => "skipped",
            Outcome::LetGo => "let go",
            Outcome::WrongWay(_) => "wrong way",
            Outcome::WrongPress(_) => "wrong press",
            Outcome::Faced(_) => "faced away",
            Outcome::GateShut { .. } => "gate shut",
            Outcome::CoolingDown { .. } => "cooling down",
            Outcome::Spent { .. } => "spent",
            Outcome::Served { .. } => "served",
            Outcome::Outranked { .. } => "outranked",
            Outcome::Lost(cause) => cause.name(),
            Outcome::Gap => "gap",
        }
    }
}

/// One step of an attempt.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Step<'l> {
    /// When it came.
    pub at: Moment,
    /// What it was: a direction, or the name of the action pressed.
    pub name: &'l str,
    /// It was a letting go.
    pub release: bool,
}

fn span(micros: u64) -> Duration {
    Duration::from_micros(micros)
}

impl Attempt {
    /// Counts all attempts that ended since the ledger was begun, from 0.
    pub fn number(&self) -> u64 {
        self.number
    }

    fn is_from(&self, linkage: &Linkage) -> bool {
        self.stamp == linkage.stamp()
    }

    /// The action's name; `None` for a linkage of another profile.
    pub fn action<'l>(&self, linkage: &'l Linkage) -> Option<&'l str> {
        self.is_from(linkage).then(|| linkage.action_name(usize::from(self.action)))
    }

    /// Whether it is of the action that this handle was found for.
    pub fn is_of(&self, handle: impl ActionHandle) -> bool {
        let handle: AnyHandle = handle.into();
        (self.stamp, self.action) == (handle.stamp, handle.number)
    }

    /// When its first step came; of a motion, when its first position was left: from there its window runs.
    pub fn began(&self) -> Moment {
        Moment::from_micros(self.began)
    }

    /// When it was over.
    pub fn ended(&self) -> Moment {
        Moment::from_micros(self.ended)
    }

    /// When its cue was met, so that its gate was asked: at its last step, or later where something had to be held. `None` if it
    /// was not met.
    pub fn met(&self) -> Option<Moment> {
        (self.met > 0).then(|| Moment::from_micros(self.met))
    }

    /// How long after its last step its cue was met: 0 but for what must be held.
    pub(super) fn held_for(&self) -> Duration {
        let last = self.steps[usize::from(self.count).saturating_sub(1)].0;
        span(if self.count > 0 { self.met.saturating_sub(last) } else { 0 })
    }

    /// How many steps its cue has, the finish included.
    pub fn of(&self) -> usize {
        usize::from(self.of.max(self.count))
    }

    /// The steps that came, the one that was too late or wrong last; none for a linkage of another profile.
    pub fn steps<'l>(&self, linkage: &'l Linkage) -> impl Iterator<Item = Step<'l>> {
        let steps = self.steps;
        let count = if self.is_from(linkage) { self.count } else { 0 };
        (0..usize::from(count)).map(move |place| {
            let (at, did) = steps[place];
            Step { at: Moment::from_micros(at), name: did.name(linkage), release: matches!(did, Did::Release(_)) }
        })
    }

    /// The window that it had to be finished in: from where it runs to its end. `None` for cues without one, and for a
    /// linkage of another profile.
    pub fn window(&self, linkage: &Linkage) -> Option<(Moment, Moment)> {
        if !self.is_from(linkage) {
            return None;
        }
        let rule = linkage.0.cues.all.get(usize::from(self.cue))?.rule;
        let from = match rule.window_from() {
            // Gaps are counted from tap to tap: of the last one that was in time, or before the one that completed it.
            WindowFrom::LastStep => {
                let is_over = matches!(self.end, End::Late { .. }) || self.count > 1 && self.pulled();
                let came = usize::from(self.count) - usize::from(is_over);
                self.steps[came.saturating_sub(1)].0
            }
            WindowFrom::Nowhere => return None,
            WindowFrom::Beginning => self.began,
        };
        let span = rule.window()?;
        Some((Moment::from_micros(from), Moment::from_micros(from + span)))
    }

    /// Whether it pulled.
    pub fn pulled(&self) -> bool {
        matches!(self.end, End::Pulled { .. })
    }

    /// What ended it; `None` for a linkage of another profile.
    pub fn outcome<'l>(&self, linkage: &'l Linkage) -> Option<Outcome<'l>> {
        self.is_from(linkage).then(|| self.ended_by(linkage))
    }

    pub(super) fn ended_by<'l>(&self, linkage: &'l Linkage) -> Outcome<'l> {
        let name = |action: u16| linkage.action_name(usize::from(action));
        let terms = &linkage.0.actions[usize::from(self.action)].terms;
        let term = |term: u16| terms.get(usize::from(term)).map_or("", String::as_str);
        match self.end {
            End::RanOut if self.early > 0 => Outcome::TooSoon { by: span(self.early) },
            End::Wrong(_) if self.early > 0 => Outcome::TooSoon { by: span(self.early) },
            End::RanOut => Outcome::RanOut,
            End::Pulled { kept } => Outcome::Pulled { kept: span(kept) },
            End::Late { by } => Outcome::TooLate { by: span(by) },
            End::Soon { by } => Outcome::TooSoon { by: span(by) },
            End::Long { by } => Outcome::TooLong { by: span(by) },
            End::Stale { by } => Outcome::NotFresh { by: span(by) },
            End::Strayed { to, by } => Outcome::Astray { to, by: span(by) },
            End::Skipped(direction) => Outcome::Skipped(direction),
            End::LetGo => Outcome::LetGo,
            End::Wrong(Did::Toward(direction)) => Outcome::WrongWay(direction),
            End::Wrong(did) => Outcome::WrongPress(did.name(linkage)),
            End::Faced { left } => Outcome::Faced(if left { "left" } else { "right" }),
            End::Shut { term: number, by } => {
                // Of a lapse and an opening, the nearer one matters.
                let (since, opens) = match (by, self.opened) {
                    (Some(since), Some(opens)) if opens < since => (None, Some(opens)),
                    (Some(since), _) => (Some(since), None),
                    (None, opens) => (None, opens),
                };
                Outcome::GateShut { term: term(number), since: since.map(span), opens: opens.map(span) }
            }
            End::Cooling { left } => Outcome::CoolingDown { left: span(left) },
            End::Spent { term: number, by } => {
                Outcome::Spent { fact: term(number), by: by.map_or("", |by| name(by.number())) }
            }
            End::Served { by } => Outcome::Served { by: name(by) },
            End::Outranked { by } => Outcome::Outranked { by: name(by) },
            End::Lost(cause) => Outcome::Lost(cause),
            End::Gap => Outcome::Gap,
        }
    }

    /// How far from a pull it ended, for finding the nearest of several with `min_by_key`: one that a margin alone kept from
    /// pulling is nearer than any other; then fewer steps that lack; then the smaller margin.
    pub fn distance(&self, linkage: &Linkage) -> Distance {
        let lacks = self.of() - self.steps(linkage).count().min(self.of());
        Distance { is_more: self.missed_by().is_none(), lacks, missed_by: self.missed_by() }
    }

    /// By how much it missed, where this much alone would have made it pull.
    pub fn missed_by(&self) -> Option<Duration> {
        match self.end {
            // With further steps to come, nobody knows.
            End::Late { .. } | End::Soon { .. } if self.count < self.of => None,
            End::Late { by } | End::Soon { by } | End::Long { by } | End::Stale { by } | End::Strayed { by, .. } => {
                Some(span(by))
            }
            End::RanOut | End::Wrong(_) => (self.early > 0).then(|| span(self.early)),
            End::Shut { by, .. } => by.into_iter().chain(self.opened).min().map(span),
            End::Cooling { left } => Some(span(self.opened.unwrap_or(left))),
            End::Spent { .. } => self.opened.map(span),
            _ => None,
        }
    }
}

impl Did {
    fn name(self, linkage: &Linkage) -> &str {
        match self {
            Did::Press(action) | Did::Release(action) => linkage.action_name(usize::from(action)),
            Did::Toward(direction) => direction.name(),
            Did::Neutral => "neutral",
        }
    }
}
