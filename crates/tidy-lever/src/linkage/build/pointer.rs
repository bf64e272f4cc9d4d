//! Pointers: a place, and the buttons that press on it.

use super::*;

/// From how many pixels on a held pointer drags, unless an action says otherwise.
const DRAG_FROM: f64 = 6.0;
const FARTHEST_DRAG_FROM: f64 = 1_000.0;

impl Builder<'_> {
    pub(super) fn pointer(&mut self, number: usize, action: &Action, levels: (i32, i32), path: &str) {
        let drag_from = action.drag_from.as_ref().map_or(DRAG_FROM, |drag_from| drag_from.value);
        if !(0.0..=FARTHEST_DRAG_FROM).contains(&drag_from) {
            let spot = action.drag_from.as_ref().map_or(Spot::NONE, |drag_from| drag_from.spot);
            self.fault(
                spot,
                format!("{path}.drag_from"),
                format!("`drag_from` must be from 0 to {FARTHEST_DRAG_FROM} pixels, found {drag_from}"),
            );
        }
        let drag_from = fixed::from_f64(drag_from).unwrap_or(0);
        self.actions[number].pointer = Some(Index::new(self.inputs.pointers.len() as u16));
        // What it does gets its places later.
        let own = Index::new(number as u16);
        self.inputs.pointers.push(PointerPlan { drag_from, drag: own, click: own, touch: None });
        self.button(number, action, levels, path);
    }
}
