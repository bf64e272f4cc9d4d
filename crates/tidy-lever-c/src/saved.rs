//! Seats saved and restored: in memory for rollback, as bytes for files and networks.

use crate::border::{guarded, list, write_all};
use crate::seat::Seat;

/// The state of a seat, for rollback.
#[derive(Debug)]
pub struct Saved {
    saved: tidy_lever::seat::Saved,
}

/// Saves a seat into a place of its own; null of null.
///
/// # Safety
/// `seat` is null or whole.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_saved_new(seat: *const Seat) -> *mut Saved {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_ref() };
    let saved = guarded(None, || seat.map(|seat| Saved { saved: seat.seat.saved(&[]) }));
    saved.map_or(std::ptr::null_mut(), |saved| Box::into_raw(Box::new(saved)))
}

/// Frees it.
///
/// # Safety
/// Null, or from `tl_saved_new` and not freed yet.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_saved_free(saved: *mut Saved) {
    if !saved.is_null() {
        // SAFETY: as this function asks for.
        drop(unsafe { Box::from_raw(saved) });
    }
}

/// Saves a seat into a place that is there, without allocating.
///
/// # Safety
/// Both are null or whole.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_save_into(seat: *const Seat, saved: *mut Saved) -> bool {
    // SAFETY: as this function asks for.
    let (seat, saved) = unsafe { (seat.as_ref(), saved.as_mut()) };
    guarded(false, || {
        let (Some(seat), Some(saved)) = (seat, saved) else { return false };
        seat.seat.save_into(&mut saved.saved, &[]);
        true
    })
}

/// Puts a seat back to what was saved of it, or of another on the same linkage. `false`, and nothing changes, if it was saved on
/// another profile, or with another player's file. Bookmarks of a future that is rolled back begin anew.
///
/// # Safety
/// Both are null or whole.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_restore(seat: *mut Seat, saved: *const Saved) -> bool {
    // SAFETY: as this function asks for.
    let (seat, saved) = unsafe { (seat.as_mut(), saved.as_ref()) };
    guarded(false, || {
        let (Some(seat), Some(saved)) = (seat, saved) else { return false };
        seat.seat.restore(&saved.saved, &mut []).is_ok()
    })
}

/// Writes a seat's state as bytes, as many as fit; how many there are. They are the same on every machine.
///
/// # Safety
/// `seat` is null or whole; `to` is null or has room for `room` bytes.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_save_bytes(seat: *const Seat, to: *mut u8, room: usize) -> usize {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_ref() };
    let bytes = guarded(Vec::new(), || seat.map_or(Vec::new(), |seat| seat.seat.saved(&[]).to_bytes()));
    // SAFETY: as this function asks for.
    unsafe { write_all(bytes.into_iter(), to, room) }
}

/// Puts a seat back to what bytes say. `false`, and nothing changes, if they were cut or changed, or are of another linkage.
///
/// # Safety
/// `seat` is null or whole; `bytes` is null or has `length` of them.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_restore_bytes(seat: *mut Seat, bytes: *const u8, length: usize) -> bool {
    // SAFETY: as this function asks for.
    let (seat, bytes) = unsafe { (seat.as_mut(), list(bytes, length)) };
    guarded(false, || {
        let Some(seat) = seat else { return false };
        let saved = tidy_lever::seat::Saved::from_bytes(seat.seat.linkage(), bytes);
        saved.is_ok_and(|saved| seat.seat.restore(&saved, &mut []).is_ok())
    })
}
