//! The response of a stick: how input becomes output, and which directions it is read in.

use tidy_lever::Linkage;
use tidy_lever::direction::HYSTERESIS_DEGREES;
use tidy_lever::linkage::{ActionView, CompassView, ResponseEdges, ResponseView};
use tidy_lever::profile::Kind;

use crate::drawing::{DrawError, Drawing};
use crate::palette::{DEAD, EDGE, FAINT, GRID, INK, KEPT, PAPER, SERIES};

const WIDTH: u32 = 1280;
const HEIGHT: u32 = 800;
/// The square of the left plot, and the circle of the right one.
const PLOT: (f64, f64, f64) = (100.0, 140.0, 480.0);
const CIRCLE: (f64, f64, f64) = (950.0, 402.0, 222.0);
/// The legend's rows begin here.
const LEGEND: f64 = 706.0;

/// The responses' colours; none of them means anything else in the picture.
const RESPONSES: [&str; 3] = [SERIES[0], SERIES[1], "#6b4fa0"];
/// A tape's samples.
const SAMPLES: &str = SERIES[3];

/// Whether a response gives what it is fed.
fn is_straight(response: &ResponseView<'_>) -> bool {
    [0.1, 0.3, 0.5, 0.7, 0.9].into_iter().all(|push| (response.bend(push, 0.0).0 - push).abs() < 1e-3)
}

/// Draws a stick: output size against input size on the left; dead zone, outer edge, and directions with the stretches
/// in which the one before is kept on the right. `samples` are raw places of the stick, drawn as dots.
///
/// # Errors
/// A [`DrawError`] if the profile has no such action, or it is not a stick.
pub fn stick(linkage: &Linkage, action: &str, samples: &[(f32, f32)]) -> Result<Drawing, DrawError> {
    let view = linkage.action(action).ok_or_else(|| DrawError::NoAction(action.to_owned()))?;
    let wrong = || DrawError::WrongKind { action: action.to_owned(), found: view.kind().name() };
    let compass = view.compass().filter(|_| view.kind() == Kind::Stick).ok_or_else(wrong)?;
    let responses = view.responses();
    let mut drawing = Drawing::new(WIDTH, HEIGHT);
    let title = if linkage.title().is_empty() { action.to_owned() } else { format!("{}: {action}", linkage.title()) };
    drawing.heading((40.0, 50.0), 26, title);
    drawing.text((40.0, 78.0), 15, "start", FAINT, about(view, compass));
    response(&mut drawing, &responses);
    directions(&mut drawing, compass, responses.first(), samples);
    legend(&mut drawing, &responses, compass, samples.len());
    Ok(drawing)
}

/// What the picture is of, in a line.
fn about(view: ActionView<'_>, compass: CompassView) -> String {
    let sectors = if compass.box_levels().is_some() { "box" } else { "equal" };
    let whole = view.controls().iter().filter(|control| control.leg.is_none()).map(|control| control.name.as_str());
    let whole: Vec<&str> = whole.collect();
    let from = if whole.is_empty() { "keys only: all or nothing".into() } else { whole.join(", ") };
    format!("{from}; read in {} {sectors} sectors", compass.count())
}

/// Input against output, along the straight to the right.
fn response(drawing: &mut Drawing, responses: &[ResponseView<'_>]) {
    let (left, top, side) = PLOT;
    let at = |x: f64, y: f64| (left + x * side, top + (1.0 - y) * side);
    drawing.text((left, top - 18.0), 17, "start", INK, "Response: output size against input size");
    if let Some(first) = responses.first() {
        let ResponseEdges { dead, full, .. } = first.edges();
        let (dead, full) = (f64::from(dead), f64::from(full));
        drawing.rectangle(at(0.0, 1.0), (dead * side, side), DEAD, 0.22);
        drawing.rectangle(at(full, 1.0), ((1.0 - full) * side, side), EDGE, 0.18);
    }
    for tenth in 0..=10 {
        let n = f64::from(tenth) / 10.0;
        drawing.line(at(n, 0.0), at(n, 1.0), GRID, 1.0);
        drawing.line(at(0.0, n), at(1.0, n), GRID, 1.0);
        if tenth % 2 == 0 {
            let (x, y) = at(n, 0.0);
            drawing.text((x, y + 22.0), 14, "middle", INK, format!("{n:.1}"));
            let (x, y) = at(0.0, n);
            drawing.text((x - 10.0, y + 5.0), 14, "end", INK, format!("{n:.1}"));
        }
    }
    drawing.curve(&[at(0.0, 1.0), at(0.0, 0.0), at(1.0, 0.0)], INK, 1.5);
    drawing.text((left + side / 2.0, top + side + 48.0), 15, "middle", INK, "input size (share of full deflection)");
    drawing.upright((left - 52.0, top + side / 2.0), 15, INK, "output size");
    if !responses.iter().any(is_straight) {
        drawing.curve(&[at(0.0, 0.0), at(1.0, 1.0)], FAINT, 1.0);
    }
    for (number, response) in responses.iter().enumerate() {
        let points: Vec<(f64, f64)> = (0..=400)
            .map(|n| {
                let push = n as f32 / 400.0;
                let (x, y) = response.bend(push, 0.0);
                at(f64::from(push), f64::from(x.hypot(y)))
            })
            .collect();
        drawing.curve(&points, RESPONSES[number % RESPONSES.len()], 3.0);
    }
}

/// A point of the circle: a place of the stick, up positive.
fn around(x: f64, y: f64) -> (f64, f64) {
    (CIRCLE.0 + x * CIRCLE.2, CIRCLE.1 - y * CIRCLE.2)
}

fn polar(degrees: f64, size: f64) -> (f64, f64) {
    let (sin, cos) = degrees.to_radians().sin_cos();
    around(cos * size, sin * size)
}

/// The circle with its directions, dead zone and outer edge.
fn directions(
    drawing: &mut Drawing,
    compass: CompassView,
    response: Option<&ResponseView<'_>>,
    samples: &[(f32, f32)],
) {
    drawing.text((CIRCLE.0 - CIRCLE.2, PLOT.1 - 18.0), 17, "start", INK, "Directions over the stick's raw place");
    let centre = (CIRCLE.0, CIRCLE.1);
    drawing.circle(centre, CIRCLE.2, INK, Some(1.5), 1.0);
    let count = compass.count();
    let wide = 360.0 / count as f64;
    match compass.box_levels() {
        None => equal_borders(drawing, count, wide),
        Some((down_at, up_at)) => box_borders(drawing, down_at.into(), up_at.into()),
    }
    if let Some(response) = response {
        let ResponseEdges { dead, full, each_axis, .. } = response.edges();
        let (dead, full) = (f64::from(dead), f64::from(full));
        if each_axis && dead > 0.0 {
            for (wide, high) in [(dead, 1.0), (1.0, dead)] {
                let (x, y) = around(-wide, high);
                drawing.rectangle((x, y), (2.0 * wide * CIRCLE.2, 2.0 * high * CIRCLE.2), DEAD, 0.22);
            }
        } else if dead > 0.0 {
            drawing.circle(centre, dead * CIRCLE.2, DEAD, None, 0.35);
            drawing.circle(centre, dead * CIRCLE.2, DEAD, Some(1.5), 1.0);
        }
        if full < 1.0 {
            drawing.circle(centre, full * CIRCLE.2, EDGE, Some(2.0), 1.0);
        }
    }
    for direction in tidy_lever::Direction::ALL {
        if count == 4 && direction.is_diagonal() {
            continue;
        }
        let degrees = f64::from(direction.degrees());
        let (x, y) = polar(degrees, 1.1);
        let anchor = match direction.signs().0 {
            1 => "start",
            -1 => "end",
            _ => "middle",
        };
        drawing.text((x, y), 14, anchor, INK, direction);
        drawing.text((x, y + 16.0), 12, anchor, FAINT, format!("{degrees}°"));
    }
    for (x, y) in samples {
        drawing.circle(around(f64::from(*x), f64::from(*y)), 3.5, SAMPLES, None, 0.6);
    }
}

fn equal_borders(drawing: &mut Drawing, count: usize, wide: f64) {
    for sector in 0..count {
        let border = (sector as f64 + 0.5) * wide;
        // The stretch around a border where whichever stood before is kept.
        let mut points = vec![around(0.0, 0.0)];
        points.extend((0..=8).map(|n| polar(border + HYSTERESIS_DEGREES * (f64::from(n) / 4.0 - 1.0), 1.0)));
        drawing.patch(&points, KEPT, 0.35);
        drawing.line(around(0.0, 0.0), polar(border, 1.0), FAINT, 1.5);
    }
}

fn box_borders(drawing: &mut Drawing, down_at: f64, up_at: f64) {
    for sign in [-1.0, 1.0] {
        let (near, far) = (sign * up_at, sign * down_at);
        let reach = |level: f64| (1.0 - level * level).sqrt();
        drawing.patch(
            &[around(near, reach(near)), around(far, reach(far)), around(far, -reach(far)), around(near, -reach(near))],
            KEPT,
            0.35,
        );
        drawing.patch(
            &[around(reach(near), near), around(reach(far), far), around(-reach(far), far), around(-reach(near), near)],
            KEPT,
            0.35,
        );
        for level in [near, far] {
            drawing.line(around(level, reach(level)), around(level, -reach(level)), FAINT, 1.0);
            drawing.line(around(reach(level), level), around(-reach(level), level), FAINT, 1.0);
        }
    }
}

/// What the colours mean.
fn legend(drawing: &mut Drawing, responses: &[ResponseView<'_>], compass: CompassView, samples: usize) {
    let mut rows: Vec<(&str, f64, String)> = Vec::new();
    for (number, response) in responses.iter().enumerate() {
        rows.push((RESPONSES[number % RESPONSES.len()], 1.0, format!("response of {}", response.controls.join(", "))));
    }
    if let Some(first) = responses.first() {
        let ResponseEdges { dead, full, each_axis: each, .. } = first.edges();
        let kind = if each { "each axis for itself" } else { "round" };
        if dead > 0.0 {
            rows.push((DEAD, 0.45, format!("dead zone up to {dead:.2}, {kind}")));
        }
        if full < 1.0 {
            rows.push((EDGE, 0.8, format!("outer edge: all the way from {full:.2}")));
        }
    }
    let kept = match compass.box_levels() {
        None => format!("the direction before is kept: ±{HYSTERESIS_DEGREES}° around each border"),
        Some((down_at, up_at)) => {
            format!("an axis counts from {down_at:.2} on, and then down to {up_at:.2}")
        }
    };
    rows.push((KEPT, 0.6, kept));
    if samples > 0 {
        rows.push((SAMPLES, 0.8, format!("{samples} samples of a tape, as the stick said them")));
    }
    if !responses.iter().any(is_straight) {
        rows.push((FAINT, 1.0, "as fed: output is input".into()));
    }
    for (row, (colour, opacity, text)) in rows.iter().enumerate() {
        let (column, line) = (row / 3, row % 3);
        let (x, y) = (PLOT.0 + 400.0 * column as f64, LEGEND + 28.0 * line as f64);
        drawing.rectangle((x, y - 11.0), (22.0, 12.0), PAPER, 1.0);
        drawing.rectangle((x, y - 11.0), (22.0, 12.0), colour, *opacity);
        drawing.text((x + 32.0, y), 14, "start", INK, text);
    }
}
