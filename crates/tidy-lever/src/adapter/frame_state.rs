//! Events for hosts that only say, once a frame, what is down now.

use super::{Arrivals, Gap};
use crate::control::{Control, Sort};
use crate::event::{Device, Event, Input};
use crate::time::Moment;
use alloc::vec::Vec;

/// Where a control of a device stands.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Stand {
    device: Device,
    control: Control,
    at: (f32, f32),
}

impl Stand {
    fn is_of(&self, other: &Stand) -> bool {
        (self.device, self.control) == (other.device, other.control)
    }

    fn event(&self, (x, y): (f32, f32)) -> Event {
        let Stand { device, control, .. } = *self;
        let input = match control.sort() {
            Sort::Pair => Input::Pair { control, x, y },
            _ => Input::Level { control, value: x },
        };
        Event::new(Moment::ZERO, device, input)
    }
}

/// Makes events of the state of all controls, told once a frame: for hosts that only answer "is this key down now?".
///
/// Tell everything that is down or away from rest; what isn't told in a frame is at rest. What differs from the frame before
/// becomes events, which are spread over the frame as [`Arrivals`] does. A press and a release within one frame can't be seen.
///
/// ```
/// use tidy_lever::adapter::FrameState;
/// use tidy_lever::{Control, Device, Moment};
///
/// let (at, key) = (Moment::from_millis, |name: &str| format!("keys:{name}").parse::<Control>().unwrap());
/// let mut frames = FrameState::new(at(0));
/// let mut told = Vec::new();
/// for (now, down) in [(16, &["KeyA", "Space"][..]), (32, &["KeyA"]), (48, &["KeyA"])] {
///     down.iter().for_each(|name| frames.is_down(Device::default(), key(name)));
///     frames.end(at(now), at(now - 16), |event| told.push(event.at));
/// }
/// // Two went down in the first frame, one went up in the second, and nothing changed in the third.
/// assert_eq!(told, [at(4), at(12), at(24)]);
/// ```
#[derive(Clone, Debug)]
pub struct FrameState {
    before: Vec<Stand>,
    now: Vec<Stand>,
    arrivals: Arrivals,
}

impl FrameState {
    /// Before the first frame, at this moment, everything is at rest.
    pub fn new(at: Moment) -> FrameState {
        FrameState { before: Vec::new(), now: Vec::new(), arrivals: Arrivals::new(at) }
    }

    /// A button is down.
    pub fn is_down(&mut self, device: Device, control: Control) {
        self.level(device, control, 1.0);
    }

    /// A button or a trigger is at this level, 0 to 1.
    pub fn level(&mut self, device: Device, control: Control, value: f32) {
        self.stands(Stand { device, control, at: (value, 0.0) });
    }

    /// A stick or a directional pad is here, right and up, each from -1 to 1.
    pub fn pair(&mut self, device: Device, control: Control, x: f32, y: f32) {
        self.stands(Stand { device, control, at: (x, y) });
    }

    /// The last word of a frame counts.
    fn stands(&mut self, stand: Stand) {
        match self.now.iter_mut().find(|known| known.is_of(&stand)) {
            Some(known) => *known = stand,
            None => self.now.push(stand),
        }
    }

    /// The frame is told. `feed` takes what changed since the one before, as [`Arrivals::poll`] does, which also says what is
    /// returned: first what goes up, then what goes down or moves.
    pub fn end(&mut self, now: Moment, played: Moment, feed: impl FnMut(Event)) -> Option<Gap> {
        self.now.retain(|stand| stand.at != (0.0, 0.0));
        for gone in self.before.iter().filter(|before| !self.now.iter().any(|now| now.is_of(before))) {
            self.arrivals.came(gone.event((0.0, 0.0)));
        }
        for stand in self.now.iter().filter(|now| !self.before.contains(now)) {
            self.arrivals.came(stand.event(stand.at));
        }
        core::mem::swap(&mut self.before, &mut self.now);
        self.now.clear();
        self.arrivals.poll(now, played, feed)
    }
}
