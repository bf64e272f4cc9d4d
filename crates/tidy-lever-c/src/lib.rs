//! Tidy Lever for C, and for whatever else can call C: `include/tidy_lever.h`.
//!
//! ```text
//!   text ──tl_linkage_build──▶ linkage ──tl_seat_new──▶ seat ◀─ tl_feed, tl_tell_…, tl_advance
//!   name ──tl_find──▶ handle (a number)                  └─▶ tl_button, tl_stick, tl_happenings, …
//! ```
//!
//! Each function checks its pointers, reads numbers where C would have enums, and answers a mistake with nothing. What it does
//! is the library's own; the header says who owns what. See `examples/c` for a program.

mod border;
mod feed;
mod linkage;
mod panel;
mod reading;
mod remap;
mod saved;
mod seat;
mod tell;
mod words;

pub use feed::{Event, tl_feed, tl_feed_all};
pub use linkage::{
    Linkage, TL_ABI, tl_abi, tl_control, tl_control_name, tl_find, tl_linkage_build, tl_linkage_free, tl_prompt,
};
pub use panel::{Patch, tl_patch_name, tl_patches};
pub use reading::{
    Axis, Bookmark, Button, Gauge, Happening, Pointer, Stick, Sweep, TL_ALL, tl_axis, tl_bookmark_free,
    tl_bookmark_new, tl_button, tl_fact, tl_gauge, tl_happenings, tl_is, tl_is_mode_on, tl_lines, tl_lost,
    tl_mark_name, tl_name, tl_pointer, tl_read, tl_stick, tl_sweep,
};
pub use remap::tl_remap_bind;
pub use saved::{Saved, tl_restore, tl_restore_bytes, tl_save_bytes, tl_save_into, tl_saved_free, tl_saved_new};
pub use seat::{
    Room, Seat, Stats, tl_advance, tl_gap, tl_played, tl_relink, tl_seat_clone, tl_seat_family, tl_seat_free,
    tl_seat_new, tl_seat_new_with, tl_skip, tl_state_hash, tl_stats,
};
pub use tell::{
    TL_NOW, tl_focus, tl_give_back, tl_name_device, tl_set, tl_set_mode, tl_set_view, tl_show_panel, tl_tell,
    tl_tell_word,
};
pub use words::{Cause, Clash, Direction, EventKind, Family, Fed, Noun, PatchKind, Told, TouchPhase, What};
