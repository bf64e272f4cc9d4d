//! Where the profile comes from: its file, if there is one; else the one inside the game.

use std::path::{Path, PathBuf};

use anyhow::{Context, Result};

use crate::tuning::SHIPPED;

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
