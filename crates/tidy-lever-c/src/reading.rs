//! What a game asks a seat: what its actions did, and how they stand.
//!
//! A question takes a bookmark, or null. With null it is about the last `tl_advance`; with a bookmark about everything between
//! the last two `tl_read` of it.

use std::ffi::c_char;

use tidy_lever::handle::{self, Handle as _};
use tidy_lever::profile::Kind;
use tidy_lever::reading::{ButtonReading, Reading};
use tidy_lever::tape::OutputLine;
use tidy_lever::{Linkage, What as OwnWhat};

use crate::border::{guarded, put, write, write_all};
use crate::seat::Seat;
use crate::words::{Cause, Direction, What};

/// A reader's place: it gets everything exactly once, at any rate of reading. Where a function takes a bookmark, null asks about
/// the last `tl_advance`.
#[derive(Debug)]
pub struct Bookmark {
    /// Where the reading began that questions are about; and where the next one begins.
    before: tidy_lever::Bookmark,
    now: tidy_lever::Bookmark,
}

impl Bookmark {
    /// Both of its places.
    pub(crate) fn places(&self) -> [&tidy_lever::Bookmark; 2] {
        [&self.before, &self.now]
    }

    pub(crate) fn places_mut(&mut self) -> [&mut tidy_lever::Bookmark; 2] {
        [&mut self.before, &mut self.now]
    }
}

/// For `what` of `tl_happenings`: every `tl_what`.
pub const TL_ALL: u8 = 255;

/// What a button did, and its state now. Every action has this.
#[repr(C)]
#[derive(Clone, Copy, Debug, Default)]
pub struct Button {
    /// For how long it has been held, in microseconds; 0 if it is up.
    pub held_for: u64,
    /// For how long it was held the last time.
    pub last_held_for: u64,
    /// For how long it has been on.
    pub on_for: u64,
    /// How often it was pressed.
    pub presses: u32,
    /// How often it was released.
    pub releases: u32,
    /// How often it pulled.
    pub pulls: u32,
    /// Whether it is down.
    pub is_down: bool,
    /// Whether what it pulled is still on.
    pub is_on: bool,
    /// Whether it was pressed.
    pub went_down: bool,
    /// Whether it was released.
    pub went_up: bool,
    /// Whether it pulled.
    pub pulled: bool,
}

impl From<ButtonReading> for Button {
    fn from(own: ButtonReading) -> Button {
        let micros = |span: std::time::Duration| span.as_micros() as u64;
        Button {
            held_for: micros(own.held_for()),
            last_held_for: micros(own.last_held_for()),
            on_for: micros(own.on_for()),
            presses: own.presses(),
            releases: own.releases(),
            pulls: own.pulls(),
            is_down: own.is_down(),
            is_on: own.is_on(),
            went_down: own.went_down(),
            went_up: own.went_up(),
            pulled: own.pulled(),
        }
    }
}

/// How an axis stands.
#[repr(C)]
#[derive(Clone, Copy, Debug, Default)]
pub struct Axis {
    /// Its value, in its own range.
    pub value: f32,
    /// From −1 to 1, whatever its range is.
    pub level: f32,
}

/// How a stick stands.
#[repr(C)]
#[derive(Clone, Copy, Debug)]
pub struct Stick {
    /// Since when it points there.
    pub direction_since: u64,
    /// How long ago its last direction ended, in microseconds; 0 while it is held.
    pub last_age: u64,
    /// Right, −1 to 1.
    pub x: f32,
    /// Up, −1 to 1.
    pub y: f32,
    /// How far it is pushed, 0 to 1.
    pub size: f32,
    /// Its angle in degrees, counter-clockwise from the right; NaN at rest.
    pub degrees: f32,
    /// How far it is pushed forward, the way that the fact `facing` says; back is negative.
    pub forward: f32,
    /// Its `tl_direction`; `TL_DIRECTION_NONE` at rest.
    pub direction: u8,
    /// The direction that is held or was held last; `TL_DIRECTION_NONE` before the first.
    pub last_direction: u8,
    /// Whether it points the way that the fact `facing` says.
    pub is_forward: bool,
    /// Whether it points the other way.
    pub is_back: bool,
}

/// How far a sweep turned.
#[repr(C)]
#[derive(Clone, Copy, Debug, Default)]
pub struct Sweep {
    /// Degrees to the right.
    pub across: f64,
    /// Degrees up.
    pub up: f64,
}

/// How a gauge stands.
#[repr(C)]
#[derive(Clone, Copy, Debug, Default)]
pub struct Gauge {
    /// Its value.
    pub value: f32,
    /// How full it is, 0 to 1.
    pub filled: f32,
}

/// Where a pointer is.
#[repr(C)]
#[derive(Clone, Copy, Debug, Default)]
pub struct Pointer {
    /// Pixels from the view's left.
    pub x: f32,
    /// Pixels from its top.
    pub y: f32,
    /// Where it was pressed, in pixels, while it is held; else NaN.
    pub pressed_x: f32,
    /// The same, downwards.
    pub pressed_y: f32,
    /// Pixels from where it was pressed, while it drags.
    pub dragged_x: f32,
    /// The same, downwards.
    pub dragged_y: f32,
    /// Whether it was anywhere yet.
    pub has_place: bool,
    /// Whether it drags.
    pub is_dragging: bool,
    /// Whether it was pressed and released in one place.
    pub clicked: bool,
}

/// Something that happened.
#[repr(C)]
#[derive(Clone, Copy, Debug)]
pub struct Happening {
    /// When, to the microsecond.
    pub at: u64,
    /// Of a pull, when the press came that began it.
    pub since: u64,
    /// Of a pull, how long it was kept for its gate, in microseconds.
    pub kept_for: u64,
    /// Whose it is: a handle, as `tl_find` gives it.
    pub action: u64,
    /// Of a pull that took another action's pull back on the same press, that action's handle; else 0.
    pub over: u64,
    /// Of a pull that aims, how long before it the stick's last direction ended, in microseconds; 0 while it is held.
    pub aim_age: u64,
    /// Of a pull with an amount, how much; else NaN.
    pub amount: f32,
    /// Of a pull that aims, where its stick pointed: right; NaN at rest, or without an aim.
    pub aim_x: f32,
    /// The same, up.
    pub aim_y: f32,
    /// A `tl_what`.
    pub what: u8,
    /// Of an end or a release, its `tl_cause`.
    pub cause: u8,
    /// Of a pull, its stage, from 1; 0 if it has none.
    pub stage: u8,
    /// Of a mark, its number among the action's marks, from 0; `tl_mark_name` names it.
    pub mark: u8,
    /// Of a pull that aims, the `tl_direction` that was held then or had been held last.
    pub aim_direction: u8,
    /// Of a pull, whether the fact `facing` was `left`.
    pub faces_left: bool,
}

/// A new reader's place, at what is played now; null of null.
///
/// # Safety
/// `seat` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_bookmark_new(seat: *const Seat) -> *mut Bookmark {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_ref() };
    let made = guarded(None, || {
        let now = seat?.seat.bookmark();
        Some(Bookmark { before: now.clone(), now })
    });
    made.map_or(std::ptr::null_mut(), |bookmark| Box::into_raw(Box::new(bookmark)))
}

/// Frees it.
///
/// # Safety
/// Null, or from `tl_bookmark_new` and not freed yet.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_bookmark_free(bookmark: *mut Bookmark) {
    if !bookmark.is_null() {
        // SAFETY: as this function asks for.
        drop(unsafe { Box::from_raw(bookmark) });
    }
}

/// Moves a bookmark to what is played now: questions with it are about what lies between. Ask them before the seat advances.
/// `false` if it began again here: it is of another seat, the seat was relinked, or went back behind it.
///
/// # Safety
/// Both are null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_read(seat: *const Seat, bookmark: *mut Bookmark) -> bool {
    // SAFETY: as this function asks for.
    let (seat, bookmark) = unsafe { (seat.as_ref(), bookmark.as_mut()) };
    guarded(false, || {
        let (Some(seat), Some(bookmark)) = (seat, bookmark) else { return false };
        bookmark.before.clone_from(&bookmark.now);
        let restarted = seat.seat.read(&mut bookmark.now).restarted();
        if restarted {
            bookmark.before.clone_from(&bookmark.now);
        }
        !restarted
    })
}

/// What a question is about.
fn asked<T>(seat: Option<&Seat>, bookmark: Option<&Bookmark>, ask: impl FnOnce(Reading<'_>) -> Option<T>) -> Option<T> {
    guarded(None, || {
        let seat = &seat?.seat;
        match bookmark {
            None => ask(seat.latest()),
            Some(bookmark) => {
                let mut from = bookmark.before.clone();
                ask(seat.read(&mut from))
            }
        }
    })
}

/// What a button, or any other action, did. `false` if there is no such action.
///
/// # Safety
/// Each pointer is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_button(seat: *const Seat, bookmark: *const Bookmark, action: u64, to: *mut Button) -> bool {
    // SAFETY: as this function asks for.
    let (seat, bookmark) = unsafe { (seat.as_ref(), bookmark.as_ref()) };
    let reading = asked(seat, bookmark, |now| {
        let known = handle::AnyHandle::from_bits(action)?;
        if !seat?.seat.knows(known) {
            return None;
        }
        let edges = handle::Button::from_bits(action).map(|button| now.button(button));
        let edges = edges.or_else(|| Some(now.axis(handle::Axis::from_bits(action)?).edges()));
        let edges = edges.or_else(|| Some(now.stick(handle::Stick::from_bits(action)?).edges()));
        let edges = edges.or_else(|| Some(now.gauge(handle::Gauge::from_bits(action)?).edges()));
        let edges = edges.or_else(|| Some(now.pointer(handle::Pointer::from_bits(action)?).edges()));
        edges.map(Button::from)
    });
    // SAFETY: as this function asks for.
    unsafe { put(reading, to) }
}

/// What a question about one handle is answered; nothing, if the seat's profile has not got it.
fn about<H: handle::Handle + Into<handle::AnyHandle>, T>(
    seat: Option<&Seat>,
    bookmark: Option<&Bookmark>,
    action: u64,
    ask: impl FnOnce(Reading<'_>, H) -> T,
) -> Option<T> {
    let handle = H::from_bits(action).filter(|handle| seat.is_some_and(|seat| seat.seat.knows(*handle)))?;
    asked(seat, bookmark, |now| Some(ask(now, handle)))
}

/// How an axis stands. `false` if there is no such axis.
///
/// # Safety
/// Each pointer is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_axis(seat: *const Seat, bookmark: *const Bookmark, action: u64, to: *mut Axis) -> bool {
    // SAFETY: as this function asks for.
    let (seat, bookmark) = unsafe { (seat.as_ref(), bookmark.as_ref()) };
    let reading = about::<handle::Axis, _>(seat, bookmark, action, |now, axis| {
        let own = now.axis(axis);
        Axis { value: own.value(), level: own.level() }
    });
    // SAFETY: as this function asks for.
    unsafe { put(reading, to) }
}

/// How a stick stands. `false` if there is no such stick.
///
/// # Safety
/// Each pointer is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_stick(seat: *const Seat, bookmark: *const Bookmark, action: u64, to: *mut Stick) -> bool {
    // SAFETY: as this function asks for.
    let (seat, bookmark) = unsafe { (seat.as_ref(), bookmark.as_ref()) };
    let reading = about::<handle::Stick, _>(seat, bookmark, action, |now, stick| {
        let own = now.stick(stick);
        let (x, y) = own.xy();
        let last = own.last_direction();
        Stick {
            direction_since: own.direction_since().as_micros(),
            last_age: last.map_or(0, |(_, age)| age.as_micros() as u64),
            x,
            y,
            size: own.size(),
            degrees: own.degrees().unwrap_or(f32::NAN),
            forward: own.forward(),
            last_direction: last.map_or(Direction::None as u8, |(direction, _)| direction as u8),
            direction: own.direction().map_or(Direction::None as u8, |direction| direction as u8),
            is_forward: own.is_forward(),
            is_back: own.is_back(),
        }
    });
    // SAFETY: as this function asks for.
    unsafe { put(reading, to) }
}

/// How far a sweep turned. `false` if there is no such sweep.
///
/// # Safety
/// Each pointer is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_sweep(seat: *const Seat, bookmark: *const Bookmark, action: u64, to: *mut Sweep) -> bool {
    // SAFETY: as this function asks for.
    let (seat, bookmark) = unsafe { (seat.as_ref(), bookmark.as_ref()) };
    let reading = about::<handle::Sweep, _>(seat, bookmark, action, |now, sweep| {
        let (across, up) = now.sweep(sweep).degrees();
        Sweep { across, up }
    });
    // SAFETY: as this function asks for.
    unsafe { put(reading, to) }
}

/// How a gauge stands. `false` if there is no such gauge.
///
/// # Safety
/// Each pointer is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_gauge(seat: *const Seat, bookmark: *const Bookmark, action: u64, to: *mut Gauge) -> bool {
    // SAFETY: as this function asks for.
    let (seat, bookmark) = unsafe { (seat.as_ref(), bookmark.as_ref()) };
    let reading = about::<handle::Gauge, _>(seat, bookmark, action, |now, gauge| {
        let own = now.gauge(gauge);
        Gauge { value: own.value(), filled: own.filled() }
    });
    // SAFETY: as this function asks for.
    unsafe { put(reading, to) }
}

/// Where a pointer is. `false` if there is no such pointer.
///
/// # Safety
/// Each pointer is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_pointer(
    seat: *const Seat,
    bookmark: *const Bookmark,
    action: u64,
    to: *mut Pointer,
) -> bool {
    // SAFETY: as this function asks for.
    let (seat, bookmark) = unsafe { (seat.as_ref(), bookmark.as_ref()) };
    let reading = about::<handle::Pointer, _>(seat, bookmark, action, |now, pointer| {
        let own = now.pointer(pointer);
        let (place, dragged) = (own.pixels(), own.dragged().unwrap_or_default());
        let (x, y) = place.unwrap_or_default();
        let pressed = own.pressed_at().unwrap_or((f32::NAN, f32::NAN));
        Pointer {
            x,
            y,
            pressed_x: pressed.0,
            pressed_y: pressed.1,
            dragged_x: dragged.0,
            dragged_y: dragged.1,
            has_place: place.is_some(),
            is_dragging: own.is_dragging(),
            clicked: own.clicked(),
        }
    });
    // SAFETY: as this function asks for.
    unsafe { put(reading, to) }
}

/// The handle of a happening's action.
fn bits(name: &str, linkage: &Linkage) -> u64 {
    macro_rules! of {
        ($($kind:ident),*) => {$(
            if let Ok(found) = linkage.find::<handle::$kind>(name) {
                return found.to_bits();
            }
        )*};
    }
    match linkage.action(name).map(|action| action.kind()) {
        Some(Kind::Axis) => of!(Axis),
        Some(Kind::Stick) => of!(Stick),
        Some(Kind::Sweep) => of!(Sweep),
        Some(Kind::Pointer) => of!(Pointer),
        Some(Kind::Gauge) => of!(Gauge),
        _ => of!(Button),
    }
    0
}

/// Writes what happened, in order: of one action, or of all actions (0); one `tl_what`, or `TL_ALL`. Returns how much there is.
///
/// # Safety
/// `seat` and `bookmark` are null or valid; `to` is null or has room for `room` happenings.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_happenings(
    seat: *const Seat,
    bookmark: *const Bookmark,
    action: u64,
    what: u8,
    to: *mut Happening,
    room: usize,
) -> usize {
    // SAFETY: as this function asks for.
    let (seat, bookmark) = unsafe { (seat.as_ref(), bookmark.as_ref()) };
    let all = asked(seat, bookmark, |now| {
        let linkage = seat?.seat.linkage();
        let told = |own: &tidy_lever::Happening| {
            let action = bits(own.action(linkage)?, linkage);
            let (kind, cause, mark) = match own.what() {
                OwnWhat::Pulled => (What::Pulled, Cause::LetGo, 0),
                OwnWhat::Ended(cause) => (What::Ended, cause.into(), 0),
                OwnWhat::Mark(number) => (What::Mark, Cause::LetGo, number),
                OwnWhat::Pressed => (What::Pressed, Cause::LetGo, 0),
                OwnWhat::Released(cause) => (What::Released, cause.into(), 0),
                _ => return None,
            };
            let (aim, last_aim) = (own.aim().unwrap_or((f32::NAN, f32::NAN)), own.last_aim());
            Some(Happening {
                at: own.at().as_micros(),
                since: own.since().as_micros(),
                kept_for: own.kept_for().as_micros() as u64,
                action,
                over: own.over(linkage).map_or(0, |name| bits(name, linkage)),
                aim_age: last_aim.map_or(0, |(_, age)| age.as_micros() as u64),
                aim_x: aim.0,
                aim_y: aim.1,
                aim_direction: last_aim.map_or(Direction::None as u8, |(direction, _)| direction as u8),
                faces_left: own.faces_left(),
                amount: own.amount().unwrap_or(f32::NAN),
                what: kind as u8,
                cause: cause as u8,
                stage: own.stage().unwrap_or(0),
                mark,
            })
        };
        let wanted = |told: &Happening| (action == 0 || told.action == action) && (what == TL_ALL || told.what == what);
        Some(now.happenings().filter_map(told).filter(wanted).collect::<Vec<Happening>>())
    });
    // SAFETY: as this function asks for.
    unsafe { write_all(all.unwrap_or_default().into_iter(), to, room) }
}

/// How much happened that the history has no room for any more: counted in `tl_button`, but not among `tl_happenings`. A seat
/// with a larger `history` keeps more.
///
/// # Safety
/// Both are null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_lost(seat: *const Seat, bookmark: *const Bookmark) -> u64 {
    // SAFETY: as this function asks for.
    let (seat, bookmark) = unsafe { (seat.as_ref(), bookmark.as_ref()) };
    asked(seat, bookmark, |now| Some(now.lost())).unwrap_or(0)
}

/// The name of an action's mark, by its number; its length, 0 if it has no such mark.
///
/// # Safety
/// `seat` is null or valid; `to` is null or has room for `room` bytes.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_mark_name(seat: *const Seat, action: u64, mark: u8, to: *mut c_char, room: usize) -> usize {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_ref() };
    let name = guarded(None, || {
        let linkage = seat?.seat.linkage();
        let action = linkage.action(linkage.name_of(handle::AnyHandle::from_bits(action)?)?)?;
        action.marks().nth(usize::from(mark)).map(str::to_owned)
    });
    // SAFETY: as this function asks for.
    unsafe { write(&name.unwrap_or_default(), to, room) }
}

/// Writes what happened as lines of JSON, as `tidy-lever play --json` prints them; presses and releases, too, if `all`. The
/// length of all lines.
///
/// # Safety
/// `seat` and `bookmark` are null or valid; `to` is null or has room for `room` bytes.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_lines(
    seat: *const Seat,
    bookmark: *const Bookmark,
    all: bool,
    to: *mut c_char,
    room: usize,
) -> usize {
    // SAFETY: as this function asks for.
    let (seat, bookmark) = unsafe { (seat.as_ref(), bookmark.as_ref()) };
    let lines = asked(seat, bookmark, |now| {
        let linkage = seat?.seat.linkage();
        let came = now.happenings().filter_map(|own| OutputLine::of(own, 1, linkage, all));
        Some(came.map(|line| line.json() + "\n").collect::<String>())
    });
    // SAFETY: as this function asks for.
    unsafe { write(&lines.unwrap_or_default(), to, room) }
}

/// The name of a handle in a seat's profile; its length, 0 if it has none there.
///
/// # Safety
/// `seat` is null or valid; `to` is null or has room for `room` bytes.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_name(seat: *const Seat, handle: u64, to: *mut c_char, room: usize) -> usize {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_ref() };
    let name = guarded(None, || {
        let linkage = seat?.seat.linkage();
        linkage.name_of(handle::AnyHandle::from_bits(handle)?).map(str::to_owned)
    });
    // SAFETY: as this function asks for.
    unsafe { write(&name.unwrap_or_default(), to, room) }
}

/// Whether a fact is true.
///
/// # Safety
/// `seat` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_is(seat: *const Seat, fact: u64) -> bool {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_ref() };
    asked(seat, None, |_| Some(seat?.seat.is(handle::Fact::from_bits(fact)?))).unwrap_or(false)
}

/// What a fact is: `true`, `false` or its word; its length, 0 if there is no such fact.
///
/// # Safety
/// `seat` is null or valid; `to` is null or has room for `room` bytes.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_fact(seat: *const Seat, fact: u64, to: *mut c_char, room: usize) -> usize {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_ref() };
    let word = asked(seat, None, |_| {
        let fact = handle::Fact::from_bits(fact).filter(|fact| seat.is_some_and(|seat| seat.seat.knows(*fact)))?;
        Some(seat?.seat.fact(fact).to_owned())
    });
    // SAFETY: as this function asks for.
    unsafe { write(&word.unwrap_or_default(), to, room) }
}

/// Whether a mode is on.
///
/// # Safety
/// `seat` is null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_is_mode_on(seat: *const Seat, mode: u64) -> bool {
    // SAFETY: as this function asks for.
    let seat = unsafe { seat.as_ref() };
    asked(seat, None, |_| Some(seat?.seat.is_mode_on(handle::Mode::from_bits(mode)?))).unwrap_or(false)
}
