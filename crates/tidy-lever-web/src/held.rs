//! What is held: keys, and the mouse's buttons.

use tidy_lever::Control;

/// The keys that are down.
#[derive(Debug, Default)]
pub(crate) struct Keys(pub(crate) Vec<(Control, Sort)>);

/// How a key ends.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Sort {
    /// While it is held, some systems don't tell that other keys go up.
    Meta,
    Modifier,
    Plain,
}

impl Keys {
    pub(crate) fn forget(&mut self) {
        self.0.clear();
    }
}

/// How a key ends, by its position.
pub(crate) fn sort(code: &str) -> Sort {
    match code {
        "MetaLeft" | "MetaRight" => Sort::Meta,
        "ShiftLeft" | "ShiftRight" | "ControlLeft" | "ControlRight" | "AltLeft" | "AltRight" => Sort::Modifier,
        _ => Sort::Plain,
    }
}

/// The mouse's buttons that are down, a bit each.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Buttons {
    pub(crate) down: u16,
    /// Held since before the focus came back: no presses.
    pub(crate) stale: u16,
}

impl Buttons {
    pub(crate) fn forget(&mut self) {
        self.stale |= core::mem::take(&mut self.down);
    }
}
