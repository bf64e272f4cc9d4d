//! Where keys lie on a keyboard: W3C codes, row by row, in widths of a letter's key.

/// A row: how far in it begins, then its keys with their widths.
type Row = &'static [(&'static str, f32)];

const ROWS: [Row; 5] = [
    &[
        ("Escape", 1.0),
        ("Digit1", 1.0),
        ("Digit2", 1.0),
        ("Digit3", 1.0),
        ("Digit4", 1.0),
        ("Digit5", 1.0),
        ("Digit6", 1.0),
        ("Digit7", 1.0),
        ("Digit8", 1.0),
        ("Digit9", 1.0),
        ("Digit0", 1.0),
        ("Minus", 1.0),
        ("Equal", 1.0),
        ("Backspace", 2.0),
    ],
    &[
        ("Tab", 1.5),
        ("KeyQ", 1.0),
        ("KeyW", 1.0),
        ("KeyE", 1.0),
        ("KeyR", 1.0),
        ("KeyT", 1.0),
        ("KeyY", 1.0),
        ("KeyU", 1.0),
        ("KeyI", 1.0),
        ("KeyO", 1.0),
        ("KeyP", 1.0),
        ("BracketLeft", 1.0),
        ("BracketRight", 1.0),
        ("Backslash", 1.5),
    ],
    &[
        ("CapsLock", 1.75),
        ("KeyA", 1.0),
        ("KeyS", 1.0),
        ("KeyD", 1.0),
        ("KeyF", 1.0),
        ("KeyG", 1.0),
        ("KeyH", 1.0),
        ("KeyJ", 1.0),
        ("KeyK", 1.0),
        ("KeyL", 1.0),
        ("Semicolon", 1.0),
        ("Quote", 1.0),
        ("Enter", 2.25),
    ],
    &[
        ("ShiftLeft", 2.25),
        ("KeyZ", 1.0),
        ("KeyX", 1.0),
        ("KeyC", 1.0),
        ("KeyV", 1.0),
        ("KeyB", 1.0),
        ("KeyN", 1.0),
        ("KeyM", 1.0),
        ("Comma", 1.0),
        ("Period", 1.0),
        ("Slash", 1.0),
        ("ShiftRight", 0.75),
        ("ArrowUp", 1.0),
        ("", 1.0),
    ],
    &[
        ("ControlLeft", 1.25),
        ("MetaLeft", 1.25),
        ("AltLeft", 1.25),
        ("Space", 5.75),
        ("AltRight", 1.25),
        ("ControlRight", 1.25),
        ("ArrowLeft", 1.0),
        ("ArrowDown", 1.0),
        ("ArrowRight", 1.0),
    ],
];

/// How wide it is.
pub(crate) const WIDE: f32 = 15.0;
/// How many rows it has.
pub(crate) const HIGH: f32 = 5.0;

/// Every key with its place and width.
pub(crate) fn keys() -> impl Iterator<Item = (&'static str, f32, f32, f32)> {
    ROWS.iter().enumerate().flat_map(|(row, keys)| {
        keys.iter()
            .scan(0.0, move |x, (code, wide)| {
                let left = *x;
                *x += wide;
                Some((*code, left, row as f32, *wide))
            })
            .filter(|(code, ..)| !code.is_empty())
    })
}

/// What is printed on a key, as short as can be.
pub(crate) fn cap(code: &str) -> &str {
    let letter = code.strip_prefix("Key").or(code.strip_prefix("Digit"));
    match (letter, code) {
        (Some(letter), _) => letter,
        (_, "ArrowUp") => "↑",
        (_, "ArrowLeft") => "←",
        (_, "ArrowDown") => "↓",
        (_, "ArrowRight") => "→",
        (_, "Escape") => "esc",
        (_, "Enter") => "enter",
        (_, "Space") => "space",
        (_, "Tab") => "tab",
        (_, "Comma") => ",",
        (_, "Period") => ".",
        (_, "Slash") => "/",
        (_, "Semicolon") => ";",
        (_, "Quote") => "'",
        (_, "Minus") => "-",
        (_, "Equal") => "=",
        _ => "",
    }
}
