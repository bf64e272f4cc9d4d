//! Cues made ready: when actions pull, and who listens to whom. Their state is the seat's `Cues`.

use alloc::vec::Vec;
use core::hash::{Hash, Hasher};

use crate::cue::rolls::MotionSet;
use crate::cue::{CompiledRule, Cue, Kinds, Role, RulePlan};
use crate::index::{FinisherIndex, Run, SetIndex, StickIndex};

/// When actions pull, and who listens to whom.
#[derive(Debug, Default, Hash)]
pub(crate) struct CuesPlan {
    /// The cues of all actions, in the order of the actions.
    pub(crate) all: Vec<CuePlan>,
    /// The cues that listen to an action, by that action.
    pub(crate) listeners: Vec<Listener>,
    /// The motions of sticks, each stick's together, and how many of them need a timer.
    pub(crate) motions: Vec<MotionSet>,
    pub(crate) motion_timers: usize,
    /// What actions finish: which set of motions, and which of its finishers, by that action.
    pub(crate) finishes: Vec<(u16, FinisherIndex)>,
    /// How many moments the rules remember.
    pub(crate) moments: usize,
}

/// One cue of an action.
#[derive(Clone, Debug)]
pub(crate) struct CuePlan {
    pub(crate) action: u16,
    pub(crate) rule: RulePlan,
    /// The action whose edges it hears.
    pub(crate) subject: u16,
    /// The axis or stick whose pushes it hears.
    pub(crate) pushed: Option<StickIndex>,
    /// What its rule remembers, in the seat's moments.
    pub(crate) moments: Run,
    /// The set that its motion stands in.
    pub(crate) set: Option<SetIndex>,
    /// As declared, for people.
    pub(crate) line: Cue,
}

/// A cue that listens to an action.
#[derive(Clone, Debug, Hash)]
pub(crate) struct Listener {
    pub(crate) cue: u16,
    /// The action that the cue pulls.
    pub(crate) owner: u16,
    pub(crate) role: Role,
    /// The kinds of edges that it hears.
    pub(crate) kinds: Kinds,
    /// Its rule, and where what that remembers stands: both as in the cue's plan, at hand.
    pub(crate) rule: RulePlan,
    pub(crate) moments: Run,
    /// It pulls at each press, and remembers nothing.
    pub(crate) is_press: bool,
    /// It remembers moments.
    pub(crate) slides: bool,
    /// Any of several cues pulls its action.
    pub(crate) several: bool,
    /// The axis or stick whose pushes it hears, through this action or another.
    pub(crate) pushed: Option<StickIndex>,
}

impl Listener {
    pub(super) fn new(cue: u16, role: Role, cues: &[CuePlan]) -> Listener {
        let CuePlan { action, rule, moments, .. } = &cues[usize::from(cue)];
        // An action's cues stand side by side.
        let beside = [usize::from(cue).checked_sub(1), Some(usize::from(cue) + 1)];
        let several = beside.into_iter().flatten().filter_map(|other| cues.get(other)).any(|cue| cue.action == *action);
        Listener {
            cue,
            owner: *action,
            role,
            rule: *rule,
            moments: moments.clone(),
            kinds: rule.kinds(),
            is_press: rule.is_press(),
            slides: !moments.is_empty(),
            several,
            pushed: None,
        }
    }
}

/// Its line is only told to people, and whose pushes it hears follows from the rest.
impl Hash for CuePlan {
    fn hash<H: Hasher>(&self, state: &mut H) {
        let CuePlan { line: _, pushed: _, action, rule, subject, moments, set } = self;
        (action, rule, subject, moments, set).hash(state);
    }
}
