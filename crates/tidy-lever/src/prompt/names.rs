//! Plain names of controls, by their place on the device and no maker's signs.

use alloc::borrow::ToOwned;
use alloc::format;
use alloc::string::String;

use crate::control::{Control, Family};

/// A control's name for people, by its place on the device and no maker's signs.
pub(super) fn plain(control: Control, name: &str) -> String {
    match control.family() {
        Family::Keys => key(name),
        Family::Mouse => match name {
            "move" => "mouse".into(),
            "place" => "pointer".into(),
            "wheel-up" | "wheel-down" | "wheel-left" | "wheel-right" => name.replace('-', " "),
            _ => format!("{name} mouse button"),
        },
        Family::Pad => match name {
            "south" | "east" | "west" | "north" => format!("{name} button"),
            "left-thumb" => "left stick pressed in".into(),
            "right-thumb" => "right stick pressed in".into(),
            "dpad" => "directional pad".into(),
            _ => name.replace('-', " "),
        },
        Family::Touch if control == Control::TOUCH_PLACE => "screen".into(),
        Family::Touch => name.replace(['-', '_'], " "),
    }
}

/// A key by its position's name: `KeyW` is W, `ArrowUp` the up arrow, `ShiftLeft` the left shift.
fn key(code: &str) -> String {
    let letter = code.strip_prefix("Key").or(code.strip_prefix("Digit")).filter(|rest| rest.len() == 1);
    if let Some(letter) = letter {
        return letter.to_owned();
    }
    if let Some(way) = code.strip_prefix("Arrow") {
        return format!("{} arrow", way.to_lowercase());
    }
    let (code, pad) = code.strip_prefix("Numpad").map_or((code, ""), |rest| (rest, "keypad "));
    // A side comes first; other words as they stand, apart.
    let side = ["Left", "Right"].into_iter().find(|side| code.ends_with(side) && code.len() > side.len());
    let (stem, side) = side
        .map_or((code, String::new()), |side| (&code[..code.len() - side.len()], format!("{} ", side.to_lowercase())));
    let mut words = String::new();
    for letter in stem.chars() {
        if letter.is_ascii_uppercase() && words.ends_with(|last: char| last.is_ascii_lowercase()) {
            words.push(' ');
        }
        words.push(letter);
    }
    let function = stem.starts_with('F') && stem[1..].parse::<u8>().is_ok();
    let words = if function { words } else { words.to_lowercase() };
    format!("{pad}{side}{words}")
}
