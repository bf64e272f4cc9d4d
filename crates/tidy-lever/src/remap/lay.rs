//! Lays a player's file over a profile: what fits is bound, the rest is left alone and reported.

use super::clash::STAYS;
use super::target::{Target, leg_named, plain};
use super::{Overlaid, Remap, VERSION, access, devices};
use crate::access::Access;
use crate::control::Family;
use crate::linkage::Linkage;
use crate::profile::{DeviceEntry, Fault, Faults, Inputs, Legs, Profile, Spot};
use alloc::borrow::{Cow, ToOwned};
use alloc::format;
use alloc::string::{String, ToString};
use alloc::vec::Vec;
use toml_edit::{Item, Value};

/// One thing that a remap says.
#[derive(Clone, Debug)]
pub(super) struct Entry {
    pub(super) target: Target,
    pub(super) controls: Vec<String>,
}

impl Remap {
    /// What it binds, leg by leg, and what it says besides that is kept and has no effect.
    pub(super) fn entries(&self) -> (Vec<Entry>, Vec<Fault>) {
        let (mut entries, mut alone) = (Vec::new(), Vec::new());
        let mut leave = |path: String, problem: String| alone.push(Fault::new(Spot::NONE, path, problem).warning());
        for (key, item) in self.document.iter() {
            match key {
                // Layouts of pads are their adapter's.
                "action" | "access" | "devices" | "pad" => {}
                "tidy-lever" => {
                    if let Some(version) = item.as_integer().filter(|version| *version > VERSION) {
                        let problem = format!(
                            "this file was written by a newer version ({version}); what this version does not know stays in the file"
                        );
                        leave(key.into(), problem);
                    }
                }
                _ => leave(key.into(), format!("a player's file has no such key{STAYS}")),
            }
        }
        let actions = self.document.get("action").and_then(Item::as_table_like);
        for (action, item) in actions.into_iter().flat_map(|actions| actions.iter()) {
            let Some(table) = item.as_table_like() else {
                leave(format!("action.{action}"), format!("expected a table{STAYS}"));
                continue;
            };
            for (key, item) in table.iter() {
                let path = format!("action.{action}.{key}");
                let Some(family) = Family::from_name(key) else {
                    leave(path, format!("expected keys, mouse, pad or touch{STAYS}"));
                    continue;
                };
                let target = Target::new(action, family);
                if let Some(legs) = item.as_table_like() {
                    for (name, item) in legs.iter() {
                        match (leg_named(name), controls(item)) {
                            (Some(leg), Some(controls)) => {
                                entries.push(Entry { target: target.clone().leg(leg), controls });
                            }
                            _ => leave(format!("{path}.{name}"), format!("expected a leg with controls{STAYS}")),
                        }
                    }
                } else if let Some(controls) = controls(item) {
                    entries.push(Entry { target, controls });
                } else {
                    leave(path, format!("expected a control, or a list of controls{STAYS}"));
                }
            }
        }
        (entries, alone)
    }

    /// Applies the remap over a profile.
    ///
    /// # Errors
    /// The profile's own [`Faults`]. A remap never causes one: an entry that doesn't fit is ignored and reported.
    pub fn over(&self, profile: &Profile) -> Result<Overlaid, Faults> {
        let (mut entries, mut alone) = self.entries();
        let (mut access, problems) = access::read(&self.document);
        alone.extend(problems);
        let devices = devices::read(&self.document);
        alone.extend(devices.alone);
        entries.retain(|entry| {
            let known = profile.actions.iter().any(|action| action.name.value == entry.target.action);
            if !known {
                let names = profile.actions.iter().map(|action| action.name.value.as_str());
                let problem = format!("the profile has no action `{}`{STAYS}", entry.target.action);
                alone.push(
                    Fault::new(Spot::NONE, entry.target.path(), problem).near(&entry.target.action, names).warning(),
                );
            }
            known
        });
        loop {
            let mut laid = Cow::Borrowed(profile);
            entries.iter().for_each(|entry| lay(laid.to_mut(), entry));
            if devices.families.iter().any(|entry| *entry != DeviceEntry::new()) || !devices.pads.is_empty() {
                let laid = laid.to_mut();
                let families = laid.devices.iter_mut().zip(&devices.families);
                families.for_each(|(own, over)| *own = own.clone().under(over.clone()));
                for (name, over) in &devices.pads {
                    let own = laid.named_pads.iter().find(|(known, _)| known == name);
                    let own = own.map_or(DeviceEntry::new(), |(_, entry)| entry.clone());
                    *laid = core::mem::take(laid).devices_named(name.as_str(), own.under(over.clone()));
                }
            }
            let faults = match Linkage::build_for(&laid, &access) {
                Ok(linkage) => {
                    // What of the settings was kept within what the profile allows is told, too.
                    alone.extend(linkage.warnings().filter(|fault| fault.path.starts_with("access.")).cloned());
                    return Ok(Overlaid { linkage, left_alone: alone });
                }
                Err(faults) => faults,
            };
            // What the remap is to blame for is left alone, and the rest tried again.
            let before = (entries.len(), access.clone());
            for fault in faults.iter() {
                let mut told = |fault: &Fault| {
                    alone.push(
                        Fault { spot: Spot::NONE, problem: format!("{}{STAYS}", fault.problem), ..fault.clone() }
                            .warning(),
                    );
                };
                if let Some(key) = fault.path.strip_prefix("access.") {
                    access::forget(&mut access, key);
                    told(fault);
                } else if let Some(place) = entries.iter().position(|entry| blames(fault, &entry.target)) {
                    entries.remove(place);
                    told(fault);
                }
            }
            if before != (entries.len(), access.clone()) {
                continue;
            }
            // Blame falls on what a binding runs into, as a key that another leg has: its own action's last binding goes.
            let Some(fault) = faults.iter().next() else { return Err(faults) };
            let of_action = |entry: &Entry| fault.path.starts_with(&format!("action.{}.", entry.target.action));
            match entries.iter().rposition(of_action).or(entries.len().checked_sub(1)) {
                Some(place) => {
                    let path = entries.remove(place).target.path();
                    alone.push(Fault::new(Spot::NONE, path, format!("{}{STAYS}", fault.problem)).warning());
                }
                // A profile that is good by itself stays usable whatever the settings are.
                None if access != Access::default() && Linkage::build(&laid).is_ok() => {
                    access = Access::default();
                    let problem =
                        format!("these settings and the profile exclude each other: {}{STAYS}", fault.problem);
                    alone.push(Fault::new(Spot::NONE, "access", problem).warning());
                }
                None => return Err(faults),
            }
        }
    }
}

/// Whether a fault of the builder is one of an entry's.
fn blames(fault: &Fault, target: &Target) -> bool {
    let path = target.path();
    let family = format!("action.{}.{}", target.action, target.family);
    fault.path == path || fault.path.starts_with(&format!("{path}.")) || fault.path == family
}

/// The controls that an item lists; `None` if it lists something else.
fn controls(item: &Item) -> Option<Vec<String>> {
    match item.as_value()? {
        Value::String(one) => Some(alloc::vec![one.value().to_owned()]),
        Value::Array(many) => many.iter().map(|one| one.as_str().map(ToString::to_string)).collect(),
        _ => None,
    }
}

/// Lays one entry over a profile.
fn lay(profile: &mut Profile, entry: &Entry) {
    let Target { action, family, leg } = &entry.target;
    let Some(action) = profile.actions.iter_mut().find(|known| known.name.value == *action) else { return };
    let names: Vec<crate::profile::Placed<String>> =
        entry.controls.iter().map(|control| plain(control, *family).to_owned().into()).collect();
    if !action.given.iter().any(|given| given.value == family.name()) {
        action.given.push(family.name().into());
    }
    let slot = &mut action.inputs[family.index()];
    match leg {
        None => *slot = Some(Inputs::Any(names).into()),
        Some(leg) => {
            let mut legs = match slot.take() {
                Some(inputs) => match inputs.value {
                    Inputs::Legs(legs) => legs,
                    Inputs::Any(_) => Legs::default(),
                },
                None => Legs::default(),
            };
            match legs.0.iter_mut().find(|(known, _)| known == leg) {
                Some((_, own)) => *own = names,
                None => legs.0.push((*leg, names)),
            }
            *slot = Some(Inputs::Legs(legs).into());
        }
    }
}
