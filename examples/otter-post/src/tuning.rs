//! The profile: read from its file, or the one that comes with the game; watched while it plays.

use std::path::{Path, PathBuf};

use anyhow::{Context, Result};
use notify::event::{AccessKind, AccessMode};
use notify::{EventKind, RecommendedWatcher, RecursiveMode, Watcher};
use tidy_lever::profile::Faults;
use tidy_lever::remap::Remap;
use tidy_lever::{Linkage, Profile};

use crate::hands::Hands;

const SHIPPED: &str = include_str!("../../../demo/otter-post.toml");

/// A profile that the game can play on, with a player's file over it.
#[derive(Clone, Debug)]
pub(crate) struct Tuned {
    pub(crate) profile: Profile,
    pub(crate) linkage: Linkage,
    pub(crate) hands: Hands,
    /// What the player's file says without effect here.
    pub(crate) left_alone: Vec<String>,
}

/// What is wrong with a profile: the first fault with its place, and how many there are besides.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Broken {
    pub(crate) line: u32,
    pub(crate) problem: String,
    pub(crate) more: usize,
}

impl std::fmt::Display for Broken {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(&self.problem)?;
        if self.more > 0 {
            write!(f, " (and {} more)", self.more)?;
        }
        Ok(())
    }
}

impl std::error::Error for Broken {}

impl From<Faults> for Broken {
    fn from(faults: Faults) -> Broken {
        let first = faults.iter().next();
        let line = first.map_or(0, |fault| fault.spot.line);
        let problem = first.map_or_else(
            || "it is at fault".into(),
            |fault| {
                // Where the right name is at hand, all others need not be told.
                let short = fault.nearest.as_ref().and_then(|_| fault.problem.split_once("; "));
                let problem = short.map_or(fault.problem.clone(), |(problem, _)| problem.to_owned());
                let mut fault = fault.clone();
                fault.problem = problem;
                fault.to_string()
            },
        );
        Broken { line, problem, more: faults.len().saturating_sub(1) }
    }
}

impl Tuned {
    /// Builds what a text says, with a player's file over it.
    pub(crate) fn new(text: &str, remap: &Remap) -> Result<Tuned, Broken> {
        Tuned::of(Profile::from_toml(text)?, remap)
    }

    /// The same profile with another remap.
    pub(crate) fn of(profile: Profile, remap: &Remap) -> Result<Tuned, Broken> {
        let laid = remap.over(&profile)?;
        let problem = |missing: tidy_lever::handle::Missing| Broken {
            line: 0,
            problem: format!("the game can't play on it: {missing}"),
            more: 0,
        };
        let hands = Hands::find(&laid.linkage).map_err(problem)?;
        let left_alone = laid.left_alone.iter().map(ToString::to_string).collect();
        Ok(Tuned { profile, linkage: laid.linkage, hands, left_alone })
    }
}

/// Where the profile comes from: a file, if there is one; else the one inside the game.
pub(crate) fn file(named: Option<PathBuf>) -> Option<PathBuf> {
    named.or_else(|| Some(PathBuf::from("demo/otter-post.toml")).filter(|usual| usual.is_file()))
}

/// The text of a profile.
pub(crate) fn text(file: Option<&Path>) -> Result<String> {
    match file {
        Some(file) => std::fs::read_to_string(file).with_context(|| format!("{} can't be read", file.display())),
        None => Ok(SHIPPED.to_owned()),
    }
}

/// Calls back whenever a file was saved, until dropped. Watches its folder, as many editors put a new file in its place.
pub(crate) fn watch(file: &Path, saved: impl Fn() + Send + 'static) -> Result<RecommendedWatcher> {
    let whole = file.canonicalize().with_context(|| format!("{} can't be watched", file.display()))?;
    let folder = whole.parent().map(Path::to_owned).unwrap_or_default();
    let mut watcher = notify::recommended_watcher(move |event: notify::Result<notify::Event>| {
        // Reading the file must not count as saving it.
        let written =
            |kind: EventKind| !kind.is_access() || kind == EventKind::Access(AccessKind::Close(AccessMode::Write));
        if event.is_ok_and(|event| written(event.kind) && event.paths.contains(&whole)) {
            saved();
        }
    })?;
    watcher.watch(&folder, RecursiveMode::NonRecursive)?;
    Ok(watcher)
}
