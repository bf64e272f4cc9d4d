//! Conflicts: one control for two actions that can be active together.

use alloc::collections::BTreeSet;
use alloc::format;
use alloc::string::String;
use alloc::vec::Vec;
use core::fmt;

use super::{Remap, Target};
use crate::control::Part;
use crate::linkage::{ActionView, ControlView, Linkage};
use crate::profile::{Fault, Faults, Leg, Profile};

/// What to do when another action already uses the control.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Clash {
    /// Change nothing, and report the conflicts.
    #[default]
    Refuse,
    /// Give the other action the old control of this one.
    Swap,
    /// Let both actions use it.
    Share,
}

/// Two actions that share a control in the same mode, and did not in the profile.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Conflict {
    /// The control's full name.
    pub control: String,
    /// What was bound to it.
    pub target: Target,
    /// What else is bound to it.
    pub other: Target,
}

impl fmt::Display for Conflict {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} is bound to both {} and {}", self.control, self.other, self.target)
    }
}

/// What a fault of a file says of its entry.
pub(super) const STAYS: &str = "; it stays in the file, without effect";

/// Faults of what was not bound: nothing of it is in the file.
fn unbound(mut faults: Vec<Fault>) -> Vec<Fault> {
    for fault in &mut faults {
        if let Some(bare) = fault.problem.strip_suffix(STAYS) {
            fault.problem = bare.into();
        }
    }
    faults
}

/// Why controls were not bound. The remap is as before.
#[derive(Clone, Debug, PartialEq)]
pub enum Refused {
    /// Other actions use them.
    Taken(Vec<Conflict>),
    /// They don't fit.
    Unfit(Vec<Fault>),
    /// The profile itself has errors.
    Profile(Faults),
}

impl fmt::Display for Refused {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let all: Vec<String> = match self {
            Refused::Taken(conflicts) => conflicts.iter().map(|conflict| format!("{conflict}")).collect(),
            Refused::Unfit(faults) => faults.iter().map(|fault| format!("{fault}")).collect(),
            Refused::Profile(faults) => faults.iter().map(|fault| format!("{fault}")).collect(),
        };
        f.write_str(&all.join("; "))
    }
}

impl core::error::Error for Refused {}

fn target(action: ActionView<'_>, view: &ControlView) -> Target {
    Target { action: action.name().into(), family: view.control.family(), leg: view.leg }
}

/// Whether moving one moves the other.
fn touch(one: &ControlView, other: &ControlView) -> bool {
    let whole = one.part == Part::Whole || other.part == Part::Whole;
    one.control == other.control && (whole || one.part == other.part)
}

/// The controls that two actions share in a mode that hears both.
fn shared<'l>(
    linkage: &'l Linkage,
    one: ActionView<'l>,
    other: ActionView<'l>,
) -> impl Iterator<Item = (&'l ControlView, &'l ControlView)> {
    let heard = linkage.are_heard_together(one, other);
    let pairs = one.controls().iter().flat_map(move |a| other.controls().iter().map(move |b| (a, b)));
    pairs.filter(move |(a, b)| heard && touch(a, b))
}

impl Remap {
    /// The controls that two actions share in one mode because of this remap, and not in the profile.
    ///
    /// # Errors
    /// The profile's own [`Faults`].
    pub fn conflicts(&self, profile: &Profile) -> Result<Vec<Conflict>, Faults> {
        let (plain, laid) = (Linkage::build(profile)?, self.over(profile)?.linkage);
        let changed: BTreeSet<String> = self.changed().into_iter().map(|target| target.action).collect();
        let actions: Vec<(ActionView<'_>, ActionView<'_>, bool)> =
            laid.actions().zip(plain.actions()).map(|(now, was)| (now, was, changed.contains(now.name()))).collect();
        let mut all = Vec::new();
        for (place, (one, one_was, one_changed)) in actions.iter().enumerate() {
            for (other, other_was, other_changed) in &actions[place + 1..] {
                // Two that the remap leaves as they are share nothing new; two that share by the profile, wherever, are
                // meant to.
                if !(*one_changed || *other_changed) {
                    continue;
                }
                let mut now = shared(&laid, *one, *other).peekable();
                if now.peek().is_none() || shared(&plain, *one_was, *other_was).next().is_some() {
                    continue;
                }
                all.extend(now.map(|(a, b)| Conflict {
                    control: a.name.clone(),
                    target: target(*one, a),
                    other: target(*other, b),
                }));
            }
        }
        Ok(all)
    }

    /// Binds controls to an action, or to one leg of it, and checks for conflicts. Returns what was shared or swapped.
    /// Opposite legs never share a control.
    ///
    /// # Errors
    /// [`Refused`] if other actions use them and `clash` is [`Clash::Refuse`], or if they don't fit. Then nothing is changed.
    pub fn bind(
        &mut self,
        profile: &Profile,
        target: &Target,
        controls: &[&str],
        clash: Clash,
    ) -> Result<Vec<Conflict>, Refused> {
        let before = self.over(profile).map_err(Refused::Profile)?;
        let had = held_by(&before.linkage, target);
        let mut next = self.clone();
        next.put(target, controls);
        // Legs of one action can't share; they can swap.
        let own: Vec<Conflict> =
            controls.iter().filter_map(|control| leg_of_the_same(&before.linkage, target, control)).collect();
        if !own.is_empty() {
            if clash != Clash::Swap {
                return Err(Refused::Taken(own));
            }
            own.iter().for_each(|conflict| next.give(&before.linkage, conflict, &had));
        }
        let unfit = |next: &Remap| -> Result<Vec<Fault>, Refused> {
            let told = next.over(profile).map_err(Refused::Profile)?.left_alone;
            Ok(told.into_iter().filter(|fault| !before.left_alone.contains(fault)).collect())
        };
        let faults = unfit(&next)?;
        if !faults.is_empty() {
            return Err(Refused::Unfit(unbound(faults)));
        }
        let known = self.conflicts(profile).map_err(Refused::Profile)?;
        let mut conflicts = next.conflicts(profile).map_err(Refused::Profile)?;
        conflicts.retain(|conflict| !known.contains(conflict));
        // Told from the side of what was bound.
        for conflict in &mut conflicts {
            if conflict.other.action == target.action {
                core::mem::swap(&mut conflict.target, &mut conflict.other);
            }
        }
        match clash {
            Clash::Refuse if !conflicts.is_empty() => return Err(Refused::Taken(conflicts)),
            Clash::Swap => {
                for conflict in &conflicts {
                    next.give(&before.linkage, conflict, &had);
                }
                let faults = unfit(&next)?;
                if !faults.is_empty() {
                    return Err(Refused::Unfit(unbound(faults)));
                }
                // What was given in return may be another's already.
                let left = next.conflicts(profile).map_err(Refused::Profile)?;
                conflicts.extend(left.into_iter().filter(|conflict| !known.contains(conflict)));
            }
            _ => {}
        }
        conflicts.extend(own);
        let document = next.document;
        self.remember();
        self.document = document;
        Ok(conflicts)
    }

    /// The other side of a swap: instead of the control in conflict it gets what the first had, or loses it.
    fn give(&mut self, before: &Linkage, conflict: &Conflict, had: &[String]) {
        let mut controls = held_by(before, &conflict.other);
        let instead = had.iter().find(|had| !controls.contains(had));
        if let Some(place) =
            controls.iter().position(|control| format!("{}:{control}", conflict.other.family) == conflict.control)
        {
            match instead {
                Some(instead) => controls[place].clone_from(instead),
                None => drop(controls.remove(place)),
            }
        }
        let controls: Vec<&str> = controls.iter().map(String::as_str).collect();
        self.put(&conflict.other, &controls);
    }
}

/// The controls of a target, by their names within the family.
fn held_by(linkage: &Linkage, target: &Target) -> Vec<String> {
    let own = |view: &&ControlView| {
        view.control.family() == target.family && (target.leg.is_none() || view.leg == target.leg)
    };
    let plain = |view: &ControlView| super::plain(&view.name, target.family).into();
    linkage
        .action(&target.action)
        .map_or(Vec::new(), |action| action.controls().iter().filter(own).map(plain).collect())
}

/// Another leg of the same action that has a control.
fn leg_of_the_same(linkage: &Linkage, wanted: &Target, control: &str) -> Option<Conflict> {
    let leg: Leg = wanted.leg?;
    let full = format!("{}:{}", wanted.family, super::plain(control, wanted.family));
    let action = linkage.action(&wanted.action)?;
    let view = action.controls().iter().find(|view| view.name == full && view.leg.is_some_and(|other| other != leg))?;
    Some(Conflict { control: full, target: wanted.clone(), other: target(action, view) })
}
