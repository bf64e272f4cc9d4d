//! How worn devices are guarded.

use super::*;
use crate::event::DeviceName;
use crate::fixed;
use crate::guard::{FamilyGuard, Spans};
use crate::profile::{Centre, DEVICE_KEYS, DeviceEntry, FARTHEST_MIDDLE, GUARDED, LONGEST_GUARD};

/// What counts where a span isn't set, in µs.
fn default_of(name: &str) -> u64 {
    let key = DEVICE_KEYS.iter().find(|key| key.name == name);
    key.and_then(|key| key.number?.default).map_or(0, |millis| (millis * 1e3) as u64)
}

impl Builder<'_> {
    pub(super) fn devices(&mut self) {
        for (family, _) in GUARDED {
            let guard = self.guard_by(&self.profile.devices[family.index()], &format!("devices.{family}"));
            self.inputs.guards[family.index()] = guard;
        }
        for (name, entry) in &self.profile.named_pads {
            let path = format!("devices.by_name.\"{name}\"");
            let entry = self.profile.devices[Family::Pad.index()].clone().under(entry.clone());
            let guard = self.guard_by(&entry, &path);
            let hash = DeviceName::of(name);
            if self.inputs.named.iter().any(|(other, _)| *other == hash) {
                self.fault(Spot::NONE, path, "a pad's name is taken for another one; leave one of them out".to_owned());
            }
            self.inputs.named.push((hash, guard));
        }
    }

    fn guard_by(&mut self, entry: &DeviceEntry, path: &str) -> FamilyGuard {
        let DeviceEntry { debounce, drop_out, snapback, centre, middles } = entry;
        let mut span = |name: &str, span: &Option<Placed<SpanEntry>>| {
            let Some(span) = span else { return default_of(name) };
            let path = format!("{path}.{name}");
            let read = self.span(span, &path);
            if read as f64 > LONGEST_GUARD * 1e3 {
                self.fault(span.spot, path, format!("\"{}\" is too long for `{name}`; it is at most 1 s", span.value));
            }
            read
        };
        let spans = Spans { debounce: span("debounce", debounce), drop_out: span("drop_out", drop_out) };
        let snapback = span("snapback", snapback);
        let learns = centre.as_ref().is_none_or(|centre| centre.value == Centre::Learn);
        let middles = [("left", middles[0]), ("right", middles[1])].map(|(stick, middle)| {
            let [right, up] = middle?;
            let fixed = |value: f64| fixed::from_f64(value).filter(|_| value.abs() <= FARTHEST_MIDDLE);
            let read = fixed(right).zip(fixed(up)).map(|(right, up)| (right as i32, up as i32));
            if read.is_none() {
                let path = format!("{path}.{stick}_stick_centre");
                let problem = format!("a middle is at most {FARTHEST_MIDDLE} from 0 on each axis, not [{right}, {up}]");
                self.fault(Spot::NONE, path, problem);
            }
            read
        });
        FamilyGuard { spans, snapback, learns, middles }
    }
}
