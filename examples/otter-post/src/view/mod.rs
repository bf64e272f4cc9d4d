//! Pictures of the game: the town, and over it the menu, the input view, the on-screen patches, a line of news.
//!
//! ```text
//!   game ──▶ scene ──▶ patches ──▶ input view ──▶ menu ──▶ notes ──▶ pixels
//! ```

mod backdrop;
mod captions;
mod figures;
mod menu;
mod notes;
mod palette;
mod patches;
mod scene;

use tidy_lever::Moment;
use tidy_lever_view::{Area, InputView, Parts, Shown};
use tiny_skia::Pixmap;

use crate::camera::{Half, Looks};
use crate::game::Game;
use tidy_lever_view::canvas::{Canvas, Letters};

/// How wide the input view is.
pub(crate) const INPUTS: f32 = 384.0;
/// How wide and high the device in use is in its corner.
const DEVICE: (f32, f32) = (276.0, 136.0);

/// Draws the game; keeps what is costly to draw.
pub(crate) struct View {
    letters: Letters,
    pixels: Pixmap,
    backdrop: Option<backdrop::Backdrop>,
    sheet: InputView,
    /// Pixels for one of the window's, each way.
    scale: f32,
    /// Whether the input view is shown.
    pub(crate) inputs: bool,
    /// Instead of it, the device in use is shown in a corner, with captions of what its presses did.
    pub(crate) captions: bool,
    /// A page shows and hides the input view by a button of its own.
    pub(crate) on_page: bool,
    /// What moves by itself stands still.
    pub(crate) still: bool,
    /// Half of the picture, while two otters are apart.
    half: Option<Pixmap>,
}

impl View {
    pub(crate) fn new((width, height): (u32, u32), inputs: bool) -> anyhow::Result<View> {
        Ok(View {
            letters: Letters::new()?,
            pixels: pixels(width, height)?,
            backdrop: None,
            sheet: InputView::new(),
            scale: 1.0,
            inputs,
            captions: false,
            on_page: false,
            still: false,
            half: None,
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

    /// So many pixels, each way, for one of the window's: on finer screens pictures are finer, and letters keep their size.
    pub(crate) fn set_scale(&mut self, scale: f32) {
        if self.scale != scale {
            self.scale = scale;
            self.sheet.set_scale(scale);
            self.backdrop = None;
        }
    }

    /// The picture's size, in the window's own pixels.
    pub(crate) fn size(&self) -> (f32, f32) {
        (self.pixels.width() as f32 / self.scale, self.pixels.height() as f32 / self.scale)
    }

    /// How many pixels at the right the input view lies over.
    pub(crate) fn covered(&self) -> f32 {
        if self.inputs { INPUTS } else { 0.0 }
    }

    /// A picture of the game at a moment of the clock, so far between its last two steps.
    pub(crate) fn picture(&mut self, game: &Game, now: Moment, share: f32) -> &Pixmap {
        let scale = self.scale;
        let mut whole = game.camera;
        whole.size = self.size();
        let backdrop = self.backdrop.take();
        let backdrop = backdrop.unwrap_or_else(|| backdrop::Backdrop::new(whole, scale, &mut self.letters));
        let moves = if self.still { Moment::ZERO } else { now };
        match game.looks(whole.size) {
            Looks::Together(camera) => {
                backdrop.copy_to(&mut self.pixels, camera);
                let mut canvas = Canvas::new(&mut self.pixels, &mut self.letters).scaled(scale);
                scene::draw(&mut canvas, game, camera, moves, share);
            }
            Looks::Apart(halves) => {
                halves.into_iter().for_each(|half| self.draw_half(&backdrop, game, half, moves, share))
            }
        }
        self.backdrop = Some(backdrop);
        let mut canvas = Canvas::new(&mut self.pixels, &mut self.letters).scaled(scale);
        scene::draw_score(&mut canvas, game);
        patches::draw(&mut canvas, game);
        let (across, high) = self.size();
        if self.inputs {
            let wide = INPUTS.min(across);
            self.draw_inputs(game, now, (Area { x: across - wide, y: 0.0, wide, high }, Parts::Overlay));
        } else if self.captions {
            let (wide, tall) = DEVICE;
            let y = high - tall - 14.0;
            self.draw_inputs(game, now, (Area { x: 14.0, y, wide, high: tall }, Parts::Device));
            let mut canvas = Canvas::new(&mut self.pixels, &mut self.letters).scaled(scale);
            captions::draw(&mut canvas, game, now, (14.0 + wide + 14.0, high - 14.0));
        }
        let mut canvas = Canvas::new(&mut self.pixels, &mut self.letters).scaled(scale);
        if game.is_in_menu() {
            menu::draw(&mut canvas, game);
        }
        notes::draw(&mut canvas, game, now, (self.inputs, self.on_page, !self.captions));
        &self.pixels
    }

    /// One half of a picture of two otters that are apart.
    fn draw_half(&mut self, backdrop: &backdrop::Backdrop, game: &Game, half: Half, moves: Moment, share: f32) {
        let scale = self.scale;
        let wanted = ((half.camera.size.0 * scale).round() as u32, self.pixels.height());
        let fits = |own: &Pixmap| (own.width(), own.height()) == wanted;
        let Some(mut own) = self.half.take().filter(fits).or_else(|| Pixmap::new(wanted.0.max(1), wanted.1)) else {
            return;
        };
        backdrop.copy_to(&mut own, half.camera);
        let mut canvas = Canvas::new(&mut own, &mut self.letters).scaled(scale);
        scene::draw(&mut canvas, game, half.camera, moves, share);
        if half.left > 0.0 {
            canvas.rect(0.0, 0.0, 3.0, half.camera.size.1, palette::INK);
        }
        let (left, across) = ((half.left * scale).round() as usize, self.pixels.width() as usize);
        let wide = (own.width() as usize).min(across.saturating_sub(left));
        let rows =
            self.pixels.pixels_mut().chunks_exact_mut(across).zip(own.pixels().chunks_exact(own.width() as usize));
        rows.for_each(|(to, from)| to[left..left + wide].copy_from_slice(&from[..wide]));
        self.half = Some(own);
    }

    fn draw_inputs(&mut self, game: &Game, now: Moment, (area, parts): (Area, Parts)) {
        let Some(seat) = game.first() else { return };
        let shown = Shown {
            seat,
            number: 1,
            several: game.table.seats().count() > 1,
            labels: &game.labels,
            recent: &game.recent,
            now,
            area,
            parts,
        };
        self.sheet.draw(&mut self.pixels, &mut self.letters, &shown);
    }
}

fn pixels(width: u32, height: u32) -> anyhow::Result<Pixmap> {
    Pixmap::new(width.max(1), height.max(1))
        .ok_or_else(|| anyhow::anyhow!("a picture of {width}x{height} can't be made"))
}
