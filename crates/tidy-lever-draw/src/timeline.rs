//! A stretch of a tape in lanes: controls, directions, facts and modes, actions with pulls, keeps, windows and near
//! misses. The picture for a bug report.

use crate::density::Density;
use crate::drawing::Drawing;
use crate::palette::{BAD, DEAD, EDGE, FAINT, GRID, INK, PAPER, SERIES, WINDOW};

const WIDTH: f64 = 1280.0;
const LEFT: f64 = 170.0;
const RIGHT: f64 = 1250.0;
/// A strip's lanes are this high at most, and at least; and its foot with the seconds.
const STRIP_ROW: f64 = 22.0;
const LOW_STRIP_ROW: f64 = 16.0;
const STRIP_HEAD: f64 = 5.0;
const STRIP_FOOT: f64 = 20.0;
/// Where the first lane begins, and how high lanes and headings are; of many lanes each is lower.
const TOP: f64 = 118.0;
const ROW: f64 = 26.0;
const LOW_ROW: f64 = 20.0;
const MANY: usize = 24;
const HEADING: f64 = 30.0;
const FOOT: f64 = 64.0;
/// Roughly how wide a letter of the small size is.
const LETTER: f64 = 6.7;

/// What a lane shows.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
pub enum Room {
    /// What devices said.
    Controls,
    /// Where sticks pointed.
    Directions,
    /// What the game told.
    Told,
    /// What actions did.
    Actions,
}

impl Room {
    fn title(self) -> &'static str {
        match self {
            Room::Controls => "controls",
            Room::Directions => "directions",
            Room::Told => "facts and modes",
            Room::Actions => "actions",
        }
    }
}

/// How a span is drawn.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Tone {
    /// A control is down, a fact true, a mode on.
    Plain,
    /// An action is held, whatever comes of it.
    Held,
    /// An action is on.
    On,
    /// A refused pull is kept.
    Keep,
    /// A cue's window runs.
    Window,
    /// A guard keeps a control from being heard.
    Unheard,
}

impl Tone {
    pub(crate) const ALL: [Tone; 6] = [Tone::Plain, Tone::Held, Tone::On, Tone::Keep, Tone::Window, Tone::Unheard];

    /// What it says, for whoever points at it.
    fn name(self) -> &'static str {
        match self {
            Tone::Plain => "down, true or on",
            Tone::Held => "held",
            Tone::On => "on",
            Tone::Keep => "kept (input buffer)",
            Tone::Window => "window",
            Tone::Unheard => "not heard",
        }
    }

    /// Its place in a row of this height: top, height, colour and opacity.
    fn look(self, row: f64) -> (f64, f64, &'static str, f64) {
        match self {
            Tone::Plain => (3.0, row - 6.0, SERIES[4], 0.75),
            Tone::Held => (row * 0.32, row * 0.36, FAINT, 0.35),
            Tone::On => (3.0, row - 6.0, EDGE, 0.55),
            Tone::Keep => (3.0, row - 6.0, DEAD, 0.45),
            Tone::Window => (row - 5.0, 3.0, WINDOW, 1.0),
            Tone::Unheard => (1.0, 4.0, SERIES[1], 1.0),
        }
    }
}

/// A stretch of time, in µs.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Span {
    /// Where it begins.
    pub from: u64,
    /// Where it ends.
    pub to: u64,
    /// Written into it where there is room.
    pub label: String,
    /// Written instead where there is less.
    pub short: &'static str,
    /// How it is drawn.
    pub tone: Tone,
}

/// How a moment is marked.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Sign {
    /// A pull.
    Pull,
    /// A mark of a pull that came back.
    Mark,
    /// A near miss, labelled with its margin.
    Miss,
    /// Ended for a reason that is not the hand's.
    Cut,
    /// A guard kept something from being heard.
    Unheard,
}

impl Sign {
    pub(crate) const ALL: [Sign; 5] = [Sign::Pull, Sign::Mark, Sign::Miss, Sign::Cut, Sign::Unheard];

    /// What it says, for whoever points at it.
    fn name(self) -> &'static str {
        match self {
            Sign::Pull => "pull",
            Sign::Mark => "mark",
            Sign::Miss => "near miss",
            Sign::Cut => "ended by another cause",
            Sign::Unheard => "not heard",
        }
    }
}

/// A marked moment, in µs.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Moment {
    /// When.
    pub at: u64,
    /// Written beside it where there is room.
    pub label: String,
    /// How it is drawn.
    pub sign: Sign,
}

/// One lane.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Lane {
    /// Its name, at the left.
    pub name: String,
    /// Where it stands.
    pub room: Room,
    /// Its spans, the later over the earlier.
    pub spans: Vec<Span>,
    /// Its moments.
    pub moments: Vec<Moment>,
    /// Replaces spans and moments where there are too many to tell apart.
    pub density: Option<Density>,
}

impl Lane {
    pub(crate) fn new(name: &str, room: Room) -> Lane {
        Lane { name: name.to_owned(), room, spans: Vec::new(), moments: Vec::new(), density: None }
    }

    pub(crate) fn is_empty(&self) -> bool {
        self.spans.is_empty() && self.moments.is_empty() && self.density.is_none()
    }
}

/// A stretch of a tape.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Timeline {
    /// What it is of.
    pub title: String,
    /// From here on, in µs.
    pub from: u64,
    /// Up to here.
    pub to: u64,
    /// In any order; they are drawn room by room.
    pub lanes: Vec<Lane>,
}

/// The distance between lines of the grid, in µs: a round one that leaves some 70 to 180 pixels between them.
fn grid(span: u64) -> u64 {
    let most = span / 14;
    let mut step = 1u64;
    loop {
        for factor in [1, 2, 5] {
            if step.saturating_mul(factor) >= most.max(1) {
                return step.saturating_mul(factor);
            }
        }
        step = step.saturating_mul(10);
    }
}

/// A moment as seconds, as finely as the grid needs.
fn seconds(at: u64, step: u64) -> String {
    let digits = 6usize.saturating_sub(step.ilog10() as usize);
    format!("{:.digits$}", at as f64 / 1e6)
}

/// A span of time for people.
fn lasting(span: u64) -> String {
    if span >= 1_000_000 { format!("{} s", span as f64 / 1e6) } else { format!("{} ms", span as f64 / 1e3) }
}

/// A timeline without title and legend, as high as it was asked to be: for a view that moves.
#[derive(Clone, Debug)]
pub struct Strip {
    /// Its shapes.
    pub drawing: Drawing,
    rows: Vec<(String, Room, f64, f64)>,
    across: (f64, f64),
    range: (u64, u64),
}

impl Strip {
    /// The lane and the moment, in µs, at a place of the drawing.
    pub fn at(&self, x: f64, y: f64) -> Option<(&str, Room, u64)> {
        let (left, right) = self.across;
        let (name, room, ..) = self.rows.iter().find(|(_, _, top, row)| (*top..top + row).contains(&y))?;
        let part = (x - left) / (right - left).max(1.0);
        let at = self.range.0 as f64 + part * (self.range.1 - self.range.0) as f64;
        (0.0..=1.0).contains(&part).then_some((name, *room, at as u64))
    }

    /// How long a pixel is, in µs.
    pub fn pixel(&self) -> f64 {
        (self.range.1 - self.range.0) as f64 / (self.across.1 - self.across.0).max(1.0)
    }
}

impl Timeline {
    fn x(&self, at: u64, (left, right): (f64, f64)) -> f64 {
        let part = (at.clamp(self.from, self.to) - self.from) as f64 / (self.to - self.from).max(1) as f64;
        left + part * (right - left)
    }

    /// When anything was last on a lane.
    fn last_of(lane: &Lane) -> u64 {
        let spans = lane.spans.iter().map(|span| span.to);
        spans.chain(lane.moments.iter().map(|moment| moment.at)).max().unwrap_or(0)
    }

    /// Draws the lanes alone, in so many pixels. Of more lanes than fit, those with the newest content are shown.
    pub fn strip(&self, width: f64, height: f64) -> Strip {
        let mut lanes: Vec<&Lane> = self.lanes.iter().collect();
        let free = height - STRIP_FOOT - STRIP_HEAD;
        let most = (free / LOW_STRIP_ROW).max(1.0) as usize;
        lanes.sort_by_key(|lane| std::cmp::Reverse(Timeline::last_of(lane)));
        lanes.truncate(most);
        lanes.sort_by_key(|lane| lane.room);
        let row = (free / lanes.len().max(1) as f64).clamp(LOW_STRIP_ROW, STRIP_ROW);
        let across = (130.0, width - 12.0);
        let mut drawing = Drawing::untitled(width as u32, height as u32);
        let bottom = height - STRIP_FOOT;
        self.grid(&mut drawing, across, (0.0, bottom), 14.0);
        let mut rows = Vec::new();
        for (number, lane) in lanes.into_iter().enumerate() {
            let y = STRIP_HEAD + number as f64 * row;
            if number % 2 == 1 {
                drawing.rectangle((0.0, y), (width, row), GRID, 0.3);
            }
            self.lane(&mut drawing, lane, (y, row), across);
            rows.push((lane.name.clone(), lane.room, y, row));
        }
        Strip { drawing, rows, across, range: (self.from, self.to) }
    }

    /// Lines of the grid, and their seconds below.
    fn grid(&self, drawing: &mut Drawing, across: (f64, f64), (top, bottom): (f64, f64), below: f64) {
        let step = grid(self.to - self.from);
        let mut at = self.from.next_multiple_of(step);
        while at <= self.to {
            let x = self.x(at, across);
            drawing.line((x, top), (x, bottom), GRID, 1.0);
            drawing.text((x, bottom + below), 13, "middle", FAINT, seconds(at, step));
            at += step;
        }
    }

    /// Draws it, 1280 wide and as high as its lanes need.
    pub fn draw(&self) -> Drawing {
        let mut lanes: Vec<&Lane> = self.lanes.iter().collect();
        lanes.sort_by_key(|lane| lane.room);
        let rooms = lanes.windows(2).filter(|pair| pair[0].room != pair[1].room).count() + 1;
        let row = if lanes.len() > MANY { LOW_ROW } else { ROW };
        let height = TOP + lanes.len() as f64 * row + rooms as f64 * HEADING + FOOT;
        let mut drawing = Drawing::new(WIDTH as u32, height.ceil() as u32);
        drawing.heading((30.0, 42.0), 22, &self.title);
        let range =
            format!("{} s to {} s ({})", self.from as f64 / 1e6, self.to as f64 / 1e6, lasting(self.to - self.from));
        let dense = lanes.iter().filter(|lane| lane.density.is_some()).count();
        let note = match dense {
            0 => String::new(),
            _ => {
                "; crowded lanes show density: darker is active for longer, bars count pulls, bars from the top near misses"
                    .into()
            }
        };
        drawing.text((30.0, 66.0), 14, "start", FAINT, range + &note);
        self.legend(&mut drawing);
        let bottom = height - FOOT + 8.0;
        let across = (LEFT, RIGHT);
        self.grid(&mut drawing, across, (TOP, bottom), 20.0);
        drawing.text((WIDTH / 2.0, bottom + 42.0), 13, "middle", FAINT, "seconds of the tape");
        let (mut y, mut room) = (TOP, None);
        for (number, lane) in lanes.iter().enumerate() {
            if room != Some(lane.room) {
                y += HEADING;
                room = Some(lane.room);
                drawing.text((30.0, y - 9.0), 13, "start", FAINT, lane.room.title());
                drawing.line((30.0, y - 3.0), (RIGHT, y - 3.0), GRID, 1.5);
            }
            if number % 2 == 1 {
                drawing.rectangle((30.0, y), (RIGHT - 30.0, row), GRID, 0.3);
            }
            self.lane(&mut drawing, lane, (y, row), across);
            y += row;
        }
        drawing
    }

    fn lane(&self, drawing: &mut Drawing, lane: &Lane, (y, row): (f64, f64), across: (f64, f64)) {
        let (left, right) = across;
        let line = y + row / 2.0 + 4.5;
        drawing.text(
            (left - 12.0, line),
            if row < ROW { 12 } else { 14 },
            "end",
            INK,
            shortened(&lane.name, if left < LEFT { 15 } else { 20 }),
        );
        if let Some(density) = &lane.density {
            self.dense(drawing, density, (y, row), across);
            return;
        }
        for span in lane.spans.iter().filter(|span| span.to >= self.from && span.from <= self.to) {
            let (from, to) = (self.x(span.from, across), self.x(span.to, across));
            // Neighbours are told apart by a gap.
            let gap = if span.label.is_empty() { 0.0 } else { 1.0 };
            let wide = (to - from - gap).max(1.5);
            let (top, high, colour, opacity) = span.tone.look(row);
            let title = || {
                let what = if span.label.is_empty() { span.tone.name() } else { &span.label };
                let (began, long) = (span.from as f64 / 1e6, lasting(span.to - span.from));
                format!("{}: {what}, from {began:.3} s, {long}", lane.name)
            };
            drawing.titled(title, |drawing| {
                drawing.rectangle((from, y + top), (wide, high), colour, opacity);
            });
            let room = |text: &str| text.chars().count() as f64 * LETTER + 4.0 <= wide;
            let label = [span.label.as_str(), span.short].into_iter().find(|text| !text.is_empty() && room(text));
            if let Some(label) = label {
                drawing.text((from + 3.0, line), 12, "start", INK, label);
            }
        }
        let shown: Vec<(f64, &Moment)> = lane
            .moments
            .iter()
            .filter(|moment| (self.from..=self.to).contains(&moment.at))
            .map(|moment| (self.x(moment.at, across), moment))
            .collect();
        let mut last = f64::MIN;
        for (place, (x, moment)) in shown.iter().enumerate() {
            // Many in one place look like one; a miss is never hidden.
            if moment.sign != Sign::Miss && x - last < 1.0 {
                continue;
            }
            last = *x;
            let needs = moment.label.chars().count() as f64 * LETTER;
            let start = if x + 9.0 + needs > right { x - 9.0 - needs } else { x + 9.0 };
            // A label that would run into the next sign is left out, but for a miss.
            let hides = |other: &(f64, &Moment)| (start - 8.0..start + needs + 6.0).contains(&other.0);
            let hidden = shown.iter().enumerate().any(|(other, entry)| other != place && hides(entry));
            if !moment.label.is_empty() && (!hidden || moment.sign == Sign::Miss) {
                let colour = if moment.sign == Sign::Miss { BAD } else { INK };
                drawing.rectangle((start - 1.0, y + 3.0), (needs + 3.0, row - 6.0), PAPER, 0.75);
                drawing.text((start, line), 12, "start", colour, &moment.label);
            }
        }
        for (x, moment) in shown {
            let title = || {
                let label = if moment.label.is_empty() { String::new() } else { format!(", {}", moment.label) };
                format!("{}: {}{label}, at {:.3} s", lane.name, moment.sign.name(), moment.at as f64 / 1e6)
            };
            drawing.titled(title, |drawing| sign(drawing, moment.sign, (x, y), row));
        }
    }
}

impl Timeline {
    /// Draws a lane as density: opacity for the share of time that a tone covers, bars for the number of signs.
    fn dense(&self, drawing: &mut Drawing, density: &Density, (y, row): (f64, f64), across: (f64, f64)) {
        let wide = |from: u64, to: u64| {
            let (left, right) = (self.x(from, across), self.x(to, across));
            (left, (right - left).max(1.0))
        };
        for tone in Tone::ALL {
            let (top, high, colour, opacity) = tone.look(row);
            for (from, to, eighths) in density.covered(tone) {
                let (left, wide) = wide(from, to);
                drawing.rectangle((left, y + top), (wide, high), colour, opacity * (0.2 + 0.1 * eighths as f64));
            }
        }
        let colours = [
            (Sign::Pull, SERIES[0]),
            (Sign::Mark, SERIES[3]),
            (Sign::Cut, INK),
            (Sign::Miss, BAD),
            (Sign::Unheard, SERIES[1]),
        ];
        for (sign, colour) in colours {
            let most = f64::from(density.most(sign)).max(1.0);
            for (from, to, count) in density.signs(sign) {
                let (left, wide) = wide(from, to);
                // A single sign stays visible. Misses hang from the top of the row.
                let high = ((row - 6.0) * count as f64 / most).max(2.0);
                let top = if sign == Sign::Pull || sign == Sign::Mark { row - 3.0 - high } else { 3.0 };
                drawing.rectangle((left, y + top), (wide, high), colour, 0.9);
            }
        }
    }
}

/// One sign in a row that begins at this height.
fn sign(drawing: &mut Drawing, sign: Sign, (x, y): (f64, f64), row: f64) {
    let middle = y + row / 2.0;
    match sign {
        Sign::Pull => {
            drawing.line((x, y + 2.0), (x, y + row - 2.0), SERIES[0], 2.0);
            drawing.patch(&[(x - 5.0, y + 2.0), (x + 5.0, y + 2.0), (x, y + 10.0)], SERIES[0], 1.0);
        }
        Sign::Mark => drawing.circle((x, middle), 3.5, SERIES[3], None, 1.0),
        Sign::Miss => {
            drawing.line((x - 5.0, middle - 5.0), (x + 5.0, middle + 5.0), BAD, 2.5);
            drawing.line((x - 5.0, middle + 5.0), (x + 5.0, middle - 5.0), BAD, 2.5);
        }
        Sign::Cut => {
            drawing.line((x, y + 3.0), (x, y + row - 3.0), INK, 2.0);
            drawing.line((x - 4.0, y + row - 3.0), (x + 4.0, y + row - 3.0), INK, 2.0);
        }
        Sign::Unheard => drawing.circle((x, y + 3.0), 3.0, SERIES[1], None, 1.0),
    }
}

impl Timeline {
    /// What the tones and signs mean that are on any lane, in a row above them.
    fn legend(&self, drawing: &mut Drawing) {
        let (y, mut x) = (80.0, 30.0);
        let shown = |tone: Tone, sign: Option<Sign>| {
            let is_on = |lane: &Lane| match sign {
                // A crowded lane may have anything.
                _ if lane.density.is_some() => tone != Tone::Unheard,
                Some(sign) => lane.moments.iter().any(|moment| moment.sign == sign),
                None => lane.spans.iter().any(|span| span.tone == tone),
            };
            self.lanes.iter().any(is_on)
        };
        let mut entry = |text: &str, wide: f64, show: &dyn Fn(&mut Drawing, f64)| {
            show(drawing, x);
            drawing.text((x + wide + 6.0, y + 18.0), 12, "start", INK, text);
            x += wide + 6.0 + text.chars().count() as f64 * LETTER + 20.0;
        };
        let tones = [
            (Tone::Plain, "down, true, on", (6.0, 14.0), SERIES[4], 0.75),
            (Tone::Held, "held", (9.0, 8.0), FAINT, 0.35),
            (Tone::On, "action on", (6.0, 14.0), EDGE, 0.55),
            (Tone::Keep, "kept", (6.0, 14.0), DEAD, 0.45),
            (Tone::Window, "window", (12.0, 3.0), WINDOW, 1.0),
            (Tone::Unheard, "not heard", (11.0, 4.0), SERIES[1], 1.0),
        ];
        for (_, text, (top, high), colour, opacity) in tones.into_iter().filter(|(tone, ..)| shown(*tone, None)) {
            entry(text, 24.0, &|drawing, x| drawing.rectangle((x, y + top), (24.0, high), colour, opacity));
        }
        let signs = [
            (Sign::Pull, "pull", 12.0),
            (Sign::Mark, "mark", 10.0),
            (Sign::Miss, "near miss", 12.0),
            (Sign::Cut, "ended by another cause", 6.0),
        ];
        for (own, text, wide) in signs.into_iter().filter(|(own, ..)| shown(Tone::Plain, Some(*own))) {
            entry(text, wide, &|drawing, x| sign(drawing, own, (x + wide / 2.0, y), ROW));
        }
    }
}

/// A name that fits beside its lane.
fn shortened(name: &str, most: usize) -> String {
    if name.chars().count() <= most {
        return name.to_owned();
    }
    let kept: String = name.chars().take(most - 1).collect();
    format!("{kept}…")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_grid_is_round_and_never_crowded() {
        for (span, step) in [(1_000_000, 100_000), (64_000_000, 5_000_000), (250_000, 20_000), (13, 1), (0, 1)] {
            assert_eq!(grid(span), step, "{span}");
        }
        assert_eq!((seconds(1_500_000, 100_000), seconds(20_000_000, 5_000_000)), ("1.5".into(), "20".into()));
    }
}
