//! How devices are guarded, as declared: what worn ones say wrong.

use super::Placed;
use crate::time::SpanEntry;

/// Where a stick's middle is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum Centre {
    /// Where the stick comes to rest after springing back, when three places agree.
    Learn,
    /// At 0, 0.
    Fixed,
}

impl Centre {
    /// Both.
    pub const ALL: [Centre; 2] = [Centre::Learn, Centre::Fixed];

    /// Its word in files.
    pub const fn name(self) -> &'static str {
        match self {
            Centre::Learn => "learn",
            Centre::Fixed => "fixed",
        }
    }
}

/// How the devices of a family are guarded. What isn't set is as by default.
///
/// ```
/// use tidy_lever::profile::{Action, DeviceEntry, Profile};
/// use tidy_lever::{Family, Linkage};
///
/// let profile = Profile::new("Otter Post")
///     .devices(Family::Keys, DeviceEntry::new().debounce("5ms"))
///     .action(Action::button("hop").keys("Space"));
/// Linkage::build(&profile)?;
/// # Ok::<(), tidy_lever::profile::Faults>(())
/// ```
#[derive(Clone, Debug, Default, PartialEq)]
#[must_use]
pub struct DeviceEntry {
    pub(crate) debounce: Option<Placed<SpanEntry>>,
    pub(crate) drop_out: Option<Placed<SpanEntry>>,
    pub(crate) snapback: Option<Placed<SpanEntry>>,
    pub(crate) centre: Option<Placed<Centre>>,
    /// The middles of the left and the right stick.
    pub(crate) middles: [Option<[f64; 2]>; 2],
}

impl DeviceEntry {
    /// All as by default.
    pub fn new() -> DeviceEntry {
        DeviceEntry::default()
    }

    /// How long a key or button isn't heard after an edge of it that counted; 8 ms by default, at most 1 s. `"0ms"` is off.
    pub fn debounce(mut self, span: impl Into<Placed<SpanEntry>>) -> DeviceEntry {
        self.debounce = Some(span.into());
        self
    }

    /// How long a key or button must be up for that to count; off by default, at most 1 s.
    pub fn drop_out(mut self, span: impl Into<Placed<SpanEntry>>) -> DeviceEntry {
        self.drop_out = Some(span.into());
        self
    }

    /// How long the other side counts as rest after a stick was let go; 70 ms by default, at most 1 s. `"0ms"` is off.
    pub fn snapback(mut self, span: impl Into<Placed<SpanEntry>>) -> DeviceEntry {
        self.snapback = Some(span.into());
        self
    }

    /// Where the middle of a stick is; learnt by default.
    pub fn centre(mut self, centre: Centre) -> DeviceEntry {
        self.centre = Some(Placed::from(centre));
        self
    }

    /// Where the middle of the left stick is, as the pad says it: right and up, each from -0.5 to 0.5. It isn't learnt then.
    pub fn left_stick_centre(mut self, right: f64, up: f64) -> DeviceEntry {
        self.middles[0] = Some([right, up]);
        self
    }

    /// Where the middle of the right stick is, as for the left one.
    pub fn right_stick_centre(mut self, right: f64, up: f64) -> DeviceEntry {
        self.middles[1] = Some([right, up]);
        self
    }

    /// With what another one sets laid over it.
    pub(crate) fn under(self, over: DeviceEntry) -> DeviceEntry {
        DeviceEntry {
            debounce: over.debounce.or(self.debounce),
            drop_out: over.drop_out.or(self.drop_out),
            snapback: over.snapback.or(self.snapback),
            centre: over.centre.or(self.centre),
            middles: [0, 1].map(|stick| over.middles[stick].or(self.middles[stick])),
        }
    }
}
