//! The wheel: what winit says of it, in notches.

use winit::event::MouseScrollDelta;

/// So many pixels of a smooth wheel, or of two fingers on a pad, are a notch.
const PIXELS: f64 = 40.0;

/// How far the wheel turned: to the right and up.
pub(crate) fn notches(delta: MouseScrollDelta) -> (f64, f64) {
    let (x, y) = match delta {
        MouseScrollDelta::LineDelta(x, y) => (f64::from(x), f64::from(y)),
        MouseScrollDelta::PixelDelta(pixels) => (pixels.x / PIXELS, pixels.y / PIXELS),
    };
    // Turned to the right, a picture moves left there.
    (-x, y)
}

#[cfg(test)]
mod tests {
    use tidy_lever::adapter::Wheel;
    use winit::dpi::PhysicalPosition;

    use super::*;

    fn turned(wheel: &mut Wheel, delta: MouseScrollDelta) -> Vec<(String, f32)> {
        let (right, up) = notches(delta);
        wheel.turn(right, up).map(|(control, notches)| (control.to_string(), notches)).collect()
    }

    #[test]
    fn lines_are_notches_and_pixels_add_up_to_them() {
        let mut wheel = Wheel::new();
        let notch = |name: &str, count| vec![(format!("mouse:wheel-{name}"), count)];
        assert_eq!(turned(&mut wheel, MouseScrollDelta::LineDelta(0.0, -3.0)), notch("down", 3.0));
        assert_eq!(turned(&mut wheel, MouseScrollDelta::LineDelta(-1.0, 0.0)), notch("right", 1.0));
        let pixels = |y| MouseScrollDelta::PixelDelta(PhysicalPosition::new(0.0, y));
        assert_eq!(turned(&mut wheel, pixels(-30.0)), Vec::new());
        assert_eq!(turned(&mut wheel, pixels(-30.0)), notch("down", 1.0));
    }
}
