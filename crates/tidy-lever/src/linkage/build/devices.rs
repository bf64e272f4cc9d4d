//! How worn devices are guarded.

use super::*;
use crate::guard::{FamilyGuard, Spans};
use crate::profile::{Centre, DeviceEntry, LONGEST_GUARD};

/// What isn't set, in µs.
const DEBOUNCE: u64 = 8_000;
const SNAPBACK: u64 = 70_000;

impl Builder<'_> {
    pub(super) fn devices(&mut self) {
        for family in [Family::Keys, Family::Mouse, Family::Pad] {
            let DeviceEntry { debounce, drop_out, snapback, centre } = &self.profile.devices[family.index()];
            let mut span = |name: &str, span: &Option<Placed<SpanEntry>>, default: u64| {
                let Some(span) = span else { return default };
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
            let spans =
                Spans { debounce: span("debounce", debounce, DEBOUNCE), drop_out: span("drop_out", drop_out, 0) };
            let snapback = span("snapback", snapback, SNAPBACK);
            let learns = centre.as_ref().is_none_or(|centre| centre.value == Centre::Learn);
            self.inputs.guards[family.index()] = FamilyGuard { spans, snapback, learns };
        }
    }
}
