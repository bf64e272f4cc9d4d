//! What is being built, and what every part of it asks: names, spans, faults with their places.

use super::*;

/// For this many faults the nearest right name is looked up.
const MOST_NEAREST: usize = 100;

/// A control found by its name in a profile.
#[derive(Clone, Copy)]
pub(super) struct Found {
    pub(super) control: Control,
    pub(super) sort: Sort,
    pub(super) part: Part,
}

/// A contact or a feed on its way into the flat tables, which are sorted by slot at the end.
pub(super) struct Draft {
    pub(super) slot: u16,
    pub(super) part: Part,
    pub(super) down_at: i32,
    pub(super) up_at: i32,
    pub(super) wires: Vec<Wire>,
}

/// A cue made ready: its rule, its subject, who else it listens to, and the line.
pub(super) struct Heeds {
    pub(super) rule: RulePlan,
    pub(super) subject: u16,
    pub(super) others: Vec<(u16, Role)>,
    pub(super) line: Cue,
}

pub(super) struct Builder<'p> {
    pub(super) profile: &'p Profile,
    pub(super) access: &'p Access,
    pub(super) faults: Vec<Fault>,
    /// The first action of each name; behind the declared ones the directions of sticks and axes, in their order.
    pub(super) names: BTreeMap<String, usize>,
    pub(super) actions: Vec<ActionPlan>,
    pub(super) inputs: InputsPlan,
    pub(super) cues: CuesPlan,
    pub(super) world: WorldPlan,
    pub(super) panel: Vec<PatchPlan>,
    // What has no place yet.
    /// By action: the stick that its pulls aim with.
    pub(super) aims: Vec<Option<ActionIndex>>,
    /// By fact and value: the truth that it is.
    pub(super) truths: BTreeMap<(u16, u16), u16>,
    pub(super) groups: Vec<String>,
    pub(super) patches: Vec<(String, Sort)>,
    pub(super) contacts: Vec<Draft>,
    pub(super) feeds: Vec<(u16, FeedPlan)>,
    /// The legs of each cross: up, left, down, right.
    pub(super) cross_legs: Vec<[LegPlan; 4]>,
    pub(super) motion_drafts: Vec<(usize, MotionDraft)>,
    /// By finishing action: which set, and which of its finishers.
    pub(super) finishes: Vec<(u16, u16, FinisherIndex)>,
    /// Who is listened to, by which cue.
    pub(super) listening: Vec<(u16, u16, Role)>,
}

impl<'p> Builder<'p> {
    pub(super) fn new(profile: &'p Profile, access: &'p Access) -> Builder<'p> {
        Builder {
            profile,
            access,
            faults: profile.read_faults.clone(),
            names: BTreeMap::new(),
            actions: Vec::new(),
            inputs: InputsPlan {
                slot_of: vec![None; CONTROLS],
                shapes: vec![ShapePlan::plain()],
                ..InputsPlan::default()
            },
            cues: CuesPlan::default(),
            world: WorldPlan::default(),
            panel: Vec::new(),
            aims: Vec::new(),
            truths: BTreeMap::new(),
            groups: Vec::new(),
            patches: Vec::new(),
            contacts: Vec::new(),
            feeds: Vec::new(),
            cross_legs: Vec::new(),
            motion_drafts: Vec::new(),
            finishes: Vec::new(),
            listening: Vec::new(),
        }
    }

    pub(super) fn fault(&mut self, spot: Spot, path: impl Into<String>, problem: impl Into<String>) {
        self.faults.push(Fault::new(spot, path, problem));
    }

    /// A fault with the nearest right name. Behind a hundred faults nobody reads on, and looking would only take long.
    pub(super) fn near<'a>(&self, fault: Fault, wrong: &str, right: impl IntoIterator<Item = &'a str>) -> Fault {
        if self.faults.len() < MOST_NEAREST { fault.near(wrong, right) } else { fault }
    }

    pub(super) fn warn(&mut self, spot: Spot, path: impl Into<String>, problem: impl Into<String>) {
        self.faults.push(Fault::new(spot, path, problem).warning());
    }

    /// The cues of an action that is built.
    pub(super) fn cues_of(&self, number: usize) -> &[CuePlan] {
        self.actions.get(number).map_or(&[], |action| &self.cues.all[run(&action.cues)])
    }

    /// A span in µs.
    pub(super) fn span(&mut self, span: &Placed<SpanEntry>, path: &str) -> u64 {
        match span.read() {
            Ok(span) => micros(span),
            Err(error) => {
                self.fault(span.spot, path, format!("\"{}\": {error}", span.value));
                0
            }
        }
    }

    /// Learns the names of the actions, and of the directions of sticks and axes behind them.
    pub(super) fn learn_names(&mut self) {
        let actions = &self.profile.actions;
        let directions = actions.iter().flat_map(|action| {
            let buttons = directions(action.kind.value).iter();
            buttons.map(|(_, direction)| format!("{}.{direction}", action.name.value))
        });
        for (number, name) in actions.iter().map(|action| action.name.value.clone()).chain(directions).enumerate() {
            self.names.entry(name).or_insert(number);
        }
    }

    /// The number of a declared action.
    pub(super) fn declared(&self, name: &str) -> Option<usize> {
        self.names.get(name).copied().filter(|number| *number < self.profile.actions.len())
    }
}

/// The buttons that an action of a kind has besides itself, by name: the directions of a stick, the ends of an axis, a
/// pointer's drag and click. The direction says which; a pointer's two have none of their own.
pub(super) fn directions(kind: Kind) -> &'static [(Direction, &'static str)] {
    const STICK: [(Direction, &str); 8] = {
        let mut all = [(Direction::Right, ""); 8];
        let mut i = 0;
        while i < 8 {
            all[i] = (Direction::ALL[i], Direction::ALL[i].name());
            i += 1;
        }
        all
    };
    match kind {
        Kind::Button | Kind::Sweep | Kind::Gauge => &[],
        Kind::Axis => &[(Direction::Right, "plus"), (Direction::Left, "minus")],
        Kind::Stick => &STICK,
        Kind::Pointer => &[(Direction::Right, "drag"), (Direction::Left, "click")],
    }
}

/// A line of a grammar with its place: faults point into it, and the text begins behind its quote.
#[derive(Clone, Copy)]
pub(super) struct Written<'t> {
    pub(super) text: &'t str,
    pub(super) spot: Spot,
}

impl<'t> Written<'t> {
    pub(super) fn new(text: &'t str, spot: Spot) -> Written<'t> {
        Written { text, spot }
    }

    /// What is wrong at one of its characters.
    pub(super) fn fault(self, error: &CueError, path: &str) -> Fault {
        Fault::new(self.spot_at(error.at), path, format!("`{}`: {error}", self.text))
    }

    pub(super) fn spot_at(self, character: usize) -> Spot {
        let column = if self.spot.is_some() { self.spot.column + 1 + character as u32 } else { 0 };
        Spot { column, ..self.spot }
    }

    /// Where a name, or its part behind the dot, is in it; the line's own place if it is not there.
    pub(super) fn spot_of(self, name: &str) -> Spot {
        let is_of_name = |c: char| c.is_alphanumeric() || matches!(c, '_' | '-' | '.');
        let stands = |(at, found): &(usize, &str)| {
            !self.text[..*at].ends_with(is_of_name) && !self.text[at + found.len()..].starts_with(is_of_name)
        };
        let find = |name: &str| self.text.match_indices(name).find(stands).map(|(at, _)| at);
        let at = find(name).or_else(|| find(name.split_once('.')?.1));
        at.map_or(self.spot, |at| self.spot_at(self.text[..at].chars().count()))
    }
}

pub(super) fn facing(first: u16) -> FactPlan {
    FactPlan { name: "facing".to_owned(), words: vec!["left".to_owned(), "right".to_owned()], flag: false, first }
}

pub(super) fn flag(name: &str, first: bool) -> FactPlan {
    let words = vec!["false".to_owned(), "true".to_owned()];
    FactPlan { name: name.to_owned(), words, flag: true, first: u16::from(first) }
}

pub(super) fn names_spot(legs: &crate::profile::Legs, leg: Leg) -> Option<Spot> {
    legs.0.iter().find(|(l, _)| *l == leg).and_then(|(_, names)| names.first()).map(|name| name.spot)
}

/// Makes a run reach over one more place; runs are filled in order.
pub(super) fn grow(run: &mut Run, place: u32) {
    if run.start == run.end {
        run.start = place;
    }
    run.end = place + 1;
}
