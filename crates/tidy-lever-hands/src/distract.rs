//! What a hand does before and beside what it means.

use std::sync::Arc;

use tidy_lever::Direction;

use crate::grip::{Pointing, Press};
use crate::sketch::Sketch;

/// What there is to be distracted with.
#[derive(Clone, Debug, Default)]
pub(crate) struct Pastimes {
    /// Something to walk with, and the actions that go off by it as they should.
    pub(crate) walk: Option<(Pointing, Doing)>,
    /// Other actions' buttons that the trial does not use.
    pub(crate) presses: Vec<Pastime>,
}

/// A button that is pressed beside what is meant.
#[derive(Clone, Debug)]
pub(crate) struct Pastime {
    pub(crate) press: Press,
    /// The actions that go off by it as they should.
    pub(crate) deliberate: Doing,
    /// Whether holding it does nothing else than pressing it.
    pub(crate) can_be_held: bool,
}

/// Actions that go off by something, by number, sorted.
pub(crate) type Doing = Arc<[usize]>;

/// Actions that are played on purpose, from and until when, in ms.
pub(crate) type Deliberate = (Doing, f64, f64);

/// What a distraction leaves behind.
#[derive(Clone, Debug)]
pub(crate) struct Lead {
    /// When the hand is free again, in ms.
    pub(crate) free: f64,
    /// A button that stays down beside the trial.
    pub(crate) beside: Option<(Pastime, f64)>,
    pub(crate) deliberate: Option<Deliberate>,
}

impl Pastimes {
    /// Does something before the trial, or nothing.
    pub(crate) fn lead(&self, sketch: &mut Sketch<'_>, from: f64) -> Lead {
        let mut lead = Lead { free: from, beside: None, deliberate: None };
        if !sketch.dice.chance(sketch.hand.distracted) {
            return lead;
        }
        let pause = |sketch: &mut Sketch<'_>| sketch.dice.between(90.0, 420.0);
        match sketch.dice.pick(4) {
            // Walks some way.
            0 => {
                if let Some((walk, deliberate)) = self.walk.clone() {
                    let ways =
                        Direction::ALL.map(Some).into_iter().filter(|way| way.is_some_and(|way| walk.reaches(way)));
                    let ways: Vec<_> = ways.collect();
                    let way = ways[sketch.dice.pick(ways.len())];
                    let until = from + sketch.dice.between(300.0, 900.0);
                    sketch.point(walk, &[(from, way), (until, None)]);
                    lead.free = until + pause(sketch);
                    lead.deliberate = Some((deliberate, from, until));
                }
            }
            // Turns to and fro, as in dodging.
            1 => {
                if let Some((walk, deliberate)) = self.walk.clone().filter(|(walk, _)| walk.reaches(Direction::Left)) {
                    let mut sides = [Direction::Left, Direction::Right];
                    if sketch.dice.chance(0.5) {
                        sides.reverse();
                    }
                    let (mut now, mut targets) = (from, Vec::new());
                    for turn in 0..2 + sketch.dice.pick(3) {
                        targets.push((now, Some(sides[turn % 2])));
                        now += sketch.dice.between(110.0, 320.0);
                    }
                    targets.push((now, None));
                    sketch.point(walk, &targets);
                    lead.free = now + pause(sketch);
                    lead.deliberate = Some((deliberate, from, now));
                }
            }
            // Presses something else.
            2 => {
                if let Some(other) = self.other(sketch, false) {
                    let held = sketch.dice.span(sketch.hand.press);
                    sketch.press(other.press, from, held);
                    lead.free = from + held + pause(sketch);
                    lead.deliberate = Some((other.deliberate, from, from + held));
                }
            }
            // Holds something else all the while.
            _ => {
                if let Some(other) = self.other(sketch, true) {
                    lead.beside = Some((other, from));
                    lead.free = from + sketch.dice.between(450.0, 900.0);
                }
            }
        }
        lead
    }

    fn other(&self, sketch: &mut Sketch<'_>, held: bool) -> Option<Pastime> {
        let fits: Vec<&Pastime> = self.presses.iter().filter(|other| other.can_be_held || !held).collect();
        let place = sketch.dice.pick(fits.len());
        fits.get(place).map(|other| (*other).clone())
    }
}
