//! Where the parts lie.
//!
//! ```text
//!   ┌ hands ┬──── stage ────┬ switches ┐
//!   │       ├───── came ────┤ actions  │
//!   │       │               │ numbers  │
//!   ├───────┴─── lanes ─────┴──────────┤
//!   └ keys of the tool ────────────────┘
//! ```
//!
//! In a narrow window stage, what came, and the side lie below each other, and the hands have no place.

use tidy_lever_view::Area;

/// Where the parts lie, in pixels of a screen that is not scaled.
#[derive(Clone, Debug, Default)]
pub(crate) struct Layout {
    /// A view of hands for each seat.
    pub(crate) hands: Vec<Area>,
    pub(crate) stage: Area,
    /// What came and what waits.
    pub(crate) came: Area,
    pub(crate) side: Area,
    pub(crate) strip: Area,
    pub(crate) keys: Area,
}

/// A window that is narrower than this has one column.
const NARROW: f32 = 640.0;

impl Layout {
    /// For a picture of this size, with so many pixels for one of a place or a size: parts begin and end at whole pixels.
    pub(crate) fn new((wide, high): (f32, f32), scale: f32, seats: usize) -> Layout {
        let whole = |length: f32| (length * scale).round() / scale;
        let keys = whole(30.0_f32.min(high * 0.1));
        let strip = whole((high * 0.31).clamp(90.0, 460.0));
        let above = (high - keys - strip).max(0.0);
        let area = |x, y, wide: f32, high: f32| Area { x, y, wide: wide.max(0.0), high: high.max(0.0) };
        let below = |keys_at: f32| (area(0.0, above, wide, strip), area(0.0, keys_at, wide, keys));
        if wide < NARROW {
            let stage = whole((above * 0.22).min(160.0));
            let came = whole((above * 0.2).clamp(0.0, 110.0));
            let (strip, keys) = below(above + strip);
            return Layout {
                hands: Vec::new(),
                stage: area(0.0, 0.0, wide, stage),
                came: area(0.0, stage, wide, came),
                side: area(0.0, stage + came, wide, above - stage - came),
                strip,
                keys,
            };
        }
        // What came takes no more than the stage leaves.
        let came = whole((above * 0.35).clamp(0.0, 190.0));
        // Of many seats the first ones are shown, as many as leave a stage.
        let side = whole((wide * 0.3).clamp(150.0, 400.0));
        let hands = whole(if seats > 1 { 300.0 } else { 372.0_f32.min(wide * 0.33) });
        let shown = (((wide - side - 160.0) / hands) as usize).clamp(1, seats.max(1));
        let left = hands * shown as f32;
        let (strip, keys) = below(above + strip);
        Layout {
            hands: (0..shown).map(|place| area(place as f32 * hands, 0.0, hands, above)).collect(),
            stage: area(left, 0.0, wide - side - left, above - came),
            came: area(left, above - came, wide - side - left, came),
            side: area(wide - side, 0.0, side, above),
            strip,
            keys,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn parts_meet_at_whole_pixels_and_leave_none_out() {
        for (wide, high) in [(320.0, 320.0), (1000.0, 700.0), (1366.0, 768.0), (2560.0, 1600.0)] {
            for (scale, seats) in [(1.0, 1), (1.25, 1), (1.5, 2), (1.75, 4), (2.0, 1), (3.0, 8)] {
                let Layout { hands, stage, came, side, strip, keys } =
                    Layout::new((wide / scale, high / scale), scale, seats);
                let parts = hands.iter().chain([&stage, &came, &side, &strip, &keys]);
                let mut pixels = 0;
                for Area { x, y, wide, high } in parts {
                    let edges = [x * scale, y * scale, wide * scale, high * scale];
                    assert!(edges.iter().all(|edge| (edge - edge.round()).abs() < 0.01), "{edges:?} at {scale}");
                    pixels += edges[2].round() as u32 * edges[3].round() as u32;
                }
                assert!(pixels >= wide as u32 * high as u32, "{pixels} of {wide}x{high} at {scale}");
            }
        }
    }
}
