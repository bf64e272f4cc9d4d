//! A row for each action: its name, what moves it, what it does now.

use tidy_lever::profile::Kind;
use tidy_lever::prompt::Labels;
use tidy_lever::{Family, Seat};

use crate::Area;
use crate::canvas::{Canvas, Side};
use crate::palette as p;

/// How high a row is.
pub const ROW: f32 = 20.0;

/// Draws the actions from the `first`-th on, as many as fit; the chosen one is marked. Rows are [`ROW`] high.
pub fn rows(canvas: &mut Canvas<'_>, seat: &Seat, labels: &Labels, area: Area, first: usize, chosen: Option<&str>) {
    let linkage = seat.linkage();
    let family = seat.family().filter(|family| *family != Family::Mouse).unwrap_or(Family::Keys);
    let fits = (area.high / ROW) as usize;
    for (place, action) in linkage.actions().skip(first).take(fits).enumerate() {
        let y = area.y + place as f32 * ROW;
        let name = action.name();
        if chosen == Some(name) {
            canvas.card((area.x, y), (area.wide, ROW), 4.0, p::KEY);
        }
        let edges = match action.kind() {
            Kind::Button => linkage.find(name).ok().map(|found| seat.button(found)),
            Kind::Axis => linkage.find(name).ok().map(|found| seat.axis(found).edges()),
            Kind::Stick => linkage.find(name).ok().map(|found| seat.stick(found).edges()),
            Kind::Gauge => linkage.find(name).ok().map(|found| seat.gauge(found).edges()),
            Kind::Pointer => linkage.find(name).ok().map(|found| seat.pointer(found).edges()),
            _ => None,
        };
        let (down, on) = edges.map_or((false, false), |edges| (edges.is_down(), edges.is_on()));
        let middle = glam::Vec2::new(area.x + 10.0, y + ROW / 2.0);
        match (down, on) {
            (_, true) => canvas.disc(middle, 5.0, p::ON),
            (true, _) => canvas.ring(middle, 4.5, 2.0, p::ON),
            _ => canvas.ring(middle, 4.5, 1.0, p::KEY_EDGE),
        }
        let ink = if on || down { p::ON } else { p::INK };
        canvas.fitting((area.x + 22.0, y + 14.5), 13.0, ink, name, area.wide * 0.4 - 22.0);
        let prompts = linkage.prompts(name, family, labels);
        let text: Vec<String> = prompts.into_iter().map(|prompt| prompt.text).collect();
        let room = area.wide * 0.6 - 6.0;
        canvas.fitting((area.x + area.wide * 0.4, y + 14.5), 11.0, p::FAINT, &text.join(", "), room);
    }
    let count = linkage.actions().count();
    if fits > 0 && (first + fits < count || first > 0) {
        let text = format!("{}–{} of {count}", first + 1, (first + fits).min(count));
        canvas.text((area.x + area.wide, area.y - 6.0), 11.0, Side::Right, p::FAINT, &text);
    }
}
