//! An otter: where she is, what she does, what she carries.

use glam::{Vec2, Vec3};
use tidy_lever::following::turn_towards;
use tidy_lever::pointing::Trip;

use super::{Place, Punt, Ripple, STEPS_A_SECOND, Wishes};
use crate::hands;
use crate::town;

const WALK: f32 = 3.4;
const RUN: f32 = 6.8;
const SWIM: f32 = 1.7;
const GRAVITY: f32 = 17.0;
/// How fast she leaves the ground, by stage.
const HOPS: [f32; 3] = [5.4, 6.6, 8.2];
const SLIP: f32 = 9.5;
/// Degrees a second that her body turns.
const TURN: f64 = 500.0;

/// What she is in or on.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Medium {
    Quay,
    Water,
    Punt,
}

/// How she goes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum State {
    Idle,
    Walk,
    Dash,
}

impl Medium {
    pub(crate) fn name(self) -> &'static str {
        match self {
            Medium::Quay => "quay",
            Medium::Water => "water",
            Medium::Punt => "punt",
        }
    }
}

impl State {
    pub(crate) fn name(self) -> &'static str {
        match self {
            State::Idle => "idle",
            State::Walk => "walk",
            State::Dash => "dash",
        }
    }
}

/// Something that she shows for a while.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Gesture {
    Bow,
    Salute,
    Whistle,
    Use,
    Bag,
}

#[derive(Clone, Debug)]
pub(crate) struct Otter {
    pub(crate) place: Place,
    pub(crate) rise: f32,
    pub(crate) on_ground: bool,
    pub(crate) medium: Medium,
    pub(crate) state: State,
    pub(crate) faces_left: bool,
    /// The body's own angle: 0 right, 180 left; it follows where she faces.
    pub(crate) heading: f64,
    /// Seconds left of a slip; gone from sight.
    pub(crate) slip: f32,
    pub(crate) vanished: bool,
    /// Seconds left of being pushed.
    pub(crate) pushed: f32,
    pub(crate) gesture: Option<(Gesture, f32)>,
    pub(crate) guards: bool,
    pub(crate) lamp: bool,
    pub(crate) trip: Trip,
    /// Which of three sorts of parcel is in hand.
    pub(crate) parcel: usize,
    /// How far she has walked, for her feet.
    pub(crate) gone: f32,
    pub(crate) depth: f32,
    /// How far the view is turned aside, in metres.
    pub(crate) pan: f32,
}

impl Otter {
    pub(crate) fn new((x, z): (f32, f32)) -> Otter {
        Otter {
            place: Place::new(x, 0.0, z),
            rise: 0.0,
            on_ground: true,
            medium: Medium::Quay,
            state: State::Idle,
            faces_left: false,
            heading: 0.0,
            slip: 0.0,
            vanished: false,
            pushed: 0.0,
            gesture: None,
            guards: false,
            lamp: false,
            trip: Trip::at_speed(WALK),
            parcel: 0,
            gone: 0.0,
            depth: 0.0,
            pan: 0.0,
        }
    }

    /// Whether she isn't free to begin something.
    pub(crate) fn is_busy(&self) -> bool {
        self.slip > 0.0 || self.pushed > 0.0
    }

    /// Which way she faces, as a word.
    pub(crate) fn facing(&self) -> &'static str {
        if self.faces_left { "left" } else { "right" }
    }

    fn show(&mut self, asked: bool, gesture: Gesture, span: f32) {
        if asked {
            self.gesture = Some((gesture, span));
        }
    }

    /// Where she wants to go, in metres a second along x and z.
    fn pace(&mut self, wishes: &Wishes, span: f32) -> Vec2 {
        if self.slip > 0.0 {
            return Vec2::new(if self.faces_left { -SLIP } else { SLIP }, 0.0);
        }
        if self.pushed > 0.0 {
            return Vec2::ZERO;
        }
        let walk = Vec2::new(wishes.walk.0, -wishes.walk.1);
        if walk != Vec2::ZERO {
            self.trip.give_up();
            let speed = match self.medium {
                Medium::Water => SWIM,
                _ if wishes.runs => RUN,
                _ => WALK,
            };
            return walk * speed;
        }
        let here = self.place.now * Vec3::new(1.0, 0.0, 1.0);
        let next = self.trip.step(here, std::time::Duration::from_secs(1) / STEPS_A_SECOND);
        let way = next - here;
        if way.x.abs() > 1e-4 {
            self.faces_left = way.x < 0.0;
        }
        Vec2::new(way.x, way.z) / span
    }

    pub(crate) fn step(&mut self, wishes: &Wishes, span: f32, ripples: &mut Vec<Ripple>) {
        self.place.was = self.place.now;
        self.gestures(wishes, span);
        if let Some(target) = wishes.target.filter(|_| self.medium == Medium::Quay) {
            self.trip.aim(target);
        }
        if self.medium == Medium::Punt {
            self.face(wishes);
            self.state = State::Idle;
            return;
        }
        if wishes.slips {
            self.slip = 11.0 / 60.0;
        }
        self.vanished = self.slip > 0.0 && (self.vanished || wishes.vanishes);
        if wishes.turns {
            (self.slip, self.vanished) = (0.0, false);
            self.faces_left = !self.faces_left;
        }
        self.face(wishes);
        let pace = self.pace(wishes, span);
        let mut to = self.place.now + Vec3::new(pace.x, 0.0, pace.y) * span;
        to.x = to.x.clamp(0.4, town::LENGTH - 0.4);
        to.z = to.z.clamp(town::BACK + 0.3, town::OUT);
        self.gone += (to - self.place.now).length();
        self.state = match pace == Vec2::ZERO {
            true => State::Idle,
            false if wishes.runs && self.medium == Medium::Quay => State::Dash,
            false => State::Walk,
        };
        self.fall(to, wishes, span, ripples);
        self.slip = (self.slip - span).max(0.0);
        self.pushed = (self.pushed - span).max(0.0);
    }

    fn gestures(&mut self, wishes: &Wishes, span: f32) {
        self.gesture = self.gesture.map(|(gesture, left)| (gesture, left - span)).filter(|(_, left)| *left > 0.0);
        self.show(wishes.bows, Gesture::Bow, 0.7);
        self.show(wishes.salutes, Gesture::Salute, 1.2);
        self.show(wishes.whistles, Gesture::Whistle, 0.8);
        self.show(wishes.uses, Gesture::Use, 0.4);
        self.show(wishes.opens_bag, Gesture::Bag, 1.4);
        self.guards = wishes.guards;
        self.lamp = wishes.lamp;
        self.parcel = (self.parcel as i32 + wishes.parcel).rem_euclid(3) as usize;
        self.pan = (self.pan + wishes.pan * 0.05).clamp(-6.0, 6.0);
    }

    /// Which way she faces, and how far her body has come with it.
    fn face(&mut self, wishes: &Wishes) {
        if let Some(side) = wishes.looks.filter(|side| *side != 0.0 && self.slip == 0.0) {
            self.faces_left = side < 0.0;
        }
        if let Some(aim) = wishes.about {
            self.faces_left = hands::about(self.faces_left, aim);
        }
        let target = if self.faces_left { 180.0 } else { 0.0 };
        self.heading = turn_towards(self.heading, target, TURN, std::time::Duration::from_secs(1) / STEPS_A_SECOND);
    }

    /// Up, down, into the water and out of it.
    fn fall(&mut self, mut to: Vec3, wishes: &Wishes, span: f32, ripples: &mut Vec<Ripple>) {
        if self.medium == Medium::Water {
            self.depth = (self.depth + (wishes.dives * -0.9 - self.depth) * (6.0 * span).min(1.0)).clamp(0.0, 1.0);
            to.y = town::SURFACE - 0.7 * self.depth;
            if town::is_quay(to.x, to.z) {
                // She climbs out.
                (to.y, self.rise, self.on_ground, self.medium, self.depth) = (0.0, 0.0, true, Medium::Quay, 0.0);
            }
            self.place.now = to;
            return;
        }
        if let Some(stage) = wishes.hop {
            self.rise = HOPS[usize::from(stage.clamp(1, 3)) - 1];
            self.on_ground = false;
        }
        let floor = town::floor(to.x, to.z);
        // A wall of stone: whoever is below the quay's edge can't walk into it.
        if to.y < floor - 0.01 {
            (to.x, to.z) = (self.place.now.x, self.place.now.z);
        }
        let floor = town::floor(to.x, to.z);
        self.rise -= GRAVITY * span;
        to.y += self.rise * span;
        if to.y <= floor && self.rise <= 0.0 {
            (to.y, self.rise, self.on_ground) = (floor, 0.0, true);
            if floor < 0.0 {
                (self.medium, self.on_ground) = (Medium::Water, false);
                self.trip.give_up();
                ripples.push(Ripple { at: to, age: 0.0 });
            }
        } else if self.on_ground && to.y > floor + 0.02 || self.rise > 0.0 {
            self.on_ground = false;
        }
        self.place.now = to;
    }

    /// Sits where the punt is.
    pub(crate) fn ride(&mut self, punt: &Punt) {
        self.place.now = punt.place.now + Vec3::new(0.0, 0.25, -0.05);
        (self.on_ground, self.rise) = (true, 0.0);
        self.trip.give_up();
    }

    /// Steps off: onto the quay if it is near, else into the water.
    pub(crate) fn leave_punt(&mut self, from: Vec3) {
        let quay = town::is_quay(from.x, town::EDGE) && from.z < 2.0;
        let (at, medium) = if quay {
            (Vec3::new(from.x, 0.0, town::EDGE - 0.4), Medium::Quay)
        } else {
            (Vec3::new(from.x, town::SURFACE, from.z + 0.9), Medium::Water)
        };
        (self.place.now, self.medium, self.on_ground) = (at, medium, quay);
    }
}
