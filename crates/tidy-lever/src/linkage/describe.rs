//! What a linkage tells about itself, for people and for tools.

use alloc::string::String;

use super::Linkage;
use crate::control::{Control, Part};
use crate::cue::Cue;
use crate::profile::{Kind, Leg};

/// One control of an action, as bound.
#[derive(Clone, Debug, PartialEq)]
pub struct ControlView {
    /// The control.
    pub control: Control,
    /// Which part of it.
    pub part: Part,
    /// The leg it stands on, for crosses and pairs.
    pub leg: Option<Leg>,
    /// The full name as the profile writes it: `pad:left-stick.x`.
    pub name: String,
}

/// One declared action.
#[derive(Clone, Copy, Debug)]
pub struct ActionView<'l> {
    pub(crate) linkage: &'l Linkage,
    pub(crate) number: usize,
}

impl<'l> ActionView<'l> {
    fn plan(&self) -> &'l super::ActionPlan {
        &self.linkage.0.actions[self.number]
    }

    /// Its name.
    pub fn name(&self) -> &'l str {
        &self.plan().name
    }

    /// Its kind.
    pub fn kind(&self) -> Kind {
        self.plan().kind
    }

    /// Its controls in the order of the profile.
    pub fn controls(&self) -> &'l [ControlView] {
        &self.plan().controls
    }

    /// When it pulls; `None` for sticks and axes without a cue.
    pub fn cue(&self) -> Option<&'l Cue> {
        self.plan().line.as_ref()
    }

    /// The modes it is heard in; `None` where none is named or it is heard always.
    pub fn modes(&self) -> Option<impl Iterator<Item = &'l str>> {
        match &self.plan().heard {
            crate::mode::HeardPlan::In(modes) => {
                Some(modes.iter().map(|mode| self.linkage.0.modes[usize::from(*mode)].name.as_str()))
            }
            _ => None,
        }
    }

    /// Whether it stays where it was pushed last.
    pub fn stays(&self) -> bool {
        let moved = self.linkage.0.moved.get(usize::from(self.plan().moved));
        moved.is_some_and(|moved| moved.rest == crate::profile::Rest::Last)
    }

    /// Whether no mode ever covers it.
    pub fn is_always_heard(&self) -> bool {
        self.plan().heard == crate::mode::HeardPlan::Always
    }
}

impl Linkage {
    /// The declared actions, in the order of the profile.
    pub fn actions(&self) -> impl Iterator<Item = ActionView<'_>> {
        (0..self.0.declared).map(|number| ActionView { linkage: self, number })
    }

    /// A declared action by its name.
    pub fn action(&self, name: &str) -> Option<ActionView<'_>> {
        self.actions().find(|action| action.name() == name)
    }
}
