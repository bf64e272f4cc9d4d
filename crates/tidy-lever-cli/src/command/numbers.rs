//! The numbers of a profile, for `check --numbers`.

use anyhow::Result;
use serde_json::json;
use tidy_lever::profile::Number;

use crate::out::Out;
use crate::paint;

/// A table of all numbers: path, value, range, default, place and meaning.
pub(crate) fn table(out: &mut Out, numbers: &[Number]) -> Result<()> {
    let mut table = paint::table();
    table.set_header(["number", "value", "range", "default", "place", "meaning"]);
    for number in numbers {
        let in_unit = |value: f64| match number.unit.name() {
            "" => grouped(value),
            unit => format!("{} {unit}", grouped(value)),
        };
        let place = number
            .written
            .as_ref()
            .map_or("not written".to_owned(), |written| format!("{}:{}", written.spot.line, written.spot.column));
        let range = match (number.unit.name(), number.least, number.most) {
            ("ms", 0.0, 86_400_000.0) => "up to 1 day".to_owned(),
            ("ms", 0.0, 1_000.0) => "up to 1 s".to_owned(),
            (_, least, most) => format!("{} to {}", grouped(least), grouped(most)),
        };
        let default = number.default.map_or("-".to_owned(), in_unit);
        table.add_row([&number.path, &in_unit(number.value), &range, &default, &place, number.meaning]);
    }
    paint::rows(out, &table)
}

/// A number with its thousands apart.
pub(crate) fn grouped(value: f64) -> String {
    let text = value.to_string();
    let (whole, part) = text.split_once('.').map_or((text.as_str(), None), |(whole, part)| (whole, Some(part)));
    let (sign, digits) = whole.strip_prefix('-').map_or(("", whole), |digits| ("-", digits));
    let mut grouped = String::from(sign);
    for (place, digit) in digits.chars().enumerate() {
        if place > 0 && (digits.len() - place).is_multiple_of(3) {
            grouped.push(',');
        }
        grouped.push(digit);
    }
    part.into_iter().for_each(|part| grouped += &format!(".{part}"));
    grouped
}

/// One JSON object a number.
pub(crate) fn lines(out: &mut Out, numbers: &[Number]) -> Result<()> {
    for number in numbers {
        let mut told = json!({"what": "number", "path": number.path, "value": number.value, "unit": number.unit.name(),
            "least": number.least, "most": number.most, "default": number.default, "meaning": number.meaning});
        if let Some(written) = &number.written {
            told["line"] = json!(written.spot.line);
            told["column"] = json!(written.spot.column);
            told["bytes"] = json!([written.bytes.start, written.bytes.end]);
        }
        out.json(&told)?;
    }
    Ok(())
}
