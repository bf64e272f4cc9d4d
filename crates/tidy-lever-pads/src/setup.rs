//! Describing a pad by listening: "press the south button".

use std::collections::BTreeMap;

use tidy_lever::control::Sort;

use crate::source::{Place, Seen};
use crate::tables::{self, PadTables, Raw, keys};

/// A button or an axis answers from here on.
const FAR: f32 = 0.6;
/// And is back at rest below this.
const NEAR: f32 = 0.3;

/// Asks for one control of a pad after the other, and fills its table with what moves.
///
/// ```
/// use tidy_lever_pads::{Place, Seen, Setup};
///
/// let mut setup = Setup::new("Quay pad").only(&["south", "left-stick-y"]);
/// assert_eq!(setup.asks(), Some("south"));
/// setup.hear(&Seen::Moved(0, Place::Button(3), 1.0));
/// setup.hear(&Seen::Moved(0, Place::Button(3), 0.0));
/// // The player pushes the left stick up; on this pad that is minus.
/// assert_eq!(setup.asks(), Some("left-stick-y"));
/// setup.hear(&Seen::Moved(0, Place::RawAxis(1), -0.9));
/// let file = setup.tables().written_into("tidy-lever = 1\n")?;
/// assert_eq!(file, "tidy-lever = 1\n\n[pad.\"Quay pad\"]\nleft-stick-y = \"-axis-1\"\nsouth = \"button-3\"\n");
/// # Ok::<(), tidy_lever_pads::TableError>(())
/// ```
#[derive(Clone, Debug)]
pub struct Setup {
    name: String,
    /// What is still asked for, the next last.
    asked: Vec<String>,
    found: BTreeMap<String, Raw>,
    /// What is away from rest: it answers once.
    away: Vec<Place>,
}

impl Setup {
    /// Asks for every control of a pad of this name.
    pub fn new(name: &str) -> Setup {
        let mut asked = keys();
        asked.reverse();
        Setup { name: name.to_owned(), asked, found: BTreeMap::new(), away: Vec::new() }
    }

    /// Asks only for these, in this order.
    pub fn only(mut self, keys: &[&str]) -> Setup {
        let known = std::mem::take(&mut self.asked);
        self.asked = keys.iter().rev().map(|key| (*key).to_owned()).filter(|key| known.contains(key)).collect();
        self
    }

    /// What the player should press or push now: to the right, or up. `None` when all is found.
    pub fn asks(&self) -> Option<&str> {
        self.asked.last().map(String::as_str)
    }

    /// This pad has none; asks for the next.
    pub fn skip(&mut self) {
        self.asked.pop();
    }

    /// Takes what a pad did. An axis answers where one is asked for, a button elsewhere, and either a trigger. What the
    /// system knows by its place already needs no entry.
    pub fn hear(&mut self, seen: &Seen) {
        let (place, level, numbered) = match *seen {
            Seen::Moved(_, place, level) => (place, level, (place, level)),
            Seen::Numbered(_, place, level, numbered) => (place, level, numbered),
            _ => return,
        };
        let Some(asked) = self.asks() else { return };
        if Raw::of(place).is_none() && tables::place(asked) == Some(place) {
            if level.abs() >= FAR {
                self.asked.pop();
            }
            return;
        }
        let (place, level) = numbered;
        let Some(raw) = Raw::of(place) else { return };
        let fits = match tables::place(asked) {
            Some(Place::Axis { .. }) => raw.axis,
            Some(Place::At(control)) if control.sort() == Sort::Level => true,
            _ => !raw.axis,
        };
        let was_away = self.away.contains(&place);
        if level.abs() < NEAR {
            self.away.retain(|away| *away != place);
        }
        if level.abs() < FAR || was_away || !level.is_finite() || !fits {
            return;
        }
        self.away.push(place);
        // What answered already answers nothing else.
        let used = self.found.values().any(|found| found.is_same(raw));
        if !used && let Some(key) = self.asked.pop() {
            self.found.insert(key, Raw { minus: raw.axis && level < 0.0, ..raw });
        }
    }

    /// What was found so far.
    pub fn tables(&self) -> PadTables {
        let mut tables = PadTables::default();
        tables.insert(&self.name, self.found.clone());
        tables
    }
}
