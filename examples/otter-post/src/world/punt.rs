//! The punt: goes where it is steered, as fast as it is paddled.

use glam::{Vec2, Vec3};

use super::{Place, Wishes};
use crate::town;

#[derive(Clone, Debug)]
pub(crate) struct Punt {
    pub(crate) place: Place,
    pub(crate) speed: Vec2,
    pub(crate) rider: Option<usize>,
    pub(crate) rushes: bool,
}

impl Punt {
    pub(crate) fn new() -> Punt {
        let (x, z) = town::PUNT;
        Punt { place: Place::new(x, town::SURFACE, z), speed: Vec2::ZERO, rider: None, rushes: false }
    }

    /// Its rider's wishes: the gauge is 1 at rest and 6 at its most.
    pub(crate) fn steer(&mut self, wishes: &Wishes, span: f32) {
        let push = wishes.paddles * 0.9 * if wishes.rushes { 1.25 } else { 1.0 };
        let wanted = Vec2::new(wishes.walk.0 * push, -wishes.walk.1 * push * 0.6);
        self.speed += (wanted - self.speed) * (3.0 * span).min(1.0);
        self.rushes = wishes.rushes;
    }

    pub(crate) fn step(&mut self, span: f32) {
        self.place.was = self.place.now;
        if self.rider.is_none() {
            self.speed *= 1.0 - (1.5 * span).min(1.0);
            self.rushes = false;
        }
        let to = self.place.now + Vec3::new(self.speed.x, 0.0, self.speed.y) * span;
        self.place.now = Vec3::new(to.x.clamp(1.5, town::LENGTH - 1.5), to.y, to.z.clamp(0.9, town::OUT - 0.4));
        if self.speed.length() < 0.005 {
            self.speed = Vec2::ZERO;
        }
    }
}
