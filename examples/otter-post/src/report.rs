//! What the game says of itself, one JSON object a line; for tests and tools.

use serde_json::{Value, json};
use tidy_lever::tape::OutputLine;
use tidy_lever::{Moment, Seat};

use crate::world::{Medium, Otter, State};

/// Takes a line; false if it takes no more, which ends the lines and not the game.
pub(crate) type Listener = Box<dyn FnMut(&str) -> bool>;

/// Where lines go, if anywhere.
pub(crate) struct Report {
    to: Option<Listener>,
    /// What each otter did when it was last told.
    told: Vec<(State, Medium, bool)>,
}

/// Metres to the millimetre.
fn metres(value: f32) -> Value {
    json!((f64::from(value) * 1e3).round() / 1e3)
}

impl Report {
    pub(crate) fn new(to: Option<Listener>) -> Report {
        Report { to, told: Vec::new() }
    }

    fn line(&mut self, line: &Value) {
        if self.to.as_mut().is_some_and(|to| !to(&line.to_string())) {
            self.to = None;
        }
    }

    /// Something that the game did: `{"at":…,"game":"menu",…}`.
    pub(crate) fn say(&mut self, at: Moment, what: &str, more: Value) {
        let mut line = json!({ "at": at.as_micros(), "game": what });
        if let (Some(line), Value::Object(more)) = (line.as_object_mut(), more) {
            line.extend(more);
        }
        self.line(&line);
    }

    /// What happened in a seat in its last step; in a live window with the clock's time when the game acted on it.
    pub(crate) fn happened(&mut self, number: u32, seat: &Seat, acted: Option<Moment>) {
        if self.to.is_none() {
            return;
        }
        let reading = seat.latest();
        for came in
            reading.happenings().filter_map(|happening| OutputLine::of(happening, number, seat.linkage(), false))
        {
            let mut line = serde_json::to_value(&came).unwrap_or_default();
            if let (Some(line), Some(acted)) = (line.as_object_mut(), acted) {
                line.insert("acted".into(), json!(acted.as_micros()));
            }
            self.line(&line);
        }
    }

    /// Tells of an otter when she begins to do something else.
    pub(crate) fn otter(&mut self, at: Moment, number: usize, otter: &Otter) {
        let now = (otter.state, otter.medium, otter.on_ground);
        if self.told.get(number) == Some(&now) {
            return;
        }
        self.told.resize(self.told.len().max(number + 1), now);
        self.told[number] = now;
        let place = otter.place.now;
        self.say(
            at,
            "otter",
            json!({
                "otter": number + 1, "state": otter.state.name(), "in": otter.medium.name(), "grounded": otter.on_ground,
                "x": metres(place.x), "y": metres(place.y), "z": metres(place.z),
                "facing": otter.facing(),
            }),
        );
    }
}
