//! What a tape says of its devices: which keys bounce, where a stick rests, how far it reaches and swings.

use std::collections::BTreeMap;

use tidy_lever::control::Sort;
use tidy_lever::tape::{Line, LineKind};
use tidy_lever::{Control, Family};

/// Edges of one button closer together than this, in µs, are not made by a hand.
const BOUNCING: u64 = 15_000;
/// A stick is pushed from here on, and let go below the second within so many µs. Then it rests for so long, within so much.
const PUSHED: f64 = 0.6;
const NEAR: f64 = 0.25;
const FALL: u64 = 60_000;
const REST: u64 = 100_000;
const STILL: f64 = 0.03;
/// For so many µs after letting go, what lies on the other side is a swing.
const SWINGS: u64 = 150_000;
/// Reports of a stick that are further apart than this, in µs, tell nothing of how often it reports.
const SILENT: u64 = 50_000;

/// What a device's buttons did.
#[derive(Clone, Debug, Default, PartialEq)]
pub(crate) struct Buttons {
    pub(crate) edges: u64,
    /// How often a button bounced, and for how long at most, in µs.
    pub(crate) bounces: u64,
    pub(crate) longest: u64,
    /// The one that bounced most often.
    pub(crate) worst: Option<(String, u64)>,
}

/// What a stick did.
#[derive(Clone, Debug, Default, PartialEq)]
pub(crate) struct Stick {
    pub(crate) reports: u64,
    /// The usual time between two reports while it moves, in µs.
    pub(crate) interval: Option<u64>,
    /// Left, right, down and up.
    pub(crate) reach: [f64; 4],
    /// How often it sprang back and came to rest; where, by the median of each axis.
    pub(crate) spring_backs: u64,
    pub(crate) rests_at: Option<(f64, f64)>,
    /// How often it swung to the other side, and how far at most.
    pub(crate) swings: u64,
    pub(crate) farthest: f64,
}

/// When a stick said where it is.
type Sample = (u64, (f64, f64));

/// All that a tape says of its devices: by device and family, and by device and stick.
#[derive(Debug, Default)]
pub(crate) struct Wear {
    buttons: BTreeMap<(String, &'static str), BTreeMap<String, Vec<u64>>>,
    sticks: BTreeMap<(String, String), Vec<Sample>>,
}

impl Wear {
    /// Takes a line of the tape.
    pub(crate) fn line(&mut self, line: &Line) {
        let at = line.at.as_micros();
        match &line.kind {
            LineKind::Level { device, control, .. } => {
                let Some(found) = control.parse::<Control>().ok().filter(|found| found.sort() == Sort::Button) else {
                    return;
                };
                let own = self.buttons.entry((device.clone(), found.family().name())).or_default();
                own.entry(control.clone()).or_default().push(at);
            }
            LineKind::Pair { device, control, x, y }
                if control.ends_with("-stick") && control.starts_with(Family::Pad.name()) =>
            {
                self.sticks.entry((device.clone(), control.clone())).or_default().push((at, (*x, *y)));
            }
            _ => {}
        }
    }

    /// What each device's buttons did: its name, its family, and that.
    pub(crate) fn buttons(&self) -> impl Iterator<Item = (&str, &'static str, Buttons)> {
        self.buttons.iter().map(|((device, family), controls)| {
            let mut all = Buttons::default();
            for (control, edges) in controls {
                let mut own = 0;
                let bounces = |pair: &[u64]| pair[1].saturating_sub(pair[0]) < BOUNCING;
                // A run of edges that follow each other too soon is one bounce.
                let mut began = None;
                for pair in edges.windows(2) {
                    match (bounces(pair), began) {
                        (true, None) => (began, own) = (Some(pair[0]), own + 1),
                        (false, _) => began = None,
                        _ => {}
                    }
                    if let Some(began) = began {
                        all.longest = all.longest.max(pair[1].saturating_sub(began));
                    }
                }
                all.edges += edges.len() as u64;
                all.bounces += own;
                if own > all.worst.as_ref().map_or(0, |(_, most)| *most) {
                    all.worst = Some((control.clone(), own));
                }
            }
            (device.as_str(), *family, all)
        })
    }

    /// What each stick did: its device, its name, and that.
    pub(crate) fn sticks(&self) -> impl Iterator<Item = (&str, &str, Stick)> {
        self.sticks.iter().map(|((device, control), said)| (device.as_str(), control.as_str(), stick(said)))
    }
}

fn push((x, y): (f64, f64)) -> f64 {
    x.hypot(y)
}

fn stick(said: &[Sample]) -> Stick {
    let mut all = Stick { reports: said.len() as u64, ..Stick::default() };
    for (_, (x, y)) in said {
        let [left, right, down, up] = all.reach;
        all.reach = [left.min(*x), right.max(*x), down.min(*y), up.max(*y)];
    }
    let mut gaps: Vec<u64> = said.windows(2).map(|pair| pair[1].0.saturating_sub(pair[0].0)).collect();
    gaps.retain(|gap| (1..SILENT).contains(gap));
    gaps.sort_unstable();
    all.interval = gaps.get(gaps.len() / 2).copied();
    let mut rests: Vec<(f64, f64)> = Vec::new();
    for fall in 1..said.len() {
        let ((_, side), (begun, now)) = (said[fall - 1], said[fall]);
        if push(side) < PUSHED || push(now) >= PUSHED {
            continue;
        }
        let next = (fall..said.len()).find(|place| push(said[*place].1) >= PUSHED).unwrap_or(said.len());
        let over = said.get(next).map_or(u64::MAX, |(at, _)| *at);
        let near = (fall..next).find(|place| push(said[*place].1) < NEAR);
        let Some(near) = near.filter(|near| said[*near].0.saturating_sub(begun) <= FALL) else { continue };
        let across = |to: (f64, f64)| to.0 * side.0 + to.1 * side.1 < 0.0;
        let own = said[fall..next].iter().filter(|(at, to)| at.saturating_sub(begun) <= SWINGS && across(*to));
        let swing = own.map(|(_, to)| push(*to)).fold(0.0, f64::max);
        // The first stretch of rest.
        let mut first = said[near];
        let mut rest = None;
        for place in near + 1..=next {
            let at = if place < next { said[place].0 } else { over };
            if at >= first.0 + REST {
                rest = Some(said[place - 1].1);
                break;
            }
            let Some((at, to)) = said.get(place).copied().filter(|_| place < next) else { break };
            if (to.0 - first.1.0).abs() > STILL || (to.1 - first.1.1).abs() > STILL {
                first = (at, to);
            }
        }
        if let Some(rest) = rest.filter(|rest| push(*rest) <= NEAR) {
            rests.push(rest);
            // What it rests at is not a swing.
            if swing > push(rest) + 0.1 {
                (all.swings, all.farthest) = (all.swings + 1, all.farthest.max(swing));
            }
        }
    }
    all.spring_backs = rests.len() as u64;
    let median = |axis: fn(&(f64, f64)) -> f64| {
        let mut values: Vec<f64> = rests.iter().map(axis).collect();
        values.sort_by(f64::total_cmp);
        values.get(values.len() / 2).copied()
    };
    all.rests_at = median(|rest| rest.0).zip(median(|rest| rest.1));
    all
}

/// What to do about a device's buttons, with the profile's `debounce` of its family in ms.
pub(crate) fn advice_for_buttons(family: &str, buttons: &Buttons, debounce: f64) -> Option<String> {
    let longest = buttons.longest as f64 / 1e3;
    if buttons.bounces == 0 {
        return None;
    }
    Some(if longest < debounce {
        format!("`debounce` of {debounce} ms covers all of it")
    } else {
        format!(
            "write `{family} = {{ debounce = \"{}ms\" }}` in `[devices]`: {debounce} ms are too short",
            longest.ceil() + 1.0
        )
    })
}

/// What to do about a stick.
pub(crate) fn advice_for_stick(stick: &Stick) -> Vec<String> {
    let mut all = Vec::new();
    if let Some(rest) = stick.rests_at.filter(|rest| push(*rest) > STILL) {
        all.push(format!("it rests {:.2} from its middle, which `centre = \"learn\"` takes away", push(rest)));
    }
    if stick.swings > 0 {
        all.push(format!("it swings up to {:.2} to the other side, which `snapback` calls rest", stick.farthest));
    }
    let least = stick.reach.map(f64::abs).into_iter().filter(|reach| *reach > 0.7).fold(f64::MAX, f64::min);
    if least < 0.9 {
        all.push(format!(
            "it reaches {least:.2} at least on one side: `pad_shape = {{ full = {:.2} }}` is enough",
            least - 0.03
        ));
    }
    all
}
