//! The heron: walks up and down, stands in the way of everyone who doesn't slip, guard or whistle.

use glam::Vec3;

use super::Place;
use super::otter::{Medium, Otter};
use crate::town;

const PACE: f32 = 0.5;
const REACH: f32 = 0.75;

#[derive(Clone, Debug)]
pub(crate) struct Heron {
    pub(crate) place: Place,
    pub(crate) faces_left: bool,
    /// Seconds for which it still stands in the way, or stands and listens.
    pub(crate) blocks: f32,
    pub(crate) listens: f32,
    pub(crate) gone: f32,
}

impl Heron {
    pub(crate) fn new() -> Heron {
        let (from, _, z) = town::HERON;
        Heron { place: Place::new(from + 2.0, 0.0, z), faces_left: true, blocks: 0.0, listens: 0.0, gone: 0.0 }
    }

    /// A whistle: it turns there and stands for a while, and lets pass.
    pub(crate) fn hear(&mut self, from: Vec3) {
        self.faces_left = from.x < self.place.now.x;
        self.listens = 2.5;
    }

    pub(crate) fn step(&mut self, otters: &mut [Otter], span: f32) {
        self.place.was = self.place.now;
        self.blocks = (self.blocks - span).max(0.0);
        self.listens = (self.listens - span).max(0.0);
        for otter in otters.iter_mut() {
            let away = otter.place.now - self.place.now;
            let near = away.x.abs() < REACH && away.z.abs() < REACH && otter.place.now.y < 0.5;
            let free = otter.slip > 0.0 || otter.guards || otter.pushed > 0.0 || self.listens > 0.0;
            if near && !free && otter.medium == Medium::Quay {
                // Pushed back to where she came from.
                self.blocks = 0.9;
                self.faces_left = away.x < 0.0;
                otter.pushed = 0.4;
                otter.trip.give_up();
            }
            if otter.pushed > 0.0 && self.blocks > 0.0 {
                let back = if away.x < 0.0 { -1.0 } else { 1.0 };
                let to = otter.place.now.x + back * 3.0 * span;
                if town::is_quay(to, otter.place.now.z) {
                    otter.place.now.x = to;
                }
            }
        }
        if self.blocks == 0.0 && self.listens == 0.0 {
            let (from, to, _) = town::HERON;
            let way = if self.faces_left { -PACE } else { PACE };
            self.place.now.x = (self.place.now.x + way * span).clamp(from, to);
            self.gone += PACE * span;
            if self.place.now.x <= from || self.place.now.x >= to {
                self.faces_left = self.place.now.x >= to;
            }
        }
    }
}
