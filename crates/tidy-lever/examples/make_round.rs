//! Makes the demo's tape: a minute's round through the town, with timing as of a hand.
//!
//! `cargo run -p tidy-lever --example make_round > demo/morning-round.jsonl`
//!
//! Every number is drawn from a generator with a fixed seed, so the tape is the same each time. Keys go down and up
//! with a hand's spread; the stick travels with smooth steps and trembles.

use std::io::{self, Write};
use std::time::Duration;

use fastrand::Rng;
use tidy_lever::Family;
use tidy_lever::Moment;
use tidy_lever::tape::{Header, Line, LineKind, TapeValue, Writer};

/// Gathers lines in any order.
struct Hand {
    dice: Rng,
    lines: Vec<Line>,
}

/// Sticks report thousandths.
fn rounded(level: f64) -> f64 {
    (level * 1000.0).round() / 1000.0
}

impl Hand {
    fn put(&mut self, at: f64, said: LineKind) {
        self.lines.push(Line::new(Moment::from_micros((at * 1e6) as u64), 1, said));
    }

    /// About this long: a bell of some 12 %, from three throws.
    fn about(&mut self, seconds: f64) -> f64 {
        let throws: f64 = (0..3).map(|_| self.dice.f64() - 0.5).sum();
        (seconds * (1.0 + 0.25 * throws)).max(0.004)
    }

    fn level(&mut self, at: f64, device: &str, control: &str, value: f64) {
        self.put(at, LineKind::Level { device: device.into(), control: control.into(), value });
    }

    /// Holds a button for about this long; returns when it went up.
    fn hold(&mut self, at: f64, device: &str, control: &str, seconds: f64) -> f64 {
        let up = at + self.about(seconds);
        self.level(at, device, control, 1.0);
        self.level(up, device, control, 0.0);
        up
    }

    /// Moves the left stick to a place within a twelfth of a second, then holds it there, trembling.
    fn stick(&mut self, at: f64, from: (f64, f64), to: (f64, f64), hold: f64) -> f64 {
        let travel = self.about(0.083);
        let samples = 12;
        for i in 1..=samples {
            let part = f64::from(i) / f64::from(samples);
            let eased = part * part * (3.0 - 2.0 * part);
            let place = (from.0 + (to.0 - from.0) * eased, from.1 + (to.1 - from.1) * eased);
            self.pair(at + travel * part, (rounded(place.0), rounded(place.1)));
        }
        let mut now = at + travel;
        let end = now + hold;
        while now + 0.03 < end {
            now += self.about(0.025);
            let tremble = || 0.03;
            let (dx, dy) = ((self.dice.f64() - 0.5) * tremble(), (self.dice.f64() - 0.5) * tremble());
            let (x, y) = ((to.0 + dx).clamp(-1.0, 1.0), (to.1 + dy).clamp(-1.0, 1.0));
            self.pair(now, (rounded(x), rounded(y)));
        }
        end
    }

    fn pair(&mut self, at: f64, (x, y): (f64, f64)) {
        self.put(at, LineKind::Pair { device: "p1".into(), control: "pad:left-stick".into(), x, y });
    }

    /// Rolls the stick round from one angle to another, held at the first for a while; when it is there.
    fn round(&mut self, at: f64, from: f64, to: f64, takes: f64) -> f64 {
        let hold = self.about(0.12);
        let place = |angle: f64| (angle.to_radians().cos() * 0.97, angle.to_radians().sin() * 0.97);
        let mut now = self.stick(at, (0.0, 0.0), place(from), hold);
        let steps = (takes / 0.008) as u32;
        for step in 1..=steps {
            now += 0.008 + (self.dice.f64() - 0.5) * 0.002;
            let angle = from + (to - from) * f64::from(step) / f64::from(steps) + (self.dice.f64() - 0.5) * 3.0;
            let (x, y) = place(angle);
            self.pair(now, (rounded(x), rounded(y)));
        }
        now
    }

    /// The stick springs back.
    fn rest(&mut self, at: f64) -> f64 {
        self.pair(at, (0.31, 0.02));
        self.pair(at + 0.008, (0.01, -0.01));
        at + 0.008
    }

    /// A hop and what the game tells of the ground: off it a moment after the press, back on it after the flight.
    fn hop(&mut self, at: f64, device: &str, control: &str) -> f64 {
        self.hold(at, device, control, 0.11);
        let flight = self.about(0.62);
        self.put(at + 0.017, LineKind::Fact { fact: "grounded".into(), value: TapeValue::Flag(false) });
        self.put(at + 0.017 + flight, LineKind::Fact { fact: "grounded".into(), value: TapeValue::Flag(true) });
        at + flight
    }
}

fn main() -> io::Result<()> {
    let mut hand = Hand { dice: Rng::with_seed(20), lines: Vec::new() };
    keyboard(&mut hand);
    pad(&mut hand);
    let end = Moment::ZERO + Duration::from_secs(64);
    hand.lines.sort_by_key(|line| line.at);
    hand.lines.push(Line::new(end, 1, LineKind::End));
    let header = Header::new("the morning round")
        .device("kb", Family::Keys)
        .device("ms", Family::Mouse)
        .device("p1", Family::Pad);
    let mut out = io::BufWriter::new(io::stdout().lock());
    let mut writer = Writer::new(&mut out, &header)?;
    hand.lines.iter().try_for_each(|line| writer.put(line))?;
    out.flush()
}

/// The first half, on keyboard and mouse: along the quay, parcels tossed, a look into the menu.
fn keyboard(hand: &mut Hand) {
    let mut now = 1.2;
    let walk = [("KeyD", 2.1), ("KeyD", 1.4), ("KeyW", 0.9), ("KeyA", 1.6), ("KeyD", 1.2)];
    for (leg, (key, seconds)) in walk.into_iter().enumerate() {
        let key = format!("keys:{key}");
        let end = hand.hold(now, "kb", &key, seconds);
        // A hop on the way, and on the third leg a diagonal: the fingers lift some 20 ms apart.
        let jump = now + hand.about(0.5);
        hand.hop(jump, "kb", "keys:Space");
        if leg == 2 {
            let over = hand.about(0.021);
            let down = now + 0.35;
            hand.level(down, "kb", "keys:KeyD", 1.0);
            hand.level(end - over, "kb", "keys:KeyD", 0.0);
        }
        now = end + hand.about(0.35);
    }
    // Left and right at once: the newer wins, the other comes back.
    hand.level(now, "kb", "keys:KeyA", 1.0);
    hand.hold(now + 0.4, "kb", "keys:KeyD", 0.5);
    hand.level(now + 1.3, "kb", "keys:KeyA", 0.0);
    now += 1.9;
    // Parcels: single presses of a mouse button, and a burst.
    for pause in [0.6, 0.5, 0.7, 0.11, 0.11, 0.17] {
        hand.hold(now, "ms", "mouse:left", 0.07);
        now += hand.about(pause).max(0.1);
    }
    for _ in 0..3 {
        hand.level(now, "ms", "mouse:wheel-down", 1.0);
        now += hand.about(0.12);
    }
    hand.hold(now, "kb", "keys:KeyQ", 0.8);
    now += 1.4;
    // The menu, with a key held across: opened, two rows down, scrolled, closed.
    hand.level(now, "kb", "keys:KeyD", 1.0);
    hand.hold(now + 0.5, "kb", "keys:Enter", 0.09);
    hand.hold(now + 1.1, "kb", "keys:ArrowDown", 0.1);
    hand.hold(now + 1.4, "kb", "keys:ArrowDown", 0.62);
    hand.hold(now + 2.2, "kb", "keys:Enter", 0.09);
    hand.level(now + 2.9, "kb", "keys:KeyD", 0.0);
    // Somebody calls: the window loses the focus with a key held down.
    hand.level(now + 3.4, "kb", "keys:KeyW", 1.0);
    hand.put(now + 4.0, LineKind::Focus(false));
    hand.put(now + 5.5, LineKind::Focus(true));
    hand.hold(now + 5.9, "kb", "keys:KeyE", 0.1);
    hand.hold(now + 6.3, "kb", "keys:KeyE", 0.6);
    // A look about with the mouse, smooth out and back.
    for n in 0..40 {
        let swing = (f64::from(n) / 40.0 * std::f64::consts::TAU).sin();
        let (x, y) = ((swing * 14.0).round(), (swing * 3.0).round());
        hand.put(
            now + 7.2 + f64::from(n) * 0.016,
            LineKind::Pair { device: "ms".into(), control: "mouse:move".into(), x, y },
        );
    }
    punt(hand, now + 8.0);
}

/// Into the punt, a burst on the paddle with two fingers, and out again.
fn punt(hand: &mut Hand, start: f64) {
    let near = |hand: &mut Hand, at: f64, value: bool| {
        hand.put(at, LineKind::Fact { fact: "near_punt".into(), value: TapeValue::Flag(value) });
    };
    hand.hold(start - 0.1, "kb", "keys:KeyR", 0.09);
    near(hand, start + 0.2, true);
    hand.hold(start + 0.4, "kb", "keys:KeyR", 0.1);
    let mut now = start + 0.9;
    for n in 0..9 {
        hand.hold(now, "kb", if n % 2 == 0 { "keys:KeyK" } else { "keys:KeyI" }, 0.12);
        now += hand.about(0.13);
    }
    hand.hold(start + 3.2, "kb", "keys:KeyR", 0.1);
    near(hand, start + 3.5, false);
    // Twice to the right: off at a run.
    hand.hold(start + 3.7, "kb", "keys:KeyD", 0.08);
    hand.hold(start + 3.88, "kb", "keys:KeyD", 1.1);
    hand.hold(start + 5.2, "kb", "keys:KeyL", 0.09);
}

/// The second half, on a gamepad: once round the square, hops, a dive with the triggers.
fn pad(hand: &mut Hand) {
    let mut now = 37.0;
    let mut stands = (0.02, -0.01);
    for step in 0..16 {
        let angle = f64::from(step) * std::f64::consts::TAU / 16.0;
        let push = if step % 5 == 4 { 0.55 } else { 0.98 };
        let place = (angle.cos() * push, angle.sin() * push);
        let hold = hand.about(0.45);
        let end = hand.stick(now, stands, place, hold);
        if step % 3 == 1 {
            hand.hop(now + 0.2, "p1", "pad:south");
        }
        (now, stands) = (end, place);
    }
    now = hand.stick(now, stands, (0.03, 0.01), 0.1);
    for pause in [0.5, 0.6, 0.18, 0.17] {
        hand.hold(now, "p1", "pad:west", 0.08);
        now += hand.about(pause);
    }
    // A longer hold throws.
    hand.hold(now, "p1", "pad:west", 0.75);
    now += 1.2;
    // Down into the water with the left trigger, half way, all the way, and up again with the right.
    for (control, levels) in
        [("pad:left-trigger", [0.3, 0.55, 1.0, 0.6, 0.0]), ("pad:right-trigger", [0.2, 0.7, 1.0, 0.4, 0.0])]
    {
        for level in levels {
            hand.level(now, "p1", control, level);
            now += hand.about(0.3);
        }
    }
    // Parcels skimmed over the water: well, a little late, and once not round far enough.
    now = hand.round(now + 0.3, 270.0, 360.0, 0.13);
    hand.hold(now + 0.08, "p1", "pad:west", 0.07);
    now = hand.rest(now + 0.25);
    now = hand.round(now + 0.5, 270.0, 360.0, 0.16);
    hand.hold(now + 0.31, "p1", "pad:west", 0.07);
    now = hand.rest(now + 0.45);
    now = hand.round(now + 0.4, 270.0, 322.0, 0.11);
    hand.hold(now + 0.06, "p1", "pad:west", 0.07);
    now = hand.rest(now + 0.2);
    // A salute, drawn in one go; and the knock at the back door.
    now = hand.round(now + 0.4, 180.0, 450.0, 0.62);
    now = hand.rest(now + 0.2) + 0.4;
    for control in ["pad:east", "pad:east", "pad:left-shoulder", "pad:east"] {
        hand.hold(now, "p1", control, 0.09);
        now += hand.about(0.27);
    }
    for control in ["pad:east", "pad:north", "pad:start"] {
        hand.hold(now, "p1", control, 0.12);
        now += hand.about(0.7);
    }
    // The pad's cable comes loose with the stick pushed; the tape ends.
    now = hand.stick(now, (0.0, 0.0), (1.0, 0.0), 0.8);
    hand.put(now, LineKind::Plugged { device: "p1".into(), plugged: false });
}
