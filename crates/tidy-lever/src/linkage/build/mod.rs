//! From a profile to a plan: every name, number and rule checked, all faults gathered.

mod buttons;
mod controls;
mod cues;
mod declare;
mod devices;
mod gates;
mod layout;
mod motions;
mod moved;
mod pointer;
mod rivals;

use alloc::borrow::ToOwned;
use alloc::collections::BTreeMap;
use alloc::format;
use alloc::string::{String, ToString};
use alloc::vec;
use alloc::vec::Vec;

use super::{
    ActionPlan, ControlView, CuePlan, CuesPlan, MOST_ACTIONS, MOST_ASKED_WORDS, MOST_CUES, MOST_FACTS, MOST_HELD_ENDS,
    MOST_MODES, MOST_WORDS, Plan, WorldPlan,
};
use crate::access::Access;
use crate::control::{CONTROLS, Control, Family, MOST_PATCHES, Part, Sort};
use crate::cue::rolls::{MotionDraft, MotionLine, MotionSet, Seen};
use crate::cue::{
    CompiledRule, Cue, CueError, Edge, MOST_NAMES, Pace, PathStep, Role, RulePlan, Tolerances, nearest_rule,
};
use crate::direction::{Compass, Direction};
use crate::fact::FactPlan;
use crate::fixed;
use crate::gate::{DEEPEST, Gate, Step, TruthPlan};
use crate::gauge::GaugePlan;
use crate::guard::{self, GuardPlan};
use crate::index::{ActionIndex, FinisherIndex, GroupIndex, Index, Run, StickIndex, run};
use crate::inputs::fingers::PatchPlan;
use crate::inputs::{
    Alone, ContactPlan, CrossPlan, FeedPlan, InputsPlan, LegOf, LegPlan, MovedPlan, PairPlan, PointerPlan, SlotPlan,
    Wire,
};
use crate::mode::{HeardPlan, ModePlan};
use crate::profile::{
    ACTION_KEYS, Action, ActiveIn, Corner, Covers, CueEntry, FactEntry, Fault, Faults, Inputs, Kind, Leg, PatchKind,
    Placed, Profile, Sectors, Severity, Shape, Spot, is_reserved, title_problem, valid_name,
};
use crate::shape::ShapePlan;
use crate::time::{SpanEntry, micros};

/// The levels at which an analogue control used as a button goes down and up, unless an action says otherwise.
const DOWN_AT: f64 = 0.55;
const UP_AT: f64 = 0.45;
/// For this many faults the nearest right name is looked up.
const MOST_NEAREST: usize = 100;
/// The most marks of an action.
const MOST_MARKS: usize = 16;
/// Ends of an axis's range.
const MOST_RANGE: f64 = 1e6;

pub(super) fn build(profile: &Profile, access: &Access) -> Result<Plan, Faults> {
    let mut builder = Builder::new(profile, access);
    if let Some((key, problem)) = access.problem() {
        builder.fault(Spot::NONE, format!("access.{key}"), problem);
    }
    builder.limits();
    builder.fits()?;
    builder.declare();
    builder.fits()?;
    for (number, action) in profile.actions.iter().enumerate() {
        builder.action(number, action);
    }
    builder.limit(builder.cues.all.len(), MOST_CUES, "cues");
    builder.limit(builder.world.truths.len(), MOST_ASKED_WORDS, "words of facts that gates ask for");
    builder.fits()?;
    builder.devices();
    builder.motions();
    let motions = "motions that end with a held direction (one with `forward` or `back` counts twice)";
    builder.limit(builder.cues.motion_timers, MOST_HELD_ENDS, motions);
    builder.fits()?;
    builder.suit();
    builder.rivalries();
    builder.check_gates();
    builder.finish()
}

/// A control found by its name in a profile.
#[derive(Clone, Copy)]
struct Found {
    control: Control,
    sort: Sort,
    part: Part,
}

/// A contact or a feed on its way into the flat tables, which are sorted by slot at the end.
struct Draft {
    slot: u16,
    part: Part,
    down_at: i32,
    up_at: i32,
    wires: Vec<Wire>,
}

/// A cue made ready: its rule, its subject, who else it listens to, and the line.
struct Heeds {
    rule: RulePlan,
    subject: u16,
    others: Vec<(u16, Role)>,
    line: Cue,
}

struct Builder<'p> {
    profile: &'p Profile,
    access: &'p Access,
    faults: Vec<Fault>,
    /// The first action of each name; behind the declared ones the directions of sticks and axes, in their order.
    names: BTreeMap<String, usize>,
    actions: Vec<ActionPlan>,
    inputs: InputsPlan,
    cues: CuesPlan,
    world: WorldPlan,
    panel: Vec<PatchPlan>,
    // What has no place yet.
    /// By action: the stick that its pulls aim with.
    aims: Vec<Option<ActionIndex>>,
    /// By fact and value: the truth that it is.
    truths: BTreeMap<(u16, u16), u16>,
    groups: Vec<String>,
    patches: Vec<(String, Sort)>,
    contacts: Vec<Draft>,
    feeds: Vec<(u16, FeedPlan)>,
    /// The legs of each cross: up, left, down, right.
    cross_legs: Vec<[LegPlan; 4]>,
    motion_drafts: Vec<(usize, MotionDraft)>,
    /// By finishing action: which set, and which of its finishers.
    finishes: Vec<(u16, u16, FinisherIndex)>,
    /// Who is listened to, by which cue.
    listening: Vec<(u16, u16, Role)>,
}

impl<'p> Builder<'p> {
    fn new(profile: &'p Profile, access: &'p Access) -> Builder<'p> {
        Builder {
            profile,
            access,
            faults: profile.read_faults.clone(),
            names: BTreeMap::new(),
            actions: Vec::new(),
            inputs: InputsPlan {
                slot_of: vec![None; CONTROLS],
                shapes: vec![ShapePlan::plain()],
                ..InputsPlan::default()
            },
            cues: CuesPlan::default(),
            world: WorldPlan::default(),
            panel: Vec::new(),
            aims: Vec::new(),
            truths: BTreeMap::new(),
            groups: Vec::new(),
            patches: Vec::new(),
            contacts: Vec::new(),
            feeds: Vec::new(),
            cross_legs: Vec::new(),
            motion_drafts: Vec::new(),
            finishes: Vec::new(),
            listening: Vec::new(),
        }
    }

    fn fault(&mut self, spot: Spot, path: impl Into<String>, problem: impl Into<String>) {
        self.faults.push(Fault::new(spot, path, problem));
    }

    /// A fault with the nearest right name. Behind a hundred faults nobody reads on, and looking would only take long.
    fn near<'a>(&self, fault: Fault, wrong: &str, right: impl IntoIterator<Item = &'a str>) -> Fault {
        if self.faults.len() < MOST_NEAREST { fault.near(wrong, right) } else { fault }
    }

    fn warn(&mut self, spot: Spot, path: impl Into<String>, problem: impl Into<String>) {
        self.faults.push(Fault::new(spot, path, problem).warning());
    }

    /// Builds one action: checks its keys against its kind, then its controls, its cue and the rest.
    fn action(&mut self, number: usize, action: &Action) {
        let path = format!("action.{}", action.name.value);
        let kind = action.kind.value;
        for given in &action.given {
            let fits = ACTION_KEYS.iter().any(|key| key.name == given.value && key.kinds.contains(&kind));
            if !fits {
                let kinds: Vec<String> = ACTION_KEYS
                    .iter()
                    .filter(|key| key.name == given.value)
                    .flat_map(|key| key.kinds.iter().map(|kind| format!("\"{}\"", kind.name())))
                    .collect();
                let problem =
                    format!("`{}` needs kind {}, and this is a \"{}\"", given.value, kinds.join(" or "), kind.name());
                self.fault(given.spot, &path, problem);
            }
        }
        let heard = match &action.heard {
            ActiveIn::Everywhere => HeardPlan::Everywhere,
            ActiveIn::Always => HeardPlan::Always,
            ActiveIn::In(names) => {
                if names.is_empty() {
                    let problem = "with an empty list of modes the action is never active; remove `modes` to make it active in every mode";
                    self.fault(action.name.spot, format!("{path}.modes"), problem);
                }
                HeardPlan::In(names.iter().filter_map(|name| self.mode(name, &format!("{path}.modes"))).collect())
            }
        };
        let levels = self.thresholds(action, &path);
        let cues = self.cues(number, action, &path);
        let aim = self.aim(action, &path);
        let (cooldown, marks) = (self.cooldown(action, &path), self.marks(action, &path));
        let (outranks, waits_for) =
            (self.rivals(number, &action.outranks, &path), self.rivals(number, &action.waits_for, &path));
        let group = self.group(action, &path);
        let mut plan = ActionPlan::new(action.name.value.clone(), kind, heard);
        plan.cues = self.cues.all.len() as u32..(self.cues.all.len() + cues.len()) as u32;
        for Heeds { rule, subject, others, line } in cues {
            let moments = self.cues.moments as u32..(self.cues.moments + rule.moments()) as u32;
            self.cues.moments += rule.moments();
            let cue = self.cues.all.len() as u16;
            self.cues.all.push(CuePlan {
                action: number as u16,
                rule,
                subject,
                pushed: None,
                moments,
                set: None,
                line,
            });
            self.listening.extend(others.into_iter().map(|(other, role)| (other, cue, role)));
        }
        self.aims.push(aim);
        self.actions.push(ActionPlan { cooldown, marks, outranks, waits_for, group, ..plan });
        self.gate(number, action, &path);
        match kind {
            Kind::Button => self.button(number, action, levels, &path),
            Kind::Axis | Kind::Stick | Kind::Sweep => self.moved(number, action, levels, &path),
            Kind::Pointer => self.pointer(number, action, levels, &path),
            Kind::Gauge => self.gauge(number, action, levels, &path),
        }
    }

    /// The cues of an action that is built.
    fn cues_of(&self, number: usize) -> &[CuePlan] {
        self.actions.get(number).map_or(&[], |action| &self.cues.all[run(&action.cues)])
    }

    /// A span in µs.
    fn span(&mut self, span: &Placed<SpanEntry>, path: &str) -> u64 {
        match span.read() {
            Ok(span) => micros(span),
            Err(error) => {
                self.fault(span.spot, path, format!("\"{}\": {error}", span.value));
                0
            }
        }
    }

    /// Learns the names of the actions, and of the directions of sticks and axes behind them.
    fn learn_names(&mut self) {
        let actions = &self.profile.actions;
        let directions = actions.iter().flat_map(|action| {
            let buttons = directions(action.kind.value).iter();
            buttons.map(|(_, direction)| format!("{}.{direction}", action.name.value))
        });
        for (number, name) in actions.iter().map(|action| action.name.value.clone()).chain(directions).enumerate() {
            self.names.entry(name).or_insert(number);
        }
    }

    /// The number of a declared action.
    fn declared(&self, name: &str) -> Option<usize> {
        self.names.get(name).copied().filter(|number| *number < self.profile.actions.len())
    }
}

/// The buttons that an action of a kind has besides itself, by name: the directions of a stick, the ends of an axis, a
/// pointer's drag and click. The direction says which; a pointer's two have none of their own.
fn directions(kind: Kind) -> &'static [(Direction, &'static str)] {
    const STICK: [(Direction, &str); 8] = {
        let mut all = [(Direction::Right, ""); 8];
        let mut i = 0;
        while i < 8 {
            all[i] = (Direction::ALL[i], Direction::ALL[i].name());
            i += 1;
        }
        all
    };
    match kind {
        Kind::Button | Kind::Sweep | Kind::Gauge => &[],
        Kind::Axis => &[(Direction::Right, "plus"), (Direction::Left, "minus")],
        Kind::Stick => &STICK,
        Kind::Pointer => &[(Direction::Right, "drag"), (Direction::Left, "click")],
    }
}

/// A line of a grammar with its place: faults point into it, and the text begins behind its quote.
#[derive(Clone, Copy)]
pub(super) struct Written<'t> {
    text: &'t str,
    spot: Spot,
}

impl<'t> Written<'t> {
    fn new(text: &'t str, spot: Spot) -> Written<'t> {
        Written { text, spot }
    }

    /// What is wrong at one of its characters.
    fn fault(self, error: &CueError, path: &str) -> Fault {
        Fault::new(self.spot_at(error.at), path, format!("`{}`: {error}", self.text))
    }

    fn spot_at(self, character: usize) -> Spot {
        let column = if self.spot.is_some() { self.spot.column + 1 + character as u32 } else { 0 };
        Spot { column, ..self.spot }
    }

    /// Where a name, or its part behind the dot, is in it; the line's own place if it is not there.
    fn spot_of(self, name: &str) -> Spot {
        let is_of_name = |c: char| c.is_alphanumeric() || matches!(c, '_' | '-' | '.');
        let stands = |(at, found): &(usize, &str)| {
            !self.text[..*at].ends_with(is_of_name) && !self.text[at + found.len()..].starts_with(is_of_name)
        };
        let find = |name: &str| self.text.match_indices(name).find(stands).map(|(at, _)| at);
        let at = find(name).or_else(|| find(name.split_once('.')?.1));
        at.map_or(self.spot, |at| self.spot_at(self.text[..at].chars().count()))
    }
}

fn facing(first: u16) -> FactPlan {
    FactPlan { name: "facing".to_owned(), words: vec!["left".to_owned(), "right".to_owned()], flag: false, first }
}

fn flag(name: &str, first: bool) -> FactPlan {
    let words = vec!["false".to_owned(), "true".to_owned()];
    FactPlan { name: name.to_owned(), words, flag: true, first: u16::from(first) }
}

fn names_spot(legs: &crate::profile::Legs, leg: Leg) -> Option<Spot> {
    legs.0.iter().find(|(l, _)| *l == leg).and_then(|(_, names)| names.first()).map(|name| name.spot)
}

/// Makes a run reach over one more place; runs are filled in order.
fn grow(run: &mut Run, place: u32) {
    if run.start == run.end {
        run.start = place;
    }
    run.end = place + 1;
}
