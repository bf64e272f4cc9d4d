//! The player's own file: keys that were changed in the menu, and access. Saved whole or not at all.

use std::io::Write;
use std::path::{Path, PathBuf};

use anyhow::{Context, Result};
use tempfile::NamedTempFile;
use tidy_lever::remap::Remap;

/// Where it is, unless told.
pub(crate) fn path() -> Option<PathBuf> {
    dirs::config_dir().map(|folder| folder.join("otter-post").join("player.toml"))
}

/// Reads it; none is one that changes nothing.
pub(crate) fn read(path: &Path) -> Result<Remap> {
    if !path.exists() {
        return Ok(Remap::new());
    }
    let text = std::fs::read_to_string(path).with_context(|| format!("{} can't be read", path.display()))?;
    Remap::from_toml(&text).map_err(|faults| {
        let faults: Vec<String> = faults.iter().map(ToString::to_string).collect();
        anyhow::anyhow!("{}: {}; mend it, or move it away", path.display(), faults.join("; "))
    })
}

/// Writes a text whole, or leaves the file as it was.
pub(crate) fn write(path: &Path, text: &str) -> Result<()> {
    write_bytes(path, text.as_bytes())
}

/// The same for any file.
pub(crate) fn write_bytes(path: &Path, bytes: &[u8]) -> Result<()> {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    std::fs::create_dir_all(folder).with_context(|| format!("{} can't be made", folder.display()))?;
    let mut file = NamedTempFile::new_in(folder)?;
    file.write_all(bytes)?;
    file.persist(path).with_context(|| format!("{} can't be written", path.display()))?;
    Ok(())
}
