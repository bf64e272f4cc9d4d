//! An adapter: what a winit window says, as events of Tidy Lever.
//!
//! ```text
//!   WindowEvent, DeviceEvent ──▶ Adapter ──▶ Report: events for seats, focus, the view's size, close
//!   (as every adapter's, see `tidy_lever::adapter`)
//! ```
//!
//! Keys go by position; what is printed on them is learnt as they are pressed, for prompts. The platform's own key repeat
//! is dropped. Up is +y, right +x. winit hands its events on without their times, so each is stamped as it arrives.
//! Events that came in while the loop was busy arrive together; if the loop tells when it waits and goes on ([`Adapter::waits`],
//! [`Adapter::wakes`]), they are spread over the time in which it was busy.
//!
//! ```no_run
//! use tidy_lever::{Linkage, Moment, Profile};
//! use tidy_lever_winit::{Adapter, Report};
//! # fn next() -> winit::event::WindowEvent { unimplemented!() }
//!
//! # fn main() -> Result<(), Box<dyn std::error::Error>> {
//! let linkage = Linkage::build(&Profile::from_toml("tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n")?)?;
//! let mut seat = linkage.seat(Moment::ZERO);
//! let mut adapter = Adapter::new();
//! for said in adapter.window(&next()) {
//!     match said {
//!         Report::Event(event) => seat.feed(event)?,
//!         Report::Focus(focused, at) => seat.focus_at(focused, at)?,
//!         Report::View(width, height) => seat.set_view(width, height)?,
//!         Report::Close => return Ok(()),
//!         _ => {}
//!     }
//! }
//! // In `new_events`: `adapter.wakes()`. In `about_to_wait`, the same as above for `adapter.waits()`.
//! # Ok(())
//! # }
//! ```

mod keys;
#[cfg(test)]
mod tests;
mod wheel;

use std::time::Duration;

pub use tidy_lever::adapter::Report;
use tidy_lever::adapter::{Arrivals, Devices, Wheel};
use tidy_lever::event::{Device, Event, Phase};
use tidy_lever::prompt::Labels;
use tidy_lever::{Control, Moment};
use web_time::Instant;
use winit::event::{
    DeviceEvent, ElementState, KeyEvent, MouseButton, MouseScrollDelta, Touch, TouchPhase, WindowEvent,
};
use winit::keyboard::{Key, PhysicalKey};

/// Turns a window's events into Tidy Lever's.
#[derive(Debug)]
pub struct Adapter {
    began: Instant,
    size: (u32, u32),
    labels: Labels,
    wheel: Wheel,
    /// The key that was pressed last, and when.
    pressed: Option<(Control, Moment)>,
    /// The key that went up last, and when.
    lifted: Option<(Control, Moment)>,
    /// The last turn of the wheel, and when.
    turned: Option<(MouseScrollDelta, Moment)>,
    /// When the loop last looked for events: from then on it may have been busy.
    looked: Moment,
    /// When the loop last began to wait, if it does.
    waits: Option<Moment>,
    /// What came in while the loop was busy.
    burst: Option<Arrivals>,
}

/// What the window system tells together arrives within this span.
const ONE_MOMENT: Duration = Duration::from_micros(1_000);
/// No window system repeats a key that went down less than this long ago.
const SOONEST_REPEAT: Duration = Duration::from_millis(150);
/// A loop that was busy for less than this lets events have the moment at which they arrive.
const BUSY: Duration = Duration::from_millis(2);

impl Default for Adapter {
    fn default() -> Adapter {
        Adapter::new()
    }
}

/// A level of a button.
fn level(state: ElementState) -> f32 {
    if state == ElementState::Pressed { 1.0 } else { 0.0 }
}

impl Adapter {
    /// One whose clock begins now, for a window of unknown size.
    pub fn new() -> Adapter {
        Adapter {
            began: Instant::now(),
            size: (1, 1),
            labels: Labels::default(),
            wheel: Wheel::default(),
            pressed: None,
            lifted: None,
            turned: None,
            looked: Moment::ZERO,
            waits: None,
            burst: None,
        }
    }

    /// The loop goes on: call it in `new_events`.
    ///
    /// With this and [`waits`](Adapter::waits) the adapter knows which events came in while the loop was busy: all of them arrive at
    /// once, as soon as it is done. It holds them until the loop draws (`RedrawRequested`) or waits again, and spreads them over the
    /// time for which the loop was busy, as [`Arrivals`] does; each has that time as its [`spread`](Event::spread). If that was
    /// longer than 250 ms, it also reports a gap.
    pub fn wakes(&mut self) {
        self.wakes_at(self.now());
    }

    fn wakes_at(&mut self, at: Moment) {
        if let Some(waits) = self.waits.take()
            && at - waits < ONE_MOMENT
            && waits - self.looked >= BUSY
        {
            self.burst = Some(Arrivals::new(self.looked));
        }
        self.looked = at;
    }

    /// All that happened up to this moment was reported, if the loop calls [`wakes`](Adapter::wakes) and [`waits`](Adapter::waits): a
    /// game on another thread that steps no further than this hears nothing late. Ask in `about_to_wait`.
    pub fn told_up_to(&self) -> Moment {
        self.looked
    }

    /// The loop has nothing to do, and waits: call it in `about_to_wait`, and once more at its end if the game works there. Do what
    /// the reports say, as with [`window`](Adapter::window).
    pub fn waits(&mut self) -> Vec<Report> {
        self.waits_at(self.now())
    }

    fn waits_at(&mut self, at: Moment) -> Vec<Report> {
        let mut reports = Vec::new();
        self.end_burst(at, &mut reports);
        self.waits = Some(at);
        reports
    }

    /// Takes what a window's event said: at once, or with the burst that it is part of.
    fn takes(&mut self, said: Vec<Report>, ends_burst: bool, at: Moment) -> Vec<Report> {
        let mut reports = Vec::new();
        for report in said {
            match (&mut self.burst, report) {
                (Some(burst), Report::Event(event)) => burst.came(event),
                (_, report) => {
                    self.end_burst(at, &mut reports);
                    reports.push(report);
                }
            }
        }
        if ends_burst {
            self.end_burst(at, &mut reports);
        }
        reports
    }

    fn end_burst(&mut self, at: Moment, reports: &mut Vec<Report>) {
        if let Some(mut burst) = self.burst.take() {
            let gap = burst.poll(at, Moment::ZERO, |event| reports.push(Report::Event(event)));
            reports.extend(gap.map(Report::Gap));
        }
    }

    /// The moment now, on the clock that events are stamped by: what to advance to.
    pub fn now(&self) -> Moment {
        Moment::ZERO + self.began.elapsed()
    }

    /// What is printed on the keys that were pressed so far, for [`Linkage::prompts`](tidy_lever::Linkage::prompts).
    pub fn labels(&self) -> &Labels {
        &self.labels
    }

    /// The keyboard, as events name it; all keyboards of a window are one.
    pub fn keyboard() -> Device {
        Devices::keyboard()
    }

    /// The mouse, the same way.
    pub fn mouse() -> Device {
        Devices::mouse()
    }

    /// The touch screen, the same way.
    pub fn screen() -> Device {
        Devices::screen()
    }

    /// What a window's event says; most say nothing or one thing, a wheel may say two. What came in while the loop was busy is said
    /// later: see [`waits`](Adapter::waits).
    pub fn window(&mut self, event: &WindowEvent) -> Vec<Report> {
        self.window_at(event, self.now())
    }

    fn window_at(&mut self, event: &WindowEvent, at: Moment) -> Vec<Report> {
        self.looked = at;
        let said = self.says(event, at);
        self.takes(said, matches!(event, WindowEvent::RedrawRequested), at)
    }

    fn says(&mut self, event: &WindowEvent, at: Moment) -> Vec<Report> {
        match event {
            WindowEvent::KeyboardInput {
                event: KeyEvent { physical_key, logical_key, state, repeat, .. },
                is_synthetic,
                ..
            } => {
                // As the focus comes and goes, the platform makes up presses and releases of what is held. Going, the focus
                // itself says all. Coming back, it tells which keys are held: they are levels, and press nothing.
                if *is_synthetic {
                    let held = keys::control(*physical_key).filter(|_| *state == ElementState::Pressed);
                    return held
                        .map(|key| Report::Event(Event::stands(at, Devices::keyboard(), key, 1.0, 0.0)))
                        .into_iter()
                        .collect();
                }
                self.key(at, *physical_key, logical_key, *state, *repeat).into_iter().collect()
            }
            WindowEvent::MouseInput { state, button, .. } => self.button(at, *button, *state).into_iter().collect(),
            WindowEvent::MouseWheel { delta, .. } => {
                // One notch may be told twice, by the wheel's button and by its axis.
                let is_told = self.turned.take().is_some_and(|(known, when)| known == *delta && at - when < ONE_MOMENT);
                if is_told && matches!(delta, MouseScrollDelta::LineDelta(..)) {
                    return Vec::new();
                }
                self.turned = Some((*delta, at));
                let (right, up) = wheel::notches(*delta);
                let turned = self.wheel.turn(right, up);
                turned
                    .map(|(control, notches)| Report::Event(Event::level(at, Devices::mouse(), control, notches)))
                    .collect()
            }
            WindowEvent::CursorMoved { position, .. } => vec![self.pointer(at, position.x, position.y)],
            WindowEvent::Touch(Touch { phase, location, id, .. }) => {
                vec![self.touch(at, *id, *phase, location.x, location.y)]
            }
            WindowEvent::Focused(focused) => vec![Report::Focus(*focused, at)],
            WindowEvent::Resized(size) => self.resized(size.width, size.height).into_iter().collect(),
            WindowEvent::CloseRequested => vec![Report::Close],
            _ => Vec::new(),
        }
    }

    /// What a device's own event says: relative counts of the mouse, wherever its pointer is.
    pub fn device(&mut self, event: &DeviceEvent) -> Option<Report> {
        let DeviceEvent::MouseMotion { delta: (x, y) } = event else { return None };
        let at = self.now();
        self.looked = at;
        // Down is positive there.
        let (x, y) = (*x as f32, -*y as f32);
        Some(Report::Event(Event::pair(at, Devices::mouse(), Control::MOUSE_MOVE, x, y)))
    }

    /// A key, by its position; its label is learnt on the way.
    pub fn key(
        &mut self,
        at: Moment,
        position: PhysicalKey,
        label: &Key,
        state: ElementState,
        repeat: bool,
    ) -> Option<Report> {
        let control = keys::control(position)?;
        if repeat {
            return None;
        }
        let lifted = self.lifted.take();
        if state == ElementState::Released {
            self.lifted = Some((control, at));
        } else {
            let is_just_up = lifted.is_some_and(|(key, up)| key == control && at - up < ONE_MOMENT);
            let is_new = self.pressed.is_some_and(|(key, down)| key == control && at - down < SOONEST_REPEAT);
            if is_just_up && !is_new {
                // Some window systems repeat a key that is held by a going up and down at once. It is down, and was not pressed.
                return Some(Report::Event(Event::stands(at, Devices::keyboard(), control, 1.0, 0.0)));
            }
            self.pressed = Some((control, at));
        }
        if let (ElementState::Pressed, Key::Character(text)) = (state, label) {
            // Without a modifier a letter is small; on the key it is printed large.
            self.labels.set(control, &text.to_uppercase());
        }
        Some(Report::Event(Event::level(at, Devices::keyboard(), control, level(state))))
    }

    /// A button of the mouse.
    pub fn button(&self, at: Moment, button: MouseButton, state: ElementState) -> Option<Report> {
        let control = match button {
            MouseButton::Left => Control::MOUSE_LEFT,
            MouseButton::Right => Control::MOUSE_RIGHT,
            MouseButton::Middle => Control::MOUSE_MIDDLE,
            MouseButton::Back => Control::MOUSE_BACK,
            MouseButton::Forward => Control::MOUSE_FORWARD,
            MouseButton::Other(_) => return None,
        };
        Some(Report::Event(Event::level(at, Devices::mouse(), control, level(state))))
    }

    /// The pointer's place in pixels, as a share of the view.
    pub fn pointer(&self, at: Moment, x: f64, y: f64) -> Report {
        let (x, y) = self.share(x, y);
        Report::Event(Event::pair(at, Devices::mouse(), Control::MOUSE_PLACE, x, y))
    }

    /// A finger's place in pixels.
    pub fn touch(&self, at: Moment, finger: u64, phase: TouchPhase, x: f64, y: f64) -> Report {
        let phase = match phase {
            TouchPhase::Started => Phase::Down,
            TouchPhase::Moved => Phase::Move,
            TouchPhase::Ended => Phase::Up,
            TouchPhase::Cancelled => Phase::Cancel,
        };
        let (x, y) = self.share(x, y);
        Report::Event(Event::touch(at, Devices::screen(), finger, phase, x, y))
    }

    /// The window has another size; one without a width or a height is minimised, and changes nothing.
    pub fn resized(&mut self, width: u32, height: u32) -> Option<Report> {
        if width == 0 || height == 0 || (width, height) == self.size {
            return None;
        }
        self.size = (width, height);
        Some(Report::View(width, height))
    }

    fn share(&self, x: f64, y: f64) -> (f32, f32) {
        ((x / f64::from(self.size.0)) as f32, (y / f64::from(self.size.1)) as f32)
    }
}
