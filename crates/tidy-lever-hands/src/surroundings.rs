//! What is around an action: all others, what moves them, and which of them are heard together.

use std::collections::HashMap;
use std::rc::Rc;

use tidy_lever::Direction;
use tidy_lever::Linkage;
use tidy_lever::cue::Rule;
use tidy_lever::linkage::ActionView;

use crate::grip::{Grip, Way, button, pointing};

/// All actions of a profile, looked at once.
#[derive(Debug)]
pub(crate) struct Surroundings<'l> {
    pub(crate) actions: Vec<ActionView<'l>>,
    /// What moves each action, by way: its own button, or what its cue hears.
    pub(crate) moved: HashMap<Way, Vec<Option<Grip>>>,
    /// Whether each goes off at any press of its controls.
    pub(crate) eager: Vec<bool>,
    /// Whether pressing its button for a moment is all that one does with it.
    pub(crate) plain: Vec<bool>,
    heard: HashMap<Vec<(String, bool)>, Rc<Vec<usize>>>,
}

fn is_eager(action: &ActionView<'_>) -> bool {
    action.cues().any(|cue| matches!(cue.rule, Rule::Press | Rule::Release | Rule::Toggle | Rule::Repeat { .. }))
}

/// It is pressed or tapped, and switches no mode.
fn is_plain(action: &ActionView<'_>) -> bool {
    matches!(action.cue().map(|cue| &cue.rule), Some(Rule::Press | Rule::Toggle | Rule::Tap { .. }))
        && action.switches().into_iter().all(|mut modes| modes.next().is_none())
}

impl<'l> Surroundings<'l> {
    pub(crate) fn new(linkage: &'l Linkage) -> Surroundings<'l> {
        let actions: Vec<ActionView<'l>> = linkage.actions().collect();
        let by_name: HashMap<&str, ActionView<'l>> = actions.iter().map(|action| (action.name(), *action)).collect();
        let moved_by = |action: &ActionView<'l>, way: Way| {
            let own = button(linkage, *action, way).map(Grip::Press);
            own.or_else(|| {
                let subject = action.cue().and_then(|cue| cue.subject.as_deref()).unwrap_or_else(|| action.name());
                let subject = by_name.get(subject.split('.').next().unwrap_or_default())?;
                let press = button(linkage, *subject, way).map(Grip::Press);
                press.or_else(|| Some(Grip::Push(pointing(linkage, *subject, way)?, Direction::Right)))
            })
        };
        let of = |way: Way| (way, actions.iter().map(|action| moved_by(action, way)).collect());
        Surroundings {
            moved: Way::TRIED.into_iter().map(of).collect(),
            eager: actions.iter().map(is_eager).collect(),
            plain: actions.iter().map(is_plain).collect(),
            heard: HashMap::new(),
            actions,
        }
    }

    /// The actions that are heard once these modes were switched, by number.
    pub(crate) fn heard(&mut self, modes: &[(String, bool)]) -> Rc<Vec<usize>> {
        if let Some(known) = self.heard.get(modes) {
            return known.clone();
        }
        let switches: Vec<(&str, bool)> = modes.iter().map(|(mode, on)| (mode.as_str(), *on)).collect();
        let numbers = 0..self.actions.len();
        let heard: Rc<Vec<usize>> =
            Rc::new(numbers.filter(|number| self.actions[*number].is_heard_after(&switches)).collect());
        self.heard.insert(modes.to_vec(), heard.clone());
        heard
    }
}
