//! Bursts: events that came in while the loop was busy; and notches that are told twice.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::time::Duration;

use tidy_lever::adapter::Gap;
use tidy_lever::{Event, Moment};
use winit::event::{ElementState, MouseButton, WindowEvent};
use winit::keyboard::{Key, KeyCode, PhysicalKey};

use super::{Adapter, Report};

fn ms(at: f64) -> Moment {
    Moment::from_micros((at * 1e3) as u64)
}

fn click(adapter: &mut Adapter, state: ElementState, at: f64) -> Vec<Report> {
    let device_id = winit::event::DeviceId::dummy();
    adapter.window_at(&WindowEvent::MouseInput { device_id, state, button: MouseButton::Left }, ms(at))
}

/// The moments and the spreads of events, in ms.
fn moments(reports: &[Report]) -> Vec<(f64, u64)> {
    let of = |report: &Report| match report {
        Report::Event(Event { at, spread, .. }) => (at.as_micros() as f64 / 1e3, u64::from(spread.as_micros() / 1_000)),
        other => panic!("{other:?} is not an event"),
    };
    reports.iter().map(of).collect()
}

use ElementState::{Pressed, Released};

#[test]
fn what_came_in_while_the_loop_drew_is_spread_over_that_time() {
    let mut adapter = Adapter::new();
    assert_eq!(adapter.window_at(&WindowEvent::RedrawRequested, ms(100.0)), []);
    // It draws for 32 ms; two events wait for it then.
    assert_eq!(adapter.waits_at(ms(132.0)), []);
    adapter.wakes_at(ms(132.01));
    assert_eq!(click(&mut adapter, Pressed, 132.01), []);
    assert_eq!(click(&mut adapter, Released, 132.02), []);
    let burst = adapter.window_at(&WindowEvent::RedrawRequested, ms(132.0));
    assert_eq!(moments(&burst), [(108.0, 32), (124.0, 32)]);
    // Nothing is left, and the next one comes while the loop waits.
    assert_eq!(adapter.waits_at(ms(134.0)), []);
    adapter.wakes_at(ms(160.0));
    assert_eq!(moments(&click(&mut adapter, Pressed, 160.0)), [(160.0, 0)]);
    // Without a redraw, the burst ends as the loop waits again.
    assert_eq!(adapter.waits_at(ms(180.0)), []);
    adapter.wakes_at(ms(180.1));
    assert_eq!(click(&mut adapter, Released, 180.1), []);
    assert_eq!(moments(&adapter.waits_at(ms(180.0))), [(170.0, 20)]);
}

#[test]
fn a_loop_that_is_not_busy_or_never_says_that_it_waits_stamps_events_as_they_arrive() {
    let mut adapter = Adapter::new();
    for at in [20.0, 60.0, 200.0] {
        assert_eq!(moments(&click(&mut adapter, Pressed, at)), [(at, 0)]);
        assert_eq!(moments(&click(&mut adapter, Released, at + 30.0)), [(at + 30.0, 0)]);
    }
    // A loop that turns without pause, quickly, and one that wakes up each 16 ms.
    for step in 0..40 {
        let at = if step < 20 { 300.0 + f64::from(step) } else { 16.0 * f64::from(step) };
        adapter.wakes_at(ms(at));
        assert_eq!(adapter.waits_at(ms(at + 0.4)), []);
        adapter.wakes_at(ms(at + 0.45));
        assert_eq!(
            moments(&click(&mut adapter, if step % 2 == 0 { Pressed } else { Released }, at + 0.5)),
            [(at + 0.5, 0)]
        );
    }
}

#[test]
fn what_is_no_event_keeps_its_place_and_a_long_pause_is_a_gap() {
    let mut adapter = Adapter::new();
    assert_eq!(adapter.window_at(&WindowEvent::RedrawRequested, ms(100.0)), []);
    assert_eq!(adapter.waits_at(ms(500.0)), []);
    adapter.wakes_at(ms(500.1));
    assert_eq!(click(&mut adapter, Pressed, 500.1), []);
    let reports = adapter.window_at(&WindowEvent::Focused(false), ms(500.0));
    // The burst is spread over its last 100 ms.
    assert_eq!(moments(&reports[..1]), [(450.0, 100)]);
    assert_eq!(reports[1..], [Report::Gap(Gap { from: ms(100.0), to: ms(500.0) }), Report::Focus(false, ms(500.0))]);
    assert_eq!(adapter.waits_at(ms(501.0)), []);
}

#[test]
fn two_quick_presses_in_a_burst_are_no_repeat() {
    let mut adapter = Adapter::new();
    let key = |adapter: &mut Adapter, state, at| {
        let label = Key::Character("d".into());
        let said = adapter.key(ms(at), PhysicalKey::Code(KeyCode::KeyD), &label, state, false);
        adapter.takes(said.into_iter().collect(), false, ms(at))
    };
    adapter.window_at(&WindowEvent::RedrawRequested, ms(100.0));
    adapter.waits_at(ms(180.0));
    adapter.wakes_at(ms(180.0));
    for state in [Pressed, Released, Pressed, Released] {
        assert_eq!(key(&mut adapter, state, 180.0), []);
    }
    let burst = adapter.waits_at(ms(180.0));
    let spread = Duration::from_millis(80).into();
    let level =
        |at, down| Event { spread, ..Event::button(ms(at), Adapter::keyboard(), "keys:KeyD".parse().unwrap(), down) };
    let wanted = [(110.0, true), (130.0, false), (150.0, true), (170.0, false)];
    assert_eq!(burst, wanted.map(|(at, down)| Report::Event(level(at, down))));
}

#[test]
fn a_notch_that_is_told_twice_in_one_moment_is_one() {
    let mut adapter = Adapter::new();
    let mut wheel = |at: f64, y: f32| {
        let (device_id, phase) = (winit::event::DeviceId::dummy(), winit::event::TouchPhase::Moved);
        let delta = winit::event::MouseScrollDelta::LineDelta(0.0, y);
        adapter.window_at(&WindowEvent::MouseWheel { device_id, delta, phase }, ms(at)).len()
    };
    assert_eq!((wheel(10.0, 1.0), wheel(10.9, 1.0), wheel(11.0, -1.0)), (1, 0, 1));
    // A moment is shorter than a millisecond.
    assert_eq!(wheel(12.0, -1.0), 1);
}
