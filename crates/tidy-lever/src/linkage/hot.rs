//! What playing asks of an action at every event, side by side in memory. All of it stands in the [`ActionPlan`], too.

use super::{ActionPlan, CuePlan, Listener};
use crate::cue::Kinds;
use crate::index::{CueIndex, GaugeIndex, Run, StickIndex};

/// The hot part of an action's plan.
#[derive(Clone, Debug)]
pub(crate) struct HotPlan {
    pub(crate) listeners: Run,
    pub(crate) finishes: Run,
    pub(crate) cues: Run,
    /// The kinds of edges that any listener hears.
    pub(crate) kinds: Kinds,
    /// The cue of its own that alone listens to it and pulls at each press.
    pub(crate) press_cue: Option<CueIndex>,
    /// A cue or a motion stands on its presses.
    pub(crate) is_heard: bool,
    /// The gauge that its presses push.
    pub(crate) gauge: Option<GaugeIndex>,
    /// Any of several cues pulls it.
    pub(crate) several: bool,
    pub(crate) while_held: bool,
    /// It waits for others.
    pub(crate) waits: bool,
    /// A pull of it is all: it takes nothing from others, spends and switches nothing.
    pub(crate) pulls_alone: bool,
    /// A cue of it hears how far a stick is pushed.
    pub(crate) hears_pushes: bool,
    /// The stick that it aims with.
    pub(crate) aim: Option<StickIndex>,
}

impl HotPlan {
    pub(super) fn new((own_number, action): (usize, &ActionPlan), cues: &[CuePlan], listeners: &[Listener]) -> HotPlan {
        let several = action.has_several();
        let press_cue = match listeners {
            [only] if only.is_press && !several && own_number == usize::from(only.owner) => {
                Some(CueIndex::new(only.cue))
            }
            _ => None,
        };
        let own = &cues[action.cues.start as usize..action.cues.end as usize];
        HotPlan {
            listeners: action.listeners.clone(),
            finishes: action.finishes.clone(),
            cues: action.cues.clone(),
            kinds: listeners.iter().fold(0, |kinds, listener| kinds | listener.kinds),
            press_cue,
            is_heard: !action.listeners.is_empty() || !action.finishes.is_empty(),
            gauge: action.gauge,
            several,
            while_held: action.while_held,
            waits: !action.waits_for.is_empty(),
            pulls_alone: !several
                && action.outranks.is_empty()
                && action.group.is_none()
                && action.spends.is_empty()
                && action.stages.is_none()
                && action.cooldown == 0
                && action.marks.is_empty()
                && action.turns_on.is_empty()
                && action.turns_off.is_empty()
                && own.iter().all(|cue| !cue.rule.is_toggle()),
            hears_pushes: own.iter().any(|cue| cue.pushed.is_some()),
            aim: action.aim,
        }
    }
}
