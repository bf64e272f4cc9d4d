//! From a profile to a plan: every name, number and rule checked, all faults gathered.

use alloc::borrow::ToOwned;
use alloc::format;
use alloc::string::{String, ToString};
use alloc::vec;
use alloc::vec::Vec;

use super::{
    ActionPlan, ContactPlan, ControlView, CrossPlan, FeedPlan, LegPlan, MOST_ACTIONS, MOST_FACTS, MOST_MODES,
    MOST_WORDS, MovedPlan, NONE, Plan, Run, SlotPlan, Wire,
};
use crate::control::{CONTROLS, Control, Family, MOST_PATCHES, Part, Sort};
use crate::cue::{Cue, Rule};
use crate::direction::{Compass, Direction};
use crate::fact::FactPlan;
use crate::fixed;
use crate::mode::{HeardPlan, ModePlan};
use crate::profile::{
    ACTION_KEYS, Action, Covers, FactEntry, Fault, Faults, Heard, Inputs, Kind, Leg, Placed, Profile, Sectors,
    Severity, Shape, Spot, is_reserved, valid_name,
};
use crate::shape::ShapePlan;

/// The levels at which an analogue control used as a button goes down and up, unless an action says otherwise.
const PRESS_AT: f64 = 0.55;
const RELEASE_AT: f64 = 0.45;
/// Ends of an axis's range.
const MOST_RANGE: f64 = 1e6;

/// A control of a patch: how its level is to be read.
const PATCH_KINDS: [(&str, Sort); 4] =
    [("cross", Sort::Pair), ("stick", Sort::Pair), ("button", Sort::Button), ("zone", Sort::Button)];
const CORNERS: [&str; 4] = ["bottom-left", "bottom-right", "top-left", "top-right"];

pub(super) fn build(profile: &Profile) -> Result<Plan, Faults> {
    let mut builder = Builder::new(profile);
    builder.declare();
    for (number, action) in profile.actions.iter().enumerate() {
        builder.action(number, action);
    }
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
    press_at: i32,
    release_at: i32,
    wires: Vec<Wire>,
}

struct Builder<'p> {
    profile: &'p Profile,
    faults: Vec<Fault>,
    actions: Vec<ActionPlan>,
    facts: Vec<FactPlan>,
    modes: Vec<ModePlan>,
    patches: Vec<(String, Sort)>,
    slot_of: Vec<u16>,
    slots: Vec<SlotPlan>,
    contacts: Vec<Draft>,
    feeds: Vec<(u16, FeedPlan)>,
    crosses: Vec<CrossPlan>,
    leg_contacts: Vec<u32>,
    leg_feeds: Vec<u32>,
    moved: Vec<MovedPlan>,
    shapes: Vec<ShapePlan>,
}

impl<'p> Builder<'p> {
    fn new(profile: &'p Profile) -> Builder<'p> {
        Builder {
            profile,
            faults: profile.read_faults.clone(),
            actions: Vec::new(),
            facts: Vec::new(),
            modes: Vec::new(),
            patches: Vec::new(),
            slot_of: vec![NONE; CONTROLS],
            slots: Vec::new(),
            contacts: Vec::new(),
            feeds: Vec::new(),
            crosses: Vec::new(),
            leg_contacts: Vec::new(),
            leg_feeds: Vec::new(),
            moved: Vec::new(),
            shapes: vec![ShapePlan::plain()],
        }
    }

    fn fault(&mut self, spot: Spot, path: impl Into<String>, problem: impl Into<String>) {
        self.faults.push(Fault::new(spot, path, problem));
    }

    fn warn(&mut self, spot: Spot, path: impl Into<String>, problem: impl Into<String>) {
        self.faults.push(Fault::new(spot, path, problem).warning());
    }

    /// Checks a name, and that it wasn't given before among its like.
    fn name(&mut self, name: &Placed<String>, path: &str, before: bool) {
        if !valid_name(name) {
            let problem =
                "a name is made of letters, digits, `_` and `-`, begins with a letter and has 64 characters at most";
            self.fault(name.spot, path, problem);
        } else if is_reserved(name) {
            self.fault(name.spot, path, format!("`{}` is a word of the grammar and can't be a name", name.value));
        } else if before {
            self.fault(name.spot, path, format!("the name `{}` is given twice", name.value));
        }
    }

    fn limit(&mut self, count: usize, most: usize, what: &str) {
        if count > most {
            self.fault(Spot::NONE, "", format!("a profile has {most} {what} at most, found {count}"));
        }
    }

    /// Everything that others refer to by name: modes, facts, patches, the actions' own names.
    fn declare(&mut self) {
        let profile = self.profile;
        self.limit(profile.modes.len(), MOST_MODES, "modes");
        self.limit(profile.facts.len(), MOST_FACTS, "facts");
        let count = profile.actions.iter().map(|action| 1 + directions(action.kind.value).len()).sum();
        self.limit(count, MOST_ACTIONS, "actions (a stick counts for nine, an axis for three)");
        self.limit(profile.panel.len(), MOST_PATCHES, "patches");
        for (number, mode) in profile.modes.iter().enumerate() {
            let before = profile.modes[..number].iter().any(|m| m.name.value == mode.name.value);
            self.name(&mode.name, "modes", before);
            let path = format!("modes.{}.covers", mode.name.value);
            let mut covers = vec![matches!(mode.covers, Covers::All); profile.modes.len()];
            if let Covers::Named(names) = &mode.covers {
                for name in names {
                    match self.mode(name, &path) {
                        Some(covered) if usize::from(covered) == number => {
                            self.fault(name.spot, &path, "a mode can't cover itself");
                        }
                        Some(covered) => covers[usize::from(covered)] = true,
                        None => {}
                    }
                }
            }
            covers[number] = false;
            let covers_all = matches!(mode.covers, Covers::All);
            self.modes.push(ModePlan { name: mode.name.value.clone(), on: mode.on, covers_all, covers });
        }
        for (number, (name, entry)) in profile.facts.iter().enumerate() {
            let before = profile.facts[..number].iter().any(|(n, _)| n.value == name.value);
            self.name(name, "facts", before);
            self.fact(name, entry);
        }
        // Built in, whether declared or not.
        if !self.facts.iter().any(|fact| fact.name == "facing") {
            self.facts.push(facing(1));
        }
        if !self.facts.iter().any(|fact| fact.name == "frozen") {
            self.facts.push(flag("frozen", false));
        }
        for (number, patch) in profile.panel.iter().enumerate() {
            let before = profile.panel[..number].iter().any(|p| p.name.value == patch.name.value);
            let path = format!("panel.{}", patch.name.value);
            self.name(&patch.name, "panel", before);
            let sort = PATCH_KINDS.iter().find(|(kind, _)| *kind == patch.kind.value).map(|(_, sort)| *sort);
            if sort.is_none() {
                let problem = "a patch's kind is \"cross\", \"stick\", \"button\" or \"zone\"";
                let fault = Fault::new(patch.kind.spot, format!("{path}.kind"), problem);
                self.faults.push(fault.near(&patch.kind, PATCH_KINDS.map(|(kind, _)| kind)));
            }
            if !CORNERS.contains(&patch.from.value.as_str()) {
                let problem = format!("a patch hangs from a corner: {}", CORNERS.join(", "));
                let fault = Fault::new(patch.from.spot, format!("{path}.from"), problem);
                self.faults.push(fault.near(&patch.from, CORNERS));
            }
            let inside = |n: f64| (0.0..=10.0).contains(&n);
            if !patch.at.iter().all(|n| inside(*n)) {
                self.fault(
                    patch.name.spot,
                    format!("{path}.at"),
                    "needs its place from the corner, as in `at = [0.2, 0.2]`",
                );
            }
            if !(inside(patch.size) && patch.size > 0.0) {
                self.fault(patch.name.spot, format!("{path}.size"), "needs a size above 0, as in `size = 0.16`");
            }
            self.patches.push((patch.name.value.clone(), sort.unwrap_or(Sort::Pair)));
        }
        for (number, action) in profile.actions.iter().enumerate() {
            let before = profile.actions[..number].iter().any(|a| a.name.value == action.name.value);
            self.name(&action.name, "action", before);
        }
    }

    fn fact(&mut self, name: &Placed<String>, entry: &FactEntry) {
        let path = format!("facts.{}", name.value);
        let plan = match (name.value.as_str(), entry) {
            ("facing", FactEntry::Facing(word)) if word.value == "left" || word.value == "right" => {
                facing(u16::from(word.value == "right"))
            }
            ("facing", _) => {
                self.fault(name.spot, path, "`facing` is built in: it is \"left\" or \"right\"");
                facing(1)
            }
            ("frozen", FactEntry::Words(_)) => {
                self.fault(name.spot, path, "`frozen` is built in: it is true or false");
                flag("frozen", false)
            }
            (_, FactEntry::Facing(_)) => {
                self.fault(name.spot, path, "a fact is true or false, or one of a list of words");
                flag(name, false)
            }
            (_, FactEntry::Flag(first)) => flag(name, *first),
            (_, FactEntry::Words(words)) => {
                if words.is_empty() || words.len() > MOST_WORDS {
                    self.fault(
                        name.spot,
                        &path,
                        format!("a fact is one of 1 to {MOST_WORDS} words, found {}", words.len()),
                    );
                }
                for (i, word) in words.iter().enumerate() {
                    let before = words[..i].iter().any(|w| w.value == word.value);
                    if !valid_name(word) {
                        self.fault(
                            word.spot,
                            &path,
                            "a word is made of letters, digits, `_` and `-` and begins with a letter",
                        );
                    } else if before {
                        self.fault(word.spot, &path, format!("the word `{}` is given twice", word.value));
                    }
                }
                let words = words.iter().map(|word| word.value.clone()).collect();
                FactPlan { name: name.value.clone(), words, flag: false, first: 0 }
            }
        };
        self.facts.push(plan);
    }

    fn mode(&mut self, name: &Placed<String>, path: &str) -> Option<u16> {
        let found = self.profile.modes.iter().position(|mode| mode.name.value == name.value);
        if found.is_none() {
            let names: Vec<&str> = self.profile.modes.iter().map(|mode| mode.name.value.as_str()).collect();
            let problem = format!("there is no mode `{}`; declare it under [modes]", name.value);
            self.faults.push(Fault::new(name.spot, path, problem).near(name, names));
        }
        found.map(|number| number as u16)
    }

    /// The control that a family knows under this name.
    fn control(&mut self, family: Family, name: &Placed<String>, path: &str) -> Option<Found> {
        let (plain, part) = name.split_once('.').map_or((name.as_str(), None), |(plain, part)| (plain, Some(part)));
        let found = if family == Family::Touch {
            let number = self.patches.iter().take(MOST_PATCHES).position(|(patch, _)| patch == plain);
            number.map(|number| (Control::patch(number), self.patches[number].1))
        } else {
            Control::in_family(family, plain).map(|control| (control, control.sort()))
        };
        let Some((control, sort)) = found else {
            self.no_control(family, name, path);
            return None;
        };
        let part = match part {
            None => Part::Whole,
            Some(text) => {
                let part = Part::from_name(text).filter(|_| matches!(sort, Sort::Pair | Sort::Counts));
                let Some(part) = part.filter(|part| sort == Sort::Pair || !part.is_half()) else {
                    let problem = match sort {
                        Sort::Pair => format!("`{plain}` has no part `{text}`; it has x, y, up, down, left, right"),
                        Sort::Counts => format!("`{plain}` has no part `{text}`; it has x, y"),
                        _ => format!("`{plain}` has no parts; write it without `.{text}`"),
                    };
                    self.faults.push(Fault::new(name.spot, path, problem));
                    return None;
                };
                part
            }
        };
        Some(Found { control, sort, part })
    }

    fn no_control(&mut self, family: Family, name: &Placed<String>, path: &str) {
        let mut problem = format!("`{family}` has no control `{}`", name.value);
        let names: Vec<String> = if family == Family::Touch {
            problem += "; declare it under [panel]";
            self.patches.iter().map(|(patch, _)| patch.clone()).collect()
        } else {
            Control::all(family).map(|control| short(control).to_owned()).collect()
        };
        let other = Family::ALL.into_iter().find(|other| Control::in_family(*other, name).is_some());
        if let Some(other) = other {
            problem += &format!("; it belongs to `{other}`");
        }
        let mut fault = Fault::new(name.spot, path, problem);
        if other.is_none() {
            fault = fault.near(name, names.iter().map(String::as_str));
        }
        self.faults.push(fault);
    }

    fn slot(&mut self, found: Found) -> u16 {
        let known = self.slot_of[found.control.number()];
        if known != NONE {
            return known;
        }
        let family = found.control.family();
        let lane = self.slots.iter().filter(|slot| slot.control.family() == family).count() as u16;
        let number = self.slots.len() as u16;
        self.slots.push(SlotPlan { control: found.control, sort: found.sort, lane, contacts: 0..0, feeds: 0..0 });
        self.slot_of[found.control.number()] = number;
        number
    }

    /// The contact of a control at these thresholds, made if new.
    fn contact(&mut self, found: Found, levels: (i32, i32)) -> usize {
        let slot = self.slot(found);
        let (press_at, release_at) = levels;
        let same = |draft: &Draft| {
            (draft.slot, draft.part, draft.press_at, draft.release_at) == (slot, found.part, press_at, release_at)
        };
        self.contacts.iter().position(same).unwrap_or_else(|| {
            self.contacts.push(Draft { slot, part: found.part, press_at, release_at, wires: Vec::new() });
            self.contacts.len() - 1
        })
    }

    fn feed(&mut self, found: Found, plan: FeedPlan) -> u32 {
        let slot = self.slot(found);
        self.feeds.push((slot, plan));
        self.feeds.len() as u32 - 1
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
                let problem = format!(
                    "`{}` goes with kind {}, and this is a \"{}\"",
                    given.value,
                    kinds.join(" or "),
                    kind.name()
                );
                self.fault(given.spot, &path, problem);
            }
        }
        let heard = match &action.heard {
            Heard::Everywhere => HeardPlan::Everywhere,
            Heard::Always => HeardPlan::Always,
            Heard::In(names) => {
                if names.is_empty() {
                    let problem = "an empty list of modes is never heard; leave `modes` out to be heard in all";
                    self.fault(action.name.spot, format!("{path}.modes"), problem);
                }
                HeardPlan::In(names.iter().filter_map(|name| self.mode(name, &format!("{path}.modes"))).collect())
            }
        };
        let levels = self.thresholds(action, &path);
        let cue = self.cue(number, action, &path);
        self.actions.push(ActionPlan {
            name: action.name.value.clone(),
            kind,
            heard,
            cue: cue.as_ref().map(|(rule, subject, _)| (*rule, *subject)),
            line: cue.map(|(_, _, line)| line),
            listeners: 0..0,
            moved: NONE,
            controls: Vec::new(),
            wires: Vec::new(),
        });
        match kind {
            Kind::Button => self.button(number, action, levels, &path),
            Kind::Axis | Kind::Stick => self.moved(number, action, levels, &path),
        }
    }

    fn thresholds(&mut self, action: &Action, path: &str) -> (i32, i32) {
        let press_at = action.press_at.as_ref().map_or(PRESS_AT, |n| n.value);
        let release_at = action.release_at.as_ref().map_or(RELEASE_AT.min(press_at), |n| n.value);
        let spot = action.press_at.as_ref().or(action.release_at.as_ref()).map_or(Spot::NONE, |n| n.spot);
        if !(press_at > 0.0 && press_at <= 1.0) {
            self.fault(
                spot,
                format!("{path}.press_at"),
                format!("a level to go down at lies above 0, up to 1, found {press_at}"),
            );
        }
        if !(release_at >= 0.0 && release_at <= press_at && release_at < 1.0) {
            let problem = format!("a level to go up at lies from 0 to press_at ({press_at}), found {release_at}");
            self.fault(spot, format!("{path}.release_at"), problem);
        }
        let micro = |level: f64| fixed::from_f64(level).unwrap_or(0).clamp(0, i64::from(fixed::ONE)) as i32;
        (micro(press_at), micro(release_at))
    }

    fn cue(&mut self, number: usize, action: &Action, path: &str) -> Option<(Rule, u16, Cue)> {
        let line = match &action.cue {
            Some(line) => match Cue::read(line) {
                Ok(cue) => cue,
                Err(error) => {
                    self.fault(line.spot, format!("{path}.cue"), error.problem);
                    return None;
                }
            },
            None if action.kind.value == Kind::Button => Cue::default(),
            None => return None,
        };
        let spot = action.cue.as_ref().map_or(Spot::NONE, |line| line.spot);
        let subject = match &line.subject {
            None => Some(number as u16),
            Some(name) => self.subject(name, spot, &format!("{path}.cue")),
        };
        subject.map(|subject| (line.rule, subject, line))
    }

    /// The action, or direction of a stick, that a cue names.
    fn subject(&mut self, name: &str, spot: Spot, path: &str) -> Option<u16> {
        let mut names: Vec<String> = self.profile.actions.iter().map(|a| a.name.value.clone()).collect();
        // Directions are numbered behind the declared actions, in this very order.
        for action in &self.profile.actions {
            let buttons = directions(action.kind.value);
            names.extend(buttons.iter().map(|(_, direction)| format!("{}.{direction}", action.name.value)));
        }
        let found = names.iter().position(|n| n == name);
        if found.is_none() {
            let problem = format!("there is no action `{name}` to listen to");
            self.faults.push(Fault::new(spot, path, problem).near(name, names.iter().map(String::as_str)));
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
                let Some(found) = self.control(family, name, &path) else { continue };
                if !self.works_as_button(found, name, &path) {
                    continue;
                }
                if !self.note(number, found, None, name, &path) {
                    continue;
                }
                let contact = self.contact(found, levels);
                self.contacts[contact].wires.push(Wire { action: number as u16, leg: false });
            }
        }
    }

    fn works_as_button(&mut self, found: Found, name: &Placed<String>, path: &str) -> bool {
        let problem = match (found.sort, found.part) {
            (Sort::Pair, Part::Whole | Part::X | Part::Y) => {
                let plain = name.split('.').next().unwrap_or_default();
                format!("`{}` has two ways to go; name one, as in `{plain}.up`", name.value)
            }
            (Sort::Counts | Sort::Place, _) => format!("`{}` never goes down; it can't be a button", name.value),
            _ => return true,
        };
        self.fault(name.spot, path, problem);
        false
    }

    /// Keeps a control of an action for people; false if the action has it already.
    fn note(&mut self, number: usize, found: Found, leg: Option<Leg>, name: &Placed<String>, path: &str) -> bool {
        let full = format!("{}:{}", found.control.family(), name.value);
        let twice = self.actions[number].controls.iter().any(|view| view.name == full);
        if twice {
            self.fault(name.spot, path, format!("`{}` is bound twice in one action", name.value));
            return false;
        }
        self.actions[number].controls.push(ControlView { control: found.control, part: found.part, leg, name: full });
        true
    }

    fn shape(&mut self, shape: &Placed<Shape>, path: &str) -> u32 {
        let mut problems = Vec::new();
        let plan = ShapePlan::build(shape, |key, problem| problems.push((key.to_string(), problem)));
        for (key, problem) in problems {
            self.fault(shape.spot, format!("{path}.{key}"), problem);
        }
        self.shapes.push(plan);
        self.shapes.len() as u32 - 1
    }

    /// An axis or a stick: crosses first, then whole controls.
    fn moved(&mut self, number: usize, action: &Action, levels: (i32, i32), path: &str) {
        let stick = action.kind.value == Kind::Stick;
        let common = action.shape.as_ref().map(|shape| self.shape(shape, &format!("{path}.shape")));
        let (first_cross, first_feed) = (self.crosses.len() as u32, self.feeds.len() as u32);
        // Whole feeds of one action stand side by side; its legs' feeds come behind them.
        for legs_turn in [false, true] {
            for family in Family::ALL {
                let Some(inputs) = &action.inputs[family.index()] else { continue };
                let own = &action.family_shape[family.index()];
                let inner = format!("{path}.{family}");
                match &inputs.value {
                    Inputs::Any(names) if !legs_turn => {
                        let shape = own.as_ref().map(|s| self.shape(s, &format!("{path}.{family}_shape"))).or(common);
                        for name in names {
                            self.whole(number, stick, family, name, shape.unwrap_or(0), &inner);
                        }
                    }
                    Inputs::Legs(_) if legs_turn => {
                        let shape = own.as_ref().map(|s| self.shape(s, &format!("{path}.{family}_shape"))).or(common);
                        self.cross(number, family, action, levels, shape.unwrap_or(0), &inner);
                    }
                    _ => {}
                }
            }
            if !legs_turn {
                let feeds = first_feed..self.feeds.len() as u32;
                let moved = self.moved_plan(number, action, levels, feeds, path);
                self.actions[number].moved = self.moved.len() as u16;
                self.moved.push(moved);
            }
        }
        let crosses = first_cross..self.crosses.len() as u32;
        if let Some(moved) = self.moved.last_mut() {
            moved.crosses = crosses;
        }
    }

    fn moved_plan(&mut self, number: usize, action: &Action, levels: (i32, i32), feeds: Run, path: &str) -> MovedPlan {
        let four = match &action.directions {
            None => false,
            Some(count) if count.value == 4 || count.value == 8 => count.value == 4,
            Some(count) => {
                self.fault(count.spot, format!("{path}.directions"), "a stick is read in 4 or 8 directions");
                false
            }
        };
        let mut range = [-1.0, 0.0, 1.0];
        if let Some(given) = &action.range {
            range = given.value;
            let [low, rest, high] = range;
            let inside = range.iter().all(|n| n.abs() <= MOST_RANGE);
            let ordered = (low <= rest && rest <= high) || (low >= rest && rest >= high);
            if !inside || !ordered || low == high {
                let problem = format!(
                    "a range goes from low by rest to high, each up to {MOST_RANGE} either way; found {low}, {rest}, {high}"
                );
                self.fault(given.spot, format!("{path}.range"), problem);
            }
        }
        let compass = Compass { four, sectors: action.sectors, press_at: levels.0, release_at: levels.1 };
        if action.sectors == Sectors::Equal
            && action.kind.value == Kind::Stick
            && action.press_at.is_some()
            && !self.any_legs(action)
        {
            let problem = "press_at matters for legs and box sectors only; this stick has neither";
            self.warn(action.name.spot, format!("{path}.press_at"), problem);
        }
        MovedPlan {
            action: number as u16,
            stick: action.kind.value == Kind::Stick,
            crosses: 0..0,
            feeds,
            opposed: action.opposed,
            rest: action.rest,
            compass,
            buttons: [NONE; 8],
            range: range.map(|n| fixed::from_f64(n).unwrap_or(0)),
        }
    }

    fn any_legs(&self, action: &Action) -> bool {
        action.inputs.iter().flatten().any(|inputs| matches!(inputs.value, Inputs::Legs(_)))
    }

    /// A control whose own level moves an axis or a stick.
    fn whole(&mut self, number: usize, stick: bool, family: Family, name: &Placed<String>, shape: u32, path: &str) {
        let Some(found) = self.control(family, name, path) else { return };
        let plain = name.split('.').next().unwrap_or_default();
        let problem = match (stick, found.sort, found.part) {
            (true, Sort::Pair, Part::Whole) => None,
            (true, Sort::Pair, _) => Some(format!("a stick takes both axes; write `{plain}`")),
            (true, ..) => Some(format!(
                "`{}` has no two axes; give a stick, or legs as in {{ up = …, left = …, down = …, right = … }}",
                name.value
            )),
            (false, Sort::Level, _) | (false, Sort::Pair, Part::X | Part::Y) => None,
            (false, Sort::Pair, Part::Whole) => {
                Some(format!("an axis takes one of its two axes; write `{plain}.x` or `{plain}.y`"))
            }
            (false, Sort::Pair, _) => None,
            (false, Sort::Button, _) => Some(format!(
                "`{}` is a button; an axis takes it as a leg, as in {{ minus = …, plus = … }}",
                name.value
            )),
            (false, ..) => Some(format!("`{}` has no level that stays; an axis can't stand on it", name.value)),
        };
        if let Some(problem) = problem {
            return self.fault(name.spot, path, problem);
        }
        if !self.note(number, found, None, name, path) {
            return;
        }
        let dead = self.shapes[shape as usize].has_dead_zone();
        let sticks = [Control::LEFT_STICK, Control::RIGHT_STICK];
        if !dead && sticks.contains(&found.control) {
            let problem = format!(
                "`{}` has no dead zone, and no real stick rests at exactly 0; add `pad_shape = {{ dead = 0.15 }}`",
                name.value
            );
            self.warn(name.spot, path, problem);
        }
        let digital = found.control == Control::DPAD || matches!(found.control.family(), Family::Touch);
        self.feed(found, FeedPlan { action: number as u16, part: found.part, leg: false, shape, digital });
    }

    /// A cross or a pair of controls, each leg a list.
    fn cross(&mut self, number: usize, family: Family, action: &Action, levels: (i32, i32), shape: u32, path: &str) {
        let Some(Placed { value: Inputs::Legs(legs), spot }) = &action.inputs[family.index()] else { return };
        let stick = action.kind.value == Kind::Stick;
        let right: &[Leg] = if stick { &Leg::CROSS } else { &Leg::PAIR };
        let mut plan = CrossPlan { shape, legs: Default::default() };
        for (leg, names) in &legs.0 {
            if !right.contains(leg) {
                let names: Vec<&str> = right.iter().map(|leg| leg.name()).collect();
                let kind = action.kind.value.name();
                let problem = format!("a {kind} has no leg `{}`; it has {}", leg.name(), names.join(", "));
                let at = names_spot(legs, *leg).unwrap_or(*spot);
                self.fault(at, path, problem);
                continue;
            }
            let (contacts, feeds) = (self.leg_contacts.len() as u32, self.leg_feeds.len() as u32);
            for name in names {
                let path = format!("{path}.{}", leg.name());
                let Some(found) = self.control(family, name, &path) else { continue };
                if !self.works_as_button(found, name, &path) || !self.note(number, found, Some(*leg), name, &path) {
                    continue;
                }
                let analogue = matches!(found.sort, Sort::Level) || found.part.is_half();
                if analogue {
                    let plan =
                        FeedPlan { action: number as u16, part: found.part, leg: true, shape: 0, digital: false };
                    let feed = self.feed(found, plan);
                    self.leg_feeds.push(feed);
                } else {
                    let contact = self.contact(found, levels);
                    self.contacts[contact].wires.push(Wire { action: number as u16, leg: true });
                    self.leg_contacts.push(contact as u32);
                }
            }
            let place = match leg {
                Leg::Up => 0,
                Leg::Left | Leg::Minus => 1,
                Leg::Down => 2,
                Leg::Right | Leg::Plus => 3,
            };
            plan.legs[place] = LegPlan {
                contacts: contacts..self.leg_contacts.len() as u32,
                feeds: feeds..self.leg_feeds.len() as u32,
            };
        }
        let missing: Vec<&str> =
            right.iter().filter(|leg| !legs.0.iter().any(|(l, _)| l == *leg)).map(|leg| leg.name()).collect();
        if !missing.is_empty() {
            let problem = format!("one-sided: it has no {}", missing.join(", no "));
            self.warn(*spot, path, problem);
        }
        self.crosses.push(plan);
    }

    /// The directions of sticks and the ends of axes as buttons of their own, behind the declared actions.
    fn directions(&mut self) {
        for moved in 0..self.moved.len() {
            let parent = self.moved[moved].action;
            let four = self.moved[moved].compass.four;
            for (direction, word) in directions(self.actions[usize::from(parent)].kind) {
                let number = self.actions.len() as u16;
                let parent = &self.actions[usize::from(parent)];
                let name = format!("{}.{word}", parent.name);
                let heard = parent.heard.clone();
                if !(four && direction.is_diagonal()) {
                    self.moved[moved].buttons[*direction as usize] = number;
                }
                self.actions.push(ActionPlan {
                    name,
                    kind: Kind::Button,
                    heard,
                    cue: None,
                    line: None,
                    listeners: 0..0,
                    moved: NONE,
                    controls: Vec::new(),
                    wires: Vec::new(),
                });
            }
        }
    }

    fn finish(mut self) -> Result<Plan, Faults> {
        let declared = self.actions.len();
        if self.actions.len() <= MOST_ACTIONS {
            self.directions();
        }
        for action in &self.profile.actions {
            let number = self.profile.actions.iter().position(|a| a.name.value == action.name.value).unwrap_or(0);
            let silent = self.actions[number].controls.is_empty()
                && self.actions[number].line.as_ref().is_none_or(|c| c.subject.is_none());
            if silent && action.inputs.iter().all(Option::is_none) {
                let problem = "nothing moves it: it has no control, and its cue listens to no other action";
                self.warn(action.name.spot, format!("action.{}", action.name.value), problem);
            }
        }
        let families = |view: &ControlView| view.control.family();
        self.actions.iter_mut().for_each(|action| action.controls.sort_by_key(families));
        let order = |fault: &Fault| (fault.spot.line == 0, fault.spot);
        self.faults.sort_by_key(order);
        if self.faults.iter().any(|fault| fault.severity == Severity::Fault) {
            self.faults.retain(|fault| fault.severity == Severity::Fault);
            return Err(Faults(self.faults));
        }
        Ok(self.lay_out(declared))
    }

    /// Sorts what was drafted into flat tables, slot by slot.
    fn lay_out(mut self, declared: usize) -> Plan {
        let mut order: Vec<usize> = (0..self.contacts.len()).collect();
        order.sort_by_key(|i| self.contacts[*i].slot);
        let mut place = vec![0u32; order.len()];
        let (mut contacts, mut wires): (Vec<ContactPlan>, Vec<Wire>) = (Vec::new(), Vec::new());
        for (new, old) in order.iter().enumerate() {
            place[*old] = new as u32;
            let draft = &self.contacts[*old];
            let first = wires.len() as u32;
            for wire in &draft.wires {
                if !wire.leg {
                    self.actions[usize::from(wire.action)].wires.push(wires.len() as u32);
                }
                wires.push(*wire);
            }
            contacts.push(ContactPlan {
                part: draft.part,
                press_at: draft.press_at,
                release_at: draft.release_at,
                wires: first..wires.len() as u32,
            });
            grow(&mut self.slots[usize::from(draft.slot)].contacts, new as u32);
        }
        for contact in &mut self.leg_contacts {
            *contact = place[*contact as usize];
        }
        let mut slot_feeds: Vec<u32> = (0..self.feeds.len() as u32).collect();
        slot_feeds.sort_by_key(|i| self.feeds[*i as usize].0);
        for (place, feed) in slot_feeds.iter().enumerate() {
            let slot = self.feeds[*feed as usize].0;
            grow(&mut self.slots[usize::from(slot)].feeds, place as u32);
        }
        let cues = self.actions.iter().enumerate();
        let mut listening: Vec<(u16, u16)> =
            cues.filter_map(|(number, action)| action.cue.map(|(_, subject)| (subject, number as u16))).collect();
        listening.sort_unstable();
        for (place, (subject, _)) in listening.iter().enumerate() {
            grow(&mut self.actions[usize::from(*subject)].listeners, place as u32);
        }
        let listeners = listening.into_iter().map(|(_, number)| number).collect();
        let mut stamp = xxhash_rust::xxh64::Xxh64::new(0);
        for action in &self.actions {
            stamp.update(action.name.as_bytes());
            stamp.update(&[0, action.kind as u8]);
        }
        for name in self.facts.iter().map(|f| &f.name).chain(self.modes.iter().map(|m| &m.name)) {
            stamp.update(name.as_bytes());
            stamp.update(&[1]);
        }
        Plan {
            title: self.profile.title.clone(),
            // 0 is kept for handles that were not found.
            stamp: (stamp.digest() as u32).max(1),
            actions: self.actions,
            declared,
            slot_of: self.slot_of,
            slots: self.slots,
            contacts,
            wires,
            slot_feeds,
            feeds: self.feeds.into_iter().map(|(_, plan)| plan).collect(),
            crosses: self.crosses,
            leg_contacts: self.leg_contacts,
            leg_feeds: self.leg_feeds,
            moved: self.moved,
            shapes: self.shapes,
            listeners,
            facts: self.facts,
            modes: self.modes,
            patches: self.patches.into_iter().map(|(name, _)| name).collect(),
            warnings: self.faults,
        }
    }
}

/// The directions that an action of a kind has as buttons, with their names.
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
        Kind::Button => &[],
        Kind::Axis => &[(Direction::Right, "plus"), (Direction::Left, "minus")],
        Kind::Stick => &STICK,
    }
}

fn facing(first: u16) -> FactPlan {
    FactPlan { name: "facing".to_owned(), words: vec!["left".to_owned(), "right".to_owned()], flag: false, first }
}

fn flag(name: &str, first: bool) -> FactPlan {
    let words = vec!["false".to_owned(), "true".to_owned()];
    FactPlan { name: name.to_owned(), words, flag: true, first: u16::from(first) }
}

/// The name of a control without its family.
fn short(control: Control) -> String {
    let full = control.to_string();
    full.split_once(':').map_or(full.clone(), |(_, name)| name.to_owned())
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
