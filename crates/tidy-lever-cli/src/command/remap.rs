//! `remap PROFILE FILE`: a player's bindings, changed and listed.

use std::io::Write;
use std::path::Path;

use anyhow::{Result, anyhow, bail};
use tidy_lever::Profile;
use tidy_lever::control::Family;
use tidy_lever::linkage::ControlView;
use tidy_lever::profile::Leg;
use tidy_lever::remap::{Clash, Conflict, Refused, Remap, Target};
use tidy_lever_files::{Kept, Outputs};

use crate::Answer;
use crate::arguments::{ClashWord, Remap as Arguments};
use crate::input;
use crate::out::Out;
use crate::paint::{self, BAD, FAINT, GOOD, HEAD, NAME, WARN, in_style};

pub(crate) fn run(arguments: &Arguments) -> Result<Answer> {
    if arguments.file == Path::new("-") {
        bail!("a player's file is changed in place, so it can't be standard input; name a file");
    }
    if arguments.file.exists() {
        // What is not a player's file yet may be made one; the profile never.
        Outputs::new([arguments.profile.as_path()]).replacing(true).claim(&arguments.file)?;
    }
    let profile = input::overlaid(&arguments.profile, None)?.profile;
    let file = input::name(&arguments.file);
    // Nobody else changes it between reading and writing; one that is only looked at may be read-only.
    let changes = !arguments.set.is_empty() || !arguments.reset.is_empty() || arguments.reset_all;
    let kept = changes.then(|| Kept::lock(&arguments.file)).transpose()?;
    let mut remap = if arguments.file.exists() { input::remap(&arguments.file)? } else { Remap::new() };
    let before = remap.to_toml();
    let mut out = Out::screen();
    if arguments.reset_all {
        remap.reset_all();
    }
    for name in &arguments.reset {
        let changed = if name.contains('.') {
            remap.reset_target(&target(&profile, name)?)
        } else {
            known(&profile, name)?;
            remap.reset(name)
        };
        if !changed {
            writeln!(out, "{} {name} already has the profile's controls", in_style(WARN, "note:"))?;
        }
    }
    let clash = match arguments.clash {
        ClashWord::Refuse => Clash::Refuse,
        ClashWord::Swap => Clash::Swap,
        ClashWord::Share => Clash::Share,
    };
    for set in &arguments.set {
        let (wanted, controls) =
            set.split_once('=').ok_or_else(|| anyhow!("`{set}` names no control; write hop.keys=KeyJ"))?;
        let wanted = target(&profile, wanted.trim())?;
        let controls: Vec<&str> = controls.split(',').map(str::trim).filter(|control| !control.is_empty()).collect();
        match remap.bind(&profile, &wanted, &controls, clash) {
            Ok(bound) => {
                // What one got in return may be another's already: that is shared then.
                let left = remap.conflicts(&profile)?;
                for conflict in &bound.conflicts {
                    let swapped = matches!(clash, Clash::Swap) && !left.contains(conflict);
                    settled(&mut out, conflict, swapped)?;
                }
                for twin in &bound.together {
                    writeln!(out, "{} {twin}, which the profile binds to the same", in_style(WARN, "moved along:"))?;
                }
            }
            Err(Refused::Taken(conflicts)) => {
                for conflict in &conflicts {
                    writeln!(out, "{} {conflict}", in_style(BAD, "conflict:"))?;
                }
                let own = conflicts.iter().all(|conflict| conflict.target.action == conflict.other.action);
                let hint = if own { "--clash swap" } else { "--clash swap, or --clash share" };
                writeln!(out, "nothing was changed; to bind it anyway, add {hint}")?;
                return Ok(Answer::No);
            }
            Err(Refused::Unfit(faults)) => {
                for fault in &faults {
                    let mut told = fault.problem.clone();
                    if let Some(nearest) = &fault.nearest {
                        told += &format!("; did you mean `{nearest}`?");
                    }
                    writeln!(out, "{} {wanted}: {told}", in_style(BAD, "does not fit:"))?;
                }
                writeln!(out, "nothing was changed")?;
                return Ok(Answer::No);
            }
            Err(Refused::Profile(faults)) => return Err(faults.into()),
            Err(refused) => return Err(refused.into()),
        }
    }
    let text = remap.to_toml();
    let asked = !arguments.set.is_empty() || !arguments.reset.is_empty();
    if text != before || (asked && !arguments.file.exists()) {
        kept.iter().try_for_each(|kept| kept.write(text.as_bytes()))?;
        writeln!(out, "{} {file}", in_style(GOOD, "saved"))?;
    }
    let laid = remap.over(&profile)?;
    for fault in &laid.left_alone {
        writeln!(out, "{} {file}: {fault}", in_style(WARN, "note:"))?;
    }
    let unchanged = arguments.set.is_empty() && arguments.reset.is_empty() && !arguments.reset_all;
    if arguments.list || unchanged {
        list(&mut out, &profile, &remap)?;
    }
    Ok(Answer::Yes)
}

/// A target that the profile knows the action of.
fn target(profile: &Profile, text: &str) -> Result<Target> {
    let target: Target = text.parse()?;
    known(profile, &target.action)?;
    Ok(target)
}

fn known(profile: &Profile, action: &str) -> Result<()> {
    let linkage = tidy_lever::Linkage::build(profile)?;
    if linkage.action(action).is_none() {
        let missing = linkage.find::<tidy_lever::Button>(action).err();
        bail!("{}", missing.map_or(String::new(), |missing| missing.to_string()));
    }
    Ok(())
}

fn settled(out: &mut impl Write, conflict: &Conflict, swapped: bool) -> Result<()> {
    let Conflict { control, target, other, .. } = conflict;
    if swapped {
        writeln!(out, "{} {control} is bound to {target}; {other} takes its old control", in_style(WARN, "swapped:"))?;
    } else {
        writeln!(out, "{} {conflict}", in_style(WARN, "shared:"))?;
    }
    Ok(())
}

/// What is bound where, and what the player changed.
fn list(out: &mut impl Write, profile: &Profile, remap: &Remap) -> Result<()> {
    let laid = remap.over(profile)?;
    let plain = tidy_lever::Linkage::build(profile)?;
    let text = |linkage: &tidy_lever::Linkage, action: &str| {
        linkage.action(action).map_or(String::new(), |action| bound(action.controls()))
    };
    let wide = laid.linkage.actions().map(|action| action.name().len()).max().unwrap_or(0);
    writeln!(out, "{}", in_style(HEAD, format!("  {:<wide$}  controls", "action")))?;
    for action in laid.linkage.actions() {
        let (now, was) = (text(&laid.linkage, action.name()), text(&plain, action.name()));
        if now.is_empty() && was.is_empty() {
            continue;
        }
        let sign = if now == was { " " } else { "*" };
        let name = in_style(NAME, format!("{:<wide$}", action.name()));
        let now = if now.is_empty() { "nothing".to_owned() } else { now };
        let now = paint::fitted(&now, wide + 4);
        writeln!(out, "{} {name}  {now}", in_style(WARN, sign))?;
        if sign == "*" {
            writeln!(
                out,
                "  {:<wide$}  {}",
                "",
                in_style(FAINT, paint::fitted(&format!("in the profile: {was}"), wide + 4))
            )?;
        }
    }
    let conflicts = remap.conflicts(profile)?;
    for conflict in &conflicts {
        writeln!(out, "{} {conflict}", in_style(WARN, "shared:"))?;
    }
    let access = remap.access();
    if access != tidy_lever::access::Access::default() {
        writeln!(out, "access: {}", told(&access))?;
    }
    if let Some(hand) = access.hand {
        for (action, leg) in laid.linkage.out_of_reach(hand) {
            let leg = leg.map_or(String::new(), |leg| format!(".{}", leg.name()));
            let name = hand.name();
            writeln!(
                out,
                "{} {}{leg} has no control for the {name} hand",
                in_style(WARN, "out of reach:"),
                action.name()
            )?;
        }
    }
    Ok(())
}

/// Controls in a line: by family, and by leg.
fn bound(controls: &[ControlView]) -> String {
    let mut parts: Vec<String> = Vec::new();
    for family in Family::ALL {
        let own: Vec<&ControlView> = controls.iter().filter(|view| view.control.family() == family).collect();
        let mut legs: Vec<(Option<Leg>, Vec<&str>)> = Vec::new();
        for view in &own {
            let name = view.name.split_once(':').map_or(view.name.as_str(), |(_, name)| name);
            match legs.iter_mut().find(|(leg, _)| *leg == view.leg) {
                Some((_, names)) => names.push(name),
                None => legs.push((view.leg, vec![name])),
            }
        }
        let told = |(leg, names): &(Option<Leg>, Vec<&str>)| {
            let leg = leg.map_or(String::new(), |leg| format!("{}=", leg.name()));
            format!("{leg}{}", names.join(","))
        };
        if !own.is_empty() {
            parts.push(format!("{family}: {}", legs.iter().map(told).collect::<Vec<_>>().join(" ")));
        }
    }
    parts.join("   ")
}

/// Accessibility settings in a line.
fn told(access: &tidy_lever::access::Access) -> String {
    use tidy_lever::access::Which;
    let mut parts = Vec::new();
    match &access.toggled {
        Which::All => parts.push("all buttons toggle".to_owned()),
        Which::Named(names) => parts.push(format!("{} toggle", names.join(", "))),
        _ => {}
    }
    if let Some(rate) = access.mash_rate {
        parts.push(format!("holding mashes {rate} times a second"));
    }
    if access.leeway != 1.0 {
        parts.push(format!("windows x{}", access.leeway));
    }
    if access.holds != 1.0 {
        parts.push(format!("holds x{}", access.holds));
    }
    if access.one_by_one {
        parts.push("one_by_one chords".into());
    }
    if let Some(hand) = access.hand {
        parts.push(format!("{} hand", hand.name()));
    }
    parts.join(", ")
}
