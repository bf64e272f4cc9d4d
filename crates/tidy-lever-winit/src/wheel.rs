//! The wheel: lines and pixels add up to notches, each way for itself.

use tidy_lever::Control;
use winit::event::MouseScrollDelta;

/// So many pixels of a smooth wheel, or of two fingers on a pad, are a notch.
const PIXELS: f64 = 40.0;

/// What is left of the last notch: right and up.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Wheel {
    rest: (f64, f64),
}

impl Wheel {
    /// Turns the wheel; whole notches come out, each with its control. A turn the other way begins again.
    pub(crate) fn turn(&mut self, delta: MouseScrollDelta) -> impl Iterator<Item = (Control, f32)> + use<> {
        let (x, y) = match delta {
            MouseScrollDelta::LineDelta(x, y) => (f64::from(x), f64::from(y)),
            MouseScrollDelta::PixelDelta(pixels) => (pixels.x / PIXELS, pixels.y / PIXELS),
        };
        let whole = |rest: &mut f64, turned: f64| {
            if turned * *rest < 0.0 {
                *rest = 0.0;
            }
            let notches = (*rest + turned).trunc();
            *rest += turned - notches;
            notches as f32
        };
        let (x, y) = (whole(&mut self.rest.0, x), whole(&mut self.rest.1, y));
        let side = |notches: f32, plus: Control, minus: Control| {
            (notches != 0.0).then(|| (if notches > 0.0 { plus } else { minus }, notches.abs()))
        };
        let up = side(y, Control::WHEEL_UP, Control::WHEEL_DOWN);
        // Turned to the right, a picture moves left there.
        let across = side(x, Control::WHEEL_LEFT, Control::WHEEL_RIGHT);
        up.into_iter().chain(across)
    }
}

#[cfg(test)]
mod tests {
    use winit::dpi::PhysicalPosition;

    use super::*;

    fn turned(wheel: &mut Wheel, delta: MouseScrollDelta) -> Vec<(String, f32)> {
        wheel.turn(delta).map(|(control, notches)| (control.to_string(), notches)).collect()
    }

    #[test]
    fn lines_are_notches_and_pixels_add_up_to_them() {
        let mut wheel = Wheel::default();
        let notch = |name: &str, count| vec![(format!("mouse:wheel-{name}"), count)];
        assert_eq!(turned(&mut wheel, MouseScrollDelta::LineDelta(0.0, 1.0)), notch("up", 1.0));
        assert_eq!(turned(&mut wheel, MouseScrollDelta::LineDelta(0.0, -3.0)), notch("down", 3.0));
        let pixels = |y| MouseScrollDelta::PixelDelta(PhysicalPosition::new(0.0, y));
        assert_eq!(turned(&mut wheel, pixels(-30.0)), Vec::new());
        assert_eq!(turned(&mut wheel, pixels(-30.0)), notch("down", 1.0));
        // The other way begins again, and doesn't have to take back what was left.
        assert_eq!(turned(&mut wheel, pixels(39.0)), Vec::new());
        assert_eq!(turned(&mut wheel, pixels(1.0)), notch("up", 1.0));
    }
}
