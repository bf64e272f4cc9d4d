//! All spans of a profile on one time line: from the moment that each is about, to the right what may come later or lasts,
//! to the left what may come earlier or lasted before.

use tidy_lever::profile::{Number, Unit};

use crate::drawing::Drawing;
use crate::palette::{EDGE, FAINT, GRID, INK, SERIES, WINDOW};

const WIDTH: f64 = 1280.0;
const TOP: f64 = 124.0;
const ROW: f64 = 26.0;
const FOOT: f64 = 50.0;
/// Where paths end, where the time line lies, and where meanings begin.
const PATHS: f64 = 190.0;
const LINE: (f64, f64) = (210.0, 660.0);
const MEANINGS: f64 = 680.0;
/// The most ms that the line shows to each side; longer spans are cut.
const MOST: f64 = 600.0;
const STEP: f64 = 100.0;

/// What a span is for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Sort {
    /// Within it something must come, or for it something must last.
    Limit,
    /// What hands may be off by.
    Forgiven,
    /// A press that comes too early, or a truth that is over, still counts.
    Buffer,
    /// What devices say by mistake.
    Guard,
}

impl Sort {
    const ALL: [Sort; 4] = [Sort::Limit, Sort::Forgiven, Sort::Buffer, Sort::Guard];

    /// By the path of a number.
    fn of(path: &str) -> Sort {
        let key = path.rsplit_once('.').map_or(path, |(_, key)| key);
        match key {
            _ if path.starts_with("devices.") => Sort::Guard,
            _ if path.contains(".when.") => Sort::Buffer,
            "keep" => Sort::Buffer,
            "early" | "astray" | "brush" | "key_gap" | "settles" => Sort::Forgiven,
            _ => Sort::Limit,
        }
    }

    fn look(self) -> (&'static str, &'static str) {
        match self {
            Sort::Limit => ("time limit", WINDOW),
            Sort::Forgiven => ("what hands may be off by", EDGE),
            Sort::Buffer => ("buffers: a press too early, a fact too late", SERIES[0]),
            Sort::Guard => ("what devices say by mistake", SERIES[1]),
        }
    }
}

/// Whether a span lies before the moment that it is about.
fn is_before(path: &str) -> bool {
    let key = path.rsplit_once('.').map_or(path, |(_, key)| key);
    matches!(key, "early" | "keep" | "fresh" | "rested")
}

/// Draws all spans among the numbers of a profile, those of 0 left out; `None` if there are none.
pub fn spans(title: &str, numbers: &[Number]) -> Option<Drawing> {
    let spans: Vec<&Number> =
        numbers.iter().filter(|number| number.unit == Unit::Milliseconds && number.value > 0.0).collect();
    let longest = |before: bool| {
        let own = spans.iter().filter(|number| is_before(&number.path) == before);
        let longest = own.map(|number| number.value.min(MOST)).reduce(f64::max)?;
        Some((longest / STEP).ceil() * STEP)
    };
    let (before, after) = (longest(true).unwrap_or(0.0), longest(false).unwrap_or(STEP));
    if spans.is_empty() {
        return None;
    }
    let height = TOP + ROW * spans.len() as f64 + FOOT;
    let mut drawing = Drawing::new(WIDTH as u32, height.ceil() as u32);
    drawing.heading((30.0, 42.0), 22, title);
    let about = "0 is the moment that the text is about: a bar to the left ends there, a bar to the right begins there";
    drawing.text((30.0, 66.0), 14, "start", FAINT, about);
    let mut left = 30.0;
    for sort in Sort::ALL.into_iter().filter(|sort| spans.iter().any(|number| Sort::of(&number.path) == *sort)) {
        let (name, colour) = sort.look();
        drawing.rectangle((left, 84.0), (24.0, 12.0), colour, 0.75);
        drawing.text((left + 30.0, 95.0), 12, "start", INK, name);
        left += 50.0 + 7.0 * name.chars().count() as f64;
    }
    let x = |ms: f64| LINE.0 + (LINE.1 - LINE.0) * (ms + before) / (before + after);
    let bottom = height - FOOT + 6.0;
    let mut ms = -before;
    while ms <= after {
        let colour = if ms == 0.0 { INK } else { GRID };
        drawing.line((x(ms), TOP - 4.0), (x(ms), bottom), colour, 1.0);
        drawing.text((x(ms), bottom + 18.0), 12, "middle", FAINT, format!("{ms:+} ms").replace("+0", "0"));
        ms += STEP;
    }
    for (row, number) in spans.into_iter().enumerate() {
        let y = TOP + row as f64 * ROW;
        let line = y + ROW / 2.0 + 4.5;
        if row % 2 == 1 {
            drawing.rectangle((30.0, y), (WIDTH - 60.0, ROW), GRID, 0.3);
        }
        let (_, colour) = Sort::of(&number.path).look();
        let shown = number.value.min(MOST);
        let (from, to) = if is_before(&number.path) { (-shown, 0.0) } else { (0.0, shown) };
        let title = || format!("{} = {}", number.path, number.written_as(number.value));
        drawing.titled(title, |drawing| {
            drawing.rectangle((x(from), y + 5.0), (x(to) - x(from), ROW - 10.0), colour, 0.75);
        });
        drawing.text((PATHS, line), 13, "end", INK, &number.path);
        let cut = if number.value > MOST { " (cut)" } else { "" };
        let said = format!("{} ms{cut}: {}", number.value, number.meaning);
        let said = lines(&said);
        let first = if said.len() > 1 { line - 6.0 } else { line };
        for (place, part) in said.into_iter().enumerate() {
            drawing.text((MEANINGS, first + 12.0 * place as f64), 11, "start", INK, part);
        }
    }
    Some(drawing)
}

/// A text in at most two lines that fit beside the time line.
fn lines(text: &str) -> Vec<String> {
    const LETTERS: usize = 92;
    let mut lines = vec![String::new()];
    for word in text.split(' ') {
        let last = lines.len() - 1;
        if last == 0 && lines[last].chars().count() + word.chars().count() > LETTERS {
            lines.push(word.to_owned());
        } else {
            let gap = if lines[last].is_empty() { "" } else { " " };
            lines[last] += &format!("{gap}{word}");
        }
    }
    lines
}
