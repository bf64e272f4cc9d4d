//! Gamepads: how they stand when the page is asked, as what changed since.

use std::collections::VecDeque;

use tidy_lever::Control;
use tidy_lever_pads::{Numbers, PadId, PadName, Place, Seen, Source, Stamped, Times};
use wasm_bindgen::JsCast;
use web_sys::{Gamepad, GamepadButton, GamepadMappingType};

use crate::hands::now;

/// A stamp further back than this, in µs, is none of what just changed.
const STALE: u64 = 200_000;

/// The standard mapping's buttons, by number.
const BUTTONS: [Place; 17] = [
    Place::At(Control::PAD_SOUTH),
    Place::At(Control::PAD_EAST),
    Place::At(Control::PAD_WEST),
    Place::At(Control::PAD_NORTH),
    Place::At(Control::LEFT_SHOULDER),
    Place::At(Control::RIGHT_SHOULDER),
    Place::At(Control::LEFT_TRIGGER),
    Place::At(Control::RIGHT_TRIGGER),
    Place::At(Control::PAD_SELECT),
    Place::At(Control::PAD_START),
    Place::At(Control::LEFT_THUMB),
    Place::At(Control::RIGHT_THUMB),
    Place::Arm { x: 0, y: 1 },
    Place::Arm { x: 0, y: -1 },
    Place::Arm { x: -1, y: 0 },
    Place::Arm { x: 1, y: 0 },
    Place::At(Control::PAD_HOME),
];

/// The standard mapping's axes, by number; up and down are the other way round there.
const AXES: [(Place, f32); 4] = [
    (Place::Axis { of: Control::LEFT_STICK, upright: false }, 1.0),
    (Place::Axis { of: Control::LEFT_STICK, upright: true }, -1.0),
    (Place::Axis { of: Control::RIGHT_STICK, upright: false }, 1.0),
    (Place::Axis { of: Control::RIGHT_STICK, upright: true }, -1.0),
];

/// The browser's gamepads (W3C Gamepad API), as a source for [`Pads::from_source`](tidy_lever_pads::Pads::from_source).
///
/// They are asked once in each [`Pads::poll`](tidy_lever_pads::Pads::poll). A pad without the standard mapping is known by
/// its numbers alone, and plays once the player's file describes it.
#[derive(Debug, Default)]
pub struct WebPads {
    known: Vec<Pad>,
    /// Those that were here before: what they say first is how they stand.
    met: Vec<(PadId, String)>,
    seen: VecDeque<Stamped>,
    /// Whether they were asked in this round.
    asked: bool,
}

/// A pad as it stood.
#[derive(Debug)]
struct Pad {
    index: PadId,
    id: String,
    stood: Vec<(Place, f32)>,
}

impl WebPads {
    /// A source that knows no pad yet.
    pub fn new() -> WebPads {
        WebPads::default()
    }

    fn ask(&mut self) {
        let list = web_sys::window().and_then(|window| window.navigator().get_gamepads().ok());
        let pads = list.iter().flat_map(|list| list.iter());
        let pads: Vec<Gamepad> = pads.filter_map(|pad| pad.dyn_into().ok()).filter(Gamepad::connected).collect();
        let is_there = |known: &Pad| pads.iter().any(|pad| pad.index() as PadId == known.index && pad.id() == known.id);
        for gone in self.known.extract_if(.., |known| !is_there(known)) {
            self.seen.push_back(Stamped { stamp: None, seen: Seen::Gone(gone.index), asked: false });
        }
        for pad in &pads {
            self.look(pad);
        }
    }

    /// How one stands; what is other than before was seen.
    fn look(&mut self, pad: &Gamepad) {
        let index = pad.index() as PadId;
        let own = (index, pad.id());
        let known = self.known.iter().position(|known| known.index == index);
        let asked = known.is_none() && self.met.contains(&own);
        let place = known.unwrap_or_else(|| {
            if !asked {
                self.met.push(own);
            }
            self.seen.push_back(Stamped { stamp: None, seen: Seen::Came(index, name(pad)), asked: false });
            self.known.push(Pad { index, id: pad.id(), stood: Vec::new() });
            self.known.len() - 1
        });
        let (now, stamp) = (now().as_micros(), (pad.timestamp() * 1_000.0).round().max(0.0) as u64);
        let stamp = if stamp <= now && now - stamp <= STALE { stamp } else { now };
        let known = &mut self.known[place];
        for (place, level, numbered) in levels(pad) {
            let before = match known.stood.iter_mut().find(|(of, _)| *of == place) {
                Some((_, stood)) => core::mem::replace(stood, level),
                None => {
                    known.stood.push((place, level));
                    0.0
                }
            };
            if before != level {
                self.seen.push_back(Stamped {
                    stamp: Some(stamp),
                    seen: Seen::Numbered(index, place, level, numbered),
                    asked,
                });
            }
        }
    }
}

impl Source for WebPads {
    fn next(&mut self) -> Option<Stamped> {
        if !core::mem::replace(&mut self.asked, true) {
            self.ask();
        }
        let next = self.seen.pop_front();
        self.asked = next.is_some();
        next
    }

    fn times(&self) -> Times {
        Times::System
    }

    fn clock(&self) -> Option<u64> {
        Some(now().as_micros())
    }
}

/// What a pad says of itself, place by place, each with its number and its level there.
fn levels(pad: &Gamepad) -> Vec<(Place, f32, (Place, f32))> {
    let (buttons, axes) = (pad.buttons(), pad.axes());
    let button =
        |button: wasm_bindgen::JsValue| button.dyn_into::<GamepadButton>().map_or(0.0, |button| button.value());
    let is_standard = pad.mapping() == GamepadMappingType::Standard;
    let pressed = buttons.iter().enumerate().filter_map(|(number, value)| {
        let (own, level) = (Place::Button(number as u32), button(value) as f32);
        Some((if is_standard { *BUTTONS.get(number)? } else { own }, level, (own, level)))
    });
    let pushed = axes.iter().enumerate().filter_map(|(number, value)| {
        let (place, sign) = match is_standard {
            true => *AXES.get(number)?,
            false => (Place::RawAxis(number as u32), 1.0),
        };
        let level = value.as_f64().unwrap_or(0.0) as f32;
        Some((place, level * sign, (Place::RawAxis(number as u32), level)))
    });
    pressed.chain(pushed).collect()
}

/// A pad's plain name and its maker's and product's numbers, as browsers write them: `Name (… Vendor: 1234 Product: 5678)`,
/// or `1234-5678-Name`.
fn name(pad: &Gamepad) -> PadName {
    let id = pad.id();
    let number = |text: &str| text.get(..4).and_then(|text| u16::from_str_radix(text, 16).ok());
    let after = |word: &str| id.split_once(word).and_then(|(_, rest)| number(rest));
    let dashed = |text: &str| {
        let (vendor, rest) = text.split_once('-')?;
        let (product, name) = rest.split_once('-')?;
        Some((name.to_owned(), (number(vendor)?, number(product)?)))
    };
    let (name, numbers) = match dashed(&id) {
        Some((name, numbers)) => (name, Some(numbers)),
        None => {
            let plain = id.split(" (").next().unwrap_or(&id).trim().to_owned();
            (plain, after("Vendor: ").zip(after("Product: ")))
        }
    };
    let is_standard = pad.mapping() == GamepadMappingType::Standard;
    let pressed = BUTTONS.iter().filter_map(|place| if let Place::At(control) = place { Some(*control) } else { None });
    let all = pressed.chain([Control::DPAD, Control::LEFT_STICK, Control::RIGHT_STICK]);
    let has = Numbers { buttons: (0..pad.buttons().length()).collect(), axes: (0..pad.axes().length()).collect() };
    PadName { name, numbers, controls: all.filter(|_| is_standard).collect(), has: Some(has) }
}
