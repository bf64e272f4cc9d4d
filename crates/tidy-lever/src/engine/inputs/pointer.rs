//! Pointers: a place in the view, and how far it went while held.

use crate::engine::part::plain_fields;

/// The view's size until an adapter tells it.
pub(crate) const VIEW: [u32; 2] = [1280, 720];

/// A pointer's place, in millionths of the view from its top left.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct PointerState {
    pub(crate) place: Option<(i32, i32)>,
    /// Where it was pressed.
    pub(crate) pressed: Option<(i32, i32)>,
    pub(crate) drags: bool,
}

impl PointerState {
    /// Whether it lies farther from where it was pressed than this many millionths of a pixel.
    pub(crate) fn is_beyond(&self, drag_from: i64, view: [u32; 2]) -> bool {
        let (Some(place), Some(pressed)) = (self.place, self.pressed) else { return false };
        let across = (i128::from(place.0) - i128::from(pressed.0)) * i128::from(view[0]);
        let down = (i128::from(place.1) - i128::from(pressed.1)) * i128::from(view[1]);
        across * across + down * down > i128::from(drag_from) * i128::from(drag_from)
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> [u64; 3] {
        let pair = |place: Option<(i32, i32)>| {
            place.map_or(u64::MAX, |(x, y)| u64::from(x as u32) << 32 | u64::from(y as u32))
        };
        let PointerState { place, pressed, drags } = *self;
        [pair(place), pair(pressed), u64::from(drags)]
    }
}

plain_fields! {
    PointerState, own => own.words();
}
