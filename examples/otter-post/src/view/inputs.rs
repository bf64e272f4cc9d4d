//! The input view: what hands do, what comes of it, what waits, what nearly was. For tuning how a game feels.

use std::time::Duration;

use glam::Vec2;
use tidy_lever::prompt::Labels;
use tidy_lever::seat::Runs;
use tidy_lever::{Control, Direction, Family, Moment, Seat};
use tiny_skia::Pixmap;

use super::canvas::{Canvas, Letters, Side};
use super::{keyboard, palette as p};
use crate::game::{Entry, Game};

/// How wide it is.
pub(super) const WIDE: f32 = 384.0;
/// How long a pull is bright.
const BRIGHT: f32 = 1.5;

/// The view's still part, drawn once for each profile, keyboard and size of window.
#[derive(Debug, Default)]
pub(super) struct Inputs {
    drawn: Option<(u32, Labels, Pixmap)>,
}

impl Inputs {
    pub(super) fn draw(&mut self, pixels: &mut Pixmap, letters: &mut Letters, game: &Game, now: Moment) {
        let Some(seat) = game.first() else { return };
        let hand = Hand::of(seat);
        let (wide, high) = (WIDE.min(pixels.width() as f32) as u32, pixels.height());
        let fits = |(relinks, labels, drawn): &(u32, Labels, Pixmap)| {
            *relinks == game.relinks && *labels == game.labels && (drawn.width(), drawn.height()) == (wide, high)
        };
        if !self.drawn.as_ref().is_some_and(fits) {
            let Some(mut still) = Pixmap::new(wide, high) else { return };
            let mut canvas = Canvas::new(&mut still, letters);
            canvas.rect(0.0, 0.0, WIDE, high as f32, p::PANEL | 0xff);
            canvas.rect(0.0, 0.0, 1.0, high as f32, p::EDGE);
            Sheet { canvas: &mut canvas, left: 18.0, y: 14.0, end: high as f32 - 8.0, hand: &hand, still: true }
                .all(game, seat, now);
            self.drawn = Some((game.relinks, game.labels.clone(), still));
        }
        if let Some((_, _, still)) = &self.drawn {
            let across = pixels.width() as usize;
            let rows = pixels.pixels_mut().chunks_exact_mut(across);
            for (to, from) in rows.zip(still.pixels().chunks_exact(wide as usize)) {
                to[across - wide as usize..].copy_from_slice(from);
            }
        }
        let mut canvas = Canvas::new(pixels, letters);
        let left = canvas.size().0 - wide as f32 + 18.0;
        Sheet { canvas: &mut canvas, left, y: 14.0, end: high as f32 - 8.0, hand: &hand, still: false }
            .all(game, seat, now);
    }
}

/// What a player's devices hold now.
struct Hand {
    held: Vec<(Control, f32, f32)>,
    bound: Vec<Control>,
}

impl Hand {
    fn of(seat: &Seat) -> Hand {
        let held = seat.standing().map(|(_, control, x, y)| (control, x, y)).collect();
        let views = seat.linkage().actions().flat_map(|action| action.controls());
        Hand { held, bound: views.map(|view| view.control).collect() }
    }

    /// Right and up, of the device that pushes most.
    fn level(&self, control: Control) -> (f32, f32) {
        let own = self.held.iter().filter(|(held, ..)| *held == control);
        own.map(|(_, x, y)| (*x, *y)).max_by(|a, b| a.0.hypot(a.1).total_cmp(&b.0.hypot(b.1))).unwrap_or_default()
    }

    fn is_bound(&self, control: Control) -> bool {
        self.bound.contains(&control)
    }
}

/// The view as it is filled from above.
struct Sheet<'c, 'p> {
    canvas: &'c mut Canvas<'p>,
    left: f32,
    y: f32,
    end: f32,
    hand: &'c Hand,
    /// Whether what never moves is drawn, or what does.
    still: bool,
}

const ROOM: f32 = WIDE - 36.0;

/// A control's colours: down, bound, or neither.
fn colours(level: f32, bound: bool) -> (p::Colour, p::Colour, p::Colour) {
    if !bound {
        return (0x0000_0000, 0x2b3d48ff, 0x4a5f6bff);
    }
    let share = ((level - 0.02) * 1.4).clamp(0.0, 1.0);
    (p::mixed(p::KEY, p::ON, share), p::mixed(p::KEY_EDGE, p::ON, share), p::mixed(p::INK, p::ON_INK, share))
}

impl Sheet<'_, '_> {
    fn all(&mut self, game: &Game, seat: &Seat, now: Moment) {
        self.keys(game, seat);
        self.devices();
        self.stick(seat);
        self.pulls(game, now);
        self.spans(seat);
        self.misses(game, now);
    }

    /// Whether this much still fits.
    fn fits(&self, high: f32) -> bool {
        self.y + high <= self.end
    }

    fn title(&mut self, text: &str) {
        if self.still {
            self.canvas.text((self.left, self.y + 12.0), 12.0, Side::Left, p::FAINT, text);
        }
        self.y += 20.0;
    }

    /// Where something stands now; the still part knows nothing of it.
    fn level(&self, control: Control) -> (f32, f32) {
        if self.still { (0.0, 0.0) } else { self.hand.level(control) }
    }

    /// Whether a thing that stands at a level is to be drawn now.
    fn draws(&self, level: f32) -> bool {
        self.still || level > 0.02
    }

    fn cap(&mut self, at: (f32, f32), size: (f32, f32), control: Option<Control>, text: &str) {
        let level = control.map_or((0.0, 0.0), |control| self.level(control));
        if !self.draws(level.0.hypot(level.1)) {
            return;
        }
        let bound = control.is_some_and(|control| self.hand.is_bound(control));
        let (fill, edge, ink) = colours(level.0.hypot(level.1), bound);
        self.canvas.card(at, size, 4.0, fill);
        self.canvas.card_edge((at.0 + 0.5, at.1 + 0.5), (size.0 - 1.0, size.1 - 1.0), 4.0, edge);
        if bound {
            let mut letters = 11.0;
            while letters > 7.0 && self.canvas.wide(text, letters) > size.0 - 3.0 {
                letters -= 1.0;
            }
            self.canvas.text((at.0 + size.0 / 2.0, at.1 + size.1 / 2.0 + 4.0), letters, Side::Middle, ink, text);
        }
    }

    fn keys(&mut self, game: &Game, seat: &Seat) {
        let linkage = seat.linkage();
        self.title("your inputs");
        let unit = ROOM / keyboard::WIDE;
        let mut drawn = Vec::new();
        for (code, x, y, wide) in keyboard::keys() {
            let control = linkage.control(&format!("keys:{code}"));
            drawn.extend(control);
            let label = control.and_then(|control| game.labels.get(control)).unwrap_or(keyboard::cap(code)).to_owned();
            let at = (self.left + x * unit + 1.0, self.y + y * unit + 1.0);
            self.cap(at, (wide * unit - 2.0, unit - 2.0), control, &label);
        }
        self.y += keyboard::HIGH * unit + 4.0;
        // Keys that lie elsewhere.
        let own: Vec<Control> =
            self.hand.bound.iter().copied().filter(|bound| bound.family() == Family::Keys).collect();
        let (mut x, mut any, mut seen) = (self.left, false, Vec::new());
        for control in own {
            if drawn.contains(&control) || seen.contains(&control) {
                continue;
            }
            seen.push(control);
            let text = control.name().to_string();
            let wide = self.canvas.wide(&text, 11.0) + 12.0;
            self.cap((x, self.y), (wide, unit - 2.0), Some(control), &text);
            (x, any) = (x + wide + 4.0, true);
        }
        self.y += if any { unit + 6.0 } else { 6.0 };
    }

    fn devices(&mut self) {
        if !self.fits(124.0) {
            return;
        }
        let top = self.y;
        self.mouse(self.left, top);
        self.pad(self.left + 92.0, top);
        self.y = top + 126.0;
    }

    fn mouse(&mut self, x: f32, y: f32) {
        if self.still {
            self.canvas.card_edge((x + 0.5, y + 0.5), (69.0, 113.0), 30.0, p::KEY_EDGE);
        }
        self.cap((x + 6.0, y + 8.0), (24.0, 40.0), Some(Control::MOUSE_LEFT), "");
        self.cap((x + 40.0, y + 8.0), (24.0, 40.0), Some(Control::MOUSE_RIGHT), "");
        self.cap((x + 32.0, y + 10.0), (6.0, 16.0), Some(Control::WHEEL_UP), "");
        self.cap((x + 32.0, y + 29.0), (6.0, 16.0), Some(Control::WHEEL_DOWN), "");
        if !self.still {
            return;
        }
        let middle = Vec2::new(x + 35.0, y + 80.0);
        self.canvas.ring(middle, 18.0, 1.0, p::KEY_EDGE);
        for way in [(1.0, 0.0), (-1.0, 0.0), (0.0, 1.0), (0.0, -1.0)] {
            let way = Vec2::new(way.0, way.1);
            self.canvas.line(&[middle + way * 9.0, middle + way * 14.0], 1.5, p::FAINT);
        }
    }

    fn pad(&mut self, x: f32, y: f32) {
        let half = 20.0;
        if self.still {
            self.canvas.card_edge((x + 0.5, y + 30.5), (ROOM - 93.0, 86.0), 30.0, p::KEY_EDGE);
        }
        let wide = ROOM - 92.0;
        self.trigger((x + 10.0, y), Control::LEFT_TRIGGER, false);
        self.trigger((x + wide - 70.0, y), Control::RIGHT_TRIGGER, true);
        self.cap((x + 10.0, y + 16.0), (60.0, 11.0), Some(Control::LEFT_SHOULDER), "");
        self.cap((x + wide - 70.0, y + 16.0), (60.0, 11.0), Some(Control::RIGHT_SHOULDER), "");
        let (left, right) = (Vec2::new(x + 42.0, y + 62.0), Vec2::new(x + wide - 96.0, y + 86.0));
        self.thumb(left, half, Control::LEFT_STICK, Control::LEFT_THUMB);
        self.thumb(right, half, Control::RIGHT_STICK, Control::RIGHT_THUMB);
        // The cross.
        let cross = self.level(Control::DPAD);
        let bound = self.hand.is_bound(Control::DPAD);
        let middle = Vec2::new(x + 88.0, y + 92.0);
        for (way, level) in [
            (Vec2::new(0.0, -1.0), cross.1),
            (Vec2::new(0.0, 1.0), -cross.1),
            (Vec2::new(1.0, 0.0), cross.0),
            (Vec2::new(-1.0, 0.0), -cross.0),
        ] {
            if !self.draws(level) {
                continue;
            }
            let (fill, edge, _) = colours(level.max(0.0), bound);
            let at = middle + way * 12.0;
            self.canvas.card((at.x - 6.0, at.y - 6.0), (12.0, 12.0), 3.0, fill);
            self.canvas.card_edge((at.x - 5.5, at.y - 5.5), (11.0, 11.0), 3.0, edge);
        }
        let face = Vec2::new(x + wide - 42.0, y + 62.0);
        for (control, way) in [
            (Control::PAD_SOUTH, Vec2::new(0.0, 1.0)),
            (Control::PAD_EAST, Vec2::new(1.0, 0.0)),
            (Control::PAD_WEST, Vec2::new(-1.0, 0.0)),
            (Control::PAD_NORTH, Vec2::new(0.0, -1.0)),
        ] {
            let level = self.level(control).0;
            if !self.draws(level) {
                continue;
            }
            let (fill, edge, _) = colours(level, self.hand.is_bound(control));
            self.canvas.disc(face + way * 14.0, 7.0, fill);
            self.canvas.ring(face + way * 14.0, 7.0, 1.0, edge);
        }
        self.cap((x + wide / 2.0 - 26.0, y + 44.0), (20.0, 9.0), Some(Control::PAD_SELECT), "");
        self.cap((x + wide / 2.0 + 6.0, y + 44.0), (20.0, 9.0), Some(Control::PAD_START), "");
    }

    /// A trigger fills as it is pulled.
    fn trigger(&mut self, (x, y): (f32, f32), control: Control, from_right: bool) {
        let level = self.level(control).0.clamp(0.0, 1.0);
        if self.still {
            let (fill, edge, _) = colours(0.0, self.hand.is_bound(control));
            self.canvas.card((x, y), (60.0, 12.0), 4.0, fill);
            self.canvas.card_edge((x + 0.5, y + 0.5), (59.0, 11.0), 4.0, edge);
        } else if level > 0.0 {
            let shift = if from_right { 60.0 * (1.0 - level) } else { 0.0 };
            self.canvas.card((x + shift, y), (60.0 * level, 12.0), 4.0, p::ON);
        }
    }

    fn thumb(&mut self, middle: Vec2, half: f32, stick: Control, button: Control) {
        if self.still {
            let (_, edge, _) = colours(0.0, self.hand.is_bound(stick));
            return self.canvas.ring(middle, half, 1.0, edge);
        }
        let (x, y) = self.hand.level(stick);
        let down = self.hand.level(button).0 >= 0.5;
        let moved = x.hypot(y) > 0.02;
        let colour = if down || moved { p::ON } else { p::KEY_EDGE };
        self.canvas.disc(middle + Vec2::new(x, -y) * half * 0.7, if down { 10.0 } else { 7.0 }, colour);
    }

    /// The stick that steers: its dead zone, its sectors, where it is pushed and what comes of it.
    fn stick(&mut self, seat: &Seat) {
        let radius = 64.0;
        if !self.fits(radius * 2.0 + 16.0) {
            return;
        }
        let linkage = seat.linkage();
        let (Some(action), Ok(stick)) = (linkage.action("steer"), linkage.find("steer")) else { return };
        let reading = seat.stick(stick);
        let middle = Vec2::new(self.left + radius + 4.0, self.y + radius + 4.0);
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
            let pad = shaped.iter().find(|response| response.controls.iter().any(|name| name.starts_with("pad:left")));
            if let Some((dead, full, _)) = pad.map(|response| response.edges()) {
                self.canvas.disc(middle, radius * dead, 0x33252288);
                self.canvas.ring(middle, radius * dead, 1.0, p::faded(p::MISS, 0.6));
                self.canvas.ring(middle, radius * full, 1.0, p::faded(p::ON, 0.45));
            }
            self.canvas.ring(middle, radius, 1.0, p::KEY_EDGE);
            self.y += radius * 2.0 + 18.0;
            return;
        }
        let (x, y) = self.hand.level(Control::LEFT_STICK);
        if x.hypot(y) > 0.01 {
            self.canvas.ring(middle + Vec2::new(x, -y) * radius, 5.0, 1.5, p::WAITS);
        }
        let (x, y) = reading.xy();
        let at = middle + Vec2::new(x, -y) * radius;
        self.canvas.line(&[middle, at], 2.0, p::faded(p::ON, 0.6));
        self.canvas.disc(at, 5.5, p::ON);
        self.beside(seat, (x, y), held);
        self.y += radius * 2.0 + 18.0;
    }

    /// Beside the stick: its numbers, and the facts that the game tells.
    fn beside(&mut self, seat: &Seat, (x, y): (f32, f32), held: Option<Direction>) {
        let (left, top) = (self.left + 156.0, self.y);
        self.canvas.text((left, top + 14.0), 14.0, Side::Left, p::INK, "steer");
        let held = held.map_or("at rest", Direction::name);
        self.canvas.text((self.left + ROOM, top + 14.0), 14.0, Side::Right, p::ON, held);
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
            if x + wide > self.left + ROOM {
                (x, y) = (left, y + 22.0);
            }
            let (fill, ink) = if on { (0x2b5a58ff, p::INK) } else { (0x1a2a33ff, 0x6f8591ff) };
            self.canvas.card((x, y), (wide, 18.0), 9.0, fill);
            self.canvas.text((x + 7.0, y + 13.0), 11.0, Side::Left, ink, &text);
            x += wide + 5.0;
        }
    }

    fn row(&mut self, entry: &Entry, now: Moment, bright: p::Colour, several: bool) {
        let age = (now - entry.at).as_secs_f32();
        let colour = p::mixed(bright, p::FAINT, age / BRIGHT);
        let who = if several { format!("{} ", entry.seat) } else { String::new() };
        self.canvas.fitting((self.left, self.y + 13.0), 14.0, colour, &format!("{who}{}", entry.text), 200.0);
        let more = &entry.more;
        self.canvas.text((self.left + ROOM, self.y + 13.0), 12.0, Side::Right, p::faded(p::FAINT, 0.9), more);
        self.y += 19.0;
    }

    fn pulls(&mut self, game: &Game, now: Moment) {
        if !self.fits(40.0) {
            return;
        }
        self.title("recent pulls");
        let several = game.table.seats().count() > 1;
        let from = self.y;
        for entry in &game.pulls {
            if !self.still && self.fits(19.0) {
                self.row(entry, now, p::ON, several);
            }
        }
        if game.pulls.is_empty() && !self.still {
            self.canvas.text((self.left, self.y + 13.0), 13.0, Side::Left, 0x6f8591ff, "nothing yet");
        }
        self.y = from + 19.0 * 7.0 + 6.0;
    }

    /// Keeps, lingering truths and cooldowns, as bars that shrink.
    fn spans(&mut self, seat: &Seat) {
        if !self.fits(60.0) {
            return;
        }
        self.title("buffers and timers");
        let from = self.y;
        for span in seat.spans().take(if self.still { 0 } else { 4 }) {
            let (word, colour) = match span.runs {
                Runs::Kept => ("kept", p::WAITS),
                Runs::Lingers => ("lingers", p::LINGERS),
                _ => ("cools", p::COOLS),
            };
            let share = share(span.left, span.of);
            let name = span.word.map_or_else(|| span.name.to_owned(), |word| format!("{} is {word}", span.name));
            self.canvas.text((self.left, self.y + 12.0), 12.0, Side::Left, p::INK, &format!("{name} {word}"));
            let (x, wide) = (self.left + 150.0, ROOM - 150.0 - 56.0);
            self.canvas.card((x, self.y + 4.0), (wide, 8.0), 4.0, 0x1a2a33ff);
            self.canvas.card((x, self.y + 4.0), ((wide * share).max(4.0), 8.0), 4.0, colour);
            let left = format!("{} ms", span.left.as_millis());
            self.canvas.text((self.left + ROOM, self.y + 12.0), 12.0, Side::Right, p::FAINT, &left);
            self.y += 17.0;
        }
        self.y = from + 17.0 * 4.0 + 4.0;
    }

    fn misses(&mut self, game: &Game, now: Moment) {
        if !self.fits(38.0) {
            return;
        }
        self.title("near misses");
        for entry in game.misses.iter().take(3) {
            if self.fits(19.0) && !self.still {
                let age = (now - entry.at).as_secs_f32();
                let colour = p::mixed(p::MISS, p::FAINT, age / (BRIGHT * 3.0));
                self.canvas.fitting((self.left, self.y + 13.0), 14.0, colour, &entry.text, ROOM);
                self.y += 19.0;
            }
        }
    }
}

fn share(left: Duration, of: Duration) -> f32 {
    if of.is_zero() { 0.0 } else { (left.as_secs_f32() / of.as_secs_f32()).min(1.0) }
}
