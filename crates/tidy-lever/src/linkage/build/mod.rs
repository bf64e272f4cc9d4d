//! From a profile to a plan: every name, number and rule checked, all faults gathered.

mod builder;
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
use super::{
    Alone, ButtonPlan, ContactPlan, CrossPlan, FeedPlan, InputsPlan, LegOf, LegPlan, MovedPlan, PairPlan, PatchPlan,
    PointerPlan, SlotPlan, Wire, WorldActionPlan,
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
/// The most marks of an action.
const MOST_MARKS: usize = 16;
/// Ends of an axis's range.
const MOST_RANGE: f64 = 1e6;

use builder::{Builder, Draft, Found, Heeds, Written, directions, facing, flag, grow, names_spot};

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

impl Builder<'_> {
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
}
