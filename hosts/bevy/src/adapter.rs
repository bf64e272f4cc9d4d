//! Reads the engine's messages, and reports them as every adapter does: positions by their names, up is +y, no key repeat.

use std::collections::HashMap;

use bevy_ecs::prelude::*;
use bevy_ecs::system::SystemParam;
use bevy_input::ButtonState;
use bevy_input::gamepad::{GamepadAxis, GamepadButton, GamepadConnection, RawGamepadEvent};
use bevy_input::keyboard::{Key, KeyCode, KeyboardInput};
use bevy_input::mouse::{MouseButton, MouseButtonInput, MouseMotion, MouseScrollUnit, MouseWheel};
use bevy_input::touch::{TouchInput, TouchPhase};
use bevy_time::{Real, Time};
use bevy_window::{CursorMoved, Window, WindowFocused, WindowResized};
use tidy_lever::adapter::{Arrivals, Devices, Parts, Report, Wheel};
use tidy_lever::control::Bindable;
use tidy_lever::event::{Device, Phase};
use tidy_lever::prompt::Labels;
use tidy_lever::{Control, Event, Moment};

use crate::players::Players;

/// So many pixels of a smooth wheel are a notch.
const PIXELS: f32 = 40.0;

/// Turns the engine's messages into reports.
#[derive(Debug, Resource)]
pub struct Adapter {
    /// Sources that are polled apart are spread apart.
    keys: Arrivals,
    mouse: Arrivals,
    touch: Arrivals,
    pads: Arrivals,
    parts: Parts,
    devices: Devices,
    plugged: HashMap<Entity, Device>,
    /// What each button and trigger of a pad was last told to be.
    levels: HashMap<(Device, Control), f32>,
    wheel: Wheel,
    labels: Labels,
    /// The view's size, and whether a window has the focus.
    size: (f32, f32),
    view: Option<(u32, u32)>,
    focused: HashMap<Entity, bool>,
    focus: bool,
    /// What is reported before this frame's events, and after them.
    before: Vec<Report>,
    after: Vec<Report>,
    /// What others report.
    reported: Vec<Report>,
    /// What the last frame's messages came to.
    pub(crate) reports: Vec<Report>,
}

impl Default for Adapter {
    fn default() -> Adapter {
        let source = || Arrivals::new(Moment::ZERO);
        Adapter {
            keys: source(),
            mouse: source(),
            touch: source(),
            pads: source(),
            parts: Parts::new(),
            devices: Devices::new(),
            plugged: HashMap::new(),
            levels: HashMap::new(),
            wheel: Wheel::new(),
            labels: Labels::default(),
            size: (1.0, 1.0),
            view: None,
            focused: HashMap::new(),
            focus: true,
            before: Vec::new(),
            after: Vec::new(),
            reported: Vec::new(),
            reports: Vec::new(),
        }
    }
}

/// The control of a position; `None` for keys that have no name.
fn key(code: KeyCode) -> Option<Control> {
    let name = match code {
        KeyCode::SuperLeft => "MetaLeft".to_owned(),
        KeyCode::SuperRight => "MetaRight".to_owned(),
        code => format!("{code:?}"),
    };
    format!("keys:{name}").parse().ok()
}

/// The control of a pad's button, or the arm that it is.
fn button(button: GamepadButton) -> Option<Bindable> {
    let name = match button {
        GamepadButton::South => "south",
        GamepadButton::East => "east",
        GamepadButton::North => "north",
        GamepadButton::West => "west",
        GamepadButton::LeftTrigger => "left-shoulder",
        GamepadButton::RightTrigger => "right-shoulder",
        GamepadButton::LeftTrigger2 => "left-trigger",
        GamepadButton::RightTrigger2 => "right-trigger",
        GamepadButton::Select => "select",
        GamepadButton::Start => "start",
        GamepadButton::Mode => "home",
        GamepadButton::LeftThumb => "left-thumb",
        GamepadButton::RightThumb => "right-thumb",
        GamepadButton::DPadUp => "dpad.up",
        GamepadButton::DPadDown => "dpad.down",
        GamepadButton::DPadLeft => "dpad.left",
        GamepadButton::DPadRight => "dpad.right",
        _ => return None,
    };
    format!("pad:{name}").parse().ok()
}

fn axis(axis: GamepadAxis) -> Option<Bindable> {
    let name = match axis {
        GamepadAxis::LeftStickX => "left-stick.x",
        GamepadAxis::LeftStickY => "left-stick.y",
        GamepadAxis::RightStickX => "right-stick.x",
        GamepadAxis::RightStickY => "right-stick.y",
        _ => return None,
    };
    format!("pad:{name}").parse().ok()
}

fn level(state: ButtonState) -> f32 {
    if state == ButtonState::Pressed { 1.0 } else { 0.0 }
}

/// A moment that doesn't matter, as the event is spread.
const SOME: Moment = Moment::ZERO;

impl Adapter {
    /// What is printed on the keys that were pressed so far, for prompts.
    pub fn labels(&self) -> &Labels {
        &self.labels
    }

    /// Hands on what another adapter reports, with times of its own on the clock [`Time<Real>`]: it reaches the seats with this
    /// frame's events.
    pub fn report(&mut self, report: Report) {
        self.reported.push(report);
    }

    /// What the last frame's messages came to, for a recorder or a test.
    pub fn reports(&self) -> &[Report] {
        &self.reports
    }

    fn key(&mut self, input: &KeyboardInput) {
        let Some(control) = key(input.key_code).filter(|_| !input.repeat) else { return };
        if let (ButtonState::Pressed, Key::Character(text)) = (input.state, &input.logical_key) {
            // Without a modifier a letter is small; on the key it is printed large.
            self.labels.set(control, &text.to_uppercase());
        }
        self.keys.came(Event::level(SOME, Devices::keyboard(), control, level(input.state)));
    }

    fn mouse_button(&mut self, input: &MouseButtonInput) {
        let control = match input.button {
            MouseButton::Left => Control::MOUSE_LEFT,
            MouseButton::Right => Control::MOUSE_RIGHT,
            MouseButton::Middle => Control::MOUSE_MIDDLE,
            MouseButton::Back => Control::MOUSE_BACK,
            MouseButton::Forward => Control::MOUSE_FORWARD,
            MouseButton::Other(_) => return,
        };
        self.mouse.came(Event::level(SOME, Devices::mouse(), control, level(input.state)));
    }

    fn motion(&mut self, motion: &MouseMotion) {
        // Down is positive there.
        let (x, y) = (motion.delta.x, -motion.delta.y);
        self.mouse.came(Event::pair(SOME, Devices::mouse(), Control::MOUSE_MOVE, x, y));
    }

    fn wheel(&mut self, wheel: &MouseWheel) {
        let notch = if wheel.unit == MouseScrollUnit::Line { 1.0 } else { PIXELS };
        // Turned to the right, a picture moves left there.
        for (control, notches) in self.wheel.turn(f64::from(-wheel.x / notch), f64::from(wheel.y / notch)) {
            self.mouse.came(Event::level(SOME, Devices::mouse(), control, notches));
        }
    }

    fn cursor(&mut self, moved: &CursorMoved) {
        let (x, y) = (moved.position.x / self.size.0, moved.position.y / self.size.1);
        self.mouse.came(Event::pair(SOME, Devices::mouse(), Control::MOUSE_PLACE, x, y));
    }

    fn finger(&mut self, input: &TouchInput) {
        let phase = match input.phase {
            TouchPhase::Started => Phase::Down,
            TouchPhase::Moved => Phase::Move,
            TouchPhase::Ended => Phase::Up,
            TouchPhase::Canceled => Phase::Cancel,
        };
        let (x, y) = (input.position.x / self.size.0, input.position.y / self.size.1);
        self.touch.came(Event::touch(SOME, Devices::screen(), input.id, phase, x, y));
    }

    fn pad(&mut self, event: &RawGamepadEvent, now: Moment) {
        match event {
            RawGamepadEvent::Connection(own) => match &own.connection {
                GamepadConnection::Connected { name, vendor_id, product_id } => {
                    let kind = format!("{vendor_id:?}:{product_id:?}:{name}");
                    self.plug(own.gamepad, &kind, name, now);
                }
                GamepadConnection::Disconnected => self.unplug(own.gamepad, now),
            },
            RawGamepadEvent::Button(own) => {
                let (Some(device), Some(part)) = (self.device(own.gamepad, now), button(own.button)) else { return };
                self.told(device, part, own.value.clamp(0.0, 1.0));
            }
            RawGamepadEvent::Axis(own) => {
                let (Some(device), Some(part)) = (self.device(own.gamepad, now), axis(own.axis)) else { return };
                self.told(device, part, own.value.clamp(-1.0, 1.0));
            }
        }
    }

    /// A button, or a part of a control, is at this level.
    fn told(&mut self, device: Device, part: Bindable, value: f32) {
        if value.is_nan() {
            return;
        }
        if part.control != Control::DPAD && part.control != Control::LEFT_STICK && part.control != Control::RIGHT_STICK
        {
            if self.levels.insert((device, part.control), value).unwrap_or(0.0) != value {
                let complete = self.parts.flush();
                complete.into_iter().for_each(|event| self.pads.came(event));
                self.pads.came(Event::level(SOME, device, part.control, value));
            }
            return;
        }
        let complete = self.parts.tell(device, part, value);
        complete.into_iter().for_each(|event| self.pads.came(event));
    }

    fn device(&mut self, gamepad: Entity, now: Moment) -> Option<Device> {
        match self.plugged.get(&gamepad) {
            Some(device) => Some(*device),
            // One that spoke before it was said to be there.
            None => self.plug(gamepad, "pad", "pad", now),
        }
    }

    fn plug(&mut self, gamepad: Entity, kind: &str, name: &str, at: Moment) -> Option<Device> {
        if let Some(device) = self.plugged.get(&gamepad) {
            return Some(*device);
        }
        let device = self.devices.plug(kind)?;
        self.plugged.insert(gamepad, device);
        let is_gone = |report: &Report| matches!(report, Report::Gone { device: gone, .. } if *gone == device);
        // Back within the frame in which it went.
        if let Some(place) = self.after.iter().position(is_gone) {
            let gone = self.after.remove(place);
            self.before.push(gone);
        }
        let name = if name.trim().is_empty() { "pad" } else { name.trim() }.to_owned();
        self.before.push(Report::Came { device, name, at });
        Some(device)
    }

    fn unplug(&mut self, gamepad: Entity, at: Moment) {
        let Some(device) = self.plugged.remove(&gamepad) else { return };
        let complete = self.parts.flush();
        complete.into_iter().for_each(|event| self.pads.came(event));
        self.parts.forget(device);
        self.levels.retain(|(of, _), _| *of != device);
        self.devices.unplug(device);
        self.after.push(Report::Gone { device, at });
    }

    /// The windows' focus is as it is now.
    fn focus(&mut self, now: Moment) {
        let any = self.focused.values().any(|focused| *focused);
        if std::mem::replace(&mut self.focus, any) != any {
            let side = if any { &mut self.before } else { &mut self.after };
            side.push(Report::Focus(any, now));
        }
    }

    fn resized(&mut self, width: f32, height: f32) {
        if width < 1.0 || height < 1.0 {
            return;
        }
        self.size = (width, height);
        let view = (width as u32, height as u32);
        if self.view.replace(view) != Some(view) {
            self.before.push(Report::View(view.0, view.1));
        }
    }

    /// The frame's messages were all shown: what they come to, in order. Nothing is spread up to `played`.
    fn poll(&mut self, now: Moment, played: Moment) {
        let complete = self.parts.flush();
        complete.into_iter().for_each(|event| self.pads.came(event));
        self.reports.clear();
        self.reports.append(&mut self.before);
        self.reports.append(&mut self.reported);
        let (mut gap, reports) = (None, &mut self.reports);
        for source in [&mut self.keys, &mut self.mouse, &mut self.touch, &mut self.pads] {
            let found = source.poll(now, played, |event| reports.push(Report::Event(event)));
            gap = gap.or(found);
        }
        self.reports.append(&mut self.after);
        self.reports.extend(gap.map(Report::Gap));
    }
}

/// All messages that devices and windows write.
#[derive(SystemParam)]
pub(crate) struct Said<'w, 's> {
    keys: MessageReader<'w, 's, KeyboardInput>,
    buttons: MessageReader<'w, 's, MouseButtonInput>,
    motions: MessageReader<'w, 's, MouseMotion>,
    wheels: MessageReader<'w, 's, MouseWheel>,
    cursors: MessageReader<'w, 's, CursorMoved>,
    fingers: MessageReader<'w, 's, TouchInput>,
    pads: MessageReader<'w, 's, RawGamepadEvent>,
    focus: MessageReader<'w, 's, WindowFocused>,
    sizes: MessageReader<'w, 's, WindowResized>,
    windows: Query<'w, 's, &'static Window>,
}

/// Shows the adapter this frame's messages.
pub(crate) fn read(mut said: Said, real: Res<Time<Real>>, players: Res<Players>, mut adapter: ResMut<Adapter>) {
    let (now, adapter) = (Moment::ZERO + real.elapsed(), &mut *adapter);
    if let Some(window) = said.windows.iter().next() {
        adapter.resized(window.width(), window.height());
    }
    said.sizes.read().for_each(|size| adapter.resized(size.width, size.height));
    if !said.focus.is_empty() {
        said.focus.read().for_each(|own| _ = adapter.focused.insert(own.window, own.focused));
        adapter.focus(now);
    }
    said.keys.read().for_each(|own| adapter.key(own));
    said.buttons.read().for_each(|own| adapter.mouse_button(own));
    said.motions.read().for_each(|own| adapter.motion(own));
    said.wheels.read().for_each(|own| adapter.wheel(own));
    said.cursors.read().for_each(|own| adapter.cursor(own));
    said.fingers.read().for_each(|own| adapter.finger(own));
    said.pads.read().for_each(|own| adapter.pad(own, now));
    adapter.poll(now, players.played());
}
