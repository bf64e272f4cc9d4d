//! Dials: a stick with its dead zone, its sectors and where it is pushed; an axis; a gauge.

use glam::Vec2;
use tidy_lever::linkage::{ActionView, ResponseEdges};
use tidy_lever::profile::Kind;
use tidy_lever::reading::StickReading;
use tidy_lever::{Control, Direction, Seat};

use crate::canvas::Side;
use crate::palette as p;
use crate::sheet::Sheet;

/// A small dial's radius.
const SMALL: f32 = 40.0;

impl Sheet<'_, '_> {
    /// The stick that steers: its dead zone, its sectors, where it is pushed and what comes of it.
    pub(crate) fn stick(&mut self, seat: &Seat) {
        let radius = 64.0;
        if !self.fits(radius * 2.0 + 16.0) {
            return;
        }
        let Some(action) = seat.linkage().actions().find(|action| action.kind() == Kind::Stick) else { return };
        let middle = Vec2::new(self.left + radius + 4.0, self.y + radius + 4.0);
        self.dial(seat, action, middle, radius);
        if !self.still
            && let Ok(stick) = seat.linkage().find(action.name())
        {
            let reading: StickReading = seat.stick(stick);
            self.beside(seat, action.name(), reading.xy(), reading.direction());
        }
        self.y += radius * 2.0 + 18.0;
    }

    /// A stick's dial.
    fn dial(&mut self, seat: &Seat, action: ActionView<'_>, middle: Vec2, radius: f32) {
        let Ok(stick) = seat.linkage().find(action.name()) else { return };
        let reading: StickReading = seat.stick(stick);
        let count = action.compass().map_or(8, |compass| compass.count());
        let held = reading.direction();
        if self.still {
            self.canvas.disc(middle, radius, 0x0b161dff);
        }
        for direction in Direction::ALL.into_iter().filter(|direction| count == 8 || !direction.is_diagonal()) {
            let (towards, half) = (f32::from(direction.degrees()), 180.0 / count as f32 - 0.8);
            let colour = if self.still { 0xffffff0a } else { p::faded(p::ON, 0.3) };
            if self.still || held == Some(direction) {
                let reach = (radius * 0.16, radius - 1.0);
                self.canvas.slice(middle, reach, towards - half, towards + half, colour);
            }
        }
        if self.still {
            // The pad's shape: nothing within, everything beyond.
            let shaped = action.responses();
            let pad = shaped.iter().find(|response| response.controls.iter().any(|name| name.starts_with("pad:")));
            if let Some(ResponseEdges { dead, full, .. }) = pad.map(|response| response.edges()) {
                self.canvas.disc(middle, radius * dead, 0x33252288);
                self.canvas.ring(middle, radius * dead, 1.0, p::faded(p::MISS, 0.6));
                self.canvas.ring(middle, radius * full, 1.0, p::faded(p::ON, 0.45));
            }
            self.canvas.ring(middle, radius, 1.0, p::KEY_EDGE);
            return;
        }
        let own = action.controls().iter().map(|view| view.control);
        let pushed = own.filter(|control| [Control::LEFT_STICK, Control::RIGHT_STICK].contains(control));
        let raw =
            pushed.map(|control| self.hand.level(control)).max_by(|a, b| a.0.hypot(a.1).total_cmp(&b.0.hypot(b.1)));
        let (x, y) = raw.unwrap_or_default();
        if let Some((right, up)) = action.controls().iter().find_map(|view| self.hand.middle(seat, view.control)) {
            // Where the seat has learnt that the stick rests.
            let at = middle + Vec2::new(right, -up) * radius;
            for across in [Vec2::new(5.0, 0.0), Vec2::new(0.0, 5.0)] {
                self.canvas.line(&[at - across, at + across], 1.5, p::INK);
            }
        }
        if x.hypot(y) > 0.01 {
            self.canvas.ring(middle + Vec2::new(x, -y) * radius, 5.0, 1.5, p::WAITS);
        }
        let (x, y) = reading.xy();
        let at = middle + Vec2::new(x, -y) * radius;
        self.canvas.line(&[middle, at], 2.0, p::faded(p::ON, 0.6));
        self.canvas.disc(at, 5.5, p::ON);
    }

    /// Beside the stick: its numbers, and the facts that the game tells.
    fn beside(&mut self, seat: &Seat, name: &str, (x, y): (f32, f32), held: Option<Direction>) {
        let (left, top) = (self.left + 156.0, self.y);
        self.canvas.text((left, top + 14.0), 14.0, Side::Left, p::INK, name);
        let held = held.map_or("at rest", Direction::name);
        self.canvas.text((self.left + self.room, top + 14.0), 14.0, Side::Right, p::ON, held);
        self.canvas.text((left, top + 34.0), 12.0, Side::Left, p::FAINT, &format!("right {x:+.2}   up {y:+.2}"));
        self.canvas.text((left, top + 60.0), 12.0, Side::Left, p::FAINT, "facts from the game");
        let facts: Vec<(String, String)> = seat
            .linkage()
            .facts()
            .filter_map(|(name, _)| {
                let fact = seat.linkage().find(name).ok()?;
                Some((name.to_owned(), seat.fact(fact).to_owned()))
            })
            .collect();
        let (mut x, mut y) = (left, top + 68.0);
        for (name, value) in facts {
            let (text, on) = match value.as_str() {
                "true" => (name, true),
                "false" => (name, false),
                word => (word.to_owned(), true),
            };
            let wide = self.canvas.wide(&text, 11.0) + 14.0;
            if x + wide > self.left + self.room {
                (x, y) = (left, y + 22.0);
            }
            let (fill, ink) = if on { (p::LIT, p::INK) } else { (p::RAIL, p::DIM) };
            self.canvas.card((x, y), (wide, 18.0), 9.0, fill);
            self.canvas.text((x + 7.0, y + 13.0), 11.0, Side::Left, ink, &text);
            x += wide + 5.0;
        }
    }

    /// A dial for each stick, then a bar for each axis and gauge, as far as there is room for them.
    pub(crate) fn dials(&mut self, seat: &Seat) {
        let linkage = seat.linkage();
        let of = |kind: Kind| linkage.actions().filter(move |action| action.kind() == kind);
        if of(Kind::Stick).next().is_some() && self.fits(SMALL * 2.0 + 44.0) {
            self.title("sticks");
            let fit = (self.room / (SMALL * 2.0 + 18.0)) as usize;
            for (place, action) in of(Kind::Stick).take(fit.max(1)).enumerate() {
                let x = self.left + place as f32 * (SMALL * 2.0 + 18.0);
                self.dial(seat, action, Vec2::new(x + SMALL, self.y + SMALL), SMALL);
                let at = (x + SMALL, self.y + SMALL * 2.0 + 14.0);
                if self.still {
                    self.canvas.text(at, 11.0, Side::Middle, p::FAINT, action.name());
                }
            }
            self.y += SMALL * 2.0 + 24.0;
        }
        let bars: Vec<ActionView<'_>> = of(Kind::Axis).chain(of(Kind::Gauge)).take(6).collect();
        if bars.is_empty() || !self.fits(60.0) {
            return;
        }
        self.title("axes and gauges");
        for action in bars {
            if !self.fits(17.0) {
                return;
            }
            self.bar(seat, action);
            self.y += 17.0;
        }
        self.y += 6.0;
    }

    /// An axis from its middle, a gauge from its lower end.
    fn bar(&mut self, seat: &Seat, action: ActionView<'_>) {
        let (x, wide) = (self.left + 110.0, self.room - 110.0 - 56.0);
        if self.still {
            self.canvas.fitting((self.left, self.y + 12.0), 12.0, p::INK, action.name(), 104.0);
            return self.canvas.card((x, self.y + 4.0), (wide, 8.0), 4.0, p::RAIL);
        }
        let linkage = seat.linkage();
        let (from, to, text) = match action.kind() {
            Kind::Axis => {
                let value = linkage.find(action.name()).map_or(0.0, |axis| seat.axis(axis).value());
                (0.5, 0.5 + value.clamp(-1.0, 1.0) / 2.0, format!("{value:+.2}"))
            }
            _ => match linkage.find(action.name()) {
                Ok(gauge) => {
                    let reading = seat.gauge(gauge);
                    (0.0, reading.filled().clamp(0.0, 1.0), format!("{:.2}", reading.value()))
                }
                Err(_) => return,
            },
        };
        let (left, right) = (f32::min(from, to), f32::max(from, to));
        if right - left > 0.002 {
            let narrow = ((right - left) * wide).max(3.0);
            self.canvas.card((x + left * wide, self.y + 4.0), (narrow, 8.0), 4.0, p::ON);
        }
        self.canvas.text((self.left + self.room, self.y + 12.0), 12.0, Side::Right, p::FAINT, &text);
    }
}
