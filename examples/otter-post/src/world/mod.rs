//! The world: otters, a punt, a heron, parcels. Knows nothing of hands; moves by fixed steps.
//!
//! ```text
//!   wishes ──▶ step ──▶ where everything is ──▶ facts, picture
//! ```

mod heron;
mod otter;
mod parcel;
mod punt;

use std::time::Duration;

use glam::Vec3;
use tidy_lever::Direction;

pub(crate) use heron::Heron;
pub(crate) use otter::{Gesture, Medium, Otter, State};
pub(crate) use parcel::{Kind, Parcel};
pub(crate) use punt::Punt;

use crate::town;

/// How long a step is.
pub(crate) const STEPS_A_SECOND: u32 = 120;

/// What one player wants in one step.
#[derive(Clone, Debug, Default)]
pub(crate) struct Wishes {
    /// Right and up, never longer than 1.
    pub(crate) walk: (f32, f32),
    /// The side that is held now, if one is.
    pub(crate) looks: Option<f32>,
    /// Degrees that the view was turned.
    pub(crate) pan: f32,
    pub(crate) runs: bool,
    pub(crate) hop: Option<u8>,
    pub(crate) throws: Vec<Kind>,
    /// What was tossed just now was meant as something else.
    pub(crate) takes_back: bool,
    pub(crate) about: Option<Option<(Direction, Duration)>>,
    pub(crate) uses: bool,
    pub(crate) opens_bag: bool,
    pub(crate) guards: bool,
    pub(crate) bows: bool,
    pub(crate) slips: bool,
    pub(crate) vanishes: bool,
    pub(crate) turns: bool,
    pub(crate) salutes: bool,
    pub(crate) knocks: bool,
    pub(crate) whistles: bool,
    pub(crate) lamp: bool,
    pub(crate) boards: bool,
    pub(crate) leaves: bool,
    pub(crate) paddles: f32,
    pub(crate) rushes: bool,
    pub(crate) dives: f32,
    pub(crate) parcel: i32,
    /// A place in the view, and, once the camera has looked, on the quay.
    pub(crate) goes_to: Option<(f32, f32)>,
    pub(crate) target: Option<Vec3>,
}

/// A ring on the water.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Ripple {
    pub(crate) at: Vec3,
    pub(crate) age: f32,
}

/// A place before and after a step, for drawing in between.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Place {
    pub(crate) now: Vec3,
    pub(crate) was: Vec3,
}

impl Place {
    pub(crate) fn new(x: f32, y: f32, z: f32) -> Place {
        let at = Vec3::new(x, y, z);
        Place { now: at, was: at }
    }

    /// Between the steps: 0 before the last one, 1 after it.
    pub(crate) fn between(&self, share: f32) -> Vec3 {
        self.was.lerp(self.now, share)
    }
}

/// Everything that moves.
#[derive(Clone, Debug)]
pub(crate) struct World {
    pub(crate) otters: Vec<Otter>,
    pub(crate) punt: Punt,
    pub(crate) heron: Heron,
    pub(crate) parcels: Vec<Parcel>,
    pub(crate) ripples: Vec<Ripple>,
    pub(crate) delivered: u32,
    /// The post office's door stands open for this long.
    pub(crate) door_open: f32,
}

impl World {
    pub(crate) fn new() -> World {
        World {
            otters: vec![Otter::new(town::STARTS[0])],
            punt: Punt::new(),
            heron: Heron::new(),
            parcels: Vec::new(),
            ripples: Vec::new(),
            delivered: 0,
            door_open: 0.0,
        }
    }

    /// Another otter comes along.
    pub(crate) fn join(&mut self) {
        self.otters.push(Otter::new(town::STARTS[self.otters.len() % town::STARTS.len()]));
    }

    /// Whether an otter stands near enough to board the punt.
    pub(crate) fn is_near_punt(&self, otter: usize) -> bool {
        let away = self.otters[otter].place.now - self.punt.place.now;
        self.punt.rider.is_none() && away.x.abs() < 2.2 && away.z.abs() < 1.9
    }

    /// Whether nothing moves but the water.
    pub(crate) fn is_calm(&self) -> bool {
        let still = self.otters.iter().all(|otter| otter.place.was == otter.place.now && otter.gesture.is_none());
        still && self.parcels.iter().all(|parcel| parcel.rests) && self.punt.speed.length() < 0.01
    }

    /// Moves everything on by one step, each otter by its own wishes.
    pub(crate) fn step(&mut self, wishes: &[Wishes]) {
        let span = 1.0 / STEPS_A_SECOND as f32;
        for (number, wishes) in wishes.iter().enumerate() {
            self.board_or_leave(number, wishes);
            let World { otters, parcels, punt, heron, ripples, .. } = self;
            let otter = &mut otters[number];
            otter.step(wishes, span, ripples);
            if otter.medium == Medium::Punt {
                punt.steer(wishes, span);
                otter.ride(punt);
            }
            if wishes.takes_back {
                // What left the hand in the last moments was the beginning of something better.
                parcels.retain(|parcel| parcel.by != number || parcel.age > 0.25 || parcel.kind != Kind::Toss);
            }
            parcels.extend(wishes.throws.iter().map(|kind| Parcel::thrown(*kind, otter, number)));
            if wishes.whistles {
                heron.hear(otter.place.now);
            }
            if wishes.knocks {
                self.door_open = 4.0;
            }
        }
        self.punt.step(span);
        self.heron.step(&mut self.otters, span);
        for parcel in &mut self.parcels {
            if parcel.step(span, &mut self.ripples) {
                self.delivered += 1;
            }
        }
        self.parcels.retain(|parcel| !parcel.is_gone());
        self.ripples.iter_mut().for_each(|ripple| ripple.age += span);
        self.ripples.retain(|ripple| ripple.age < 1.6);
        self.door_open = (self.door_open - span).max(0.0);
    }

    fn board_or_leave(&mut self, number: usize, wishes: &Wishes) {
        let otter = &mut self.otters[number];
        if wishes.boards && self.punt.rider.is_none() {
            otter.medium = Medium::Punt;
            self.punt.rider = Some(number);
        }
        if wishes.leaves && self.punt.rider == Some(number) {
            self.punt.rider = None;
            otter.leave_punt(self.punt.place.now);
        }
    }
}
