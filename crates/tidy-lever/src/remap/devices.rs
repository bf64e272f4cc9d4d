//! The table `[devices]` of a player's file.

use alloc::borrow::ToOwned;
use alloc::format;
use alloc::vec::Vec;

use toml_edit::{DocumentMut, Item};

use super::clash::STAYS;
use crate::profile::{Centre, DEVICE_KEYS, DeviceEntry, Fault, GUARDED, LONGEST_GUARD, Placed, Spot, nearest};
use crate::time::{SpanEntry, parse_span};

/// What it sets, by family, and what could not be understood.
pub(super) fn read(document: &DocumentMut) -> ([DeviceEntry; 4], Vec<Fault>) {
    let (mut devices, mut alone): ([DeviceEntry; 4], _) = Default::default();
    let Some(item) = document.get("devices") else { return (devices, alone) };
    let mut leave = |path: &str, problem: &str| {
        alone.push(Fault::new(Spot::NONE, format!("devices.{path}"), format!("{problem}{STAYS}")).warning());
    };
    let Some(table) = item.as_table_like() else {
        leave("", "expected a table");
        return (devices, alone);
    };
    for (name, item) in table.iter() {
        let Some((family, count)) = GUARDED.into_iter().find(|(family, _)| family.name() == name) else {
            leave(name, "expected keys, mouse or pad");
            continue;
        };
        let Some(own) = item.as_table_like() else {
            leave(name, "expected a table, as in `{ debounce = \"8ms\" }`");
            continue;
        };
        for (key, item) in own.iter() {
            if let Err(problem) = put(&mut devices[family.index()], count, key, item) {
                leave(&format!("{name}.{key}"), &problem);
            }
        }
    }
    (devices, alone)
}

/// Sets one key, of so many that the family knows.
fn put(entry: &mut DeviceEntry, count: usize, key: &str, item: &Item) -> Result<(), alloc::string::String> {
    let keys: Vec<&str> = DEVICE_KEYS[..count].iter().map(|key| key.name).collect();
    if !keys.contains(&key) {
        let near = nearest(key, keys.iter().copied());
        let near = near.map_or("".to_owned(), |near| format!("; did you mean `{near}`?"));
        return Err(format!("there is no such setting; the settings are {}{near}", keys.join(", ")));
    }
    if key == "centre" {
        let centre = Centre::ALL.into_iter().find(|centre| item.as_str() == Some(centre.name()));
        entry.centre = Some(Placed::from(centre.ok_or("expected \"learn\" or \"fixed\"")?));
        return Ok(());
    }
    let text = item.as_str().ok_or("expected a span, as in \"8ms\"")?;
    let span = parse_span(text).map_err(|error| format!("\"{text}\": {error}"))?;
    if span.as_secs_f64() * 1e3 > LONGEST_GUARD {
        return Err(format!("\"{text}\" is too long for `{key}`; it is at most 1 s"));
    }
    let span = Some(Placed::from(SpanEntry::from(span)));
    match key {
        "debounce" => entry.debounce = span,
        "drop_out" => entry.drop_out = span,
        _ => entry.snapback = span,
    }
    Ok(())
}
