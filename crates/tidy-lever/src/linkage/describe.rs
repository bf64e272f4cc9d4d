//! What a linkage tells about itself, for people and for tools.

use alloc::format;
use alloc::string::String;
use alloc::vec::Vec;
use core::time::Duration;

use super::MovedPlan;
use super::names::hash;
use super::{Linkage, Plan};
use crate::control::{Control, Part};
use crate::cue::{CompiledRule, Cue};
use crate::direction::{Compass, Direction};
use crate::fixed;
use crate::profile::{Kind, Leg};
use crate::shape::{ResponseEdges, ShapePlan};

/// One control of an action, as bound.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct ControlView {
    /// The control.
    pub control: Control,
    /// Which part of it.
    pub part: Part,
    /// The leg it stands on, for crosses and pairs.
    pub leg: Option<Leg>,
    /// The full name as the profile writes it: `pad:left-stick.x`.
    pub name: String,
}

/// One declared action.
#[derive(Clone, Copy, Debug)]
pub struct ActionView<'l> {
    pub(crate) linkage: &'l Linkage,
    pub(crate) number: usize,
}

/// How an action bends what one of its controls says.
#[derive(Clone, Debug)]
pub struct ResponseView<'l> {
    /// The controls that are bent so, as the profile writes them.
    pub controls: Vec<String>,
    shape: &'l ShapePlan,
}

impl ResponseView<'_> {
    /// What becomes of a push, right and up, −1 to 1 each.
    pub fn bend(&self, x: f32, y: f32) -> (f32, f32) {
        let micro = |level: f32| fixed::from_f64(f64::from(level)).unwrap_or(0).clamp(-1_000_000, 1_000_000) as i32;
        let (x, y) = self.shape.pair(micro(x), micro(y)).to;
        (fixed::to_f32(x), fixed::to_f32(y))
    }

    /// Where it begins and ends to do anything.
    pub fn edges(&self) -> ResponseEdges {
        self.shape.edges()
    }
}

/// The longest that a pull may come after the movement that decides it.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Delay {
    /// At most so long.
    pub at_most: Duration,
    /// Why; empty where it is not at all.
    pub why: String,
}

/// How a stick is read as directions.
#[derive(Clone, Copy, Debug)]
pub struct CompassView(Compass);

impl CompassView {
    /// The direction of a bent push, given the one that stood before.
    pub fn read(&self, x: f32, y: f32, before: Option<Direction>) -> Option<Direction> {
        let micro = |level: f32| fixed::from_f64(f64::from(level)).unwrap_or(0) as i32;
        self.0.read(micro(x), micro(y), before)
    }

    /// Four or eight.
    pub fn count(&self) -> usize {
        if self.0.four { 4 } else { 8 }
    }

    /// For box sectors, the levels at which an axis begins and ceases to count; `None` for equal sectors.
    pub fn box_levels(&self) -> Option<(f32, f32)> {
        let boxed = self.0.sectors == crate::direction::Sectors::Box;
        boxed.then(|| (fixed::to_f32(self.0.down_at), fixed::to_f32(self.0.up_at)))
    }
}

impl<'l> ActionView<'l> {
    /// How each of its whole controls is bent, by shape; empty for what has no two axes.
    pub fn responses(&self) -> Vec<ResponseView<'l>> {
        let plan = &self.linkage.0;
        let Some(moved) = self.moved() else { return Vec::new() };
        let mut all: Vec<(u32, ResponseView<'l>)> = Vec::new();
        let feeds = moved.feeds.iter().map(|feed| &plan.inputs.feeds[*feed as usize]);
        for feed in feeds.filter(|feed| feed.per_count == [0; 2]) {
            let shape = feed.shape;
            if !all.iter().any(|(known, _)| *known == shape) {
                all.push((shape, ResponseView { controls: Vec::new(), shape: &plan.inputs.shapes[shape as usize] }));
            }
        }
        let whole = self.controls().iter().filter(|control| control.leg.is_none());
        for (control, feed) in whole.zip(self.feeds()) {
            if let Some((_, view)) = all.iter_mut().find(|(shape, _)| *shape == feed) {
                view.controls.push(control.name.clone());
            }
        }
        all.into_iter().map(|(_, view)| view).collect()
    }

    /// The shapes of its whole controls, in the order of its controls.
    fn feeds(&self) -> Vec<u32> {
        let plan = &self.linkage.0;
        self.moved().map_or(Vec::new(), |moved| {
            moved.feeds.iter().map(|feed| plan.inputs.feeds[*feed as usize].shape).collect()
        })
    }

    /// How it is read as directions; `None` for what is not a stick.
    pub fn compass(&self) -> Option<CompassView> {
        let moved = self.moved()?;
        (self.kind() == Kind::Stick).then_some(CompassView(moved.compass))
    }

    fn moved(&self) -> Option<&'l MovedPlan> {
        self.plan().moved.map(|stick| &self.linkage.0.inputs.moved[usize::from(stick)])
    }

    fn plan(&self) -> &'l super::ActionPlan {
        &self.linkage.0.actions[self.number]
    }

    /// The action's name in the profile.
    pub fn name(&self) -> &'l str {
        &self.plan().name
    }

    /// What kind of action it is: a button, an axis, a stick…
    pub fn kind(&self) -> Kind {
        self.plan().kind
    }

    /// Its controls in the order of the profile.
    pub fn controls(&self) -> &'l [ControlView] {
        &self.plan().controls
    }

    /// When it pulls, by the first of its cues; `None` for sticks and axes without a cue.
    pub fn cue(&self) -> Option<&'l Cue> {
        self.cues().next()
    }

    /// All its cues: any of them pulls it.
    pub fn cues(&self) -> impl Iterator<Item = &'l Cue> {
        self.linkage.0.cues_of(self.number).iter().map(|cue| &cue.line)
    }

    /// The longest that a pull may come after the movement that decides it, and why: the rule's own span, or the
    /// action that it waits for. `None` for what never pulls.
    pub fn delay(&self) -> Option<Delay> {
        let plan = &self.linkage.0;
        let action = self.plan();
        let longest = plan.cues_of(self.number).iter().map(|cue| cue.rule.own_delay()).max()?;
        let waits = action.waits_for.iter().filter_map(|rival| {
            let name = &plan.actions[usize::from(*rival)].name;
            Some((plan.longest_wait(*rival)?, format!("waits for {name}")))
        });
        let own = (longest, if longest > 0 { "its own hold".into() } else { String::new() });
        let (delay, why) = waits.chain([own]).max_by_key(|(delay, _)| *delay)?;
        Some(Delay { at_most: Duration::from_micros(delay), why })
    }

    /// The names of its marks, in order.
    pub fn marks(&self) -> impl Iterator<Item = &'l str> {
        self.plan().marks.iter().map(|(name, _)| name.as_str())
    }

    /// The modes it is heard in; `None` where none is named or it is heard always.
    pub fn modes(&self) -> Option<impl Iterator<Item = &'l str>> {
        match &self.plan().heard {
            crate::mode::HeardPlan::In(modes) => {
                Some(modes.iter().map(|mode| self.linkage.0.world.modes[usize::from(*mode)].name.as_str()))
            }
            _ => None,
        }
    }

    /// The modes that its pulls turn on.
    pub fn turns_on(&self) -> impl Iterator<Item = &'l str> {
        self.modes_of(&self.plan().turns_on)
    }

    /// The modes that its pulls turn off.
    pub fn turns_off(&self) -> impl Iterator<Item = &'l str> {
        self.modes_of(&self.plan().turns_off)
    }

    fn modes_of(&self, modes: &'l [u16]) -> impl Iterator<Item = &'l str> + use<'l> {
        let plan = &self.linkage.0;
        modes.iter().map(|mode| plan.world.modes[usize::from(*mode)].name.as_str())
    }

    /// Whether it stays where it was pushed last.
    pub fn stays(&self) -> bool {
        self.moved().is_some_and(|moved| moved.rest == crate::profile::Rest::Last)
    }

    /// Whether no mode ever covers it.
    pub fn is_always_heard(&self) -> bool {
        self.plan().heard == crate::mode::HeardPlan::Always
    }
}

impl Plan {
    /// How long whoever waits for an action waits at most: until it is known, and while it waits for others in turn. No
    /// list leads back, so this ends.
    fn longest_wait(&self, action: u16) -> Option<u64> {
        let waits_for = &self.actions[usize::from(action)].waits_for;
        let in_turn = waits_for.iter().filter_map(|rival| self.longest_wait(*rival)).max();
        // Of several cues the slowest decides; one without a limit has none.
        let mut longest = None;
        for cue in self.cues_of(action.into()) {
            longest = longest.max(Some(cue.rule.longest_wait()?));
        }
        Some(longest? + in_turn.unwrap_or(0))
    }
}

impl Linkage {
    /// The declared actions, in the order of the profile.
    pub fn actions(&self) -> impl Iterator<Item = ActionView<'_>> {
        (0..self.0.declared).map(|number| ActionView { linkage: self, number })
    }

    /// Whether two actions can be heard at the same time.
    pub fn are_heard_together(&self, one: ActionView<'_>, other: ActionView<'_>) -> bool {
        crate::mode::meet(&self.0.world.modes, &one.plan().heard, &other.plan().heard)
    }

    /// The modes, each with whether it is on at first.
    pub fn modes(&self) -> impl Iterator<Item = (&str, bool)> {
        self.0.world.modes.iter().map(|mode| (mode.name.as_str(), mode.on))
    }

    /// The facts, each with what it is at first; flags are `true` or `false`.
    pub fn facts(&self) -> impl Iterator<Item = (&str, &str)> {
        self.0.world.facts.iter().map(|fact| (fact.name.as_str(), fact.words[usize::from(fact.first)].as_str()))
    }

    /// What a fact can be; a flag is `false` or `true`. Nothing for a fact that isn't there.
    pub fn fact_values(&self, fact: &str) -> impl Iterator<Item = &str> {
        self.0
            .world
            .facts
            .iter()
            .filter(move |own| own.name == fact)
            .flat_map(|own| own.words.iter().map(String::as_str))
    }

    /// A declared action by its name.
    pub fn action(&self, name: &str) -> Option<ActionView<'_>> {
        let plan = &*self.0;
        let mut same = plan.names.actions.find(hash(name)).filter(|number| plan.actions[*number].name == name);
        same.find(|number| *number < plan.declared).map(|number| ActionView { linkage: self, number })
    }
}
