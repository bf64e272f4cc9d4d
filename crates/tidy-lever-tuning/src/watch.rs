//! Tells when a file was saved.

use std::path::{Path, PathBuf};

use notify::event::{AccessKind, AccessMode};
use notify::{EventKind, RecommendedWatcher, RecursiveMode, Watcher};

/// Why a file can't be watched.
#[derive(Debug, thiserror::Error)]
#[error("{path} can't be watched: {problem}")]
pub struct Unwatched {
    path: String,
    problem: String,
}

/// Watches files until it is dropped.
#[derive(Debug)]
pub struct Watch {
    _watcher: RecommendedWatcher,
}

impl Watch {
    /// Calls back, on a thread of its own, whenever one of these files was saved, made or taken away. Their folders are
    /// watched, as many editors put a new file in the place of the old one; so a file may come later. Read a file a moment
    /// after (40 ms): editors write in several steps.
    ///
    /// # Errors
    /// [`Unwatched`] if a folder isn't there, or the system watches no more.
    pub fn files(files: &[&Path], saved: impl Fn() + Send + 'static) -> Result<Watch, Unwatched> {
        let mut whole: Vec<PathBuf> = Vec::new();
        for file in files {
            let problem = |problem: &dyn std::fmt::Display| Unwatched {
                path: file.display().to_string(),
                problem: problem.to_string(),
            };
            let folder = file.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
            let folder = folder.canonicalize().map_err(|error| problem(&error))?;
            whole.push(folder.join(file.file_name().unwrap_or_default()));
            // A link leads to the file that is really written.
            whole.extend(file.canonicalize());
        }
        whole.dedup();
        let problem = |error: notify::Error| Unwatched {
            path: files.first().map_or(String::new(), |file| file.display().to_string()),
            problem: error.to_string(),
        };
        let mut folders: Vec<PathBuf> = whole.iter().filter_map(|file| file.parent().map(Path::to_owned)).collect();
        folders.sort();
        folders.dedup();
        let mut watcher = notify::recommended_watcher(move |event: notify::Result<notify::Event>| {
            // Reading a file must not count as saving it.
            let written =
                |kind: EventKind| !kind.is_access() || kind == EventKind::Access(AccessKind::Close(AccessMode::Write));
            if event.is_ok_and(|event| written(event.kind) && event.paths.iter().any(|path| whole.contains(path))) {
                saved();
            }
        })
        .map_err(problem)?;
        for folder in folders {
            watcher.watch(&folder, RecursiveMode::NonRecursive).map_err(problem)?;
        }
        Ok(Watch { _watcher: watcher })
    }
}
