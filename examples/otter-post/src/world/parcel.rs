//! A parcel in flight, at rest, or skipping over the water.

use glam::Vec3;

use super::otter::Otter;
use super::{Place, Ripple};
use crate::town;

const GRAVITY: f32 = 14.0;

/// How it left the hand.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Kind {
    Toss,
    /// With how much of a charge, 0 to 1.
    Throw(f32),
    Skim,
}

#[derive(Clone, Debug)]
pub(crate) struct Parcel {
    pub(crate) place: Place,
    pub(crate) speed: Vec3,
    pub(crate) kind: Kind,
    /// Which of three sorts it is.
    pub(crate) sort: usize,
    /// Whose it is.
    pub(crate) by: usize,
    pub(crate) age: f32,
    pub(crate) bounces: u32,
    pub(crate) rests: bool,
    pub(crate) delivered: bool,
    /// Since when it rests, or has sunk.
    pub(crate) still: f32,
    pub(crate) sunk: bool,
}

impl Parcel {
    pub(crate) fn thrown(kind: Kind, otter: &Otter, by: usize) -> Parcel {
        let way = if otter.faces_left { -1.0 } else { 1.0 };
        let (along, up) = match kind {
            Kind::Toss => (4.6, 4.2),
            Kind::Throw(amount) => (6.0 + 6.5 * amount, 5.0 + 1.5 * amount),
            Kind::Skim => (11.5, 0.9),
        };
        let from = otter.place.now + Vec3::new(way * 0.5, 0.8, 0.0);
        Parcel {
            place: Place { now: from, was: from },
            speed: Vec3::new(way * along, up, 0.0),
            kind,
            sort: otter.parcel,
            by,
            age: 0.0,
            bounces: 0,
            rests: false,
            delivered: false,
            still: 0.0,
            sunk: false,
        }
    }

    /// Moves on; whether it was delivered in this step.
    pub(crate) fn step(&mut self, span: f32, ripples: &mut Vec<Ripple>) -> bool {
        self.place.was = self.place.now;
        self.age += span;
        if self.rests {
            self.still += span;
            return false;
        }
        self.speed.y -= GRAVITY * span;
        let to = self.place.now + self.speed * span;
        self.place.now = to;
        let floor = town::floor(to.x, to.z);
        if to.y > floor {
            return false;
        }
        self.place.now.y = floor;
        if floor < 0.0 {
            ripples.push(Ripple { at: self.place.now, age: 0.0 });
            if self.kind == Kind::Skim && self.bounces < 6 {
                self.bounces += 1;
                self.speed = Vec3::new(self.speed.x * 0.86, 2.4, self.speed.z);
                return false;
            }
            (self.rests, self.sunk) = (true, true);
            return false;
        }
        if self.speed.y < -2.0 && self.bounces < 2 {
            self.bounces += 1;
            self.speed = Vec3::new(self.speed.x * 0.35, -self.speed.y * 0.25, 0.0);
            return false;
        }
        self.rests = true;
        let near = |(x, z): (f32, f32)| (to.x - x).hypot(to.z - z) < town::BOX_REACH;
        self.delivered = town::BOXES.into_iter().any(near);
        self.delivered
    }

    pub(crate) fn is_gone(&self) -> bool {
        self.still > if self.sunk { 0.8 } else { 4.0 } || !(-5.0..town::LENGTH + 5.0).contains(&self.place.now.x)
    }
}
