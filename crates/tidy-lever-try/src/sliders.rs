//! The numbers of the chosen action as sliders.

use tidy_lever::profile::{Number, Unit};
use tidy_lever_view::canvas::{Canvas, Side};
use tidy_lever_view::{Area, palette as p};

use crate::hits::{Hit, Hits};
use crate::session::Session;

/// How high a slider is with its texts.
pub(crate) const HIGH: f32 = 40.0;

/// Chosen instead of an action: how devices are guarded.
pub(crate) const DEVICES: &str = "devices";

/// What a slider's rail reaches from and to: the whole range where that is small, else some way beyond the value and the
/// default.
pub(crate) fn reach(number: &Number) -> (f64, f64) {
    let high = number.value.abs().max(number.default.unwrap_or(0.0).abs());
    let wide = match number.unit {
        Unit::Milliseconds => (high * 2.0).max(200.0),
        Unit::Level | Unit::Sides => 1.0,
        _ => (high * 2.0).max(2.0),
    };
    let nice = |wide: f64| {
        let ten = 10f64.powf(wide.log10().floor());
        [1.0, 2.0, 3.0, 5.0, 10.0].into_iter().map(|factor| factor * ten).find(|nice| *nice >= wide).unwrap_or(wide)
    };
    let most = number.most.min(nice(wide));
    (number.least.max(-nice(wide)), most.max(number.least))
}

/// How fine a slider moves.
fn step(number: &Number) -> f64 {
    match number.unit {
        Unit::Milliseconds | Unit::Count | Unit::Pixels => 1.0,
        Unit::Turns => 0.25,
        Unit::DegreesPerCount => 0.001,
        Unit::DegreesPerSecond => 1.0,
        _ => 0.01,
    }
}

/// The value at a place of a rail, a round one.
pub(crate) fn at(number: &Number, (least, most): (f64, f64), rail: Area, x: f32) -> f64 {
    let share = f64::from(((x - rail.x) / rail.wide.max(1.0)).clamp(0.0, 1.0));
    let step = step(number);
    let value = least + share * (most - least);
    // Without the dust that floats leave behind.
    let round = |value: f64| (value * 1e6).round() / 1e6;
    round(((value / step).round() * step).clamp(number.least, number.most))
}

/// A value with its unit.
fn told(number: &Number, value: f64) -> String {
    let round = (value * 1e4).round() / 1e4;
    match number.unit.name() {
        "" => round.to_string(),
        unit => format!("{round} {unit}"),
    }
}

/// The numbers of the chosen action, each with its path behind the action's name.
fn own(session: &Session) -> impl Iterator<Item = (&str, &Number)> {
    let chosen = session.chosen.as_deref().unwrap_or_default();
    session
        .tuning
        .numbers()
        .iter()
        .filter_map(move |number| Some((number.path.strip_prefix(chosen)?.strip_prefix('.')?, number)))
}

/// Draws the sliders from the `first`-th on, as many as fit.
pub(crate) fn draw(canvas: &mut Canvas<'_>, session: &Session, area: Area, first: usize, hits: &mut Hits) {
    let chosen = session.chosen.as_deref().unwrap_or_default();
    let all: Vec<(&str, &Number)> = own(session).collect();
    let moved = session.tuning.moved();
    let title = match (all.len(), moved.len()) {
        (0, 0) => format!("{chosen} has no numbers"),
        (_, 0) => format!("numbers of {chosen}"),
        (_, count) => format!("numbers of {chosen}; {count} moved, not saved"),
    };
    let room = ((area.high - 20.0) / HIGH).max(0.0) as usize;
    let is_part = (1..all.len()).contains(&room);
    let beside = if is_part { 70.0 } else { 0.0 };
    canvas.fitting((area.x, area.y + 12.0), 12.0, p::FAINT, &title, area.wide - beside);
    if is_part {
        let text = format!("{}–{} of {}", first + 1, (first + room).min(all.len()), all.len());
        canvas.text((area.x + area.wide, area.y + 12.0), 11.0, Side::Right, p::FAINT, &text);
    }
    for (place, (name, number)) in all.into_iter().skip(first).take(room).enumerate() {
        let y = area.y + 20.0 + place as f32 * HIGH;
        let is_moved = moved.iter().any(|(path, _)| *path == number.path);
        let ink = if is_moved { p::WAITS } else { p::INK };
        let value = told(number, number.value);
        let wide = canvas.text((area.x + area.wide, y + 13.0), 13.0, Side::Right, ink, &value);
        let named = canvas.wide(name, 13.0);
        canvas.fitting((area.x, y + 13.0), 13.0, ink, name, area.wide - wide - 8.0);
        let room = area.wide - wide - named - 24.0;
        canvas.fitting((area.x + named + 10.0, y + 13.0), 10.5, p::DIM, number.meaning, room);
        let rail = Area { x: area.x, y: y + 19.0, wide: area.wide, high: 6.0 };
        let reach = reach(number);
        let x = |value: f64| {
            let share = ((value - reach.0) / (reach.1 - reach.0).max(1e-9)).clamp(0.0, 1.0);
            rail.x + rail.wide * share as f32
        };
        canvas.card((rail.x, rail.y), (rail.wide, rail.high), 3.0, p::RAIL);
        canvas.card((rail.x, rail.y), ((x(number.value) - rail.x).max(3.0), rail.high), 3.0, p::LIT);
        if let Some(default) = number.default {
            canvas.rect(x(default) - 0.5, rail.y - 2.0, 1.0, rail.high + 4.0, p::FAINT);
        }
        let knob = tidy_lever_view::glam::Vec2::new(x(number.value), rail.y + 3.0);
        canvas.disc(knob, 6.0, if is_moved { p::WAITS } else { p::ON });
        canvas.text((area.x, y + 36.0), 9.5, Side::Left, p::DIM, &told(number, reach.0));
        canvas.text((area.x + area.wide, y + 36.0), 9.5, Side::Right, p::DIM, &told(number, reach.1));
        if let Some(default) = number.default {
            let text = format!("default {}", told(number, default));
            canvas.text((area.x + area.wide / 2.0, y + 36.0), 9.5, Side::Middle, p::DIM, &text);
        }
        let grip = Area { x: rail.x - 6.0, y: y + 14.0, wide: rail.wide + 12.0, high: 16.0 };
        hits.put(grip, Hit::Number(number.path.clone(), rail, reach));
    }
}

/// How many numbers the chosen action has.
pub(crate) fn count(session: &Session) -> usize {
    own(session).count()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_rail_is_as_wide_as_its_number_needs_and_its_values_are_round() {
        let text = "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\ncue = \"hold 0.3s\"\nkeep = \"120ms\"\n\
                    [action.steer]\nkind = \"stick\"\npad = \"left-stick\"\npad_shape = { dead = 0.2 }\n";
        let all = tidy_lever::profile::numbers(text).unwrap_or_default();
        let of = |path: &str| all.iter().find(|number| number.path == path);
        let rail = Area { x: 100.0, y: 0.0, wide: 200.0, high: 6.0 };
        for (path, wide, x, value) in [
            ("hop.hold", 1000.0, 200.3, 502.0),
            ("hop.keep", 300.0, 101.4, 2.0),
            ("steer.pad_shape.dead", 1.0, 171.3, 0.36),
        ] {
            let Some(number) = of(path) else { panic!("{path} of {all:?}") };
            assert_eq!(reach(number), (0.0_f64.max(number.least), f64::min(wide, number.most)), "{path}");
            assert_eq!(at(number, reach(number), rail, x), value, "{path}");
        }
    }
}
