//! A rehearsal over a range of one number: how much each hand is found, and what pulls unmeant.

use crate::drawing::Drawing;
use crate::palette::{FAINT, GRID, INK, SERIES};

const WIDTH: u32 = 1280;
const HEIGHT: u32 = 800;
const LEFT: f64 = 110.0;
const RIGHT: f64 = 1130.0;
/// How far apart the names at the lines' ends are at least.
const APART: f64 = 18.0;
/// Where the two plots stand: top and bottom.
const FOUND: (f64, f64) = (120.0, 510.0);
const FALSE: (f64, f64) = (560.0, 690.0);

/// What one hand is found by, at each value.
#[derive(Clone, Debug)]
pub struct Curve {
    /// The hand's name.
    pub name: String,
    /// At each value: the share that is found, and between which shares the true one lies; 0 to 1.
    pub found: Vec<(f64, (f64, f64))>,
    /// At each value: false pulls a minute.
    pub false_pulls: Vec<f64>,
}

/// A rehearsal over a range of one number.
#[derive(Clone, Debug)]
pub struct Rehearsed {
    /// What it is of.
    pub title: String,
    /// A line beneath the title.
    pub about: String,
    /// The number's path and its unit, for the axis.
    pub number: String,
    /// The values, upwards.
    pub values: Vec<f64>,
    /// What the profile has now, and as it is written.
    pub now: (f64, String),
    /// One curve a hand.
    pub curves: Vec<Curve>,
}

/// A round step that cuts a span into about so many.
fn step(span: f64, count: f64) -> f64 {
    let rough = (span / count).max(1e-9);
    let power = 10f64.powf(rough.log10().floor());
    let nice = [1.0, 2.0, 2.5, 5.0, 10.0].into_iter().find(|nice| nice * power >= rough);
    nice.unwrap_or(10.0) * power
}

/// A number with no more digits than it needs.
fn plain(value: f64) -> String {
    ((value * 1e3).round() / 1e3).to_string()
}

impl Rehearsed {
    /// Draws it: found above, with the interval of each share as a band; false pulls below; the present value as a line.
    pub fn draw(&self) -> Drawing {
        let mut drawing = Drawing::new(WIDTH, HEIGHT);
        drawing.heading((40.0, 50.0), 26, &self.title);
        drawing.text((40.0, 78.0), 15, "start", FAINT, &self.about);
        let (first, last) = (self.values.first().copied().unwrap_or(0.0), self.values.last().copied().unwrap_or(1.0));
        let x = |value: f64| LEFT + (RIGHT - LEFT) * (value - first) / (last - first).max(1e-9);
        let most = self.curves.iter().flat_map(|curve| curve.false_pulls.iter().copied()).fold(0.0, f64::max);
        let tick = step(most.max(0.04), 3.0);
        let top = (most / tick).ceil().max(1.0) * tick;
        let found = |share: f64| FOUND.1 - (FOUND.1 - FOUND.0) * share;
        let false_pulls = |count: f64| FALSE.1 - (FALSE.1 - FALSE.0) * count / top;
        for tenth in (0..=10).step_by(2) {
            let share = f64::from(tenth) / 10.0;
            drawing.line((LEFT, found(share)), (RIGHT, found(share)), GRID, 1.0);
            drawing.text((LEFT - 12.0, found(share) + 5.0), 14, "end", INK, format!("{} %", tenth * 10));
        }
        let mut count = 0.0;
        while count <= top + 1e-9 {
            drawing.line((LEFT, false_pulls(count)), (RIGHT, false_pulls(count)), GRID, 1.0);
            drawing.text((LEFT - 12.0, false_pulls(count) + 5.0), 14, "end", INK, plain(count));
            count += tick;
        }
        let along = step(last - first, 9.0);
        let mut value = (first / along).ceil() * along;
        while value <= last + 1e-9 {
            for (top, bottom) in [FOUND, FALSE] {
                drawing.line((x(value), top), (x(value), bottom), GRID, 1.0);
            }
            drawing.text((x(value), FALSE.1 + 24.0), 14, "middle", INK, plain(value));
            value += along;
        }
        drawing.upright((34.0, (FOUND.0 + FOUND.1) / 2.0), 15, INK, "found, of what was meant");
        drawing.upright((34.0, (FALSE.0 + FALSE.1) / 2.0), 15, INK, "false a minute");
        drawing.text(((LEFT + RIGHT) / 2.0, FALSE.1 + 52.0), 15, "middle", INK, &self.number);
        for (place, curve) in self.curves.iter().enumerate() {
            let colour = SERIES[place % SERIES.len()];
            let at = |place: usize| x(self.values.get(place).copied().unwrap_or(0.0));
            let upper = curve.found.iter().enumerate().map(|(place, (_, (_, high)))| (at(place), found(*high)));
            let lower = curve.found.iter().enumerate().rev().map(|(place, (_, (low, _)))| (at(place), found(*low)));
            drawing.patch(&upper.chain(lower).collect::<Vec<_>>(), colour, 0.18);
            let line = curve.found.iter().enumerate().map(|(place, (share, _))| (at(place), found(*share)));
            drawing.curve(&line.collect::<Vec<_>>(), colour, 2.5);
            let line = curve.false_pulls.iter().enumerate().map(|(place, count)| (at(place), false_pulls(*count)));
            drawing.curve(&line.collect::<Vec<_>>(), colour, 2.5);
        }
        let shares = self.curves.iter().map(|curve| curve.found.last().map_or(0.0, |(share, _)| found(*share)));
        self.names(&mut drawing, shares.collect(), FOUND);
        let counts = self.curves.iter().map(|curve| curve.false_pulls.last().map_or(0.0, |own| false_pulls(*own)));
        self.names(&mut drawing, counts.collect(), FALSE);
        let (now, written) = &self.now;
        if (first..=last).contains(now) {
            drawing.line((x(*now), FOUND.0 - 8.0), (x(*now), FALSE.1), INK, 1.5);
            let (anchor, beside) = if x(*now) > RIGHT - 160.0 { ("end", -8.0) } else { ("start", 8.0) };
            drawing.text((x(*now) + beside, FOUND.1 - 14.0), 15, anchor, INK, format!("now {written}"));
        }
        drawing
    }

    /// Writes each hand's name at its line's end, apart from the others and within the plot.
    fn names(&self, drawing: &mut Drawing, ends: Vec<f64>, (top, bottom): (f64, f64)) {
        let mut order: Vec<usize> = (0..ends.len()).collect();
        order.sort_by(|one, other| ends[*one].total_cmp(&ends[*other]));
        let mut heights: Vec<f64> = Vec::new();
        for (place, curve) in order.iter().enumerate() {
            let free = heights.last().map_or(top, |above| above + APART);
            let below = bottom - APART * (order.len() - 1 - place) as f64;
            heights.push(ends[*curve].max(free).min(below.max(free)));
        }
        for (curve, height) in order.into_iter().zip(heights) {
            let (colour, name) = (SERIES[curve % SERIES.len()], &self.curves[curve].name);
            drawing.line((RIGHT + 6.0, height), (RIGHT + 20.0, height), colour, 4.0);
            drawing.text((RIGHT + 26.0, height + 5.0), 15, "start", INK, name);
        }
    }
}
