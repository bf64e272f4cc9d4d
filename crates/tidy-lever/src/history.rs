//! History: what happened and when, in a ring of fixed size.

mod aim;
mod ring;

pub(crate) use aim::Aim;
pub(crate) use ring::{Point, Ring};

use core::time::Duration;

use crate::cause::Cause;
use crate::cue::NO_AMOUNT;
use crate::direction::Direction;
use crate::fixed::to_f32;
use crate::handle::{ActionHandle, AnyHandle};
use crate::index::ActionIndex;
use crate::linkage::Linkage;
use crate::time::Moment;

/// What an action did.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[non_exhaustive]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[cfg_attr(feature = "serde", serde(rename_all = "kebab-case"))]
pub enum What {
    /// One of its controls went down; a stick or an axis left rest.
    Pressed,
    /// Its last control went up; a stick or an axis came to rest.
    Released(Cause),
    /// The action went off.
    Pulled,
    /// A pull that was on ended.
    Ended(Cause),
    /// A mark of a pull was reached, with its number among the action's marks.
    Mark(u8),
}

impl What {
    /// The word for it in output.
    pub const fn name(self) -> &'static str {
        match self {
            What::Pressed => "pressed",
            What::Released(_) => "released",
            What::Pulled => "pulled",
            What::Ended(_) => "ended",
            What::Mark(_) => "mark",
        }
    }

    /// The cause, where it has one.
    pub const fn cause(self) -> Option<Cause> {
        match self {
            What::Released(cause) | What::Ended(cause) => Some(cause),
            What::Pressed | What::Pulled | What::Mark(_) => None,
        }
    }
}

/// Where a pull aimed and faced, in a byte: the direction's number and 1, then two flags.
#[derive(Clone, Copy, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct AimBits(u8);

impl AimBits {
    const HELD: u8 = 1 << 6;
    const LEFT: u8 = 1 << 7;

    fn direction(self) -> Option<Direction> {
        Direction::ALL.get(usize::from(self.0 & 15).checked_sub(1)?).copied()
    }

    fn is_held(self) -> bool {
        self.0 & AimBits::HELD != 0
    }
}

impl core::fmt::Debug for AimBits {
    fn fmt(&self, f: &mut core::fmt::Formatter<'_>) -> core::fmt::Result {
        write!(f, "{:?}, held {}, faces left {}", self.direction(), self.is_held(), self.0 & AimBits::LEFT != 0)
    }
}

/// One thing that happened: when, to which action, what, and since when.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Happening {
    pub(crate) at: Moment,
    pub(crate) since: Moment,
    /// How long it was kept, in µs.
    pub(crate) kept: u64,
    // What is said of where it aimed lies flat, so that it packs.
    pub(crate) aim_age: u64,
    pub(crate) aim_push: (i32, i32),
    /// A charge's amount in millionths, or `NO_AMOUNT`.
    pub(crate) amount: i32,
    pub(crate) action: u16,
    /// The action whose pull it went over.
    pub(crate) over: Option<ActionIndex>,
    pub(crate) what: What,
    /// From 1, where the action has stages.
    pub(crate) stage: u8,
    /// Where it aimed, whether that was held, and whether `facing` was `left`.
    pub(crate) aim_bits: AimBits,
    /// The names that its numbers are of; the ring sets it. 0 if there is none: it is of an action that is gone.
    pub(crate) stamp: u32,
}

impl Happening {
    #[inline]
    pub(crate) const fn new(at: Moment, since: Moment, action: u16, what: What) -> Happening {
        Happening {
            stamp: 0,
            at,
            since,
            kept: 0,
            aim_age: 0,
            aim_push: (0, 0),
            amount: NO_AMOUNT,
            action,
            over: None,
            what,
            stage: 0,
            aim_bits: AimBits(0),
        }
    }

    /// The same, aimed.
    pub(crate) fn aimed(self, aim: Aim) -> Happening {
        let Aim { push, direction, held, age } = aim;
        let aimed = direction.map_or(0, |direction| direction as u8 + 1) | if held { AimBits::HELD } else { 0 };
        let aim_bits = AimBits(self.aim_bits.0 & AimBits::LEFT | aimed);
        Happening { aim_age: age, aim_push: push, aim_bits, ..self }
    }

    /// The same, with the value of the fact `facing`.
    pub(crate) fn faced(self, left: bool) -> Happening {
        let aim_bits = AimBits(self.aim_bits.0 & !AimBits::LEFT | if left { AimBits::LEFT } else { 0 });
        Happening { aim_bits, ..self }
    }

    /// How far a charge was held, 0 to 1; `None` for pulls without an amount.
    pub fn amount(&self) -> Option<f32> {
        (self.amount >= 0).then(|| to_f32(self.amount))
    }

    /// The action that had pulled on the same press already and lost it to this one; `None` if there was none, and for a
    /// linkage of another profile.
    pub fn over<'l>(&self, linkage: &'l Linkage) -> Option<&'l str> {
        let over = self.over.filter(|_| self.is_from(linkage))?;
        Some(linkage.action_name(over.into()))
    }

    /// Whether it is of the action that this handle was found for. The handle is one of the seat's own linkage; for an older
    /// one ask [`Reading::pulls`](crate::Reading::pulls), which finds it again.
    pub fn is_of(&self, handle: impl ActionHandle) -> bool {
        let handle: AnyHandle = handle.into();
        (self.stamp, self.action) == (handle.stamp, handle.number)
    }

    fn is_from(&self, linkage: &Linkage) -> bool {
        self.stamp == linkage.stamp()
    }

    /// The stage of a pull, from 1; `None` for actions without stages.
    pub fn stage(&self) -> Option<u8> {
        (self.stage > 0).then_some(self.stage)
    }

    /// How long a pull had been kept before its gate opened.
    pub fn kept_for(&self) -> Duration {
        Duration::from_micros(self.kept)
    }

    /// Whether the fact `facing` was `left` when the pull's cue was met.
    pub fn faces_left(&self) -> bool {
        self.aim_bits.0 & AimBits::LEFT != 0
    }

    /// The name of the mark that came back; `None` if it tells of none, and for a linkage of another profile.
    pub fn mark<'l>(&self, linkage: &'l Linkage) -> Option<&'l str> {
        let What::Mark(mark) = self.what else { return None };
        if !self.is_from(linkage) {
            return None;
        }
        linkage.0.actions[usize::from(self.action)].marks.get(usize::from(mark)).map(|(name, _)| name.as_str())
    }

    /// Where the stick that the action aims with pointed when it pulled: right and up, −1 to 1. `None` without `aim`,
    /// or if the stick was at rest.
    pub fn aim(&self) -> Option<(f32, f32)> {
        let (x, y) = self.aim_push;
        self.aim_bits.is_held().then(|| (to_f32(x), to_f32(y)))
    }

    /// The direction in which that stick was held then.
    pub fn aim_direction(&self) -> Option<Direction> {
        self.aim_bits.direction().filter(|_| self.aim_bits.is_held())
    }

    /// The direction in which that stick was held then, or had been held last, with its age.
    pub fn last_aim(&self) -> Option<(Direction, Duration)> {
        Some((self.aim_bits.direction()?, Duration::from_micros(self.aim_age)))
    }

    /// When it happened.
    pub const fn at(&self) -> Moment {
        self.at
    }

    /// What happened.
    pub const fn what(&self) -> What {
        self.what
    }

    /// The moment where it began: of a release, its first going down; of an end, its pull; of a pull, its press.
    pub const fn since(&self) -> Moment {
        self.since
    }

    /// The name of the action: `hop`, or `steer.up` for a direction of a stick. `None` for a linkage of another profile.
    pub fn action<'l>(&self, linkage: &'l Linkage) -> Option<&'l str> {
        self.is_from(linkage).then(|| linkage.action_name(usize::from(self.action)))
    }
}
