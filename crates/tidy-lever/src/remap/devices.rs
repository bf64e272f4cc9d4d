//! The table `[devices]` of a player's file.

use alloc::borrow::ToOwned;
use alloc::format;
use alloc::string::String;
use alloc::vec::Vec;

use toml_edit::{DocumentMut, Item, TableLike};

use super::clash::STAYS;
use crate::profile::{
    Centre, DEVICE_KEYS, DeviceEntry, FARTHEST_MIDDLE, Fault, GUARDED, LONGEST_GUARD, Placed, Spot, nearest,
};
use crate::time::{SpanEntry, parse_span};

/// What a player's file sets for devices.
#[derive(Debug, Default)]
pub(super) struct Devices {
    /// By family.
    pub(super) families: [DeviceEntry; 4],
    /// Of pads by their names.
    pub(super) pads: Vec<(String, DeviceEntry)>,
    /// What could not be understood.
    pub(super) alone: Vec<Fault>,
}

pub(super) fn read(document: &DocumentMut) -> Devices {
    let mut devices = Devices::default();
    let Some(item) = document.get("devices") else { return devices };
    let Some(table) = devices.table(item, "devices") else { return devices };
    for (name, item) in table.iter() {
        let path = format!("devices.{name}");
        if name == "by_name" {
            let Some(pads) = devices.table(item, &path) else { continue };
            for (pad, item) in pads.iter() {
                let entry = devices.entry(item, DEVICE_KEYS.len(), &format!("{path}.\"{pad}\""));
                devices.pads.push((pad.to_owned(), entry));
            }
            continue;
        }
        match GUARDED.into_iter().find(|(family, _)| family.name() == name) {
            Some((family, count)) => devices.families[family.index()] = devices.entry(item, count, &path),
            None => devices.leave(&path, "expected keys, mouse, pad or by_name"),
        }
    }
    devices
}

impl Devices {
    fn leave(&mut self, path: &str, problem: &str) {
        self.alone.push(Fault::new(Spot::NONE, path.to_owned(), format!("{problem}{STAYS}")).warning());
    }

    fn table<'i>(&mut self, item: &'i Item, path: &str) -> Option<&'i dyn TableLike> {
        let table = item.as_table_like();
        if table.is_none() {
            self.leave(path, "expected a table, as in `keys = { debounce = \"8ms\" }`");
        }
        table
    }

    /// What is set for a family or a pad that knows so many of the keys.
    fn entry(&mut self, item: &Item, count: usize, path: &str) -> DeviceEntry {
        let mut entry = DeviceEntry::new();
        let Some(own) = self.table(item, path) else { return entry };
        for (key, item) in own.iter() {
            if let Err(problem) = put(&mut entry, count, key, item) {
                self.leave(&format!("{path}.{key}"), &problem);
            }
        }
        entry
    }
}

/// Sets one key, of so many that the family knows.
fn put(entry: &mut DeviceEntry, count: usize, key: &str, item: &Item) -> Result<(), String> {
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
    if let Some(stick) = ["left_stick_centre", "right_stick_centre"].into_iter().position(|name| name == key) {
        entry.middles[stick] = Some(middle(item).ok_or_else(|| {
            format!("expected right and up, each at most {FARTHEST_MIDDLE} from 0, as in `[0.03, -0.02]`")
        })?);
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

/// Two numbers, right and up.
fn middle(item: &Item) -> Option<[f64; 2]> {
    let number = |value: &toml_edit::Value| value.as_float().or_else(|| value.as_integer().map(|whole| whole as f64));
    let mut numbers = item.as_array()?.iter().map(|value| number(value).filter(|it| it.abs() <= FARTHEST_MIDDLE));
    let middle = [numbers.next()??, numbers.next()??];
    numbers.next().is_none().then_some(middle)
}
