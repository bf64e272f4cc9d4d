//! The stage: where mouse and fingers belong to the profile. Shows its panel, the pointer, what pulled, and what is wrong.

use tidy_lever::panel::PatchKind;
use tidy_lever::seat::StandingLevel;
use tidy_lever::{Control, Family, Moment};
use tidy_lever_view::canvas::{Canvas, Side};
use tidy_lever_view::glam::Vec2;
use tidy_lever_view::{Area, palette as p};

use crate::session::Session;

/// The stage's own colour.
const FLOOR: p::Colour = 0x172833ff;
/// How long the last pull is written large, in seconds.
const LARGE: f32 = 1.2;

pub(crate) fn draw(canvas: &mut Canvas<'_>, session: &Session, area: Area, now: Moment) {
    canvas.rect(area.x, area.y, area.wide, area.high, FLOOR);
    canvas.rect(area.x, area.y, 1.0, area.high, p::EDGE);
    let middle = area.x + area.wide / 2.0;
    let linkage = session.linkage();
    let file = session.tuning.path().file_name().map_or(String::new(), |name| name.to_string_lossy().into_owned());
    let title = if linkage.title().is_empty() { file.clone() } else { format!("{} · {file}", linkage.title()) };
    let room = area.wide - 28.0;
    canvas.fitting((area.x + 14.0, area.y + 24.0), 15.0, p::INK, &title, room);
    let hint = if session.table.seats().count() > 0 && linkage.actions().next().is_some() {
        "keys, and mouse and fingers on this stage, move the profile"
    } else {
        "nothing to play yet"
    };
    canvas.fitting((area.x + 14.0, area.y + 42.0), 12.0, p::FAINT, hint, room);
    if let Some(pull) = session.recent.pulls().next() {
        let age = (now - pull.at).as_secs_f32();
        let colour = p::mixed(p::ON, p::KEY_EDGE, age / LARGE);
        let at = (middle, area.y + (area.high * 0.46).max(84.0));
        // As large as it fits.
        let size = (34.0 * (room / canvas.wide(&pull.text, 34.0).max(1.0))).clamp(13.0, 34.0);
        if area.high > 110.0 {
            canvas.text(at, size, Side::Middle, colour, &pull.text);
            canvas.text((at.0, at.1 + 24.0), 13.0, Side::Middle, p::mixed(p::INK, p::DIM, age / LARGE), &pull.more);
        }
    }
    answers(canvas, session, area);
    patches(canvas, session, area);
    pointer(canvas, session, area);
    notes(canvas, session, area, now);
}

/// What answers in the game's stead.
fn answers(canvas: &mut Canvas<'_>, session: &Session, area: Area) {
    let answers = session.answers();
    let high = answers.len().min(6) as f32 * 16.0;
    let mut y = area.y + area.high - 14.0 - high;
    if answers.is_empty() {
        return;
    }
    canvas.text((area.x + 14.0, y), 12.0, Side::Left, p::FAINT, "answers in the game's stead");
    for answer in answers.iter().take(6) {
        y += 16.0;
        canvas.fitting((area.x + 14.0, y), 12.0, p::INK, &answer.to_string(), area.wide - 28.0);
    }
}

/// The on-screen patches, once fingers play.
fn patches(canvas: &mut Canvas<'_>, session: &Session, area: Area) {
    let Some(seat) = session.table.seat(1).filter(|seat| seat.family() == Some(Family::Touch)) else { return };
    let (wide, high) = session.view;
    let scale = Vec2::new(area.wide / wide.max(1) as f32, area.high / high.max(1) as f32);
    let on = |(x, y): (f32, f32)| Vec2::new(area.x, area.y) + Vec2::new(x, y) * scale;
    for (patch, reading) in seat.linkage().patches().zip(seat.panel()) {
        if !reading.is_heard {
            continue;
        }
        let half = patch.frame(wide, high).half;
        let half = Vec2::new(half.0, half.1) * scale;
        let middle = on(reading.middle);
        let (fill, edge) = if reading.is_held { (0x7fdcc850, p::ON) } else { (0x101d2660, 0xffffff90) };
        if patch.kind() == PatchKind::Zone {
            canvas.rect(middle.x - half.x, middle.y - half.y, half.x * 2.0, half.y * 2.0, 0xffffff08);
        } else {
            canvas.egg(middle, half, fill);
            canvas.egg_edge(middle, half, 2.0, edge);
        }
        let lit = if patch.kind() == PatchKind::Stick { Some(Vec2::new(reading.lit.0, -reading.lit.1)) } else { None };
        match (lit, reading.thumb) {
            (Some(lit), _) => {
                canvas.egg(middle + lit * half, half * 0.4, if reading.is_held { p::ON } else { 0xffffff60 })
            }
            (None, Some(thumb)) => canvas.ring(on(thumb), 12.0, 2.0, p::ON),
            _ => {}
        }
        if lit.is_none() {
            canvas.text((middle.x, middle.y + 5.0), 14.0, Side::Middle, p::INK, patch.name());
        }
    }
}

/// Where the profile has its pointer.
fn pointer(canvas: &mut Canvas<'_>, session: &Session, area: Area) {
    let Some(seat) = session.table.seat(1) else { return };
    let place = seat.standing().find(|now| now.control == Control::MOUSE_PLACE);
    let Some(StandingLevel { x, y, .. }) = place else { return };
    let at = Vec2::new(area.x + x * area.wide, area.y + y * area.high);
    if area.holds((at.x, at.y)) {
        canvas.ring(at, 7.0, 1.0, p::FAINT);
        canvas.disc(at, 1.5, p::FAINT);
    }
}

/// A fault with its place; or what the tool has to say.
fn notes(canvas: &mut Canvas<'_>, session: &Session, area: Area, now: Moment) {
    let plays = session.linkage().actions().next().is_some();
    let then = if plays { "what was good last plays on" } else { "it plays as soon as it is mended and saved" };
    let fault = session.tuning.fault().map(|fault| (format!("{fault}; {then}"), true));
    let note = session.note.as_ref().filter(|note| note.until > now).map(|note| (note.text.clone(), note.bad));
    let mut y = area.y + 56.0;
    for (text, bad) in fault.into_iter().chain(note) {
        let (size, room) = (13.0, area.wide - 60.0);
        let lines = canvas.wrap(&text, size, room);
        let high = lines.len() as f32 * 18.0 + 14.0;
        canvas.card((area.x + 12.0, y), (area.wide - 24.0, high), 8.0, p::PANEL | 0xff);
        canvas.rect(area.x + 22.0, y + 8.0, 3.0, high - 16.0, if bad { p::MISS } else { p::ON });
        for (n, line) in lines.iter().enumerate() {
            let colour = if bad { p::MISS } else { p::INK };
            canvas.fitting((area.x + 34.0, y + 20.0 + n as f32 * 18.0), size, colour, line, room);
        }
        y += high + 8.0;
    }
}
