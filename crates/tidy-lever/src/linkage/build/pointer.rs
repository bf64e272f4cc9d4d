//! Pointers: a place, and the buttons that press on it.

use super::*;

/// From how many pixels on a held pointer drags, unless an action says otherwise.
const SLOP: f64 = 6.0;
const MOST_SLOP: f64 = 1_000.0;

impl Builder<'_> {
    pub(super) fn pointer(&mut self, number: usize, action: &Action, levels: (i32, i32), path: &str) {
        let slop = action.slop.as_ref().map_or(SLOP, |slop| slop.value);
        if !(0.0..=MOST_SLOP).contains(&slop) {
            let spot = action.slop.as_ref().map_or(Spot::NONE, |slop| slop.spot);
            self.fault(spot, format!("{path}.slop"), format!("a slop lies from 0 to {MOST_SLOP} pixels, found {slop}"));
        }
        let slop = fixed::from_f64(slop).unwrap_or(0);
        self.actions[number].pointer = self.pointers.len() as u16;
        self.pointers.push(PointerPlan { slop, drag: NONE, click: NONE, touch: NONE });
        self.button(number, action, levels, path);
    }

    /// A place that a pointer follows.
    pub(super) fn place(&mut self, number: usize, found: Found, name: &Placed<String>, path: &str) {
        if self.note(number, found, None, name, path) {
            let (action, part) = (number as u16, Part::Whole);
            self.feed(found, FeedPlan { action, part, leg: false, shape: 0, digital: false, per_count: [0; 2] });
        }
    }
}
