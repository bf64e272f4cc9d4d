//! Conflicts: one control for two actions that can be active together.

use alloc::collections::BTreeSet;
use alloc::format;
use alloc::string::String;
use alloc::vec::Vec;
use core::fmt;

use super::{Remap, Target, target};
use crate::control::{Bindable, Part};
use crate::linkage::{ActionView, ControlView, Linkage};
use crate::profile::{Fault, Faults, Leg, Profile};
use crate::prompt::Labels;

/// What to do when another action already uses the control.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
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
#[non_exhaustive]
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

impl Conflict {
    /// In plain words, with controls as they are printed on the player's keyboard: `Z is bound to both hop and toss`.
    pub fn told(&self, linkage: &Linkage, labels: &Labels) -> String {
        let control = linkage.control(self.control.split('.').next().unwrap_or_default());
        let part = self.control.split_once('.').and_then(|(_, part)| Part::from_name(part)).unwrap_or(Part::Whole);
        let label = control.map(|control| linkage.label(Bindable { control, part }, labels));
        let leg = |target: &Target| target.leg.map_or(String::new(), |leg| format!(" {}", leg.name()));
        let who = |target: &Target| format!("{}{}", target.action, leg(target));
        let control = label.as_deref().unwrap_or(&self.control);
        format!("{control} is bound to both {} and {}", who(&self.other), who(&self.target))
    }
}

/// What came of binding.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub struct Bound {
    /// What was shared or swapped.
    pub conflicts: Vec<Conflict>,
    /// What got the same controls with it, as the profile binds them together.
    pub together: Vec<Target>,
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
#[non_exhaustive]
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

    /// Binds controls to an action, or to one leg of it, and checks for conflicts. Controls are named within the family or
    /// in full: `KeyJ`, `keys:KeyJ`, or what [`Listening`](crate::listening::Listening) heard. Opposite legs never share a
    /// control.
    ///
    /// Actions that the profile binds to the same controls of the family (a tap and a hold of one key, say) move together:
    /// the others get the new controls, too, and [`Bound::together`] names them.
    ///
    /// ```
    /// use tidy_lever::Profile;
    /// use tidy_lever::remap::{Clash, Remap};
    ///
    /// let text = "tidy-lever = 1\n\
    ///     [action.take]\nkind = \"button\"\nkeys = \"KeyE\"\n\
    ///     [action.bag]\nkind = \"button\"\nkeys = \"KeyE\"\ncue = \"hold 350ms\"\n";
    /// let mut remap = Remap::new();
    /// let bound = remap.bind(&Profile::from_toml(text)?, &"take.keys".parse()?, &["KeyX"], Clash::Refuse)?;
    /// assert_eq!(bound.together[0].to_string(), "bag.keys");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// [`Refused`] if other actions use them and `clash` is [`Clash::Refuse`], or if they don't fit. Then nothing is changed.
    pub fn bind(
        &mut self,
        profile: &Profile,
        target: &Target,
        controls: &[impl fmt::Display],
        clash: Clash,
    ) -> Result<Bound, Refused> {
        let controls: Vec<String> = controls.iter().map(|control| format!("{control}")).collect();
        let controls: Vec<&str> = controls.iter().map(|control| target::plain(control, target.family)).collect();
        self.bind_named(profile, target, &controls, clash)
    }

    /// Unbinds an action, or one leg of it, and what moves with it.
    ///
    /// # Errors
    /// As [`Remap::bind`].
    pub fn unbind(&mut self, profile: &Profile, target: &Target) -> Result<Bound, Refused> {
        self.bind_named(profile, target, &[], Clash::Refuse)
    }

    fn bind_named(
        &mut self,
        profile: &Profile,
        target: &Target,
        controls: &[&str],
        clash: Clash,
    ) -> Result<Bound, Refused> {
        let before = self.over(profile).map_err(Refused::Profile)?;
        let had = held_by(&before.linkage, target);
        let plain = Linkage::build(profile).map_err(Refused::Profile)?;
        let together = twins(&plain, &before.linkage, target);
        let mut next = self.clone();
        next.put(target, controls);
        together.iter().for_each(|twin| next.put(twin, controls));
        let is_bound = |of: &Target| of.action == target.action || together.iter().any(|twin| twin.action == of.action);
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
        // Told from the side of what was bound, and once for all that moved together.
        for conflict in &mut conflicts {
            if is_bound(&conflict.other) && conflict.target.action != target.action {
                core::mem::swap(&mut conflict.target, &mut conflict.other);
            }
        }
        conflicts.retain(|conflict| conflict.target.action == target.action || !is_bound(&conflict.target));
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
        Ok(Bound { conflicts, together })
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
    let plain = |view: &ControlView| target::plain(&view.name, target.family).into();
    linkage
        .action(&target.action)
        .map_or(Vec::new(), |action| action.controls().iter().filter(own).map(plain).collect())
}

/// The other actions that have the same controls of a family, in the profile and as played now.
fn twins(plain: &Linkage, now: &Linkage, target: &Target) -> Vec<Target> {
    let of = |action: &str| Target::new(action, target.family);
    let same = |linkage: &Linkage, other: &str| {
        let own = held_by(linkage, target);
        !own.is_empty() && held_by(linkage, &of(other)) == own
    };
    let is_button = |action: &ActionView<'_>| action.controls().iter().all(|view| view.leg.is_none());
    if target.leg.is_some() || !plain.action(&target.action).is_some_and(|action| is_button(&action)) {
        return Vec::new();
    }
    let own = plain.action(&target.action);
    let others = plain.actions().filter(|other| other.name() != target.action && is_button(other));
    let heard = others.filter(|other| own.is_some_and(|own| plain.are_heard_together(own, *other)));
    heard.filter(|other| same(plain, other.name()) && same(now, other.name())).map(|other| of(other.name())).collect()
}

/// Another leg of the same action that has a control.
fn leg_of_the_same(linkage: &Linkage, wanted: &Target, control: &str) -> Option<Conflict> {
    let leg: Leg = wanted.leg?;
    let full = format!("{}:{}", wanted.family, target::plain(control, wanted.family));
    let action = linkage.action(&wanted.action)?;
    let view = action.controls().iter().find(|view| view.name == full && view.leg.is_some_and(|other| other != leg))?;
    Some(Conflict { control: full, target: wanted.clone(), other: target(action, view) })
}
