//! What a tape that begins in the middle begins with: what a seat had switched, set and learnt by then.

use alloc::borrow::ToOwned;
use alloc::string::{String, ToString};
use alloc::vec::Vec;

use super::LineKind;
use crate::control::Family;
use crate::event::Device;
use crate::seat::Seat;

/// What a seat has at a moment, besides what its devices hold and what the game told it.
#[derive(Clone, Debug, Default)]
pub(super) struct State {
    /// What was learnt of sticks: it counts before anything is held.
    pub(super) learnt: Vec<LineKind>,
    /// Modes and toggles: what is held as the tape begins may switch them again, so they are set after that.
    pub(super) switched: Vec<LineKind>,
    /// Presses that put down what stays down, and the same let go.
    pub(super) latched: Vec<LineKind>,
    pub(super) let_go: Vec<LineKind>,
}

/// What a seat has now; `name` says what the tape calls a device.
pub(super) fn of(seat: &Seat, mut name: impl FnMut(Device, Family) -> String) -> State {
    let mut state = State::default();
    for (device, control, memory) in seat.memories() {
        let (device, control) = (name(device, control.family()), control.to_string());
        state.learnt.push(LineKind::Stick { device, control, memory });
    }
    for (device, control) in seat.latched() {
        let (device, control) = (name(device, control.family()), control.to_string());
        let level = |value| LineKind::Level { device: device.clone(), control: control.clone(), value };
        state.latched.push(level(1.0));
        state.let_go.push(level(0.0));
    }
    let plan = &*seat.linkage().0;
    // Of modes that cover each other the last turned on rules.
    let mut modes: Vec<(u64, usize)> =
        (0..plan.world.modes.len()).map(|number| (seat.mode_turn(number), number)).collect();
    modes.sort_unstable();
    for (turn, number) in &modes {
        state.switched.push(LineKind::Mode { mode: plan.world.modes[*number].name.clone(), on: *turn > 0 });
    }
    for number in (0..plan.declared).filter(|number| plan.toggles(*number)) {
        let (action, value) = (plan.actions[number].name.to_owned(), seat.is_toggled(number));
        state.switched.push(LineKind::Set { action, value });
    }
    state
}
