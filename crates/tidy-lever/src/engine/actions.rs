//! What every action has.

use crate::cue::Presses;
use crate::engine::part::plain_fields;
use crate::index::CueIndex;

/// Running sums of an action; they wrap, and only differences are read.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Sums {
    pub(crate) pressed: u32,
    pub(crate) released: u32,
    pub(crate) pulled: u32,
}

/// What every action has.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[repr(align(64))]
pub(crate) struct ActionState {
    /// Since when it is down, of its first control.
    pub(crate) since: u64,
    /// How long it was down last, in µs.
    pub(crate) last_held: u64,
    /// Since when it is on.
    pub(crate) on_since: u64,
    /// Until when it cools down, on the world's clock.
    pub(crate) cool_until: u64,
    /// The newest press of its own.
    pub(crate) press: u64,
    pub(crate) stage: u8,
    pub(crate) stage_before: u8,
    /// What its last pull made of a toggle; and since when it had been on, if that pull turned it off.
    pub(crate) toggled: Toggled,
    pub(crate) was_on_since: u64,
    /// When it pulled last, and on which presses.
    pub(crate) pulled_in: u64,
    pub(crate) pulled_on: Presses,
    /// Which of its cues did.
    pub(crate) pulled_by: Option<CueIndex>,
    pub(crate) sums: Sums,
    /// The sums before the tick that changed them last.
    pub(crate) before: Sums,
    pub(crate) tick: u32,
    /// How many controls hold it down, counted by device.
    pub(crate) held: u16,
    pub(crate) on: bool,
    pub(crate) listens: bool,
}

/// What a pull made of a toggle, so that it can be taken back.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) enum Toggled {
    /// The action is not a toggle, or the pull was taken back.
    #[default]
    Not,
    On,
    Off,
}

/// Up to here copying one takes a few moves, and beyond it a call: a rollback copies many.
const _: () = assert!(size_of::<ActionState>() <= 128);

impl ActionState {
    /// Its sums are about to change in this tick.
    #[inline(always)]
    pub(crate) fn begins(&mut self, tick: u32) {
        if self.tick != tick {
            (self.tick, self.before) = (tick, self.sums);
        }
    }

    /// What a state's hash is made of. The sums before the last tick tell of that tick alone.
    fn words(&self) -> [u64; 15] {
        let ActionState {
            since,
            last_held,
            on_since,
            cool_until,
            press,
            stage,
            stage_before,
            toggled,
            was_on_since,
            pulled_in,
            pulled_on,
            pulled_by,
            sums,
            before: _,
            tick: _,
            held,
            on,
            listens,
        } = *self;
        let Sums { pressed, released, pulled } = sums;
        let (turned, turned_since) = match toggled {
            Toggled::Not => (0, 0),
            Toggled::On => (1, 0),
            Toggled::Off => (2, was_on_since),
        };
        let [a, b, c, d] = pulled_on.words();
        let flags = pulled_by.map_or(0, |cue| u64::from(cue.number())) << 32
            | u64::from(held) << 8
            | u64::from(on) << 1
            | u64::from(listens);
        let stages = u64::from(stage) << 16 | u64::from(stage_before) << 8 | turned;
        let pressed = u64::from(pressed) << 32 | u64::from(released);
        let pulled = u64::from(pulled);
        [
            since,
            last_held,
            on_since,
            cool_until,
            press,
            stages,
            turned_since,
            pulled_in,
            a,
            b,
            c,
            d,
            pressed,
            pulled,
            flags,
        ]
    }
}

plain_fields! {
    ActionState, own => own.words();
}
