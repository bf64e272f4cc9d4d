//! What completes the arguments: recipes, families, and the actions of the profile that stands before.

use std::ffi::OsStr;
use std::path::Path;

use clap_complete::engine::{CompletionCandidate, PathCompleter, ValueCompleter};
use tidy_lever::control::Family;
use tidy_lever::profile::Kind;
use tidy_lever::{Linkage, Profile};

use crate::shipped;

/// No profile that a person wrote is larger; while completing nobody wants to wait.
const LARGEST: u64 = 1 << 20;

fn offer(words: impl Iterator<Item = String>, begun: &OsStr) -> Vec<CompletionCandidate> {
    let begun = begun.to_string_lossy().into_owned();
    words.filter(|word| word.starts_with(&begun)).map(CompletionCandidate::new).collect()
}

/// The recipes.
pub(crate) fn recipes(begun: &OsStr) -> Vec<CompletionCandidate> {
    offer(shipped::names().into_iter(), begun)
}

/// The families of controls.
pub(crate) fn families(begun: &OsStr) -> Vec<CompletionCandidate> {
    offer(Family::ALL.iter().map(ToString::to_string), begun)
}

/// The actions of the profile that stands before.
pub(crate) fn actions(begun: &OsStr) -> Vec<CompletionCandidate> {
    of_profile(begun, |_| true)
}

/// Tapes, and the actions of the profile that stands before.
pub(crate) fn tapes_and_actions(begun: &OsStr) -> Vec<CompletionCandidate> {
    let mut all = PathCompleter::file().complete(begun);
    all.extend(actions(begun));
    all
}

/// Its sticks.
pub(crate) fn sticks(begun: &OsStr) -> Vec<CompletionCandidate> {
    of_profile(begun, |kind| kind == Kind::Stick)
}

fn of_profile(begun: &OsStr, which: impl Fn(Kind) -> bool) -> Vec<CompletionCandidate> {
    // The words of the line stand behind the script's own.
    let linkage = std::env::args_os().skip(3).find_map(|word| profile(Path::new(&word)));
    let Some(linkage) = linkage else { return Vec::new() };
    // Of several with commas between, the last one is begun.
    let begun = begun.to_string_lossy();
    let (before, last) = begun.rsplit_once(',').map_or(("", &*begun), |(before, last)| (before, last));
    let before = if before.is_empty() { String::new() } else { format!("{before},") };
    let own = linkage.actions().filter(|action| which(action.kind()) && action.name().starts_with(last));
    own.map(|action| CompletionCandidate::new(format!("{before}{}", action.name()))).collect()
}

fn profile(path: &Path) -> Option<Linkage> {
    let is_small = path.metadata().is_ok_and(|found| found.is_file() && found.len() <= LARGEST);
    let text = is_small.then(|| std::fs::read_to_string(path).ok())??;
    Linkage::build(&Profile::from_toml(&text).ok()?).ok()
}
