//! The menu: rows of keys and settings.

use super::palette as p;
use crate::game::Game;
use crate::menu::{Row, bind_rows, rows};
use tidy_lever_view::canvas::{Canvas, Side};

const ROW: f32 = 27.0;

pub(crate) fn draw(canvas: &mut Canvas<'_>, game: &Game) {
    let (wide, high) = canvas.size();
    canvas.dim();
    let (family, access) = (game.family(), game.remap.access());
    let all: Vec<Row> = rows(family).collect();
    // A low window shows as many rows as fit, around the one that is chosen.
    let shown = (((high - 190.0) / ROW) as usize).clamp(3, all.len());
    let first = game.menu.row.saturating_sub(shown / 2).min(all.len() - shown);
    let size = (720.0f32.min(wide - game.camera.covered - 24.0), 174.0 + ROW * shown as f32);
    let (left, top) = (((wide - game.camera.covered - size.0) / 2.0).max(8.0), ((high - size.1) / 2.0).max(8.0));
    canvas.card((left, top), size, 14.0, 0x101d26ff);
    canvas.card_edge((left + 0.5, top + 0.5), (size.0 - 1.0, size.1 - 1.0), 14.0, p::EDGE);
    canvas.text((left + 28.0, top + 44.0), 26.0, Side::Left, p::INK, "Otter Post");
    let hint = if game.menu.listening.is_some() {
        "touch the control you want · Escape leaves it as it is"
    } else {
        &format!("up and down choose · {} changes · left and right turn a setting", pick(game))
    };
    if canvas.wide(hint, 14.0) < size.0 - 220.0 {
        canvas.text((left + size.0 - 28.0, top + 42.0), 14.0, Side::Right, p::FAINT, hint);
    }
    let mut y = top + 66.0;
    for (number, row) in all.into_iter().enumerate().skip(first).take(shown) {
        if number == first || number == bind_rows(family) {
            let title =
                if number < bind_rows(family) { format!("On {}", family_words(family)) } else { "Settings".into() };
            canvas.text((left + 28.0, y + 17.0), 13.0, Side::Left, p::FAINT, &title);
            y += 24.0;
        }
        let here = number == game.menu.row;
        if here {
            canvas.card((left + 16.0, y), (size.0 - 32.0, ROW - 2.0), 7.0, 0x2b4553ff);
        }
        let asked = game.menu.listening.as_ref().filter(|_| here);
        let value = match asked {
            Some(_) => "…".to_owned(),
            None => row.value(&game.tuned.linkage, family, &game.labels, &access),
        };
        let colour = if asked.is_some() { p::WAITS } else { p::ON };
        let arrows = here && !matches!(row, Row::Bind(..) | Row::ResetAll | Row::Close);
        let value = if arrows { format!("‹ {value} ›") } else { value };
        let wide = canvas.text((left + size.0 - 28.0, y + 18.0), 16.0, Side::Right, colour, &value);
        let ink = if here { p::INK } else { 0xc7d3d9ff };
        canvas.fitting((left + 28.0, y + 18.0), 16.0, ink, row.name(), size.0 - wide - 70.0);
        y += ROW;
    }
    if !game.menu.word.is_empty() {
        let at = (left + 28.0, top + size.1 - 20.0);
        canvas.fitting(at, 14.0, p::WAITS, &game.menu.word, size.0 - 56.0);
    }
}

/// What picks, by its name on this keyboard or pad.
fn pick(game: &Game) -> String {
    let prompts = game.tuned.linkage.prompts("pick", game.family(), &game.labels);
    prompts.into_iter().next().map_or_else(|| "pick".into(), |prompt| prompt.text)
}

fn family_words(family: tidy_lever::Family) -> &'static str {
    match family {
        tidy_lever::Family::Keys => "the keyboard",
        tidy_lever::Family::Mouse => "the mouse",
        tidy_lever::Family::Pad => "the pad",
        _ => "the screen",
    }
}
