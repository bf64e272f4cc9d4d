//! Facts and modes as switches: click one to tell it.

use tidy_lever::{Fact, Mode};
use tidy_lever_view::canvas::{Canvas, Side};
use tidy_lever_view::{Area, palette as p};

use crate::hits::{Hit, Hits};
use crate::session::Session;

/// How high a switch is, and the room around it.
const HIGH: f32 = 20.0;
const GAP: f32 = 6.0;
/// Beyond so many lines switches are left out.
const MOST_LINES: f32 = 6.0;

/// A line of switches that breaks where it is full.
struct Flow {
    area: Area,
    x: f32,
    y: f32,
}

impl Flow {
    /// The place for something so wide; `None` if there is no room left.
    fn place(&mut self, wide: f32) -> Option<(f32, f32)> {
        if self.x + wide > self.area.x + self.area.wide && self.x > self.area.x {
            (self.x, self.y) = (self.area.x, self.y + HIGH + GAP);
        }
        if self.y + HIGH > self.area.y + (HIGH + GAP) * MOST_LINES {
            return None;
        }
        let at = (self.x, self.y);
        self.x += wide + GAP;
        Some(at)
    }
}

fn chip(canvas: &mut Canvas<'_>, flow: &mut Flow, hits: &mut Hits, text: &str, on: bool, hit: Hit) {
    let wide = canvas.wide(text, 12.0) + 16.0;
    let Some((x, y)) = flow.place(wide) else { return };
    let (fill, ink) = if on { (p::LIT, p::INK) } else { (p::RAIL, p::DIM) };
    canvas.card((x, y), (wide, HIGH), 9.0, fill);
    canvas.card_edge((x + 0.5, y + 0.5), (wide - 1.0, HIGH - 1.0), 9.0, if on { p::ON } else { p::KEY_EDGE });
    canvas.text((x + 8.0, y + 14.5), 12.0, Side::Left, ink, text);
    hits.put(Area { x, y, wide, high: HIGH }, hit);
}

/// Draws the switches; how high they are together.
pub(crate) fn draw(canvas: &mut Canvas<'_>, session: &Session, area: Area, hits: &mut Hits) -> f32 {
    let linkage = session.linkage();
    let Some(seat) = session.table.seat(session.told_seat) else { return 0.0 };
    let several = session.table.seats().count() > 1;
    let whose =
        if several { format!("facts and modes of seat {}", session.told_seat) } else { "facts and modes".into() };
    canvas.fitting((area.x, area.y + 12.0), 12.0, p::FAINT, &format!("{whose}: click to tell"), area.wide);
    let mut flow = Flow { area: Area { y: area.y + 20.0, ..area }, x: area.x, y: area.y + 20.0 };
    for (name, _) in linkage.modes() {
        let Ok(mode) = linkage.find::<Mode>(name) else { continue };
        let on = seat.is_mode_on(mode);
        let hit = Hit::Mode(name.to_owned(), !on);
        chip(canvas, &mut flow, hits, &format!("mode {name}"), on, hit);
    }
    for (name, _) in linkage.facts() {
        let Ok(fact) = linkage.find::<Fact>(name) else { continue };
        let now = seat.fact(fact);
        if matches!(now, "true" | "false") {
            let on = now == "true";
            chip(canvas, &mut flow, hits, name, on, Hit::Fact(name.to_owned(), (!on).to_string()));
            continue;
        }
        for word in linkage.fact_values(name) {
            let hit = Hit::Fact(name.to_owned(), word.to_owned());
            chip(canvas, &mut flow, hits, &format!("{name}: {word}"), word == now, hit);
        }
    }
    if flow.x > area.x { flow.y + HIGH + GAP - area.y } else { flow.y - area.y }
}
