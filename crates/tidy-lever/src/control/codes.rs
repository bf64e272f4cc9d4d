//! Every key position there is a W3C name for, in the order of `Code`.
//!
//! Source: W3C UI Events KeyboardEvent code Values, <https://www.w3.org/TR/uievents-code/>.

// Some positions on the list are marked as deprecated, yet real keyboards have them.
#![allow(deprecated)]

use keyboard_types::Code;

/// All key positions; sorted, so that a code is found by binary search.
#[rustfmt::skip]
pub(super) const CODES: [Code; 215] = [
    Code::Backquote, Code::Backslash, Code::BracketLeft, Code::BracketRight, Code::Comma, Code::Digit0,
    Code::Digit1, Code::Digit2, Code::Digit3, Code::Digit4, Code::Digit5, Code::Digit6, Code::Digit7,
    Code::Digit8, Code::Digit9, Code::Equal, Code::IntlBackslash, Code::IntlRo, Code::IntlYen, Code::KeyA,
    Code::KeyB, Code::KeyC, Code::KeyD, Code::KeyE, Code::KeyF, Code::KeyG, Code::KeyH, Code::KeyI, Code::KeyJ,
    Code::KeyK, Code::KeyL, Code::KeyM, Code::KeyN, Code::KeyO, Code::KeyP, Code::KeyQ, Code::KeyR, Code::KeyS,
    Code::KeyT, Code::KeyU, Code::KeyV, Code::KeyW, Code::KeyX, Code::KeyY, Code::KeyZ, Code::Minus,
    Code::Period, Code::Quote, Code::Semicolon, Code::Slash, Code::AltLeft, Code::AltRight, Code::Backspace,
    Code::CapsLock, Code::ContextMenu, Code::ControlLeft, Code::ControlRight, Code::Enter, Code::MetaLeft,
    Code::MetaRight, Code::ShiftLeft, Code::ShiftRight, Code::Space, Code::Tab, Code::Convert, Code::KanaMode,
    Code::Lang1, Code::Lang2, Code::Lang3, Code::Lang4, Code::Lang5, Code::NonConvert, Code::Delete, Code::End,
    Code::Help, Code::Home, Code::Insert, Code::PageDown, Code::PageUp, Code::ArrowDown, Code::ArrowLeft,
    Code::ArrowRight, Code::ArrowUp, Code::NumLock, Code::Numpad0, Code::Numpad1, Code::Numpad2, Code::Numpad3,
    Code::Numpad4, Code::Numpad5, Code::Numpad6, Code::Numpad7, Code::Numpad8, Code::Numpad9, Code::NumpadAdd,
    Code::NumpadBackspace, Code::NumpadClear, Code::NumpadClearEntry, Code::NumpadComma, Code::NumpadDecimal,
    Code::NumpadDivide, Code::NumpadEnter, Code::NumpadEqual, Code::NumpadHash, Code::NumpadMemoryAdd,
    Code::NumpadMemoryClear, Code::NumpadMemoryRecall, Code::NumpadMemoryStore, Code::NumpadMemorySubtract,
    Code::NumpadMultiply, Code::NumpadParenLeft, Code::NumpadParenRight, Code::NumpadStar, Code::NumpadSubtract,
    Code::Escape, Code::Fn, Code::FnLock, Code::PrintScreen, Code::ScrollLock, Code::Pause, Code::BrowserBack,
    Code::BrowserFavorites, Code::BrowserForward, Code::BrowserHome, Code::BrowserRefresh, Code::BrowserSearch,
    Code::BrowserStop, Code::Eject, Code::LaunchApp1, Code::LaunchApp2, Code::LaunchMail, Code::MediaPlayPause,
    Code::MediaSelect, Code::MediaStop, Code::MediaTrackNext, Code::MediaTrackPrevious, Code::Power,
    Code::Sleep, Code::AudioVolumeDown, Code::AudioVolumeMute, Code::AudioVolumeUp, Code::WakeUp, Code::Hyper,
    Code::Super, Code::Turbo, Code::Abort, Code::Resume, Code::Suspend, Code::Again, Code::Copy, Code::Cut,
    Code::Find, Code::Open, Code::Paste, Code::Props, Code::Select, Code::Undo, Code::Hiragana, Code::Katakana,
    Code::F1, Code::F2, Code::F3, Code::F4, Code::F5, Code::F6, Code::F7, Code::F8, Code::F9, Code::F10,
    Code::F11, Code::F12, Code::F13, Code::F14, Code::F15, Code::F16, Code::F17, Code::F18, Code::F19,
    Code::F20, Code::F21, Code::F22, Code::F23, Code::F24, Code::F25, Code::F26, Code::F27, Code::F28,
    Code::F29, Code::F30, Code::F31, Code::F32, Code::F33, Code::F34, Code::F35, Code::BrightnessDown,
    Code::BrightnessUp, Code::DisplayToggleIntExt, Code::KeyboardLayoutSelect, Code::LaunchAssistant,
    Code::LaunchControlPanel, Code::LaunchScreenSaver, Code::MailForward, Code::MailReply, Code::MailSend,
    Code::MediaFastForward, Code::MediaPause, Code::MediaPlay, Code::MediaRecord, Code::MediaRewind,
    Code::MicrophoneMuteToggle, Code::PrivacyScreenToggle, Code::KeyboardBacklightToggle, Code::SelectTask,
    Code::ShowAllWindows, Code::ZoomToggle,
];
