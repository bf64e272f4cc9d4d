//! How worn devices are guarded.

use super::*;
use crate::guard::{FamilyGuard, Spans};
use crate::profile::{Centre, DEVICE_KEYS, DeviceEntry, GUARDED, LONGEST_GUARD};

/// What counts where a span isn't set, in µs.
fn default_of(name: &str) -> u64 {
    let key = DEVICE_KEYS.iter().find(|key| key.name == name);
    key.and_then(|key| key.number?.default).map_or(0, |millis| (millis * 1e3) as u64)
}

impl Builder<'_> {
    pub(super) fn devices(&mut self) {
        for (family, _) in GUARDED {
            let DeviceEntry { debounce, drop_out, snapback, centre } = &self.profile.devices[family.index()];
            let mut span = |name: &str, span: &Option<Placed<SpanEntry>>| {
                let Some(span) = span else { return default_of(name) };
                let path = format!("devices.{family}.{name}");
                let read = self.span(span, &path);
                if read as f64 > LONGEST_GUARD * 1e3 {
                    self.fault(
                        span.spot,
                        path,
                        format!("\"{}\" is too long for `{name}`; it is at most 1 s", span.value),
                    );
                }
                read
            };
            let spans = Spans { debounce: span("debounce", debounce), drop_out: span("drop_out", drop_out) };
            let snapback = span("snapback", snapback);
            let learns = centre.as_ref().is_none_or(|centre| centre.value == Centre::Learn);
            self.inputs.guards[family.index()] = FamilyGuard { spans, snapback, learns };
        }
    }
}
