//! The table `[access]` of a player's file.

use alloc::borrow::ToOwned;
use alloc::format;
use alloc::string::ToString;
use alloc::vec::Vec;

use toml_edit::{Array, DocumentMut, Item, Table, Value};

use super::clash::STAYS;
use crate::access::{Access, Hand, Which};
use crate::profile::{ACCESS_KEYS, Fault, Spot, nearest};

/// The settings, and what could not be understood of them.
pub(super) fn read(document: &DocumentMut) -> (Access, Vec<Fault>) {
    let (mut access, mut alone) = (Access::default(), Vec::new());
    let Some(item) = document.get("access") else { return (access, alone) };
    let mut leave = |key: &str, problem: &str| {
        alone.push(Fault::new(Spot::NONE, format!("access.{key}"), format!("{problem}{STAYS}")).warning());
    };
    let Some(table) = item.as_table_like() else {
        leave("", "expected a table");
        return (access, alone);
    };
    for (key, item) in table.iter() {
        let number = item.as_float().or(item.as_integer().map(|whole| whole as f64));
        match key {
            "toggled" => match (item.as_str(), item.as_array()) {
                (Some("all"), _) => access.toggled = Which::All,
                (None, Some(names)) if names.iter().all(Value::is_str) => {
                    access.toggled = Which::Named(names.iter().filter_map(Value::as_str).map(str::to_owned).collect());
                }
                _ => leave(key, "expected \"all\" or a list of actions"),
            },
            "mash_rate" if number.is_some() => access.mash_rate = number,
            "leeway" if number.is_some() => access.leeway = number.unwrap_or(1.0),
            "holds" if number.is_some() => access.holds = number.unwrap_or(1.0),
            "mash_rate" | "leeway" | "holds" => leave(key, "expected a number"),
            "one_by_one" => match item.as_bool() {
                Some(one_by_one) => access.one_by_one = one_by_one,
                None => leave(key, "expected true or false"),
            },
            "hand" => match item.as_str() {
                Some("left") => access.hand = Some(Hand::Left),
                Some("right") => access.hand = Some(Hand::Right),
                _ => leave(key, "expected \"left\" or \"right\""),
            },
            _ => {
                let keys: Vec<&str> = ACCESS_KEYS.iter().map(|key| key.name).collect();
                let near = nearest(key, keys.iter().copied());
                let near = near.map_or(String::new(), |near| format!("; did you mean `{near}`?"));
                leave(key, &format!("there is no such setting; the settings are {}{near}", keys.join(", ")));
            }
        }
    }
    // What is out of range has no effect; it is told by its key.
    while let Some((key, problem)) = access.problem() {
        leave(key, &problem);
        forget(&mut access, key);
    }
    (access, alone)
}

/// One setting is as by default again.
pub(super) fn forget(access: &mut Access, key: &str) {
    let plain = Access::default();
    match key {
        "toggled" => access.toggled = plain.toggled,
        "mash_rate" => access.mash_rate = plain.mash_rate,
        "leeway" => access.leeway = plain.leeway,
        "holds" => access.holds = plain.holds,
        _ => {}
    }
}

/// Writes what differs from the default, and takes out the rest.
pub(super) fn write(document: &mut DocumentMut, access: &Access) {
    let plain = Access::default();
    let toggled = match &access.toggled {
        Which::Nothing => None,
        Which::All => Some(Value::from("all")),
        Which::Named(names) => Some(Value::from(names.iter().map(String::as_str).collect::<Array>())),
    };
    let number = |value: f64, plain: f64| (value != plain).then(|| Value::from(value));
    let values = [
        ("toggled", toggled),
        ("mash_rate", access.mash_rate.map(Value::from)),
        ("leeway", number(access.leeway, plain.leeway)),
        ("holds", number(access.holds, plain.holds)),
        ("one_by_one", access.one_by_one.then(|| Value::from(true))),
        ("hand", access.hand.map(|hand| Value::from(hand.name().to_string()))),
    ];
    let item = document.entry("access").or_insert_with(|| Item::Table(Table::new()));
    if !item.is_table_like() {
        *item = Item::Table(Table::new());
    }
    let Some(table) = item.as_table_like_mut() else { return };
    for (key, value) in values {
        match value {
            Some(value) => drop(table.insert(key, Item::Value(value))),
            None => drop(table.remove(key)),
        }
    }
    if table.is_empty() {
        document.remove("access");
    }
}

use alloc::string::String;
