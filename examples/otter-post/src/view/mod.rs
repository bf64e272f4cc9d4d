//! Pictures of the game: the town, and over it the menu, the input view, the on-screen patches, a line of news.
//!
//! ```text
//!   game ──▶ scene ──▶ patches ──▶ input view ──▶ menu ──▶ notes ──▶ pixels
//! ```

mod backdrop;
mod canvas;
mod figures;
mod inputs;
mod keyboard;
mod menu;
mod notes;
mod palette;
mod patches;
mod scene;

use tidy_lever::Moment;
use tiny_skia::Pixmap;

use crate::game::Game;
use canvas::{Canvas, Letters};

/// Draws the game; keeps what is costly to draw.
pub(crate) struct View {
    letters: Letters,
    pixels: Pixmap,
    backdrop: Option<backdrop::Backdrop>,
    sheet: inputs::Inputs,
    /// Whether the input view is shown.
    pub(crate) inputs: bool,
}

impl View {
    pub(crate) fn new((width, height): (u32, u32), inputs: bool) -> anyhow::Result<View> {
        Ok(View {
            letters: Letters::new()?,
            pixels: pixels(width, height)?,
            backdrop: None,
            sheet: inputs::Inputs::default(),
            inputs,
        })
    }

    /// The window has another size.
    pub(crate) fn resize(&mut self, (width, height): (u32, u32)) -> anyhow::Result<()> {
        if (self.pixels.width(), self.pixels.height()) != (width, height) {
            self.pixels = pixels(width, height)?;
            self.backdrop = None;
        }
        Ok(())
    }

    /// How many pixels at the right the input view lies over.
    pub(crate) fn covered(&self) -> f32 {
        if self.inputs { inputs::WIDE } else { 0.0 }
    }

    /// A picture of the game at a moment of the clock, so far between its last two steps.
    pub(crate) fn picture(&mut self, game: &Game, now: Moment, share: f32) -> &Pixmap {
        let mut camera = game.camera;
        camera.size = (self.pixels.width() as f32, self.pixels.height() as f32);
        let backdrop = self.backdrop.take().unwrap_or_else(|| backdrop::Backdrop::new(camera, &mut self.letters));
        backdrop.copy_to(&mut self.pixels, camera);
        self.backdrop = Some(backdrop);
        let mut canvas = Canvas::new(&mut self.pixels, &mut self.letters);
        scene::draw(&mut canvas, game, camera, now, share);
        patches::draw(&mut canvas, game);
        if self.inputs {
            self.sheet.draw(&mut self.pixels, &mut self.letters, game, now);
        }
        let mut canvas = Canvas::new(&mut self.pixels, &mut self.letters);
        if game.is_in_menu() {
            menu::draw(&mut canvas, game);
        }
        notes::draw(&mut canvas, game, now, self.inputs);
        &self.pixels
    }
}

fn pixels(width: u32, height: u32) -> anyhow::Result<Pixmap> {
    Pixmap::new(width.max(1), height.max(1))
        .ok_or_else(|| anyhow::anyhow!("a picture of {width}x{height} can't be made"))
}
