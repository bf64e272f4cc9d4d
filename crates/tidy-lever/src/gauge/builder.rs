//! Gauges declared in code: `Gauge::default().with_ceiling(6.0).with_push("+1")`.

use super::Gauge;
use crate::time::SpanEntry;

impl Gauge {
    /// That never falls below this.
    pub fn with_floor(self, floor: f64) -> Gauge {
        Gauge { floor, ..self }
    }

    /// That never rises above this.
    pub fn with_ceiling(self, ceiling: f64) -> Gauge {
        Gauge { ceiling, ..self }
    }

    /// That starts here.
    pub fn with_start(self, start: f64) -> Gauge {
        Gauge { start: Some(start), ..self }
    }

    /// That a press changes by this: `"+1"`, `"-1"`, `"x1.35"`.
    pub fn with_push(self, push: &str) -> Gauge {
        Gauge { push: Some(push.into()), ..self }
    }

    /// That climbs these steps, one a press.
    pub fn with_steps(self, steps: &[f64]) -> Gauge {
        Gauge { steps: steps.to_vec(), ..self }
    }

    /// That time pulls only this long after the last press.
    pub fn with_rest(self, rest: impl Into<SpanEntry>) -> Gauge {
        Gauge { rest: Some(rest.into()), ..self }
    }

    /// That time pulls down: `"x0.85 every 100ms"`.
    pub fn with_fade(self, fade: &str) -> Gauge {
        Gauge { fade: Some(fade.into()), ..self }
    }

    /// That time fills up: `"+2 every 1s"`.
    pub fn with_refill(self, refill: &str) -> Gauge {
        Gauge { refill: Some(refill.into()), ..self }
    }

    /// That drains while held: `"-1 every 1s"`.
    pub fn with_drain(self, drain: &str) -> Gauge {
        Gauge { drain: Some(drain.into()), ..self }
    }

    /// That pulls as it becomes `"empty"` or `"full"`.
    pub fn with_pulls(self, pulls: &str) -> Gauge {
        Gauge { pulls: Some(pulls.into()), ..self }
    }
}
