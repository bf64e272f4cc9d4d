//! Key positions: winit's names are W3C's, but for the keys that W3C calls Meta.

use tidy_lever::Control;
use winit::keyboard::{KeyCode, PhysicalKey};

/// The control of a position; `None` for keys that have no name.
pub(crate) fn control(position: PhysicalKey) -> Option<Control> {
    let PhysicalKey::Code(code) = position else { return None };
    let name = match code {
        KeyCode::SuperLeft => "MetaLeft".to_owned(),
        KeyCode::SuperRight => "MetaRight".to_owned(),
        code => format!("{code:?}"),
    };
    format!("keys:{name}").parse().ok()
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

    use super::*;

    #[test]
    fn positions_have_their_w3c_names() {
        let cases = [
            (KeyCode::KeyW, "keys:KeyW"),
            (KeyCode::Digit0, "keys:Digit0"),
            (KeyCode::Space, "keys:Space"),
            (KeyCode::ArrowUp, "keys:ArrowUp"),
            (KeyCode::ShiftLeft, "keys:ShiftLeft"),
            (KeyCode::SuperLeft, "keys:MetaLeft"),
            (KeyCode::NumpadEnter, "keys:NumpadEnter"),
            (KeyCode::Backquote, "keys:Backquote"),
            (KeyCode::F12, "keys:F12"),
            (KeyCode::IntlBackslash, "keys:IntlBackslash"),
        ];
        for (code, name) in cases {
            assert_eq!(control(PhysicalKey::Code(code)).unwrap().to_string(), name);
        }
        let unknown = PhysicalKey::Unidentified(winit::keyboard::NativeKeyCode::Unidentified);
        assert_eq!(control(unknown), None);
    }
}
