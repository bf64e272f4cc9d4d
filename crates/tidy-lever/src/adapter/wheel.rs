//! The wheel: what turns smoothly adds up to notches, each way for itself.

use crate::control::Control;

/// Adds up a wheel's turns to whole notches. For a window's or a page's wheel, which may turn by parts of one.
///
/// ```
/// use tidy_lever::Control;
/// use tidy_lever::adapter::Wheel;
///
/// let mut wheel = Wheel::new();
/// assert_eq!(wheel.turn(0.0, 0.75).next(), None);
/// assert_eq!(wheel.turn(0.0, 0.75).next(), Some((Control::WHEEL_UP, 1.0)));
/// // The other way begins again, and doesn't have to take back the half that was left.
/// assert_eq!(wheel.turn(0.0, -1.0).next(), Some((Control::WHEEL_DOWN, 1.0)));
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Wheel {
    /// What is left of the last notch: right and up.
    rest: (f64, f64),
}

impl Wheel {
    /// A wheel that wasn't turned yet.
    pub fn new() -> Wheel {
        Wheel::default()
    }

    /// Turns the wheel by so many notches, to the right and up; whole ones come out, each with its control. A turn the other
    /// way begins again. What is not a finite number is not a turn.
    pub fn turn(&mut self, right: f64, up: f64) -> impl Iterator<Item = (Control, f32)> + use<> {
        let (right, up) = (whole(&mut self.rest.0, right), whole(&mut self.rest.1, up));
        let side = |notches: f32, plus: Control, minus: Control| {
            (notches != 0.0).then(|| (if notches > 0.0 { plus } else { minus }, notches.abs()))
        };
        let upright = side(up, Control::WHEEL_UP, Control::WHEEL_DOWN);
        upright.into_iter().chain(side(right, Control::WHEEL_RIGHT, Control::WHEEL_LEFT))
    }
}

/// The whole notches of a turn and of what was left before it.
fn whole(rest: &mut f64, turned: f64) -> f32 {
    if !turned.is_finite() {
        return 0.0;
    }
    if turned * *rest < 0.0 {
        *rest = 0.0;
    }
    let notches = libm::trunc(*rest + turned);
    *rest += turned - notches;
    notches as f32
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn parts_add_up_each_way_for_itself() {
        let mut wheel = Wheel::new();
        let mut turned = |right, up| wheel.turn(right, up).collect::<alloc::vec::Vec<_>>();
        assert_eq!(turned(0.0, 1.0), [(Control::WHEEL_UP, 1.0)]);
        assert_eq!(turned(0.0, -3.0), [(Control::WHEEL_DOWN, 3.0)]);
        assert_eq!(turned(0.5, -0.5), []);
        assert_eq!(turned(0.5, -0.5), [(Control::WHEEL_DOWN, 1.0), (Control::WHEEL_RIGHT, 1.0)]);
        assert_eq!(turned(-1.0, f64::NAN), [(Control::WHEEL_LEFT, 1.0)]);
    }
}
