//! One player's live state: made, played, relinked.

use std::time::Duration;

use tidy_lever::Moment;
use tidy_lever::adapter::GapWatch;

use crate::border::{each_once, guarded};
use crate::linkage::Linkage;
use crate::reading::Bookmark;
use crate::words::Family;

/// One player's live state.
#[derive(Debug)]
pub struct Seat {
    pub(crate) seat: tidy_lever::Seat,
    gaps: GapWatch,
}

/// A loop that runs less often than this was interrupted.
const LONGEST_PASS: Duration = Duration::from_millis(250);

/// How much a seat has room for.
#[repr(C)]
#[derive(Clone, Copy, Debug, Default)]
pub struct Room {
    /// Events and tellings that wait; 0 is the default, 1,024.
    pub waiting: u32,
    /// Happenings that are kept; 0 is the default, 256.
    pub history: u32,
    /// Devices at once; 0 is the default, 8.
    pub devices: u32,
}

/// What was counted since the seat was made.
#[repr(C)]
#[derive(Clone, Copy, Debug, Default)]
pub struct Stats {
    /// Fed or told for a moment already played.
    pub late: u64,
    /// Refused: not a finite number, or the wrong sort of level.
    pub refused: u64,
    /// Cut to the range of its control.
    pub clamped: u64,
    /// Of a control that no action hears.
    pub unheard: u64,
    /// No change when it was played.
    pub repeats: u64,
    /// Handed back because something was full.
    pub handed_back: u64,
    /// Mouse moves that were added to the next one because the queue was full.
    pub merged: u64,
    /// Moved on because it was its control's second change in one moment.
    pub moved_on: u64,
    /// Calls of `tl_advance` into the past.
    pub rewinds: u64,
    /// Tellings with a handle that names nothing in this seat's profile.
    pub foreign: u64,
}

/// A moment of C's.
pub(crate) fn moment(at: u64) -> Moment {
    Moment::from_micros(at.min(Moment::LATEST.as_micros()))
}

fn boxed(seat: Option<tidy_lever::Seat>) -> *mut Seat {
    seat.map_or(std::ptr::null_mut(), |seat| Box::into_raw(Box::new(Seat { seat, gaps: GapWatch::new(LONGEST_PASS) })))
}

/// A seat that begins at a moment, at rest. Null if `linkage` is null.
///
/// # Safety
/// `linkage` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_seat_new(linkage: *const Linkage, at: u64) -> *mut Seat {
    // SAFETY: as this function asks for.
    let linkage = unsafe { linkage.as_ref() };
    boxed(guarded(None, || linkage.map(|linkage| linkage.linkage.seat(moment(at)))))
}

/// A seat with another room. Null if `linkage` is null, the room is more than a seat can have (16,777,216 events and happenings,
/// 64 devices), or there is not enough memory for it.
///
/// # Safety
/// `linkage` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_seat_new_with(linkage: *const Linkage, at: u64, room: Room) -> *mut Seat {
    // SAFETY: as this function asks for.
    let linkage = unsafe { linkage.as_ref() };
    boxed(guarded(None, || {
        let mut own = tidy_lever::seat::Capacity::default();
        let given = |number: u32| Some(number as usize).filter(|number| *number > 0);
        if let Some(waiting) = given(room.waiting) {
            own = own.waiting(waiting);
        }
        if let Some(history) = given(room.history) {
            own = own.history(history);
        }
        if let Some(devices) = given(room.devices) {
            own = own.devices(devices);
        }
        linkage?.linkage.seat_with(moment(at), own).ok()
    }))
}

/// A copy, as it is now. Null if `seat` is null, or there is not enough memory.
///
/// # Safety
/// `seat` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_seat_clone(seat: *const Seat) -> *mut Seat {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_ref() };
    boxed(guarded(None, || seat.filter(|seat| seat.seat.can_copy()).map(|seat| seat.seat.clone())))
}

/// Frees a seat.
///
/// # Safety
/// Null, or yours and not freed yet.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_seat_free(seat: *mut Seat) {
    if !seat.is_null() {
        // SAFETY: as this function asks for.
        drop(unsafe { Box::from_raw(seat) });
    }
}

/// Plays everything up to and including a moment.
///
/// # Safety
/// `seat` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_advance(seat: *mut Seat, to: u64) {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_mut() };
    guarded((), || seat.into_iter().for_each(|seat| seat.seat.advance(moment(to))));
}

/// Passes a gap that the game did not play (a breakpoint, a sleep): what lies in it is taken over as it ends up, and nothing
/// pulls.
///
/// # Safety
/// `seat` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_skip(seat: *mut Seat, to: u64) {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_mut() };
    guarded((), || seat.into_iter().for_each(|seat| seat.seat.skip(moment(to))));
}

/// Call this once per pass of the game's loop, with the time now, after what arrived was fed and before `tl_advance`. If the last
/// call was more than 250 ms ago, the loop was interrupted (a breakpoint, a window that was dragged, a machine that slept): the seat
/// skips up to `now`, as with `tl_skip`, so that keys which arrived together meanwhile are not taken for a double tap. Returns the
/// length of the gap in microseconds, 0 if there was none.
///
/// # Safety
/// `seat` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_gap(seat: *mut Seat, now: u64) -> u64 {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_mut() };
    guarded(0, || {
        let Some(seat) = seat else { return 0 };
        let Some(gap) = seat.gaps.pass(moment(now)) else { return 0 };
        seat.seat.skip(gap.to);
        (gap.to - gap.from).as_micros() as u64
    })
}

/// The last moment that was played.
///
/// # Safety
/// `seat` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_played(seat: *const Seat) -> u64 {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_ref() };
    seat.map_or(0, |seat| seat.seat.played().as_micros())
}

/// Goes over to another linkage, by names: a changed profile, or another player's file. What is held stays held. `bookmarks` are
/// readers' bookmarks that go over with the seat; others start again. Returns whether it did; `false` if a pointer is null, or a
/// bookmark is given twice.
///
/// # Safety
/// `seat` and `linkage` are null or valid; `bookmarks` is null or has `count` of them, each null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_relink(
    seat: *mut Seat,
    linkage: *const Linkage,
    bookmarks: *const *mut Bookmark,
    count: usize,
) -> bool {
    // SAFETY: as this function asks for.
    let (seat, linkage, bookmarks) = unsafe { (seat.as_mut(), linkage.as_ref(), each_once(bookmarks, count)) };
    guarded(false, || {
        let (Some(seat), Some(linkage), Some(bookmarks)) = (seat, linkage, bookmarks) else { return false };
        let mut places: Vec<_> = bookmarks.into_iter().flat_map(Bookmark::places_mut).collect();
        seat.seat.relink(&linkage.linkage, &mut places);
        true
    })
}

/// A hash of everything that decides what happens next: equal states have equal hashes, on every machine.
///
/// # Safety
/// `seat` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_state_hash(seat: *const Seat) -> u64 {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_ref() };
    guarded(0, || seat.map_or(0, |seat| seat.seat.state_hash()))
}

/// The `tl_family` that was used last.
///
/// # Safety
/// `seat` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_seat_family(seat: *const Seat) -> u8 {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_ref() };
    Family::from(seat.and_then(|seat| seat.seat.family())) as u8
}

/// What was counted.
///
/// # Safety
/// `seat` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_stats(seat: *const Seat) -> Stats {
    // SAFETY: as this function asks for.
    let Some(seat) = (unsafe { seat.as_ref() }) else { return Stats::default() };
    let own = seat.seat.stats();
    Stats {
        late: own.late,
        refused: own.refused,
        clamped: own.clamped,
        unheard: own.unheard,
        repeats: own.repeats,
        handed_back: own.handed_back,
        merged: own.merged,
        moved_on: own.moved_on,
        rewinds: own.rewinds,
        foreign: own.foreign,
    }
}
