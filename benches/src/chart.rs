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
    pub names: SeriesLabelPosition,
}

impl Chart {
    /// Draws curves, each with its name, to an SVG file.
    ///
    /// # Errors
    ///
    /// If the file can't be written.
    pub fn draw(&self, file: &str, curves: &[(&str, Vec<(f64, f64)>)]) -> Result<(), Box<dyn Error>> {
        let area = SVGBackend::new(file, (900, self.height)).into_drawing_area();
        area.fill(&WHITE)?;
        let mut chart = ChartBuilder::on(&area)
            .caption(self.caption, ("sans-serif", 22))
            .margin(16)
            .x_label_area_size(44)
            .y_label_area_size(72)
            .build_cartesian_2d(self.x.range.clone().log_scale(), self.y.range.clone().log_scale())?;
        let whole = |value: &f64| format!("{value:.0}");
        let mut mesh = chart.configure_mesh();
        mesh.x_label_formatter(&whole).y_label_formatter(&whole);
        mesh.bold_line_style(BLACK.mix(0.12)).light_line_style(WHITE);
        mesh.x_desc(self.x.says).y_desc(self.y.says).label_style(("sans-serif", 14)).draw()?;
        for (number, (name, points)) in curves.iter().enumerate() {
            let colour = COLOURS[number % COLOURS.len()];
            let wide = if number < COLOURS.len() { 3 } else { 1 };
            chart
                .draw_series(LineSeries::new(points.iter().copied(), colour.stroke_width(wide)).point_size(4))?
                .label(*name)
                .legend(move |(x, y)| PathElement::new([(x, y), (x + 22, y)], colour.stroke_width(wide)));
        }
        let labels = chart.configure_series_labels();
        { labels }
            .position(self.names.clone())
            .background_style(WHITE.mix(0.9))
            .border_style(BLACK.mix(0.3))
            .label_font(("sans-serif", 15))
            .draw()?;
        area.present()?;
        Ok(())
    }
}
