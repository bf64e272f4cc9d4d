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
        let now = kept.as_ref().ok().map(|_| read(&self.0));
        let (now, broken) = match now {
            Some(Ok(now)) => (Some(now), None),
            // One with a mistake is left as somebody wrote it; the change goes beside it.
            Some(Err(problem)) => (None, Some(problem)),
            None => (None, None),
        };
        let Some(text) = put(now) else { return Ok(()) };
        match (kept, broken) {
            (Ok(kept), None) => kept.write(text.as_bytes()).map_err(|problem| problem.to_string()),
            (Err(problem), _) => Err(problem.to_string()),
            (Ok(_), Some(problem)) => {
                let beside = unsaved(&self.0);
                tidy_lever_files::write(&beside, text.as_bytes()).map_err(|problem| problem.to_string())?;
                Err(format!("{problem:#}. That file was left as it is, and the change is in {}", beside.display()))
            }
        }
    }
}

/// Where a change goes that can't be put into a player's file with a mistake.
fn unsaved(path: &Path) -> PathBuf {
    let stem = path.file_stem().unwrap_or_default().to_string_lossy();
    path.with_file_name(format!("{stem}-unsaved.toml"))
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
