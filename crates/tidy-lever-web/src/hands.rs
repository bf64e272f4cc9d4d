//! What was heard since the last frame, and what is held: shared by all listeners.

use core::time::Duration;

use tidy_lever::adapter::{Devices, Report, Wheel};
use tidy_lever::prompt::Labels;
use tidy_lever::{Control, Device, Event, Moment};

use crate::held::{Buttons, Keys};

/// A stamp further ahead is not believed. Browsers give none, but for events that scripts and tests send.
const AHEAD: Duration = Duration::from_secs(1);

/// What listeners leave for the next frame.
#[derive(Debug, Default)]
pub(crate) struct Hands {
    pub(crate) reports: Vec<Report>,
    pub(crate) labels: Labels,
    pub(crate) keys: Keys,
    pub(crate) buttons: Buttons,
    pub(crate) wheel: Wheel,
    /// The fingers that touch, by the browser's number.
    pub(crate) fingers: Vec<i32>,
    pub(crate) focused: bool,
    /// The press that brings the focus came at this moment, and counts.
    pub(crate) focus_from: Option<Moment>,
    /// The last moment of the keyboard, the mouse and the screen.
    last: [Moment; 3],
}

/// Milliseconds of the page's clock, as a moment.
pub(crate) fn moment(millis: f64) -> Moment {
    // What is not a number, or lies before the beginning, is the beginning.
    Moment::from_micros((millis * 1_000.0).round().max(0.0) as u64)
}

/// What the page's clock reads.
pub(crate) fn now() -> Moment {
    let clock = web_sys::window().and_then(|window| window.performance());
    clock.map_or(Moment::ZERO, |clock| moment(clock.now()))
}

impl Hands {
    /// The moment of a device's event: as the browser stamped it, but not before the device's last one.
    pub(crate) fn at(&mut self, device: Device, stamp: f64) -> Moment {
        let all = [Devices::keyboard(), Devices::mouse(), Devices::screen()];
        let at = moment(stamp).min(now() + AHEAD);
        match all.iter().position(|known| *known == device) {
            Some(place) => {
                self.last[place] = self.last[place].max(at);
                self.last[place]
            }
            None => at,
        }
    }

    pub(crate) fn push(&mut self, event: Event) {
        self.reports.push(Report::Event(event));
    }

    pub(crate) fn level(&mut self, at: Moment, device: Device, control: Control, down: bool) {
        self.push(Event::button(at, device, control, down));
    }

    /// The element has the focus, or lost it. What is held then goes up in each seat, and says nothing more here.
    pub(crate) fn focus(&mut self, focused: bool, stamp: f64) {
        if core::mem::replace(&mut self.focused, focused) == focused {
            return;
        }
        let mut at = self.focus_from.unwrap_or_else(|| moment(stamp).min(now() + AHEAD));
        for last in &mut self.last {
            // What was held was held until then.
            at = at.max(*last);
        }
        if !focused {
            self.keys.forget();
            self.buttons.forget();
            self.fingers.clear();
        }
        self.reports.push(Report::Focus(focused, at));
    }
}
