//! The player's own file: keys that were changed in the menu, and access. Saved whole or not at all.

use std::path::{Path, PathBuf};

use anyhow::Context;
use tidy_lever::remap::Remap;
use tidy_lever_files::{Kept, WriteError};

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
    Remap::from_toml(&text).map_err(|faults| {
        let faults: Vec<String> = faults.iter().map(ToString::to_string).collect();
        anyhow::anyhow!("{}: {}; mend it, or move it away", path.display(), faults.join("; "))
    })
}

/// Keeps it from other programs until it is written; its folder is made, if need be.
pub(crate) fn lock(path: &Path) -> Result<Kept, WriteError> {
    if let Some(folder) = path.parent() {
        // Where that fails, so does the writing, which says why.
        let _ = std::fs::create_dir_all(folder);
    }
    Kept::lock(path)
}

/// Writes a file whole, or leaves it as it was.
pub(crate) fn write(path: &Path, bytes: &[u8]) -> Result<(), WriteError> {
    lock(path)?.write(bytes)
}
