//! Pointers: mice, pens and fingers; and the wheel.

use tidy_lever::adapter::Devices;
use tidy_lever::event::Phase;
use tidy_lever::{Control, Event};
use wasm_bindgen::JsCast;
use web_sys::{HtmlElement, PointerEvent, WheelEvent};

use crate::hands::Hands;
use crate::held::Buttons;

/// So many pixels are a notch, or so many lines, or a page.
const PIXELS: f64 = 100.0;
const LINES: f64 = 3.0;

/// The buttons of a mouse, by the bit that says so in an event.
const BUTTONS: [(u16, Control); 5] = [
    (1, Control::MOUSE_LEFT),
    (2, Control::MOUSE_RIGHT),
    (4, Control::MOUSE_MIDDLE),
    (8, Control::MOUSE_BACK),
    (16, Control::MOUSE_FORWARD),
];

/// Where the element lies in the window.
struct Frame {
    left: f64,
    top: f64,
    wide: f64,
    high: f64,
}

impl Frame {
    fn of(element: &HtmlElement) -> Frame {
        let rect = element.get_bounding_client_rect();
        Frame { left: rect.left(), top: rect.top(), wide: rect.width().max(1.0), high: rect.height().max(1.0) }
    }

    /// A place as a share of the element; captured pointers reach beyond it.
    fn share(&self, event: &PointerEvent) -> (f32, f32) {
        let (x, y) = (f64::from(event.client_x()), f64::from(event.client_y()));
        (((x - self.left) / self.wide) as f32, ((y - self.top) / self.high) as f32)
    }
}

/// Whether a pointer is a finger, or a pen that touches or touched.
fn touches(hands: &Hands, event: &PointerEvent) -> bool {
    match event.pointer_type().as_str() {
        "touch" => true,
        "pen" => event.buttons() != 0 || hands.fingers.contains(&event.pointer_id()),
        _ => false,
    }
}

/// A pointer goes down, moves, lifts or is taken away. `locked`: it is locked to the element, and is in no place.
pub(crate) fn pointer(hands: &mut Hands, element: &HtmlElement, event: &PointerEvent, phase: Phase, locked: bool) {
    let within = Frame::of(element);
    if touches(hands, event) {
        return finger(hands, &within, event, phase);
    }
    for part in parts(event, phase) {
        mouse(hands, &within, &part, locked);
    }
}

/// All moves that the browser put together into one event; else the event itself.
fn parts(event: &PointerEvent, phase: Phase) -> Vec<PointerEvent> {
    let mut parts = Vec::new();
    if phase == Phase::Move {
        let list = js_sys::Reflect::get(event, &"getCoalescedEvents".into());
        if list.is_ok_and(|way| way.is_function()) {
            parts.extend(event.get_coalesced_events().iter().filter_map(|part| part.dyn_into().ok()));
        }
    }
    if parts.is_empty() {
        parts.push(event.clone());
    }
    parts
}

fn finger(hands: &mut Hands, within: &Frame, event: &PointerEvent, phase: Phase) {
    let (id, screen) = (event.pointer_id(), Devices::screen());
    let known = hands.fingers.iter().position(|finger| *finger == id);
    match (phase, known) {
        (Phase::Down, None) => hands.fingers.push(id),
        (Phase::Move, Some(_)) => {}
        (Phase::Up | Phase::Cancel, Some(place)) => drop(hands.fingers.remove(place)),
        // It went down elsewhere, or before the focus was lost.
        _ => return,
    }
    for part in parts(event, phase) {
        let at = hands.at(screen, part.time_stamp());
        let (x, y) = within.share(&part);
        hands.push(Event::touch(at, screen, id as u64, phase, x, y));
    }
}

fn mouse(hands: &mut Hands, within: &Frame, event: &PointerEvent, locked: bool) {
    let mouse = Devices::mouse();
    let at = hands.at(mouse, event.time_stamp());
    let (across, down) = (event.movement_x() as f32, event.movement_y() as f32);
    if (across, down) != (0.0, 0.0) {
        // Down is positive there.
        hands.push(Event::pair(at, mouse, Control::MOUSE_MOVE, across, -down));
    }
    if !locked {
        let (x, y) = within.share(event);
        hands.push(Event::pair(at, mouse, Control::MOUSE_PLACE, x, y));
    }
    // While one button is held, others come as moves.
    let Buttons { down: before, stale } = hands.buttons;
    let stale = stale & event.buttons();
    let now = event.buttons() & !stale;
    hands.buttons = Buttons { down: now, stale };
    for (bit, control) in BUTTONS {
        if (before ^ now) & bit != 0 {
            hands.level(at, mouse, control, now & bit != 0);
        }
    }
}

/// The wheel turns.
pub(crate) fn wheel(hands: &mut Hands, event: &WheelEvent) {
    let notch = match event.delta_mode() {
        WheelEvent::DOM_DELTA_LINE => LINES,
        WheelEvent::DOM_DELTA_PAGE => 1.0,
        _ => PIXELS,
    };
    let at = hands.at(Devices::mouse(), event.time_stamp());
    // Down is positive there.
    let turned = hands.wheel.turn(event.delta_x() / notch, -event.delta_y() / notch);
    for (control, notches) in turned {
        hands.push(Event::level(at, Devices::mouse(), control, notches));
    }
}
