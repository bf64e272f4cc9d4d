//! A player's file: controls bound to actions.

use std::ffi::c_char;

use tidy_lever::remap::{Clash, Remap, Target};

use crate::border::{guarded, text, write};
use crate::linkage::Linkage;

/// Binds controls, and writes the player's file that comes of it to `to`; its length, which is more than `room` if it does not
/// fit. 0, and why in `fault`, if it is refused.
///
/// `remap` is the player's file before (length 0 is none), `target` what is bound (`hop.keys`, `steer.keys.up`), `controls` the
/// names of its controls with commas between (`KeyJ,KeyH`; length 0 unbinds), `clash` a `tl_clash`. Build a linkage with the
/// result, and relink the seat.
///
/// # Safety
/// `linkage` is null or valid; each text is null or has its length; `to` and `fault` are null or have their rooms.
#[unsafe(no_mangle)]
#[allow(clippy::too_many_arguments, reason = "C has texts as pointers with lengths")]
pub unsafe extern "C" fn tl_remap_bind(
    linkage: *const Linkage,
    remap: *const c_char,
    remap_length: usize,
    target: *const c_char,
    target_length: usize,
    controls: *const c_char,
    controls_length: usize,
    clash: u8,
    to: *mut c_char,
    room: usize,
    fault: *mut c_char,
    fault_room: usize,
) -> usize {
    // SAFETY: as this function asks for.
    let (linkage, remap) = unsafe { (linkage.as_ref(), text(remap, remap_length)) };
    // SAFETY: as this function asks for.
    let (target, controls) = unsafe { (text(target, target_length), text(controls, controls_length)) };
    let bound = guarded(Err("the controls could not be bound".to_owned()), || {
        let (Some(linkage), Some(remap)) = (linkage, remap) else {
            return Err("a pointer is null, or no UTF-8".to_owned());
        };
        let (Some(target), Some(controls)) = (target, controls) else {
            return Err("a pointer is null, or no UTF-8".into());
        };
        let clash = match clash {
            0 => Clash::Refuse,
            1 => Clash::Swap,
            2 => Clash::Share,
            other => return Err(format!("{other} is not a tl_clash")),
        };
        let mut remap = Remap::from_toml(remap).map_err(|faults| faults.to_string())?;
        let target: Target = target.parse().map_err(|error: tidy_lever::remap::TargetError| error.to_string())?;
        let controls: Vec<&str> = controls.split(',').map(str::trim).filter(|name| !name.is_empty()).collect();
        remap.bind(&linkage.profile, &target, &controls, clash).map_err(|refused| refused.to_string())?;
        Ok(remap.to_toml())
    });
    match bound {
        // SAFETY: as this function asks for.
        Ok(text) => unsafe { write(&text, to, room) },
        Err(problem) => {
            // SAFETY: as this function asks for.
            unsafe { write(&problem, fault, fault_room) };
            0
        }
    }
}
