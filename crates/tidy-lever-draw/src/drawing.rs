//! A finished picture: a list of the few shapes that all pictures are made of, written as SVG or painted on pixels.

use std::fmt::Display;
use std::ops::Range;

use svg::node::element::{Circle, Group, Line, Path, Rectangle, Text, Title};
use svg::{Document, Node};
use tidy_lever_view::canvas::{Canvas, Letters, Side};
use tidy_lever_view::glam::Vec2;
use tidy_lever_view::tiny_skia::Pixmap;

use crate::palette::{INK, PAPER};

/// Why something could not be drawn.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum DrawError {
    /// The profile has no such action.
    #[error("the profile has no action `{0}`")]
    NoAction(String),
    /// The action is of a kind that this picture doesn't show.
    #[error("`{action}` is {found}, and this picture shows a stick")]
    WrongKind {
        /// The action.
        action: String,
        /// What it is.
        found: &'static str,
    },
    /// The picture could not be turned into pixels.
    #[error("the picture could not be turned into pixels: {0}")]
    Pixels(String),
}

/// A place in pixels from the top left.
type Point = (f64, f64);

/// One shape. Colours are `#rrggbb`.
#[derive(Clone, Debug)]
enum Shape {
    Text { at: Point, size: u32, anchor: &'static str, colour: &'static str, text: String },
    Upright { at: Point, size: u32, colour: &'static str, text: String },
    Line { points: Vec<Point>, colour: &'static str, wide: f64 },
    Patch { points: Vec<Point>, colour: &'static str, opacity: f64 },
    Rectangle { at: Point, size: Point, colour: &'static str, opacity: f64 },
    Circle { at: Point, radius: f64, colour: &'static str, ring: Option<f64>, opacity: f64 },
}

/// A finished picture.
#[derive(Clone, Debug)]
pub struct Drawing {
    shapes: Vec<Shape>,
    /// What pointing at some of the shapes says, in an SVG; in their order.
    titles: Vec<(Range<usize>, String)>,
    /// Whether anybody can point at it; a view that moves is drawn again for each frame, and has no titles.
    has_titles: bool,
    size: (u32, u32),
}

impl Drawing {
    /// An empty sheet.
    pub(crate) fn new(width: u32, height: u32) -> Drawing {
        Drawing { shapes: Vec::new(), titles: Vec::new(), has_titles: true, size: (width, height) }
    }

    /// An empty sheet for a view that moves: without titles.
    pub(crate) fn untitled(width: u32, height: u32) -> Drawing {
        Drawing { has_titles: false, ..Drawing::new(width, height) }
    }

    /// Its width and height in pixels.
    pub fn size(&self) -> (u32, u32) {
        self.size
    }

    /// What `draw` draws says `title` when it is pointed at in an SVG.
    pub(crate) fn titled(&mut self, title: impl FnOnce() -> String, draw: impl FnOnce(&mut Drawing)) {
        let from = self.shapes.len();
        draw(self);
        if self.has_titles {
            self.titles.push((from..self.shapes.len(), allowed(&title())));
        }
    }

    /// Writes a text; `anchor` is `start`, `middle` or `end`.
    pub(crate) fn text(
        &mut self,
        at: Point,
        size: u32,
        anchor: &'static str,
        colour: &'static str,
        text: impl Display,
    ) {
        self.shapes.push(Shape::Text { at, size, anchor, colour, text: allowed(&text.to_string()) });
    }

    /// Writes a text from below upwards, around its middle.
    pub(crate) fn upright(&mut self, at: Point, size: u32, colour: &'static str, text: impl Display) {
        self.shapes.push(Shape::Upright { at, size, colour, text: allowed(&text.to_string()) });
    }

    /// The same, in a heading's weight.
    pub(crate) fn heading(&mut self, at: Point, size: u32, text: impl Display) {
        self.text(at, size, "start", INK, text);
    }

    pub(crate) fn line(&mut self, from: Point, to: Point, colour: &'static str, wide: f64) {
        self.shapes.push(Shape::Line { points: vec![from, to], colour, wide });
    }

    /// A line through many points.
    pub(crate) fn curve(&mut self, points: &[Point], colour: &'static str, wide: f64) {
        self.shapes.push(Shape::Line { points: points.to_vec(), colour, wide });
    }

    /// A filled shape between many points.
    pub(crate) fn patch(&mut self, points: &[Point], colour: &'static str, opacity: f64) {
        self.shapes.push(Shape::Patch { points: points.to_vec(), colour, opacity });
    }

    pub(crate) fn rectangle(&mut self, at: Point, size: Point, colour: &'static str, opacity: f64) {
        self.shapes.push(Shape::Rectangle { at, size, colour, opacity });
    }

    /// A circle: filled, or a ring of this width.
    pub(crate) fn circle(&mut self, at: Point, radius: f64, colour: &'static str, ring: Option<f64>, opacity: f64) {
        self.shapes.push(Shape::Circle { at, radius, colour, ring, opacity });
    }

    /// The picture as SVG text.
    pub fn svg(&self) -> String {
        let (width, height) = self.size;
        let mut document = Document::new()
            .set("viewBox", (0, 0, width, height))
            .set("width", width)
            .set("height", height)
            .set("font-family", "DejaVu Sans, Verdana, sans-serif")
            .add(Rectangle::new().set("width", width).set("height", height).set("fill", PAPER));
        let mut drawn = 0;
        for (range, title) in &self.titles {
            self.shapes[drawn..range.start].iter().for_each(|shape| add(&mut document, shape));
            let mut group = Group::new().add(Title::new(title));
            self.shapes[range.clone()].iter().for_each(|shape| add(&mut group, shape));
            document.append(group);
            drawn = range.end;
        }
        self.shapes[drawn..].iter().for_each(|shape| add(&mut document, shape));
        document.to_string()
    }

    /// The picture as a PNG file's bytes, at its own size; text is set in a bundled open font.
    ///
    /// # Errors
    /// [`DrawError::Pixels`] if it is too large, or the renderer fails.
    pub fn png(&self) -> Result<Vec<u8>, DrawError> {
        let failed = |what: &dyn Display| DrawError::Pixels(what.to_string());
        let mut pixels = Pixmap::new(self.size.0, self.size.1).ok_or_else(|| failed(&"it has no size"))?;
        let mut letters = Letters::new().map_err(|error| failed(&error))?;
        let mut canvas = Canvas::new(&mut pixels, &mut letters);
        let plain = |colour: &str| coloured(colour);
        canvas.rect(0.0, 0.0, self.size.0 as f32, self.size.1 as f32, plain(PAPER));
        self.paint(&mut canvas, (0.0, 0.0), plain);
        pixels.encode_png().map_err(|error| failed(&error))
    }

    /// Paints its shapes on a canvas, from this place on, without its paper. Colours, `#rrggbb`, go through `theme`, which
    /// gives red, green, blue and opacity.
    pub fn paint(&self, canvas: &mut Canvas<'_>, (left, top): (f32, f32), theme: impl Fn(&str) -> u32) {
        let on = |(x, y): Point| Vec2::new(left + x as f32, top + y as f32);
        let all = |points: &[Point]| points.iter().map(|point| on(*point)).collect::<Vec<Vec2>>();
        let seen = |colour: &str, opacity: f64| {
            let colour = theme(colour);
            colour & 0xffff_ff00 | (f64::from(colour & 0xff) * opacity.clamp(0.0, 1.0)).round() as u32
        };
        for shape in &self.shapes {
            match shape {
                Shape::Text { at, size, anchor, colour, text } => {
                    let side = match *anchor {
                        "middle" => Side::Middle,
                        "end" => Side::Right,
                        _ => Side::Left,
                    };
                    let at = on(*at);
                    canvas.text((at.x, at.y), *size as f32, side, theme(colour), text);
                }
                Shape::Upright { at, size, colour, text } => {
                    let at = on(*at);
                    canvas.upright((at.x, at.y), *size as f32, theme(colour), text);
                }
                // As in SVG, the ends of a line are cut off straight.
                Shape::Line { points, colour, wide } => canvas.stroke_flat(&all(points), *wide as f32, theme(colour)),
                Shape::Patch { points, colour, opacity } => canvas.shape(&all(points), seen(colour, *opacity)),
                Shape::Rectangle { at, size, colour, opacity } => {
                    let at = on(*at);
                    canvas.smooth_rect((at.x, at.y), (size.0 as f32, size.1 as f32), seen(colour, *opacity));
                }
                Shape::Circle { at, radius, colour, ring, opacity } => match ring {
                    Some(wide) => canvas.ring(on(*at), *radius as f32, *wide as f32, theme(colour)),
                    None => canvas.disc(on(*at), *radius as f32, seen(colour, *opacity)),
                },
            }
        }
    }
}

/// `#rrggbb` as red, green, blue and full opacity.
pub(crate) fn coloured(text: &str) -> u32 {
    u32::from_str_radix(text.trim_start_matches('#'), 16).map_or(0xff, |rgb| rgb << 8 | 0xff)
}

fn add(document: &mut impl Node, shape: &Shape) {
    match shape {
        Shape::Text { at: (x, y), size, anchor, colour, text } => {
            let node = Text::new(text).set("x", round(*x)).set("y", round(*y)).set("font-size", *size);
            document.append(node.set("text-anchor", *anchor).set("fill", *colour));
        }
        Shape::Upright { at: (x, y), size, colour, text } => {
            let node = Text::new(text)
                .set("transform", format!("translate({} {}) rotate(-90)", round(*x), round(*y)))
                .set("font-size", *size)
                .set("text-anchor", "middle")
                .set("fill", *colour);
            document.append(node);
        }
        Shape::Line { points, colour, wide } => match points[..] {
            [from, to] => {
                let node = Line::new()
                    .set("x1", round(from.0))
                    .set("y1", round(from.1))
                    .set("x2", round(to.0))
                    .set("y2", round(to.1))
                    .set("stroke", *colour)
                    .set("stroke-width", *wide);
                document.append(node);
            }
            _ => {
                let step = |(n, (x, y)): (usize, &Point)| {
                    format!("{}{} {}", if n == 0 { "M" } else { "L" }, round(*x), round(*y))
                };
                let data: Vec<String> = points.iter().enumerate().map(step).collect();
                let node = Path::new()
                    .set("d", data.join(" "))
                    .set("fill", "none")
                    .set("stroke", *colour)
                    .set("stroke-width", *wide);
                document.append(node.set("stroke-linejoin", "round"));
            }
        },
        Shape::Patch { points, colour, opacity } => {
            let data: Vec<String> = points.iter().map(|(x, y)| format!("{} {}", round(*x), round(*y))).collect();
            let data = format!("M{} Z", data.join(" L"));
            document.append(Path::new().set("d", data).set("fill", *colour).set("fill-opacity", *opacity));
        }
        Shape::Rectangle { at: (x, y), size: (wide, high), colour, opacity } => {
            let node = Rectangle::new()
                .set("x", round(*x))
                .set("y", round(*y))
                .set("width", round(*wide))
                .set("height", round(*high))
                .set("fill", *colour)
                .set("fill-opacity", *opacity);
            document.append(node);
        }
        Shape::Circle { at: (x, y), radius, colour, ring, opacity } => {
            let node = Circle::new().set("cx", round(*x)).set("cy", round(*y)).set("r", round(*radius));
            document.append(match ring {
                Some(wide) => node.set("fill", "none").set("stroke", *colour).set("stroke-width", *wide),
                None => node.set("fill", *colour).set("fill-opacity", *opacity),
            });
        }
    }
}

/// A text without the characters that XML has no place for, escaped or not: controls and noncharacters.
fn allowed(text: &str) -> String {
    let is_allowed = |c: char| !c.is_control() && !matches!(c, '\u{fdd0}'..='\u{fdef}' | '\u{fffe}' | '\u{ffff}');
    text.chars().map(|c| if is_allowed(c) { c } else { char::REPLACEMENT_CHARACTER }).collect()
}

/// Hundredths of a pixel are fine enough, and keep files small.
fn round(n: f64) -> f64 {
    (n * 100.0).round() / 100.0
}
