//! Presses by identity, and the amount of a charge.

/// The amount of what has none.
pub(crate) const NO_AMOUNT: i32 = -1;

/// The presses that a pull stands on, by identity. Of more than eight the last are kept; 0 is none.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Presses(pub(super) [u32; 8]);

impl Presses {
    pub(crate) fn one(press: u64) -> Presses {
        Presses([press as u32, 0, 0, 0, 0, 0, 0, 0])
    }

    pub(crate) fn push(&mut self, press: u64) {
        self.0.rotate_right(1);
        self.0[0] = press as u32;
    }

    pub(crate) fn iter(&self) -> impl Iterator<Item = u32> {
        self.0.into_iter().filter(|press| *press != 0)
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> [u64; 4] {
        let [a, b, c, d, e, f, g, h] = self.0.map(u64::from);
        [a << 32 | b, c << 32 | d, e << 32 | f, g << 32 | h]
    }

    /// Those that are kept, in their order.
    pub(crate) fn retain(&mut self, keeps: impl Fn(u32) -> bool) {
        let mut kept = Presses::default();
        for (place, press) in self.iter().filter(|press| keeps(*press)).enumerate() {
            kept.0[place] = press;
        }
        *self = kept;
    }

    /// The press that completes a cue.
    pub(crate) fn last(&self) -> u32 {
        self.0[0]
    }

    /// The one made last, whichever completed the cue; 0 for none. Numbers wrap around.
    pub(crate) fn newest_made(&self) -> u32 {
        self.iter().reduce(|one, other| if is_newer(other, one) { other } else { one }).unwrap_or(0)
    }

    /// Whether it is one at most.
    #[inline]
    pub(crate) fn is_single(&self) -> bool {
        self.0[1] == 0
    }

    pub(crate) fn shares(&self, other: &Presses) -> bool {
        self.iter().any(|press| other.has(press))
    }

    pub(crate) fn has(&self, press: u32) -> bool {
        self.0.contains(&press)
    }
}

/// Whether a press was made after another one.
pub(crate) fn is_newer(press: u32, than: u32) -> bool {
    press != than && press.wrapping_sub(than) < 1 << 31
}
