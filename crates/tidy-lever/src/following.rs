//! Following: a value that lags behind another, and an angle that turns towards another. The same at any tick rate.
//!
//! For the game's side, on floats; nothing in a seat depends on it.

use core::time::Duration;

/// What is left of a gap after `span` when it closes at `speed` a second: `e^(−speed × span)`.
///
/// Multiplying these over any cutting of a span gives the factor of the whole, which `speed × span` alone does not.
fn left(speed: f64, span: Duration) -> f64 {
    libm::exp(-speed.max(0.0) * span.as_secs_f64())
}

/// `value` after following a resting `target` for `span`. A larger `speed` (a second) is faster; 0 stays, at 5 some 92 %
/// of the gap is closed in half a second. Never overshoots.
///
/// ```
/// use std::time::Duration;
/// use tidy_lever::following::follow;
///
/// let whole = follow(0.0, 10.0, 5.0, Duration::from_millis(500));
/// let mut parts = 0.0;
/// for _ in 0..50 {
///     parts = follow(parts, 10.0, 5.0, Duration::from_millis(10));
/// }
/// assert!((whole - parts).abs() < 1e-9);
/// ```
pub fn follow(value: f64, target: f64, speed: f64, span: Duration) -> f64 {
    target + (value - target) * left(speed, span)
}

/// Follows an angle in degrees by the short way; the result lies from 0 to below 360.
pub fn follow_degrees(angle: f64, target: f64, speed: f64, span: Duration) -> f64 {
    within_turn(target - short_way(angle, target) * left(speed, span))
}

/// The short way from one angle to another in degrees: above −180, up to 180, counter-clockwise positive.
///
/// ```
/// use tidy_lever::following::short_way;
///
/// assert_eq!(short_way(350.0, 10.0), 20.0);
/// assert_eq!(short_way(10.0, 350.0), -20.0);
/// assert_eq!(short_way(0.0, 180.0), 180.0);
/// ```
pub fn short_way(from: f64, to: f64) -> f64 {
    let way = within_turn(to - from);
    if way > 180.0 { way - 360.0 } else { way }
}

/// `angle` after turning towards `target` by the short way for `span`, at no more than `rate` degrees a second. Arrives
/// exactly and stays; the outcome lies from 0 to below 360.
///
/// ```
/// use std::time::Duration;
/// use tidy_lever::following::turn_towards;
///
/// assert_eq!(turn_towards(350.0, 30.0, 500.0, Duration::from_millis(20)), 0.0);
/// assert_eq!(turn_towards(350.0, 30.0, 500.0, Duration::from_secs(1)), 30.0);
/// ```
pub fn turn_towards(angle: f64, target: f64, rate: f64, span: Duration) -> f64 {
    let way = short_way(angle, target);
    let most = rate.max(0.0) * span.as_secs_f64();
    if way.abs() <= most { within_turn(target) } else { within_turn(angle + if way < 0.0 { -most } else { most }) }
}

/// The angle in steps of this many degrees that lies nearest; itself for no step.
///
/// ```
/// use tidy_lever::following::in_steps;
///
/// assert_eq!(in_steps(100.0, 45.0), 90.0);
/// assert_eq!(in_steps(350.0, 45.0), 0.0);
/// ```
pub fn in_steps(angle: f64, step: f64) -> f64 {
    if step > 0.0 { within_turn(libm::round(angle / step) * step) } else { within_turn(angle) }
}

/// The same angle from 0 to below 360; 0 for what is not a finite number.
pub fn within_turn(angle: f64) -> f64 {
    let turned = libm::fmod(angle, 360.0);
    let turned = if turned < 0.0 { turned + 360.0 } else { turned };
    // A hair below 0 rounds up to the full turn.
    if turned.is_finite() && turned < 360.0 { turned } else { 0.0 }
}
