//! Gates: when a pull may pass. A line over facts: `grounded within 90ms and not busy`, `state is idle`, `hop on`.
//!
//! ```text
//!   gate = any          any  = all { "or" all }        all = one { "and" one }
//!   one  = "not" one | "(" any ")" | fact [ "is" word ] [ "within" span ] | action "on"
//! ```
//!
//! `within` lets a truth linger after the game takes it back. A pull spends such a truth: it counts again once it has been
//! false and is true, at least its span after the pull; or after 250 ms of unbroken truth since.

use alloc::boxed::Box;
use alloc::format;
use alloc::string::String;
use alloc::vec::Vec;
use core::time::Duration;

use winnow::Parser;
use winnow::combinator::{cut_err, opt};

use crate::cue::line::{CueError, Input, Read, any_word, expected, name, one_word, read_whole, span, word};
use crate::index::ActionIndex;

/// A truth that a pull spent and that stayed true all the while counts again after this, in µs: the hop that a ceiling
/// stopped must not lock hopping for ever.
pub(crate) const UNBROKEN: u64 = 250_000;

/// A gate as written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Gate {
    /// A fact is true, or is this word; lingering this long.
    Fact {
        name: String,
        word: Option<String>,
        within: Option<Duration>,
    },
    /// An action is on.
    On(String),
    Not(Box<Gate>),
    All(Vec<Gate>),
    Any(Vec<Gate>),
}

impl Gate {
    pub(crate) fn read(line: &str) -> Result<Gate, CueError> {
        if let Some(error) = too_deep(line) {
            return Err(error);
        }
        read_whole(line, any, TERMS).map_err(from_habit)
    }
}

impl Gate {
    /// Its terms as they must be for it to open, `not busy`, each at the place of its step; others are empty.
    pub(crate) fn terms(&self, negated: bool, terms: &mut Vec<String>) {
        let not = if negated { "not " } else { "" };
        match self {
            Gate::Fact { name, word: None, .. } => terms.push(format!("{not}{name}")),
            Gate::Fact { name, word: Some(word), .. } => terms.push(format!("{not}{name} is {word}")),
            Gate::On(name) => terms.push(format!("{not}{name} on")),
            Gate::Not(inner) => {
                inner.terms(!negated, terms);
                terms.push(String::new());
            }
            Gate::All(inner) | Gate::Any(inner) => {
                inner.iter().for_each(|gate| gate.terms(negated, terms));
                terms.push(String::new());
            }
        }
    }
}

/// Where brackets and `not` are nested deeper than [`DEEPEST`]: reading goes as deep as they do.
fn too_deep(line: &str) -> Option<CueError> {
    let mut open: Vec<usize> = Vec::new();
    let (mut depth, mut nots) = (0, 0);
    let (mut rest, mut at) = (line, 0);
    while !rest.is_empty() {
        let start = rest.trim_start();
        at += rest[..rest.len() - start.len()].chars().count();
        let word = one_word(start);
        match word {
            "not" => nots += 1,
            "(" => {
                open.push(nots + 1);
                depth += nots + 1;
                nots = 0;
            }
            ")" => {
                depth -= open.pop().unwrap_or(0);
                nots = 0;
            }
            _ => nots = 0,
        }
        if depth + nots > DEEPEST {
            let expected = format!("brackets and `not` nested {DEEPEST} deep at most");
            return Some(CueError { at, expected, found: format!("`{word}`") });
        }
        at += word.chars().count();
        rest = &start[word.len()..];
    }
    None
}

/// Signs that other languages have for our words get the word.
fn from_habit(error: CueError) -> CueError {
    let found = error.found.trim_matches('`');
    let word = match found {
        _ if found.starts_with('&') => "`and`".into(),
        _ if found.starts_with('|') => "`or`".into(),
        _ if found.starts_with("!=") => "`not` before the fact, and `is`, as in `not state is idle`".into(),
        _ if found.starts_with('!') => format!("`not {}`", found.trim_start_matches('!')),
        _ if found.starts_with('=') => "`is`, or the fact alone if it is true or false".into(),
        _ => return error,
    };
    CueError { expected: word, ..error }
}

const TERMS: &str = "a fact, an action with `on`, `not`, or a bracket";

fn any(input: &mut Input<'_>) -> Read<Gate> {
    let mut terms = alloc::vec![all(input)?];
    while opt(word("or")).parse_next(input)?.is_some() {
        terms.push(all(input)?);
    }
    Ok(if terms.len() == 1 { terms.remove(0) } else { Gate::Any(terms) })
}

fn all(input: &mut Input<'_>) -> Read<Gate> {
    let mut terms = alloc::vec![one(input)?];
    while opt(word("and")).parse_next(input)?.is_some() {
        terms.push(one(input)?);
    }
    Ok(if terms.len() == 1 { terms.remove(0) } else { Gate::All(terms) })
}

fn one(input: &mut Input<'_>) -> Read<Gate> {
    if opt(word("not")).parse_next(input)?.is_some() {
        return Ok(Gate::Not(Box::new(one(input)?)));
    }
    if opt(word("(")).parse_next(input)?.is_some() {
        let inner = any(input)?;
        cut_err(word(")")).context(expected("`and`, `or` or a closing bracket")).parse_next(input)?;
        return Ok(inner);
    }
    let name = cut_err(name).context(expected(TERMS)).parse_next(input)?;
    if opt(word("on")).parse_next(input)?.is_some() {
        return Ok(Gate::On(name));
    }
    let word_is = match opt(word("is")).parse_next(input)? {
        Some(()) => Some(cut_err(any_word).context(expected("one of the fact's words")).parse_next(input)?),
        None => None,
    };
    let within = match opt(word("within")).parse_next(input)? {
        Some(()) => Some(span(input)?),
        None => None,
    };
    Ok(Gate::Fact { name, word: word_is, within })
}

/// A gate made ready, in postfix order.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) enum Step {
    /// Truth `number` holds now, whether spent or not.
    Plain(u16),
    /// Truth `number` holds or lingers for this many µs, and is not spent.
    Within(u16, u64),
    /// Action `number` is on.
    On(u16),
    Not,
    /// Of the last this many.
    All(u16),
    Any(u16),
}

/// One value of a fact, as gates read it.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(crate) struct TruthPlan {
    pub(crate) fact: u16,
    pub(crate) value: u16,
    /// For how long gates let it linger, in µs, the shortest first.
    pub(crate) lingers: Vec<u64>,
}

impl TruthPlan {
    /// The longest that any gate lets it linger, in µs; 0 if none does.
    pub(crate) fn longest(&self) -> u64 {
        self.lingers.last().copied().unwrap_or(0)
    }

    /// A gate lets it linger for so long.
    pub(crate) fn lingers_for(&mut self, span: u64) {
        if let Err(place) = self.lingers.binary_search(&span)
            && span > 0
        {
            self.lingers.insert(place, span);
        }
    }
}

/// How a truth stands, on the world's clock.
#[derive(Clone, Copy, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Truth {
    pub(crate) holds: bool,
    /// When it ceased to hold; `None` if it never held before, or holds.
    pub(crate) ended: Option<u64>,
    /// When a pull spent it, and how long it must be left alone.
    pub(crate) spent: Option<(u64, u64)>,
    /// The action that spent it.
    pub(crate) spender: Option<ActionIndex>,
    /// It ceased to hold since it was spent.
    pub(crate) broken: bool,
    /// When it counted again after it was spent.
    pub(crate) counted: Option<u64>,
    /// The same before it was spent, for giving back.
    pub(crate) counted_before: Option<u64>,
}

impl Truth {
    pub(crate) fn lingers(&self, within: u64, world: u64) -> bool {
        self.spent.is_none() && (self.holds || self.ended.is_some_and(|ended| world - ended <= within))
    }

    /// When a gate next reads it otherwise by time alone, its lingering being over; `None` if none will.
    pub(crate) fn fades(&self, how: &TruthPlan, world: u64) -> Option<u64> {
        let ended = self.ended.filter(|_| !self.holds)?;
        how.lingers.iter().map(|span| ended + span + 1).find(|over| *over > world)
    }

    /// When a spent truth counts again if nothing changes; `None` if it won't.
    pub(crate) fn recovers(&self) -> Option<u64> {
        let (at, within) = self.spent?;
        self.holds.then(|| at + if self.broken { within } else { UNBROKEN })
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> [u64; 6] {
        let Truth { holds, ended, spent, spender, broken, counted, counted_before } = *self;
        let some = |moment: Option<u64>| moment.map_or(u64::MAX, |moment| moment);
        let (at, within) = spent.unwrap_or((u64::MAX, 0));
        let flags =
            u64::from(holds) | u64::from(broken) << 1 | spender.map_or(0, |action| u64::from(action.number())) << 2;
        [flags, some(ended), at, within, some(counted), some(counted_before)]
    }
}

/// The deepest that a gate may be nested.
pub(crate) const DEEPEST: usize = 32;

/// Whether one step of a gate that asks something is true.
pub(crate) fn is_true(step: Step, truths: &[Truth], world: u64, is_on: impl Fn(u16) -> bool) -> bool {
    match step {
        Step::Plain(truth) => truths[usize::from(truth)].holds,
        Step::Within(truth, within) => truths[usize::from(truth)].lingers(within, world),
        Step::On(action) => is_on(action),
        Step::Not | Step::All(_) | Step::Any(_) => false,
    }
}

/// Whether a gate is open. `is_on` says whether an action is on.
pub(crate) fn is_open(steps: &[Step], truths: &[Truth], world: u64, is_on: impl Fn(u16) -> bool) -> bool {
    // Most have no step, or one.
    match *steps {
        [] => true,
        [step] => is_true(step, truths, world, is_on),
        _ => is_open_by_several(steps, truths, world, is_on),
    }
}

#[inline(never)]
fn is_open_by_several(steps: &[Step], truths: &[Truth], world: u64, is_on: impl Fn(u16) -> bool) -> bool {
    is_open_where(steps, |_, step| is_true(step, truths, world, &is_on))
}

/// Whether a gate is open where the steps that ask something answer so, each with its place.
pub(crate) fn is_open_where(steps: &[Step], answer: impl Fn(usize, Step) -> bool) -> bool {
    // A stack of single bits; its depth was checked at build.
    let (mut stack, mut depth) = (0u64, 0u32);
    for (place, step) in steps.iter().enumerate() {
        let (value, taken) = match *step {
            Step::Not => (stack >> (depth - 1) & 1 == 0, 1),
            Step::All(count) | Step::Any(count) => {
                let count = u32::from(count);
                let top = stack >> (depth - count) & ((1 << count) - 1);
                let all = (1u64 << count) - 1;
                (if matches!(step, Step::All(_)) { top == all } else { top != 0 }, count)
            }
            asks => (answer(place, asks), 0),
        };
        depth -= taken;
        stack = stack & !(1 << depth) | u64::from(value) << depth;
        depth += 1;
    }
    steps.is_empty() || stack & 1 == 1
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn not_binds_closer_than_and_and_closer_than_or() {
        let fact = |name: &str| Gate::Fact { name: name.into(), word: None, within: None };
        let not = |gate: Gate| Gate::Not(Box::new(gate));
        let read = Gate::read("not a1 and b1 or (c1 or d1) and e1").unwrap();
        let left = Gate::All(alloc::vec![not(fact("a1")), fact("b1")]);
        let right = Gate::All(alloc::vec![Gate::Any(alloc::vec![fact("c1"), fact("d1")]), fact("e1")]);
        assert_eq!(read, Gate::Any(alloc::vec![left, right]));
    }

    #[test]
    fn slips_point_at_the_character() {
        let cases = [
            ("", 0, "a fact, an action", "the end"),
            ("grounded and", 12, "a fact, an action", "the end"),
            ("grounded busy", 9, "the end of the line", "`busy`"),
            ("(grounded or busy", 17, "`and`, `or` or a closing bracket", "the end"),
            ("grounded within", 15, "a span", "the end"),
            ("grounded within soon", 16, "a span", "`soon`"),
            ("state is", 8, "one of the fact's words", "the end"),
            ("grounded)", 8, "the end of the line", "`)`"),
            ("and grounded", 0, "a fact, an action", "`and`"),
        ];
        for (line, at, expected, found) in cases {
            let error = Gate::read(line).unwrap_err();
            assert!(
                error.at == at && error.expected.starts_with(expected) && error.found == found,
                "{line}: {error:?}"
            );
        }
    }
}
