//! How the command starts the program that opens the window.

use std::env;
use std::ffi::OsString;
use std::path::PathBuf;
use std::process::Command;

use thiserror::Error;

/// The program's name.
pub const PROGRAM: &str = "tidy-lever-try";

/// The program could not be started.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum Missing {
    /// It lies neither beside the command nor in the folders of `PATH`.
    #[error(
        "the window is a program of its own, `{PROGRAM}`, which is not built here. In the sources this line builds and starts it:\n  \
         cargo run --release -p {PROGRAM} -- {arguments}"
    )]
    NotFound {
        /// What it would have been started with.
        arguments: String,
    },
    /// The system refused to start it.
    #[error("{} can't be started: {source}", .program.display())]
    NotStarted {
        /// Where it lies.
        program: PathBuf,
        /// What the system said.
        source: std::io::Error,
    },
}

/// Starts the program with these arguments, in place of this one: on Unix it becomes that program; elsewhere it waits, and exits
/// with that one's status. So it only returns if that failed.
#[must_use]
pub fn start(arguments: impl Iterator<Item = OsString>) -> Missing {
    let arguments: Vec<OsString> = arguments.collect();
    let Some(program) = found() else {
        let words: Vec<_> = arguments.iter().map(|word| word.to_string_lossy()).collect();
        return Missing::NotFound { arguments: words.join(" ") };
    };
    let mut command = Command::new(&program);
    command.args(&arguments);
    #[cfg(unix)]
    let source = std::os::unix::process::CommandExt::exec(&mut command);
    #[cfg(not(unix))]
    let source = match command.status() {
        Ok(status) => std::process::exit(status.code().unwrap_or(2)),
        Err(error) => error,
    };
    Missing::NotStarted { program, source }
}

/// Where the program lies: beside this one, or where programs are found.
fn found() -> Option<PathBuf> {
    let name = format!("{PROGRAM}{}", env::consts::EXE_SUFFIX);
    let own = env::current_exe().ok();
    let beside = own.iter().filter_map(|own| own.parent()).map(|folder| folder.to_owned());
    let paths = env::var_os("PATH").unwrap_or_default();
    beside.chain(env::split_paths(&paths)).map(|folder| folder.join(&name)).find(|program| program.is_file())
}
