//! What came of a tape, as lines for programs: one JSON object each.

use std::collections::HashMap;

use serde::Serialize;
use serde_json::{Number, Value};
use tidy_lever::profile::Kind;
use tidy_lever::{Happening, Linkage, Moment, Seat, What};

/// One line. Keys that don't apply are left out.
#[derive(Clone, Debug, Default, Serialize)]
pub(crate) struct Line {
    pub(crate) at: u64,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) seat: Option<u32>,
    pub(crate) action: String,
    pub(crate) what: &'static str,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) cause: Option<&'static str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) name: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) stage: Option<u8>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) kept: Option<u64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) amount: Option<Number>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) over: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) x: Option<Number>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) y: Option<Number>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) value: Option<Number>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) degrees: Option<[Number; 2]>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) aim: Option<&'static str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) last_aim: Option<&'static str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) last_age: Option<u64>,
}

/// What sweeps had swept at the last sample, by seat and action.
#[derive(Debug, Default)]
pub(crate) struct Swept(HashMap<(u32, String), (i64, i64)>);

impl Line {
    fn new(at: Moment, seat: u32, action: &str, what: &'static str) -> Line {
        let seat = (seat != 1).then_some(seat);
        Line { at: at.as_micros(), seat, action: action.to_owned(), what, ..Line::default() }
    }

    /// A line of a happening; `None` for what only `--all` tells.
    pub(crate) fn happened(happening: &Happening, seat: u32, linkage: &Linkage, all: bool) -> Option<Line> {
        let what = happening.what();
        let told = match what {
            What::Pulled | What::Ended(_) | What::Mark(_) => true,
            What::Pressed | What::Released(_) => all,
        };
        told.then(|| {
            let mut line = Line::new(happening.at(), seat, happening.action(linkage), what.name());
            line.cause = what.cause().map(|cause| cause.name());
            // Letting go is what a release is; only other causes are news.
            if matches!(what, What::Released(tidy_lever::Cause::LetGo)) {
                line.cause = None;
            }
            line.stage = happening.stage();
            line.kept = Some(happening.kept_for().as_micros() as u64).filter(|kept| *kept > 0);
            line.name = happening.mark(linkage).map(str::to_owned);
            line.amount = happening.amount().map(|amount| micros((f64::from(amount) * 1e6).round() as i64));
            line.over = happening.over(linkage).map(str::to_owned);
            line.aim = happening.aim_direction().map(|direction| direction.name());
            if line.aim.is_none()
                && let Some((last, age)) = happening.last_aim()
            {
                (line.last_aim, line.last_age) = (Some(last.name()), Some(age.as_micros() as u64));
            }
            line
        })
    }

    /// The values of all sticks and axes at the moment played.
    pub(crate) fn samples(seat: &Seat, number: u32, swept: &mut Swept) -> Vec<Line> {
        let at = seat.played();
        let linkage = seat.linkage();
        let sample = |action: tidy_lever::linkage::ActionView<'_>| {
            let mut line = Line::new(at, number, action.name(), "value");
            match action.kind() {
                Kind::Button => return None,
                Kind::Sweep => {
                    let total = seat.sweep(linkage.find(action.name()).ok()?).total_nanos();
                    let last = swept.0.insert((number, action.name().to_owned()), total).unwrap_or_default();
                    line.degrees = Some([nanos(total.0 - last.0), nanos(total.1 - last.1)]);
                }
                Kind::Gauge => line.value = Some(micros(seat.gauge(linkage.find(action.name()).ok()?).micros())),
                Kind::Pointer => {
                    let (x, y) = seat.pointer(linkage.find(action.name()).ok()?).pixels()?;
                    (line.x, line.y) = (Number::from_f64(x.into()), Number::from_f64(y.into()));
                }
                Kind::Axis => line.value = Some(micros(seat.axis(linkage.find(action.name()).ok()?).micros())),
                Kind::Stick => {
                    let (x, y) = seat.stick(linkage.find(action.name()).ok()?).micros();
                    (line.x, line.y) = (Some(micros(x.into())), Some(micros(y.into())));
                }
            }
            Some(line)
        };
        linkage.actions().filter_map(sample).collect()
    }

    pub(crate) fn json(&self) -> String {
        // Texts and numbers always turn into JSON.
        serde_json::to_string(self).unwrap_or_default()
    }
}

/// Billionths as a number: whole if it is whole.
fn nanos(nanos: i64) -> Number {
    if nanos % 1_000_000_000 == 0 {
        return Number::from(nanos / 1_000_000_000);
    }
    Number::from_f64(nanos as f64 / 1e9).unwrap_or(Number::from(0))
}

/// Millionths as a number: whole if it is whole.
fn micros(micros: i64) -> Number {
    if micros % 1_000_000 == 0 {
        return Number::from(micros / 1_000_000);
    }
    Number::from_f64(micros as f64 / 1e6).unwrap_or(Number::from(0))
}

/// Whether two lines say the same: keys in any order, numbers to the millionth.
pub(crate) fn same(a: &Value, b: &Value) -> bool {
    match (a, b) {
        (Value::Number(a), Value::Number(b)) => match (a.as_f64(), b.as_f64()) {
            (Some(a), Some(b)) => (a - b).abs() < 5e-7,
            _ => a == b,
        },
        (Value::Object(a), Value::Object(b)) => {
            a.len() == b.len() && a.iter().all(|(key, value)| b.get(key).is_some_and(|other| same(value, other)))
        }
        (Value::Array(a), Value::Array(b)) => a.len() == b.len() && a.iter().zip(b).all(|(a, b)| same(a, b)),
        _ => a == b,
    }
}
