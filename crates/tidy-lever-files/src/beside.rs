//! Files that another file names: only those in its own folder.

use std::fs::File;
use std::io::Read as _;
use std::path::{Component, Path, PathBuf};

/// The largest file that is read for another one, in bytes.
const LARGEST: u64 = 16 << 20;

/// Why a named file is not read.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum NotBeside {
    /// The name is a path that leads elsewhere, or `-`.
    #[error("it must be the name of a file in the same folder, without `..` and not from `/` on")]
    Elsewhere,
    /// There is no such file.
    #[error("there is no such file in the same folder")]
    Missing,
    /// It is a folder, a device or a pipe.
    #[error("it is not a regular file")]
    NoFile,
    /// It is a link that leads out of the folder.
    #[error("it is a link that leads out of the folder")]
    LeadsOut,
    /// It is not text, or reading it is not allowed.
    #[error("it can't be read")]
    Unreadable,
    /// It is larger than 16 MiB.
    #[error("it is larger than 16 MiB")]
    TooLarge,
}

/// The path of a regular file in a folder, by the name that another file there gives.
///
/// ```
/// use std::path::Path;
/// use tidy_lever_files::{NotBeside, beside};
///
/// assert_eq!(beside(Path::new("."), "../secret.toml"), Err(NotBeside::Elsewhere));
/// assert_eq!(beside(Path::new("."), "/etc/hostname"), Err(NotBeside::Elsewhere));
/// assert_eq!(beside(Path::new("."), "-"), Err(NotBeside::Elsewhere));
/// ```
///
/// # Errors
/// [`NotBeside`] says why it isn't read.
pub fn beside(folder: &Path, name: &str) -> Result<PathBuf, NotBeside> {
    let name = Path::new(name);
    let is_plain = name.components().all(|part| matches!(part, Component::Normal(_)));
    if !is_plain || name.as_os_str().is_empty() || name == Path::new("-") {
        return Err(NotBeside::Elsewhere);
    }
    let folder = if folder.as_os_str().is_empty() { Path::new(".") } else { folder };
    let path = folder.join(name);
    let (Ok(real), Ok(within)) = (path.canonicalize(), folder.canonicalize()) else { return Err(NotBeside::Missing) };
    if !real.starts_with(&within) {
        return Err(NotBeside::LeadsOut);
    }
    if real.is_file() { Ok(real) } else { Err(NotBeside::NoFile) }
}

/// The text of a file in a folder, by the name that another file there gives.
///
/// # Errors
/// [`NotBeside`] says why it isn't read.
pub fn text_beside(folder: &Path, name: &str) -> Result<String, NotBeside> {
    let mut text = String::new();
    let file = File::open(beside(folder, name)?).map_err(|_| NotBeside::Unreadable)?;
    file.take(LARGEST + 1).read_to_string(&mut text).map_err(|_| NotBeside::Unreadable)?;
    if text.len() as u64 > LARGEST { Err(NotBeside::TooLarge) } else { Ok(text) }
}
