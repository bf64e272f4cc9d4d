//! Names that people write from habit, and the controls that they mean.

use alloc::format;
use alloc::string::{String, ToString};
use alloc::vec::Vec;

use super::{Control, Family};

/// Keys by words and signs of common keyboards, in lower case.
const KEYS: &[(&[&str], &[&str])] = &[
    (&["ctrl", "control", "ctl"], &["ControlLeft", "ControlRight"]),
    (&["lctrl", "leftctrl", "leftcontrol", "ctrlleft", "lcontrol"], &["ControlLeft"]),
    (&["rctrl", "rightctrl", "rightcontrol", "ctrlright", "rcontrol"], &["ControlRight"]),
    (&["shift"], &["ShiftLeft", "ShiftRight"]),
    (&["lshift", "leftshift"], &["ShiftLeft"]),
    (&["rshift", "rightshift"], &["ShiftRight"]),
    (&["alt", "option"], &["AltLeft", "AltRight"]),
    (&["lalt", "leftalt"], &["AltLeft"]),
    (&["ralt", "rightalt", "altgr"], &["AltRight"]),
    (&["meta", "cmd", "command", "win", "windows"], &["MetaLeft", "MetaRight"]),
    (&["return", "ret"], &["Enter"]),
    (&["esc"], &["Escape"]),
    (&["left", "arrow-left", "leftarrow"], &["ArrowLeft"]),
    (&["right", "arrow-right", "rightarrow"], &["ArrowRight"]),
    (&["up", "arrow-up", "uparrow"], &["ArrowUp"]),
    (&["down", "arrow-down", "downarrow"], &["ArrowDown"]),
    (&["arrow", "arrows"], &["ArrowUp", "ArrowDown", "ArrowLeft", "ArrowRight"]),
    (&["wasd"], &["KeyW", "KeyA", "KeyS", "KeyD"]),
    (&["spacebar", " ", "spc"], &["Space"]),
    (&["del"], &["Delete"]),
    (&["ins"], &["Insert"]),
    (&["pgup", "page-up"], &["PageUp"]),
    (&["pgdn", "pgdown", "page-down"], &["PageDown"]),
    (&["caps"], &["CapsLock"]),
    (&["bksp", "bs"], &["Backspace"]),
    (&["-", "hyphen", "dash"], &["Minus"]),
    (&["=", "equals", "plus", "+"], &["Equal"]),
    (&[","], &["Comma"]),
    (&[".", "dot"], &["Period"]),
    (&["/"], &["Slash"]),
    (&["\\"], &["Backslash"]),
    (&[";", "colon"], &["Semicolon"]),
    (&["'", "apostrophe"], &["Quote"]),
    (&["[", "leftbracket", "lbracket"], &["BracketLeft"]),
    (&["]", "rightbracket", "rbracket"], &["BracketRight"]),
    (&["`", "tilde", "grave", "backtick"], &["Backquote"]),
];

const MOUSE: &[(&[&str], &[&str])] = &[
    (&["lmb", "left-button", "left-click", "leftclick", "button1", "mouse1", "1", "click"], &["left"]),
    (&["rmb", "right-button", "right-click", "rightclick", "button2", "mouse2", "2"], &["right"]),
    (&["mmb", "middle-button", "middle-click", "wheel-click", "wheelclick", "button3", "mouse3", "3"], &["middle"]),
    (&["button4", "mouse4", "4", "x1"], &["back"]),
    (&["button5", "mouse5", "5", "x2"], &["forward"]),
    (&["wheel", "scroll", "mousewheel"], &["wheel-up", "wheel-down"]),
    (&["scroll-up", "wheelup", "scrollup"], &["wheel-up"]),
    (&["scroll-down", "wheeldown", "scrolldown"], &["wheel-down"]),
    (&["motion", "delta", "movement", "x", "y"], &["move"]),
    (&["position", "cursor", "pointer", "pos"], &["place"]),
];

const PAD: &[(&[&str], &[&str])] = &[
    (&["a"], &["south", "east"]),
    (&["b"], &["east", "south"]),
    (&["x"], &["west", "north"]),
    (&["y"], &["north", "west"]),
    (&["l1", "lb", "l", "left-bumper"], &["left-shoulder"]),
    (&["r1", "rb", "r", "right-bumper"], &["right-shoulder"]),
    (&["l2", "lt", "zl"], &["left-trigger"]),
    (&["r2", "rt", "zr"], &["right-trigger"]),
    (&["l3", "left-stick-button"], &["left-thumb"]),
    (&["r3", "right-stick-button"], &["right-thumb"]),
    (&["ls", "left"], &["left-stick", "left-thumb", "dpad.left"]),
    (&["rs", "right"], &["right-stick", "right-thumb", "dpad.right"]),
    (&["up"], &["dpad.up", "left-stick.up"]),
    (&["down"], &["dpad.down", "left-stick.down"]),
    (&["lstick", "leftstick", "stick"], &["left-stick"]),
    (&["rstick", "rightstick"], &["right-stick"]),
    (&["d-pad", "hat"], &["dpad"]),
    (&["cross"], &["dpad", "south"]),
    (&["dpad-up", "dpadup"], &["dpad.up"]),
    (&["dpad-down", "dpaddown"], &["dpad.down"]),
    (&["dpad-left", "dpadleft"], &["dpad.left"]),
    (&["dpad-right", "dpadright"], &["dpad.right"]),
    (&["back"], &["select"]),
    (&["menu", "pause"], &["start"]),
    (&["guide"], &["home"]),
];

/// The controls of a family that a name from habit may mean, the likeliest first; none for a name that means nothing.
pub(crate) fn meant(family: Family, name: &str) -> Vec<String> {
    // Nothing this long is a control's name.
    if name.len() > 32 {
        return Vec::new();
    }
    // The right name in other letters: `space`, `LEFT-STICK`.
    if let Some(control) = Control::all(family).find(|control| control.name().to_string().eq_ignore_ascii_case(name)) {
        return alloc::vec![control.name().to_string()];
    }
    let plain = name.to_ascii_lowercase().replace('_', "-");
    let table = match family {
        Family::Keys => KEYS,
        Family::Mouse => MOUSE,
        Family::Pad => PAD,
        Family::Touch => return Vec::new(),
    };
    if let Some((_, names)) = table.iter().find(|(words, _)| words.contains(&plain.as_str())) {
        return names.iter().map(|name| (*name).into()).collect();
    }
    if family == Family::Keys {
        let whole = |made: String| Control::in_family(Family::Keys, &made).map(|_| made);
        let behind =
            |front: &str| plain.strip_prefix(front).map(|rest| rest.trim_start_matches('-').to_ascii_uppercase());
        let mut chars = plain.chars();
        if let (Some(one), None) = (chars.next(), chars.next()) {
            let one = one.to_ascii_uppercase();
            return whole(format!("Key{one}")).or_else(|| whole(format!("Digit{one}"))).into_iter().collect();
        }
        // `Num1` and `Kp1` are the number pad's; `Key1` and `DigitA` are one word too far.
        for front in ["num", "kp", "keypad"] {
            if let Some(found) = behind(front).and_then(|rest| whole(format!("Numpad{rest}"))) {
                return alloc::vec![found];
            }
        }
        for front in ["key", "digit", "vk-"] {
            if let Some(rest) = behind(front).filter(|rest| !rest.is_empty()) {
                return meant(Family::Keys, &rest);
            }
        }
    }
    Vec::new()
}

/// What to write instead, as the end of a message: "; write `KeyW`", or "" for a name that means nothing.
pub(crate) fn advice(family: Family, name: &str) -> String {
    let names = meant(family, name);
    let list: Vec<String> = names.iter().map(|name| format!("`{name}`")).collect();
    match &list[..] {
        [] => String::new(),
        [one] => format!("; write {one}"),
        [first, second] if family == Family::Pad && name.len() == 1 => {
            format!("; write {first} or {second}, by its position: makers place `{name}` differently")
        }
        [_, _, _, _] => format!("; write the keys one by one: {}", list.join(", ")),
        [others @ .., last] => format!("; write {} or {last}", others.join(", ")),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_synonym_leads_to_a_control_and_is_none_itself() {
        for (family, table) in [(Family::Keys, KEYS), (Family::Mouse, MOUSE), (Family::Pad, PAD)] {
            for (words, names) in table {
                for name in *names {
                    let plain = name.split('.').next().unwrap();
                    assert!(Control::in_family(family, plain).is_some(), "{name}");
                }
                for word in *words {
                    assert!(Control::in_family(family, word).is_none(), "{word}");
                    assert_eq!(meant(family, word), *names, "{word}");
                }
            }
        }
    }

    #[test]
    fn letters_digits_and_prefixes_find_their_keys() {
        for (habit, name) in [
            ("W", "KeyW"),
            ("1", "Digit1"),
            ("num1", "Numpad1"),
            ("KeySpace", "Space"),
            ("space", "Space"),
            ("key_3", "Digit3"),
        ] {
            assert_eq!(meant(Family::Keys, habit), [name], "{habit}");
        }
        assert!(meant(Family::Keys, "ü").is_empty());
        assert_eq!(
            advice(Family::Pad, "A"),
            "; write `south` or `east`, by its position: makers place `A` differently"
        );
    }
}
