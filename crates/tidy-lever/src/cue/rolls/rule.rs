//! A motion as one of the rules: it hears nothing itself, its stick's set works for it.

use alloc::string::String;
use alloc::vec::Vec;
use core::fmt;
use core::time::Duration;

use winnow::combinator::{cut_err, opt};
use winnow::prelude::*;

use super::{FRESH, RollsPlan, Seen};
use crate::cue::compiled::{CompiledRule, ON_RELEASE, RuleLine, Tolerances};
use crate::cue::line::{Input, Read, expected, listed, must, name, on_release, span, word, word_that};
use crate::cue::path::{self, PathStep, Position};
use crate::cue::scaling::Scaling;
use crate::cue::{Act, Asked};
use crate::cue::{Edge, Kinds, Role, Rule, RuleContext, Verdict};
use crate::time::{LONGEST_SPAN, Plain, micros};

/// The rule made ready: spans in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Rolls {
    pub(crate) within: u64,
    pub(crate) how: RollsPlan,
    /// A press finishes it.
    pub(crate) then: bool,
    pub(crate) on_release: bool,
}

impl RuleLine for Rolls {
    const WORDS: &'static [&'static str] = &["rolls"];

    fn read(input: &mut Input<'_>) -> Read<Rule> {
        word("rolls")(input)?;
        let digits = |word: &str| if word.len() < 2 { None } else { path::from_digits(word) };
        let steps = match opt(word_that(digits)).parse_next(input)? {
            Some(steps) => steps,
            None => listed(path_step)(input)?,
        };
        let then = match opt(word("then")).parse_next(input)? {
            Some(()) => {
                Some(cut_err(name).context(expected("the name of the action that finishes it")).parse_next(input)?)
            }
            None => None,
        };
        must("within", "a comma and the next position, `then`, or `within`")(input)?;
        let within = span(input)?;
        let on_release = if then.is_some() { on_release(input)? } else { false };
        Ok(Rule::Motion { steps, then, within, on_release })
    }

    fn write(rule: &Rule, f: &mut fmt::Formatter<'_>) -> Option<fmt::Result> {
        let Rule::Motion { steps, then, within, on_release } = rule else { return None };
        let mut written = || {
            f.write_str("rolls ")?;
            for (place, step) in steps.iter().enumerate() {
                write!(f, "{}{step}", if place == 0 { "" } else { ", " })?;
            }
            if let Some(then) = then {
                write!(f, " then {then}")?;
            }
            write!(f, " within {}", Plain(*within))?;
            if *on_release { f.write_str(" counted on release") } else { Ok(()) }
        };
        Some(written())
    }

    fn spans(rule: &Rule) -> Option<[Option<Duration>; 2]> {
        let Rule::Motion { within, .. } = rule else { return None };
        Some([Some(*within), None])
    }

    fn unfit(rule: &Rule) -> Option<String> {
        let Rule::Motion { steps, then, on_release, .. } = rule else { return None };
        if steps.is_empty() {
            Some("it goes nowhere".into())
        } else if steps.iter().any(|step| step.held > LONGEST_SPAN) {
            Some("a step can be held a day at most".into())
        } else {
            let problem = "without `then` nothing is let go; it can't be counted on release";
            (then.is_none() && *on_release).then(|| problem.into())
        }
    }

    fn forgives(rule: &Rule) -> &'static [&'static str] {
        match rule {
            Rule::Motion { then: Some(_), .. } => &["fresh", "astray", "key_gap", "from_push", "brush", "early"],
            Rule::Motion { .. } => &["fresh", "astray", "key_gap", "from_push", "brush"],
            _ => &[],
        }
    }

    fn finished_by(rule: &Rule) -> Option<&str> {
        let Rule::Motion { then, .. } = rule else { return None };
        then.as_deref()
    }

    /// Only some first positions have to be fresh.
    #[cfg(feature = "files")]
    fn default_of(rule: &Rule, key: &str) -> Option<f64> {
        let Rule::Motion { steps, .. } = rule else { return None };
        let must_be = steps.first().is_some_and(PathStep::must_be_fresh);
        (key == "fresh" && must_be).then_some(FRESH as f64 / 1e3)
    }

    fn next(rule: &Rule, came: usize) -> Option<&str> {
        let Rule::Motion { steps, then, .. } = rule else { return None };
        let plain = steps.iter().all(|step| !step.maybe);
        let next = || steps.get(came).map(|step| step.position.name()).or(then.as_deref());
        if plain { next() } else { None }
    }

    fn asks(rule: &Rule) -> Option<Vec<Asked<'_>>> {
        let Rule::Motion { steps, then, on_release, .. } = rule else { return None };
        // What may be left out is not asked for.
        let steps = steps.iter().filter(|step| !step.maybe);
        let toward = steps.map(|step| Asked::of(Act::Toward(step.position, step.held)));
        let finish = if *on_release { Act::Release } else { Act::Press };
        Some(toward.chain(then.as_deref().map(|then| Asked::by(then, finish))).collect())
    }
}

impl CompiledRule for Rolls {
    fn of(rule: &Rule) -> Option<Rolls> {
        let Rule::Motion { then, within, on_release, .. } = rule else { return None };
        Some(Rolls {
            within: micros(*within),
            how: RollsPlan::default(),
            then: then.is_some(),
            on_release: *on_release,
        })
    }

    fn hears(&self, _: Edge, _: Role, _: &mut RuleContext<'_>) -> Verdict {
        Verdict::None
    }

    fn kinds(&self) -> Kinds {
        0
    }

    /// What presses of a motion were used up stays known.
    fn forgets(&self, _: &dyn Fn(u32) -> bool, _: &mut RuleContext<'_>) -> bool {
        false
    }

    fn window(&self) -> Option<u64> {
        Some(self.within)
    }

    fn counts(&self, _: Edge) -> bool {
        false
    }

    /// Whoever shares its finishing press waits for the last direction; others share a direction.
    fn longest_wait(&self) -> Option<u64> {
        Some(if self.then { self.how.early } else { self.within })
    }

    fn is_of_several(&self) -> bool {
        true
    }

    fn needs_stick(&self) -> Option<&'static str> {
        Some("`rolls` needs a stick: name it first, as in `steer rolls down, right within 300ms`")
    }

    fn never_held(&self) -> Option<&'static str> {
        self.on_release.then_some(ON_RELEASE)
    }

    fn forgive(&mut self, declared: &Rule, by: &mut dyn Tolerances) {
        let Rule::Motion { steps, .. } = declared else { return };
        let Some(first) = steps.first() else { return };
        let RollsPlan { early, astray, seen, .. } = RollsPlan::default();
        let fresh = if first.must_be_fresh() { FRESH } else { u64::MAX };
        self.how = RollsPlan {
            seen: Seen {
                from_push: by.push_level(seen.from_push),
                key_gap: by.span("key_gap", seen.key_gap),
                brush: by.span("brush", seen.brush),
            },
            early: by.span("early", early),
            fresh: by.span("fresh", fresh),
            astray: by.span("astray", astray),
        };
        if by.declared_span("fresh", fresh) < micros(first.held) {
            by.fault("fresh", "the first position must be held longer than `fresh` lets it be; make `fresh` longer");
        }
    }

    /// What it forgives is the player's already.
    fn scale(&mut self, by: &Scaling<'_>) {
        self.within = (by.within)(self.within);
    }
}

/// A position of the way, how long it is held, and whether it may be left out.
fn path_step(input: &mut Input<'_>) -> Read<PathStep> {
    let maybe = opt(word("maybe")).parse_next(input)?.is_some();
    let one = |word: &str| Position::from_name(word).or_else(|| path::from_digit(word));
    let position = cut_err(word_that(one))
        .context(expected("a position: down, down-forward, … neutral, or digits such as 236"))
        .parse_next(input)?;
    let held = if opt(word("held")).parse_next(input)?.is_some() { span(input)? } else { Duration::ZERO };
    Ok(PathStep { position, maybe, held })
}
