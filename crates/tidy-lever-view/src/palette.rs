//! Colours of what lies over a game. Red, green, blue, opacity.

/// A colour: red, green, blue, opacity, a byte each.
pub type Colour = u32;

/// Behind it all.
pub const PANEL: Colour = 0x101d26e0;
/// Between parts.
pub const EDGE: Colour = 0xffffff16;
/// Texts.
pub const INK: Colour = 0xe9f0f2ff;
/// Texts that matter less.
pub const FAINT: Colour = 0x93a8b3ff;
/// Texts of what is off, or isn't there.
pub const DIM: Colour = 0x6f8591ff;
/// A key that is up, and its edge.
pub const KEY: Colour = 0x21343fff;
/// A key's edge.
pub const KEY_EDGE: Colour = 0x3a525fff;
/// The rail of a bar, and what is switched off.
pub const RAIL: Colour = 0x1a2a33ff;
/// What is switched on.
pub const LIT: Colour = 0x2b5a58ff;
/// What is down, or just pulled.
pub const ON: Colour = 0x7fdcc8ff;
/// Texts on what is down.
pub const ON_INK: Colour = 0x0d2721ff;
/// What waits.
pub const WAITS: Colour = 0xf2bd78ff;
/// What lingers.
pub const LINGERS: Colour = 0x8fb8f0ff;
/// What cools down.
pub const COOLS: Colour = 0x8a9aa5ff;
/// What went wrong, or nearly worked.
pub const MISS: Colour = 0xf09a86ff;

/// The same colour, less opaque.
pub fn faded(colour: Colour, share: f32) -> Colour {
    let opacity = ((colour & 0xff) as f32 * share.clamp(0.0, 1.0)) as u32;
    colour & 0xffff_ff00 | opacity
}

/// Between two colours.
pub fn mixed(from: Colour, to: Colour, share: f32) -> Colour {
    let part = |shift: u32| {
        let (a, b) = ((from >> shift & 0xff) as f32, (to >> shift & 0xff) as f32);
        (((b - a).mul_add(share.clamp(0.0, 1.0), a)) as u32 & 0xff) << shift
    };
    part(24) | part(16) | part(8) | part(0)
}
