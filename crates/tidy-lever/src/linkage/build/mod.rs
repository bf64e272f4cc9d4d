//! From a profile to a plan: every name, number and rule checked, all faults gathered.

mod controls;
mod declare;
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
    ActionPlan, ContactPlan, ControlView, CrossPlan, FeedPlan, LegOf, LegPlan, MOST_ACTIONS, MOST_FACTS, MOST_MODES,
    MOST_WORDS, MovedPlan, NONE, Plan, PointerPlan, Run, SlotPlan, Wire,
};
use crate::access::Access;
use crate::control::{CONTROLS, Control, Family, MOST_PATCHES, Part, Sort};
use crate::cue::rolls::{MOST_MAYBES, MotionDraft, MotionSet};
use crate::cue::{Cue, CueError, MOST_NAMES, PathStep, Position, Role, Rule, RulePlan, nearest_rule};
use crate::direction::{Compass, Direction};
use crate::fact::FactPlan;
use crate::fixed;
use crate::gate::{DEEPEST, Gate, Step, TruthPlan};
use crate::gauge::GaugePlan;
use crate::mode::{HeardPlan, ModePlan};
use crate::panel::{PatchKind, PatchPlan};
use crate::profile::{
    ACTION_KEYS, Action, Covers, FactEntry, Fault, Faults, Heard, Inputs, Kind, Leg, Placed, Profile, Sectors,
    Severity, Shape, Spot, is_reserved, valid_name,
};
use crate::shape::ShapePlan;
use crate::time::{micros, parse_span};

/// The levels at which an analogue control used as a button goes down and up, unless an action says otherwise.
const DOWN_AT: f64 = 0.55;
const UP_AT: f64 = 0.45;
/// How long before a motion's last direction its finishing press may come unless an action says otherwise, in µs.
const EARLY: u64 = 30_000;
/// For this many faults the nearest right name is looked up.
const MOST_NEAREST: usize = 100;
/// The most marks of an action.
const MOST_MARKS: usize = 16;
/// Ends of an axis's range.
const MOST_RANGE: f64 = 1e6;

const CORNERS: [&str; 4] = ["bottom-left", "bottom-right", "top-left", "top-right"];

pub(super) fn build(profile: &Profile, access: &Access) -> Result<Plan, Faults> {
    let mut builder = Builder::new(profile, access);
    if let Some((key, problem)) = access.problem() {
        builder.fault(Spot::NONE, format!("access.{key}"), problem);
    }
    builder.declare();
    // With more than there may be, what follows would only take long.
    if builder.faults.iter().any(|fault| fault.spot == Spot::NONE && fault.path.is_empty()) {
        return Err(Faults(builder.faults));
    }
    for (number, action) in profile.actions.iter().enumerate() {
        builder.action(number, action);
    }
    builder.motions();
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
    facts: Vec<FactPlan>,
    modes: Vec<ModePlan>,
    patches: Vec<(String, Sort)>,
    panel: Vec<PatchPlan>,
    slot_of: Vec<u16>,
    slots: Vec<SlotPlan>,
    contacts: Vec<Draft>,
    feeds: Vec<(u16, FeedPlan)>,
    crosses: Vec<CrossPlan>,
    leg_contacts: Vec<u32>,
    leg_feeds: Vec<u32>,
    moved: Vec<MovedPlan>,
    sweeps: usize,
    gauges: Vec<GaugePlan>,
    gauge_actions: Vec<u16>,
    truths: Vec<TruthPlan>,
    groups: Vec<String>,
    moments: usize,
    marks: usize,
    /// The motions of sticks, and how many of them need a timer.
    motion_sets: Vec<MotionSet>,
    motion_drafts: Vec<(usize, MotionDraft)>,
    motion_timers: u16,
    /// By finishing action: which set, and which of its finishers.
    finishes: Vec<(u16, u16, u16)>,
    /// Who is listened to, by whom.
    listening: Vec<(u16, u16, Role)>,
    pointers: Vec<PointerPlan>,
    shapes: Vec<ShapePlan>,
}

impl<'p> Builder<'p> {
    fn new(profile: &'p Profile, access: &'p Access) -> Builder<'p> {
        Builder {
            profile,
            access,
            faults: profile.read_faults.clone(),
            names: BTreeMap::new(),
            actions: Vec::new(),
            facts: Vec::new(),
            modes: Vec::new(),
            patches: Vec::new(),
            panel: Vec::new(),
            slot_of: vec![NONE; CONTROLS],
            slots: Vec::new(),
            contacts: Vec::new(),
            feeds: Vec::new(),
            crosses: Vec::new(),
            leg_contacts: Vec::new(),
            leg_feeds: Vec::new(),
            moved: Vec::new(),
            sweeps: 0,
            gauges: Vec::new(),
            gauge_actions: Vec::new(),
            truths: Vec::new(),
            groups: Vec::new(),
            moments: 0,
            marks: 0,
            motion_sets: Vec::new(),
            motion_drafts: Vec::new(),
            motion_timers: 0,
            finishes: Vec::new(),
            listening: Vec::new(),
            pointers: Vec::new(),
            shapes: vec![ShapePlan::plain()],
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
            Heard::Everywhere => HeardPlan::Everywhere,
            Heard::Always => HeardPlan::Always,
            Heard::In(names) => {
                if names.is_empty() {
                    let problem = "with an empty list of modes the action is never active; remove `modes` to make it active in every mode";
                    self.fault(action.name.spot, format!("{path}.modes"), problem);
                }
                HeardPlan::In(names.iter().filter_map(|name| self.mode(name, &format!("{path}.modes"))).collect())
            }
        };
        let levels = self.thresholds(action, &path);
        let cue = self.cue(number, action, &path);
        let aim = self.aim(action, &path);
        let (cooldown, marks) = (self.cooldown(action, &path), self.marks(action, &path));
        let (outranks, waits_for) =
            (self.rivals(number, &action.outranks, &path), self.rivals(number, &action.waits_for, &path));
        let group = self.group(action, &path);
        let mut plan = ActionPlan::new(action.name.value.clone(), kind, heard);
        if let Some(Heeds { rule, subject, others, line }) = cue {
            plan.moments = self.moments as u32..(self.moments + rule.moments()) as u32;
            self.moments += rule.moments();
            (plan.cue, plan.subject, plan.line) = (Some(rule), subject, Some(line));
            self.listening.extend(others.into_iter().map(|(other, role)| (other, number as u16, role)));
        }
        self.actions.push(ActionPlan { aim, cooldown, marks, outranks, waits_for, group, ..plan });
        self.gate(number, action, &path);
        match kind {
            Kind::Button => self.button(number, action, levels, &path),
            Kind::Axis | Kind::Stick | Kind::Sweep => self.moved(number, action, levels, &path),
            Kind::Pointer => self.pointer(number, action, levels, &path),
            Kind::Gauge => self.gauge(number, action, levels, &path),
        }
    }

    fn thresholds(&mut self, action: &Action, path: &str) -> (i32, i32) {
        let down_at = action.down_at.as_ref().map_or(DOWN_AT, |n| n.value);
        let up_at = action.up_at.as_ref().map_or(UP_AT.min(down_at), |n| n.value);
        // Each fault blames a key that was written.
        if let Some(wrong) = action.down_at.as_ref().filter(|_| !(down_at > 0.0 && down_at <= 1.0)) {
            let problem = format!("`down_at` must be above 0, up to and including 1, found {down_at}");
            self.fault(wrong.spot, format!("{path}.down_at"), problem);
        } else if let Some(wrong) = action.up_at.as_ref().filter(|_| !(up_at >= 0.0 && up_at <= down_at && up_at < 1.0))
        {
            let default = if action.down_at.is_some() { "" } else { ", the default" };
            let problem =
                format!("`up_at` must be from 0 to `down_at` ({down_at}{default}) and below 1, found {up_at}");
            self.fault(wrong.spot, format!("{path}.up_at"), problem);
        }
        let micro = |level: f64| fixed::from_f64(level).unwrap_or(0).clamp(0, i64::from(fixed::ONE)) as i32;
        (micro(down_at), micro(up_at))
    }

    /// The rule made ready, its subject, who else it listens to, and the line.
    fn cue(&mut self, number: usize, action: &Action, path: &str) -> Option<Heeds> {
        let path = &format!("{path}.cue");
        let spot = action.cue.as_ref().map_or(Spot::NONE, |line| line.spot);
        let line = match &action.cue {
            Some(line) => match Cue::read(line) {
                Ok(cue) => cue,
                Err(error) => {
                    let mut fault = in_line(line, &error, path);
                    fault.nearest = nearest_rule(error.found.trim_matches('`')).map(Into::into);
                    self.faults.push(fault);
                    return None;
                }
            },
            None if action.kind.value == Kind::Button => Cue::default(),
            None => return None,
        };
        let subject = match &line.subject {
            None => Some(number as u16),
            Some(name) => self.subject(name, spot, path),
        };
        let mut others = Vec::new();
        match &line.rule {
            Rule::With { other, .. } => {
                let other = self.subject(other, spot, path)?;
                if Some(other) == subject {
                    self.fault(spot, path, "a chord needs two different actions");
                }
                others.push((other, Role::Other));
            }
            Rule::Order { names, .. } => others = self.order(number, &line, names, spot, path)?,
            Rule::Rolls { then: Some(then), .. } => {
                self.subject(then, spot, path)?;
            }
            _ => {}
        }
        let kind = subject.and_then(|subject| self.profile.actions.get(usize::from(subject))).map(|a| a.kind.value);
        let of_stick = match &line.rule {
            Rule::Twice { .. } => {
                Some("`twice` needs a stick (the same direction twice); for a button, write `2 taps 240ms apart`")
            }
            Rule::Rolls { .. } => {
                Some("`rolls` needs a stick: name it first, as in `steer rolls down, right within 300ms`")
            }
            Rule::Spins { .. } | Rule::Flicks { .. } if kind != Some(Kind::Stick) => {
                Some("`spins` and `flicks` need a stick: name it first, as in `steer spins 1 within 900ms`")
            }
            _ => None,
        };
        if let Some(problem) = of_stick
            && kind != Some(Kind::Stick)
            && kind != Some(Kind::Axis)
        {
            self.fault(spot, path, problem);
        }
        if let Some(early) = &action.early
            && !matches!(&line.rule, Rule::Rolls { then: Some(_), .. })
        {
            let problem =
                "`early` needs a motion that ends with a button, as in `steer rolls 236 then toss within 350ms`";
            self.fault(early.spot, path, problem);
        }
        if kind == Some(Kind::Gauge) && line.subject.is_none() {
            self.fault(spot, path, "a gauge pulls through its own key `pulls`; remove the cue");
        }
        let mut rule = RulePlan::of(&line.rule);
        if let RulePlan::Rolls { early, .. } = &mut rule {
            *early = match &action.early {
                Some(span) => self.span(span, &format!("action.{}.early", action.name.value)),
                None => EARLY,
            };
        }
        // Motions hear their stick all together, and orders only what they name.
        if !matches!(rule, RulePlan::Rolls { .. } | RulePlan::Order { .. }) {
            others.extend(subject.map(|subject| (subject, Role::Subject)));
        }
        let rule = self.access.rule(rule);
        subject.map(|subject| Heeds { rule, subject, others, line })
    }

    /// Whom an order listens to: actions, and directions of a stick.
    fn order(
        &mut self,
        number: usize,
        line: &Cue,
        names: &[String],
        spot: Spot,
        path: &str,
    ) -> Option<Vec<(u16, Role)>> {
        if !(2..=MOST_NAMES).contains(&names.len()) {
            let problem = format!("an order needs 2 to {MOST_NAMES} presses, found {}", names.len());
            self.fault(spot, path, problem);
            return None;
        }
        let profile = self.profile;
        let sticks = || profile.actions.iter().filter(|action| action.kind.value == Kind::Stick);
        let own = &profile.actions[number];
        // Whose a bare direction is: the subject's, the action's own, or that of the only stick.
        let only = || if sticks().count() == 1 { sticks().next() } else { None };
        let stick = match &line.subject {
            Some(name) => Some(name.as_str()),
            None if own.kind.value == Kind::Stick => Some(own.name.value.as_str()),
            None => only().map(|stick| stick.name.value.as_str()),
        };
        let mut heard = Vec::new();
        for (place, name) in names.iter().enumerate() {
            let full = match (Direction::from_name(name), stick) {
                (None, _) => name.clone(),
                (Some(_), Some(stick)) => format!("{stick}.{name}"),
                (Some(_), None) => {
                    let problem = format!(
                        "the profile has several sticks, so `{name}` is ambiguous; write `steer.{name}`, or name the stick first: `steer order …`"
                    );
                    self.fault(spot, path, problem);
                    return None;
                }
            };
            let role = Role::Named(names.iter().position(|first| first == name).unwrap_or(place) as u8);
            let action = self.subject(&full, spot, path)?;
            if !heard.contains(&(action, role)) {
                heard.push((action, role));
            }
        }
        Some(heard)
    }

    fn cooldown(&mut self, action: &Action, path: &str) -> u64 {
        action.cooldown.as_ref().map_or(0, |span| self.span(span, &format!("{path}.cooldown")))
    }

    fn marks(&mut self, action: &Action, path: &str) -> Vec<(String, u64)> {
        let path = format!("{path}.marks");
        if action.marks.len() > MOST_MARKS {
            self.fault(action.name.spot, &path, format!("an action can have at most {MOST_MARKS} marks"));
        }
        let mut marks: Vec<(String, u64)> = Vec::new();
        for (name, span) in &action.marks {
            if !valid_name(name) {
                self.fault(
                    name.spot,
                    &path,
                    "a mark's name must consist of letters, digits, `_` and `-`, with a letter first",
                );
            }
            let span = self.span(span, &path);
            marks.push((name.value.clone(), span));
        }
        self.marks += marks.len();
        marks
    }

    /// A span in µs.
    fn span(&mut self, span: &Placed<String>, path: &str) -> u64 {
        match parse_span(span) {
            Ok(span) => micros(span),
            Err(error) => {
                self.fault(span.spot, path, format!("\"{}\": {error}", span.value));
                0
            }
        }
    }

    /// The numbers of other actions named in a list.
    fn rivals(&mut self, number: usize, names: &[Placed<String>], path: &str) -> Vec<u16> {
        let mut rivals = Vec::new();
        for name in names {
            let found = self.declared(&name.value);
            match found {
                Some(own) if own == number => self.fault(name.spot, path, "an action can't name itself here"),
                Some(rival) => rivals.push(rival as u16),
                None => {
                    let all: Vec<&str> = self.profile.actions.iter().map(|action| action.name.value.as_str()).collect();
                    let problem = format!("there is no action `{}`", name.value);
                    let fault = self.near(Fault::new(name.spot, path, problem), name, all);
                    self.faults.push(fault);
                }
            }
        }
        rivals
    }

    fn group(&mut self, action: &Action, path: &str) -> u16 {
        let Some(group) = &action.group else { return NONE };
        if !valid_name(group) {
            self.fault(group.spot, format!("{path}.group"), "a group must be one word of letters, digits, `_` and `-`");
        }
        let known = self.groups.iter().position(|known| *known == group.value);
        known.unwrap_or_else(|| {
            self.groups.push(group.value.clone());
            self.groups.len() - 1
        }) as u16
    }

    fn gauge(&mut self, number: usize, action: &Action, levels: (i32, i32), path: &str) {
        let gauge = match &action.gauge {
            Some(gauge) => gauge.clone(),
            None => {
                self.fault(
                    action.name.spot,
                    path,
                    "a gauge needs its table; add `gauge = { push = \"+1\", ceiling = 6 }`",
                );
                Placed::default()
            }
        };
        let mut problems = Vec::new();
        let plan = GaugePlan::build(&gauge, |key, problem| problems.push((key.to_string(), problem)));
        for (key, problem) in problems {
            self.fault(gauge.spot, format!("{path}.gauge.{key}"), problem);
        }
        self.actions[number].gauge = self.gauges.len() as u16;
        self.gauges.push(plan);
        self.gauge_actions.push(number as u16);
        self.button(number, action, levels, path);
    }

    /// The number of the stick whose direction the pulls carry; its place among sticks is filled in at the end.
    fn aim(&mut self, action: &Action, path: &str) -> u16 {
        let Some(name) = &action.aim else { return NONE };
        let sticks = || self.profile.actions.iter().enumerate().filter(|(_, a)| a.kind.value == Kind::Stick);
        match sticks().find(|(_, a)| a.name.value == name.value) {
            Some((number, _)) => number as u16,
            None => {
                let names: Vec<&str> = sticks().map(|(_, a)| a.name.value.as_str()).collect();
                let problem = format!("`aim` needs a stick, and there is no stick `{}`", name.value);
                let fault = self.near(Fault::new(name.spot, format!("{path}.aim"), problem), name, names);
                self.faults.push(fault);
                NONE
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

    /// The action, or direction of a stick, that a cue names.
    fn subject(&mut self, name: &str, spot: Spot, path: &str) -> Option<u16> {
        let found = self.names.get(name).copied();
        if found.is_none() {
            let problem = format!("the cue listens to `{name}`, and there is no such action");
            let fault = Fault::new(spot, path, problem);
            let fault = self.near(fault, name, self.names.keys().map(String::as_str));
            self.faults.push(fault);
        }
        found.map(|number| number as u16)
    }

    fn button(&mut self, number: usize, action: &Action, levels: (i32, i32), path: &str) {
        for family in Family::ALL {
            let Some(inputs) = &action.inputs[family.index()] else { continue };
            let path = format!("{path}.{family}");
            let names = match &inputs.value {
                Inputs::Any(names) => names,
                Inputs::Legs(_) => {
                    self.fault(inputs.spot, path, "a button has no legs; give a control or a list of controls");
                    continue;
                }
            };
            for name in names {
                if action.kind.value == Kind::Pointer && family == Family::Touch && name.value == "place" {
                    // Fingers that hit no patch.
                    if let Some(pointer) = self.pointers.last_mut() {
                        pointer.touch = number as u16;
                    }
                    let found = Found { control: Control::TOUCH_PLACE, sort: Sort::Place, part: Part::Whole };
                    self.note(number, found, None, name, &path);
                    continue;
                }
                let Some(found) = self.control(family, name, &path) else { continue };
                if action.kind.value == Kind::Pointer && found.sort == Sort::Place {
                    self.place(number, found, name, &path);
                    continue;
                }
                if !self.works_as_button(found, name, &path) {
                    continue;
                }
                if !self.note(number, found, None, name, &path) {
                    continue;
                }
                let contact = self.contact(found, levels);
                self.contacts[contact].wires.push(Wire { action: number as u16, leg: None });
            }
        }
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

/// What is wrong within a line of a grammar; the text begins behind its quote.
fn in_line(line: &Placed<String>, error: &CueError, path: &str) -> Fault {
    let column = if line.spot.is_some() { line.spot.column + 1 + error.at as u32 } else { 0 };
    Fault::new(Spot { column, ..line.spot }, path, format!("`{}`: {error}", line.value))
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
