//! The system's pads, by the package `gilrs`: device access alone.

use std::time::{SystemTime, UNIX_EPOCH};

use gilrs::ev::Code;
use gilrs::{Axis, Button, EventType, GamepadId, Gilrs, GilrsBuilder};
use tidy_lever::Control;

use crate::source::{Numbers, PadName, Place, Seen, Source, Stamped, Times};

/// The system's pads.
#[derive(Debug)]
pub(crate) struct Real {
    pads: Gilrs,
    /// Those that were there at the start, to be told first.
    first: Vec<GamepadId>,
}

impl Real {
    pub(crate) fn open() -> Result<Real, String> {
        let built = GilrsBuilder::new().with_default_filters(false).set_update_state(false).build();
        let pads = built.map_err(|error| error.to_string())?;
        let mut first: Vec<GamepadId> = pads.gamepads().map(|(id, _)| id).collect();
        first.reverse();
        Ok(Real { pads, first })
    }

    fn name(&self, id: GamepadId) -> PadName {
        let Some(pad) = self.pads.connected_gamepad(id) else { return PadName::default() };
        let numbers = pad.vendor_id().zip(pad.product_id());
        let mut controls: Vec<Control> = Vec::new();
        let buttons = BUTTONS.into_iter().filter(|button| pad.button_code(*button).is_some()).filter_map(button_place);
        let axes = AXES.into_iter().filter(|axis| pad.axis_code(*axis).is_some()).filter_map(axis_place);
        for place in buttons.chain(axes) {
            let control = match place {
                Place::At(control) => control,
                Place::Axis { of, .. } => of,
                _ => Control::DPAD,
            };
            if !controls.contains(&control) {
                controls.push(control);
            }
        }
        let name = pad.os_name().trim().to_owned();
        let has = if cfg!(target_os = "linux") { numbers_of(&name) } else { None };
        PadName { name, numbers, controls, has }
    }
}

impl Source for Real {
    fn next(&mut self) -> Option<Stamped> {
        if let Some(id) = self.first.pop() {
            return Some(Stamped { stamp: None, seen: Seen::Came(id.into(), self.name(id)), asked: false });
        }
        loop {
            let event = self.pads.next_event()?;
            // After lost reports the pad was asked for its state: those events have the time 0.
            let stamp = micros(event.time).filter(|stamp| *stamp > 0);
            let id = event.id.into();
            let numbered = |code: Code, level: f32| match is_axis(code) {
                true => (Place::RawAxis(code.into_u32() & 0xffff), level),
                false => (Place::Button(button_number(code)), level),
            };
            let seen = match event.event {
                EventType::Connected => Seen::Came(id, self.name(event.id)),
                EventType::Disconnected => Seen::Gone(id),
                EventType::ButtonChanged(button, level, code) => {
                    // An axis that stands for a button goes from −1 on.
                    let own = numbered(code, if is_axis(code) { level * 2.0 - 1.0 } else { level });
                    match button_place(button) {
                        Some(place) => Seen::Numbered(id, place, level, own),
                        None => Seen::Moved(id, Place::Button(button_number(code)), level),
                    }
                }
                // A button that can't be told apart by its level is told by its press alone.
                EventType::ButtonPressed(Button::Unknown, code) => {
                    Seen::Moved(id, Place::Button(button_number(code)), 1.0)
                }
                EventType::ButtonReleased(Button::Unknown, code) => {
                    Seen::Moved(id, Place::Button(button_number(code)), 0.0)
                }
                // A trigger that is an axis rests at −1; the middle of an even number of steps is 0 there, so that of 256
                // steps the lowest reads one step above −1.
                EventType::AxisChanged(axis @ (Axis::LeftZ | Axis::RightZ), level, code) => {
                    let trigger = if axis == Axis::LeftZ { Control::LEFT_TRIGGER } else { Control::RIGHT_TRIGGER };
                    let pressed = (((level + 1.0) * 128.0 - 1.0) / 255.0).max(0.0);
                    Seen::Numbered(id, Place::At(trigger), pressed, numbered(code, level))
                }
                EventType::AxisChanged(axis, level, code) => match axis_place(axis) {
                    Some(place) => {
                        // Up is made positive of these alone; a player's file counts as the device does.
                        let turned = matches!(axis, Axis::LeftStickY | Axis::RightStickY | Axis::DPadY);
                        Seen::Numbered(id, place, level, numbered(code, if turned { -level } else { level }))
                    }
                    None => Seen::Moved(id, Place::RawAxis(code.into_u32() & 0xffff), level),
                },
                _ => continue,
            };
            let asked = stamp.is_none() && matches!(seen, Seen::Moved(..));
            return Some(Stamped { stamp, seen, asked });
        }
    }

    fn times(&self) -> Times {
        if cfg!(target_os = "linux") { Times::System } else { Times::Arrival }
    }

    fn clock(&self) -> Option<u64> {
        micros(SystemTime::now())
    }
}

/// A time of the system's clock in microseconds.
fn micros(time: SystemTime) -> Option<u64> {
    time.duration_since(UNIX_EPOCH).ok().map(|since| since.as_micros() as u64)
}

/// What a pad of the standard layout may have.
const BUTTONS: [Button; 17] = [
    Button::South,
    Button::East,
    Button::West,
    Button::North,
    Button::LeftTrigger,
    Button::RightTrigger,
    Button::LeftTrigger2,
    Button::RightTrigger2,
    Button::Select,
    Button::Start,
    Button::Mode,
    Button::LeftThumb,
    Button::RightThumb,
    Button::DPadUp,
    Button::DPadDown,
    Button::DPadLeft,
    Button::DPadRight,
];
const AXES: [Axis; 8] = [
    Axis::LeftStickX,
    Axis::LeftStickY,
    Axis::RightStickX,
    Axis::RightStickY,
    Axis::DPadX,
    Axis::DPadY,
    Axis::LeftZ,
    Axis::RightZ,
];

/// Whether a code is an axis's.
fn is_axis(code: Code) -> bool {
    // The kernel's sort of event: 3 for axes.
    cfg!(target_os = "linux") && code.into_u32() >> 16 == 3
}

/// The numbers of the buttons and axes of the first device of a name, as the system lists them.
fn numbers_of(name: &str) -> Option<Numbers> {
    let devices = std::fs::read_dir("/sys/class/input").ok()?.flatten().map(|entry| entry.path().join("device"));
    let read = |folder: &std::path::Path, file: &str| std::fs::read_to_string(folder.join(file)).ok();
    let own =
        devices.into_iter().find(|folder| read(folder, "name").is_some_and(|known| known.trim() == name.trim()))?;
    // Words of 64 bits, the highest first.
    let bits = |file: &str| -> Option<Vec<u32>> {
        let text = read(&own, file)?;
        let words: Vec<u64> =
            text.split_whitespace().map(|word| u64::from_str_radix(word, 16).ok()).collect::<Option<_>>()?;
        let set =
            words.iter().rev().zip(0u32..).flat_map(|(word, place)| {
                (0..64).filter(move |bit| word >> bit & 1 == 1).map(move |bit| place * 64 + bit)
            });
        Some(set.collect())
    };
    let buttons = bits("capabilities/key")?.into_iter().map(|code| code.checked_sub(0x120).unwrap_or(code)).collect();
    Some(Numbers { buttons, axes: bits("capabilities/abs")? })
}

/// The number of a button; on Linux from the first of a joystick's on.
fn button_number(code: Code) -> u32 {
    let number = code.into_u32() & 0xffff;
    number.checked_sub(0x120).unwrap_or(number)
}

/// A button of the standard layout.
fn button_place(button: Button) -> Option<Place> {
    let at = |control| Some(Place::At(control));
    match button {
        Button::South => at(Control::PAD_SOUTH),
        Button::East => at(Control::PAD_EAST),
        Button::West => at(Control::PAD_WEST),
        Button::North => at(Control::PAD_NORTH),
        Button::LeftTrigger => at(Control::LEFT_SHOULDER),
        Button::RightTrigger => at(Control::RIGHT_SHOULDER),
        Button::LeftTrigger2 => at(Control::LEFT_TRIGGER),
        Button::RightTrigger2 => at(Control::RIGHT_TRIGGER),
        Button::Select => at(Control::PAD_SELECT),
        Button::Start => at(Control::PAD_START),
        Button::Mode => at(Control::PAD_HOME),
        Button::LeftThumb => at(Control::LEFT_THUMB),
        Button::RightThumb => at(Control::RIGHT_THUMB),
        Button::DPadUp => Some(Place::Arm { x: 0, y: 1 }),
        Button::DPadDown => Some(Place::Arm { x: 0, y: -1 }),
        Button::DPadLeft => Some(Place::Arm { x: -1, y: 0 }),
        Button::DPadRight => Some(Place::Arm { x: 1, y: 0 }),
        _ => None,
    }
}

/// An axis of the standard layout.
fn axis_place(axis: Axis) -> Option<Place> {
    let place = |of, upright| Some(Place::Axis { of, upright });
    match axis {
        Axis::LeftStickX => place(Control::LEFT_STICK, false),
        Axis::LeftStickY => place(Control::LEFT_STICK, true),
        Axis::RightStickX => place(Control::RIGHT_STICK, false),
        Axis::RightStickY => place(Control::RIGHT_STICK, true),
        Axis::DPadX => place(Control::DPAD, false),
        Axis::DPadY => place(Control::DPAD, true),
        Axis::LeftZ => Some(Place::At(Control::LEFT_TRIGGER)),
        Axis::RightZ => Some(Place::At(Control::RIGHT_TRIGGER)),
        _ => None,
    }
}
