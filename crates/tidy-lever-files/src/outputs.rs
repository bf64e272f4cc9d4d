//! Files that a program is about to write: never one that it reads, and never one that exists unless replacing was asked for.

use std::fs::{File, OpenOptions};
use std::io;
use std::path::{Path, PathBuf};

use crate::kept::followed;
use crate::{Kept, WriteError};

/// What a program reads and what it is about to write, checked before any of it is opened for writing.
///
/// ```
/// use tidy_lever_files::Outputs;
///
/// let folder = std::env::temp_dir().join(format!("outputs-{}", std::process::id()));
/// std::fs::create_dir_all(&folder)?;
/// let (profile, tape) = (folder.join("quay.toml"), folder.join("round.jsonl"));
/// std::fs::write(&profile, "tidy-lever = 1\n")?;
/// std::fs::write(&tape, "")?;
///
/// let mut outputs = Outputs::new([profile.as_path()]);
/// let message = outputs.claim(&profile).unwrap_err().to_string();
/// assert!(message.ends_with("quay.toml is read by this command and was left as it is; choose another name"));
/// let message = outputs.claim(&tape).unwrap_err().to_string();
/// assert!(message.ends_with("round-2.jsonl is free, or add --replace to replace it"));
/// outputs.claim(&folder.join("round-2.jsonl"))?;
/// outputs.replacing(true).claim(&tape)?;
/// std::fs::remove_dir_all(&folder)?;
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Default)]
pub struct Outputs {
    inputs: Vec<PathBuf>,
    claimed: Vec<PathBuf>,
    replaces: bool,
}

impl Outputs {
    /// For a program that reads these files. Paths that lead to no file, such as `-`, are ignored.
    pub fn new<'p>(inputs: impl IntoIterator<Item = &'p Path>) -> Outputs {
        Outputs { inputs: inputs.into_iter().map(Path::to_owned).collect(), ..Outputs::default() }
    }

    /// Whether a file that exists may be replaced; off by default. One that the program reads never is.
    #[must_use]
    pub fn replacing(mut self, replaces: bool) -> Outputs {
        self.replaces = replaces;
        self
    }

    /// Checks a file that is about to be written, and remembers it: it can be claimed once. Devices and pipes can always be
    /// written to. Files are compared by identity, so links and `./` make no difference.
    ///
    /// # Errors
    /// A [`WriteError`] if the program reads this file, writes it already, or the file exists and must not be replaced. The
    /// last one names a file name that is free.
    pub fn claim(&mut self, path: &Path) -> Result<(), WriteError> {
        let target = followed(path);
        let refused = |problem: &str| Err(WriteError::because(path, problem));
        if self.inputs.iter().any(|input| is_same(input, &target)) {
            return refused("is read by this command and was left as it is; choose another name");
        }
        if self.claimed.iter().any(|claimed| is_same(claimed, &target)) {
            return refused("is named twice; give each output a name of its own");
        }
        if target.is_file() && !self.replaces {
            let free = free_beside(path);
            return refused(&format!(
                "exists already and was left as it is; {} is free, or add --replace to replace it",
                free.display()
            ));
        }
        self.claimed.push(target);
        Ok(())
    }

    /// Claims a file and opens it empty, for output that is written as it comes.
    ///
    /// # Errors
    /// A [`WriteError`], as of [`claim`](Outputs::claim), or if the file can't be opened.
    pub fn create(&mut self, path: &Path) -> Result<File, WriteError> {
        self.claim(path)?;
        let mut options = OpenOptions::new();
        options.write(true);
        // One that another program made since is not lost either.
        let is_new = !self.replaces && !followed(path).exists();
        if is_new {
            options.create_new(true)
        } else {
            options.create(true).truncate(true)
        };
        let target = if is_new { followed(path) } else { path.to_owned() };
        options.open(target).map_err(|error| WriteError::new(path, &error))
    }

    /// Writes a file that was claimed: whole or not at all.
    ///
    /// # Errors
    /// A [`WriteError`] that names the file.
    pub fn write(&self, path: &Path, bytes: &[u8]) -> Result<(), WriteError> {
        let kept = Kept::lock(path)?;
        if followed(path).is_file() && !self.replaces {
            return Err(WriteError::because(path, "exists by now and was left as it is; choose another name"));
        }
        kept.write(bytes)
    }
}

/// Whether two paths lead to the same regular file; for one that does not exist yet, whether they are the same path.
fn is_same(one: &Path, other: &Path) -> bool {
    let same = match (one.exists(), other.exists()) {
        (true, true) => same_file::is_same_file(one, other),
        (false, false) => absolute(one).and_then(|one| Ok(one == absolute(other)?)),
        _ => Ok(false),
    };
    same.unwrap_or(false) && (!one.exists() || one.is_file())
}

/// A path from the root on, through the folders that exist.
fn absolute(path: &Path) -> io::Result<PathBuf> {
    let path = std::path::absolute(path)?;
    let (Some(folder), Some(name)) = (path.parent(), path.file_name()) else { return Ok(path) };
    Ok(folder.canonicalize()?.join(name))
}

/// The first free name beside a file: `round-2.jsonl` for `round.jsonl`, `round-3.jsonl` for `round-2.jsonl`.
fn free_beside(path: &Path) -> PathBuf {
    let stem = path.file_stem().unwrap_or_default().to_string_lossy().into_owned();
    let (stem, from) = match stem.rsplit_once('-').map(|(stem, number)| (stem, number.parse::<u32>())) {
        Some((stem, Ok(number))) if !stem.is_empty() => (stem.to_owned(), number.saturating_add(1)),
        _ => (stem, 2),
    };
    let ending = path.extension().map_or(String::new(), |ending| format!(".{}", ending.to_string_lossy()));
    let named = |number: u32| path.with_file_name(format!("{stem}-{number}{ending}"));
    (from..=u32::MAX).map(named).find(|free| free.symlink_metadata().is_err()).unwrap_or_else(|| path.to_owned())
}
