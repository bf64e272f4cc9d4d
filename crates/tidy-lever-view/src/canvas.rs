//! Shapes and letters on pixels.

use std::collections::HashMap;

use fontdue::{Font, FontSettings, Metrics};
use glam::Vec2;
use tiny_skia::{
    Color, FillRule, GradientStop, LineCap, LineJoin, LinearGradient, Paint, Path, PathBuilder, Pixmap, Point,
    PremultipliedColorU8, Rect, SpreadMode, Stroke, Transform,
};

use crate::palette::Colour;

/// DejaVu Sans, the font that the project's pictures share.
const FONT: &[u8] = include_bytes!("../font/DejaVuSans.ttf");

/// Letters as they were drawn before, by size.
pub struct Letters {
    font: Font,
    drawn: HashMap<(char, u32), (Metrics, Vec<u8>)>,
}

/// The bundled font can't be read.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error("the bundled font can't be read: {0}")]
pub struct NoFont(&'static str);

impl std::fmt::Debug for Letters {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Letters").field("drawn", &self.drawn.len()).finish()
    }
}

impl Letters {
    /// No letters yet.
    ///
    /// # Errors
    /// [`NoFont`] if the font inside is damaged.
    pub fn new() -> Result<Letters, NoFont> {
        let font = Font::from_bytes(FONT, FontSettings::default()).map_err(NoFont)?;
        Ok(Letters { font, drawn: HashMap::new() })
    }

    fn letter(&mut self, letter: char, size: f32) -> &(Metrics, Vec<u8>) {
        let key = (letter, (size * 4.0) as u32);
        self.drawn.entry(key).or_insert_with(|| self.font.rasterize(letter, size))
    }

    /// How wide a text is.
    pub fn wide(&mut self, text: &str, size: f32) -> f32 {
        text.chars().map(|letter| self.letter(letter, size).0.advance_width).sum()
    }
}

/// Where a text stands against its place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Side {
    /// It begins there.
    Left,
    /// Its middle is there.
    Middle,
    /// It ends there.
    Right,
}

/// Pixels to draw on. Places are in pixels from the top left, y downwards; angles in degrees counter-clockwise. On a finer
/// screen a [scale](Canvas::scaled) makes several pixels of each.
#[derive(Debug)]
pub struct Canvas<'p> {
    /// What is drawn on.
    pub pixels: &'p mut Pixmap,
    letters: &'p mut Letters,
    scale: f32,
}

fn color(colour: Colour) -> Color {
    let [r, g, b, a] = colour.to_be_bytes();
    Color::from_rgba8(r, g, b, a)
}

fn paint(colour: Colour) -> Paint<'static> {
    let mut paint = Paint { anti_alias: true, ..Paint::default() };
    paint.set_color(color(colour));
    paint
}

impl<'p> Canvas<'p> {
    /// On these pixels, with these letters.
    pub fn new(pixels: &'p mut Pixmap, letters: &'p mut Letters) -> Canvas<'p> {
        Canvas { pixels, letters, scale: 1.0 }
    }

    /// So many pixels, each way, for one of a place or a size: lines and letters keep their size on a finer screen.
    pub fn scaled(self, scale: f32) -> Canvas<'p> {
        Canvas { scale: if scale.is_finite() && scale > 0.0 { scale } else { 1.0 }, ..self }
    }

    fn transform(&self) -> Transform {
        Transform::from_scale(self.scale, self.scale)
    }

    /// Its width and height.
    pub fn size(&self) -> (f32, f32) {
        (self.pixels.width() as f32 / self.scale, self.pixels.height() as f32 / self.scale)
    }

    fn fill(&mut self, path: Option<Path>, colour: Colour) {
        let transform = self.transform();
        if let Some(path) = path {
            self.pixels.fill_path(&path, &paint(colour), FillRule::Winding, transform, None);
        }
    }

    fn stroke(&mut self, path: Option<Path>, wide: f32, colour: Colour) {
        let transform = self.transform();
        let stroke = Stroke { width: wide, line_cap: LineCap::Round, line_join: LineJoin::Round, ..Stroke::default() };
        if let Some(path) = path {
            self.pixels.stroke_path(&path, &paint(colour), &stroke, transform, None);
        }
    }

    /// A filled rectangle.
    pub fn rect(&mut self, x: f32, y: f32, wide: f32, high: f32, colour: Colour) {
        let transform = self.transform();
        if let Some(rect) = Rect::from_xywh(x, y, wide.max(0.0), high.max(0.0)) {
            self.pixels.fill_rect(rect, &paint(colour), transform, None);
        }
    }

    /// From one colour above to another below.
    pub fn shade(&mut self, (x, y): (f32, f32), (wide, high): (f32, f32), colours: &[Colour]) {
        let transform = self.transform();
        let steps = (colours.len().max(2) - 1) as f32;
        let stop = |(n, colour): (usize, &Colour)| GradientStop::new(n as f32 / steps, color(*colour));
        let shader = LinearGradient::new(
            Point::from_xy(0.0, y),
            Point::from_xy(0.0, y + high),
            colours.iter().enumerate().map(stop).collect(),
            SpreadMode::Pad,
            Transform::identity(),
        );
        if let (Some(shader), Some(rect)) = (shader, Rect::from_xywh(x, y, wide, high)) {
            let paint = Paint { shader, ..Paint::default() };
            self.pixels.fill_rect(rect, &paint, transform, None);
        }
    }

    fn rounded(x: f32, y: f32, wide: f32, high: f32, corner: f32) -> Option<Path> {
        let corner = corner.min(wide / 2.0).min(high / 2.0);
        let mut path = PathBuilder::new();
        path.move_to(x + corner, y);
        path.line_to(x + wide - corner, y);
        path.quad_to(x + wide, y, x + wide, y + corner);
        path.line_to(x + wide, y + high - corner);
        path.quad_to(x + wide, y + high, x + wide - corner, y + high);
        path.line_to(x + corner, y + high);
        path.quad_to(x, y + high, x, y + high - corner);
        path.line_to(x, y + corner);
        path.quad_to(x, y, x + corner, y);
        path.close();
        path.finish()
    }

    /// Halves the light of all that is drawn so far.
    pub fn dim(&mut self) {
        for pixel in self.pixels.pixels_mut() {
            let half = PremultipliedColorU8::from_rgba(pixel.red() / 2, pixel.green() / 2, pixel.blue() / 2, 255);
            *pixel = half.unwrap_or(*pixel);
        }
    }

    /// A rectangle with round corners.
    pub fn card(&mut self, (x, y): (f32, f32), (wide, high): (f32, f32), corner: f32, colour: Colour) {
        self.fill(Canvas::rounded(x, y, wide, high, corner), colour);
    }

    /// The edge of a rectangle with round corners.
    pub fn card_edge(&mut self, (x, y): (f32, f32), (wide, high): (f32, f32), corner: f32, colour: Colour) {
        self.stroke(Canvas::rounded(x, y, wide, high, corner), 1.0, colour);
    }

    /// A filled circle.
    pub fn disc(&mut self, middle: Vec2, radius: f32, colour: Colour) {
        self.fill(PathBuilder::from_circle(middle.x, middle.y, radius.max(0.1)), colour);
    }

    /// A circle's edge, so wide.
    pub fn ring(&mut self, middle: Vec2, radius: f32, wide: f32, colour: Colour) {
        self.stroke(PathBuilder::from_circle(middle.x, middle.y, radius.max(0.1)), wide, colour);
    }

    fn oval(middle: Vec2, half: Vec2) -> Option<Path> {
        Rect::from_xywh(middle.x - half.x.abs(), middle.y - half.y, half.x.abs() * 2.0, half.y * 2.0)
            .and_then(PathBuilder::from_oval)
    }

    /// A filled oval.
    pub fn egg(&mut self, middle: Vec2, half: Vec2, colour: Colour) {
        self.fill(Canvas::oval(middle, half), colour);
    }

    /// An oval's edge.
    pub fn egg_edge(&mut self, middle: Vec2, half: Vec2, wide: f32, colour: Colour) {
        self.stroke(Canvas::oval(middle, half), wide, colour);
    }

    fn path(points: &[Vec2], close: bool) -> Option<Path> {
        let mut path = PathBuilder::new();
        for (n, point) in points.iter().enumerate() {
            if n == 0 { path.move_to(point.x, point.y) } else { path.line_to(point.x, point.y) }
        }
        if close {
            path.close();
        }
        path.finish()
    }

    /// A filled shape between points.
    pub fn shape(&mut self, points: &[Vec2], colour: Colour) {
        self.fill(Canvas::path(points, true), colour);
    }

    /// A line through points.
    pub fn line(&mut self, points: &[Vec2], wide: f32, colour: Colour) {
        self.stroke(Canvas::path(points, false), wide, colour);
    }

    /// A line through points whose ends are cut off straight.
    pub fn stroke_flat(&mut self, points: &[Vec2], wide: f32, colour: Colour) {
        let transform = self.transform();
        let stroke = Stroke { width: wide, line_join: LineJoin::Round, ..Stroke::default() };
        if let Some(path) = Canvas::path(points, false) {
            self.pixels.stroke_path(&path, &paint(colour), &stroke, transform, None);
        }
    }

    /// A filled rectangle whose edges may lie between pixels.
    pub fn smooth_rect(&mut self, (x, y): (f32, f32), (wide, high): (f32, f32), colour: Colour) {
        if let Some(rect) = Rect::from_xywh(x, y, wide.max(0.0), high.max(0.0)) {
            self.fill(Some(PathBuilder::from_rect(rect)), colour);
        }
    }

    /// A slice of a ring, by degrees counter-clockwise from the right.
    pub fn slice(&mut self, middle: Vec2, (inner, outer): (f32, f32), from: f32, to: f32, colour: Colour) {
        let at = |degrees: f32, radius: f32| {
            let (sin, cos) = degrees.to_radians().sin_cos();
            middle + Vec2::new(cos, -sin) * radius
        };
        let steps = 12;
        let angle = |n: i32| from + (to - from) * n as f32 / steps as f32;
        let out = (0..=steps).map(|n| at(angle(n), outer));
        let back = (0..=steps).rev().map(|n| at(angle(n), inner));
        let points: Vec<Vec2> = out.chain(back).collect();
        self.shape(&points, colour);
    }

    /// How wide a text is.
    pub fn wide(&mut self, text: &str, size: f32) -> f32 {
        self.letters.wide(text, size * self.scale) / self.scale
    }

    /// A text on its base line; how wide it is.
    pub fn text(&mut self, (x, y): (f32, f32), size: f32, side: Side, colour: Colour, text: &str) -> f32 {
        let (x, y, size) = (x * self.scale, y * self.scale, size * self.scale);
        let wide = self.letters.wide(text, size);
        let mut pen = x - match side {
            Side::Left => 0.0,
            Side::Middle => wide / 2.0,
            Side::Right => wide,
        };
        for letter in text.chars() {
            let (metrics, cover) = self.letters.letter(letter, size);
            let left = (pen + metrics.xmin as f32).round() as i32;
            let top = y.round() as i32 - metrics.ymin - metrics.height as i32;
            for (n, cover) in cover.iter().enumerate().filter(|(_, cover)| **cover > 0) {
                let at = (left + (n % metrics.width) as i32, top + (n / metrics.width) as i32);
                dab(self.pixels, at, colour, *cover);
            }
            pen += metrics.advance_width;
        }
        wide / self.scale
    }

    /// A text from below upwards, around its middle.
    pub fn upright(&mut self, (x, y): (f32, f32), size: f32, colour: Colour, text: &str) {
        let (x, y, size) = (x * self.scale, y * self.scale, size * self.scale);
        let mut pen = y + self.letters.wide(text, size) / 2.0;
        for letter in text.chars() {
            let (metrics, cover) = self.letters.letter(letter, size);
            let bottom = (pen - metrics.xmin as f32).round() as i32;
            let left = x.round() as i32 - metrics.ymin - metrics.height as i32;
            for (n, cover) in cover.iter().enumerate().filter(|(_, cover)| **cover > 0) {
                let at = (left + (n / metrics.width) as i32, bottom - (n % metrics.width) as i32);
                dab(self.pixels, at, colour, *cover);
            }
            pen -= metrics.advance_width;
        }
    }

    /// A text that is cut to a width, with dots where something is missing.
    pub fn fitting(&mut self, at: (f32, f32), size: f32, colour: Colour, text: &str, room: f32) {
        if self.wide(text, size) <= room {
            self.text(at, size, Side::Left, colour, text);
            return;
        }
        let mut short: String = text.to_owned();
        while !short.is_empty() && self.wide(&short, size) + self.wide("…", size) > room {
            short.pop();
        }
        self.text(at, size, Side::Left, colour, &format!("{}…", short.trim_end()));
    }

    /// Breaks a text into lines that fit.
    pub fn wrap(&mut self, text: &str, size: f32, room: f32) -> Vec<String> {
        let mut lines: Vec<String> = vec![String::new()];
        for word in text.split_whitespace() {
            let Some(last) = lines.last_mut() else { break };
            let longer = if last.is_empty() { word.to_owned() } else { format!("{last} {word}") };
            if last.is_empty() || self.letters.wide(&longer, size * self.scale) <= room * self.scale {
                *last = longer;
            } else {
                lines.push(word.to_owned());
            }
        }
        lines
    }
}

/// Puts a colour over a pixel, as far as it is covered.
fn dab(pixels: &mut Pixmap, (x, y): (i32, i32), colour: Colour, cover: u8) {
    let (across, down) = (pixels.width() as i32, pixels.height() as i32);
    if !(0..across).contains(&x) || !(0..down).contains(&y) {
        return;
    }
    let [red, green, blue, opacity] = colour.to_be_bytes().map(u32::from);
    let pixel = &mut pixels.pixels_mut()[(y * across + x) as usize];
    let share = u32::from(cover) * opacity / 255;
    let over = |new: u32, old: u8| ((new * share + u32::from(old) * (255 - share)) / 255) as u8;
    let all = share + u32::from(pixel.alpha()) * (255 - share) / 255;
    let mixed = PremultipliedColorU8::from_rgba(
        over(red, pixel.red()),
        over(green, pixel.green()),
        over(blue, pixel.blue()),
        all as u8,
    );
    if let Some(mixed) = mixed {
        *pixel = mixed;
    }
}
