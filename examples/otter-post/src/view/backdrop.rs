//! What never moves: sky, houses, quay, canal. Drawn once for each size of window, and copied from.

use glam::{Vec2, Vec3};
use tiny_skia::Pixmap;

use super::palette as p;
use crate::camera::Camera;
use crate::town;
use tidy_lever_view::canvas::{Canvas, Letters, Side};

/// The whole town in one long picture.
pub(crate) struct Backdrop {
    pixels: Option<Pixmap>,
    camera: Camera,
    /// Pixels for one of the window's, each way.
    scale: f32,
}

impl Backdrop {
    /// Draws it as high as the window and as wide as the camera ever sees.
    pub(crate) fn new(window: Camera, scale: f32, letters: &mut Letters) -> Backdrop {
        // What the input view lies over may be beyond the town.
        let half = (town::LENGTH / 2.0 + 1.0).max(window.half()) + super::INPUTS / window.scale();
        let wide = (half * 2.0 * window.scale()).ceil() + 2.0;
        let camera = Camera { x: town::LENGTH / 2.0, size: (wide, window.size.1), covered: 0.0 };
        let mut pixels = Pixmap::new((wide * scale).ceil() as u32, (window.size.1 * scale).round() as u32);
        if let Some(pixels) = &mut pixels {
            let mut canvas = Canvas::new(pixels, letters).scaled(scale);
            Town { canvas: &mut canvas, camera }.draw();
        }
        Backdrop { pixels, camera, scale }
    }

    /// Copies the part that a camera sees.
    pub(crate) fn copy_to(&self, window: &mut Pixmap, camera: Camera) {
        let Some(pixels) = &self.pixels else { return };
        let (wide, across) = (pixels.width() as usize, window.width() as usize);
        let left = self.camera.size.0 / 2.0 + (camera.x - self.camera.x) * camera.scale() - camera.size.0 / 2.0;
        let left = ((left * self.scale).round().max(0.0) as usize).min(wide.saturating_sub(across));
        let rows = window.pixels_mut().chunks_exact_mut(across);
        let across = across.min(wide);
        for (to, from) in rows.zip(pixels.pixels().chunks_exact(wide)) {
            to[..across].copy_from_slice(&from[left..left + across]);
        }
    }
}

struct Town<'c, 'p> {
    canvas: &'c mut Canvas<'p>,
    camera: Camera,
}

impl Town<'_, '_> {
    fn at(&self, x: f32, y: f32, z: f32) -> Vec2 {
        self.camera.pixels(Vec3::new(x, y, z))
    }

    fn draw(&mut self) {
        let (wide, high) = self.camera.size;
        let back = self.at(0.0, 0.0, town::BACK).y;
        self.canvas.shade((0.0, 0.0), (wide, back), &p::SKY);
        self.far(back);
        self.houses();
        self.canvas.shade((0.0, back), (wide, high - back), &[p::WATER[0], p::WATER[0], p::WATER[1]]);
        self.quay(-14.0, town::CANAL.0);
        self.quay(town::CANAL.1, town::LENGTH + 14.0);
        self.canal();
        self.furniture();
    }

    /// Roofs and a tower, far off.
    fn far(&mut self, back: f32) {
        let scale = self.camera.scale();
        let count = (self.camera.size.0 / (scale * 2.6)) as i32 + 1;
        for n in 0..count {
            let x = n as f32 * scale * 2.6;
            let high = scale * (3.3 + 0.9 * ((n * 7 % 5) as f32 / 4.0));
            let peak = [
                Vec2::new(x, back),
                Vec2::new(x, back - high),
                Vec2::new(x + scale, back - high - scale * 0.9),
                Vec2::new(x + scale * 2.0, back - high),
                Vec2::new(x + scale * 2.0, back),
            ];
            self.canvas.shape(&peak, p::FAR);
        }
        let tower = self.at(27.6, 0.0, town::BACK).x;
        self.canvas.rect(tower, back - scale * 5.0, scale * 1.2, scale * 5.0, p::FAR);
        let cap = [
            Vec2::new(tower - scale * 0.2, back - scale * 5.0),
            Vec2::new(tower + scale * 0.6, back - scale * 6.5),
            Vec2::new(tower + scale * 1.4, back - scale * 5.0),
        ];
        self.canvas.shape(&cap, p::FAR);
    }

    fn houses(&mut self) {
        let (mut x, mut n) = (-14.0f32, 0usize);
        while x < town::LENGTH + 14.0 {
            let wide = 2.9 + 0.35 * ((n * 5 % 4) as f32);
            let over_canal = x + wide > town::CANAL.0 - 0.1 && x < town::CANAL.1 + 0.1;
            if over_canal && x < town::CANAL.1 {
                x = town::CANAL.1 + 0.2;
                n += 1;
                continue;
            }
            let is_office = (x..x + wide).contains(&town::DOOR);
            let high = if is_office { 4.75 } else { 3.8 + 0.27 * ((n * 3 % 5) as f32) };
            self.house(x, wide - 0.08, high, n);
            x += wide;
            n += 1;
        }
    }

    fn house(&mut self, x: f32, wide: f32, high: f32, n: usize) {
        let scale = self.camera.scale();
        let foot = self.at(x, 0.0, town::BACK);
        let head = self.at(x, high, town::BACK).y;
        let wall = p::WALLS[n % p::WALLS.len()];
        let (w, h) = (wide * scale, foot.y - head);
        self.canvas.rect(foot.x, head, w, h, wall);
        self.canvas.shade((foot.x, foot.y - h * 0.35), (w, h * 0.35), &[wall & 0xffff_ff00, 0x20202838]);
        let roof = p::ROOFS[n % p::ROOFS.len()];
        let gable = [
            Vec2::new(foot.x - 3.0, head),
            Vec2::new(foot.x + w / 2.0, head - scale * 1.15),
            Vec2::new(foot.x + w + 3.0, head),
        ];
        self.canvas.shape(&gable, roof);
        if n.is_multiple_of(2) {
            self.canvas.rect(foot.x + w * 0.7, head - scale * 0.95, scale * 0.24, scale * 0.7, roof);
        }
        let is_office = (x..x + wide).contains(&town::DOOR);
        let (door, door_tall) = (scale * 0.82, scale * 1.45);
        let shift = 0.3 + 0.4 * ((n % 2) as f32);
        let middle = if is_office { self.at(town::DOOR, 0.0, town::BACK).x } else { foot.x + w * shift };
        let (pane, tall) = (w * 0.17, scale * 0.62);
        for row in 0..2 {
            for column in 0..3 {
                let top = head + scale * (0.34 + 1.15 * row as f32);
                let left = foot.x + w * (0.16 + 0.255 * column as f32);
                // No window behind a door.
                let beside = left + pane + 4.0 < middle - door / 2.0 || left - 4.0 > middle + door / 2.0;
                if !beside && top + tall + 6.0 > foot.y - door_tall {
                    continue;
                }
                let lit = (n * 3 + row * 2 + column) % 4 == 1;
                self.canvas.rect(left - 2.0, top - 2.0, pane + 4.0, tall + 4.0, p::FRAME);
                self.canvas.rect(left, top, pane, tall, if lit { p::LAMPLIGHT } else { p::DARK_PANE });
                self.canvas.rect(left + pane / 2.0 - 0.75, top, 1.5, tall, p::FRAME);
                self.canvas.rect(left, top + tall * 0.45, pane, 1.5, p::FRAME);
            }
        }
        let tall = door_tall;
        self.canvas.card((middle - door / 2.0 - 3.0, foot.y - tall - 3.0), (door + 6.0, tall + 6.0), 4.0, p::FRAME);
        self.canvas.rect(middle - door / 2.0, foot.y - tall, door, tall, roof);
        self.canvas.disc(Vec2::new(middle + door * 0.3, foot.y - tall * 0.45), scale * 0.045, p::LAMPLIGHT);
        if is_office {
            let sign = (scale * 2.0, scale * 0.42);
            let at = (middle - sign.0 / 2.0, foot.y - tall - sign.1 - scale * 0.14);
            self.canvas.card(at, sign, 4.0, p::LETTER_POST);
            let size = scale * 0.25;
            self.canvas.text((middle, at.1 + sign.1 * 0.72), size, Side::Middle, p::FRAME, "OTTER POST");
        }
    }

    fn quay(&mut self, from: f32, to: f32) {
        let far = self.at(from, 0.0, town::BACK);
        let near = self.at(to, 0.0, town::EDGE);
        let foot = self.at(to, town::SURFACE, town::EDGE).y;
        self.canvas.shade((far.x, far.y), (near.x - far.x, near.y - far.y), &[p::STONE_FAR, p::STONE]);
        let rows = 6;
        for row in 0..rows {
            let z = town::BACK + (town::EDGE - town::BACK) * row as f32 / rows as f32;
            let (left, right) = (self.at(from, 0.0, z), self.at(to, 0.0, z));
            self.canvas.line(&[left, right], 1.0, p::faded(p::JOINT, 0.7));
            let below = self.at(from, 0.0, z + (town::EDGE - town::BACK) / rows as f32).y;
            let mut x = from.ceil() + if row % 2 == 0 { 0.0 } else { 0.8 };
            while x < to {
                let top = self.at(x, 0.0, z);
                self.canvas.line(&[top, Vec2::new(top.x, below)], 1.0, p::faded(p::JOINT, 0.55));
                x += 1.6;
            }
        }
        let kerb = self.camera.scale() * 0.12;
        self.canvas.rect(far.x, near.y - kerb, near.x - far.x, kerb, p::KERB);
        self.canvas.shade((far.x, near.y), (near.x - far.x, foot - near.y), &[p::WALL, 0x47504fff]);
        let mut x = from.ceil();
        while x < to {
            let top = self.at(x, 0.0, town::EDGE);
            self.canvas.line(&[top, Vec2::new(top.x, foot)], 1.0, 0x00000030);
            x += 1.3;
        }
        self.canvas.rect(far.x, foot - 2.0, near.x - far.x, 3.0, 0x12303a70);
    }

    /// The walls of the canal's far ends, and a bridge in the distance.
    fn canal(&mut self) {
        let scale = self.camera.scale();
        let (left, right) = (self.at(town::CANAL.0, 0.0, town::BACK), self.at(town::CANAL.1, 0.0, town::BACK));
        let low = self.at(town::CANAL.0, town::SURFACE, town::BACK).y;
        self.canvas.shade(
            (left.x, left.y - 1.0),
            (right.x - left.x, low - left.y + scale * 0.7),
            &[0x2c5a68ff, p::WATER[0] & 0xffff_ff00],
        );
        let middle = (left.x + right.x) / 2.0;
        let half = (right.x - left.x) / 2.0;
        // The arch of a bridge, seen from far.
        let arch: Vec<Vec2> = (0..=24)
            .map(|n| {
                let angle = std::f32::consts::PI * n as f32 / 24.0;
                Vec2::new(middle + angle.cos() * half * 0.72, left.y - angle.sin() * scale * 0.75)
            })
            .collect();
        let deck = [
            Vec2::new(left.x, left.y),
            Vec2::new(left.x, left.y - scale * 0.85),
            Vec2::new(middle, left.y - scale * 1.35),
            Vec2::new(right.x, left.y - scale * 0.85),
            Vec2::new(right.x, left.y),
        ];
        self.canvas.shape(&deck, 0x6d747aff);
        self.canvas.shape(&arch, 0xa9b7b4ff);
        for (x, side) in [(town::CANAL.0, -1.0), (town::CANAL.1, 1.0)] {
            let (far, near) = (self.at(x, 0.0, town::BACK), self.at(x, 0.0, town::EDGE));
            let wall = [far, near, self.at(x, town::SURFACE, town::EDGE), self.at(x, town::SURFACE, town::BACK)];
            self.canvas.shape(&wall, p::WALL);
            let kerb = scale * 0.12 * side;
            let top = [far, near, near + Vec2::new(kerb, 0.0), far + Vec2::new(kerb, 0.0)];
            self.canvas.shape(&top, p::KERB);
        }
    }

    fn furniture(&mut self) {
        let scale = self.camera.scale();
        for x in town::LAMPS {
            let foot = self.at(x, 0.0, town::BACK + 0.35);
            let head = self.at(x, 2.7, town::BACK + 0.35);
            for (radius, share) in [(1.5, 0.07), (0.9, 0.12), (0.45, 0.25)] {
                self.canvas.disc(head, scale * radius, p::faded(p::LAMPLIGHT, share));
            }
            self.canvas.line(&[foot, head], scale * 0.08, p::POST);
            self.canvas.egg(foot, Vec2::new(scale * 0.14, scale * 0.06), p::POST);
            self.canvas.disc(head, scale * 0.16, p::LAMPLIGHT);
            self.canvas.line(
                &[head - Vec2::new(scale * 0.2, scale * 0.18), head + Vec2::new(scale * 0.2, -scale * 0.18)],
                scale * 0.07,
                p::POST,
            );
        }
        for (x, z) in town::BOXES {
            let foot = self.at(x, 0.0, z);
            self.canvas.egg(
                foot,
                Vec2::new(scale * town::BOX_REACH, scale * town::BOX_REACH * 0.55),
                p::faded(p::LAMPLIGHT, 0.14),
            );
            self.canvas.egg(foot, Vec2::new(scale * 0.4, scale * 0.16), p::SHADOW);
            // A slim teal post under a cap, with a brass flap.
            let (wide, high) = (scale * 0.36, scale * 1.1);
            self.canvas.rect(foot.x - wide / 2.0, foot.y - high, wide, high, p::LETTER_POST);
            self.canvas.rect(foot.x - wide * 0.66, foot.y - scale * 0.1, wide * 1.32, scale * 0.1, p::POST);
            let cap = [(-0.68, 1.0), (0.68, 1.0), (0.4, 1.13), (-0.4, 1.13)];
            let cap = cap.map(|(x, y)| Vec2::new(foot.x + wide * x, foot.y - high * y));
            self.canvas.shape(&cap, p::POST);
            let (flap, tall) = (wide * 0.74, scale * 0.17);
            self.canvas.card((foot.x - flap / 2.0, foot.y - high * 0.86), (flap, tall), scale * 0.03, p::BRASS);
            self.canvas.rect(
                foot.x - flap * 0.3,
                foot.y - high * 0.86 + tall * 0.68,
                flap * 0.6,
                scale * 0.025,
                p::NOSE,
            );
        }
    }
}
