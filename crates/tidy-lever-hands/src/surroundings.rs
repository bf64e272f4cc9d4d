//! What is around an action: all others, what moves them, and which of them are heard together.
//!
//! ```text
//!   way  ─▶ what moves each action ─▶ place ─▶ the actions there
//!   modes ─▶ who is heard ──way──▶ what there is to walk with and to press, and who goes off by it
//! ```

use std::cell::RefCell;
use std::collections::HashMap;
use std::rc::Rc;

use tidy_lever::Direction;
use tidy_lever::Linkage;
use tidy_lever::cue::Rule;
use tidy_lever::linkage::ActionView;
use tidy_lever::profile::Kind;

use crate::distract::Doing;
use crate::grip::{Grip, Place, Pointing, Press, Way, button, collide, pointing};

/// All actions of a profile, looked at once.
#[derive(Debug)]
pub(crate) struct Surroundings<'l> {
    pub(crate) actions: Vec<ActionView<'l>>,
    /// The number of each by its name.
    pub(crate) numbers: HashMap<&'l str, usize>,
    /// What moves each action, by way: its own button, or what its cue hears.
    pub(crate) moved: HashMap<Way, Vec<Option<Grip>>>,
    /// Whether each goes off at any press of its controls.
    pub(crate) eager: Vec<bool>,
    /// Whether pressing its button for a moment is all that one does with it.
    pub(crate) plain: Vec<bool>,
    /// The actions that take hold of a place, by way.
    places: HashMap<Way, HashMap<Place, Vec<usize>>>,
    heard: HashMap<Vec<(String, bool)>, Rc<Heard>>,
}

/// Which actions are heard.
#[derive(Debug)]
pub(crate) struct Heard {
    pub(crate) numbers: Vec<usize>,
    is_heard: Vec<bool>,
    /// What there is to do with these, by way, as far as that was asked for.
    beside: RefCell<HashMap<Way, Rc<Beside>>>,
}

/// What a hand can do beside what it means.
#[derive(Debug)]
pub(crate) struct Beside {
    pub(crate) walk: Option<(Pointing, Doing)>,
    pub(crate) presses: Vec<Plain>,
}

/// An action that one can press for a moment.
#[derive(Debug)]
pub(crate) struct Plain {
    pub(crate) number: usize,
    pub(crate) press: Press,
    /// Who goes off by it.
    pub(crate) doing: Doing,
    /// How many are moved by it, itself among them.
    pub(crate) sharing: usize,
}

impl Heard {
    pub(crate) fn has(&self, number: usize) -> bool {
        self.is_heard[number]
    }
}

fn is_eager(action: &ActionView<'_>) -> bool {
    action.cues().any(|cue| matches!(cue.rule, Rule::Press | Rule::Release | Rule::Toggle | Rule::Repeat { .. }))
}

/// It is pressed or tapped, and switches no mode.
fn is_plain(action: &ActionView<'_>) -> bool {
    matches!(action.cue().map(|cue| &cue.rule), Some(Rule::Press | Rule::Toggle | Rule::Tap { .. }))
        && action.turns_on().chain(action.turns_off()).next().is_none()
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
        let moved: HashMap<Way, Vec<Option<Grip>>> = Way::TRIED.into_iter().map(of).collect();
        let mut places: HashMap<Way, HashMap<Place, Vec<usize>>> = HashMap::new();
        for (way, moved) in &moved {
            let own = places.entry(*way).or_default();
            for (number, grip) in moved.iter().enumerate() {
                grip.iter().flat_map(|grip| grip.places()).for_each(|place| own.entry(place).or_default().push(number));
            }
        }
        Surroundings {
            moved,
            places,
            eager: actions.iter().map(is_eager).collect(),
            plain: actions.iter().map(is_plain).collect(),
            heard: HashMap::new(),
            numbers: actions.iter().enumerate().map(|(number, action)| (action.name(), number)).collect(),
            actions,
        }
    }

    /// The actions that are heard once these modes were switched.
    pub(crate) fn heard(&mut self, modes: &[(String, bool)]) -> Rc<Heard> {
        if let Some(known) = self.heard.get(modes) {
            return known.clone();
        }
        let switches: Vec<(&str, bool)> = modes.iter().map(|(mode, on)| (mode.as_str(), *on)).collect();
        let is_heard: Vec<bool> = self.actions.iter().map(|action| action.is_heard_after(&switches)).collect();
        let numbers = (0..self.actions.len()).filter(|number| is_heard[*number]).collect();
        let heard = Rc::new(Heard { numbers, is_heard, beside: RefCell::default() });
        self.heard.insert(modes.to_vec(), heard.clone());
        heard
    }

    /// Those heard that a grip moves, by number.
    fn moved_by(&self, heard: &Heard, way: Way, grip: Grip) -> Vec<usize> {
        let (moved, places) = (&self.moved[&way], &self.places[&way]);
        let all = grip.places().filter_map(|place| places.get(&place)).flatten().copied();
        let is_moved = |number: &usize| heard.has(*number) && moved[*number].is_some_and(|own| collide(own, grip));
        let mut all: Vec<usize> = all.filter(is_moved).collect();
        all.sort_unstable();
        all.dedup();
        all
    }

    /// What goes off, as it should, when this is pressed or pushed.
    pub(crate) fn going_off(&self, heard: &Heard, way: Way, grip: Grip) -> Vec<usize> {
        self.moved_by(heard, way, grip).into_iter().filter(|number| self.eager[*number]).collect()
    }

    /// What there is to do beside an action while these are heard.
    pub(crate) fn beside(&self, linkage: &Linkage, heard: &Heard, way: Way) -> Rc<Beside> {
        if let Some(known) = heard.beside.borrow().get(&way) {
            return known.clone();
        }
        let mut sticks =
            heard.numbers.iter().map(|number| self.actions[*number]).filter(|one| one.kind() == Kind::Stick);
        let walk = sticks.find_map(|stick| pointing(linkage, stick, way));
        let walk = walk.map(|walk| (walk, self.going_off(heard, way, Grip::Push(walk, Direction::Right)).into()));
        // Of a control alone, every action that it moves has the same.
        let mut known: HashMap<Place, (Doing, usize)> = HashMap::new();
        let mut presses = Vec::new();
        for number in heard.numbers.iter().copied().filter(|number| self.plain[*number]) {
            let Some(grip @ Grip::Press(press)) = self.moved[&way][number] else { continue };
            let look = || {
                let moved = self.moved_by(heard, way, grip);
                let doing: Doing = moved.iter().copied().filter(|number| self.eager[*number]).collect();
                (doing, moved.len())
            };
            let is_whole = matches!(press, Press::Button(_) | Press::Trigger(_) | Press::Notch(_));
            let (doing, sharing) = match grip.places().next().filter(|_| is_whole) {
                Some(place) => known.entry(place).or_insert_with(look).clone(),
                None => look(),
            };
            let doing = if self.eager[number] {
                doing
            } else {
                let mut own = doing.to_vec();
                own.insert(own.partition_point(|other| *other < number), number);
                own.into()
            };
            presses.push(Plain { number, press, doing, sharing });
        }
        let beside = Rc::new(Beside { walk, presses });
        heard.beside.borrow_mut().insert(way, beside.clone());
        beside
    }
}
