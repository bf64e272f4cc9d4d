//! Rehearsals on all cores: the same counts, however many there are.
//!
//! ```text
//!   scenes x hands, in chunks ─▶ a stage for each thread ─▶ tallies, added in the order of the chunks
//! ```

use std::path::{Path, PathBuf};

use anyhow::{Result, anyhow, bail};
use indicatif::ProgressBar;
use rayon::prelude::*;
use tidy_lever::Linkage;
use tidy_lever::profile::{Number, nearest, numbers, with_number};
use tidy_lever_hands::{Hand, Rehearsal, Tally};
use tidy_lever_tuning::{Answer, answers_beside};

use crate::answers;
use crate::arguments::Company;
use crate::input;
use crate::progress::bar;

/// So many trials are one piece of work.
const CHUNK: u64 = 200;
/// Other actions are only played to count the false pulls of the one that is asked for: each a quarter as often, but all of them
/// together at most this often per hand, and at most `TIMES_AS_OFTEN` times as often as the one. If there are more actions than
/// that, only every second, third … is played.
const OTHERS: u64 = 4;
const MOST_OTHERS: u64 = 10_000;
const TIMES_AS_OFTEN: u64 = 50;

/// Who rehearses what.
#[derive(Debug)]
pub(crate) struct Troupe {
    pub(crate) text: String,
    pub(crate) hands: Vec<Hand>,
    pub(crate) answers: Vec<Answer>,
    /// Where the answers are from.
    pub(crate) answered_by: Option<String>,
    pub(crate) count: u64,
    pub(crate) seed: u64,
}

impl Troupe {
    pub(crate) fn new(profile: &Path, company: &Company) -> Result<(Troupe, Linkage)> {
        let laid = input::overlaid(profile, None)?;
        let (answers, answered_by) = answers::of(profile, &company.answers, &laid.linkage)?;
        let named = |name: &String| match Hand::named(name) {
            Some(hand) => Ok(hand),
            None => file(name),
        };
        let hands = if company.skills.is_empty() {
            Hand::all()
        } else {
            company.skills.iter().map(named).collect::<Result<Vec<Hand>>>()?
        };
        let hands = hands.into_iter().map(|hand| Hand { wear: company.device, ..hand }).collect();
        let (count, seed) = (u64::from(company.count), company.seed);
        Ok((Troupe { text: laid.text, hands, answers, answered_by, count, seed }, laid.linkage))
    }
}

impl Company {
    /// All files that a rehearsal of this profile reads.
    pub(crate) fn files(&self, profile: &Path) -> Vec<PathBuf> {
        let hands = self.skills.iter().filter(|name| Hand::named(name).is_none()).map(PathBuf::from);
        [profile.to_owned(), answers_beside(profile)].into_iter().chain(hands).collect()
    }
}

/// A hand's file.
fn file(name: &str) -> Result<Hand> {
    let path = Path::new(name);
    if !path.exists() {
        let hands = Hand::all();
        let names: Vec<&str> = hands.iter().map(|hand| hand.name.as_str()).collect();
        let near =
            nearest(name, names.iter().copied()).map_or(String::new(), |near| format!("; did you mean `{near}`?"));
        bail!("no hand is called `{name}`, and no such file exists; hands are {}{near}", names.join(", "));
    }
    Hand::from_toml(&input::text(path)?).map_err(|error| anyhow!("{name}: {error}"))
}

/// All tallies of a rehearsal, by scene, then by hand.
#[derive(Debug)]
pub(crate) struct Tallies(pub(crate) Vec<Vec<Tally>>);

/// Plays scenes by all hands; each scene as often as `count` says for it.
pub(crate) fn play(
    rehearsal: &Rehearsal,
    troupe: &Troupe,
    count: impl Fn(usize) -> u64,
    told: &ProgressBar,
) -> Tallies {
    let mut jobs: Vec<(usize, usize, (u64, u64))> = Vec::new();
    for scene in 0..rehearsal.scenes.len() {
        let count = count(scene);
        for hand in 0..troupe.hands.len() {
            jobs.extend((0..count.div_ceil(CHUNK)).map(|n| (scene, hand, (n * CHUNK, count.min((n + 1) * CHUNK)))));
        }
    }
    let tallies: Vec<Tally> = jobs
        .par_iter()
        .map_init(
            || rehearsal.stage(),
            |stage, (scene, hand, range)| {
                let (scene, hand) = (&rehearsal.scenes[*scene], &troupe.hands[*hand]);
                let tally = rehearsal.rehearse(scene, hand, troupe.seed, *range, stage);
                told.inc(range.1 - range.0);
                tally
            },
        )
        .collect();
    let mut all = vec![vec![Tally::default(); troupe.hands.len()]; rehearsal.scenes.len()];
    for ((scene, hand, _), tally) in jobs.into_iter().zip(tallies) {
        all[scene][hand].add(tally);
    }
    Tallies(all)
}

/// How often scenes are played where only some are asked for: the others are there for the false pulls.
pub(crate) fn mostly(asked: Vec<usize>, scenes: usize, count: u64) -> impl Fn(usize) -> u64 {
    let (most, scenes) = (MOST_OTHERS.min(count.saturating_mul(TIMES_AS_OFTEN)).max(1), scenes.max(1) as u64);
    let (others, step) = (count.div_ceil(OTHERS).min(most.div_ceil(scenes)), scenes.div_ceil(most));
    move |scene| match scene as u64 % step {
        _ if asked.contains(&scene) => count,
        0 => others,
        _ => 0,
    }
}

impl Tallies {
    /// False pulls of an action a minute, while a hand means others; and which, the commonest first.
    pub(crate) fn false_pulls(&self, rehearsal: &Rehearsal, scene: usize, hand: usize) -> (f64, Vec<(String, u64)>) {
        let number = rehearsal.number(&rehearsal.scenes[scene].name).unwrap_or(usize::MAX);
        let (mut count, mut micros, mut by) = (0, 0, Vec::new());
        for (other, tallies) in self.0.iter().enumerate().filter(|(other, _)| *other != scene) {
            let tally = &tallies[hand];
            micros += tally.micros;
            let own = tally.wrong.get(&number).copied().unwrap_or(0);
            count += own;
            if own > 0 {
                by.push((rehearsal.scenes[other].name.clone(), own));
            }
        }
        by.sort_by_key(|(_, count)| std::cmp::Reverse(*count));
        (count as f64 / (micros as f64 / 60e6).max(1e-9), by)
    }
}

/// A number over a range.
#[derive(Debug)]
pub(crate) struct Variation {
    pub(crate) number: Number,
    /// The action whose number it is.
    pub(crate) action: String,
    pub(crate) values: Vec<f64>,
}

/// A value of a variation, with what each hand made of it: the tally, and false pulls a minute.
#[derive(Debug)]
pub(crate) struct Varied {
    pub(crate) value: f64,
    pub(crate) hands: Vec<(Tally, f64)>,
}

impl Variation {
    /// Reads `dash.within=150ms..400ms`.
    pub(crate) fn read(asked: &str, steps: u32, text: &str) -> Result<Variation> {
        let shape = "write a number and its range, as in dash.within=150ms..400ms";
        let (path, range) = asked.split_once('=').ok_or_else(|| anyhow!("`{asked}`: {shape}"))?;
        let (from, to) = range.split_once("..").ok_or_else(|| anyhow!("`{asked}`: {shape}"))?;
        let number = number(text, path.trim())?;
        let value = |word: &str| {
            let read = number.read(word.trim());
            let example = number.written_as(number.value);
            read.ok_or_else(|| anyhow!("`{word}` is not a value for `{}`; write it like {example}", number.path))
        };
        let (from, to) = (value(from)?, value(to)?);
        if from >= to {
            bail!("`{asked}`: the range goes upwards, and {from} is not below {to}");
        }
        if from < number.least || to > number.most {
            bail!("`{}` takes {} to {}; stay within that", number.path, number.least, number.most);
        }
        let step = (to - from) / f64::from(steps - 1);
        // Whole microseconds, or as fine as anybody would write.
        let fine = |value: f64| (value * 1e3).round() / 1e3;
        let mut values: Vec<f64> = (0..steps).map(|place| fine(from + step * f64::from(place))).collect();
        // What the profile has now is always among them.
        if (from..=to).contains(&number.value) {
            values.push(number.value);
            values.sort_by(f64::total_cmp);
            values.dedup();
        }
        let action = number.path.split('.').next().unwrap_or_default().to_owned();
        Ok(Variation { number, action, values })
    }

    /// Rehearses an action at every value.
    pub(crate) fn run(&self, troupe: &Troupe, action: &str) -> Result<Vec<Varied>> {
        let mut all = Vec::new();
        let mut told: Option<ProgressBar> = None;
        for value in &self.values {
            let written = self.number.written_as(*value);
            let text = with_number(&troupe.text, &self.number.path, &written)?;
            let rehearsal = Rehearsal::new(&text, &troupe.answers)
                .map_err(|faults| anyhow!("`{}` can't be {written}: {faults}", self.number.path))?;
            let scene = place(&rehearsal, action)?;
            let count = mostly(vec![scene], rehearsal.scenes.len(), troupe.count);
            let each: u64 = (0..rehearsal.scenes.len()).map(&count).sum::<u64>() * troupe.hands.len() as u64;
            let told = told.get_or_insert_with(|| bar(each * self.values.len() as u64, "trials"));
            let mut tallies = play(&rehearsal, troupe, count, told);
            let false_pulls: Vec<f64> =
                (0..troupe.hands.len()).map(|hand| tallies.false_pulls(&rehearsal, scene, hand).0).collect();
            let own = std::mem::take(&mut tallies.0[scene]);
            all.push(Varied { value: *value, hands: own.into_iter().zip(false_pulls).collect() });
        }
        told.iter().for_each(ProgressBar::finish_and_clear);
        Ok(all)
    }
}

/// The place of an action's scene.
pub(crate) fn place(rehearsal: &Rehearsal, action: &str) -> Result<usize> {
    if let Some(place) = rehearsal.scenes.iter().position(|scene| scene.name == action) {
        return Ok(place);
    }
    if let Some((_, why)) = rehearsal.left_out.iter().find(|(name, _)| name == action) {
        bail!("hands can't perform `{action}`: {why}");
    }
    if rehearsal.linkage().action(action).is_some() {
        bail!("`{action}` has no cue: it is read as a value and never pulls, so there is nothing to find");
    }
    let near = nearest(action, rehearsal.scenes.iter().map(|scene| scene.name.as_str()));
    let near = near.map_or(String::new(), |near| format!("; did you mean `{near}`?"));
    bail!("the profile has no action `{action}`{near}")
}

/// A number of a profile's text by its path. A key's name alone will do where one number of the action has it.
pub(crate) fn number(text: &str, path: &str) -> Result<Number> {
    let all = numbers(text)?;
    if let Some(number) = all.iter().find(|number| number.path == path) {
        return Ok(number.clone());
    }
    let near = nearest(path, all.iter().map(|number| number.path.as_str()));
    let near = near.map_or(String::new(), |near| format!("; did you mean `{near}`?"));
    bail!("the profile has no number `{path}`{near}; `check --numbers` lists them all")
}
