//! Accessibility settings of a player. They change time limits and what holding means, never names, so the game needs no
//! change.

use alloc::string::String;
use alloc::vec::Vec;

use crate::cue::{CompiledRule, RulePlan, Scaling};
use crate::fixed;

/// The shortest and longest that spans can be made, as a factor.
pub const FACTORS: (f64, f64) = (0.1, 8.0);
/// The fewest and most presses a second that holding can stand for.
pub const MASH_RATES: (f64, f64) = (1.0, 30.0);
/// Within this span, in µs, the second of a one_by_one chord may come.
const ONE_BY_ONE: u64 = 1_000_000;

/// Which actions a setting applies to.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub enum Which {
    /// None.
    #[default]
    Nothing,
    /// All buttons.
    All,
    /// These.
    Named(Vec<String>),
}

impl Which {
    pub(crate) fn has(&self, name: &str) -> bool {
        match self {
            Which::Nothing => false,
            Which::All => true,
            Which::Named(names) => names.iter().any(|named| named == name),
        }
    }
}

/// One hand.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Hand {
    /// The left one.
    Left,
    /// The right one.
    Right,
}

impl Hand {
    /// Its word in files.
    pub const fn name(self) -> &'static str {
        match self {
            Hand::Left => "left",
            Hand::Right => "right",
        }
    }
}

/// A player's accessibility settings. The defaults change nothing.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
#[must_use]
pub struct Access {
    /// Buttons that one press holds down and the next press releases.
    pub toggled: Which,
    /// While a control is held, it counts as this many presses per second, for gauges and for what `mash` cues listen to.
    pub mash_rate: Option<f64>,
    /// Factor for time limits: windows, input buffers, coyote time. Default 1.
    pub leeway: f64,
    /// Factor for spans that must be reached: holds, charges, repeats. Default 1.
    pub holds: f64,
    /// Whether chords may be pressed one button at a time: the second may come up to 1 s after the first.
    pub one_by_one: bool,
    /// The hand that must reach everything; what it can't reach is reported by [`Linkage::out_of_reach`](crate::Linkage::out_of_reach).
    pub hand: Option<Hand>,
}

impl Default for Access {
    fn default() -> Access {
        Access { toggled: Which::Nothing, mash_rate: None, leeway: 1.0, holds: 1.0, one_by_one: false, hand: None }
    }
}

impl Access {
    /// With these buttons held down by one press and released by the next.
    pub fn toggled(self, toggled: Which) -> Access {
        Access { toggled, ..self }
    }

    /// With held controls that count as this many presses per second.
    pub fn mash_rate(self, rate: f64) -> Access {
        Access { mash_rate: Some(rate), ..self }
    }

    /// With time limits this many times as long.
    pub fn leeway(self, factor: f64) -> Access {
        Access { leeway: factor, ..self }
    }

    /// With spans that must be reached this many times as long.
    pub fn holds(self, factor: f64) -> Access {
        Access { holds: factor, ..self }
    }

    /// With chords that may be pressed one button at a time.
    pub fn one_by_one(self) -> Access {
        Access { one_by_one: true, ..self }
    }

    /// With the hand that must reach everything.
    pub fn hand(self, hand: Hand) -> Access {
        Access { hand: Some(hand), ..self }
    }
}

/// A span times a factor, in whole µs; never nothing.
fn times(span: u64, factor: f64) -> u64 {
    // Through millionths, so that the same factor gives the same span everywhere.
    let millionths = fixed::from_f64(factor).unwrap_or(1_000_000).max(1) as u128;
    ((u128::from(span) * millionths / 1_000_000) as u64).max(u64::from(span > 0))
}

impl Access {
    /// A span to stay within.
    pub(crate) fn within(&self, span: u64) -> u64 {
        times(span, self.leeway)
    }

    /// A span to be reached.
    pub(crate) fn held(&self, span: u64) -> u64 {
        times(span, self.holds)
    }

    /// What a mashing hold's presses lie apart, in µs.
    pub(crate) fn mash_period(&self) -> u64 {
        self.mash_rate.map_or(0, |rate| (1e6 / rate) as u64)
    }

    /// A rule as this player has it.
    pub(crate) fn rule(&self, rule: RulePlan) -> RulePlan {
        let (held, within) = (|span| self.held(span), |span| self.within(span));
        let one_by_one = self.one_by_one.then_some(ONE_BY_ONE);
        let mut rule = rule;
        rule.scale(&Scaling { held: &held, within: &within, one_by_one });
        rule
    }

    /// The window of a motion, and how long its steps must be held, as this player has them: a held step leaves as much of
    /// the window as the profile leaves, and the window holds the steps. Besides the keys of what was kept within that.
    pub(crate) fn motion(&self, window: u64, steps: &[u64]) -> (u64, Vec<u64>, Option<&'static str>) {
        // The first position may be held before the window runs.
        let behind = |held: &[u64]| held.iter().skip(1).sum::<u64>();
        let (declared, slack) = (behind(steps), window.saturating_sub(behind(steps)));
        let mut within = self.within(window);
        let mut held: Vec<u64> = steps.iter().map(|span| self.held(*span)).collect();
        let most = declared.max(within.saturating_sub(slack));
        let (wanted, mut cut) = (behind(&held), None);
        if wanted > most {
            let fit = |span: &mut u64| *span = (u128::from(*span) * u128::from(most) / u128::from(wanted)) as u64;
            held.iter_mut().skip(1).for_each(fit);
            cut = Some("holds");
        }
        let least = behind(&held) + self.within(slack).min(slack);
        if declared > 0 && within < least {
            (within, cut) = (least, cut.or(Some("leeway")));
        }
        (within, held, cut)
    }

    /// What is out of range, with its key.
    pub(crate) fn problem(&self) -> Option<(&'static str, String)> {
        use alloc::format;
        let (low, high) = FACTORS;
        for (key, factor) in [("leeway", self.leeway), ("holds", self.holds)] {
            if !(low..=high).contains(&factor) {
                return Some((key, format!("the factor must be from {low} to {high}, found {factor}")));
            }
        }
        let (low, high) = MASH_RATES;
        let rate = self.mash_rate.filter(|rate| !(low..=high).contains(rate))?;
        Some(("mash_rate", format!("the rate must be from {low} to {high} presses per second, found {rate}")))
    }
}
