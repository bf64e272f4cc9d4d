//! Patches of the panel, made ready: where they lie, and what they say with a thumb on them.
//!
//! Lengths are in units of the screen's shorter side, so that one layout fits all screens; places on the screen are
//! whole millionths of a pixel.

use alloc::string::String;
use alloc::vec::Vec;

use crate::direction::{Compass, Direction, Sectors};
use crate::fixed::{self, ONE};
use crate::index::SlotIndex;
use crate::profile::PatchKind;

/// Within this share of a cross's radius it points nowhere, in millionths.
const CROSS_DEAD: i64 = 200_000;

/// A patch made ready.
#[derive(Clone, Debug, Hash)]
pub(crate) struct PatchPlan {
    pub(crate) name: String,
    pub(crate) kind: PatchKind,
    pub(crate) from_right: bool,
    pub(crate) from_bottom: bool,
    /// In millionths of the shorter side.
    pub(crate) at: [i64; 2],
    /// Half its width and height, the same but for zones.
    pub(crate) half: [i64; 2],
    pub(crate) floats: bool,
    /// Its slot, and that of a zone's swipes, if anybody hears them.
    pub(crate) slot: Option<SlotIndex>,
    pub(crate) swipe: Option<SlotIndex>,
    /// The actions that hear it.
    pub(crate) actions: Vec<u16>,
}

/// A place in millionths of a pixel, from the top left.
pub(crate) type Place = (i64, i64);

/// The length of a vector; whole, rounded down.
pub(crate) fn length(x: i64, y: i64) -> i64 {
    let (x, y) = (i128::from(x), i128::from(y));
    ((x * x + y * y) as u128).isqrt() as i64
}

impl PatchPlan {
    /// Its middle and half its width and height on a screen.
    pub(crate) fn frame(&self, view: [u32; 2]) -> (Place, Place) {
        let shorter = i64::from(view[0].min(view[1]));
        let along = |at: i64, from_end: bool, whole: u32| {
            if from_end { i64::from(whole) * i64::from(ONE) - at * shorter } else { at * shorter }
        };
        let middle = (along(self.at[0], self.from_right, view[0]), along(self.at[1], self.from_bottom, view[1]));
        (middle, (self.half[0] * shorter, self.half[1] * shorter))
    }

    /// How far outside it a place lies: below 0 inside.
    pub(crate) fn outside(&self, place: Place, view: [u32; 2]) -> i64 {
        let (middle, half) = self.frame(view);
        let (dx, dy) = (place.0 - middle.0, place.1 - middle.1);
        if self.kind == PatchKind::Zone {
            return (dx.abs() - half.0).max(dy.abs() - half.1);
        }
        length(dx, dy) - half.0
    }

    /// What it says with a thumb here that went down there: right and up, in millionths, and the direction of a cross.
    pub(crate) fn level(
        &self,
        (origin, place): (Place, Place),
        before: Option<Direction>,
        view: [u32; 2],
    ) -> ((i32, i32), Option<Direction>) {
        let (middle, half) = self.frame(view);
        let middle = if self.floats || self.kind == PatchKind::Zone { origin } else { middle };
        let (dx, dy) = (place.0 - middle.0, middle.1 - place.1);
        let radius = half.0.min(half.1).max(1);
        let part =
            |d: i64| (i128::from(d) * i128::from(ONE) / i128::from(radius)).clamp(-1_000_000_000, 1_000_000_000) as i32;
        let (x, y) = (part(dx), part(dy));
        match self.kind {
            PatchKind::Button => ((ONE, 0), None),
            PatchKind::Stick | PatchKind::Zone => (fixed::within_one(x, y), None),
            PatchKind::Cross => {
                if i64::from(fixed::length(x, y)) < CROSS_DEAD {
                    return ((0, 0), None);
                }
                let compass = Compass { four: false, sectors: Sectors::Equal, down_at: 0, up_at: 0 };
                let direction = compass.read(x, y, before);
                let (x, y) = direction.map_or((0, 0), Direction::signs);
                ((i32::from(x) * ONE, i32::from(y) * ONE), direction)
            }
        }
    }
}
