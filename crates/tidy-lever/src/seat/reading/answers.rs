//! The answers of a reading: small copies of what an action did, and how it stands now.

use crate::direction::Direction;
use crate::engine::inputs::held::ButtonState;
use crate::engine::inputs::pointer::PointerState;
use crate::engine::inputs::signal::AxisState;
use crate::engine::{ActionState, Sums};
use crate::fixed::{self, to_f32};
use crate::time::Moment;
use core::time::Duration;

/// What a button did since the last reading (`went_down`, `went_up`, `pulled`), and its state now (`is_…`).
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[must_use]
pub struct ButtonReading {
    /// Spans in µs.
    held_for: u64,
    last_held: u64,
    on_for: u64,
    pressed: u32,
    released: u32,
    pulled: u32,
    down: bool,
    on: bool,
}

impl ButtonReading {
    pub(super) fn new(button: &ButtonState, state: &ActionState, sums: Sums, now: Moment) -> ButtonReading {
        let now = now.as_micros();
        let (down, on) = (button.held > 0, state.on);
        ButtonReading {
            held_for: if down { now.saturating_sub(button.since) } else { 0 },
            last_held: button.last_held,
            on_for: if on { now.saturating_sub(state.on_since) } else { 0 },
            pressed: sums.pressed,
            released: sums.released,
            pulled: sums.pulled,
            down,
            on,
        }
    }

    /// Whether the button is down now.
    pub fn is_down(&self) -> bool {
        self.down
    }

    /// Whether one of its controls went down since the last reading, however briefly.
    pub fn went_down(&self) -> bool {
        self.pressed > 0
    }

    /// Whether it went up since the last reading, by release or by loss (focus, cable, covering).
    pub fn went_up(&self) -> bool {
        self.released > 0
    }

    /// Whether the action went off since the last reading.
    pub fn pulled(&self) -> bool {
        self.pulled > 0
    }

    /// Whether a pull is still on now.
    pub fn is_on(&self) -> bool {
        self.on
    }

    /// How often one of its controls went down since the last reading.
    pub fn presses(&self) -> u32 {
        self.pressed
    }

    /// How often it went up since the last reading.
    pub fn releases(&self) -> u32 {
        self.released
    }

    /// How often the action went off since the last reading.
    pub fn pulls(&self) -> u32 {
        self.pulled
    }

    /// How long it has been down, counted from its first control; zero while it is up.
    pub fn held_for(&self) -> Duration {
        Duration::from_micros(self.held_for)
    }

    /// How long it was held before it went up last; zero before the first time.
    pub fn last_held_for(&self) -> Duration {
        Duration::from_micros(self.last_held)
    }

    /// How long the pull has been on; zero while it is off.
    pub fn on_for(&self) -> Duration {
        Duration::from_micros(self.on_for)
    }
}

/// The state of an axis.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[must_use]
pub struct AxisReading {
    edges: ButtonReading,
    micros: i64,
    level: i32,
}

impl AxisReading {
    pub(super) fn new(edges: ButtonReading, level: i32, [low, rest, high]: [i64; 3]) -> AxisReading {
        let end = if level < 0 { rest - low } else { high - rest };
        // The range ends at a million, in millionths: 2^40 × 2^20 stays below 2^63.
        AxisReading { edges, micros: rest + end * i64::from(level) / i64::from(fixed::ONE), level }
    }

    /// Its value in its declared range; −1 to 1 without one.
    pub fn value(&self) -> f32 {
        (self.micros as f64 / 1e6) as f32
    }

    /// Its value in whole millionths.
    pub fn micros(&self) -> i64 {
        self.micros
    }

    /// Its level from −1 to 1, before its range.
    pub fn level(&self) -> f32 {
        to_f32(self.level)
    }

    /// The axis as a button that is down while the axis is away from rest.
    pub fn edges(&self) -> ButtonReading {
        self.edges
    }
}

/// The state of a stick.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[must_use]
pub struct StickReading {
    edges: ButtonReading,
    x: i32,
    y: i32,
    /// In µs: since when it is held in this direction, and how long ago the last one was held.
    since: u64,
    last_age: u64,
    direction: Option<Direction>,
    last: Option<Direction>,
    faces_left: bool,
}

impl StickReading {
    pub(super) fn new(edges: ButtonReading, state: &AxisState, faces_left: bool, now: Moment) -> StickReading {
        let AxisState { x, y, direction, since, last, last_at, .. } = *state;
        let (last, last_age) = match (direction, last) {
            (Some(direction), _) => (Some(direction), 0),
            (None, Some(last)) => (Some(last), now.as_micros().saturating_sub(last_at)),
            (None, None) => (None, 0),
        };
        StickReading { edges, x, y, since, last_age, direction, last, faces_left }
    }

    /// The position: right and up, −1 to 1 each, with a length of at most 1.
    pub fn xy(&self) -> (f32, f32) {
        (to_f32(self.x), to_f32(self.y))
    }

    /// The push in whole millionths: right and up.
    pub fn micros(&self) -> (i32, i32) {
        (self.x, self.y)
    }

    /// How far it is pushed, 0 to 1.
    pub fn size(&self) -> f32 {
        to_f32(fixed::length(self.x, self.y))
    }

    /// The exact angle in degrees, from 0 (right) counter-clockwise to below 360; `None` at rest.
    pub fn degrees(&self) -> Option<f32> {
        degrees(self.x, self.y)
    }

    /// The direction as a vector of length 1; `None` at rest.
    pub fn unit(&self) -> Option<(f32, f32)> {
        let (x, y) = (f64::from(self.x), f64::from(self.y));
        let size = libm::sqrt(x * x + y * y);
        (size > 0.0).then_some(((x / size) as f32, (y / size) as f32))
    }

    /// The position in another frame, turned by this many degrees, counter-clockwise. With a camera's yaw, "up" becomes "away
    /// from the camera".
    pub fn turned(&self, yaw: f32) -> (f32, f32) {
        let (sin, cos) = libm::sincos(f64::from(yaw) * (core::f64::consts::PI / 180.0));
        let (x, y) = self.xy();
        let (x, y) = (f64::from(x), f64::from(y));
        ((x * cos - y * sin) as f32, (x * sin + y * cos) as f32)
    }

    /// How far it is pushed forward: right if the fact `facing` is `right`, left otherwise. Back is negative.
    pub fn forward(&self) -> f32 {
        if self.faces_left { -self.xy().0 } else { self.xy().0 }
    }

    /// Whether it is held forward, straight or diagonally. The fact `facing` says which way forward is.
    pub fn is_forward(&self) -> bool {
        self.direction.is_some_and(|direction| direction.signs().0 == if self.faces_left { -1 } else { 1 })
    }

    /// Whether it is held back, straight or diagonally.
    pub fn is_back(&self) -> bool {
        self.direction.is_some_and(|direction| direction.signs().0 == if self.faces_left { 1 } else { -1 })
    }

    /// The direction it is held in; `None` at rest.
    pub fn direction(&self) -> Option<Direction> {
        self.direction
    }

    /// Since when it is held in this direction, or at rest.
    pub fn direction_since(&self) -> Moment {
        Moment::from_micros(self.since)
    }

    /// The direction that is held or was held last, with its age (zero while it is held). `None` before the first direction.
    ///
    /// A straight that a stick passes for less than its `settles` (80 ms by default), between a diagonal and rest, doesn't count.
    pub fn last_direction(&self) -> Option<(Direction, Duration)> {
        self.last.map(|last| (last, Duration::from_micros(self.last_age)))
    }

    /// The stick as a button that is down while the stick is away from rest.
    pub fn edges(&self) -> ButtonReading {
        self.edges
    }
}

/// How far a sweep turned. Across is positive to the right, up is positive upwards.
///
/// Everything is a difference of one running total, rounded to billionths of a degree, so the parts that a reader gets add
/// up to the whole exactly, at any tick rate and for every reader.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[must_use]
pub struct SweepReading {
    pub(super) since: [i64; 2],
    pub(super) total: [i64; 2],
}

impl SweepReading {
    /// Degrees since last read, across and up.
    pub fn degrees(&self) -> (f64, f64) {
        (self.since[0] as f64 / 1e9, self.since[1] as f64 / 1e9)
    }

    /// The angle turned since the last reading, in whole billionths of a degree: across and up.
    pub fn nanos(&self) -> (i64, i64) {
        (self.since[0], self.since[1])
    }

    /// Billionths of a degree since the seat was made, across and up.
    pub fn total_nanos(&self) -> (i64, i64) {
        (self.total[0], self.total[1])
    }

    /// Degrees since the seat was made, across and up.
    pub fn total_degrees(&self) -> (f64, f64) {
        (self.total[0] as f64 / 1e9, self.total[1] as f64 / 1e9)
    }
}

/// The state of a gauge.
#[derive(Clone, Copy, Debug, PartialEq)]
#[must_use]
pub struct GaugeReading {
    edges: ButtonReading,
    micros: i64,
    filled: f32,
}

impl GaugeReading {
    pub(super) fn new(edges: ButtonReading, micros: i64, floor: i64, ceiling: i64) -> GaugeReading {
        GaugeReading { edges, micros, filled: ((micros - floor) as f64 / (ceiling - floor) as f64) as f32 }
    }

    /// Its value.
    pub fn value(&self) -> f32 {
        (self.micros as f64 / 1e6) as f32
    }

    /// Its value in whole millionths.
    pub fn micros(&self) -> i64 {
        self.micros
    }

    /// How full it is: 0 at the floor, 1 at the ceiling.
    pub fn filled(&self) -> f32 {
        self.filled
    }

    /// Its presses and pulls.
    pub fn edges(&self) -> ButtonReading {
        self.edges
    }
}

/// The position of a pointer, and whether it is pressed.
#[derive(Clone, Copy, Debug, PartialEq)]
#[must_use]
pub struct PointerReading {
    pub(super) edges: ButtonReading,
    pub(super) state: PointerState,
    pub(super) clicks: u32,
    pub(super) view: [u32; 2],
}

impl PointerReading {
    fn pixel(&self, place: (i32, i32)) -> (f32, f32) {
        let along = |place: i32, size: u32| (f64::from(place) * f64::from(size) / f64::from(fixed::ONE)) as f32;
        (along(place.0, self.view[0]), along(place.1, self.view[1]))
    }

    /// Its place in pixels from the view's top left; `None` before the first.
    pub fn pixels(&self) -> Option<(f32, f32)> {
        self.state.place.map(|place| self.pixel(place))
    }

    /// Its place from −1 to 1, right and up positive, as a projection takes it; `None` before the first.
    pub fn in_view(&self) -> Option<(f32, f32)> {
        self.state.place.map(|(x, y)| (2.0 * to_f32(x) - 1.0, 1.0 - 2.0 * to_f32(y)))
    }

    /// Where it was pressed, in pixels; `None` while it is not.
    pub fn pressed_at(&self) -> Option<(f32, f32)> {
        self.state.pressed.map(|place| self.pixel(place))
    }

    /// Whether it is held and has moved farther than `drag_from` since it was pressed.
    pub fn is_dragging(&self) -> bool {
        self.state.drags
    }

    /// How far it was dragged from where it was pressed, in pixels, right and down positive; `None` while it does not drag.
    pub fn dragged(&self) -> Option<(f32, f32)> {
        let (from, to) = (self.pressed_at()?, self.pixels()?);
        self.state.drags.then_some((to.0 - from.0, to.1 - from.1))
    }

    /// Whether it was clicked (pressed and released without dragging) since the last reading.
    pub fn clicked(&self) -> bool {
        self.clicks > 0
    }

    /// Its presses: down while it is held, and for how long.
    pub fn edges(&self) -> ButtonReading {
        self.edges
    }
}

/// The angle of a pair in degrees, 0 to below 360; `None` for no pair.
pub(crate) fn degrees(x: i32, y: i32) -> Option<f32> {
    if (x, y) == (0, 0) {
        return None;
    }
    let angle = libm::atan2(f64::from(y), f64::from(x)) * (180.0 / core::f64::consts::PI);
    let angle = if angle < 0.0 { angle + 360.0 } else { angle } as f32;
    Some(if angle >= 360.0 { 0.0 } else { angle })
}
