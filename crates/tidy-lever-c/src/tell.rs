//! What the game tells a seat.

use std::ffi::c_char;

use tidy_lever::handle::Handle as _;
use tidy_lever::seat::{TellError, Told as Value};
use tidy_lever::{Axis, Button, Fact, Gauge, Mode, Moment, Pointer, Stick, Sweep};

use crate::border::{guarded, text};
use crate::seat::{Seat, moment};
use crate::words::Told;

/// For `at`: the last played moment plus 1 microsecond, before the events that follow.
pub const TL_NOW: u64 = u64::MAX;

/// Tells a seat something at a moment, or now.
fn told(
    seat: Option<&mut Seat>,
    at: u64,
    now: impl FnOnce(&mut tidy_lever::Seat) -> Option<Result<(), TellError>>,
    later: impl FnOnce(&mut tidy_lever::Seat, Moment) -> Option<Result<(), TellError>>,
) -> u8 {
    let told = guarded(None, || {
        let seat = &mut seat?.seat;
        if at == TL_NOW { now(seat) } else { later(seat, moment(at)) }
    });
    told.map_or(Told::NoSuch, Told::from) as u8
}

/// Sets a fact that is true or false, at a moment or `TL_NOW`. A `tl_told`.
///
/// # Safety
/// `seat` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_tell(seat: *mut Seat, fact: u64, value: bool, at: u64) -> u8 {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_mut() };
    let fact = Fact::from_bits(fact);
    told(seat, at, |seat| Some(seat.tell(fact?, value)), |seat, at| Some(seat.tell_at(fact?, value, at)))
}

/// Sets a fact that is one of some words.
///
/// # Safety
/// `seat` is null or valid; `word` is null or has its length.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_tell_word(seat: *mut Seat, fact: u64, word: *const c_char, length: usize, at: u64) -> u8 {
    // SAFETY: as this function asks for.
    let (seat, word) = unsafe { (seat.as_mut(), text(word, length)) };
    let (fact, value) = (Fact::from_bits(fact), word.map(Value::Word));
    told(seat, at, |seat| Some(seat.tell(fact?, value?)), |seat, at| Some(seat.tell_at(fact?, value?, at)))
}

/// Switches a mode.
///
/// # Safety
/// `seat` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_set_mode(seat: *mut Seat, mode: u64, on: bool, at: u64) -> u8 {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_mut() };
    let mode = Mode::from_bits(mode);
    told(seat, at, |seat| Some(seat.set_mode(mode?, on)), |seat, at| Some(seat.set_mode_at(mode?, on, at)))
}

/// Sets a toggle to what the game knows; nothing pulls.
///
/// # Safety
/// `seat` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_set(seat: *mut Seat, toggle: u64, on: bool, at: u64) -> u8 {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_mut() };
    let toggle = Button::from_bits(toggle);
    told(seat, at, |seat| Some(seat.set(toggle?, on)), |seat, at| Some(seat.set_at(toggle?, on, at)))
}

/// Undoes the bookkeeping of an action's last pull, which the game refused.
///
/// # Safety
/// `seat` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_give_back(seat: *mut Seat, action: u64, at: u64) -> u8 {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_mut() };
    let given = |seat: &mut tidy_lever::Seat, at: Option<Moment>| {
        macro_rules! of {
            ($($kind:ty),*) => {$(
                if let Some(handle) = <$kind>::from_bits(action) {
                    return Some(match at {
                        None => seat.give_back(handle),
                        Some(at) => seat.give_back_at(handle, at),
                    });
                }
            )*};
        }
        of!(Button, Axis, Stick, Sweep, Pointer, Gauge);
        None
    };
    // Either now or later, never both.
    told(seat, at, |seat| given(seat, None), |seat, at| given(seat, Some(at)))
}

/// The game's window has the focus, or lost it: what was held goes up, and nothing pulls.
///
/// # Safety
/// `seat` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_focus(seat: *mut Seat, focused: bool, at: u64) -> u8 {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_mut() };
    told(seat, at, |seat| Some(seat.focus(focused)), |seat, at| Some(seat.focus_at(focused, at)))
}

/// Tells the view's size in pixels, for pointers and the touch panel.
///
/// # Safety
/// `seat` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_set_view(seat: *mut Seat, width: u32, height: u32, at: u64) -> u8 {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_mut() };
    told(seat, at, |seat| Some(seat.set_view(width, height)), |seat, at| Some(seat.set_view_at(width, height, at)))
}

/// Shows the touch panel, or hides it.
///
/// # Safety
/// `seat` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_show_panel(seat: *mut Seat, shown: bool, at: u64) -> u8 {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_mut() };
    told(seat, at, |seat| Some(seat.show_panel(shown)), |seat, at| Some(seat.show_panel_at(shown, at)))
}
