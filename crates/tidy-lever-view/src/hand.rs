//! What a player's devices hold now, and which controls the profile hears.

use std::collections::HashSet;

use tidy_lever::{Control, Family, Linkage, Seat};

/// What is held, and what is bound.
#[derive(Debug)]
pub(crate) struct Hand<'b> {
    held: Vec<(Control, f32, f32)>,
    bound: &'b HashSet<Control>,
}

impl<'b> Hand<'b> {
    pub(crate) fn of(seat: &Seat, bound: &'b HashSet<Control>) -> Hand<'b> {
        let held = seat.standing().map(|now| (now.control, now.x, now.y)).collect();
        Hand { held, bound }
    }

    /// Right and up, of the device that pushes most.
    pub(crate) fn level(&self, control: Control) -> (f32, f32) {
        let own = self.held.iter().filter(|(held, ..)| *held == control);
        own.map(|(_, x, y)| (*x, *y)).max_by(|a, b| a.0.hypot(a.1).total_cmp(&b.0.hypot(b.1))).unwrap_or_default()
    }

    /// Where the middle of a stick is, on the pad that pushes it most; `None` for one that rests in the middle of its reach.
    pub(crate) fn middle(&self, seat: &Seat, control: Control) -> Option<(f32, f32)> {
        let pushed = self.level(control);
        let its = seat.standing().filter(|now| now.control == control && (now.x, now.y) == pushed);
        let middles = its.filter_map(|now| seat.middle_of(now.device, control));
        middles.into_iter().find(|middle| *middle != (0.0, 0.0))
    }

    pub(crate) fn is_bound(&self, control: Control) -> bool {
        self.bound.contains(&control)
    }

    /// Whether the profile hears anything of a family.
    pub(crate) fn uses(&self, family: Family) -> bool {
        self.bound.iter().any(|control| control.family() == family)
    }

    pub(crate) fn bound(&self) -> impl Iterator<Item = Control> + '_ {
        self.bound.iter().copied()
    }
}

/// The controls that a linkage's actions hear.
pub(crate) fn bound(linkage: &Linkage) -> HashSet<Control> {
    linkage.actions().flat_map(|action| action.controls()).map(|view| view.control).collect()
}
