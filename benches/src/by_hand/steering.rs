//! Where the hard-coded version steers, and what its motions make of it.

use super::{ByHand, DOWN, Eighth, LEFT, MS, RIGHT, SALUTE, SKIM, UP};

impl ByHand {
    /// Keys, stick and directional pad as one: the largest, of nearly equal ones the one that left its rest last.
    pub(super) fn steers(&mut self, at: u64) {
        let newest = |a: usize, b: usize| self.legs[a].max(self.legs[b]);
        let axis = |minus: u64, plus: u64| {
            if plus > minus {
                1.0
            } else if minus > plus {
                -1.0
            } else {
                0.0
            }
        };
        let keys = (axis(newest(1, 5), newest(3, 7)), axis(newest(2, 6), newest(0, 4)));
        let keys = if keys.0 != 0.0 && keys.1 != 0.0 {
            (keys.0 * std::f32::consts::FRAC_1_SQRT_2, keys.1 * std::f32::consts::FRAC_1_SQRT_2)
        } else {
            keys
        };
        self.keys_left = self.left(keys, self.keys_left);
        let all = [(keys, self.keys_left), (self.stick, self.stick_left), (self.dpad, self.dpad_left)];
        let size = |value: (f32, f32)| value.0.hypot(value.1);
        let largest = all.iter().map(|(value, _)| size(*value)).fold(0.0, f32::max);
        let near = all.iter().filter(|(value, left)| *left > 0 && size(*value) + 0.1 >= largest);
        let value = near.max_by_key(|(_, left)| *left).map_or((0.0, 0.0), |(value, _)| *value);
        // Outside of the menu it is only known what is held, so that opening it scrolls nothing.
        self.chooses(value, at);
        if self.menu {
            self.steer = (0.0, 0.0);
            self.turns(None, at);
        } else {
            self.steer = if self.ashore || self.afloat { value } else { (0.0, 0.0) };
            let direction = sector(self.steer, self.direction);
            self.turns(direction, at);
        }
    }

    fn across_is_newer(&self) -> bool {
        let newest = |legs: [usize; 4]| legs.into_iter().map(|leg| self.legs[leg]).max();
        newest([1, 3, 5, 7]) > newest([0, 2, 4, 6])
    }

    pub(super) fn chooses(&mut self, (x, y): (f32, f32), at: u64) {
        let to = match (x, y) {
            (0.0, 0.0) => None,
            // Of two keys the newer one counts.
            _ if x.abs() > y.abs() || (x.abs() == y.abs() && self.across_is_newer()) => {
                Some(if x > 0.0 { RIGHT } else { LEFT })
            }
            _ => Some(if y > 0.0 { UP } else { DOWN }),
        };
        if to == self.chosen {
            return;
        }
        self.chosen = to;
        if !self.menu {
            return;
        }
        self.scroll_due = (to == Some(DOWN)).then_some(at + 400 * MS);
        self.scroll_back_due = (to == Some(UP)).then_some(at + 400 * MS);
        match to {
            Some(DOWN) => self.pull(at, "scroll"),
            Some(UP) => self.pull(at, "scroll-back"),
            _ => {}
        }
    }

    pub(super) fn turns(&mut self, to: Option<Eighth>, at: u64) {
        let from = self.direction;
        if to == from {
            return;
        }
        self.direction = to;
        if !self.walks() {
            return;
        }
        match to {
            None => self.rested = true,
            Some(to) => {
                let again = self.twice.take_if(|(last, when)| *last == to && at - *when <= 240 * MS && self.rested);
                if again.is_some() {
                    if self.free {
                        self.pull(at, "dash");
                    }
                } else {
                    self.twice = Some((to, at));
                }
                self.rested = false;
            }
        }
        for (side, path) in SKIM.iter().enumerate() {
            if self.skim[side].turn(path, from, to, at, self.facing_left, 350 * MS) {
                // The toss may have come a little before.
                if self.tossed.take_if(|tossed| at <= *tossed + 30 * MS).is_some() {
                    self.skims(at);
                }
            }
        }
        if self.salute.turn(&SALUTE, from, to, at, self.facing_left, 1_000 * MS) {
            self.salute.step = 0;
            self.pull(at, "salute");
        }
    }
}

/// One of eight equal sectors; the one before is kept for 4 degrees beyond its borders.
fn sector((x, y): (f32, f32), before: Option<Eighth>) -> Option<Eighth> {
    let size = x.hypot(y);
    if size == 0.0 || (before.is_none() && size < 0.04) {
        return None;
    }
    let angle = y.atan2(x).to_degrees();
    if let Some(before) = before {
        let off = (angle - f32::from(before) * 45.0 + 540.0).rem_euclid(360.0) - 180.0;
        if off.abs() <= 26.5 {
            return Some(before);
        }
    }
    Some((angle / 45.0).round().rem_euclid(8.0) as Eighth)
}
