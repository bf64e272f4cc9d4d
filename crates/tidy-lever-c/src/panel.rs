//! The touch panel's patches, for drawing it.

use std::ffi::c_char;

use crate::border::{guarded, write, write_all};
use crate::seat::Seat;
use crate::words::PatchKind;

/// A patch of the touch panel: where it lies, and what it does now. Places are in pixels from the view's top left.
#[repr(C)]
#[derive(Clone, Copy, Debug, Default)]
pub struct Patch {
    /// Its middle; of a floating stick, where the thumb went down.
    pub middle_x: f32,
    /// The same, downwards.
    pub middle_y: f32,
    /// Half its width.
    pub half_x: f32,
    /// Half its height.
    pub half_y: f32,
    /// What is lit: right, −1 to 1; of a held button 1.
    pub lit_x: f32,
    /// The same, upwards.
    pub lit_y: f32,
    /// Where the thumb is, while one holds it.
    pub thumb_x: f32,
    /// The same, downwards.
    pub thumb_y: f32,
    /// A `tl_patch_kind`.
    pub kind: u8,
    /// Whether any action uses it now; else it need not be drawn.
    pub is_heard: bool,
    /// Whether a finger holds it.
    pub is_held: bool,
}

/// Writes the patches for a view of this size (that of `tl_set_view`), in the order of the profile; how many there are.
///
/// # Safety
/// `seat` is null or valid; `to` is null or has room for `room` patches.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_patches(seat: *const Seat, width: u32, height: u32, to: *mut Patch, room: usize) -> usize {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_ref() };
    let all = guarded(Vec::new(), || {
        let Some(seat) = seat else { return Vec::new() };
        let patches = seat.seat.linkage().patches().zip(seat.seat.panel());
        let patch = |(patch, reading): (tidy_lever::panel::PatchView<'_>, tidy_lever::panel::PatchReading)| {
            let thumb = reading.thumb.unwrap_or_default();
            let half = patch.frame(width.max(1), height.max(1)).half;
            use tidy_lever::panel::PatchKind as Own;
            let kind = match patch.kind() {
                Own::Cross => PatchKind::Cross,
                Own::Stick => PatchKind::Stick,
                Own::Button => PatchKind::Button,
                _ => PatchKind::Zone,
            };
            Patch {
                middle_x: reading.middle.0,
                middle_y: reading.middle.1,
                half_x: half.0,
                half_y: half.1,
                lit_x: reading.lit.0,
                lit_y: reading.lit.1,
                thumb_x: thumb.0,
                thumb_y: thumb.1,
                kind: kind as u8,
                is_heard: reading.is_heard,
                is_held: reading.is_held,
            }
        };
        patches.map(patch).collect()
    });
    // SAFETY: as this function asks for.
    unsafe { write_all(all.into_iter(), to, room) }
}

/// The name of the patch with this number, from 0; its length, 0 if there is none.
///
/// # Safety
/// `seat` is null or valid; `to` is null or has room for `room` bytes.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_patch_name(seat: *const Seat, number: usize, to: *mut c_char, room: usize) -> usize {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_ref() };
    let name = guarded(None, || seat?.seat.linkage().patches().nth(number).map(|patch| patch.name().to_owned()));
    // SAFETY: as this function asks for.
    unsafe { write(&name.unwrap_or_default(), to, room) }
}
