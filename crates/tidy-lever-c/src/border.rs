//! The border to C: pointers are checked, texts and arrays copied, and a panic stays on this side.

use std::ffi::c_char;
use std::panic::{AssertUnwindSafe, catch_unwind};

/// What a call answers; if it panics, what it answers to a mistake. A seat that was in the middle of something then is as it was
/// left; the message is on standard error.
pub(crate) fn guarded<T>(otherwise: T, call: impl FnOnce() -> T) -> T {
    catch_unwind(AssertUnwindSafe(call)).unwrap_or(otherwise)
}

/// # Safety
/// Null, or it points to `length` bytes.
pub(crate) unsafe fn text<'a>(text: *const c_char, length: usize) -> Option<&'a str> {
    if length == 0 {
        return Some("");
    }
    if text.is_null() || length > isize::MAX as usize {
        return None;
    }
    // SAFETY: not null, and as this function asks for.
    std::str::from_utf8(unsafe { std::slice::from_raw_parts(text.cast(), length) }).ok()
}

/// # Safety
/// Null, or it points to `count` values.
pub(crate) unsafe fn list<'a, T>(list: *const T, count: usize) -> &'a [T] {
    if list.is_null() || count == 0 || count > isize::MAX as usize / size_of::<T>().max(1) {
        return &[];
    }
    // SAFETY: not null, and as this function asks for.
    unsafe { std::slice::from_raw_parts(list, count) }
}

/// Writes what fits of a text, and a zero; the text's full length.
///
/// # Safety
/// `to` is null, or has room for `room` bytes.
pub(crate) unsafe fn write(text: &str, to: *mut c_char, room: usize) -> usize {
    if !to.is_null() && room > 0 {
        let mut length = text.len().min(room - 1);
        while !text.is_char_boundary(length) {
            length -= 1;
        }
        // SAFETY: `length + 1 <= room`, and the two don't overlap.
        unsafe {
            std::ptr::copy_nonoverlapping(text.as_ptr().cast(), to, length);
            *to.add(length) = 0;
        }
    }
    text.len()
}

/// Writes what fits of some values; how many there are.
///
/// # Safety
/// `to` is null, or has room for `room` values.
pub(crate) unsafe fn write_all<T>(all: impl Iterator<Item = T>, to: *mut T, room: usize) -> usize {
    let mut count = 0;
    for value in all {
        if !to.is_null() && count < room {
            // SAFETY: `count < room`.
            unsafe { to.add(count).write(value) };
        }
        count += 1;
    }
    count
}

/// Writes a value, if there is one and a place for it; whether there was one.
///
/// # Safety
/// `to` is null, or points to a place for a value.
pub(crate) unsafe fn put<T>(value: Option<T>, to: *mut T) -> bool {
    let Some(value) = value else { return false };
    if !to.is_null() {
        // SAFETY: not null, and as this function asks for.
        unsafe { to.write(value) };
    }
    true
}

/// The values that some pointers point to, each once; `None` if one is null or there twice.
///
/// # Safety
/// `list` is null, or points to `count` pointers, each null or valid.
pub(crate) unsafe fn each_once<'a, T>(list: *const *mut T, count: usize) -> Option<Vec<&'a mut T>> {
    // SAFETY: as this function asks for.
    let pointers = unsafe { self::list(list, count) };
    let distinct = pointers.iter().enumerate().all(|(place, one)| !one.is_null() && !pointers[..place].contains(one));
    if pointers.len() != count || !distinct {
        return None;
    }
    // SAFETY: not null, no two the same, and as this function asks for.
    Some(pointers.iter().filter_map(|one| unsafe { one.as_mut() }).collect())
}
