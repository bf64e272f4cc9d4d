//! Reading `[devices]`: how worn devices are guarded.

use alloc::format;

use super::super::keys::{DEVICE_KEYS, GUARDED};
use super::super::{Centre, DeviceEntry, Placed};
use super::reader::{Reader, Value, names};

impl Reader<'_> {
    pub(super) fn devices(&mut self, value: &Value<'_>) {
        let Some(table) = self.table(value, "devices") else { return };
        for (key, value) in table {
            let known = GUARDED.into_iter().find(|(family, _)| family.name() == key.get_ref().as_ref());
            match known {
                Some((family, count)) => {
                    let path = format!("devices.{family}");
                    let keys = &names(DEVICE_KEYS)[..count];
                    self.profile.devices[family.index()] = self.device(value, &path, keys);
                }
                None if key.get_ref() == "by_name" => {
                    let spot = self.spot(value);
                    let problem = "pads have names for a player's file only; write the table there";
                    self.fault(spot, "devices.by_name", problem);
                }
                None => self.unknown(key, "devices", &GUARDED.map(|(family, _)| family.name())),
            }
        }
    }

    fn device(&mut self, value: &Value<'_>, path: &str, keys: &[&str]) -> DeviceEntry {
        let mut entry = DeviceEntry::new();
        let Some(table) = self.table(value, path) else { return entry };
        for (key, value) in table {
            let inner = format!("{path}.{}", key.get_ref());
            match key.get_ref().as_ref() {
                name if !keys.contains(&name) => self.unknown(key, path, keys),
                "debounce" => entry.debounce = self.span(value, &inner),
                "drop_out" => entry.drop_out = self.span(value, &inner),
                "snapback" => entry.snapback = self.span(value, &inner),
                _ => {
                    let words = Centre::ALL.map(|centre| (centre.name(), centre));
                    let spot = self.spot(value);
                    entry.centre = self.word(value, &inner, &words).map(|centre| Placed::new(centre, spot));
                }
            }
        }
        entry
    }
}
