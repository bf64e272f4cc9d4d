//! The player's file as a file.

use std::path::{Path, PathBuf};

use anyhow::Context;
use tidy_lever::remap::Remap;
use tidy_lever_files::{Kept, WriteError};

use crate::player::{Store, parse};

/// A player's file at a path.
#[derive(Debug)]
pub(crate) struct PlayerFile(pub(crate) PathBuf);

impl Store for PlayerFile {
    fn change(&self, put: &mut dyn FnMut(Option<Remap>) -> Option<String>) -> Result<(), String> {
        let kept = lock(&self.0);
        let now = kept.as_ref().ok().and_then(|_| read(&self.0).ok());
        let Some(text) = put(now) else { return Ok(()) };
        kept.and_then(|kept| kept.write(text.as_bytes())).map_err(|problem| problem.to_string())
    }
}

/// Where it is, unless told.
pub(crate) fn path() -> Option<PathBuf> {
    dirs::config_dir().map(|folder| folder.join("otter-post").join("player.toml"))
}

/// Reads it; none is one that changes nothing.
pub(crate) fn read(path: &Path) -> anyhow::Result<Remap> {
    if !path.exists() {
        return Ok(Remap::new());
    }
    let text = std::fs::read_to_string(path).with_context(|| format!("{} can't be read", path.display()))?;
    parse(&text, &path.display().to_string())
}

/// Keeps it from other programs until it is written; its folder is made, if need be.
fn lock(path: &Path) -> Result<Kept, WriteError> {
    if let Some(folder) = path.parent() {
        // Where that fails, so does the writing, which says why.
        let _ = std::fs::create_dir_all(folder);
    }
    Kept::lock(path)
}
