//! Pointing: from a place on the screen to a place in the world, and the trip there. Free of any engine, on `glam`.
//!
//! ```text
//!   pointer ─in_view─▶ ray ─hits─▶ ground ─▶ trip ─step─▶ body
//! ```

use core::time::Duration;

pub use glam;
use glam::{Affine2, Mat4, Vec2, Vec3, Vec4};

/// A half-line from a point, in one direction of length 1.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Ray {
    /// Where it begins.
    pub from: Vec3,
    /// Where it goes; length 1.
    pub along: Vec3,
}

/// A plane: all points whose product with `normal` is `height`.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Plane {
    /// At a right angle to the plane; length 1.
    pub normal: Vec3,
    /// Its distance from the origin along the normal.
    pub height: f32,
}

/// Below this product of two directions of length 1 a ray counts as parallel: 0.006 degrees.
const PARALLEL: f32 = 1e-4;

impl Plane {
    /// The ground at a height, with +y up.
    pub fn ground(height: f32) -> Plane {
        Plane { normal: Vec3::Y, height }
    }

    /// The plane through a point at a right angle to `normal`; `None` if that has no direction.
    pub fn through(point: Vec3, normal: Vec3) -> Option<Plane> {
        let normal = normal.try_normalize()?;
        Some(Plane { normal, height: normal.dot(point) })
    }
}

impl Ray {
    /// The ray from a camera through a place in its view (−1 to 1, right and up positive, as
    /// [`PointerReading::in_view`](crate::reading::PointerReading::in_view) gives it).
    ///
    /// Takes the inverse of projection × view. Depths of 0 to 1 or of −1 to 1, reversed or infinite will all do: a
    /// perspective ray begins at the eye, where all rays meet. `None` for a matrix that is not a camera's.
    ///
    /// ```
    /// use glam::camera::rh::{proj::directx::perspective, view::look_at_mat4};
    /// use glam::{Vec2, Vec3};
    /// use tidy_lever::pointing::{Plane, Ray};
    ///
    /// let view = look_at_mat4(Vec3::new(0.0, 8.0, 12.0), Vec3::ZERO, Vec3::Y);
    /// let projection = perspective(0.9, 16.0 / 9.0, 0.1, 100.0);
    /// let ray = Ray::through_view((projection * view).inverse(), Vec2::ZERO).unwrap();
    /// let place = ray.hits(Plane::ground(0.0)).unwrap();
    /// assert!(place.distance(Vec3::ZERO) < 1e-3, "the middle of the view shows what the camera looks at");
    /// ```
    pub fn through_view(inverse: Mat4, place: Vec2) -> Option<Ray> {
        let seen = inverse * Vec4::new(place.x, place.y, 0.5, 1.0);
        let eye = inverse * Vec4::Z;
        let solid = |point: Vec4| (point.w.abs() > f32::EPSILON).then(|| point.truncate() / point.w);
        // Without a perspective there is no eye at a finite place: all rays run along the depth axis.
        let perspective = eye.w.abs() > 1e-6 * eye.truncate().length().max(f32::MIN_POSITIVE);
        let ray = if perspective {
            let from = solid(eye)?;
            Ray { from, along: (solid(seen)? - from).try_normalize()? }
        } else {
            let from = solid(inverse * Vec4::new(place.x, place.y, 0.0, 1.0))?;
            Ray { from, along: eye.truncate().try_normalize()? }
        };
        (ray.from.is_finite() && ray.along.is_finite()).then_some(ray)
    }

    /// Where it meets a plane; `None` if it runs alongside, or the plane lies behind.
    pub fn hits(&self, plane: Plane) -> Option<Vec3> {
        let towards = plane.normal.dot(self.along);
        let gap = plane.height - plane.normal.dot(self.from);
        let far = gap / towards;
        let place = self.from + self.along * far;
        (towards.abs() > PARALLEL && far >= 0.0 && place.is_finite()).then_some(place)
    }
}

/// Where a place in the view lies in a flat world, given the inverse of the world's way onto the view (−1 to 1).
/// `None` for a way that can't be taken back.
pub fn in_flat_world(inverse: Affine2, place: Vec2) -> Option<Vec2> {
    let found = inverse.transform_point2(place);
    found.is_finite().then_some(found)
}

/// A trip to a target at a speed. It arrives without overshoot, and may be given a new target at any time.
///
/// ```
/// use glam::Vec3;
/// use std::time::Duration;
/// use tidy_lever::pointing::Trip;
///
/// let mut trip = Trip::at_speed(4.0);
/// trip.aim(Vec3::new(3.0, 0.0, 0.0));
/// let mut pim = Vec3::ZERO;
/// pim = trip.step(pim, Duration::from_millis(500));
/// assert_eq!((pim.x, trip.has_arrived()), (2.0, false));
/// pim = trip.step(pim, Duration::from_millis(500));
/// assert_eq!((pim.x, trip.has_arrived()), (3.0, true));
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Trip {
    target: Option<Vec3>,
    speed: f32,
}

impl Trip {
    /// A trip without a target, at this speed per second. A speed that is not a number, or below 0, goes nowhere.
    pub fn at_speed(speed: f32) -> Trip {
        Trip { target: None, speed: if speed > 0.0 { speed } else { 0.0 } }
    }

    /// Sets out for a target, or changes it on the way. What is not a place changes nothing.
    pub fn aim(&mut self, target: Vec3) {
        if target.is_finite() {
            self.target = Some(target);
        }
    }

    /// Gives the trip up: it goes no farther.
    pub fn give_up(&mut self) {
        self.target = None;
    }

    /// Where it goes; `None` once it has arrived or was given up.
    pub fn target(&self) -> Option<Vec3> {
        self.target
    }

    /// Whether it has nowhere left to go.
    pub fn has_arrived(&self) -> bool {
        self.target.is_none()
    }

    /// The place after going on from `here` for `span`: on the line to the target, exactly on it at the end.
    pub fn step(&mut self, here: Vec3, span: Duration) -> Vec3 {
        let Some(target) = self.target else { return here };
        let way = target - here;
        let reach = self.speed * span.as_secs_f32();
        if way.length() <= reach {
            self.target = None;
            return target;
        }
        here + way * (reach / way.length())
    }
}
