//! A tape's line as its JSON object has it, before it is known what it says.

use super::line::{Line, LineError, LineKind, TapeValue};
use super::plain;
use crate::control::{Control, Sort};
use crate::event::{Phase, Spread};
use crate::seat::{StickMemory, WIDEST_VIEW};
use crate::table::MOST_SEATS;
use crate::time::Moment;
use alloc::format;
use alloc::string::{String, ToString};
use alloc::vec::Vec;
use core::fmt;
use serde::de::{Error, MapAccess, SeqAccess, Visitor};
use serde::{Deserialize, Deserializer, Serialize};

/// A line as it stands in JSON. Which keys are there decides what it says.
#[derive(Default, Serialize, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub(in crate::tape) struct Raw {
    at: Option<u64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    seat: Option<u32>,
    #[serde(skip_serializing_if = "Option::is_none")]
    dev: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    control: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    touch: Option<u64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    phase: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    x: Option<f64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    y: Option<f64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    fact: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    mode: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    on: Option<bool>,
    #[serde(skip_serializing_if = "Option::is_none")]
    set: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    value: Option<RawValue>,
    #[serde(skip_serializing_if = "Option::is_none")]
    resync: Option<bool>,
    #[serde(skip_serializing_if = "Option::is_none")]
    plugged: Option<bool>,
    #[serde(skip_serializing_if = "Option::is_none")]
    name: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    focus: Option<bool>,
    #[serde(skip_serializing_if = "Option::is_none")]
    panel: Option<bool>,
    #[serde(skip_serializing_if = "Option::is_none")]
    frozen: Option<bool>,
    #[serde(skip_serializing_if = "Option::is_none")]
    give_back: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    skip: Option<bool>,
    #[serde(skip_serializing_if = "Option::is_none")]
    from: Option<u64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    remap: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    number: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    profile: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    view: Option<[u32; 2]>,
    #[serde(skip_serializing_if = "Option::is_none")]
    dpi: Option<f64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    meant: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    spread: Option<u32>,
    #[serde(skip_serializing_if = "Option::is_none")]
    middle: Option<[f32; 2]>,
    #[serde(skip_serializing_if = "Option::is_none")]
    rests: Option<Vec<[f32; 2]>>,
    #[serde(skip_serializing_if = "Option::is_none")]
    swings: Option<Vec<bool>>,
    #[serde(skip_serializing_if = "Option::is_none")]
    end: Option<bool>,
}

#[derive(Clone, Serialize)]
#[serde(untagged)]
enum RawValue {
    Flag(bool),
    Number(f64),
    Word(String),
}

impl<'de> Deserialize<'de> for RawValue {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<RawValue, D::Error> {
        from.deserialize_any(OneOfThree)
    }
}

/// Reads a `value` as it stands, without a tree between.
struct OneOfThree;

impl OneOfThree {
    const WANTED: &str =
        "a `value` is a number, true, false or a word in quotes; of a stick write `\"x\":0.5,\"y\":-0.2`";
}

impl<'de> Visitor<'de> for OneOfThree {
    type Value = RawValue;

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(OneOfThree::WANTED)
    }

    fn visit_bool<E: Error>(self, value: bool) -> Result<RawValue, E> {
        Ok(RawValue::Flag(value))
    }

    fn visit_i64<E: Error>(self, value: i64) -> Result<RawValue, E> {
        Ok(RawValue::Number(value as f64))
    }

    fn visit_u64<E: Error>(self, value: u64) -> Result<RawValue, E> {
        Ok(RawValue::Number(value as f64))
    }

    fn visit_f64<E: Error>(self, value: f64) -> Result<RawValue, E> {
        Ok(RawValue::Number(value))
    }

    fn visit_str<E: Error>(self, value: &str) -> Result<RawValue, E> {
        Ok(RawValue::Word(value.into()))
    }

    fn visit_seq<A: SeqAccess<'de>>(self, _: A) -> Result<RawValue, A::Error> {
        Err(A::Error::custom(OneOfThree::WANTED))
    }

    fn visit_map<A: MapAccess<'de>>(self, _: A) -> Result<RawValue, A::Error> {
        Err(A::Error::custom(OneOfThree::WANTED))
    }
}

/// The most characters of a name in a line: a file's name may have so many.
const LONGEST_NAME: usize = 255;

/// What a line may say, with the key that tells it.
const KINDS: &str = "control, touch, fact, mode, set, focus, plugged, name, panel, frozen, give_back, skip, remap, number, profile, view, meant or end";

impl Raw {
    pub(super) fn line(mut self) -> Result<Line, String> {
        let at = self.at.take().ok_or("the line has no `at`, its moment in whole microseconds")?;
        if at > Moment::LATEST.as_micros() {
            return Err(format!("`at` is beyond the last possible moment, {}", Moment::LATEST.as_micros()));
        }
        let seat = self.seat.take().unwrap_or(1);
        if !(1..=MOST_SEATS as u32).contains(&seat) {
            return Err(format!("a tape has at most {MOST_SEATS} seats, numbered from 1; there is no seat {seat}"));
        }
        if let Some((key, _)) =
            self.names().find(|(_, name)| name.len() > LONGEST_NAME && name.chars().count() > LONGEST_NAME)
        {
            return Err(format!("`{key}` is longer than {LONGEST_NAME} characters; no name is"));
        }
        let kind = self.said(at)?;
        let spread = if kind.is_event() { self.spread.take().unwrap_or_default() } else { 0 };
        self.nothing_left()?;
        Ok(Line { at: Moment::from_micros(at), seat, kind, spread: Spread::from_micros(spread) })
    }

    /// What a line calls by a name.
    fn names(&self) -> impl Iterator<Item = (&'static str, &str)> {
        let word = match &self.value {
            Some(RawValue::Word(word)) => Some(word),
            _ => None,
        };
        let all = [
            ("dev", self.dev.as_ref()),
            ("control", self.control.as_ref()),
            ("phase", self.phase.as_ref()),
            ("name", self.name.as_ref()),
            ("fact", self.fact.as_ref()),
            ("mode", self.mode.as_ref()),
            ("set", self.set.as_ref()),
            ("value", word),
            ("give_back", self.give_back.as_ref()),
            ("number", self.number.as_ref()),
            ("remap", self.remap.as_ref()),
            ("profile", self.profile.as_ref()),
            ("meant", self.meant.as_ref()),
        ];
        all.into_iter().filter_map(|(key, name)| Some((key, name?.as_str())))
    }

    /// All keys but `at` and `seat`, whether each is there, and whether a line has one of its sort only.
    fn keys(&self) -> impl Iterator<Item = (&'static str, bool)> + use<> {
        let all = [
            ("dev", self.dev.is_some(), false),
            ("control", self.control.is_some(), true),
            ("touch", self.touch.is_some(), true),
            ("phase", self.phase.is_some(), false),
            ("x", self.x.is_some(), false),
            ("y", self.y.is_some(), false),
            ("fact", self.fact.is_some(), true),
            ("mode", self.mode.is_some(), true),
            ("on", self.on.is_some(), false),
            ("set", self.set.is_some(), true),
            ("value", self.value.is_some(), false),
            ("resync", self.resync.is_some(), false),
            ("plugged", self.plugged.is_some(), true),
            ("name", self.name.is_some(), true),
            ("focus", self.focus.is_some(), true),
            ("panel", self.panel.is_some(), true),
            ("frozen", self.frozen.is_some(), true),
            ("give_back", self.give_back.is_some(), true),
            ("skip", self.skip.is_some(), true),
            ("from", self.from.is_some(), false),
            ("remap", self.remap.is_some(), true),
            ("number", self.number.is_some(), true),
            ("profile", self.profile.is_some(), true),
            ("view", self.view.is_some(), true),
            ("dpi", self.dpi.is_some(), false),
            ("meant", self.meant.is_some(), true),
            ("middle", self.middle.is_some(), false),
            ("rests", self.rests.is_some(), false),
            ("swings", self.swings.is_some(), false),
            ("spread", self.spread.is_some(), false),
            ("end", self.end.is_some(), true),
        ];
        all.into_iter().filter_map(|(key, is_there, is_only)| is_there.then_some((key, is_only)))
    }

    fn said(&mut self, at: u64) -> Result<LineKind, String> {
        let mut kinds = self.keys().filter_map(|(key, is_only)| is_only.then_some(key));
        if let (Some(one), Some(other)) = (kinds.next(), kinds.next()) {
            return Err(format!("the line says two things, `{one}` and `{other}`; write each on its own line"));
        }
        if self.control.is_some() {
            return self.control();
        }
        if let Some(finger) = self.touch.take() {
            let phase = self.phase.take().ok_or("a touch needs its `phase`: down, move, up or cancel")?;
            let known = Phase::ALL.into_iter().find(|known| known.name() == phase);
            let phase = known.ok_or(format!("a touch's phase is down, move, up or cancel, not `{phase}`"))?;
            let (x, y) = (self.x.take().ok_or("a touch needs `x`")?, self.y.take().ok_or("a touch needs `y`")?);
            return Ok(LineKind::Touch { device: self.device()?, finger, phase, x, y });
        }
        if let Some(plugged) = self.plugged.take() {
            return Ok(LineKind::Plugged { device: self.device()?, plugged });
        }
        if let Some(name) = self.name.take() {
            return Ok(LineKind::Named { device: self.device()?, name });
        }
        if let Some(fact) = self.fact.take() {
            let value = match self.value.take() {
                Some(RawValue::Flag(flag)) => TapeValue::Flag(flag),
                Some(RawValue::Word(word)) => TapeValue::Word(word),
                _ => return Err("a fact needs a `value`: true, false or one of its words".into()),
            };
            return Ok(LineKind::Fact { fact, value });
        }
        if let Some(mode) = self.mode.take() {
            let on = self.on.take().ok_or("a mode needs `on`: true or false")?;
            return Ok(LineKind::Mode { mode, on });
        }
        if let Some(action) = self.set.take() {
            return match self.value.take() {
                Some(RawValue::Flag(value)) => Ok(LineKind::Set { action, value }),
                _ => Err("a set needs a `value`: true or false".into()),
            };
        }
        if let Some(path) = self.number.take() {
            let value = match self.value.take() {
                Some(RawValue::Number(value)) => value.to_string(),
                Some(RawValue::Word(value)) => value,
                _ => return Err("a number needs its new `value`, as a profile writes it: \"150ms\" or 0.4".into()),
            };
            return Ok(LineKind::Number { path, value });
        }
        if let Some(size) = self.view.take() {
            if !size.iter().all(|side| (1..=WIDEST_VIEW).contains(side)) {
                return Err(format!(
                    "a view is 1 to {WIDEST_VIEW} pixels wide and high, found {}x{}",
                    size[0], size[1]
                ));
            }
            let dpi = self.dpi.take();
            if dpi.is_some_and(|dpi| !(dpi > 0.0 && dpi.is_finite())) {
                return Err("a view's `dpi` must be a number above 0 (dots per inch)".into());
            }
            return Ok(LineKind::View { size, dpi });
        }
        if let Some(skip) = self.skip.take() {
            let from = self.from.take();
            if !skip || from.is_some_and(|from| from > at) {
                return Err("a gap is `\"skip\":true`, with `from` at or before `at`".into());
            }
            return Ok(LineKind::Skip { from: from.map(Moment::from_micros) });
        }
        match self.end.take() {
            Some(true) => return Ok(LineKind::End),
            Some(false) => return Err("an end is `\"end\":true`".into()),
            None => {}
        }
        let flags = self.focus.take().map(LineKind::Focus).or(self.frozen.take().map(LineKind::Frozen));
        let flags = flags.or(self.panel.take().map(LineKind::Panel));
        let names = self.give_back.take().map(LineKind::GiveBack).or(self.remap.take().map(LineKind::Remap));
        let names = names.or(self.profile.take().map(LineKind::Profile));
        let said = flags.or(names).or(self.meant.take().map(LineKind::Meant));
        said.ok_or_else(|| format!("the line says nothing: it needs one of {KINDS}"))
    }

    fn control(&mut self) -> Result<LineKind, String> {
        let control = self.control.take().unwrap_or_default();
        let device = self.device()?;
        if let Some(middle) = self.middle.take() {
            let (rests, swings) = (self.rests.take().unwrap_or_default(), self.swings.take().unwrap_or_default());
            let memory = StickMemory { middle, rests, swings };
            if memory.places().is_none() {
                return Err("a `middle` and `rests` are places from -1 to 1, right and up".into());
            }
            return Ok(LineKind::Stick { device, control, memory });
        }
        let asked = self.resync.take().unwrap_or(false);
        match (self.value.take(), self.x.take(), self.y.take()) {
            (Some(RawValue::Number(x)), None, None) if asked => Ok(LineKind::Stands { device, control, x, y: 0.0 }),
            (None, Some(x), Some(y)) if asked => Ok(LineKind::Stands { device, control, x, y }),
            (Some(RawValue::Number(value)), None, None) => Ok(LineKind::Level { device, control, value }),
            (None, Some(x), Some(y)) => Ok(LineKind::Pair { device, control, x, y }),
            (Some(_), None, None) => Err("a control's `value` is a number".into()),
            _ => Err("a control has either a `value`, or `x` and `y`, or a `middle`".into()),
        }
    }

    fn device(&mut self) -> Result<String, String> {
        self.dev.take().ok_or("the line needs `dev`, the device's name".into())
    }

    /// A line says one thing; whatever is left over was not meant so.
    fn nothing_left(&self) -> Result<(), String> {
        let keys: Vec<String> = self.keys().map(|(key, _)| format!("`{key}`")).collect();
        if keys.is_empty() {
            Ok(())
        } else {
            Err(format!("{} can't be combined with the rest of the line", keys.join(", ")))
        }
    }

    pub(super) fn of(line: &Line) -> Raw {
        let mut raw = Raw { at: Some(line.at.as_micros()), ..Raw::default() };
        raw.seat = (line.seat != 1).then_some(line.seat);
        raw.spread = Some(line.spread.as_micros()).filter(|spread| *spread > 0 && line.kind.is_event());
        match line.kind.clone() {
            LineKind::Level { device, control, value } => {
                (raw.dev, raw.control, raw.value) = (Some(device), Some(control), Some(RawValue::Number(value)));
            }
            LineKind::Pair { device, control, x, y } => {
                (raw.dev, raw.control, raw.x, raw.y) = (Some(device), Some(control), Some(x), Some(y));
            }
            LineKind::Stands { device, control, x, y } => {
                let is_pair = control.parse().is_ok_and(|control: Control| control.sort() == Sort::Pair);
                (raw.dev, raw.control, raw.resync) = (Some(device), Some(control), Some(true));
                if is_pair {
                    (raw.x, raw.y) = (Some(x), Some(y));
                } else {
                    raw.value = Some(RawValue::Number(x));
                }
            }
            LineKind::Touch { device, finger, phase, x, y } => {
                (raw.dev, raw.touch, raw.phase) = (Some(device), Some(finger), Some(phase.name().into()));
                (raw.x, raw.y) = (Some(x), Some(y));
            }
            LineKind::Plugged { device, plugged } => (raw.dev, raw.plugged) = (Some(device), Some(plugged)),
            LineKind::Stick { device, control, memory: StickMemory { middle, rests, swings } } => {
                (raw.dev, raw.control, raw.middle) = (Some(device), Some(control), Some(middle));
                (raw.rests, raw.swings) = (Some(rests), Some(swings));
            }
            LineKind::Named { device, name } => (raw.dev, raw.name) = (Some(device), Some(name)),
            LineKind::Fact { fact, value } => {
                raw.fact = Some(fact);
                raw.value = Some(match value {
                    TapeValue::Flag(flag) => RawValue::Flag(flag),
                    TapeValue::Word(word) => RawValue::Word(word),
                });
            }
            LineKind::Mode { mode, on } => (raw.mode, raw.on) = (Some(mode), Some(on)),
            LineKind::Set { action, value } => (raw.set, raw.value) = (Some(action), Some(RawValue::Flag(value))),
            LineKind::Focus(focus) => raw.focus = Some(focus),
            LineKind::Panel(shown) => raw.panel = Some(shown),
            LineKind::Frozen(frozen) => raw.frozen = Some(frozen),
            LineKind::GiveBack(action) => raw.give_back = Some(action),
            LineKind::Skip { from } => (raw.skip, raw.from) = (Some(true), from.map(Moment::as_micros)),
            LineKind::Remap(file) => raw.remap = Some(file),
            LineKind::Number { path, value } => {
                raw.number = Some(path);
                raw.value = Some(value.parse().map_or(RawValue::Word(value), RawValue::Number));
            }
            LineKind::Profile(file) => raw.profile = Some(file),
            LineKind::View { size, dpi } => (raw.view, raw.dpi) = (Some(size), dpi),
            LineKind::Meant(text) => raw.meant = Some(text),
            LineKind::End => raw.end = Some(true),
        }
        raw
    }
}

impl Line {
    /// Reads one line.
    ///
    /// ```
    /// use tidy_lever::tape::{Line, LineKind};
    ///
    /// let line = Line::read(r#"{"at":200000,"mode":"menu","on":true}"#)?;
    /// assert_eq!(line.kind, LineKind::Mode { mode: "menu".into(), on: true });
    /// assert!(Line::read(r#"{"at":1,"mode":"menu"}"#).is_err());
    /// # Ok::<(), tidy_lever::tape::LineError>(())
    /// ```
    ///
    /// # Errors
    /// A [`LineError`] that says what is wrong with it.
    pub fn read(text: &str) -> Result<Line, LineError> {
        if let Some(line) = plain::line(text) {
            return Ok(line);
        }
        let raw: Raw = serde_json::from_str(text).map_err(|error| in_one_line(&error))?;
        Ok(raw.line()?)
    }

    /// The line as JSON, without the line's end.
    pub fn write(&self) -> String {
        // A struct of numbers and texts always turns into JSON.
        serde_json::to_string(&Raw::of(self)).unwrap_or_default()
    }
}

/// JSON's complaint without the "line 1" that every single line would have.
pub(super) fn in_one_line(error: &serde_json::Error) -> String {
    let text = format!("{error}");
    let bare = text.split(" at line ").next().unwrap_or_default();
    // Our own complaints have no column, and are whole sentences.
    if error.column() > 0 {
        format!("the line can't be read: {bare}, at column {}", error.column())
    } else {
        bare.into()
    }
}
