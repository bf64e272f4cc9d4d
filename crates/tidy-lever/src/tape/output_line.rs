//! What came out, as lines for programs: one JSON object each.

use alloc::borrow::ToOwned;
use alloc::collections::BTreeMap;
use alloc::string::String;
use alloc::vec::Vec;

use serde::{Serialize, Serializer};

use crate::cause::Cause;
use crate::history::{Happening, What};
use crate::linkage::{ActionView, Linkage};
use crate::profile::Kind;
use crate::seat::Seat;
use crate::time::Moment;

/// One line of what came out. Keys that don't apply are left out of the JSON.
///
/// ```
/// use tidy_lever::tape::OutputLine;
/// use tidy_lever::{Control, Device, Event, Linkage, Moment, Profile};
///
/// let text = "tidy-lever = 1\n[action.hop]\nkind = \"button\"\npad = \"south\"\n";
/// let linkage = Linkage::build(&Profile::from_toml(text)?)?;
/// let mut seat = linkage.seat(Moment::ZERO);
/// seat.feed(Event::button(Moment::from_millis(5), Device::default(), Control::PAD_SOUTH, true))?;
/// seat.advance(Moment::from_millis(16));
/// let reading = seat.latest();
/// let came = reading.happenings().filter_map(|happening| OutputLine::of(happening, 1, &linkage, false));
/// let lines: Vec<String> = came.map(|came| came.json()).collect();
/// assert_eq!(lines, [r#"{"at":5000,"action":"hop","what":"pulled"}"#]);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Default, Serialize)]
#[non_exhaustive]
pub struct OutputLine<'l> {
    /// When, in µs.
    pub at: u64,
    /// The seat; left out for the first.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub seat: Option<u32>,
    /// The action's name.
    pub action: &'l str,
    /// `pulled`, `ended`, `mark`, `pressed`, `released` or `value`.
    pub what: &'static str,
    /// Why something ended.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub cause: Option<&'static str>,
    /// A mark's name.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub name: Option<&'l str>,
    /// A pull's stage, from 1.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub stage: Option<u8>,
    /// How long a pull was kept, in µs.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub kept: Option<u64>,
    /// A charge's amount, 0 to 1.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub amount: Option<Decimal>,
    /// Whose pull it went over.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub over: Option<&'l str>,
    /// A stick's value to the right; a pointer's place in pixels.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub x: Option<Decimal>,
    /// A stick's value up; a pointer's place in pixels, from the top.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub y: Option<Decimal>,
    /// An axis's or a gauge's value.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub value: Option<Decimal>,
    /// What was swept since the last sample, across and up.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub degrees: Option<[Decimal; 2]>,
    /// The direction that the pull aims in.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub aim: Option<&'static str>,
    /// The direction held last, if none is held.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub last_aim: Option<&'static str>,
    /// How long ago that was, in µs.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub last_age: Option<u64>,
}

/// What sweeps had swept at the last sample, by seat and action.
#[derive(Clone, Debug, Default)]
pub struct Swept(BTreeMap<(u32, String), (i64, i64)>);

impl<'l> OutputLine<'l> {
    fn new(at: Moment, seat: u32, action: &'l str, what: &'static str) -> OutputLine<'l> {
        let seat = (seat != 1).then_some(seat);
        OutputLine { at: at.as_micros(), seat, action, what, ..OutputLine::default() }
    }

    /// A line of a happening in a seat, numbered from 1; `None` for what is told only with `all` (going down and letting go),
    /// and for a linkage of another profile.
    pub fn of(happening: &Happening, seat: u32, linkage: &'l Linkage, all: bool) -> Option<OutputLine<'l>> {
        let what = happening.what();
        let told = match what {
            What::Pulled | What::Ended(_) | What::Mark(_) => true,
            What::Pressed | What::Released(_) => all,
        };
        let action = happening.action(linkage)?;
        told.then(|| {
            let mut line = OutputLine::new(happening.at(), seat, action, what.name());
            line.cause = what.cause().map(Cause::name);
            // Letting go is what a release is; only other causes are news.
            if matches!(what, What::Released(Cause::LetGo)) {
                line.cause = None;
            }
            line.stage = happening.stage();
            line.kept = Some(happening.kept_for().as_micros() as u64).filter(|kept| *kept > 0);
            line.name = happening.mark(linkage);
            line.amount = happening.amount().map(|amount| micros(libm::round(f64::from(amount) * 1e6) as i64));
            line.over = happening.over(linkage);
            line.aim = happening.aim_direction().map(|direction| direction.name());
            if line.aim.is_none()
                && let Some((last, age)) = happening.last_aim()
            {
                (line.last_aim, line.last_age) = (Some(last.name()), Some(age.as_micros() as u64));
            }
            line
        })
    }

    /// The values of all sticks, axes, sweeps, gauges and pointers of a seat at the moment played.
    pub fn samples(seat: &'l Seat, number: u32, swept: &mut Swept) -> Vec<OutputLine<'l>> {
        let at = seat.played();
        let linkage = seat.linkage();
        let sample = |action: ActionView<'l>| {
            let mut line = OutputLine::new(at, number, action.name(), "value");
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
                    (line.x, line.y) = (Some(Decimal(x.into())), Some(Decimal(y.into())));
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

    /// The line as JSON, without the line's end.
    pub fn json(&self) -> String {
        // Texts and numbers always turn into JSON.
        serde_json::to_string(self).unwrap_or_default()
    }
}

/// A number of a line, printed without a point if it is whole.
#[derive(Clone, Copy, Debug, Default, PartialEq, PartialOrd)]
pub struct Decimal(f64);

impl Decimal {
    /// The number.
    pub const fn value(self) -> f64 {
        self.0
    }
}

impl Serialize for Decimal {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        // Whole numbers below 2^53 are exact.
        let is_whole = self.0 % 1.0 == 0.0 && self.0.abs() < 9_007_199_254_740_992.0;
        if is_whole { serializer.serialize_i64(self.0 as i64) } else { serializer.serialize_f64(self.0) }
    }
}

fn nanos(nanos: i64) -> Decimal {
    Decimal(nanos as f64 / 1e9)
}

fn micros(micros: i64) -> Decimal {
    Decimal(micros as f64 / 1e6)
}
