//! A panel on a screen: where its patches lie, what hears them, and how far beside them a finger still hits.

use tidy_lever::Linkage;
use tidy_lever::panel::{PatchFrame, PatchKind, PatchView};

use crate::drawing::Drawing;
use crate::palette::{BAD, DEAD, FAINT, GRID, INK, KEPT, PAPER, SERIES};

const WIDTH: f64 = 1280.0;
const HEIGHT: f64 = 800.0;
/// The stretch of the sheet that the screen is fitted into.
const SHEET: (f64, f64, f64, f64) = (40.0, 100.0, 1200.0, 500.0);
/// Where the list of patches begins, in this many columns and rows; and where the problems stand.
const LIST: f64 = 628.0;
const COLUMNS: usize = 3;
const ROWS: usize = 4;
const FOOT: f64 = 724.0;
/// Roughly how wide a letter of a name is.
const LETTER: f64 = 8.5;
/// The most problems that are written out.
const MOST_PROBLEMS: usize = 3;

/// Draws a profile's panel on a screen of this many pixels and dots per inch.
pub fn panel(linkage: &Linkage, (width, height): (u32, u32), dpi: f64) -> Drawing {
    let mut drawing = Drawing::new(WIDTH as u32, HEIGHT as u32);
    let title = if linkage.title().is_empty() { "panel".to_owned() } else { format!("{}: panel", linkage.title()) };
    drawing.heading((40.0, 50.0), 26, title);
    let inches = |pixels: u32| f64::from(pixels) / dpi * 25.4;
    let size = format!("{width} x {height} pixels at {dpi} an inch: {:.0} x {:.0} mm", inches(width), inches(height));
    drawing.text((40.0, 78.0), 15, "start", FAINT, size);
    let scale = (SHEET.2 / f64::from(width)).min(SHEET.3 / f64::from(height));
    let (wide, high) = (f64::from(width) * scale, f64::from(height) * scale);
    let corner = (SHEET.0 + (SHEET.2 - wide) / 2.0, SHEET.1 + (SHEET.3 - high) / 2.0);
    drawing.rectangle(corner, (wide, high), GRID, 0.45);
    let edges =
        [corner, (corner.0 + wide, corner.1), (corner.0 + wide, corner.1 + high), (corner.0, corner.1 + high), corner];
    drawing.curve(&edges, INK, 1.5);
    // Zones lie beneath the rest.
    let patches: Vec<PatchView<'_>> = linkage.patches().collect();
    let numbered = || patches.iter().enumerate();
    let zones = numbered().filter(|(_, patch)| patch.kind() == PatchKind::Zone);
    for (number, patch) in zones.chain(numbered().filter(|(_, patch)| patch.kind() != PatchKind::Zone)) {
        let frame = patch.frame(width, height);
        let on = |(x, y): (f32, f32)| (corner.0 + f64::from(x) * scale, corner.1 + f64::from(y) * scale);
        draw(&mut drawing, *patch, frame, on(frame.middle), scale);
        name(&mut drawing, (number + 1, patch.name()), on(frame.middle), f64::from(frame.half.0) * scale);
    }
    for (number, patch) in numbered().take(COLUMNS * ROWS) {
        let (column, row) = (number / ROWS, number % ROWS);
        let at = (40.0 + column as f64 * 400.0, LIST + row as f64 * 22.0);
        let half = patch.frame(width, height).half;
        let mm = 2.0 * f64::from(half.0.min(half.1)) / dpi * 25.4;
        let floats = if patch.floats() { ", floats" } else { "" };
        let hears: Vec<&str> = patch.actions().collect();
        let hears =
            if hears.is_empty() { "heard by nothing".to_owned() } else { format!("moves {}", hears.join(", ")) };
        drawing.text(
            at,
            13,
            "start",
            INK,
            format!("{}  {}: {}{floats}, {mm:.0} mm", number + 1, patch.name(), patch.kind().name()),
        );
        drawing.text((at.0 + 220.0, at.1), 13, "start", FAINT, hears);
    }
    if patches.len() > COLUMNS * ROWS {
        let more = format!("and {} more", patches.len() - COLUMNS * ROWS);
        drawing.text((WIDTH - 40.0, LIST + ROWS as f64 * 22.0), 13, "end", FAINT, more);
    }
    foot(&mut drawing, &linkage.panel_problems(width, height, dpi));
    drawing
}

/// Writes a touch control's name on it; its number where the name has no room.
fn name(drawing: &mut Drawing, (number, name): (usize, &str), (x, y): (f64, f64), half: f64) {
    let number = number.to_string();
    let wide = |text: &str| text.chars().count() as f64 * LETTER + 10.0;
    let text = if wide(name) <= 2.0 * half.max(LETTER) { name } else { &number };
    drawing.rectangle((x - wide(text) / 2.0, y - 10.0), (wide(text), 20.0), PAPER, 0.85);
    drawing.text((x, y + 5.0), 14, "middle", INK, text);
}

fn draw(drawing: &mut Drawing, patch: PatchView<'_>, frame: PatchFrame, (x, y): (f64, f64), scale: f64) {
    let half = (f64::from(frame.half.0) * scale, f64::from(frame.half.1) * scale);
    let radius = half.0;
    match patch.kind() {
        PatchKind::Button => drawing.circle((x, y), radius, SERIES[0], None, 0.35),
        PatchKind::Stick => {
            drawing.circle((x, y), radius, SERIES[2], None, 0.18);
            drawing.circle((x, y), radius, SERIES[2], Some(if patch.floats() { 1.0 } else { 2.5 }), 1.0);
            drawing.circle((x, y), radius * 0.4, SERIES[2], None, 0.45);
        }
        PatchKind::Cross => {
            let arm = radius * 0.32;
            drawing.circle((x, y), radius, DEAD, None, 0.15);
            for (dx, dy) in [(0.0, -1.0), (-1.0, 0.0), (0.0, 1.0), (1.0, 0.0)] {
                let tip = (x + dx * radius * 0.92, y + dy * radius * 0.92);
                let side = |s: f64| (x + dx * radius * 0.5 + dy * arm * s, y + dy * radius * 0.5 + dx * arm * s);
                drawing.patch(&[tip, side(1.0), side(-1.0)], DEAD, 0.85);
            }
        }
        // A zone, or what a later version has.
        _ => {
            drawing.rectangle((x - half.0, y - half.1), (2.0 * half.0, 2.0 * half.1), KEPT, 0.2);
        }
    }
}

fn foot(drawing: &mut Drawing, problems: &[String]) {
    let mut y = FOOT;
    if problems.is_empty() {
        drawing.text(
            (40.0, y),
            14,
            "start",
            INK,
            "Every touch control fits on this screen, overlaps no other, and is wide enough to hit.",
        );
    }
    for problem in problems.iter().take(MOST_PROBLEMS) {
        drawing.text((40.0, y), 13, "start", BAD, problem);
        y += 20.0;
    }
    if problems.len() > MOST_PROBLEMS {
        let more = format!("and {} more", problems.len() - MOST_PROBLEMS);
        drawing.text((40.0, y), 13, "start", BAD, more);
    }
}
