//! Any bytes as calls of the C interface, in any order, with any numbers, short rooms, stale handles and nulls: an answer, never
//! a fault.
#![no_main]

use std::ffi::c_char;
use std::mem::MaybeUninit;
use std::ptr::{null, null_mut};

use libfuzzer_sys::fuzz_target;
use tidy_lever_c::*;

const DEMO: &str = include_str!("../../demo/otter-post.toml");
const OVER: &str = "tidy-lever = 1\n[action.hop]\nkeys = \"KeyJ\"\n[access]\nleeway = 1.5\n";
const WORDS: [&str; 12] = [
    "hop",
    "toss",
    "steer",
    "steer.up",
    "look",
    "grounded",
    "facing",
    "left",
    "ashore",
    "menu",
    "key:Space",
    "no such",
];

/// What the bytes say, one after the other; noughts once they end.
struct Bytes<'a>(&'a [u8]);

impl Bytes<'_> {
    fn byte(&mut self) -> u8 {
        let Some((first, rest)) = self.0.split_first() else { return 0 };
        self.0 = rest;
        *first
    }

    fn number(&mut self) -> u64 {
        (0..8).fold(0, |sum, _| sum << 8 | u64::from(self.byte()))
    }

    /// Mostly soon; sometimes at any moment there is.
    fn moment(&mut self, near: u64) -> u64 {
        match self.byte() {
            255 => self.number(),
            254 => TL_NOW,
            short => near + u64::from(short) * u64::from(self.byte()) * 16,
        }
    }

    fn level(&mut self) -> f32 {
        match self.byte() {
            255 => f32::from_bits(self.number() as u32),
            byte => (f32::from(byte) - 100.0) / 100.0,
        }
    }

    fn word(&mut self) -> &'static str {
        WORDS[usize::from(self.byte()) % WORDS.len()]
    }
}

/// Everything that a host may hold; what was freed is null.
struct Held {
    linkages: Vec<*mut Linkage>,
    seat: *mut Seat,
    bookmarks: [*mut Bookmark; 2],
    saved: *mut Saved,
    handles: Vec<u64>,
    at: u64,
}

impl Held {
    /// One call.
    ///
    /// # Safety
    /// All that is held is null or was made by the interface and not freed.
    unsafe fn call(&mut self, bytes: &mut Bytes<'_>) {
        let seat = if bytes.byte() == 255 { null_mut() } else { self.seat };
        let linkage = self.linkages[usize::from(bytes.byte()) % self.linkages.len()];
        let bookmark = if bytes.byte() % 8 == 0 { null_mut() } else { self.bookmarks[0] };
        let handle = match bytes.byte() {
            255 => bytes.number(),
            which => self.handles[usize::from(which) % self.handles.len()],
        };
        let (mut text, mut many) = ([0_u8; 4096], [0_u8; 4096]);
        let room = usize::from(bytes.byte()) * 16;
        let to: *mut c_char = if room == 0 { null_mut() } else { text.as_mut_ptr().cast() };
        let word = bytes.word();
        let (name, length) = (word.as_ptr().cast::<c_char>(), word.len());
        // SAFETY: every pointer is null or what the interface gave; texts and rooms are as long as is said.
        unsafe {
            match bytes.byte() % 34 {
                0..8 => {
                    let event = Event {
                        at: bytes.moment(self.at),
                        finger: u64::from(bytes.byte() % 12),
                        x: bytes.level(),
                        y: bytes.level(),
                        control: match bytes.byte() {
                            255 => bytes.number() as u16,
                            which => tl_control("key:Space".as_ptr().cast(), 9) ^ u16::from(which),
                        },
                        device: bytes.byte() % 80,
                        kind: bytes.byte() % 6,
                        phase: bytes.byte() % 5,
                    };
                    tl_feed(seat, &event);
                    tl_feed_all(seat, [event; 3].as_ptr(), 3);
                }
                8..12 => {
                    self.at = self.at.saturating_add(u64::from(bytes.byte()) * 1_000);
                    tl_advance(seat, self.at);
                }
                12 => tl_advance(seat, bytes.moment(self.at)),
                13 => tl_skip(seat, bytes.moment(self.at)),
                14 => {
                    tl_gap(seat, bytes.moment(self.at));
                    self.at = self.at.max(tl_played(seat));
                }
                15 => _ = tl_tell(seat, handle, bytes.byte() & 1 == 1, bytes.moment(self.at)),
                16 => _ = tl_tell_word(seat, handle, name, length, bytes.moment(self.at)),
                17 => _ = tl_set_mode(seat, handle, bytes.byte() & 1 == 1, bytes.moment(self.at)),
                18 => _ = tl_set(seat, handle, bytes.byte() & 1 == 1, bytes.moment(self.at)),
                19 => _ = tl_give_back(seat, handle, bytes.moment(self.at)),
                20 => {
                    tl_name_device(seat, bytes.byte(), name, length, bytes.moment(self.at));
                    tl_focus(seat, bytes.byte() & 1 == 1, bytes.moment(self.at));
                    tl_set_view(seat, bytes.number() as u32, bytes.number() as u32, bytes.moment(self.at));
                    tl_show_panel(seat, bytes.byte() & 1 == 1, bytes.moment(self.at));
                }
                21 => {
                    tl_read(seat, bookmark);
                    let (mut button, mut axis, mut stick) = (Button::default(), Axis::default(), MaybeUninit::uninit());
                    tl_button(seat, bookmark, handle, &mut button);
                    tl_axis(seat, bookmark, handle, &mut axis);
                    tl_stick(seat, bookmark, handle, stick.as_mut_ptr());
                    let (mut sweep, mut gauge, mut pointer) = Default::default();
                    tl_sweep(seat, bookmark, handle, &mut sweep);
                    tl_gauge(seat, bookmark, handle, &mut gauge);
                    tl_pointer(seat, bookmark, handle, &mut pointer);
                }
                22 => {
                    let mut happenings: [MaybeUninit<Happening>; 8] = [const { MaybeUninit::uninit() }; 8];
                    tl_happenings(seat, bookmark, handle, bytes.byte(), happenings.as_mut_ptr().cast(), 8);
                    tl_lost(seat, bookmark);
                    tl_lines(seat, bookmark, bytes.byte() & 1 == 1, to, room);
                }
                23 => {
                    tl_name(seat, handle, to, room);
                    tl_fact(seat, handle, to, room);
                    tl_mark_name(seat, handle, bytes.byte(), to, room);
                    tl_is(seat, handle);
                    tl_is_mode_on(seat, handle);
                }
                24 => {
                    let mut patches = [Patch::default(); 4];
                    tl_patches(seat, bytes.number() as u32, bytes.byte().into(), patches.as_mut_ptr(), 4);
                    tl_patch_name(seat, bytes.byte().into(), to, room);
                }
                25 => self.handles.push(tl_find(linkage, bytes.byte(), name, length, to, room)),
                26 => _ = tl_prompt(linkage, name, length, bytes.byte(), to, room),
                27 => _ = tl_control_name(bytes.number() as u16, to, room),
                28 => {
                    let clash = bytes.byte();
                    let (over, keys) = (if clash & 128 == 0 { OVER } else { "" }, "KeyK");
                    let (over_at, keys_at) = (over.as_ptr().cast(), keys.as_ptr().cast());
                    let fault = many.as_mut_ptr().cast();
                    tl_remap_bind(
                        linkage,
                        over_at,
                        over.len(),
                        name,
                        length,
                        keys_at,
                        4,
                        clash & 7,
                        to,
                        room,
                        fault,
                        300,
                    );
                }
                29 => {
                    tl_seat_free(self.seat);
                    // Small rooms, and rooms that no memory has.
                    let odd = bytes.byte();
                    let number = |big: bool| if big { u32::MAX } else { u32::from(odd) % 40 };
                    let room =
                        Room { waiting: number(odd == 255), history: number(odd == 254), devices: number(odd == 253) };
                    self.seat = tl_seat_new_with(linkage, self.at, room);
                }
                30 => {
                    let copy = tl_seat_clone(seat);
                    if !copy.is_null() {
                        assert_eq!(tl_state_hash(copy), tl_state_hash(seat));
                        tl_seat_free(self.seat);
                        self.seat = copy;
                    }
                }
                31 => {
                    let count = usize::from(bytes.byte() % 3);
                    if self.saved.is_null() {
                        self.saved = tl_saved_new(seat, self.bookmarks.as_ptr(), count);
                    } else if bytes.byte() & 1 == 1 {
                        tl_save_into(seat, self.saved, self.bookmarks.as_ptr(), count);
                    } else if tl_restore(seat, self.saved, self.bookmarks.as_ptr(), count) {
                        self.at = tl_played(seat);
                    }
                }
                32 => {
                    let count = usize::from(bytes.byte() % 3);
                    let length = tl_save_bytes(seat, self.bookmarks.as_ptr(), count, null_mut(), 0);
                    let mut saved = vec![0; length];
                    assert_eq!(tl_save_bytes(seat, self.bookmarks.as_ptr(), count, saved.as_mut_ptr(), length), length);
                    let before = tl_state_hash(seat);
                    if let change @ 1.. = bytes.byte() {
                        if let Some(place) =
                            saved.get_mut(usize::from(change) * usize::from(bytes.byte()) % length.max(1))
                        {
                            *place ^= change;
                        }
                        // What came through somewhere may be refused; then nothing changed.
                        if !tl_restore_bytes(seat, saved.as_ptr(), length, self.bookmarks.as_ptr(), count) {
                            assert_eq!(tl_state_hash(seat), before);
                        }
                    } else if length > 0 {
                        assert!(tl_restore_bytes(seat, saved.as_ptr(), length, self.bookmarks.as_ptr(), count));
                        assert_eq!(tl_state_hash(seat), before);
                    }
                    self.at = tl_played(seat);
                }
                _ => {
                    tl_relink(seat, linkage, self.bookmarks.as_ptr(), usize::from(bytes.byte() % 3));
                    let stats = tl_stats(seat);
                    assert!(stats.late < 1 << 40);
                    tl_seat_family(seat);
                }
            }
        }
    }
}

/// The demo's linkage with a player's file over it; built once, as that takes longest.
fn build(over: &str) -> *mut Linkage {
    let (text, over_at) = (DEMO.as_ptr().cast(), over.as_ptr().cast());
    // SAFETY: texts are as long as is said.
    unsafe { tl_linkage_build(text, DEMO.len(), over_at, over.len(), null_mut(), 0) }
}

thread_local! {
    static BUILT: [*mut Linkage; 2] = [build(""), build(OVER)];
}

fuzz_target!(|bytes: &[u8]| {
    let mut bytes = Bytes(&bytes[..bytes.len().min(4_000)]);
    let [plain, worn] = BUILT.with(|built| *built);
    let linkages = vec![plain, worn, null_mut()];
    // SAFETY: what is made is freed once, at the end; a seat goes on without the linkage that it was made of.
    unsafe {
        let own = if bytes.byte() == 0 { build("") } else { null_mut() };
        let seat = tl_seat_new(if own.is_null() { plain } else { own }, 0);
        tl_linkage_free(own);
        let bookmarks = [tl_bookmark_new(seat), tl_bookmark_new(seat)];
        let nouns = [1, 1, 3, 1, 3, 7, 7, 7, 8, 8, 1, 1];
        let found = nouns
            .iter()
            .zip(WORDS)
            .map(|(noun, word)| tl_find(plain, *noun, word.as_ptr().cast(), word.len(), null_mut(), 0));
        let mut held = Held { linkages, seat, bookmarks, saved: null_mut(), handles: found.collect(), at: 0 };
        while !bytes.0.is_empty() {
            held.call(&mut bytes);
        }
        tl_seat_free(held.seat);
        held.bookmarks.into_iter().for_each(|bookmark| tl_bookmark_free(bookmark));
        tl_saved_free(held.saved);
        tl_feed(null_mut(), null());
    }
});
