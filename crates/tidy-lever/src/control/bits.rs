//! Controls as small numbers, for other languages.

use super::{CONTROLS, Control, TOUCH_BASE};

impl Control {
    /// A small number for other languages, never 0; good within one build of this crate. Look controls up by their names.
    pub const fn to_bits(self) -> u16 {
        self.0 + 1
    }

    /// The control of such a number; `None` for any other.
    pub fn from_bits(bits: u16) -> Option<Control> {
        let own = Control(bits.checked_sub(1)?);
        let known =
            usize::from(own.0) < CONTROLS && (own.0 >= TOUCH_BASE || Control::all(own.family()).any(|c| c == own));
        known.then_some(own)
    }
}
