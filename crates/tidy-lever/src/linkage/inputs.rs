//! What inputs are made of, compiled: which control is a button, a level or a leg of which action.
//!
//! ```text
//!   control ──▶ slot ─┬─▶ contact (a control or part as a button) ──▶ wire ──▶ button, or leg of a cross
//!                     └─▶ feed (a control or part as a level) ──▶ stick, axis, or leg of a cross
//! ```

use alloc::string::String;
use alloc::vec::Vec;
use core::num::NonZeroU32;

use super::PatchPlan;
use crate::control::{Control, Family, Part, Sort};
use crate::direction::{Compass, Direction};
use crate::event::DeviceName;
use crate::fixed::{self, ONE};
use crate::guard::{FamilyGuard, GuardPlan};
use crate::index::{ActionIndex, PointerIndex, Run, SlotIndex, StickIndex, run};
use crate::profile::{Opposed, Rest};
use crate::shape::{Bent, ShapePlan};

/// All tables of the inputs.
#[derive(Debug, Default, Hash)]
pub(crate) struct InputsPlan {
    pub(crate) slot_of: Vec<Option<SlotIndex>>,
    pub(crate) slots: Vec<SlotPlan>,
    /// How devices are guarded, by family; and how many bounces and sticks a device has at most.
    pub(crate) guards: [FamilyGuard; 4],
    /// The pads that have guards of their own, by name.
    pub(crate) named: Vec<(DeviceName, FamilyGuard)>,
    pub(crate) guarded: (u16, u16),
    pub(crate) contacts: Vec<ContactPlan>,
    pub(crate) wires: Vec<Wire>,
    /// By slot.
    pub(crate) feeds: Vec<FeedPlan>,
    pub(crate) crosses: Vec<CrossPlan>,
    pub(crate) pairs: Vec<PairPlan>,
    /// Contact numbers by leg.
    pub(crate) leg_contacts: Vec<u32>,
    /// Feed numbers by leg.
    pub(crate) leg_feeds: Vec<u32>,
    pub(crate) moved: Vec<MovedPlan>,
    /// How many of those are sweeps.
    pub(crate) sweeps: usize,
    pub(crate) pointers: Vec<PointerPlan>,
    pub(crate) shapes: Vec<ShapePlan>,
    pub(crate) patches: Vec<String>,
    /// The panel, made ready.
    pub(crate) panel: Vec<PatchPlan>,
    /// By action.
    pub(crate) buttons: Vec<ButtonPlan>,
    /// How many of those the profile declares; directions and what pointers do stand behind them.
    pub(crate) declared: usize,
}

/// What presses of an action lead to here. All of it stands in the action's own plan, too.
#[derive(Debug, Hash)]
pub(crate) struct ButtonPlan {
    pub(crate) moved: Option<StickIndex>,
    pub(crate) pointer: Option<PointerIndex>,
    /// In µs; 0 for none.
    pub(crate) mash_period: u64,
    /// One press puts it down, the next lifts it.
    pub(crate) latched: bool,
    /// A pointer, or mashing, stands on its presses.
    pub(crate) works_more: bool,
    /// The wires that lead to it.
    pub(crate) wires: Vec<u32>,
}

/// A control that something is bound to.
#[derive(Debug, Hash)]
pub(crate) struct SlotPlan {
    pub(crate) control: Control,
    pub(crate) sort: Sort,
    pub(crate) family: Family,
    /// Its place among the slots of its family.
    pub(crate) lane: u16,
    pub(crate) contacts: Run,
    pub(crate) feeds: Run,
    /// Of a button: its only contact's number, and 1.
    pub(crate) only: Option<NonZeroU32>,
    /// A pair that moves nothing but axes and sticks, each of them once.
    pub(crate) is_plain: bool,
    pub(crate) guard: GuardPlan,
    /// It stands at a level until it says another: a button, a level or a pair.
    pub(crate) has_level: bool,
}

/// A control or part used as a button.
#[derive(Debug, Hash)]
pub(crate) struct ContactPlan {
    pub(crate) part: Part,
    pub(crate) down_at: i32,
    pub(crate) up_at: i32,
    pub(crate) wires: Run,
    /// One of its wires is a leg of a cross.
    pub(crate) has_legs: bool,
}

/// What a contact leads to.
#[derive(Clone, Copy, Debug, Hash)]
pub(crate) struct Wire {
    pub(crate) action: u16,
    /// The leg of a cross that it is, if it is not a button's own.
    pub(crate) leg: Option<LegOf>,
}

/// Which leg of an action's cross.
#[derive(Clone, Copy, Debug, Hash)]
pub(crate) struct LegOf {
    pub(crate) cross: u32,
    /// It and the leg opposite.
    pub(crate) pair: u32,
    /// Up or down, and not left or right.
    pub(crate) upright: bool,
}

/// A control or part used as a level.
#[derive(Debug, Hash)]
pub(crate) struct FeedPlan {
    pub(crate) action: u16,
    /// The axis, stick or sweep that it moves.
    pub(crate) moved: Option<StickIndex>,
    pub(crate) part: Part,
    /// A leg of a cross; its level is taken as it is.
    pub(crate) leg: bool,
    /// A whole pair, shaped as one.
    pub(crate) pair: bool,
    pub(crate) shape: u32,
    /// That shape, at hand.
    pub(crate) bends: ShapePlan,
    /// From a control that is digital by nature.
    pub(crate) digital: bool,
    /// For relative counts: billionths of a degree a count, across and up.
    pub(crate) per_count: [i64; 2],
}

impl FeedPlan {
    /// The level of a part for an action, with no shape; what it moves is known later.
    pub(crate) fn new(action: u16, part: Part) -> FeedPlan {
        FeedPlan {
            action,
            moved: None,
            part,
            leg: false,
            pair: false,
            shape: 0,
            bends: ShapePlan::plain(),
            digital: false,
            per_count: [0; 2],
        }
    }
}

/// A cross, or a pair, of one family; a pair's minus is left and its plus is right.
#[derive(Debug, Hash)]
pub(crate) struct CrossPlan {
    /// The axis or stick that it moves.
    pub(crate) moved: StickIndex,
    pub(crate) shape: u32,
    /// Left and right, then down and up.
    pub(crate) pairs: [u32; 2],
    /// What it gives where each axis stands at −1, 0 or 1: from the lower left, row by row.
    pub(crate) nine: [Stand; 9],
}

/// What a cross gives, shaped.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Stand {
    pub(crate) to: (i32, i32),
    /// What the dead zone leaves, before curve and scale.
    pub(crate) push: (i32, i32),
    /// How long the pair is.
    pub(crate) size: i32,
    /// Where it points, if that doesn't depend on where it pointed before.
    pub(crate) points: Points,
}

/// Where a value points, as far as it alone decides that.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) enum Points {
    /// The compass must be asked.
    #[default]
    Unknown,
    Known(Option<Direction>),
}

/// Two legs that lie opposite each other. Crosses of several actions that stand on the same keys share it.
#[derive(Debug, Hash)]
pub(crate) struct PairPlan {
    /// Left or down.
    pub(crate) minus: LegPlan,
    /// Right or up.
    pub(crate) plus: LegPlan,
    pub(crate) opposed: Opposed,
    /// No leg has a level.
    pub(crate) is_keys: bool,
}

#[derive(Clone, Debug, Default, Hash)]
pub(crate) struct LegPlan {
    pub(crate) contacts: Run,
    pub(crate) feeds: Run,
}

/// Whether a whole control, which alone of all whole controls is away from rest, says all that its axis or stick says.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub(crate) enum Alone {
    /// It takes working out.
    #[default]
    Unknown,
    Always,
    /// While this cross is at rest, the only one.
    BesideCross(u32),
}

/// An axis or a stick.
#[derive(Debug, Hash)]
pub(crate) struct MovedPlan {
    pub(crate) action: u16,
    pub(crate) stick: bool,
    pub(crate) crosses: Run,
    /// Its whole feeds, in the order of the file.
    pub(crate) feeds: Vec<u32>,
    pub(crate) opposed: Opposed,
    pub(crate) rest: Rest,
    pub(crate) compass: Compass,
    /// Its directions as buttons.
    pub(crate) buttons: [Option<ActionIndex>; 8],
    /// Low, rest and high of an axis, in millionths.
    pub(crate) range: [i64; 3],
    /// Whether a whole control that alone is away from rest says it all.
    pub(crate) alone: Alone,
    /// For a sweep: its place among sweeps, and billionths of a degree a second, across and up.
    pub(crate) sweep: Option<(u16, [i64; 2])>,
    /// The sets of its motions: those that see it in one way are one.
    pub(crate) motions: Vec<u16>,
    /// Whether a cue asks how far it is pushed.
    pub(crate) pushes: bool,
    /// Whether a motion or such a cue hears it.
    pub(crate) is_heard: bool,
    /// Whether it is worked out even while it is at rest and doesn't listen.
    pub(crate) is_restless: bool,
    /// For less than this a straight between a diagonal and rest only flashes by, in µs.
    pub(crate) settles: u64,
}

impl MovedPlan {
    /// Where a value that keys give points, if that doesn't depend on where it pointed before.
    pub(super) fn known_points(&self, (x, y): (i32, i32)) -> Points {
        if !self.stick {
            return Points::Known(Self::sideways(x));
        }
        if self.compass.four {
            return Points::Unknown;
        }
        let from = |before| self.compass.read(x, y, before);
        let known = Direction::ALL.into_iter().all(|before| from(Some(before)) == from(None));
        if known { Points::Known(from(None)) } else { Points::Unknown }
    }

    /// Where an axis points.
    #[inline]
    pub(crate) fn sideways(x: i32) -> Option<Direction> {
        match x.signum() {
            0 => None,
            1 => Some(Direction::Right),
            _ => Some(Direction::Left),
        }
    }
}

/// A pointer.
#[derive(Debug, Hash)]
pub(crate) struct PointerPlan {
    /// In millionths of a pixel.
    pub(crate) drag_from: i64,
    /// Its `drag` and its `click`.
    pub(crate) drag: ActionIndex,
    pub(crate) click: ActionIndex,
    /// Its action, if it follows fingers.
    pub(crate) touch: Option<ActionIndex>,
}

impl InputsPlan {
    /// How many timers mashing takes: one an action, if anything mashes.
    pub(crate) fn mashing(&self) -> usize {
        if self.buttons.iter().any(|button| button.mash_period > 0) { self.buttons.len() } else { 0 }
    }

    /// The most edges that one event can bring: a loss lifts whatever is down, and moves all sticks.
    pub(crate) fn most_edges(&self) -> usize {
        let lifted = self.buttons.len() + self.contacts.len() + 4 * self.pointers.len();
        lifted + 3 * self.moved.len() + 2
    }

    /// Which guards count for a device of a family and a name.
    pub(crate) fn guard_of(&self, family: Family, name: DeviceName) -> u16 {
        let own = self.named.iter().position(|(named, _)| *named == name).filter(|_| family == Family::Pad);
        own.map_or(family.index(), |place| Family::ALL.len() + place) as u16
    }

    /// How a device is guarded, by what [`guard_of`](InputsPlan::guard_of) says.
    #[inline(always)]
    pub(crate) fn guard(&self, number: u16) -> &FamilyGuard {
        self.guards.get(usize::from(number)).unwrap_or_else(|| self.named_guard(number))
    }

    #[cold]
    #[inline(never)]
    fn named_guard(&self, number: u16) -> &FamilyGuard {
        &self.named[usize::from(number) - self.guards.len()].1
    }

    /// Whether a feed moves a sweep.
    pub(crate) fn is_of_sweep(&self, feed: &FeedPlan) -> bool {
        feed.moved.is_some_and(|moved| self.moved[usize::from(moved)].sweep.is_some())
    }

    /// The control that a feed takes its level from.
    pub(crate) fn feed_control(&self, feed: usize) -> Option<Control> {
        self.slots.iter().find(|slot| run(&slot.feeds).contains(&feed)).map(|slot| slot.control)
    }

    /// The control here that another plan has under this number: patches go by their names.
    pub(crate) fn same_control(&self, other: &InputsPlan, control: Control) -> Option<Control> {
        let Some(number) = control.patch_number() else { return Some(control) };
        let name = other.patches.get(number)?;
        self.patches.iter().position(|patch| patch == name).map(Control::patch)
    }

    /// The contact here that is the same as one of another plan: the same part of the same control, at the same levels.
    pub(crate) fn contact_like(&self, other: &InputsPlan, contact: usize) -> Option<usize> {
        let control = other.slots.iter().find(|slot| run(&slot.contacts).contains(&contact))?.control;
        let control = self.same_control(other, control)?;
        let slot = &self.slots[usize::from(self.slot_of[control.number()]?)];
        let how = &other.contacts[contact];
        run(&slot.contacts).find(|own| {
            let plan = &self.contacts[*own];
            (plan.part, plan.down_at, plan.up_at) == (how.part, how.down_at, how.up_at)
        })
    }
}

/// What a cross gives for what its legs give.
#[inline(never)]
pub(crate) fn shaped(shape: &ShapePlan, moved: &MovedPlan, legs: (i32, i32)) -> Stand {
    let Bent { to, push } = if moved.stick {
        let (x, y) = fixed::within_one(legs.0, legs.1);
        shape.pair(x, y)
    } else {
        shape.level(legs.0)
    };
    Stand { to, push, size: fixed::length(to.0, to.1), points: Points::Unknown }
}

/// What a cross gives in the nine places in which keys hold it.
pub(super) fn nine(shape: &ShapePlan, moved: &MovedPlan) -> [Stand; 9] {
    core::array::from_fn(|place| {
        let (x, y) = ((place % 3) as i32 - 1, (place / 3) as i32 - 1);
        let stand = shaped(shape, moved, (x * ONE, y * ONE));
        Stand { points: moved.known_points(stand.to), ..stand }
    })
}
