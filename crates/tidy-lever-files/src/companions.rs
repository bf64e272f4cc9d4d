//! Files that a tape names: they go beside it, under the next number that is free, so that nothing is written over.

use std::path::{Path, PathBuf};

use crate::{Kept, WriteError};

/// Writes files beside a tape, under names that begin as the tape's does.
///
/// ```
/// use tidy_lever_files::Companions;
///
/// let folder = std::env::temp_dir().join(format!("companions-{}", std::process::id()));
/// std::fs::create_dir_all(&folder)?;
/// let mut beside = Companions::of(&folder.join("round.jsonl"));
/// assert_eq!(beside.write("profile", b"tidy-lever = 1\n")?, "round-profile1.toml");
/// assert_eq!(beside.write("profile", b"tidy-lever = 1\n")?, "round-profile2.toml");
/// std::fs::remove_dir_all(&folder)?;
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct Companions {
    tape: PathBuf,
    count: u32,
}

impl Companions {
    /// Beside this tape.
    pub fn of(tape: &Path) -> Companions {
        Companions { tape: tape.to_owned(), count: 0 }
    }

    /// Writes one more file of a sort (`profile`, `remap`) and returns the name by which the tape refers to it. A file that
    /// exists is never replaced: its number is passed over.
    ///
    /// # Errors
    /// A [`WriteError`] that names the file.
    pub fn write(&mut self, sort: &str, bytes: &[u8]) -> Result<String, WriteError> {
        let stem = self.tape.file_stem().unwrap_or_default().to_string_lossy();
        loop {
            self.count += 1;
            let name = format!("{stem}-{sort}{}.toml", self.count);
            let path = self.tape.with_file_name(&name);
            let kept = Kept::lock(&path)?;
            if path.symlink_metadata().is_err() {
                kept.write(bytes)?;
                return Ok(name);
            }
        }
    }
}
