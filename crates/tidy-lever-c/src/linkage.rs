//! A compiled profile, and what is looked up in it by name.

use std::ffi::c_char;

use tidy_lever::handle::Handle as _;
use tidy_lever::prompt::Labels;
use tidy_lever::remap::Remap;
use tidy_lever::{Axis, Button, Fact, Gauge, Mode, Pointer, Profile, Stick, Sweep};

use crate::border::{guarded, text, write};
use crate::words::Family;

/// The version of this interface: it grows when a function, a struct or a number of this header changes in a way that programs
/// notice which were compiled before.
pub const TL_ABI: u32 = 2;

/// The `TL_ABI` of the library that is linked or loaded: compare it with the header's own.
#[unsafe(no_mangle)]
pub extern "C" fn tl_abi() -> u32 {
    TL_ABI
}

/// A profile, checked and compiled, with a player's file over it.
#[derive(Debug)]
pub struct Linkage {
    pub(crate) linkage: tidy_lever::Linkage,
    pub(crate) profile: Profile,
}

/// Builds a profile from its text (TOML), with a player's file over it (`remap`; length 0 is none). Null, and all faults with
/// their places in `fault`, if it is none. Else `fault` holds what of the player's file has no effect here, a line each.
///
/// # Safety
/// Each text is null or has its length; `fault` is null or has room for `room` bytes.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_linkage_build(
    profile: *const c_char,
    profile_length: usize,
    remap: *const c_char,
    remap_length: usize,
    fault: *mut c_char,
    room: usize,
) -> *mut Linkage {
    // SAFETY: as this function asks for.
    let (profile, remap) = unsafe { (text(profile, profile_length), text(remap, remap_length)) };
    let built = guarded(Err("the profile could not be built".to_owned()), || {
        let (Some(profile), Some(remap)) = (profile, remap) else {
            return Err("the text is not UTF-8, or null".into());
        };
        let profile = Profile::from_toml(profile).map_err(|faults| faults.to_string())?;
        let remap = Remap::from_toml(remap).map_err(|faults| format!("the player's file: {faults}"))?;
        let laid = remap.over(&profile).map_err(|faults| faults.to_string())?;
        let notes: Vec<String> = laid.left_alone.iter().map(ToString::to_string).collect();
        Ok((Linkage { linkage: laid.linkage, profile }, notes.join("\n")))
    });
    match built {
        Ok((linkage, notes)) => {
            // SAFETY: as this function asks for.
            unsafe { write(&notes, fault, room) };
            Box::into_raw(Box::new(linkage))
        }
        Err(problem) => {
            // SAFETY: as this function asks for.
            unsafe { write(&problem, fault, room) };
            std::ptr::null_mut()
        }
    }
}

/// Frees a linkage; seats made from it live on.
///
/// # Safety
/// Null, or from `tl_linkage_build` and not freed yet.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_linkage_free(linkage: *mut Linkage) {
    if !linkage.is_null() {
        // SAFETY: as this function asks for.
        drop(unsafe { Box::from_raw(linkage) });
    }
}

/// Looks a name up: its handle, a number that is good in every profile that has the name. Handles are below 2^53, so a double holds
/// them exactly, as in Lua and JavaScript. Returns 0, and what is wrong with the nearest
/// right name in `fault`, if the profile has no such `tl_noun`.
///
/// # Safety
/// `linkage` is null or valid; `name` is null or has its length; `fault` is null or has room for `room` bytes.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_find(
    linkage: *const Linkage,
    noun: u8,
    name: *const c_char,
    length: usize,
    fault: *mut c_char,
    room: usize,
) -> u64 {
    // SAFETY: as this function asks for.
    let (linkage, name) = unsafe { (linkage.as_ref(), text(name, length)) };
    let found = guarded(Err(String::new()), || {
        let (Some(own), Some(name)) = (linkage, name) else { return Err("a pointer is null, or no UTF-8".to_owned()) };
        let own = &own.linkage;
        let bits = match noun {
            1 => own.find::<Button>(name).map(|handle| handle.to_bits()),
            2 => own.find::<Axis>(name).map(|handle| handle.to_bits()),
            3 => own.find::<Stick>(name).map(|handle| handle.to_bits()),
            4 => own.find::<Sweep>(name).map(|handle| handle.to_bits()),
            5 => own.find::<Pointer>(name).map(|handle| handle.to_bits()),
            6 => own.find::<Gauge>(name).map(|handle| handle.to_bits()),
            7 => own.find::<Fact>(name).map(|handle| handle.to_bits()),
            8 => own.find::<Mode>(name).map(|handle| handle.to_bits()),
            _ => return Err(format!("{noun} is not a tl_noun")),
        };
        bits.map_err(|missing| missing.to_string())
    });
    found.unwrap_or_else(|problem| {
        // SAFETY: as this function asks for.
        unsafe { write(&problem, fault, room) };
        0
    })
}

/// A control by its full name, `keys:Space` or `pad:left-stick`, for events; 0 if there is none. Good for every linkage.
///
/// # Safety
/// `name` is null or has its length.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_control(name: *const c_char, length: usize) -> u16 {
    // SAFETY: as this function asks for.
    let name = unsafe { text(name, length) };
    let control = name.and_then(|name| name.parse::<tidy_lever::Control>().ok());
    control.map_or(0, tidy_lever::Control::to_bits)
}

/// The full name of a control, as `tl_control` takes it. Returns its length; 0 if the number names no control.
///
/// # Safety
/// `to` is null or has room for `room` bytes.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_control_name(control: u16, to: *mut c_char, room: usize) -> usize {
    let name = guarded(None, || Some(tidy_lever::Control::from_bits(control)?.to_string()));
    // SAFETY: as this function asks for.
    unsafe { write(&name.unwrap_or_default(), to, room) }
}

/// What to press for an action on a `tl_family`, as players read it: `space`, `south button`. Its length; 0 if nothing is bound.
///
/// # Safety
/// `linkage` is null or valid; `action` is null or has its length; `to` is null or has room for `room` bytes.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_prompt(
    linkage: *const Linkage,
    action: *const c_char,
    length: usize,
    family: u8,
    to: *mut c_char,
    room: usize,
) -> usize {
    // SAFETY: as this function asks for.
    let (linkage, action) = unsafe { (linkage.as_ref(), text(action, length)) };
    let prompt = guarded(String::new(), || {
        let (Some(linkage), Some(action), Some(family)) = (linkage, action, Family::own(family)) else {
            return String::new();
        };
        let all = linkage.linkage.prompts(action, family, &Labels::default());
        all.into_iter().map(|prompt| prompt.text).collect::<Vec<String>>().join(", ")
    });
    // SAFETY: as this function asks for.
    unsafe { write(&prompt, to, room) }
}
