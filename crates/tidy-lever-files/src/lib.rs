//! Files of the command and the examples: written whole or not at all, kept in their mode and kind, changed by one program
//! at a time.
//!
//! ```text
//!   lock ──▶ read ──▶ change ──▶ write: a nameless file beside it ──▶ its name
//! ```
//!
//! - A file keeps its permissions; a new one gets those that the umask leaves.
//! - A symbolic link is followed: what it points to is written, and it stays a link.
//! - A read-only file is refused. A device or a pipe is written to, and never replaced.
//! - A file that a command reads is never one that it writes, and one that exists is replaced only where that was asked for.
//! - While a program is killed in the middle, the file is as it was, and nothing is left beside it.

mod beside;
mod companions;
mod kept;
mod lock;
mod outputs;

pub use beside::{NotBeside, beside, text_beside};
pub use companions::Companions;
pub use kept::{Kept, WriteError};
pub use outputs::Outputs;

/// Writes a file whole, or leaves it as it was.
///
/// # Errors
/// A [`WriteError`] that names the file.
pub fn write(path: &std::path::Path, bytes: &[u8]) -> Result<(), WriteError> {
    Kept::lock(path)?.write(bytes)
}
