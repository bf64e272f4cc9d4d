//! The on-screen patches, once fingers play.

use glam::Vec2;
use tidy_lever::Family;
use tidy_lever::panel::PatchKind;

use super::palette as p;
use crate::game::Game;
use tidy_lever_view::canvas::{Canvas, Side};

pub(crate) fn draw(canvas: &mut Canvas<'_>, game: &Game) {
    let Some(seat) = game.first() else { return };
    if game.family() != Family::Touch {
        return;
    }
    let (wide, high) = canvas.size();
    for (patch, reading) in seat.linkage().patches().zip(seat.panel()) {
        if !reading.is_heard {
            continue;
        }
        let frame = patch.frame(wide as u32, high as u32);
        let middle = Vec2::new(reading.middle.0, reading.middle.1);
        let radius = frame.half.0;
        let (fill, edge) = if reading.is_held { (0x7fdcc850, p::ON) } else { (0x101d2660, 0xffffff90) };
        canvas.disc(middle, radius, fill);
        canvas.ring(middle, radius, 2.0, edge);
        if patch.kind() == PatchKind::Stick {
            let lit = Vec2::new(reading.lit.0, -reading.lit.1);
            canvas.disc(middle + lit * radius, radius * 0.4, if reading.is_held { p::ON } else { 0xffffff60 });
        } else {
            let letters = (radius * 0.55).clamp(11.0, 18.0);
            canvas.text((middle.x, middle.y + letters / 3.0), letters, Side::Middle, p::INK, patch.name());
        }
    }
}
