//! The menu: a row for each key that can be changed, and one for each access setting.

use tidy_lever::access::{Access, Which};
use tidy_lever::listening::Listening;
use tidy_lever::profile::Leg;
use tidy_lever::prompt::Labels;
use tidy_lever::remap::Target;
use tidy_lever::{Family, Linkage};

use crate::hands::MenuWishes;

/// What a row is about.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Row {
    /// An action's control of the family in use, or one leg of it.
    Bind(&'static str, &'static str, Option<Leg>),
    Toggled,
    Mash,
    Leeway,
    Holds,
    OneByOne,
    ResetAll,
    Close,
}

const LEGS: [Row; 4] = [
    Row::Bind("Walk away from you", "steer", Some(Leg::Up)),
    Row::Bind("Walk left", "steer", Some(Leg::Left)),
    Row::Bind("Walk towards you", "steer", Some(Leg::Down)),
    Row::Bind("Walk right", "steer", Some(Leg::Right)),
];
/// A pad's stick stays whole.
const WHOLE: [Row; 1] = [Row::Bind("Walk", "steer", None)];
const BINDS: [Row; 10] = [
    Row::Bind("Hop", "hop", None),
    Row::Bind("Toss (hold to throw)", "toss", None),
    Row::Bind("Pick up (hold to open the bag)", "use", None),
    Row::Bind("Guard", "guard", None),
    Row::Bind("Turn around", "about", None),
    Row::Bind("Whistle", "whistle", None),
    Row::Bind("Lamp", "lamp", None),
    Row::Bind("Board the punt", "board", None),
    Row::Bind("Leave the punt", "leave", None),
    Row::Bind("Paddle", "paddle", None),
];
const ACCESS: [Row; 7] = [Row::Toggled, Row::Mash, Row::Leeway, Row::Holds, Row::OneByOne, Row::ResetAll, Row::Close];

/// The menu as it stands.
#[derive(Debug, Default)]
pub(crate) struct Menu {
    pub(crate) row: usize,
    pub(crate) listening: Option<(Target, Listening)>,
    /// It has its answer; what was pressed for it may still be held.
    pub(crate) clearing: Option<Listening>,
    /// What came of the last change.
    pub(crate) word: String,
}

/// What the menu wants done.
#[derive(Debug)]
pub(crate) enum Wanted {
    Listen(Target),
    Access(Access),
    ResetAll,
    Close,
}

/// The settings after this one, round and round.
fn next<T: PartialEq + Clone>(all: &[T], now: &T, turn: i32) -> T {
    let place = all.iter().position(|one| one == now).unwrap_or(0) as i32;
    all[(place + turn).rem_euclid(all.len() as i32) as usize].clone()
}

fn toggles() -> [Which; 3] {
    [Which::Nothing, Which::Named(vec!["guard".into()]), Which::All]
}

impl Row {
    pub(crate) fn name(self) -> &'static str {
        match self {
            Row::Bind(name, ..) => name,
            Row::Toggled => "Press to hold, press again to release",
            Row::Mash => "Hold to paddle",
            Row::Leeway => "Extra time for combos",
            Row::Holds => "Hold length",
            Row::OneByOne => "Press chords one key at a time",
            Row::ResetAll => "Reset everything",
            Row::Close => "Back to the game",
        }
    }

    /// How it stands, for people.
    pub(crate) fn value(self, linkage: &Linkage, family: Family, labels: &Labels, access: &Access) -> String {
        match self {
            Row::Bind(_, action, leg) => {
                let prompts = linkage.prompts(action, family, labels);
                let own =
                    prompts.into_iter().filter(|prompt| leg.is_none() || prompt.leg == leg || prompt.leg.is_none());
                let texts: Vec<String> = own.map(|prompt| prompt.text).collect();
                if texts.is_empty() { "nothing".into() } else { texts.join(", ") }
            }
            Row::Toggled => match access.toggled {
                Which::Nothing => "off".into(),
                Which::All => "every button".into(),
                _ => "guard only".into(),
            },
            Row::Mash => access.mash_rate.map_or("off".into(), |rate| format!("{rate} a second")),
            Row::Leeway => format!("× {}", access.leeway),
            Row::Holds => format!("× {}", access.holds),
            Row::OneByOne => if access.one_by_one { "on" } else { "off" }.into(),
            Row::ResetAll | Row::Close => String::new(),
        }
    }
}

/// All rows for a family of devices.
pub(crate) fn rows(family: Family) -> impl Iterator<Item = Row> {
    walk(family).iter().copied().chain(BINDS).chain(ACCESS)
}

fn walk(family: Family) -> &'static [Row] {
    if family == Family::Pad { &WHOLE } else { &LEGS }
}

/// How many rows bind something.
pub(crate) fn bind_rows(family: Family) -> usize {
    walk(family).len() + BINDS.len()
}

impl Menu {
    pub(crate) fn now(&self, family: Family) -> Row {
        rows(family).nth(self.row).unwrap_or(Row::Close)
    }

    /// Moves on by what was asked in a step; what is to be done.
    pub(crate) fn step(&mut self, wishes: MenuWishes, family: Family, access: &Access) -> Option<Wanted> {
        if self.listening.is_some() {
            return None;
        }
        let count = rows(family).count() as i32;
        let moved = wishes.down as i32 - wishes.up as i32;
        self.row = (self.row as i32 + moved).rem_euclid(count) as usize;
        let turn = if wishes.turn != 0 { wishes.turn } else { i32::from(wishes.picked) };
        if turn == 0 {
            return None;
        }
        let mut access = access.clone();
        match self.now(family) {
            Row::Bind(_, action, leg) => {
                let mut target = Target::new(action, family);
                target.leg = leg;
                return wishes.picked.then_some(Wanted::Listen(target));
            }
            Row::ResetAll => return wishes.picked.then_some(Wanted::ResetAll),
            Row::Close => return wishes.picked.then_some(Wanted::Close),
            Row::Toggled => access.toggled = next(&toggles(), &access.toggled, turn),
            Row::Mash => access.mash_rate = next(&[None, Some(6.0), Some(10.0)], &access.mash_rate, turn),
            Row::Leeway => access.leeway = next(&[1.0, 1.5, 2.0, 0.75], &access.leeway, turn),
            Row::Holds => access.holds = next(&[1.0, 0.75, 0.5, 1.5], &access.holds, turn),
            Row::OneByOne => access.one_by_one = !access.one_by_one,
        }
        Some(Wanted::Access(access))
    }
}
