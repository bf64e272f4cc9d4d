//! Captions for a film: what the last press did, and what the last one missed by.

use std::time::Duration;

use tidy_lever::Moment;
use tidy_lever_view::canvas::{Canvas, Side};

use super::palette as p;
use crate::game::Game;

/// How long a pull is to be read, and a near miss.
const PULL: Duration = Duration::from_millis(1_100);
const MISS: Duration = Duration::from_millis(2_600);
const SIZE: f32 = 19.0;

/// Draws them from this place on, upwards from `bottom`.
pub(crate) fn draw(canvas: &mut Canvas<'_>, game: &Game, now: Moment, (left, bottom): (f32, f32)) {
    let mut bottom = bottom;
    let mut line = |colour, text: &str| {
        let wide = canvas.wide(text, SIZE) + 28.0;
        canvas.card((left, bottom - 36.0), (wide, 34.0), 8.0, p::PANEL);
        canvas.text((left + 14.0, bottom - 12.0), SIZE, Side::Left, colour, text);
        bottom -= 42.0;
    };
    // A near miss stays until it is read, whatever its press did beside it.
    if let Some(miss) = game.recent.misses().next().filter(|miss| now - miss.entry.at < MISS) {
        line(p::MISS, &format!("{} missed: {}", miss.action, miss.entry.more));
    } else if let Some(pull) = game.recent.pulls().next().filter(|pull| now - pull.at < PULL) {
        let more = if pull.more.starts_with("kept") { format!(", {}", pull.more) } else { String::new() };
        line(p::INK, &format!("{}{more}", pull.text));
    }
}
