//! Promise: a place on the screen is a place on the ground with real cameras, and trips arrive.

use std::time::Duration;

use glam::camera::{lh, rh};
use glam::{Affine2, Mat4, Vec2, Vec3};
use tidy_lever::following::{follow, follow_degrees, short_way, turn_towards};
use tidy_lever::pointing::{Plane, Ray, Trip, in_flat_world};

#[test]
fn a_place_on_the_ground_is_found_again_through_every_sort_of_camera() {
    let (eye, look) = (Vec3::new(3.0, 7.0, 11.0), Vec3::new(1.0, 0.0, -2.0));
    let right = rh::view::look_at_mat4(eye, look, Vec3::Y);
    let left = lh::view::look_at_mat4(eye, look, Vec3::Y);
    let (fov, wide) = (0.9, 16.0 / 9.0);
    let cameras = [
        rh::proj::directx::perspective(fov, wide, 0.1, 200.0) * right,
        rh::proj::directx::perspective_infinite(fov, wide, 0.1) * right,
        rh::proj::directx::perspective_infinite_reverse(fov, wide, 0.1) * right,
        rh::proj::opengl::perspective(fov, wide, 0.1, 200.0) * right,
        lh::proj::directx::perspective(fov, wide, 0.1, 200.0) * left,
        lh::proj::opengl::perspective(fov, wide, 0.1, 200.0) * left,
        rh::proj::directx::orthographic(-8.0, 8.0, -5.0, 5.0, 0.1, 200.0) * right,
    ];
    for (n, camera) in cameras.into_iter().enumerate() {
        for place in [Vec3::ZERO, Vec3::new(2.0, 0.0, -3.0), Vec3::new(-1.5, 0.0, 1.0)] {
            let seen = camera.project_point3(place);
            let ray = Ray::through_view(camera.inverse(), Vec2::new(seen.x, seen.y)).unwrap();
            let found = ray.hits(Plane::ground(0.0)).unwrap();
            assert!(found.distance(place) < 2e-2, "camera {n}: {found} is not {place}");
        }
        // Up at the sky there is no ground.
        assert_eq!(
            Ray::through_view(camera.inverse(), Vec2::new(0.0, 40.0)).unwrap().hits(Plane::ground(-1e6)).is_some(),
            n == 6
        );
    }
}

#[test]
fn alongside_behind_and_broken_cameras_find_nothing() {
    let ray = |along: Vec3| Ray { from: Vec3::new(0.0, 2.0, 0.0), along };
    assert_eq!(ray(Vec3::X).hits(Plane::ground(0.0)), None, "alongside");
    assert_eq!(ray(Vec3::Y).hits(Plane::ground(0.0)), None, "behind");
    assert_eq!(ray(-Vec3::Y).hits(Plane::ground(0.0)), Some(Vec3::ZERO));
    assert_eq!(Ray::through_view(Mat4::ZERO, Vec2::ZERO), None);
    assert_eq!(Ray::through_view(Mat4::NAN, Vec2::ZERO), None);
    assert_eq!(Plane::through(Vec3::ONE, Vec3::ZERO), None);
    let flat = Affine2::from_scale_angle_translation(Vec2::new(0.1, 0.2), 0.3, Vec2::new(-0.2, 0.4));
    let place = Vec2::new(3.0, -2.0);
    assert!(in_flat_world(flat.inverse(), flat.transform_point2(place)).unwrap().distance(place) < 1e-4);
    assert_eq!(in_flat_world(Affine2::from_scale(Vec2::ZERO).inverse(), Vec2::ONE), None);
}

#[test]
fn a_trip_arrives_exactly_without_overshoot_and_may_change_its_mind() {
    for steps in [1u32, 7, 60, 1_000] {
        let mut trip = Trip::at_speed(4.0);
        trip.aim(Vec3::new(3.0, 0.0, 4.0));
        let (mut here, mut before) = (Vec3::ZERO, f32::MAX);
        for _ in 0..2 * steps {
            here = trip.step(here, Duration::from_secs_f64(1.3 / f64::from(steps)));
            let gap = here.distance(Vec3::new(3.0, 0.0, 4.0));
            assert!(gap <= before);
            before = gap;
        }
        assert_eq!((here, trip.has_arrived()), (Vec3::new(3.0, 0.0, 4.0), true));
        trip.aim(Vec3::new(f32::NAN, 0.0, 0.0));
        assert!(trip.has_arrived(), "what is not a place changes nothing");
        trip.aim(Vec3::ZERO);
        trip.step(here, Duration::from_millis(10));
        trip.aim(Vec3::X);
        assert_eq!(trip.target(), Some(Vec3::X));
        trip.give_up();
        assert_eq!(trip.step(here, Duration::from_secs(9)), here);
    }
}

#[test]
fn following_and_turning_are_the_same_at_any_tick_rate() {
    let span = Duration::from_millis(640);
    for steps in [2u32, 32, 640] {
        let part = span / steps;
        let (mut value, mut angle, mut turned) = (0.0, 350.0, 350.0);
        for _ in 0..steps {
            value = follow(value, 8.0, 3.0, part);
            angle = follow_degrees(angle, 40.0, 3.0, part);
            turned = turn_towards(turned, 120.0, 100.0, part);
        }
        assert!((value - follow(0.0, 8.0, 3.0, span)).abs() < 1e-9);
        assert!(short_way(angle, follow_degrees(350.0, 40.0, 3.0, span)).abs() < 1e-9);
        assert!(short_way(turned, 54.0).abs() < 1e-9, "{turned}");
    }
    assert_eq!(follow(1.0, 2.0, 0.0, span), 1.0);
    assert_eq!(turn_towards(90.0, 100.0, 500.0, span), 100.0);
}
