//! The camera: from the world to the window and back. It looks down a little, from far away, so that lines stay parallel.

use glam::{Mat4, Vec2, Vec3, Vec4};
use tidy_lever::pointing::{Plane, Ray};

use crate::town;

/// How steeply it looks down.
const TILT: f32 = 0.58;
/// How many metres of height the window shows.
const HIGH: f32 = 12.4;
/// Where the middle of the window lies, up and towards the viewer.
const MIDDLE: (f32, f32) = (2.7, 0.0);

/// So many metres around an otter are to be seen.
const ROUND_AN_OTTER: f32 = 1.5;

/// What a picture looks at.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Looks {
    /// One view of all.
    Together(Camera),
    /// A half for each otter, from left to right.
    Apart([Half; 2]),
}

/// One half of a picture.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Half {
    pub(crate) camera: Camera,
    /// How many pixels from the left it begins.
    pub(crate) left: f32,
}

impl Looks {
    /// The place on the quay under a place in the view, −1 to 1, right and up; `None` where there is none.
    pub(crate) fn quay_under(&self, (x, y): (f32, f32)) -> Option<Vec3> {
        match self {
            Looks::Together(camera) => camera.quay_under((x, y)),
            Looks::Apart([one, other]) => {
                let across = (x + 1.0) / 2.0 * (other.left + other.camera.size.0);
                let half = if across < other.left { one } else { other };
                half.camera.quay_under(((across - half.left) / half.camera.size.0 * 2.0 - 1.0, y))
            }
        }
    }
}

#[derive(Clone, Copy, Debug)]
pub(crate) struct Camera {
    /// What it looks at, along the quay.
    pub(crate) x: f32,
    /// The window's size in pixels.
    pub(crate) size: (f32, f32),
    /// How many of them at the right something lies over: the middle is that of the rest.
    pub(crate) covered: f32,
}

impl Camera {
    /// Pixels a metre.
    pub(crate) fn scale(&self) -> f32 {
        self.size.1 / HIGH
    }

    /// Half of the metres that it shows side by side.
    pub(crate) fn half(&self) -> f32 {
        self.size.0 / self.scale() / 2.0
    }

    /// Whether two places that lie this far apart are too far for one picture: a little farther than they may be once they are.
    pub(crate) fn is_too_narrow(&self, apart: f32, is_apart: bool) -> bool {
        let shown = self.half() * 2.0 - self.covered / self.scale();
        apart > shown - if is_apart { 2.0 * ROUND_AN_OTTER + 2.0 } else { 2.0 * ROUND_AN_OTTER }
    }

    /// The two halves of a picture of this size, each looking at its own place from left to right.
    pub(crate) fn halves(&self, mut places: [f32; 2]) -> [Half; 2] {
        places.sort_by(f32::total_cmp);
        let (free, wide) = (self.size.0 - self.covered, self.size.0);
        let middle = (free / 2.0).round();
        let half = |left: f32, wide: f32, covered: f32, x: f32| {
            let mut camera = Camera { x, size: (wide, self.size.1), covered };
            camera.look(camera.aim(x));
            Half { camera, left }
        };
        [half(0.0, middle, 0.0, places[0]), half(middle, wide - middle, self.covered, places[1])]
    }

    /// Looks at a place as far as the town reaches.
    pub(crate) fn look(&mut self, x: f32) {
        let half = self.half().min(town::LENGTH / 2.0 + 1.0);
        let covered = self.covered / self.scale();
        self.x = x.clamp(half - 1.0, town::LENGTH + 1.0 - half + covered);
    }

    /// What it would look at for a place to be in the middle of what nothing lies over.
    pub(crate) fn aim(&self, x: f32) -> f32 {
        x + self.covered / self.scale() / 2.0
    }

    /// From the world to −1 to 1 each way, up positive.
    fn matrix(&self) -> Mat4 {
        let (sin, cos) = TILT.sin_cos();
        let (wide, high) = (self.scale() * 2.0 / self.size.0, self.scale() * 2.0 / self.size.1);
        let far = 0.01;
        let rows = [
            Vec4::new(wide, 0.0, 0.0, -self.x * wide),
            Vec4::new(0.0, cos * high, -sin * high, (sin * MIDDLE.1 - cos * MIDDLE.0) * high),
            Vec4::new(0.0, -sin * far, -cos * far, 0.5),
            Vec4::W,
        ];
        Mat4::from_cols(rows[0], rows[1], rows[2], rows[3]).transpose()
    }

    /// Where a place in the world lies in the window, in pixels from the top left.
    pub(crate) fn pixels(&self, place: Vec3) -> Vec2 {
        let seen = self.matrix().project_point3(place);
        Vec2::new((seen.x + 1.0) * 0.5 * self.size.0, (1.0 - seen.y) * 0.5 * self.size.1)
    }

    /// The place on the quay under a place in the view, −1 to 1, right and up; `None` where there is none.
    pub(crate) fn quay_under(&self, (x, y): (f32, f32)) -> Option<Vec3> {
        let ray = Ray::through_view(self.matrix().inverse(), Vec2::new(x, y))?;
        ray.hits(Plane::ground(0.0)).filter(|place| town::is_quay(place.x, place.z))
    }
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

    use super::*;

    #[test]
    fn two_otters_that_are_apart_are_both_in_the_picture_and_can_be_pointed_beside() {
        for (size, covered) in
            [((1280.0, 800.0), 0.0), ((1280.0, 800.0), 384.0), ((800.0, 600.0), 0.0), ((390.0, 700.0), 0.0)]
        {
            let camera = Camera { x: 0.0, size, covered };
            for (one, other) in [(0.5, 39.5), (2.0, 25.0), (38.0, 5.0), (10.0, 24.0)] {
                assert!(camera.is_too_narrow(40.0, false) && !camera.is_too_narrow(1.0, true), "{size:?}");
                let halves = camera.halves([one, other]);
                for (half, x) in halves.into_iter().zip([f32::min(one, other), f32::max(one, other)]) {
                    let seen = half.camera.pixels(Vec3::new(x, 0.0, -2.0)).x;
                    let free = half.camera.size.0 - half.camera.covered;
                    assert!((0.0..free).contains(&seen), "{x} lies at {seen} of {free}, {size:?}, {covered}");
                    let place = Vec3::new(x, 0.0, -2.0);
                    let pixels = half.camera.pixels(place);
                    let view = ((half.left + pixels.x) / size.0 * 2.0 - 1.0, 1.0 - pixels.y / size.1 * 2.0);
                    let under = Looks::Apart(halves).quay_under(view);
                    assert!(!town::is_quay(x, -2.0) || (under.unwrap() - place).length() < 1e-3, "{under:?} for {x}");
                }
            }
        }
    }

    #[test]
    fn what_lies_under_a_pixel_is_drawn_there() {
        let mut camera = Camera { x: 0.0, size: (1280.0, 800.0), covered: 0.0 };
        camera.look(12.0);
        for (x, z) in [(4.0, -0.2), (12.0, -3.9), (17.0, -2.0)] {
            let pixels = camera.pixels(Vec3::new(x, 0.0, z));
            let place = (pixels.x / 640.0 - 1.0, 1.0 - pixels.y / 400.0);
            let under = camera.quay_under(place).unwrap();
            assert!((under - Vec3::new(x, 0.0, z)).length() < 1e-3, "{under} for {x} {z}");
        }
        // The sky, and the water.
        assert_eq!(camera.quay_under((0.0, 0.95)), None);
        assert_eq!(camera.quay_under((0.0, -0.95)), None);
    }
}
