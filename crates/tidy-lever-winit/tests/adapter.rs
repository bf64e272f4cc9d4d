//! Promise: what a window says plays on a seat as it was meant.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use tidy_lever::adapter::Conformance;
use tidy_lever::event::Phase;
use tidy_lever::{Event, Family, Linkage, Moment, Profile, Seat};
use tidy_lever_winit::{Adapter, Report};
use winit::dpi::PhysicalSize;
use winit::event::{DeviceEvent, ElementState, MouseButton, TouchPhase, WindowEvent};
use winit::keyboard::{Key, KeyCode, PhysicalKey};

const PROFILE: &str = "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = \"KeyW\"\nmouse = \"left\"\n\
    [action.look]\nkind = \"sweep\"\nmouse = \"move\"\nper_count = 1\n[action.point]\nkind = \"pointer\"\nmouse = [\"place\", \"right\"]\ntouch = \"place\"\n";

fn seat() -> (Linkage, Seat) {
    let linkage = Linkage::build(&Profile::from_toml(PROFILE).unwrap()).unwrap();
    let seat = linkage.seat(Moment::ZERO);
    (linkage, seat)
}

/// Hands what was said to a seat, as a game would.
fn tell(seat: &mut Seat, said: impl IntoIterator<Item = Report>) {
    for said in said {
        match said {
            Report::Event(event) => seat.feed(event).unwrap(),
            Report::Focus(focused, at) => seat.focus_at(focused, at).unwrap(),
            Report::View(width, height) => seat.set_view(width, height).unwrap(),
            _ => {}
        }
    }
}

fn w(adapter: &mut Adapter, at: u64, state: ElementState, repeat: bool) -> Option<Report> {
    // On this keyboard the key at W's place reads z.
    adapter.key(Moment::from_micros(at), PhysicalKey::Code(KeyCode::KeyW), &Key::Character("z".into()), state, repeat)
}

#[test]
fn keys_go_by_position_repeats_are_dropped_and_labels_are_learnt() {
    let ((linkage, mut seat), mut adapter) = (seat(), Adapter::new());
    let hop = linkage.find("hop").unwrap();
    for (at, state, repeat) in [
        (10, ElementState::Pressed, false),
        (50_000, ElementState::Pressed, true),
        (90_000, ElementState::Released, false),
    ] {
        tell(&mut seat, w(&mut adapter, at, state, repeat));
    }
    seat.advance(Moment::from_micros(100_000));
    assert_eq!((seat.button(hop).presses(), seat.button(hop).last_held_for().as_micros()), (1, 89_990));
    assert_eq!(linkage.prompts("hop", Family::Keys, adapter.labels())[0].text, "Z");
    assert_eq!(seat.stats().repeats, 0, "nothing of the repeat reached the seat");
}

#[test]
fn a_repeat_that_comes_as_up_and_down_in_one_moment_presses_nothing() {
    let ((linkage, mut seat), mut adapter) = (seat(), Adapter::new());
    let hop = linkage.find("hop").unwrap();
    let (down, up) = (ElementState::Pressed, ElementState::Released);
    for (at, state) in [(10, down), (500_000, up), (500_040, down), (530_000, up), (530_020, down)] {
        tell(&mut seat, w(&mut adapter, at, state, false));
    }
    seat.advance(Moment::from_micros(600_000));
    assert_eq!(seat.button(hop).presses(), 1);
    // Let go and pressed again by a hand it counts.
    for (at, state) in [(700_000, up), (760_000, down)] {
        tell(&mut seat, w(&mut adapter, at, state, false));
    }
    seat.advance(Moment::from_micros(800_000));
    assert_eq!((seat.button(hop).presses(), seat.button(hop).is_down()), (1, true));
}

#[test]
fn mouse_and_touch_turn_their_signs_and_shares() {
    let ((linkage, mut seat), mut adapter) = (seat(), Adapter::new());
    tell(&mut seat, adapter.window(&WindowEvent::Resized(PhysicalSize::new(800, 600))));
    let at = Moment::from_micros;
    tell(&mut seat, [adapter.pointer(at(10), 400.0, 150.0)]);
    tell(&mut seat, adapter.button(at(20), MouseButton::Left, ElementState::Pressed));
    assert_eq!(adapter.button(at(20), MouseButton::Other(9), ElementState::Pressed), None);
    seat.advance(at(100));
    let point = linkage.find("point").unwrap();
    assert_eq!(seat.pointer(point).pixels(), Some((400.0, 150.0)));
    assert!(seat.button(linkage.find("hop").unwrap()).is_down());
    // Up is plus here, and minus there.
    let Some(Report::Event(moved)) = adapter.device(&DeviceEvent::MouseMotion { delta: (3.0, -2.0) }) else {
        panic!("moved")
    };
    tell(&mut seat, [Report::Event(Event { at: at(200), ..moved })]);
    seat.advance(at(300));
    assert_eq!(seat.sweep(linkage.find("look").unwrap()).degrees(), (3.0, 2.0));
    let touch = adapter.touch(at(400), 7, TouchPhase::Started, 80.0, 60.0);
    assert_eq!(touch, Report::Event(Event::touch(at(400), Adapter::screen(), 7, Phase::Down, 0.1, 0.1)));
    tell(&mut seat, [touch]);
    seat.advance(at(500));
    assert_eq!(seat.pointer(point).pixels(), Some((80.0, 60.0)));
    // Minimised, a window has no size; that changes nothing.
    assert_eq!(adapter.resized(0, 0), None);
    assert_eq!((adapter.resized(800, 600), adapter.resized(640, 480)), (None, Some(Report::View(640, 480))));
}

#[test]
fn losing_the_focus_lets_go_and_closing_is_told() {
    let ((linkage, mut seat), mut adapter) = (seat(), Adapter::new());
    let hop = linkage.find("hop").unwrap();
    tell(&mut seat, w(&mut adapter, 0, ElementState::Pressed, false));
    seat.advance(adapter.now());
    assert!(seat.button(hop).is_down());
    tell(&mut seat, adapter.window(&WindowEvent::Focused(false)));
    seat.advance(adapter.now());
    assert!(!seat.button(hop).is_down());
    assert_eq!(adapter.window(&WindowEvent::CloseRequested), [Report::Close]);
    assert_eq!(adapter.window(&WindowEvent::Occluded(true)), []);
    let (before, after) = (adapter.now(), adapter.now());
    assert!(before <= after, "its clock never goes back");
}

#[test]
fn whatever_a_window_says_keeps_the_rules_of_adapters() {
    let (mut adapter, mut conformance) = (Adapter::new(), Conformance::new());
    let mut show = |reports: Vec<Report>, now| reports.iter().for_each(|report| conformance.show(report, now));
    show(adapter.window(&WindowEvent::Resized(PhysicalSize::new(800, 600))), adapter.now());
    for (state, repeat) in
        [(ElementState::Pressed, false), (ElementState::Pressed, true), (ElementState::Released, false)]
    {
        let at = adapter.now().as_micros();
        show(w(&mut adapter, at, state, repeat).into_iter().collect(), adapter.now());
    }
    let at = adapter.now();
    show(adapter.button(at, MouseButton::Back, ElementState::Pressed).into_iter().collect(), at);
    show(vec![adapter.pointer(at, 400.0, 150.0), adapter.touch(at, 7, TouchPhase::Moved, 80.0, 60.0)], at);
    show(adapter.device(&DeviceEvent::MouseMotion { delta: (3.0, -2.0) }).into_iter().collect(), adapter.now());
    let wheel = |y| WindowEvent::MouseWheel {
        device_id: winit::event::DeviceId::dummy(),
        delta: winit::event::MouseScrollDelta::LineDelta(0.0, y),
        phase: TouchPhase::Moved,
    };
    for focused in [false, true] {
        show(adapter.window(&wheel(-2.0)), adapter.now());
        show(adapter.window(&WindowEvent::Focused(focused)), adapter.now());
    }
    assert_eq!(conformance.breaches(), []);
    for (name, level) in [
        ("keys:KeyW", 1.0),
        ("keys:KeyW", 0.0),
        ("mouse:back", 1.0),
        ("mouse:wheel-down", 2.0),
        ("mouse:place.x", 0.5),
        ("mouse:move.y", 2.0),
    ] {
        assert!(conformance.saw(name, level), "{name} at {level}");
    }
}
