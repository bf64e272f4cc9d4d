//! One file that is read and written while no other program changes it.

use std::fs::{Metadata, OpenOptions};
use std::io::{self, Write};
use std::path::{Path, PathBuf};
use std::rc::Rc;
use std::time::{Duration, Instant};

use crate::lock::{self, Lock};

/// How long a program waits for a folder that another one has locked.
const PATIENCE: Duration = Duration::from_secs(5);

/// Why a file was not written. It is as it was.
#[derive(Debug, thiserror::Error)]
#[error("{path} {problem}")]
pub struct WriteError {
    path: String,
    problem: String,
}

impl WriteError {
    /// Temporary names are nobody's business: of the system's error only its own words are told.
    pub(crate) fn new(path: &Path, error: &io::Error) -> WriteError {
        let plain = match error.raw_os_error() {
            Some(code) => io::Error::from_raw_os_error(code),
            None => io::Error::from(error.kind()),
        };
        WriteError { path: path.display().to_string(), problem: format!("can't be written: {plain}") }
    }

    pub(crate) fn because(path: &Path, problem: &str) -> WriteError {
        WriteError { path: path.display().to_string(), problem: problem.to_owned() }
    }
}

/// A file that is changed by nobody else until this is dropped: the folder is locked for all who ask for the lock. A thread that
/// has a folder locked already can keep more files of it.
#[derive(Debug)]
pub struct Kept {
    /// As it was named, for messages; and what is really written.
    path: PathBuf,
    target: PathBuf,
    /// How it stands, if it is there.
    found: Option<Metadata>,
    _lock: Option<Rc<Lock>>,
}

/// The file that a path leads to, over links that lead to no file yet.
pub(crate) fn followed(path: &Path) -> PathBuf {
    let mut path = path.to_owned();
    for _ in 0..40 {
        let Ok(to) = path.read_link() else { break };
        path = path.parent().unwrap_or(Path::new("")).join(to);
    }
    path
}

fn folder_of(path: &Path) -> &Path {
    path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."))
}

impl Kept {
    /// Waits until no other program has the file, at most five seconds, and keeps it.
    ///
    /// # Errors
    /// A [`WriteError`] if it is a folder, or read-only, or if another program keeps its folder locked.
    pub fn lock(path: &Path) -> Result<Kept, WriteError> {
        Kept::lock_within(path, PATIENCE)
    }

    /// As [`lock`](Kept::lock), waiting at most this long.
    ///
    /// # Errors
    /// As of [`lock`](Kept::lock).
    pub fn lock_within(path: &Path, patience: Duration) -> Result<Kept, WriteError> {
        let found = path.metadata().ok();
        let is_special = found.as_ref().is_some_and(|found| !found.is_file());
        if path.is_dir() {
            return Err(WriteError::because(path, "is a folder; name a file in it"));
        }
        if !folder_of(&followed(path)).is_dir() {
            return Err(WriteError::because(path, "can't be written: there is no such folder; make it first"));
        }
        // Devices and pipes are written to by their own name.
        let target = if is_special { path.to_owned() } else { followed(path) };
        let deadline = Instant::now() + patience;
        let lock = match is_special {
            true => None,
            false => lock::folder(folder_of(&target), deadline).map_err(|lock::Busy| {
                let folder = folder_of(&target).display();
                let problem = format!(
                    "was left as it is: another program has kept the folder {folder} locked for {:.1} s; close it and try again",
                    patience.as_secs_f64()
                );
                WriteError::because(path, &problem)
            })?,
        };
        // Looked at again, now that nobody else writes.
        let found = target.metadata().ok();
        if let Some(found) = found.as_ref().filter(|found| found.is_file()) {
            let refused = OpenOptions::new().write(true).open(&target).err();
            if found.permissions().readonly() || refused.is_some_and(|e| e.kind() == io::ErrorKind::PermissionDenied) {
                return Err(WriteError::because(path, "is read-only and was left as it is; make it writable first"));
            }
        }
        Ok(Kept { path: path.to_owned(), target, found, _lock: lock })
    }

    /// Whether there is such a file.
    pub fn exists(&self) -> bool {
        self.found.is_some()
    }

    /// Writes it whole, or leaves it as it was.
    ///
    /// # Errors
    /// A [`WriteError`] that names the file.
    pub fn write(&self, bytes: &[u8]) -> Result<(), WriteError> {
        let failed = |error: io::Error| WriteError::new(&self.path, &error);
        match &self.found {
            Some(found) if !found.is_file() => OpenOptions::new()
                .write(true)
                .open(&self.target)
                .and_then(|mut file| file.write_all(bytes))
                .map_err(failed),
            found => put(&self.target, bytes, found.as_ref()).map_err(failed),
        }
    }
}

/// Puts a file of these bytes in the place of the one that was found there, with its permissions.
fn put(target: &Path, bytes: &[u8], found: Option<&Metadata>) -> io::Result<()> {
    #[cfg(target_os = "linux")]
    match linux::put(target, bytes, found) {
        // Not every file system has files without a name.
        Err(error) if error.kind() == io::ErrorKind::Unsupported || error.raw_os_error() == Some(linux::NOT_HERE) => {}
        other => return other,
    }
    let mut builder = tempfile::Builder::new();
    #[cfg(unix)]
    let builder = builder.permissions(std::os::unix::fs::PermissionsExt::from_mode(0o666));
    let mut file = builder.tempfile_in(folder_of(target))?;
    file.write_all(bytes)?;
    if let Some(found) = found {
        file.as_file().set_permissions(found.permissions())?;
    }
    file.as_file().sync_data()?;
    file.persist(target).map_err(|error| error.error)?;
    Ok(())
}

#[cfg(target_os = "linux")]
mod linux {
    //! A file without a name, which vanishes with the program; its name comes last.

    use std::fs::{File, Metadata};
    use std::io::{self, Write};
    use std::os::fd::AsRawFd;
    use std::os::unix::fs::{MetadataExt, PermissionsExt, fchown};
    use std::path::Path;

    use rustix::fs::{AtFlags, CWD, Mode, OFlags};

    /// What a file system without nameless files says: `EISDIR`, as it takes the folder for the file.
    pub(super) const NOT_HERE: i32 = rustix::io::Errno::ISDIR.raw_os_error();

    pub(super) fn put(target: &Path, bytes: &[u8], found: Option<&Metadata>) -> io::Result<()> {
        let folder = super::folder_of(target);
        let flags = OFlags::TMPFILE | OFlags::WRONLY | OFlags::CLOEXEC;
        // The umask takes off what a new file shall not allow.
        let mut file = File::from(rustix::fs::open(folder, flags, Mode::from_raw_mode(0o666))?);
        file.write_all(bytes)?;
        if let Some(found) = found {
            file.set_permissions(PermissionsExt::from_mode(found.mode() & 0o7777))?;
            let own = file.metadata()?;
            if (own.uid(), own.gid()) != (found.uid(), found.gid()) {
                // Only who may gives files away; the mode is kept in any case.
                let _ = fchown(&file, Some(found.uid()), Some(found.gid()));
            }
        }
        file.sync_data()?;
        let name = target.file_name().unwrap_or_default().to_string_lossy();
        let passing = folder.join(format!(".{name}.tidy-lever-new"));
        // One of a program that was killed at the very last moment; the lock is ours.
        let _ = std::fs::remove_file(&passing);
        let own = format!("/proc/self/fd/{}", file.as_raw_fd());
        rustix::fs::linkat(CWD, own, CWD, &passing, AtFlags::SYMLINK_FOLLOW)?;
        std::fs::rename(&passing, target).inspect_err(|_| drop(std::fs::remove_file(&passing)))
    }
}
