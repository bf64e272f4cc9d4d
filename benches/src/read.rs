//! A tape's lines as the hard-coded version takes them.

use tidy_lever::tape::{LineKind, TapeValue};

use crate::by_hand::{Input, Key};

/// The key of a control's name.
pub fn key(control: &str) -> Option<Key> {
    Some(match control {
        "keys:KeyW" => Key::W,
        "keys:KeyA" => Key::A,
        "keys:KeyS" => Key::S,
        "keys:KeyD" => Key::D,
        "keys:ArrowUp" => Key::Up,
        "keys:ArrowLeft" => Key::Left,
        "keys:ArrowDown" => Key::Down,
        "keys:ArrowRight" => Key::Right,
        "keys:Space" => Key::Space,
        "keys:KeyJ" => Key::J,
        "keys:KeyE" => Key::E,
        "keys:KeyG" => Key::G,
        "keys:KeyQ" => Key::Q,
        "keys:KeyL" => Key::L,
        "keys:KeyR" => Key::R,
        "keys:KeyK" => Key::K,
        "keys:KeyI" => Key::I,
        "keys:KeyF" => Key::F,
        "keys:Enter" => Key::Enter,
        "keys:Escape" => Key::Escape,
        "pad:south" => Key::South,
        "pad:east" => Key::East,
        "pad:west" => Key::West,
        "pad:north" => Key::North,
        "pad:left-shoulder" => Key::LeftShoulder,
        "pad:right-shoulder" => Key::RightShoulder,
        "pad:start" => Key::Start,
        "pad:select" => Key::Select,
        "pad:right-thumb" => Key::RightThumb,
        "mouse:left" => Key::MouseLeft,
        "mouse:wheel-down" => Key::WheelDown,
        "mouse:wheel-up" => Key::WheelUp,
        _ => return None,
    })
}

/// What a line says; `None` for what the hard-coded version has no part in.
pub fn input(said: &LineKind) -> Option<Input> {
    match said {
        LineKind::Level { control, value, .. } => Some(Input::Key(key(control)?, *value >= 0.5)),
        LineKind::Pair { control, x, y, .. } if control == "pad:left-stick" => Some(Input::Stick(*x as f32, *y as f32)),
        LineKind::Pair { control, x, y, .. } if control == "pad:dpad" => Some(Input::Dpad(*x as f32, *y as f32)),
        LineKind::Fact { fact, value } => Some(match (fact.as_str(), value) {
            ("grounded", TapeValue::Flag(flag)) => Input::Grounded(*flag),
            ("near_punt", TapeValue::Flag(flag)) => Input::NearPunt(*flag),
            ("busy", TapeValue::Flag(flag)) => Input::Busy(*flag),
            ("facing", TapeValue::Word(word)) => Input::FacingLeft(word == "left"),
            ("state", TapeValue::Word(word)) => Input::Free(word != "dash"),
            _ => return None,
        }),
        LineKind::Mode { mode, on } if mode == "menu" => Some(Input::Menu(*on)),
        LineKind::Focus(focused) => Some(Input::Focus(*focused)),
        _ => None,
    }
}
