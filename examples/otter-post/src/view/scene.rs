//! The town with everybody in it.

use glam::{Vec2, Vec3};
use tidy_lever::Moment;

use super::{figures, palette as p};
use crate::camera::Camera;
use crate::game::Game;
use crate::town;
use crate::world::{Medium, Otter};
use tidy_lever_view::canvas::{Canvas, Side};

/// Whoever is drawn, from back to front.
enum Figure {
    Otter(usize),
    Heron,
    Parcel(usize),
    Punt { near: bool },
}

pub(crate) fn draw(canvas: &mut Canvas<'_>, game: &Game, camera: Camera, now: Moment, share: f32) {
    let world = &game.world;
    let scale = camera.scale();
    let time = now.as_secs_f64() as f32;
    glints(canvas, camera, time);
    for ripple in &world.ripples {
        let at = camera.pixels(ripple.at);
        let wide = (0.2 + ripple.age * 0.9) * scale;
        let colour = p::faded(p::RING, (1.0 - ripple.age / 1.6) * 0.8);
        canvas.egg_edge(at, Vec2::new(wide, wide * 0.45), 2.0, colour);
    }
    if world.door_open > 0.0 {
        let foot = camera.pixels(Vec3::new(town::DOOR, 0.0, town::BACK));
        canvas.rect(foot.x - scale * 0.41, foot.y - scale * 1.45, scale * 0.82, scale * 1.45, p::LAMPLIGHT);
    }
    let mut figures: Vec<(f32, Figure)> = Vec::new();
    figures.extend(world.otters.iter().enumerate().map(|(n, otter)| (otter.place.now.z, Figure::Otter(n))));
    figures.extend(world.parcels.iter().enumerate().map(|(n, parcel)| (parcel.place.now.z, Figure::Parcel(n))));
    figures.push((world.heron.place.now.z, Figure::Heron));
    figures.push((world.punt.place.now.z - 0.06, Figure::Punt { near: false }));
    figures.push((world.punt.place.now.z + 0.06, Figure::Punt { near: true }));
    figures.sort_by(|(one, _), (other, _)| one.total_cmp(other));
    for (_, figure) in figures {
        match figure {
            Figure::Otter(n) => {
                let otter = &world.otters[n];
                let at = otter.place.between(share);
                course(canvas, camera, otter, at);
                shadow(canvas, camera, at, 0.36);
                figures::otter(canvas, camera.pixels(at), scale, otter, n);
            }
            Figure::Heron => {
                let at = world.heron.place.between(share);
                shadow(canvas, camera, at, 0.4);
                figures::heron(canvas, camera.pixels(at), scale, &world.heron);
            }
            Figure::Parcel(n) => {
                let at = world.parcels[n].place.between(share);
                shadow(canvas, camera, at, 0.18);
                figures::parcel(canvas, camera.pixels(at), scale, &world.parcels[n]);
            }
            Figure::Punt { near } => {
                let bob = (time * 1.1).sin() * 0.02;
                let at = world.punt.place.between(share) + Vec3::new(0.0, bob, 0.0);
                figures::punt(canvas, camera.pixels(at), scale, &world.punt, near);
            }
        }
    }
}

/// What was delivered so far.
pub(crate) fn draw_score(canvas: &mut Canvas<'_>, game: &Game) {
    let text = format!("delivered {}", game.world.delivered);
    canvas.text((24.0, 38.0), 20.0, Side::Left, p::INK, &text);
}

/// Slow lines of light on the water.
fn glints(canvas: &mut Canvas<'_>, camera: Camera, time: f32) {
    let scale = camera.scale();
    for row in 0..9 {
        let z = 0.35 + row as f32 * 0.55;
        for column in 0..14 {
            let seed = (row * 37 + column * 53) as f32;
            let x = (seed * 1.37 + time * 0.16) % (town::LENGTH + 8.0) - 4.0;
            let pulse = (time * 0.7 + seed).sin();
            let at = camera.pixels(Vec3::new(x, town::SURFACE, z));
            if pulse > 0.0 && (-60.0..camera.size.0 + 60.0).contains(&at.x) && at.y < camera.size.1 {
                let half = scale * (0.2 + 0.35 * pulse);
                canvas.line(&[at - Vec2::new(half, 0.0), at + Vec2::new(half, 0.0)], 2.0, p::faded(p::GLINT, pulse));
            }
        }
    }
}

fn shadow(canvas: &mut Canvas<'_>, camera: Camera, at: Vec3, wide: f32) {
    let floor = town::floor(at.x, at.z);
    if at.y >= floor && floor == 0.0 {
        let foot = camera.pixels(Vec3::new(at.x, floor, at.z));
        let small = 1.0 / (1.0 + (at.y - floor) * 0.5);
        let half = Vec2::new(wide, wide * 0.4) * camera.scale() * small;
        canvas.egg(foot, half, p::SHADOW);
    }
}

/// Where she is headed: dots to the place that was pointed at.
fn course(canvas: &mut Canvas<'_>, camera: Camera, otter: &Otter, from: Vec3) {
    let Some(to) = otter.trip.target().filter(|_| otter.medium == Medium::Quay) else { return };
    let (a, b) = (camera.pixels(from * Vec3::new(1.0, 0.0, 1.0)), camera.pixels(to));
    let count = ((b - a).length() / 14.0) as i32;
    for n in 1..count {
        canvas.disc(a.lerp(b, n as f32 / count as f32), 2.5, p::faded(p::INK, 0.7));
    }
    canvas.egg_edge(b, Vec2::new(0.34, 0.16) * camera.scale(), 2.0, p::INK);
}
