//! The input view: what hands do, what comes of it, what waits, what nearly was. For tuning how a game feels.

use std::collections::HashSet;
use std::time::Duration;

use glam::Vec2;
use tidy_lever::prompt::Labels;
use tidy_lever::seat::Runs;
use tidy_lever::{Control, Family, Moment, Seat};
use tiny_skia::Pixmap;

use crate::canvas::{Canvas, Letters, Side};
use crate::hand::{Hand, bound};
use crate::recent::{Entry, Recent};
use crate::{Area, keyboard, palette as p};

/// How long a pull is bright.
const BRIGHT: f32 = 1.5;
/// Left and right of what is drawn.
const MARGIN: f32 = 18.0;

/// What is shown.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Parts {
    /// Over a game: devices, the first stick, facts, pulls, timers, near misses.
    Overlay,
    /// In a tool: devices, and a dial for each stick, axis and gauge; [`came`](crate::came) shows the rest.
    Hands,
    /// In a corner of a game: only the device that is in use.
    Device,
}

/// What the view is of, and where it goes.
#[derive(Clone, Copy, Debug)]
pub struct Shown<'s> {
    /// Whose hands.
    pub seat: &'s Seat,
    /// The seat's number.
    pub number: usize,
    /// Whether other seats play, too: then pulls name their seat.
    pub several: bool,
    /// What is printed on the keys.
    pub labels: &'s Labels,
    /// What came lately.
    pub recent: &'s Recent,
    /// The clock's time, by which what is old fades.
    pub now: Moment,
    /// Where it goes.
    pub area: Area,
    /// What is shown.
    pub parts: Parts,
}

/// Draws one seat's hands. What never moves is drawn once for each profile, keyboard and size.
#[derive(Debug)]
pub struct InputView {
    still: Option<Still>,
    /// Pixels for one of the area's, each way.
    scale: f32,
}

impl Default for InputView {
    fn default() -> InputView {
        InputView { still: None, scale: 1.0 }
    }
}

#[derive(Debug)]
struct Still {
    linkage: tidy_lever::Linkage,
    labels: Labels,
    parts: Parts,
    family: Option<Family>,
    bound: HashSet<Control>,
    pixels: Pixmap,
}

impl InputView {
    /// One that has drawn nothing yet.
    pub fn new() -> InputView {
        InputView::default()
    }

    /// So many pixels, each way, for one of the area's, for finer screens; 1 unless set.
    pub fn set_scale(&mut self, scale: f32) {
        self.scale = if scale.is_finite() && scale > 0.0 { scale } else { 1.0 };
        self.still = None;
    }

    /// Draws it.
    pub fn draw(&mut self, pixels: &mut Pixmap, letters: &mut Letters, shown: &Shown<'_>) {
        let scale = self.scale;
        let whole = |length: f32| (length * scale).round().max(0.0) as u32;
        let (left, top) = (whole(shown.area.x), whole(shown.area.y));
        let wide = whole(shown.area.wide).min(pixels.width().saturating_sub(left));
        let high = whole(shown.area.high).min(pixels.height().saturating_sub(top));
        let seat = shown.seat;
        let fits = |still: &Still| {
            still.linkage.is_same(seat.linkage())
                && still.labels == *shown.labels
                && still.parts == shown.parts
                && still.family == seat.family()
                && (still.pixels.width(), still.pixels.height()) == (wide, high)
        };
        if !self.still.as_ref().is_some_and(fits) {
            let Some(mut drawn) = Pixmap::new(wide, high) else { return };
            let bound = bound(seat.linkage());
            let hand = Hand::of(seat, &bound);
            let mut canvas = Canvas::new(&mut drawn, letters).scaled(scale);
            let (across, down) = canvas.size();
            canvas.rect(0.0, 0.0, across, down, p::PANEL | 0xff);
            canvas.rect(0.0, 0.0, 1.0, down, p::EDGE);
            Sheet::new(&mut canvas, (0.0, 0.0), shown, &hand, true).all(shown);
            let (linkage, labels, parts) = (seat.linkage().clone(), shown.labels.clone(), shown.parts);
            self.still = Some(Still { linkage, labels, parts, family: seat.family(), bound, pixels: drawn });
        }
        let Some(still) = &self.still else { return };
        let (across, wide) = (pixels.width() as usize, wide as usize);
        let rows = pixels.pixels_mut().chunks_exact_mut(across).skip(top as usize);
        for (to, from) in rows.zip(still.pixels.pixels().chunks_exact(wide)) {
            to[left as usize..left as usize + wide].copy_from_slice(from);
        }
        let hand = Hand::of(seat, &still.bound);
        let mut canvas = Canvas::new(pixels, letters).scaled(scale);
        Sheet::new(&mut canvas, (left as f32 / scale, top as f32 / scale), shown, &hand, false).all(shown);
    }
}

/// Draws what came and what waits, in two columns: near misses beside pulls, and below them the spans that run out.
pub fn came(pixels: &mut Pixmap, letters: &mut Letters, shown: &Shown<'_>) {
    came_on(&mut Canvas::new(pixels, letters), shown);
}

/// Draws what came on a canvas, which may be [scaled](Canvas::scaled).
pub fn came_on(canvas: &mut Canvas<'_>, shown: &Shown<'_>) {
    let none = HashSet::new();
    let hand = Hand::of(shown.seat, &none);
    let Area { x, y, wide, high } = shown.area;
    canvas.rect(x, y, wide, high, p::PANEL | 0xff);
    canvas.rect(x, y, wide, 1.0, p::EDGE);
    let columns = if wide < 400.0 { 1.0 } else { 2.0 };
    let column = Shown { area: Area { wide: wide / columns, ..shown.area }, ..*shown };
    for still in [true, false] {
        let mut sheet = Sheet::new(canvas, (x, y), &column, &hand, still);
        if columns == 1.0 {
            sheet.pulls(shown, 4);
            sheet.misses(shown, 2);
            continue;
        }
        sheet.pulls(shown, ((high - 40.0) / 19.0).max(0.0) as usize);
        let mut beside = Sheet::new(canvas, (x + wide / columns, y), &column, &hand, still);
        beside.spans(shown.seat, 3);
        beside.misses(shown, 4);
    }
}

/// The view as it is filled from above.
pub(crate) struct Sheet<'c, 'p> {
    pub(crate) canvas: &'c mut Canvas<'p>,
    pub(crate) left: f32,
    pub(crate) y: f32,
    end: f32,
    /// How wide its content is.
    pub(crate) room: f32,
    pub(crate) hand: &'c Hand<'c>,
    /// Whether what never moves is drawn, or what does.
    pub(crate) still: bool,
}

/// A control's colours: down, bound, or neither.
fn colours(level: f32, bound: bool) -> (p::Colour, p::Colour, p::Colour) {
    if !bound {
        return (0x0000_0000, 0x2b3d48ff, 0x4a5f6bff);
    }
    let share = ((level - 0.02) * 1.4).clamp(0.0, 1.0);
    (p::mixed(p::KEY, p::ON, share), p::mixed(p::KEY_EDGE, p::ON, share), p::mixed(p::INK, p::ON_INK, share))
}

impl<'c, 'p> Sheet<'c, 'p> {
    fn new(
        canvas: &'c mut Canvas<'p>,
        (x, y): (f32, f32),
        shown: &Shown<'_>,
        hand: &'c Hand<'c>,
        still: bool,
    ) -> Sheet<'c, 'p> {
        let room = (shown.area.wide - 2.0 * MARGIN).max(60.0);
        Sheet { canvas, left: x + MARGIN, y: y + 14.0, end: y + shown.area.high - 8.0, room, hand, still }
    }

    fn all(&mut self, shown: &Shown<'_>) {
        let seat = shown.seat;
        if shown.parts == Parts::Device {
            return self.device(shown);
        }
        let whose = if shown.several { format!("seat {}: inputs", shown.number) } else { "your inputs".to_owned() };
        if self.hand.uses(Family::Keys) {
            self.keys(shown.labels, seat, &whose);
        } else {
            self.title(&whose);
        }
        self.devices();
        match shown.parts {
            Parts::Overlay => {
                self.stick(seat);
                self.pulls(shown, 7);
                self.spans(seat, 4);
                self.misses(shown, 3);
            }
            Parts::Hands | Parts::Device => self.dials(seat),
        }
    }

    /// The device in use: the pad, or keys with the mouse below them. Fingers have nothing that could be drawn.
    fn device(&mut self, shown: &Shown<'_>) {
        match shown.seat.family() {
            Some(Family::Pad) => self.pad(self.left, self.room, self.y),
            Some(Family::Keys | Family::Mouse) => {
                self.keys(shown.labels, shown.seat, "your inputs");
                if self.hand.uses(Family::Mouse) && self.fits(114.0) {
                    self.mouse(self.left, self.y);
                }
            }
            _ => {}
        }
    }

    /// Whether this much still fits.
    pub(crate) fn fits(&self, high: f32) -> bool {
        self.y + high <= self.end
    }

    pub(crate) fn title(&mut self, text: &str) {
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

    fn keys(&mut self, labels: &Labels, seat: &Seat, title: &str) {
        let linkage = seat.linkage();
        self.title(title);
        let unit = self.room / keyboard::WIDE;
        let mut drawn = Vec::new();
        for (code, x, y, wide) in keyboard::keys() {
            let control = linkage.control(&format!("keys:{code}"));
            drawn.extend(control);
            let label = control.and_then(|control| labels.get(control)).unwrap_or(keyboard::cap(code)).to_owned();
            let at = (self.left + x * unit + 1.0, self.y + y * unit + 1.0);
            self.cap(at, (wide * unit - 2.0, unit - 2.0), control, &label);
        }
        self.y += keyboard::HIGH * unit + 4.0;
        // Keys that lie elsewhere.
        let elsewhere = |bound: &Control| bound.family() == Family::Keys && !drawn.contains(bound);
        let mut own: Vec<Control> = self.hand.bound().filter(elsewhere).collect();
        own.sort_by_key(ToString::to_string);
        let (mut x, mut any) = (self.left, false);
        for control in own {
            let text = control.name().to_string();
            let wide = self.canvas.wide(&text, 11.0) + 12.0;
            if x + wide > self.left + self.room {
                break;
            }
            self.cap((x, self.y), (wide, unit - 2.0), Some(control), &text);
            (x, any) = (x + wide + 4.0, true);
        }
        self.y += if any { unit + 6.0 } else { 6.0 };
    }

    fn devices(&mut self) {
        let (mouse, pad) = (self.hand.uses(Family::Mouse), self.hand.uses(Family::Pad));
        if !(mouse || pad) || !self.fits(124.0) {
            return;
        }
        if mouse {
            self.mouse(self.left, self.y);
        }
        let beside = if mouse && self.room >= 300.0 { 92.0 } else { 0.0 };
        if mouse && pad && beside == 0.0 {
            self.y += 126.0;
        }
        if pad && self.fits(124.0) {
            self.pad(self.left + beside, self.room - beside, self.y);
        }
        self.y += 126.0;
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

    fn pad(&mut self, x: f32, wide: f32, y: f32) {
        let wide = wide.clamp(206.0, 256.0);
        let half = 20.0;
        if self.still {
            self.canvas.card_edge((x + 0.5, y + 30.5), (wide - 1.0, 86.0), 30.0, p::KEY_EDGE);
        }
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

    fn row(&mut self, entry: &Entry, now: Moment, bright: p::Colour, several: bool) {
        let age = (now - entry.at).as_secs_f32();
        let colour = p::mixed(bright, p::FAINT, age / BRIGHT);
        let who = if several { format!("{} ", entry.seat) } else { String::new() };
        self.canvas.fitting(
            (self.left, self.y + 13.0),
            14.0,
            colour,
            &format!("{who}{}", entry.text),
            self.room * 0.58,
        );
        let more = &entry.more;
        self.canvas.text((self.left + self.room, self.y + 13.0), 12.0, Side::Right, p::faded(p::FAINT, 0.9), more);
        self.y += 19.0;
    }

    fn pulls(&mut self, shown: &Shown<'_>, most: usize) {
        if !self.fits(40.0) {
            return;
        }
        self.title("recent pulls");
        let from = self.y;
        let pulls: Vec<&Entry> = shown.recent.pulls().take(most).collect();
        for entry in &pulls {
            if !self.still && self.fits(19.0) {
                self.row(entry, shown.now, p::ON, shown.several);
            }
        }
        if pulls.is_empty() && !self.still {
            self.canvas.text((self.left, self.y + 13.0), 13.0, Side::Left, p::DIM, "nothing yet");
        }
        self.y = from + 19.0 * most as f32 + 6.0;
    }

    /// Keeps, lingering truths and cooldowns, as bars that shrink.
    fn spans(&mut self, seat: &Seat, most: usize) {
        if !self.fits(60.0) {
            return;
        }
        self.title("buffers and timers");
        let from = self.y;
        for span in seat.countdowns().take(if self.still { 0 } else { most }) {
            let (word, colour) = match span.runs {
                Runs::Kept => ("kept", p::WAITS),
                Runs::Lingers => ("lingers", p::LINGERS),
                _ => ("cools", p::COOLS),
            };
            let share = share(span.left, span.of);
            let name = span.word.map_or_else(|| span.name.to_owned(), |word| format!("{} is {word}", span.name));
            let named = format!("{name} {word}");
            self.canvas.fitting((self.left, self.y + 12.0), 12.0, p::INK, &named, (self.room * 0.43).min(150.0) - 6.0);
            let beside = (self.room * 0.43).min(150.0);
            let (x, wide) = (self.left + beside, self.room - beside - 56.0);
            self.canvas.card((x, self.y + 4.0), (wide, 8.0), 4.0, p::RAIL);
            self.canvas.card((x, self.y + 4.0), ((wide * share).max(4.0), 8.0), 4.0, colour);
            let left = format!("{} ms", span.left.as_millis());
            self.canvas.text((self.left + self.room, self.y + 12.0), 12.0, Side::Right, p::FAINT, &left);
            self.y += 17.0;
        }
        self.y = from + 17.0 * most as f32 + 4.0;
    }

    fn misses(&mut self, shown: &Shown<'_>, most: usize) {
        if !self.fits(38.0) {
            return;
        }
        self.title("near misses");
        for entry in shown.recent.misses().map(|miss| &miss.entry).take(most) {
            if self.fits(19.0) && !self.still {
                let age = (shown.now - entry.at).as_secs_f32();
                let colour = p::mixed(p::MISS, p::FAINT, age / (BRIGHT * 3.0));
                self.canvas.fitting((self.left, self.y + 13.0), 14.0, colour, &entry.text, self.room);
                self.y += 19.0;
            }
        }
    }
}

pub(crate) fn share(left: Duration, of: Duration) -> f32 {
    if of.is_zero() { 0.0 } else { (left.as_secs_f32() / of.as_secs_f32()).min(1.0) }
}
