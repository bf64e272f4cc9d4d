//! The lock of a folder: taken once by a thread, however many of the folder's files it keeps, and never waited for without end.

use std::cell::RefCell;
use std::fs::{File, TryLockError};
use std::path::{Path, PathBuf};
use std::rc::{Rc, Weak};
use std::time::{Duration, Instant};

/// A locked folder is looked at again this often.
const LOOK: Duration = Duration::from_millis(5);

/// A folder that is locked until this is dropped.
#[derive(Debug)]
pub(crate) struct Lock(#[expect(dead_code, reason = "the lock lasts as long as the open folder")] File);

/// Somebody else kept the folder locked until the deadline.
#[derive(Debug)]
pub(crate) struct Busy;

thread_local! {
    /// What this thread has locked. A second descriptor of the same folder would wait for the first one for ever.
    static HELD: RefCell<Vec<(PathBuf, Weak<Lock>)>> = const { RefCell::new(Vec::new()) };
}

/// Locks a folder, or shares this thread's own lock of it; `None` where the system can't lock folders: there the last one to
/// write wins, whole.
pub(crate) fn folder(path: &Path, deadline: Instant) -> Result<Option<Rc<Lock>>, Busy> {
    let Ok(real) = path.canonicalize() else { return Ok(None) };
    let held = HELD.with_borrow_mut(|held| {
        held.retain(|(_, lock)| lock.strong_count() > 0);
        held.iter().find(|(own, _)| *own == real).and_then(|(_, lock)| lock.upgrade())
    });
    if held.is_some() {
        return Ok(held);
    }
    let Ok(file) = File::open(&real) else { return Ok(None) };
    loop {
        match file.try_lock() {
            Ok(()) => break,
            Err(TryLockError::WouldBlock) if Instant::now() >= deadline => return Err(Busy),
            Err(TryLockError::WouldBlock) => std::thread::sleep(LOOK),
            Err(TryLockError::Error(_)) => return Ok(None),
        }
    }
    let lock = Rc::new(Lock(file));
    HELD.with_borrow_mut(|held| held.push((real, Rc::downgrade(&lock))));
    Ok(Some(lock))
}
