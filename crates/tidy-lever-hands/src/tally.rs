//! What became of trials, counted.

use std::collections::BTreeMap;

use crate::grip::Way;
use crate::interval::interval;
use crate::scene::Situation;

/// What a trial that was not found ran into, as the ledger tells it.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
#[non_exhaustive]
pub enum Miss {
    /// No single reason: several things were off at once, so that no attempt came near.
    Unclear,
    /// A step came too late.
    TooLate,
    /// Its finish, or a letting go, came too soon.
    TooSoon,
    /// It was held too long.
    TooLong,
    /// The first direction had been held too long before (`fresh`).
    NotFresh,
    /// A direction beside the way lasted too long.
    Astray(String),
    /// A direction was left out.
    LeftOut(String),
    /// Another direction or press came in between.
    WrongWay(String),
    /// One of two was let go before the other came.
    LetGo,
    /// The rest never came.
    NeverFinished,
    /// Its gate opened only later.
    GateNotYetOpen(String),
    /// Its gate had shut before.
    GateShutBefore(String),
    /// Its gate was shut, and nothing tells for how long.
    GateShut(String),
    /// It cooled down still.
    CoolingDown,
    /// Another action took its press, or had used it up.
    TakenBy(String),
    /// It pulled, but only later than anybody would wait for.
    PulledLate,
    /// Something else.
    Other(String),
}

impl core::fmt::Display for Miss {
    fn fmt(&self, f: &mut core::fmt::Formatter<'_>) -> core::fmt::Result {
        match self {
            Miss::Unclear => f.write_str("several things off at once"),
            Miss::TooLate => f.write_str("too late"),
            Miss::TooSoon => f.write_str("too soon"),
            Miss::TooLong => f.write_str("held too long"),
            Miss::NotFresh => f.write_str("first direction held too long"),
            Miss::Astray(to) => write!(f, "strayed {to}"),
            Miss::LeftOut(step) => write!(f, "{step} left out"),
            Miss::WrongWay(to) => write!(f, "{to} came in between"),
            Miss::LetGo => f.write_str("one let go before the other came"),
            Miss::NeverFinished => f.write_str("not finished in time"),
            Miss::GateNotYetOpen(term) => write!(f, "before `{term}`"),
            Miss::GateShutBefore(term) => write!(f, "after `{term}` ended"),
            Miss::GateShut(term) => write!(f, "gate shut: `{term}`"),
            Miss::CoolingDown => f.write_str("cooling down"),
            Miss::TakenBy(action) => write!(f, "press taken by {action}"),
            Miss::PulledLate => f.write_str("pulled later than expected"),
            Miss::Other(what) => f.write_str(what),
        }
    }
}

/// Trials of one action by one hand, counted. Tallies of parts add up to that of the whole, in any order.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Tally {
    /// How often the action was meant.
    pub meant: u64,
    /// How often it pulled in time.
    pub found: u64,
    /// From completion to pull, in µs, one for each that was found.
    pub delays: Vec<u32>,
    /// What the others ran into, with by how much each missed in µs, where the ledger tells.
    pub misses: BTreeMap<Miss, Vec<Option<u32>>>,
    /// Pulls of other actions that nobody meant, by the action's number.
    pub wrong: BTreeMap<usize, u64>,
    /// How long all trials took, in µs.
    pub micros: u64,
    /// Meant and found, by device.
    pub by_way: BTreeMap<Way, (u64, u64)>,
    /// Meant and found, by situation.
    pub by_situation: BTreeMap<Situation, (u64, u64)>,
}

impl Tally {
    /// Adds another one.
    pub fn add(&mut self, other: Tally) {
        self.meant += other.meant;
        self.found += other.found;
        self.micros += other.micros;
        self.delays.extend(other.delays);
        for (miss, by) in other.misses {
            self.misses.entry(miss).or_default().extend(by);
        }
        for (action, count) in other.wrong {
            *self.wrong.entry(action).or_default() += count;
        }
        let add = |all: &mut (u64, u64), (meant, found): (u64, u64)| *all = (all.0 + meant, all.1 + found);
        other.by_way.into_iter().for_each(|(way, counts)| add(self.by_way.entry(way).or_default(), counts));
        for (situation, counts) in other.by_situation {
            add(self.by_situation.entry(situation).or_default(), counts);
        }
    }

    /// The share that was found, 0 to 1, and between which shares the true one lies with 95 % confidence.
    pub fn share(&self) -> (f64, (f64, f64)) {
        (self.found as f64 / self.meant.max(1) as f64, interval(self.found, self.meant))
    }

    /// The delay that a share of the found trials stays within, in µs; `None` if none was found.
    pub fn delay(&self, share: f64) -> Option<u32> {
        quantile(self.delays.clone(), share)
    }

    /// What most trials that were not found ran into, the commonest first: how many, and by how much at the median in
    /// µs.
    pub fn worst(&self) -> Vec<(&Miss, u64, Option<u32>)> {
        let told = |by: &Vec<Option<u32>>| quantile(by.iter().copied().flatten().collect(), 0.5);
        let mut all: Vec<_> = self.misses.iter().map(|(miss, by)| (miss, by.len() as u64, told(by))).collect();
        all.sort_by_key(|(_, count, _)| core::cmp::Reverse(*count));
        all
    }
}

/// The value that a share of them stays within.
pub(crate) fn quantile(mut all: Vec<u32>, share: f64) -> Option<u32> {
    all.sort_unstable();
    let place = (all.len() as f64 * share.clamp(0.0, 1.0)) as usize;
    all.get(place.min(all.len().saturating_sub(1))).copied()
}
