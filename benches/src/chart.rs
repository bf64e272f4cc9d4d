//! Curves of costs, both axes by powers.

use std::error::Error;
use std::ops::Range;

use plotters::prelude::*;

/// Okabe and Ito's colours, as in all other pictures; those that come again are thin.
const COLOURS: [RGBColor; 6] = [
    RGBColor(0, 114, 178),
    RGBColor(213, 94, 0),
    RGBColor(0, 158, 115),
    RGBColor(204, 121, 167),
    RGBColor(86, 180, 233),
    RGBColor(230, 159, 0),
];

/// The house style of all pictures.
const INK: RGBColor = RGBColor(27, 31, 36);
const FAINT: RGBColor = RGBColor(106, 115, 125);
const GRID: RGBColor = RGBColor(227, 230, 234);
const FONT: &str = "DejaVu Sans, Verdana, sans-serif";
const WIDTH: u32 = 1_000;
/// Room for the names at the curves' ends, and how far apart they are at least.
const NAMES: u32 = 190;
const APART: i32 = 18;

/// One axis: what it says, and from where to where it goes.
#[derive(Clone, Debug)]
pub struct Scale {
    pub says: &'static str,
    pub range: Range<f64>,
}

/// A figure of curves.
#[derive(Clone, Debug)]
pub struct Chart {
    pub caption: &'static str,
    pub height: u32,
    pub x: Scale,
    pub y: Scale,
}

impl Chart {
    /// Draws curves, each with its name at its end, to an SVG file.
    ///
    /// # Errors
    ///
    /// If the file can't be written.
    pub fn draw(&self, file: &str, curves: &[(&str, Vec<(f64, f64)>)]) -> Result<(), Box<dyn Error>> {
        let area = SVGBackend::new(file, (WIDTH, self.height)).into_drawing_area();
        area.fill(&WHITE)?;
        area.draw(&Text::new(self.caption, (24, 20), (FONT, 20).into_font().color(&INK)))?;
        let mut chart = ChartBuilder::on(&area)
            .margin(16)
            .margin_top(56)
            .margin_right(NAMES)
            .x_label_area_size(48)
            .y_label_area_size(76)
            .build_cartesian_2d(self.x.range.clone().log_scale(), self.y.range.clone().log_scale())?;
        let whole = |value: &f64| format!("{value:.0}");
        let mut mesh = chart.configure_mesh();
        mesh.x_label_formatter(&whole).y_label_formatter(&whole);
        mesh.bold_line_style(GRID).light_line_style(WHITE).axis_style(FAINT);
        let label = (FONT, 13).into_font().color(&INK);
        mesh.x_desc(self.x.says).y_desc(self.y.says).label_style(label.clone()).axis_desc_style(label).draw()?;
        let mut ends = Vec::new();
        for (number, (name, points)) in curves.iter().enumerate() {
            let colour = COLOURS[number % COLOURS.len()];
            let wide = if number < COLOURS.len() { 3 } else { 1 };
            chart.draw_series(LineSeries::new(points.iter().copied(), colour.stroke_width(wide)).point_size(4))?;
            ends.extend(points.last().map(|end| (chart.backend_coord(end), *name, colour.stroke_width(wide))));
        }
        ends.sort_by_key(|((_, y), ..)| *y);
        let mut free = i32::MIN;
        for ((x, y), name, style) in ends {
            let y = y.max(free);
            free = y + APART;
            area.draw(&PathElement::new([(x + 8, y), (x + 22, y)], style))?;
            area.draw(&Text::new(name, (x + 28, y - 7), (FONT, 14).into_font().color(&INK)))?;
        }
        area.present()?;
        Ok(())
    }
}
