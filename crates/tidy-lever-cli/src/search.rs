//! The search for the best value of one number: tries values over its range, and then looks for the ends of the range that is as
//! good as the best one.

use std::collections::VecDeque;

use anyhow::Result;
use indicatif::ProgressBar;
use tidy_lever::profile::{Movable, Number, Unit};

use crate::evidence::{ReadyTapes, Wanted};
use crate::ready_tape::Stretches;
use crate::values::{Pulls, Values};

/// At how many values a number is tried before its range's ends are looked for.
const TRIED: usize = 25;
/// Ends of ranges are found to this, in the number's unit, in parts of its range that is tried.
const HALVINGS: usize = 9;
/// Values are advised in steps of this, in ms.
const STEP: f64 = 5.0;

/// What a value of a number makes of all tapes.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Score {
    /// Of what was meant, found; player by player.
    pub(crate) found: Vec<usize>,
    /// What pulled and nobody meant, player by player.
    pub(crate) let_in: Vec<usize>,
    /// From what was meant to the pull, in µs.
    delays: Vec<i64>,
}

impl Score {
    pub(crate) fn found(&self) -> usize {
        self.found.iter().sum()
    }

    pub(crate) fn let_in(&self) -> usize {
        self.let_in.iter().sum()
    }

    pub(crate) fn delay(&self) -> Option<i64> {
        let mut all = self.delays.clone();
        all.sort_unstable();
        all.get(all.len() / 2).copied()
    }
}

/// A number that was tried.
pub(crate) struct Tried {
    pub(crate) number: Number,
    /// The values around the best one with the same score, and whether their ends are real: beyond them it is worse.
    pub(crate) range: (f64, f64),
    pub(crate) ends: (bool, bool),
    pub(crate) best: f64,
    pub(crate) score: Score,
    /// Each value that was tried over the whole range, upwards: how many it finds, and how many unmeant it lets in.
    pub(crate) curve: Vec<(f64, usize, usize)>,
}

/// Whether each player's pulls are what was wanted.
pub(crate) fn score(pulls: &[Vec<(u64, u32)>], wanted: &[Wanted]) -> Score {
    let mut score = Score { found: Vec::new(), let_in: Vec::new(), delays: Vec::new() };
    for (pulls, wanted) in pulls.iter().zip(wanted) {
        let (found, let_in) = wanted.match_with(pulls.iter().copied());
        score.found.push(found.len());
        score.let_in.push(let_in);
        score.delays.extend(found);
    }
    score
}

/// Tries a number over its range. `None` if the profile can't have other values of it.
pub(crate) fn try_out(
    ready_tapes: &ReadyTapes<'_>,
    movable: &Movable,
    number: &Number,
    (action, wanted, pulls): (&str, &[Wanted], &Pulls),
    stretches: &[Option<Stretches>],
    bar: &ProgressBar,
) -> Result<Option<Tried>> {
    let mut values = Values::new(ready_tapes, movable, number, (action, pulls), stretches);
    let tried = choose(&mut values, number, wanted, &score(pulls, wanted), bar)?;
    // Verify what will be reported on the whole tapes.
    let mut is_so = true;
    for value in tried.iter().flat_map(|tried| [tried.range.0, tried.range.1, tried.best]) {
        is_so &= values.is_so(value)?;
    }
    if is_so {
        return Ok(tried);
    }
    values.on_whole_tapes();
    bar.inc_length(places(number).len() as u64);
    choose(&mut values, number, wanted, &score(pulls, wanted), bar)
}

/// The largest value that is tried.
pub(crate) fn most(number: &Number) -> f64 {
    let is_span = number.unit == Unit::Milliseconds;
    if is_span { (number.value * 4.0).max(number.value + 300.0).min(number.most) } else { number.most }
}

/// Both ends first, then the middle, then the middles of both halves, and so on.
pub(crate) fn by_halves(count: usize) -> Vec<usize> {
    let (mut order, mut open) = (vec![0, count - 1], VecDeque::from([(0, count - 1)]));
    order.dedup();
    while let Some((first, last)) = open.pop_front() {
        let middle = usize::midpoint(first, last);
        if middle > first {
            order.push(middle);
            open.extend([(first, middle), (middle, last)]);
        }
    }
    order
}

/// The values at which a number is tried first, sorted; what it is now is among them.
pub(crate) fn places(number: &Number) -> Vec<f64> {
    let (is_span, most) = (number.unit == Unit::Milliseconds, most(number));
    let least = if is_span { number.least.max(1.0).min(most) } else { number.least };
    // Closer together near the bottom, where hands are.
    let at = |place: usize| {
        let part = place as f64 / (TRIED - 1) as f64;
        let value = least + (most - least) * part * part;
        if is_span { value.round() } else { fine(value) }
    };
    let mut places: Vec<f64> = (0..TRIED).map(at).chain([number.value]).collect();
    places.sort_by(f64::total_cmp);
    places.dedup();
    places
}

/// The best value of a number, and those around it that are as good.
fn choose(
    values: &mut Values<'_>,
    number: &Number,
    wanted: &[Wanted],
    now: &Score,
    bar: &ProgressBar,
) -> Result<Option<Tried>> {
    let is_span = number.unit == Unit::Milliseconds;
    let mut play = |value: f64| -> Result<Option<Score>> { Ok(values.pulls(value)?.map(|pulls| score(pulls, wanted))) };
    let places = places(number);
    let mut scores: Vec<(f64, Score)> = Vec::new();
    for place in by_halves(places.len()) {
        bar.inc(1);
        scores.extend(play(places[place])?.map(|score| (places[place], score)));
    }
    scores.sort_by(|(one, _), (other, _)| one.total_cmp(other));
    // Whatever lets in more than now is not a choice; of the others those that find most.
    let most_found = |score: &Score| (score.let_in() <= now.let_in()).then(|| score.found());
    let Some(best) = scores.iter().filter_map(|(_, score)| most_found(score)).max() else { return Ok(None) };
    // Of several stretches that are as good the nearest one.
    let nearest = scores
        .iter()
        .enumerate()
        .filter(|(_, (_, score))| most_found(score) == Some(best))
        .min_by(|one, other| {
            let far = |(_, (value, _)): &(usize, &(f64, Score))| (value - number.value).abs();
            far(one).total_cmp(&far(other))
        })
        .map(|(place, _)| place);
    let Some(place) = nearest else { return Ok(None) };
    let is_best = |place: usize| scores.get(place).is_some_and(|(_, score)| most_found(score) == Some(best));
    let (mut first, mut last) = (place, place);
    while first > 0 && is_best(first - 1) {
        first -= 1;
    }
    while is_best(last + 1) {
        last += 1;
    }
    let mut halve = |mut good: f64, mut bad: f64| -> Result<f64> {
        for _ in 0..HALVINGS {
            let middle = (good + bad) / 2.0;
            let middle = if is_span { middle.round() } else { fine(middle) };
            if middle == good || middle == bad {
                break;
            }
            bar.inc_length(1);
            bar.inc(1);
            if play(middle)?.is_some_and(|score| most_found(&score) == Some(best)) {
                good = middle
            } else {
                bad = middle
            }
        }
        Ok(good)
    };
    let low = if first > 0 { halve(scores[first].0, scores[first - 1].0)? } else { scores[first].0 };
    let high = if last + 1 < scores.len() { halve(scores[last].0, scores[last + 1].0)? } else { scores[last].0 };
    let ends = (first > 0, last + 1 < scores.len());
    let inside = low <= number.value && number.value <= high;
    let advised = match ends {
        _ if inside && now.found() == best => number.value,
        (true, true) => (low + high) / 2.0,
        // Beyond one end everything is as good: a tenth farther, as the next player differs.
        (true, false) => (low * 1.1).min(high),
        (false, true) => (high * 0.9).max(low),
        (false, false) => number.value,
    };
    let step = if is_span { STEP } else { 0.01 };
    let rounded = (advised / step).round() * step;
    let advised =
        if advised != number.value && low <= rounded && rounded <= high { fine(rounded) } else { fine(advised) };
    let Some(score) = play(advised)? else { return Ok(None) };
    let curve = scores.iter().map(|(value, score)| (*value, score.found(), score.let_in())).collect();
    Ok(Some(Tried { number: number.clone(), range: (low, high), ends, best: advised, score, curve }))
}

fn fine(value: f64) -> f64 {
    (value * 1e3).round() / 1e3
}
