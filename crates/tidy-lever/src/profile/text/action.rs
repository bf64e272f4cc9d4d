//! Reads the tables of actions: controls, cues, shapes, gauges.

use super::super::keys::{FAMILY_SHAPES, GAUGE_KEYS, SHAPE_KEYS};
use super::super::{
    ACTION_KEYS, Action, ActiveIn, Bend, DeadKind, Gauge, Inputs, Kind, Leg, Legs, Opposed, Placed, Rest, Sectors,
    Shape, SpanEntry, Spot, Stages,
};
use super::reader::{Reader, Value, names, number};
use crate::control::Family;
use alloc::format;
use alloc::string::{String, ToString};
use alloc::vec::Vec;
use toml::de::DeValue;

/// What cues forgive, as keys that take spans.
const FORGIVES: [&str; 7] = ["early", "fresh", "astray", "brush", "key_gap", "rested", "settles"];

impl Reader<'_> {
    pub(super) fn action(&mut self, name: Placed<String>, value: &Value<'_>, path: &str) {
        let Some(table) = self.table(value, path) else { return };
        let mut action = Action { name, ..Action::default() };
        let mut kinded = false;
        for (key, value) in table {
            let known = ACTION_KEYS.iter().find(|known| known.name == key.get_ref());
            let Some(known) = known else {
                let names: Vec<&str> = ACTION_KEYS.iter().map(|known| known.name).collect();
                self.unknown(key, path, &names);
                continue;
            };
            let spot = self.lines.spot(&key.span());
            action.given.push(Placed::new(known.name, spot));
            kinded |= known.name == "kind";
            self.action_key(&mut action, known.name, value, &format!("{path}.{}", known.name));
        }
        if !kinded {
            let spot = action.name.spot;
            self.fault(
                spot,
                path,
                "an action needs a kind; add `kind = \"button\"` (or \"axis\", \"stick\", \"sweep\", \"pointer\", \"gauge\")",
            );
        }
        self.profile.actions.push(action);
    }

    pub(super) fn action_key(&mut self, action: &mut Action, key: &str, value: &Value<'_>, path: &str) {
        let spot = self.spot(value);
        if let Some(family) = Family::from_name(key) {
            action.inputs[family.index()] = self.inputs(value, path).map(|inputs| Placed::new(inputs, spot));
            return;
        }
        if let Some(index) = FAMILY_SHAPES.iter().position(|name| *name == key) {
            action.family_shape[index] = self.shape(value, path).map(|shape| Placed::new(shape, spot));
            return;
        }
        if let Some(key) = FORGIVES.iter().find(|known| **known == key) {
            action.forgives.extend(self.span(value, path).map(|span| (*key, span)));
            return;
        }
        match key {
            "kind" => {
                let kinds = Kind::ALL.map(|kind| (kind.name(), kind));
                action.kind = Placed::new(self.word(value, path, &kinds).unwrap_or_default(), spot);
            }
            "modes" => {
                action.heard = match value.get_ref() {
                    DeValue::String(word) if word == "always" => ActiveIn::Always,
                    _ => ActiveIn::In(self.texts(value, path).unwrap_or_default()),
                }
            }
            "down_at" => action.down_at = self.number(value, path),
            "up_at" => action.up_at = self.number(value, path),
            "cue" => {
                let lines = self.texts(value, path).unwrap_or_default();
                action.cues = lines.into_iter().map(|line| Placed::new(line.value.into(), line.spot)).collect();
            }
            "from_push" => action.from_push = self.number(value, path),
            "paced" => action.paced = self.two_spans(value, path).map(|spans| Placed::new(spans, spot)),
            "opposed" => {
                let words = [("newest", Opposed::Newest), ("oldest", Opposed::Oldest), ("cancel", Opposed::Cancel)];
                action.opposed = self.word(value, path, &words).unwrap_or_default();
            }
            "rest" => {
                let words = [("last", Rest::Last), ("middle", Rest::Middle)];
                action.rest = self.word(value, path, &words).unwrap_or_default();
            }
            "shape" => action.shape = self.shape(value, path).map(|shape| Placed::new(shape, spot)),
            "range" => action.range = self.range(value, path).map(|range| Placed::new(range, spot)),
            "per_count" => action.per_count = self.both(value, path).map(|both| Placed::new(both, spot)),
            "per_second" => action.per_second = self.both(value, path).map(|both| Placed::new(both, spot)),
            "drag_from" => action.drag_from = self.number(value, path),
            "aim" => action.aim = self.text(value, path),
            "gauge" => action.gauge = self.gauge(value, path).map(|gauge| Placed::new(gauge, spot)),
            "cooldown" => action.cooldown = self.span(value, path),
            "marks" => action.marks = self.marks(value, path),
            "outranks" => action.outranks = self.texts(value, path).unwrap_or_default(),
            "waits_for" => action.waits_for = self.texts(value, path).unwrap_or_default(),
            "when" => action.when = self.text(value, path),
            "keep" => action.keep = self.span(value, path),
            "while_held" => action.while_held = self.flag(value, path).unwrap_or_default(),
            "spends" => action.spends = self.texts(value, path),
            "stages" => action.stages = self.stages(value, path).map(|stages| Placed::new(stages, spot)),
            "turns_on" => action.turns_on = self.texts(value, path).unwrap_or_default(),
            "turns_off" => action.turns_off = self.texts(value, path).unwrap_or_default(),
            "group" => action.group = self.text(value, path),
            "directions" => {
                let whole = |n: f64| if n % 1.0 == 0.0 { n as i64 } else { 0 };
                action.directions = self.number(value, path).map(|n| Placed::new(whole(n.value), spot));
            }
            "sectors" => {
                let words = [("equal", Sectors::Equal), ("box", Sectors::Box)];
                action.sectors = self.word(value, path, &words).unwrap_or_default();
            }
            _ => unreachable!("every action key is read: {key}"),
        }
    }

    /// A span, as text.
    pub(super) fn span(&mut self, value: &Value<'_>, path: &str) -> Option<Placed<SpanEntry>> {
        self.text(value, path).map(|text| Placed::new(SpanEntry::Text(text.value), text.spot))
    }

    /// A list of two spans.
    pub(super) fn two_spans(&mut self, value: &Value<'_>, path: &str) -> Option<[Placed<SpanEntry>; 2]> {
        if let DeValue::Array(list) = value.get_ref() {
            let spans: Vec<Placed<SpanEntry>> = list.iter().filter_map(|item| self.span(item, path)).collect();
            if let (2, Ok(spans)) = (list.len(), <[Placed<SpanEntry>; 2]>::try_from(spans)) {
                return Some(spans);
            }
        }
        self.wrong(value, path, "a list of two spans, as in [\"200ms\", \"400ms\"]");
        None
    }

    /// One number for both axes, or a list of two.
    pub(super) fn both(&mut self, value: &Value<'_>, path: &str) -> Option<[f64; 2]> {
        match number(value.get_ref()) {
            Some(n) => Some([n, n]),
            None => self.numbers(value, path),
        }
    }

    pub(super) fn inputs(&mut self, value: &Value<'_>, path: &str) -> Option<Inputs> {
        let DeValue::Table(table) = value.get_ref() else {
            return self.texts(value, path).map(Inputs::Any);
        };
        let mut legs = Legs::default();
        let all: Vec<Leg> = Leg::CROSS.into_iter().chain(Leg::PAIR).collect();
        for (key, value) in table {
            let inner = format!("{path}.{}", key.get_ref());
            match all.iter().find(|leg| leg.name() == key.get_ref()) {
                Some(leg) => legs.0.push((*leg, self.texts(value, &inner).unwrap_or_default())),
                None => {
                    let names: Vec<&str> = all.iter().map(|leg| leg.name()).collect();
                    self.unknown(key, path, &names);
                }
            }
        }
        // In the order of the text, as all else.
        legs.0.sort_by_key(|(_, names)| names.first().map_or(Spot::NONE, |name| name.spot));
        Some(Inputs::Legs(legs))
    }

    pub(super) fn shape(&mut self, value: &Value<'_>, path: &str) -> Option<Shape> {
        let table = self.table(value, path)?;
        let mut shape = Shape::default();
        for (key, value) in table {
            let inner = format!("{path}.{}", key.get_ref());
            match key.get_ref().as_ref() {
                "dead" => shape.dead = self.number(value, &inner).map_or(shape.dead, |n| n.value),
                "full" => shape.full = self.number(value, &inner).map_or(shape.full, |n| n.value),
                "scale" => shape.scale = self.number(value, &inner).map_or(shape.scale, |n| n.value),
                "curve" => match value.get_ref() {
                    DeValue::Array(points) => {
                        let read = points.iter().filter_map(|point| self.numbers(point, &inner)).collect();
                        shape.curve = Bend::Points(read);
                    }
                    _ => shape.curve = self.number(value, &inner).map_or(shape.curve, |n| Bend::Exponent(n.value)),
                },
                "invert" => match value.get_ref() {
                    DeValue::Boolean(flag) => (shape.invert_x, shape.invert_y) = (*flag, *flag),
                    _ => {
                        let words = [("x", (true, false)), ("y", (false, true)), ("both", (true, true))];
                        (shape.invert_x, shape.invert_y) = self.word(value, &inner, &words).unwrap_or_default();
                    }
                },
                "dead_kind" => {
                    let words = [("round", DeadKind::Round), ("each-axis", DeadKind::EachAxis)];
                    shape.dead_kind = self.word(value, &inner, &words).unwrap_or_default();
                }
                _ => self.unknown(key, path, &names(SHAPE_KEYS)),
            }
        }
        Some(shape)
    }

    pub(super) fn marks(&mut self, value: &Value<'_>, path: &str) -> Vec<(Placed<String>, Placed<SpanEntry>)> {
        let Some(table) = self.table(value, path) else { return Vec::new() };
        let mut marks: Vec<(Placed<String>, Placed<SpanEntry>)> = Vec::new();
        for (key, value) in table {
            let name = Placed::new(key.get_ref().to_string(), self.lines.spot(&key.span()));
            marks.extend(self.span(value, path).map(|span| (name, span)));
        }
        marks.sort_by_key(|(name, _)| name.spot);
        marks
    }

    pub(super) fn stages(&mut self, value: &Value<'_>, path: &str) -> Option<Stages> {
        let table = self.table(value, path)?;
        let mut stages = Stages { count: 0, ..Stages::default() };
        for (key, value) in table {
            let inner = format!("{path}.{}", key.get_ref());
            match key.get_ref().as_ref() {
                "count" => stages.count = self.number(value, &inner).map_or(0, |n| n.value as i64),
                "after" => stages.after = self.text(value, &inner).unwrap_or_default(),
                "within" => stages.within = self.span(value, &inner).unwrap_or_default(),
                _ => self.unknown(key, path, &["count", "after", "within"]),
            }
        }
        Some(stages)
    }

    pub(super) fn gauge(&mut self, value: &Value<'_>, path: &str) -> Option<Gauge> {
        let table = self.table(value, path)?;
        let mut gauge = Gauge::default();
        for (key, value) in table {
            let inner = format!("{path}.{}", key.get_ref());
            let text = |reader: &mut Self| reader.text(value, &inner).map(|text| text.value);
            match key.get_ref().as_ref() {
                "floor" => gauge.floor = self.number(value, &inner).map_or(gauge.floor, |n| n.value),
                "ceiling" => gauge.ceiling = self.number(value, &inner).map_or(gauge.ceiling, |n| n.value),
                "start" => gauge.start = self.number(value, &inner).map(|n| n.value),
                "push" => match value.get_ref() {
                    // The steps of a list push, too.
                    DeValue::Array(_) => gauge.steps = self.list(value, &inner),
                    _ => gauge.push = text(self),
                },
                "steps" => gauge.steps = self.list(value, &inner),
                "rest" => gauge.rest = self.span(value, &inner).map(|span| span.value),
                "fade" => gauge.fade = text(self),
                "refill" => gauge.refill = text(self),
                "drain" => gauge.drain = text(self),
                "pulls" => gauge.pulls = text(self),
                _ => self.unknown(key, path, &names(GAUGE_KEYS)),
            }
        }
        Some(gauge)
    }

    /// A list of numbers of any length.
    pub(super) fn list(&mut self, value: &Value<'_>, path: &str) -> Vec<f64> {
        let DeValue::Array(list) = value.get_ref() else {
            self.wrong(value, path, "a list of numbers");
            return Vec::new();
        };
        list.iter().filter_map(|item| self.number(item, path)).map(|n| n.value).collect()
    }

    pub(super) fn range(&mut self, value: &Value<'_>, path: &str) -> Option<[f64; 3]> {
        const KEYS: [&str; 3] = ["low", "rest", "high"];
        let table = self.table(value, path)?;
        let mut range = [-1.0, f64::NAN, 1.0];
        for (key, value) in table {
            match KEYS.iter().position(|name| *name == key.get_ref()) {
                Some(i) => range[i] = self.number(value, &format!("{path}.{}", KEYS[i]))?.value,
                None => self.unknown(key, path, &KEYS),
            }
        }
        if range[1].is_nan() {
            range[1] = (range[0] + range[2]) / 2.0;
        }
        Some(range)
    }
}
