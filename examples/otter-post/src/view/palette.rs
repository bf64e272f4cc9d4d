//! Colours: dusk over a canal. Red, green, blue, opacity.

pub(crate) use tidy_lever_view::palette::*;

pub(crate) const SKY: [Colour; 3] = [0x31506aff, 0x8fa3a8ff, 0xf0cfa8ff];
pub(crate) const FAR: Colour = 0x7b8c95ff;
pub(crate) const WALLS: [Colour; 6] = [0x8a5a4eff, 0x6e6a72ff, 0xa0785aff, 0x5f6f78ff, 0x94644fff, 0x7d7f70ff];
pub(crate) const ROOFS: [Colour; 3] = [0x4a3a40ff, 0x3d4650ff, 0x573f3bff];
pub(crate) const FRAME: Colour = 0xe9dcc4ff;
pub(crate) const LAMPLIGHT: Colour = 0xf8dc98ff;
pub(crate) const DARK_PANE: Colour = 0x33424cff;
pub(crate) const STONE: Colour = 0xb5aa98ff;
pub(crate) const STONE_FAR: Colour = 0xa39987ff;
pub(crate) const JOINT: Colour = 0x8f8676ff;
pub(crate) const KERB: Colour = 0xcfc6b4ff;
pub(crate) const WALL: Colour = 0x6f6a61ff;
pub(crate) const WATER: [Colour; 2] = [0x3f7280ff, 0x1d4452ff];
pub(crate) const GLINT: Colour = 0xcfe8e43a;
pub(crate) const RING: Colour = 0xe2f3f0ff;
pub(crate) const SHADOW: Colour = 0x1b252c50;
pub(crate) const POST: Colour = 0x2d3a42ff;
pub(crate) const LETTER_POST: Colour = 0x2b8078ff;
pub(crate) const BRASS: Colour = 0xd3a94cff;
pub(crate) const UMBRELLA: Colour = 0xb8443cff;

pub(crate) const FUR: [Colour; 2] = [0x7a5238ff, 0x5f6672ff];
pub(crate) const BELLY: [Colour; 2] = [0xd9b78eff, 0xcdd2d6ff];
pub(crate) const NOSE: Colour = 0x2a1d18ff;
pub(crate) const SATCHEL: [Colour; 2] = [0x2f7f79ff, 0xb0603bff];
pub(crate) const HERON: Colour = 0x96a3b0ff;
pub(crate) const HERON_WING: Colour = 0x66737fff;
pub(crate) const HERON_THROAT: Colour = 0xe4e6e6ff;
pub(crate) const BILL: Colour = 0xd2a24eff;
pub(crate) const WOOD: [Colour; 2] = [0x6b4a34ff, 0x8a6244ff];
pub(crate) const PARCELS: [Colour; 3] = [0xc79a62ff, 0xe9e2d0ff, 0x9fb7a5ff];
pub(crate) const STRING: Colour = 0x8a3b34ff;
