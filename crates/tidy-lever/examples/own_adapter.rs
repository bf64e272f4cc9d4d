//! An adapter for a windowing source of your own, in about sixty lines.
//!
//! `cargo run --example own_adapter`

use tidy_lever::adapter::{Conformance, Devices, Report, StampClock};
use tidy_lever::control::Code;
use tidy_lever::{Control, Device, Event, Moment};

/// What this source says: its own words, its own signs, its own clock in milliseconds.
enum LineKind {
    Key {
        place: &'static str,
        down: bool,
        again: bool,
        stamp: u64,
    },
    Joystick {
        plugged: bool,
        name: &'static str,
    },
    /// Down is plus there. Both axes come in one report.
    Tilt {
        x: f32,
        y: f32,
        stamp: u64,
    },
    Active(bool),
    Size(u32, u32),
}

/// Turns that into reports.
#[derive(Default)]
struct Adapter {
    clock: StampClock,
    joystick: Option<Device>,
    tilt: (f32, f32),
}

impl Adapter {
    fn report(&mut self, said: &LineKind, devices: &mut Devices, now: Moment) -> Option<Report> {
        match *said {
            // The platform's own repeat is not news. A key goes by its place, whatever is printed on it.
            LineKind::Key { again: true, .. } => None,
            LineKind::Key { place, down, stamp, .. } => {
                let control = Control::key(place.parse::<Code>().ok()?)?;
                let at = self.clock.moment(Devices::keyboard(), stamp * 1_000, now);
                Some(Report::Event(Event::button(at, Devices::keyboard(), control, down)))
            }
            // The registry gives the number: the same one to a joystick that is plugged in again.
            LineKind::Joystick { plugged: true, name } => {
                let device = devices.plug(name)?;
                self.joystick = Some(device);
                Some(Report::Came { device, name: name.into(), at: self.clock.unstamped(device, now) })
            }
            LineKind::Joystick { .. } => {
                let device = self.joystick.take()?;
                devices.unplug(device);
                self.tilt = (0.0, 0.0);
                Some(Report::Gone { device, at: self.clock.unstamped(device, now) })
            }
            // One pair, up is plus, no NaN, and nothing twice.
            LineKind::Tilt { x, y, stamp } => {
                let (device, pair) = (self.joystick?, (x.clamp(-1.0, 1.0), (-y).clamp(-1.0, 1.0)));
                if !x.is_finite() || !y.is_finite() || self.tilt == pair {
                    return None;
                }
                self.tilt = pair;
                let at = self.clock.moment(device, stamp * 1_000, now);
                Some(Report::Event(Event::pair(at, device, Control::LEFT_STICK, pair.0, pair.1)))
            }
            LineKind::Active(focused) => Some(Report::Focus(focused, now)),
            LineKind::Size(width, height) => (width > 0 && height > 0).then_some(Report::View(width, height)),
        }
    }
}

fn main() {
    // What its test does: play it something, show the reports to the conformance check, look for names and signs.
    let said = [
        LineKind::Size(1280, 800),
        LineKind::Active(true),
        LineKind::Key { place: "KeyW", down: true, again: false, stamp: 500 },
        LineKind::Key { place: "KeyW", down: true, again: true, stamp: 530 },
        LineKind::Joystick { plugged: true, name: "Quay stick" },
        LineKind::Tilt { x: 0.0, y: -1.0, stamp: 540 },
        LineKind::Tilt { x: f32::NAN, y: 0.0, stamp: 541 },
        LineKind::Key { place: "KeyW", down: false, again: false, stamp: 560 },
        LineKind::Joystick { plugged: false, name: "Quay stick" },
    ];
    let (mut adapter, mut devices, mut conformance) = (Adapter::default(), Devices::new(), Conformance::new());
    for (place, said) in said.iter().enumerate() {
        let now = Moment::from_millis(10 * place as u64);
        if let Some(report) = adapter.report(said, &mut devices, now) {
            println!("{now}: {report:?}");
            conformance.show(&report, now);
        }
    }
    println!("rules broken: {}", conformance.breaches().len());
    println!(
        "W pressed: {}; pushed up: {}",
        conformance.saw("keys:KeyW", 1.0),
        conformance.saw("pad:left-stick.up", 1.0)
    );
}
