//! A finished picture, and the few shapes that all pictures are made of.

use std::fmt::Display;

use resvg::{tiny_skia, usvg};
use svg::node::element::{Circle, Line, Path, Rectangle, Text};
use svg::{Document, Node};

use crate::palette::{INK, PAPER};

/// The bundled font: DejaVu Sans, free under the Bitstream Vera licence beside it.
const FONT: &[u8] = include_bytes!("../font/DejaVuSans.ttf");

/// Why something could not be drawn.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
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

/// A finished picture.
#[derive(Clone, Debug)]
pub struct Drawing {
    document: Document,
    size: (u32, u32),
}

impl Drawing {
    /// An empty sheet.
    pub(crate) fn new(width: u32, height: u32) -> Drawing {
        let document = Document::new()
            .set("viewBox", (0, 0, width, height))
            .set("width", width)
            .set("height", height)
            .set("font-family", "DejaVu Sans, Verdana, sans-serif")
            .add(Rectangle::new().set("width", width).set("height", height).set("fill", PAPER));
        Drawing { document, size: (width, height) }
    }

    /// Adds a shape.
    pub(crate) fn add(&mut self, node: impl Node) {
        self.document.append(node);
    }

    /// Writes a text; `anchor` is `start`, `middle` or `end`.
    pub(crate) fn text(&mut self, (x, y): (f64, f64), size: u32, anchor: &str, colour: &str, text: impl Display) {
        let node = Text::new(allowed(&text.to_string()))
            .set("x", round(x))
            .set("y", round(y))
            .set("font-size", size)
            .set("text-anchor", anchor)
            .set("fill", colour);
        self.add(node);
    }

    /// Writes a text from below upwards, around its middle.
    pub(crate) fn upright(&mut self, (x, y): (f64, f64), size: u32, colour: &str, text: impl Display) {
        let node = Text::new(allowed(&text.to_string()))
            .set("transform", format!("translate({} {}) rotate(-90)", round(x), round(y)))
            .set("font-size", size)
            .set("text-anchor", "middle")
            .set("fill", colour);
        self.add(node);
    }

    /// The same, in a heading's weight.
    pub(crate) fn heading(&mut self, at: (f64, f64), size: u32, text: impl Display) {
        self.text(at, size, "start", INK, text);
    }

    pub(crate) fn line(&mut self, from: (f64, f64), to: (f64, f64), colour: &str, width: f64) {
        let node = Line::new()
            .set("x1", round(from.0))
            .set("y1", round(from.1))
            .set("x2", round(to.0))
            .set("y2", round(to.1))
            .set("stroke", colour)
            .set("stroke-width", width);
        self.add(node);
    }

    /// A line through many points.
    pub(crate) fn curve(&mut self, points: &[(f64, f64)], colour: &str, width: f64) {
        let step = |(n, (x, y)): (usize, &(f64, f64))| {
            format!("{}{} {}", if n == 0 { "M" } else { "L" }, round(*x), round(*y))
        };
        let data: Vec<String> = points.iter().enumerate().map(step).collect();
        let node =
            Path::new().set("d", data.join(" ")).set("fill", "none").set("stroke", colour).set("stroke-width", width);
        self.add(node.set("stroke-linejoin", "round"));
    }

    /// A filled shape between many points.
    pub(crate) fn patch(&mut self, points: &[(f64, f64)], colour: &str, opacity: f64) {
        let data: Vec<String> = points.iter().map(|(x, y)| format!("{} {}", round(*x), round(*y))).collect();
        let node =
            Path::new().set("d", format!("M{} Z", data.join(" L"))).set("fill", colour).set("fill-opacity", opacity);
        self.add(node);
    }

    pub(crate) fn rectangle(&mut self, (x, y): (f64, f64), (wide, high): (f64, f64), colour: &str, opacity: f64) {
        let node = Rectangle::new()
            .set("x", round(x))
            .set("y", round(y))
            .set("width", round(wide))
            .set("height", round(high))
            .set("fill", colour)
            .set("fill-opacity", opacity);
        self.add(node);
    }

    /// A circle: filled, or a ring of this width.
    pub(crate) fn circle(&mut self, (x, y): (f64, f64), radius: f64, colour: &str, ring: Option<f64>, opacity: f64) {
        let node = Circle::new().set("cx", round(x)).set("cy", round(y)).set("r", round(radius));
        let node = match ring {
            Some(width) => node.set("fill", "none").set("stroke", colour).set("stroke-width", width),
            None => node.set("fill", colour).set("fill-opacity", opacity),
        };
        self.add(node);
    }

    /// The picture as SVG text.
    pub fn svg(&self) -> String {
        self.document.to_string()
    }

    /// The picture as a PNG file's bytes, at its own size.
    ///
    /// # Errors
    /// [`DrawError::Pixels`] if the renderer fails.
    pub fn png(&self) -> Result<Vec<u8>, DrawError> {
        let failed = |what: &dyn Display| DrawError::Pixels(what.to_string());
        let mut options = usvg::Options::default();
        options.fontdb_mut().load_font_data(FONT.to_vec());
        let tree = usvg::Tree::from_str(&self.svg(), &options).map_err(|error| failed(&error))?;
        let mut pixels = tiny_skia::Pixmap::new(self.size.0, self.size.1).ok_or_else(|| failed(&"it has no size"))?;
        resvg::render(&tree, tiny_skia::Transform::default(), &mut pixels.as_mut());
        pixels.encode_png().map_err(|error| failed(&error))
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
