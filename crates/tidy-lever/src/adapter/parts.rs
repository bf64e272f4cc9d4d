//! Controls whose parts are told one by one: the axes of a stick, the arms of a directional pad.

use alloc::vec::Vec;

use crate::control::{Bindable, Control, Part};
use crate::event::{Device, Event};
use crate::time::Moment;

/// Where the parts of a control are: left, right, down, up.
#[derive(Clone, Copy, Debug)]
struct Known {
    device: Device,
    control: Control,
    sides: [f32; 4],
}

impl Known {
    fn event(&self) -> Event {
        let [left, right, down, up] = self.sides;
        Event::pair(Moment::ZERO, self.device, self.control, right - left, up - down)
    }
}

/// What is held back until the rest of its report came.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Open {
    device: Device,
    control: Control,
    part: Part,
    /// Of an arm: whether it went down.
    down: Option<bool>,
}

/// Puts together what a host tells part by part, so that the axes of one report of a device are one event.
///
/// Most engines tell a stick as two axes, one after the other, and a directional pad as four buttons. Fed like that, a stick
/// that goes from right to up passes a place where it never was. Show this each part as it is told, and [`flush`](Parts::flush)
/// before any other event and at the end of each poll; feed the events that come back, through [`Arrivals`](super::Arrivals) if
/// the host has no times.
///
/// Two axes of a stick that are told one directly after the other are one event. So are two arms of a directional pad that both go
/// down, or both go up: a thumb that hits a diagonal. An arm that goes up while another goes down is an event of its own: the diagonal
/// between the two stays.
///
/// ```
/// use tidy_lever::adapter::Parts;
/// use tidy_lever::event::Input;
/// use tidy_lever::{Control, Device};
///
/// let mut parts = Parts::new();
/// let (pad, x, y) = (Device::default(), "pad:left-stick.x".parse()?, "pad:left-stick.y".parse()?);
/// assert_eq!(parts.tell(pad, x, 0.6), None);
/// assert_eq!(parts.tell(pad, y, -0.8), None);
/// let event = parts.flush().unwrap();
/// assert_eq!(event.input, Input::Pair { control: Control::LEFT_STICK, x: 0.6, y: -0.8 });
/// assert_eq!(parts.flush(), None);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Default)]
pub struct Parts {
    known: Vec<Known>,
    /// The parts of the event that is being put together; all are of one control.
    open: Vec<Open>,
}

impl Parts {
    /// All controls are at rest.
    pub fn new() -> Parts {
        Parts::default()
    }

    /// A part of a control is at this level now: -1 to 1 for `x` and `y`, 0 to 1 for `up`, `down`, `left` and `right`. Returns the
    /// event before it, if that is complete by now. What is told as a whole, and a control without parts, changes nothing.
    pub fn tell(&mut self, device: Device, bindable: Bindable, level: f32) -> Option<Event> {
        let Bindable { control, part } = bindable;
        let level = if level.is_finite() { level } else { 0.0 };
        let sides: &[(usize, f32)] = match part {
            Part::X => &[(0, (-level).max(0.0)), (1, level.max(0.0))],
            Part::Y => &[(2, (-level).max(0.0)), (3, level.max(0.0))],
            Part::Left => &[(0, level)],
            Part::Right => &[(1, level)],
            Part::Down => &[(2, level)],
            Part::Up => &[(3, level)],
            Part::Whole => return None,
        };
        let place = self.place(device, control);
        let known = &mut self.known[place].sides;
        let is_arm = sides.len() == 1;
        let down = is_arm.then(|| level > known[sides[0].0]);
        if sides.iter().all(|(side, level)| known[*side] == *level) {
            // As it was: hosts tell some levels twice.
            return None;
        }
        let own = Open { device, control, part, down };
        let goes_on = |open: &Open| {
            (open.device, open.control, open.down) == (own.device, own.control, own.down) && open.part != own.part
        };
        let complete = if self.open.iter().all(goes_on) { None } else { self.flush() };
        sides.iter().for_each(|(side, level)| self.known[place].sides[*side] = *level);
        self.open.push(own);
        complete
    }

    /// Nothing more belongs to the last event: it comes out, if there is one. Call it before an event of any other control, and at
    /// the end of each poll.
    pub fn flush(&mut self) -> Option<Event> {
        let Open { device, control, .. } = *self.open.first()?;
        self.open.clear();
        let place = self.place(device, control);
        Some(self.known[place].event())
    }

    /// A device is gone: its controls are at rest when it comes back.
    pub fn forget(&mut self, device: Device) {
        self.known.retain(|known| known.device != device);
        self.open.retain(|open| open.device != device);
    }

    fn place(&mut self, device: Device, control: Control) -> usize {
        let is_own = |known: &Known| (known.device, known.control) == (device, control);
        self.known.iter().position(is_own).unwrap_or_else(|| {
            self.known.push(Known { device, control, sides: [0.0; 4] });
            self.known.len() - 1
        })
    }
}

#[cfg(test)]
mod tests {
    use alloc::format;

    use super::*;
    use crate::event::Input;

    /// What comes of parts that are told one after the other, `dpad.up` with its level.
    fn told(all: &[(&str, f32)]) -> Vec<(f32, f32)> {
        let mut parts = Parts::new();
        let mut came = Vec::new();
        for (name, level) in all {
            came.extend(parts.tell(Device::default(), format!("pad:{name}").parse().unwrap(), *level));
        }
        came.extend(parts.flush());
        let place = |event: Event| match event.input {
            Input::Pair { x, y, .. } => (x, y),
            _ => panic!("{event:?}"),
        };
        came.into_iter().map(place).collect()
    }

    #[test]
    fn axes_of_one_report_are_one_event_and_those_of_two_are_two() {
        assert_eq!(told(&[("left-stick.x", 0.5), ("left-stick.y", 0.25)]), [(0.5, 0.25)]);
        let twice = [("left-stick.x", 0.5), ("left-stick.y", 0.25), ("left-stick.x", 1.0), ("left-stick.y", 0.0)];
        assert_eq!(told(&twice), [(0.5, 0.25), (1.0, 0.0)]);
        assert_eq!(told(&[("left-stick.x", 0.5), ("right-stick.x", 1.0)]), [(0.5, 0.0), (1.0, 0.0)]);
        // What is told again as it was says nothing.
        assert_eq!(told(&[("left-stick.x", 0.5), ("left-stick.x", 0.5), ("left-stick.y", 0.25)]), [(0.5, 0.25)]);
        assert_eq!(told(&[("left-stick.x", f32::NAN)]), []);
    }

    #[test]
    fn a_roll_over_a_directional_pad_keeps_its_diagonal_and_a_thumb_that_hits_one_passes_no_straight() {
        assert_eq!(told(&[("dpad.down", 1.0), ("dpad.right", 1.0)]), [(1.0, -1.0)]);
        let roll = [("dpad.down", 1.0), ("dpad.right", 1.0), ("dpad.down", 0.0), ("dpad.right", 0.0)];
        assert_eq!(told(&roll), [(1.0, -1.0), (0.0, 0.0)]);
        let apart = [("dpad.right", 1.0), ("dpad.right", 0.0), ("dpad.left", 1.0)];
        assert_eq!(told(&apart), [(1.0, 0.0), (0.0, 0.0), (-1.0, 0.0)]);
        let over = [("dpad.down", 1.0), ("dpad.down", 0.0), ("dpad.right", 1.0)];
        assert_eq!(told(&over), [(0.0, -1.0), (0.0, 0.0), (1.0, 0.0)]);
    }
}
