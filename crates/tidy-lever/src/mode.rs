//! Modes: which actions listen together, and which modes cover which.

use alloc::string::String;
use alloc::vec::Vec;

/// A mode made ready.
#[derive(Clone, Debug, Hash)]
pub(crate) struct ModePlan {
    pub(crate) name: String,
    pub(crate) on: bool,
    /// Covers what is heard in every mode, too.
    pub(crate) covers_all: bool,
    /// The modes it covers, by number.
    pub(crate) covers: Vec<bool>,
}

/// In which modes an action is heard.
#[derive(Clone, Debug, PartialEq, Hash)]
pub(crate) enum HeardPlan {
    Everywhere,
    Always,
    In(Vec<u16>),
}

/// Which modes are on. Since when is a number that grows with each turning on, 0 for off.
#[derive(Clone, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Modes {
    on: Vec<u64>,
    turns: u64,
}

impl Modes {
    pub(crate) fn new(plans: &[ModePlan]) -> Modes {
        let mut modes = Modes { on: alloc::vec![0; plans.len()], turns: 0 };
        for (number, plan) in plans.iter().enumerate() {
            if plan.on {
                modes.set(number, true);
            }
        }
        modes
    }

    pub(crate) fn is_on(&self, mode: usize) -> bool {
        self.on[mode] > 0
    }

    /// Switches a mode; whether that changed anything.
    pub(crate) fn set(&mut self, mode: usize, on: bool) -> bool {
        if self.is_on(mode) == on {
            return false;
        }
        self.turns += 1;
        self.on[mode] = if on { self.turns } else { 0 };
        true
    }

    /// Whether a mode that is on covers this one. Of two that cover each other, the last turned on rules.
    fn is_covered(&self, plans: &[ModePlan], mode: usize) -> bool {
        plans.iter().enumerate().any(|(other, plan)| {
            let each_other = plans[mode].covers[other] && self.on[mode] > self.on[other];
            other != mode && self.is_on(other) && plan.covers[mode] && !each_other
        })
    }

    /// Whether an action that is heard so listens now.
    pub(crate) fn hears(&self, plans: &[ModePlan], heard: &HeardPlan) -> bool {
        match heard {
            HeardPlan::Always => true,
            HeardPlan::Everywhere => !plans.iter().enumerate().any(|(mode, plan)| plan.covers_all && self.is_on(mode)),
            HeardPlan::In(modes) => modes.iter().any(|mode| {
                let mode = usize::from(*mode);
                self.is_on(mode) && !self.is_covered(plans, mode)
            }),
        }
    }

    /// Since when a mode is on, as a number that grows; 0 if it is off.
    pub(crate) fn since(&self, mode: usize) -> u64 {
        self.on[mode]
    }

    /// Modes stand as they stood elsewhere, by number and since when; those that are new come behind them.
    pub(crate) fn carry(&mut self, from: &Modes, known: &[(usize, u64)]) {
        let is_new = |mode: &usize| known.iter().all(|(other, _)| other != mode);
        let on: Vec<usize> = (0..self.on.len()).filter(|mode| is_new(mode) && self.is_on(*mode)).collect();
        self.turns = from.turns;
        for mode in on {
            self.turns += 1;
            self.on[mode] = self.turns;
        }
        for (mode, since) in known {
            self.on[*mode] = *since;
        }
    }

    /// Whether they are so many.
    #[cfg(feature = "serde")]
    pub(crate) fn fits(&self, count: usize) -> bool {
        self.on.len() == count
    }

    pub(crate) fn copy_from(&mut self, other: &Modes) {
        self.on.clone_from(&other.on);
        self.turns = other.turns;
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> impl Iterator<Item = u64> {
        self.on.iter().copied().chain([self.turns])
    }
}

/// Whether two actions can be heard at the same time.
pub(crate) fn meet(modes: &[ModePlan], a: &HeardPlan, b: &HeardPlan) -> bool {
    let covers = |one: u16, other: u16| modes[usize::from(one)].covers[usize::from(other)];
    let free = |one: &u16, other: &u16| one == other || !(covers(*one, *other) || covers(*other, *one));
    match (a, b) {
        (HeardPlan::In(one), HeardPlan::In(other)) => one.iter().any(|mode| other.iter().any(|o| free(mode, o))),
        (HeardPlan::In(one), HeardPlan::Everywhere) | (HeardPlan::Everywhere, HeardPlan::In(one)) => {
            one.iter().any(|mode| !modes[usize::from(*mode)].covers_all)
        }
        _ => true,
    }
}
