//! Seats saved and restored: in memory for rollback, as bytes for files and networks.

use crate::border::{each_once, guarded, list, write_all};
use crate::reading::Bookmark;
use crate::seat::Seat;

/// The state of a seat, for rollback.
#[derive(Debug)]
pub struct Saved {
    saved: tidy_lever::seat::Saved,
}

/// Saves a seat, and readers' bookmarks with it. Null if `seat` or a bookmark is null, a bookmark is given twice, or there is not
/// enough memory.
///
/// # Safety
/// `seat` is null or valid; `bookmarks` is null or has `count` of them, each null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_saved_new(seat: *const Seat, bookmarks: *const *mut Bookmark, count: usize) -> *mut Saved {
    // SAFETY: as this function asks for.
    let (seat, bookmarks) = unsafe { (seat.as_ref(), each_once(bookmarks, count)) };
    let saved = guarded(None, || {
        let (seat, bookmarks) = (seat.filter(|seat| seat.seat.can_copy())?, bookmarks?);
        Some(Saved { saved: seat.seat.saved(&places(&bookmarks)) })
    });
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

/// Saves a seat and as many bookmarks again into what was saved before.
///
/// # Safety
/// `seat` and `saved` are null or valid; `bookmarks` is null or has `count` of them, each null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_save_into(
    seat: *const Seat,
    saved: *mut Saved,
    bookmarks: *const *mut Bookmark,
    count: usize,
) -> bool {
    // SAFETY: as this function asks for.
    let (seat, saved, bookmarks) = unsafe { (seat.as_ref(), saved.as_mut(), each_once(bookmarks, count)) };
    guarded(false, || {
        let (Some(seat), Some(saved), Some(bookmarks)) = (seat, saved, bookmarks) else { return false };
        seat.seat.save_into(&mut saved.saved, &places(&bookmarks));
        true
    })
}

/// Puts a seat back to what was saved of it, or of another one on the same linkage, with the bookmarks that were saved, in the same
/// order: their readers see again what is played again. Returns `false`, and changes nothing, if it was saved on another profile,
/// with another player's file, or with another number of bookmarks. Bookmarks that are not given start again if their future is
/// rolled back.
///
/// # Safety
/// `seat` and `saved` are null or valid; `bookmarks` is null or has `count` of them, each null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_restore(
    seat: *mut Seat,
    saved: *const Saved,
    bookmarks: *const *mut Bookmark,
    count: usize,
) -> bool {
    // SAFETY: as this function asks for.
    let (seat, saved, bookmarks) = unsafe { (seat.as_mut(), saved.as_ref(), each_once(bookmarks, count)) };
    guarded(false, || {
        let (Some(seat), Some(saved), Some(bookmarks)) = (seat, saved, bookmarks) else { return false };
        restored(seat, &saved.saved, bookmarks)
    })
}

/// Writes the state of a seat and readers' bookmarks as bytes, if all of them fit; returns how many there are. They are the same on
/// every machine. With a `room` of 0 it only counts them, which is cheap.
///
/// # Safety
/// `seat` is null or valid; `bookmarks` is null or has `count` of them, each null or valid; `to` is null or has room for `room` bytes.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_save_bytes(
    seat: *const Seat,
    bookmarks: *const *mut Bookmark,
    count: usize,
    to: *mut u8,
    room: usize,
) -> usize {
    // SAFETY: as this function asks for.
    let (seat, bookmarks) = unsafe { (seat.as_ref(), each_once(bookmarks, count)) };
    let (Some(seat), Some(bookmarks)) = (seat, bookmarks) else { return 0 };
    let length = guarded(0, || seat.seat.bytes_len(&places(&bookmarks)));
    if to.is_null() || room < length {
        return length;
    }
    let bytes = guarded(Vec::new(), || seat.seat.to_bytes(&places(&bookmarks)));
    // SAFETY: as this function asks for.
    unsafe { write_all(bytes.into_iter(), to, room) }
}

/// Puts a seat back to what bytes say, with as many bookmarks as were written, in the same order. Returns `false`, and changes
/// nothing, if the bytes were cut or changed, are of another linkage, or have another number of bookmarks.
///
/// # Safety
/// `seat` is null or valid; `bytes` is null or has `length` of them; `bookmarks` is null or has `count` of them, each null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_restore_bytes(
    seat: *mut Seat,
    bytes: *const u8,
    length: usize,
    bookmarks: *const *mut Bookmark,
    count: usize,
) -> bool {
    // SAFETY: as this function asks for.
    let (seat, bytes, bookmarks) = unsafe { (seat.as_mut(), list(bytes, length), each_once(bookmarks, count)) };
    guarded(false, || {
        let (Some(seat), Some(bookmarks)) = (seat, bookmarks) else { return false };
        let saved = tidy_lever::seat::Saved::from_bytes(seat.seat.linkage(), bytes);
        saved.is_ok_and(|saved| restored(seat, &saved, bookmarks))
    })
}

/// Both places of each bookmark.
fn places<'b>(bookmarks: &'b [&mut Bookmark]) -> Vec<&'b tidy_lever::Bookmark> {
    bookmarks.iter().flat_map(|bookmark| bookmark.places()).collect()
}

fn restored(seat: &mut Seat, saved: &tidy_lever::seat::Saved, bookmarks: Vec<&mut Bookmark>) -> bool {
    let mut places: Vec<_> = bookmarks.into_iter().flat_map(Bookmark::places_mut).collect();
    seat.seat.restore(saved, &mut places).is_ok()
}
