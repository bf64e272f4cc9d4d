//! A motion of the hard-coded version: directions one after another, in time.

use super::Eighth;

/// A path of directions under way.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Path {
    pub(super) step: usize,
    pub(super) left_at: u64,
    pub(super) left_facing: bool,
}

/// Whether a direction lies on the short way from one to another.
fn between(from: Eighth, to: Eighth, what: Eighth) -> bool {
    let way = |to: Eighth| (i32::from(to) - i32::from(from) + 12).rem_euclid(8) - 4;
    let (whole, part) = (way(to), way(what));
    whole.abs() < 4 && part.signum() == whole.signum() && part.abs() < whole.abs()
}

impl Path {
    /// Goes on by a turn; whether it arrived at its end.
    pub(super) fn turn(
        &mut self,
        path: &[Eighth],
        from: Option<Eighth>,
        to: Option<Eighth>,
        at: u64,
        facing: bool,
        within: u64,
    ) -> bool {
        if self.step == 1 && from == Some(path[0]) {
            (self.left_at, self.left_facing) = (at, facing);
        }
        let Some(to) = to else { return false };
        if self.step > 1 && at > self.left_at + within {
            self.step = 0;
        }
        if self.step > 0 && self.step < path.len() {
            let last = path[self.step - 1];
            if to == path[self.step] {
                self.step += 1;
                return self.step == path.len() && at <= self.left_at + within;
            }
            let jumped = from.is_some_and(|from| between(from, to, path[self.step]));
            if jumped && path.get(self.step + 1) == Some(&to) {
                self.step += 2;
                return self.step == path.len() && at <= self.left_at + within;
            }
            if to == last || between(last, path[self.step], to) {
                return false;
            }
        }
        self.step = usize::from(to == path[0]);
        false
    }
}
