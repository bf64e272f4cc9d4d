//! The input view as an image: what hands do, what waits, what fired and what nearly did. For a texture of the game's.

use std::collections::BTreeMap;

use bevy_ecs::prelude::*;
use tidy_lever::Moment;
use tidy_lever_view::canvas::Letters;
use tidy_lever_view::{Area, InputView, Parts, Recent, Shown, tiny_skia};

use crate::{Adapter, Players, Seat};

/// How many attempts a seat keeps for its near misses.
const ATTEMPTS: usize = 64;

/// Draws players' inputs on request. Insert it as a resource, let [`look`](InputImage::look) see each step, and
/// [`draw`](InputImage::draw) when a picture is wanted.
#[derive(Debug, Resource)]
pub struct InputImage {
    view: InputView,
    letters: Letters,
    recent: BTreeMap<usize, Recent>,
}

impl InputImage {
    /// One that has drawn nothing yet.
    ///
    /// # Errors
    /// If the bundled font can't be read.
    pub fn new() -> Result<InputImage, BevyError> {
        Ok(InputImage { view: InputView::new(), letters: Letters::new()?, recent: BTreeMap::new() })
    }

    /// Looks at what a seat's last step brought; it keeps a record of attempts from the first look on.
    pub fn look(&mut self, players: &mut Players, seat: &Seat) {
        let Some(own) = players.seat_mut(seat) else { return };
        let recent = self.recent.entry(seat.number()).or_insert_with(|| {
            own.keep_ledger(ATTEMPTS);
            Recent::new()
        });
        recent.look(seat.number(), own);
    }

    /// A picture of a player's inputs: red, green, blue and opacity of each pixel, row by row from the top. `None` before the profile
    /// is loaded, and for a size that can't be.
    pub fn draw(
        &mut self,
        players: &Players,
        adapter: &Adapter,
        seat: &Seat,
        now: Moment,
        (width, height): (u32, u32),
    ) -> Option<Vec<u8>> {
        let own = players.seat(seat)?;
        let mut pixels = tiny_skia::Pixmap::new(width, height)?;
        let shown = Shown {
            seat: own,
            number: seat.number(),
            several: seat.number() > 1,
            labels: adapter.labels(),
            recent: self.recent.entry(seat.number()).or_default(),
            now,
            area: Area { x: 0.0, y: 0.0, wide: width as f32, high: height as f32 },
            parts: Parts::Overlay,
        };
        self.view.draw(&mut pixels, &mut self.letters, &shown);
        Some(pixels.take())
    }
}
