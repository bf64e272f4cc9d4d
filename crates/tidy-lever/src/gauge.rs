//! Gauges: a value that presses push and time pulls, in closed form.
//!
//! ```text
//!   value
//!     │   ┌┐
//!     │ ┌─┘└──rest──╲     a push at each press; nothing for a rest; then it fades (or refills)
//!     │─┘            ╲___ floor
//!     └───────────────────▶ time
//! ```
//!
//! The value is worked out from where it stood at the last push and the span since, never step by step, so it is the same
//! at any moment at any tick rate.

use alloc::format;
mod builder;

use alloc::string::String;
use alloc::vec::Vec;
use core::hash::{Hash, Hasher};

use crate::fixed::{self, ONE};
use crate::time::{SpanEntry, micros, parse_span};

/// A gauge as declared; texts are read by [`Linkage::build`](crate::Linkage::build).
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
#[must_use]
pub struct Gauge {
    /// It never falls below. Default 0.
    pub floor: f64,
    /// It never rises above. Default 1.
    pub ceiling: f64,
    /// Where it starts. Default the floor; the ceiling if it refills.
    pub start: Option<f64>,
    /// What a press does: `"+1"`, `"-1"`, `"x1.35"`.
    pub push: Option<String>,
    /// Or the steps that a press climbs, one after the other.
    pub steps: Vec<f64>,
    /// How long after the last press (or letting go) time begins to pull: `"260ms"`. Default none.
    pub rest: Option<SpanEntry>,
    /// How time pulls it down: `"x0.85 every 100ms"`, `"-2 every 1s"`.
    pub fade: Option<String>,
    /// How time fills it up: `"+2 every 1s"`.
    pub refill: Option<String>,
    /// How it drains while held: `"-1 every 1s"`.
    pub drain: Option<String>,
    /// When the action pulls: `"empty"` as it reaches the floor, `"full"` as it reaches the ceiling. Default never.
    pub pulls: Option<String>,
}

impl Default for Gauge {
    fn default() -> Gauge {
        Gauge {
            floor: 0.0,
            ceiling: 1.0,
            start: None,
            push: None,
            steps: Vec::new(),
            rest: None,
            fade: None,
            refill: None,
            drain: None,
            pulls: None,
        }
    }
}

/// A change by a number or by a factor, in millionths.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Change {
    Add(i64),
    Times(f64),
}

impl Hash for Change {
    fn hash<H: Hasher>(&self, state: &mut H) {
        core::mem::discriminant(self).hash(state);
        match self {
            Change::Add(step) => step.hash(state),
            Change::Times(factor) => factor.to_bits().hash(state),
        }
    }
}

/// A change every this many µs, smoothly in between.
#[derive(Clone, Copy, Debug, PartialEq, Hash)]
struct Pace {
    change: Change,
    every: u64,
}

/// When a gauge pulls.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) enum End {
    Empty,
    Full,
}

#[derive(Clone, Debug, PartialEq, Hash)]
pub(crate) struct GaugePlan {
    pub(crate) floor: i64,
    pub(crate) ceiling: i64,
    pub(crate) start: i64,
    push: Option<Change>,
    steps: Vec<i64>,
    rest: u64,
    drift: Option<Pace>,
    drain: Option<Pace>,
    pub(crate) pulls: Option<End>,
}

/// The largest number a gauge deals with.
const MOST: f64 = 1e6;

fn change(text: &str) -> Option<Change> {
    let text = text.trim();
    let (sign, number) = text.split_at_checked(1)?;
    let number = number.trim();
    let bare = number.starts_with(|c: char| c.is_ascii_digit() || c == '.');
    let number: f64 =
        Some(number).filter(|_| bare)?.parse().ok().filter(|n: &f64| n.is_finite() && (0.0..=MOST).contains(n))?;
    match sign {
        "+" => fixed::from_f64(number).map(Change::Add),
        "-" => fixed::from_f64(-number).map(Change::Add),
        "x" if number > 0.0 => Some(Change::Times(number)),
        _ => None,
    }
}

fn pace(text: &str) -> Option<Pace> {
    let (how, every) = text.split_once("every")?;
    let every = parse_span(every).ok().map(micros).filter(|every| *every > 0)?;
    Some(Pace { change: change(how)?, every })
}

impl Pace {
    /// The value after this many µs.
    fn after(&self, value: i64, span: u64) -> i64 {
        match self.change {
            Change::Add(step) => {
                let change = i128::from(step) * i128::from(span) / i128::from(self.every);
                i64::try_from(i128::from(value) + change).unwrap_or(if step < 0 { i64::MIN / 2 } else { i64::MAX / 2 })
            }
            Change::Times(factor) => {
                let whole = value as f64 * libm::pow(factor, span as f64 / self.every as f64);
                fixed::from_f64(whole / f64::from(ONE)).unwrap_or(i64::MAX / 2)
            }
        }
    }

    fn falls(&self) -> bool {
        match self.change {
            Change::Add(step) => step < 0,
            Change::Times(factor) => factor < 1.0,
        }
    }

    fn is_still(&self) -> bool {
        matches!(self.change, Change::Add(0) | Change::Times(1.0))
    }
}

impl GaugePlan {
    /// Checks a gauge and makes it ready; what is wrong goes to `problem`, as a key and what it should be.
    pub(crate) fn build(gauge: &Gauge, mut problem: impl FnMut(&str, String)) -> GaugePlan {
        let micro = |n: f64| fixed::from_f64(n).unwrap_or(0);
        let inside = |n: f64| n.abs() <= MOST;
        let (floor, ceiling) = (gauge.floor, gauge.ceiling);
        if !(inside(floor) && inside(ceiling) && floor < ceiling) {
            problem(
                "floor",
                format!("`floor` must be below `ceiling`, each from -{MOST} to {MOST}; found {floor} and {ceiling}"),
            );
        }
        let start = gauge.start.unwrap_or(if gauge.refill.is_some() { ceiling } else { floor });
        if !(floor..=ceiling).contains(&start) {
            problem(
                "start",
                format!("`start` must be from `floor` to `ceiling` ({floor} to {ceiling}), found {start}"),
            );
        }
        let push = gauge.push.as_ref().and_then(|text| {
            let change = change(text);
            if change.is_none() {
                problem("push", format!("a push is \"+1\", \"-1\" or \"x1.35\", found \"{text}\""));
            }
            change
        });
        if matches!(push, Some(Change::Times(_))) && floor <= 0.0 {
            problem("push", "multiplying 0 gives 0; use a floor above 0, or add a number instead, as in \"+1\"".into());
        }
        if !gauge.steps.windows(2).all(|pair| pair[0] < pair[1])
            || !gauge.steps.iter().all(|n| (floor..=ceiling).contains(n))
        {
            problem("steps", "`steps` must rise, each from `floor` to `ceiling`".into());
        }
        if !gauge.steps.is_empty() && gauge.push.is_some() {
            problem("steps", "`push` and `steps` can't be combined; remove one of them".into());
        }
        let rest = gauge.rest.as_ref().map_or(0, |text| match text.read() {
            Ok(span) => micros(span),
            Err(error) => {
                problem("rest", format!("{error}"));
                0
            }
        });
        let mut read = |key: &str, text: &Option<String>, falls: bool| {
            let text = text.as_ref()?;
            let (way, sample) = if falls { ("falls", "x0.85 every 100ms") } else { ("rises", "+2 every 1s") };
            match pace(text) {
                Some(pace) if pace.is_still() || pace.falls() == falls => {
                    if matches!(pace.change, Change::Times(_)) && floor <= 0.0 && !falls {
                        problem(key, "multiplying 0 gives 0; use a floor above 0, or add a number instead".into());
                    }
                    Some(pace)
                }
                _ => {
                    problem(key, format!("the gauge {way} by a change per span, as in \"{sample}\"; found \"{text}\""));
                    None
                }
            }
        };
        let (fade, refill) = (read("fade", &gauge.fade, true), read("refill", &gauge.refill, false));
        let drain = read("drain", &gauge.drain, true);
        if fade.is_some() && refill.is_some() {
            problem("refill", "`fade` and `refill` can't be combined; remove one of them".into());
        }
        let pulls = gauge.pulls.as_deref().and_then(|word| match word {
            "empty" => Some(End::Empty),
            "full" => Some(End::Full),
            _ => {
                problem("pulls", format!("it pulls when \"empty\" or \"full\", found \"{word}\""));
                None
            }
        });
        GaugePlan {
            floor: micro(floor),
            ceiling: micro(ceiling),
            start: micro(start),
            push,
            steps: gauge.steps.iter().map(|n| micro(*n)).collect(),
            rest,
            drift: fade.or(refill),
            drain,
            pulls,
        }
    }
}

/// Where a gauge stood, and since when, on the world's clock.
#[derive(Clone, Copy, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct GaugeState {
    value: i64,
    since: u64,
    held: bool,
}

impl GaugeState {
    /// A gauge as it goes on by another plan: at the same value, as far as that lies within the new ends.
    pub(crate) fn carried(was: &GaugeState, by: &GaugePlan, plan: &GaugePlan, world: u64) -> GaugeState {
        if by == plan {
            return *was;
        }
        let value = was.value(by, world).clamp(plan.floor, plan.ceiling);
        GaugeState { value, since: world.saturating_sub(plan.rest), held: was.held }
    }

    pub(crate) fn new(plan: &GaugePlan, world: u64) -> GaugeState {
        // Nothing was pressed yet, so no rest is owed: time pulls from the start.
        GaugeState { value: plan.start, since: world.saturating_sub(plan.rest), held: false }
    }

    /// How time pulls just now, and from when on.
    fn pace(&self, plan: &GaugePlan) -> Option<(Pace, u64)> {
        match (self.held, plan.drain) {
            (true, Some(drain)) => Some((drain, self.since)),
            _ => plan.drift.map(|drift| (drift, self.since.saturating_add(plan.rest))),
        }
    }

    /// The value at a moment of the world's clock, in millionths.
    pub(crate) fn value(&self, plan: &GaugePlan, world: u64) -> i64 {
        let value = match self.pace(plan) {
            Some((pace, from)) if world > from => pace.after(self.value, world - from),
            _ => self.value,
        };
        value.clamp(plan.floor, plan.ceiling)
    }

    /// A press.
    pub(crate) fn push(&mut self, plan: &GaugePlan, world: u64) {
        let value = self.value(plan, world);
        let pushed = match plan.push {
            Some(Change::Add(step)) => value.saturating_add(step),
            Some(Change::Times(factor)) => fixed::from_f64(value as f64 * factor / f64::from(ONE)).unwrap_or(value),
            None => plan.steps.iter().copied().find(|step| *step > value).unwrap_or(value),
        };
        *self = GaugeState { value: pushed.clamp(plan.floor, plan.ceiling), since: world, held: true };
    }

    /// It was let go: the value goes on from where it is. Only what drains while held counts its rest again.
    pub(crate) fn let_go(&mut self, plan: &GaugePlan, world: u64) {
        if plan.drain.is_some() {
            (self.value, self.since) = (self.value(plan, world), world);
        }
        self.held = false;
    }

    /// When time alone will bring it to the end at which it pulls: on the world's clock, the first µs that is there.
    pub(crate) fn reaches(&self, plan: &GaugePlan, world: u64) -> Option<u64> {
        let end = plan.pulls?;
        let (pace, from) = self.pace(plan)?;
        let there = |at: u64| match end {
            End::Empty => self.value(plan, at) <= plan.floor,
            End::Full => self.value(plan, at) >= plan.ceiling,
        };
        let right_way = !pace.is_still() && pace.falls() == (end == End::Empty);
        if !right_way || there(world) {
            return None;
        }
        // Double a span until it is there, then halve down to the microsecond.
        let (mut before, mut span) = (world.max(from), 1_000u64);
        while !there(before + span) {
            before += span;
            span = span.saturating_mul(2);
            if span > 1 << 50 {
                return None;
            }
        }
        let mut after = before + span;
        while after - before > 1 {
            let middle = before + (after - before) / 2;
            if there(middle) { after = middle } else { before = middle }
        }
        Some(after)
    }

    /// Whether it stands at the end at which it pulls.
    pub(crate) fn is_at_end(&self, plan: &GaugePlan, world: u64) -> bool {
        match plan.pulls {
            Some(End::Empty) => self.value(plan, world) <= plan.floor,
            Some(End::Full) => self.value(plan, world) >= plan.ceiling,
            None => false,
        }
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> [u64; 2] {
        let GaugeState { value, since, held } = *self;
        [value as u64, since << 1 | u64::from(held)]
    }
}
