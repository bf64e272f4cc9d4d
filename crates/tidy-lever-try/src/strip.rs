//! The lanes of the last seconds, and the story of what is pointed at.

use tidy_lever::Moment;
use tidy_lever_draw::timeline::Strip;
use tidy_lever_view::canvas::{Canvas, Side};
use tidy_lever_view::{Area, palette as p};

use crate::session::{RUN_ON, SHOWN, Session};
use crate::story::Story;

/// So near must a pointer be to a sign, in pixels.
const NEAR: f64 = 9.0;

/// The pictures' colours by night: paper and inks are turned round, the others are lighter.
fn night(colour: &str) -> u32 {
    match colour {
        "#ffffff" => p::PANEL | 0xff,
        "#1b1f24" => p::INK,
        "#6a737d" => p::FAINT,
        "#e3e6ea" => 0x22323cff,
        "#c0392b" => p::MISS,
        "#0072b2" => 0x6db7f2ff,
        "#009e73" => 0x3fbf9aff,
        other => u32::from_str_radix(other.trim_start_matches('#'), 16).map_or(p::INK, |rgb| rgb << 8 | 0xff),
    }
}

/// The lanes as they were drawn last.
#[derive(Debug, Default)]
pub(crate) struct Lanes {
    /// Where time stands still, if it is frozen.
    pub(crate) frozen: Option<Moment>,
    drawn: Option<Strip>,
}

impl Lanes {
    pub(crate) fn draw(&mut self, canvas: &mut Canvas<'_>, session: &Session, area: Area, now: Moment) {
        canvas.rect(area.x, area.y, area.wide, area.high, p::PANEL | 0xff);
        canvas.rect(area.x, area.y, area.wide, 1.0, p::EDGE);
        // The lanes stop a while after the last change.
        let end = self.frozen.unwrap_or_else(|| now.min(session.changed + RUN_ON));
        let (end, span) = (end.as_micros(), SHOWN.as_micros() as u64);
        let range = (end.saturating_sub(span), end.max(span));
        let timeline = session.lanes.timeline("", range, end.min(session.played.as_micros()));
        let strip = timeline.strip(f64::from(area.wide), f64::from(area.high));
        strip.drawing.paint(canvas, (area.x, area.y), night);
        self.drawn = Some(strip);
    }

    /// What is pointed at: the nearest story of that lane.
    pub(crate) fn story<'s>(&self, session: &'s Session, area: Area, (x, y): (f32, f32)) -> Option<&'s Story> {
        let strip = self.drawn.as_ref()?;
        let (lane, _, at) = strip.at(f64::from(x - area.x), f64::from(y - area.y))?;
        let reach = (NEAR * strip.pixel()) as u64;
        let (seat, action) = match lane.split_once(": ") {
            Some((seat, action)) => (seat.parse().unwrap_or(1), action),
            None => (1, lane),
        };
        let own = session.stories.iter().filter(|story| story.seat == seat && story.action == action);
        let far =
            |story: &&Story| story.at.into_iter().map(|moment| moment.as_micros().abs_diff(at)).min().unwrap_or(0);
        own.filter(|story| far(story) <= reach).min_by_key(far)
    }
}

/// Draws a story in a box above the place that is pointed at.
pub(crate) fn tell(canvas: &mut Canvas<'_>, story: &Story, (x, y): (f32, f32)) {
    let room = 520.0;
    let lines: Vec<String> = story.lines.iter().flat_map(|line| canvas.wrap(line, 13.0, room)).collect();
    let wide = lines.iter().map(|line| canvas.wide(line, 13.0)).fold(0.0, f32::max) + 24.0;
    let high = lines.len() as f32 * 18.0 + 16.0;
    let left = (x - wide / 2.0).clamp(4.0, (canvas.size().0 - wide - 4.0).max(4.0));
    let top = (y - high - 14.0).max(4.0);
    canvas.card((left, top), (wide, high), 8.0, 0x0a141bff);
    canvas.card_edge((left + 0.5, top + 0.5), (wide - 1.0, high - 1.0), 8.0, p::KEY_EDGE);
    for (n, line) in lines.iter().enumerate() {
        let colour = if n == 0 { p::ON } else { p::INK };
        canvas.text((left + 12.0, top + 20.0 + n as f32 * 18.0), 13.0, Side::Left, colour, line);
    }
}
