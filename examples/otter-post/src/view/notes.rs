//! Lines of news: a fault of the profile with its place, what was saved, and which keys do what.

use tidy_lever::{Family, Moment};

use super::palette as p;
use crate::game::Game;
use tidy_lever_view::canvas::{Canvas, Side};

/// What the line at the bottom names.
const HINTS: [(&str, &str); 7] = [
    ("hop", "hop"),
    ("toss", "toss"),
    ("about", "turn"),
    ("board", "board"),
    ("lamp", "lamp"),
    ("open-menu", "menu"),
    ("guard", "guard"),
];
const AFLOAT: [(&str, &str); 3] = [("paddle", "paddle: mash"), ("leave", "leave"), ("open-menu", "menu")];

pub(crate) fn draw(canvas: &mut Canvas<'_>, game: &Game, now: Moment, (inputs, on_page, hints): (bool, bool, bool)) {
    let (wide, high) = canvas.size();
    let shown = game.note.as_ref().filter(|note| note.until.is_none_or(|until| now < until));
    // A page tells what is wrong below the profile's text.
    let shown = shown.filter(|note| !(on_page && note.bad));
    if let Some(note) = shown {
        let size = 17.0;
        let free = wide - game.camera.covered;
        let room = (free - 80.0).min(900.0);
        let lines = canvas.wrap(&note.text, size, room);
        let broad = lines.iter().map(|line| canvas.wide(line, size)).fold(0.0, f32::max) + 40.0;
        let tall = lines.len() as f32 * 24.0 + 20.0;
        let left = ((free - broad) / 2.0).max(8.0);
        canvas.card((left, 16.0), (broad, tall), 10.0, p::PANEL);
        canvas.rect(left + 10.0, 26.0, 4.0, tall - 20.0, if note.bad { p::MISS } else { p::ON });
        for (n, line) in lines.iter().enumerate() {
            let colour = if note.bad { p::MISS } else { p::INK };
            canvas.text((left + 26.0, 44.0 + n as f32 * 24.0), size, Side::Left, colour, line);
        }
    }
    if game.is_in_menu() {
        return;
    }
    let family = game.family();
    let Some(seat) = game.first() else { return };
    if family == Family::Touch || !hints {
        return;
    }
    let mut x = 24.0;
    let afloat = game.world.punt.rider == Some(0);
    let hints: &[(&str, &str)] = if afloat { &AFLOAT } else { &HINTS };
    let hint = |(action, word): &(&str, &str)| {
        let prompt = seat.linkage().prompts(action, family, &game.labels).into_iter().next();
        prompt.map(|prompt| (prompt.text, (*word).to_owned()))
    };
    let mut all: Vec<(String, String)> = hints.iter().filter_map(hint).collect();
    if !inputs && !on_page && family == Family::Keys {
        all.push(("Tab".into(), "inputs".into()));
    }
    let limit = if inputs { wide - super::INPUTS - 30.0 } else { wide - 20.0 };
    for (control, word) in all {
        let (control, size) = (control.as_str(), 14.0);
        let (key, text) = (canvas.wide(control, size) + 16.0, canvas.wide(&word, size));
        if x + key + text + 8.0 > limit {
            break;
        }
        canvas.card((x, high - 40.0), (key, 24.0), 6.0, p::PANEL);
        canvas.card_edge((x + 0.5, high - 39.5), (key - 1.0, 23.0), 6.0, 0xffffff40);
        canvas.text((x + 8.0, high - 23.0), size, Side::Left, p::INK, control);
        canvas.text((x + key + 7.0, high - 23.0), size, Side::Left, p::INK, &word);
        x += key + text + 26.0;
    }
}
