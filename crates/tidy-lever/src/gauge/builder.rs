//! Gauges declared in code: `Gauge::default().ceiling(6.0).push("+1")`.

use super::Gauge;
use crate::time::SpanEntry;

impl Gauge {
    /// That never falls below this.
    pub fn floor(self, floor: f64) -> Gauge {
        Gauge { floor, ..self }
    }

    /// That never rises above this.
    pub fn ceiling(self, ceiling: f64) -> Gauge {
        Gauge { ceiling, ..self }
    }

    /// That starts here.
    pub fn start(self, start: f64) -> Gauge {
        Gauge { start: Some(start), ..self }
    }

    /// That a press changes by this: `"+1"`, `"-1"`, `"x1.35"`.
    pub fn push(self, push: &str) -> Gauge {
        Gauge { push: Some(push.into()), ..self }
    }

    /// Each press moves the value up to the next of these steps.
    pub fn steps(self, steps: &[f64]) -> Gauge {
        Gauge { steps: steps.to_vec(), ..self }
    }

    /// That time pulls only this long after the last press.
    pub fn rest(self, rest: impl Into<SpanEntry>) -> Gauge {
        Gauge { rest: Some(rest.into()), ..self }
    }

    /// That time pulls down: `"x0.85 every 100ms"`.
    pub fn fade(self, fade: &str) -> Gauge {
        Gauge { fade: Some(fade.into()), ..self }
    }

    /// That time fills up: `"+2 every 1s"`.
    pub fn refill(self, refill: &str) -> Gauge {
        Gauge { refill: Some(refill.into()), ..self }
    }

    /// That drains while held: `"-1 every 1s"`.
    pub fn drain(self, drain: &str) -> Gauge {
        Gauge { drain: Some(drain.into()), ..self }
    }

    /// That pulls as it becomes `"empty"` or `"full"`.
    pub fn pulls(self, pulls: &str) -> Gauge {
        Gauge { pulls: Some(pulls.into()), ..self }
    }
}
