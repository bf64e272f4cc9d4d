//! Linkages: a profile checked and made ready. Immutable, shared, cheap to clone.
//!
//! ```text
//!   control ──▶ slot ─┬─▶ contact (a control or part as a button) ──▶ wire ──▶ button, or leg of a cross
//!                     └─▶ feed (a control or part as a level) ──▶ stick, axis, or leg of a cross
//! ```

mod build;
mod cues;
mod describe;
mod digest;
mod hot;
mod inputs;
pub(crate) mod names;
mod opening;
mod patches;
mod reach;
mod world;

use alloc::string::String;
use alloc::sync::Arc;
use alloc::vec::Vec;

pub use crate::shape::ResponseEdges;
pub(crate) use cues::{CuePlan, CuesPlan, Listener};
pub use describe::{ActionView, CompassView, ControlView, Delay, ResponseView};
pub(crate) use hot::HotPlan;
pub(crate) use inputs::{
    Alone, ButtonPlan, ContactPlan, CrossPlan, FeedPlan, InputsPlan, LegOf, LegPlan, MovedPlan, PairPlan, PointerPlan,
    Points, SlotPlan, Stand, Wire, shaped,
};
pub use opening::GateView;
pub(crate) use patches::{PatchPlan, Place, length};
pub(crate) use world::{WorldActionPlan, WorldPlan};

use crate::access::Access;
use crate::control::Control;
use crate::cue::rolls::MotionSet;
use crate::gate::Step;
use crate::index::{GaugeIndex, GroupIndex, PointerIndex, Run, StickIndex, run};
use crate::mode::HeardPlan;
use crate::profile::{Fault, Faults, Kind, Profile};

/// The most actions that a profile may have; a stick counts for nine and an axis for three, as each of their
/// directions is a button, too.
pub const MOST_ACTIONS: usize = 65_000;
/// The most cues that all actions of a profile have together; a button without a line has one, `press`.
pub const MOST_CUES: usize = 65_000;
/// The most motions that end with a held direction; a motion with `forward` or `back` counts twice.
pub const MOST_HELD_ENDS: usize = 65_000;
/// The most words that the gates of a profile ask its facts for, each word of a fact counted once.
pub const MOST_ASKED_WORDS: usize = 65_000;
/// The most facts that a profile may have.
pub const MOST_FACTS: usize = 4_096;
/// The most words that a fact may be one of.
pub const MOST_WORDS: usize = 4_096;
/// The most modes that a profile may have.
pub const MOST_MODES: usize = 64;

/// The most steps that all motions of one stick have together; a motion with `forward` or `back` counts twice.
pub const MOST_STEPS: usize = 32_768;

/// A compiled profile, in which every name, number and rule was checked. Cloning shares it.
///
/// ```
/// use tidy_lever::{Linkage, Moment, Profile};
///
/// let profile = Profile::from_toml("tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n")?;
/// let linkage = Linkage::build(&profile)?;
/// let seats = [linkage.seat(Moment::ZERO), linkage.seat(Moment::ZERO)];
/// assert_eq!(seats[0].linkage().actions().count(), 1);
/// # Ok::<(), tidy_lever::profile::Faults>(())
/// ```
#[derive(Clone)]
pub struct Linkage(pub(crate) Arc<Plan>);

/// Everything that a seat needs to know, in flat tables.
#[derive(Debug)]
pub(crate) struct Plan {
    /// Controls and what they move.
    pub(crate) inputs: InputsPlan,
    /// When actions pull, and who listens to whom.
    pub(crate) cues: CuesPlan,
    /// What the game tells, and what goes by the world's clock.
    pub(crate) world: WorldPlan,
    pub(crate) title: String,
    /// Tells the names and kinds of one profile from those of another.
    pub(crate) stamp: u32,
    /// All names, to find handles of other versions of the profile again.
    pub(crate) names: names::Names,
    /// The same for plans on which a seat's state means the same.
    pub(crate) digest: u64,
    /// The declared actions, then the directions of sticks and axes as buttons.
    pub(crate) actions: Vec<ActionPlan>,
    pub(crate) hot: Vec<HotPlan>,
    pub(crate) declared: usize,
    /// The actions that pull again while held.
    pub(crate) while_held: Vec<u16>,
    /// The members of each group, in the order of the file.
    pub(crate) groups: Vec<Vec<u16>>,
    pub(crate) warnings: Vec<Fault>,
}

#[derive(Clone, Debug)]
pub(crate) struct ActionPlan {
    pub(crate) name: String,
    pub(crate) kind: Kind,
    pub(crate) heard: HeardPlan,
    /// When it pulls: any of these will do; a stick without a cue never does.
    pub(crate) cues: Run,
    pub(crate) gauge: Option<GaugeIndex>,
    /// In µs.
    pub(crate) cooldown: u64,
    /// Names and spans in µs.
    pub(crate) marks: Vec<(String, u64)>,
    /// Whom it outranks, and whom those do, in ascending order.
    pub(crate) outranks: Vec<u16>,
    pub(crate) waits_for: Vec<u16>,
    pub(crate) group: Option<GroupIndex>,
    /// When its pulls may pass; empty is always.
    pub(crate) gate: Vec<Step>,
    /// What each of its steps asks, in words.
    pub(crate) terms: Vec<String>,
    /// In µs; 0 keeps nothing.
    pub(crate) keep: u64,
    pub(crate) while_held: bool,
    /// The truths that a pull spends, and for how long in µs.
    pub(crate) spends: Vec<(u16, u64)>,
    /// How many, after which truth, within how many µs.
    pub(crate) stages: Option<(u8, u16, u64)>,
    pub(crate) turns_on: Vec<u16>,
    pub(crate) turns_off: Vec<u16>,
    pub(crate) listeners: Run,
    /// Which motions it finishes.
    pub(crate) finishes: Run,
    pub(crate) moved: Option<StickIndex>,
    pub(crate) pointer: Option<PointerIndex>,
    /// The stick whose direction its pulls carry.
    pub(crate) aim: Option<StickIndex>,
    /// One press puts it down, the next lifts it.
    pub(crate) latched: bool,
    /// While it is held it is pressed again so often, in µs; 0 for not at all.
    pub(crate) mash_period: u64,
    /// Its controls as declared, for people.
    pub(crate) controls: Vec<ControlView>,
    /// Its wires, for going stale.
    pub(crate) wires: Vec<u32>,
}

impl Plan {
    /// The hand's timers stand in a row: cues, motions whose last step is held, mashing by action.
    pub(crate) fn first_motion_timer(&self) -> usize {
        self.cues.all.len()
    }

    /// The cues of an action.
    pub(crate) fn cues_of(&self, action: usize) -> &[CuePlan] {
        &self.cues.all[run(&self.actions[action].cues)]
    }

    /// The action that a cue pulls.
    pub(crate) fn owner(&self, cue: usize) -> usize {
        usize::from(self.cues.all[cue].action)
    }

    /// Whether an action's presses turn it on and off. Such a cue stands alone.
    pub(crate) fn toggles(&self, action: usize) -> bool {
        matches!(self.cues_of(action), [cue] if cue.rule.is_toggle())
    }

    /// The set that a cue's motion stands in, with its number; `None` if it is not a motion.
    pub(crate) fn motions_of(&self, cue: usize) -> Option<(usize, &MotionSet)> {
        let set = usize::from(self.cues.all[cue].set?);
        Some((set, self.cues.motions.get(set)?))
    }
}

impl ActionPlan {
    /// Whether any of several cues pulls it.
    #[inline]
    pub(crate) fn has_several(&self) -> bool {
        self.cues.end - self.cues.start > 1
    }

    /// An action that nothing is known of but its name and kind.
    fn new(name: String, kind: Kind, heard: HeardPlan) -> ActionPlan {
        ActionPlan {
            name,
            kind,
            heard,
            cues: 0..0,
            gauge: None,
            cooldown: 0,
            marks: Vec::new(),
            outranks: Vec::new(),
            waits_for: Vec::new(),
            group: None,
            gate: Vec::new(),
            terms: Vec::new(),
            keep: 0,
            while_held: false,
            spends: Vec::new(),
            stages: None,
            turns_on: Vec::new(),
            turns_off: Vec::new(),
            listeners: 0..0,
            finishes: 0..0,
            moved: None,
            pointer: None,
            aim: None,
            latched: false,
            mash_period: 0,
            controls: Vec::new(),
            wires: Vec::new(),
        }
    }
}

impl Linkage {
    /// Checks and compiles a profile.
    ///
    /// # Errors
    /// All [`Faults`] at once, each with its place, what was expected and the nearest right name.
    pub fn build(profile: &Profile) -> Result<Linkage, Faults> {
        Linkage::build_for(profile, &Access::default())
    }

    /// The same with a player's accessibility settings. Names and handles stay the same.
    ///
    /// # Errors
    /// As [`build`](Linkage::build); what is wrong with the settings stands under `access`.
    pub fn build_for(profile: &Profile, access: &Access) -> Result<Linkage, Faults> {
        build::build(profile, access).map(|plan| Linkage(Arc::new(plan.digested())))
    }

    /// The profile's title.
    pub fn title(&self) -> &str {
        &self.0.title
    }

    /// Warnings: what the profile declares but probably does not mean.
    pub fn warnings(&self) -> impl Iterator<Item = &Fault> {
        self.0.warnings.iter()
    }

    /// A control by its full name, touch patches of this profile's panel among them (`touch:thumb`).
    pub fn control(&self, name: &str) -> Option<Control> {
        match name.strip_prefix("touch:") {
            Some(patch) => self.0.inputs.patches.iter().position(|p| p == patch).map(Control::patch),
            None => name.parse().ok(),
        }
    }

    /// Whether both are one: built once, and cloned. Pictures of a profile are good as long as it is the same.
    pub fn is_same(&self, other: &Linkage) -> bool {
        Arc::ptr_eq(&self.0, &other.0)
    }

    /// Whether a seat's state means the same on both.
    pub(crate) fn is_like(&self, other: &Linkage) -> bool {
        Arc::ptr_eq(&self.0, &other.0) || self.0.digest == other.0.digest
    }

    pub(crate) fn stamp(&self) -> u32 {
        self.0.stamp
    }

    pub(crate) fn action_name(&self, number: usize) -> &str {
        self.0.actions.get(number).map_or("", |action| &action.name)
    }
}

impl core::fmt::Debug for Linkage {
    fn fmt(&self, f: &mut core::fmt::Formatter<'_>) -> core::fmt::Result {
        write!(f, "Linkage({:?}, {} actions)", self.0.title, self.0.declared)
    }
}
