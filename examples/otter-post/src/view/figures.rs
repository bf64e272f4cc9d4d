//! Whoever moves: otters, the heron, the punt, parcels.

use glam::Vec2;

use super::palette as p;
use crate::world::{Gesture, Heron, Kind, Medium, Otter, Parcel, Punt, State};
use tidy_lever_view::canvas::Canvas;

/// Draws in metres from a foot: x forward, y up.
struct Pen<'c, 'p> {
    canvas: &'c mut Canvas<'p>,
    foot: Vec2,
    scale: f32,
    /// 1 faces right, −1 left, in between it turns.
    side: f32,
    fade: f32,
}

impl Pen<'_, '_> {
    fn at(&self, x: f32, y: f32) -> Vec2 {
        self.foot + Vec2::new(x * self.side, -y) * self.scale
    }

    fn egg(&mut self, (x, y): (f32, f32), (wide, high): (f32, f32), colour: p::Colour) {
        let squeeze = 0.45 + 0.55 * self.side.abs();
        let (middle, half) = (self.at(x, y), Vec2::new(wide * squeeze, high) * self.scale);
        self.canvas.egg(middle, half, p::faded(colour, self.fade));
    }

    fn line(&mut self, points: &[(f32, f32)], wide: f32, colour: p::Colour) {
        let points: Vec<Vec2> = points.iter().map(|(x, y)| self.at(*x, *y)).collect();
        self.canvas.line(&points, wide * self.scale, p::faded(colour, self.fade));
    }

    fn shape(&mut self, points: &[(f32, f32)], colour: p::Colour) {
        let points: Vec<Vec2> = points.iter().map(|(x, y)| self.at(*x, *y)).collect();
        self.canvas.shape(&points, p::faded(colour, self.fade));
    }
}

/// An otter; `number` chooses her colours.
pub(crate) fn otter(canvas: &mut Canvas<'_>, foot: Vec2, scale: f32, otter: &Otter, number: usize) {
    let coat = number % 2;
    let (fur, belly, bag) = (p::FUR[coat], p::BELLY[coat], p::SATCHEL[coat]);
    let side = otter.heading.to_radians().cos() as f32;
    let fade = if otter.vanished { 0.28 } else { 1.0 };
    let mut pen = Pen { canvas, foot, scale, side, fade };
    if otter.medium == Medium::Water {
        return swimmer(&mut pen, otter, fur, belly);
    }
    let going = otter.state != State::Idle && otter.on_ground && otter.medium == Medium::Quay;
    let stride = if going { (otter.gone * 5.2).sin() } else { 0.0 };
    let bob = if going { (otter.gone * 5.2).cos().abs() * 0.04 } else { 0.0 };
    // She leans into a run, and stretches in the air.
    let lean = match otter.state {
        State::Dash => 0.16,
        _ if otter.slip > 0.0 => 0.3,
        _ => 0.0,
    };
    let bow = matches!(otter.gesture, Some((Gesture::Bow, _)));
    let lean = if bow { 0.34 } else { lean };
    let tall = (otter.rise * 0.012).clamp(-0.06, 0.1) - if bow { 0.12 } else { 0.0 };
    let hip = 0.34 + bob;
    pen.line(&[(-0.1, hip), (-0.42, 0.24 + stride * 0.05), (-0.7, 0.12 - stride * 0.04)], 0.13, fur);
    if otter.medium != Medium::Punt {
        pen.line(&[(-0.08, hip), (-0.08 - stride * 0.2, 0.05)], 0.15, fur);
        pen.line(&[(0.08, hip), (0.1 + stride * 0.2, 0.05)], 0.15, fur);
        pen.egg((-0.04 - stride * 0.2, 0.04), (0.14, 0.055), p::NOSE);
        pen.egg((0.15 + stride * 0.2, 0.04), (0.14, 0.055), p::NOSE);
    }
    pen.egg((lean * 0.4, 0.62 + bob + tall), (0.26, 0.38 + tall), fur);
    pen.egg((0.07 + lean * 0.45, 0.6 + bob + tall), (0.17, 0.3 + tall), belly);
    // The strap, the satchel, and what is in hand.
    pen.line(&[(-0.16 + lean, 0.9 + bob), (0.2 + lean * 0.3, 0.46 + bob)], 0.045, bag);
    let bag_open = matches!(otter.gesture, Some((Gesture::Bag, _)));
    pen.shape(&[(-0.3, 0.62), (0.02, 0.62), (0.0, 0.34), (-0.28, 0.34)].map(|(x, y)| (x, y + bob)), bag);
    if bag_open {
        pen.shape(
            &[(-0.24, 0.6), (-0.06, 0.6), (-0.1, 0.86), (-0.22, 0.84)].map(|(x, y)| (x, y + bob)),
            p::PARCELS[otter.parcel],
        );
    }
    let head = (0.06 + lean, 1.08 + bob + tall * 2.0 - if bow { 0.1 } else { 0.0 });
    pen.egg((head.0 - 0.15, head.1 + 0.16), (0.06, 0.06), fur);
    pen.egg(head, (0.24, 0.21), fur);
    pen.egg((head.0 + 0.15, head.1 - 0.06), (0.13, 0.1), belly);
    pen.egg((head.0 + 0.25, head.1 - 0.01), (0.045, 0.035), p::NOSE);
    pen.egg((head.0 + 0.1, head.1 + 0.06), (0.03, 0.035), p::NOSE);
    arms(&mut pen, otter, (lean, bob, stride), fur);
}

fn arms(pen: &mut Pen<'_, '_>, otter: &Otter, (lean, bob, stride): (f32, f32, f32), fur: p::Colour) {
    let shoulder = (0.04 + lean, 0.82 + bob);
    let hand = match otter.gesture {
        Some((Gesture::Salute, _)) => (0.22 + lean, 1.24),
        Some((Gesture::Whistle, _)) => (0.3 + lean, 1.04),
        Some((Gesture::Use, _)) => (0.46, 0.5),
        _ if otter.guards => (0.4 + lean, 0.86),
        _ if otter.medium == Medium::Punt => (0.36, 0.6),
        _ => (0.24 + lean + stride * 0.12, 0.52 + bob),
    };
    pen.line(&[shoulder, hand], 0.11, fur);
    match otter.gesture {
        Some((Gesture::Whistle, left)) => {
            for n in 0..3 {
                let reach = 0.16 + 0.14 * n as f32 + (0.8 - left) * 0.3;
                let middle = pen.at(hand.0 + 0.2, hand.1 + 0.1);
                let ring = p::faded(p::FRAME, 0.7 - 0.2 * n as f32);
                pen.canvas.ring(middle, reach * pen.scale, 1.5, ring);
            }
        }
        Some((Gesture::Salute, _)) => pen.line(&[(-0.1, 1.32), (0.24, 1.32)], 0.07, p::SATCHEL[0]),
        _ => {}
    }
    if otter.guards {
        // An umbrella against herons.
        let top = (0.62 + lean, 0.92);
        pen.line(&[hand, top], 0.04, p::POST);
        let ribs: Vec<(f32, f32)> = (0..=12)
            .map(|n| {
                let angle = (-80.0 + 160.0 * n as f32 / 12.0f32).to_radians();
                (top.0 - 0.1 + angle.cos() * 0.32, top.1 + angle.sin() * 0.52)
            })
            .collect();
        pen.shape(&ribs, p::UMBRELLA);
    }
    if otter.medium == Medium::Punt {
        pen.line(&[(0.46, 1.3), (0.22, -0.35)], 0.05, p::WOOD[1]);
    }
    if otter.lamp {
        let lantern = (hand.0 + 0.06, hand.1 - 0.16);
        let middle = pen.at(lantern.0, lantern.1);
        for (radius, share) in [(2.2, 0.07), (1.3, 0.1), (0.6, 0.2)] {
            pen.canvas.disc(middle, radius * pen.scale, p::faded(p::LAMPLIGHT, share));
        }
        pen.line(&[hand, (lantern.0, lantern.1 + 0.1)], 0.03, p::POST);
        pen.egg(lantern, (0.08, 0.1), p::LAMPLIGHT);
    }
}

fn swimmer(pen: &mut Pen<'_, '_>, otter: &Otter, fur: p::Colour, belly: p::Colour) {
    pen.fade *= 1.0 - 0.65 * otter.depth;
    let wave = (otter.gone * 5.0).sin() * 0.03;
    pen.egg((-0.05, 0.02), (0.62, 0.1), 0xffffff30);
    pen.line(&[(-0.3, 0.05 + wave), (-0.75, 0.02 - wave)], 0.1, fur);
    pen.egg((-0.1, 0.06 + wave), (0.36, 0.13), fur);
    pen.egg((0.26, 0.2 + wave), (0.2, 0.17), fur);
    pen.egg((0.38, 0.15 + wave), (0.11, 0.08), belly);
    pen.egg((0.46, 0.19 + wave), (0.04, 0.03), p::NOSE);
    pen.egg((0.3, 0.26 + wave), (0.026, 0.03), p::NOSE);
    if otter.depth > 0.3 {
        for n in 0..3 {
            pen.egg((0.4 + 0.1 * n as f32, 0.5 + 0.16 * n as f32), (0.05, 0.05), 0xffffff60);
        }
    }
}

/// A grey heron on long legs: its neck is drawn in while it walks, and stretched up, a wing half open, while it blocks.
pub(crate) fn heron(canvas: &mut Canvas<'_>, foot: Vec2, scale: f32, heron: &Heron) {
    let side = if heron.faces_left { -1.0 } else { 1.0 };
    let mut pen = Pen { canvas, foot, scale, side, fade: 1.0 };
    let step = (heron.gone * 5.0).sin() * 0.1;
    for shift in [step, -step] {
        pen.line(&[(0.0, 0.62), (0.04 + shift * 0.5, 0.34), (0.0 + shift, 0.04)], 0.045, p::BILL);
        pen.line(&[(shift - 0.04, 0.03), (0.16 + shift, 0.03)], 0.04, p::BILL);
    }
    let blocks = heron.blocks > 0.0;
    pen.shape(&[(-0.2, 0.76), (-0.6, 0.56), (-0.56, 0.48), (-0.1, 0.58)], p::HERON_WING);
    pen.egg((0.0, 0.72), (0.36, 0.19), p::HERON);
    if blocks {
        pen.shape(&[(0.16, 0.8), (-0.1, 1.22), (-0.5, 1.3), (-0.42, 0.98), (-0.26, 0.7)], p::HERON_WING);
    } else {
        pen.egg((-0.1, 0.74), (0.26, 0.12), p::HERON_WING);
    }
    let (bend, head) = if blocks { ((0.32, 1.2), (0.34, 1.62)) } else { ((0.42, 1.0), (0.3, 1.3)) };
    pen.line(&[(0.24, 0.78), bend, ((bend.0 + head.0) / 2.0 - 0.06, (bend.1 + head.1) / 2.0), head], 0.1, p::HERON);
    pen.line(&[(0.3, 0.78), (bend.0 + 0.02, bend.1 - 0.02)], 0.045, p::HERON_THROAT);
    pen.egg(head, (0.11, 0.075), p::HERON_THROAT);
    pen.line(&[(head.0 + 0.04, head.1 + 0.05), (head.0 - 0.28, head.1 + 0.02)], 0.035, p::NOSE);
    pen.shape(
        &[(head.0 + 0.07, head.1 + 0.045), (head.0 + 0.44, head.1 - 0.03), (head.0 + 0.07, head.1 - 0.045)],
        p::BILL,
    );
    pen.egg((head.0 + 0.04, head.1 + 0.015), (0.02, 0.02), p::NOSE);
}

/// The punt's far half, and once its rider sits, its near half.
pub(crate) fn punt(canvas: &mut Canvas<'_>, foot: Vec2, scale: f32, punt: &Punt, near: bool) {
    let mut pen = Pen { canvas, foot, scale, side: 1.0, fade: 1.0 };
    if !near {
        pen.egg((0.0, -0.06), (2.0, 0.2), 0x0b2a3460);
        pen.shape(&[(-1.6, 0.36), (1.6, 0.36), (1.3, 0.1), (-1.3, 0.1)], p::WOOD[0]);
        return;
    }
    pen.shape(&[(-1.75, 0.34), (1.75, 0.34), (1.4, -0.12), (-1.4, -0.12)], p::WOOD[1]);
    pen.line(&[(-1.75, 0.34), (1.75, 0.34)], 0.06, 0xa67c58ff);
    pen.line(&[(-1.55, 0.12), (1.55, 0.12)], 0.025, p::WOOD[0]);
    let speed = punt.speed.length();
    if speed > 0.3 {
        let back = if punt.speed.x < 0.0 { 1.0 } else { -1.0 };
        for n in 0..if punt.rushes { 5 } else { 3 } {
            let x = back * (1.7 + 0.35 * n as f32);
            pen.line(
                &[(x, -0.1), (x + back * 0.3 * (speed / 3.0).min(1.4), -0.16)],
                0.035,
                p::faded(p::RING, 0.7 - 0.12 * n as f32),
            );
        }
    }
}

pub(crate) fn parcel(canvas: &mut Canvas<'_>, at: Vec2, scale: f32, parcel: &Parcel) {
    let fade = if parcel.sunk { 1.0 - parcel.still / 0.8 } else { (4.0 - parcel.still).clamp(0.0, 1.0) };
    let mut pen = Pen { canvas, foot: at, scale, side: 1.0, fade };
    let big = if matches!(parcel.kind, Kind::Throw(_)) { 1.25 } else { 1.0 };
    let colour = p::PARCELS[parcel.sort % 3];
    if parcel.sort == 2 {
        pen.egg((0.0, 0.15), (0.17 * big, 0.15 * big), colour);
    } else {
        let (wide, high) = if parcel.sort == 1 { (0.2 * big, 0.2 * big) } else { (0.18 * big, 0.26 * big) };
        pen.shape(&[(-wide, 0.0), (wide, 0.0), (wide, high), (-wide, high)], colour);
        pen.line(&[(0.0, 0.0), (0.0, high)], 0.03, p::STRING);
        pen.line(&[(-wide, high / 2.0), (wide, high / 2.0)], 0.03, p::STRING);
    }
    if parcel.delivered && parcel.still < 1.0 {
        let middle = pen.at(0.0, 0.3);
        pen.canvas.ring(middle, (0.3 + parcel.still) * scale, 2.0, p::faded(p::ON, 1.0 - parcel.still));
    }
}
