//! What the game tells a seat.

use std::ffi::c_char;

use tidy_lever::handle::{AnyHandle, Handle as _};
use tidy_lever::seat::{ApplyError, FactValue};
use tidy_lever::{Button, Device, Fact, Mode, SeatInput};

use crate::border::{guarded, text};
use crate::seat::{Seat, moment};
use crate::words::Told;

/// For `at`: the last played moment plus 1 microsecond, before the events that follow.
pub const TL_NOW: u64 = u64::MAX;

/// Tells a seat something at a moment, or now; `input` is `None` where a handle or a word names nothing.
fn told(seat: Option<&mut Seat>, at: u64, input: impl FnOnce(&tidy_lever::Seat) -> Option<SeatInput>) -> u8 {
    let told = guarded(None, || {
        let seat = &mut seat?.seat;
        let at = if at == TL_NOW { seat.next_moment() } else { moment(at) };
        Some(match seat.apply(at, input(seat)?) {
            Ok(()) => Told::Taken,
            Err(ApplyError::Tell(why)) => why.into(),
            Err(_) => Told::NoSuch,
        })
    });
    told.unwrap_or(Told::NoSuch) as u8
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
    told(seat, at, |_| Some(SeatInput::Fact { fact: fact?, value: value.into() }))
}

/// Sets a fact that is one of some words.
///
/// # Safety
/// `seat` is null or valid; `word` is null or has its length.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_tell_word(seat: *mut Seat, fact: u64, word: *const c_char, length: usize, at: u64) -> u8 {
    // SAFETY: as this function asks for.
    let (seat, word) = unsafe { (seat.as_mut(), text(word, length)) };
    let fact = Fact::from_bits(fact);
    told(seat, at, |seat| {
        let (fact, word) = (fact?, word?);
        // A word that the fact hasn't got has no number; one past the last is none, either.
        let value = seat.linkage().fact_value(fact, word).unwrap_or(FactValue::Word(u16::MAX));
        Some(SeatInput::Fact { fact, value })
    })
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
    told(seat, at, |_| Some(SeatInput::Mode { mode: mode?, on }))
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
    told(seat, at, |_| Some(SeatInput::Set { toggle: toggle?, on }))
}

/// Undoes the bookkeeping of an action's last pull, which the game refused.
///
/// # Safety
/// `seat` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_give_back(seat: *mut Seat, action: u64, at: u64) -> u8 {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_mut() };
    let action = AnyHandle::from_bits(action);
    told(seat, at, |_| Some(SeatInput::GiveBack { action: action? }))
}

/// The game's window has the focus, or lost it: what was held goes up, and nothing pulls.
///
/// # Safety
/// `seat` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_focus(seat: *mut Seat, focused: bool, at: u64) -> u8 {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_mut() };
    told(seat, at, |_| Some(SeatInput::Focus { focused }))
}

/// Tells what a pad is called: what a player's file sets for pads of that name counts for it.
///
/// # Safety
/// `seat` is null or valid; `name` is null or has its length.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_name_device(
    seat: *mut Seat,
    device: u8,
    name: *const c_char,
    length: usize,
    at: u64,
) -> u8 {
    // SAFETY: as this function asks for.
    let (seat, name) = unsafe { (seat.as_mut(), text(name, length)) };
    told(seat, at, |_| Some(SeatInput::Named { device: Device::new(device.into())?, name: name?.into() }))
}

/// Tells the view's size in pixels, for pointers and the touch panel.
///
/// # Safety
/// `seat` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_set_view(seat: *mut Seat, width: u32, height: u32, at: u64) -> u8 {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_mut() };
    told(seat, at, |_| Some(SeatInput::View { width, height }))
}

/// Shows the touch panel, or hides it.
///
/// # Safety
/// `seat` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_show_panel(seat: *mut Seat, shown: bool, at: u64) -> u8 {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_mut() };
    told(seat, at, |_| Some(SeatInput::Panel { shown }))
}
