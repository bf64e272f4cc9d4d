//! A trial in the making: presses and pushes, with the errors of a hand, in milliseconds from its beginning.

use tidy_lever::event::Phase;
use tidy_lever::{Control, Direction, Event, Family, Moment};

use crate::dice::Dice;
use crate::grip::{Grip, Pointing, Press, device, unit};
use crate::hand::Hand;

/// The longest that a stick takes from one direction to the next, in ms: then it waits there.
const TRAVEL: f64 = 45.0;
/// From the edge back to the centre.
const BACK: f64 = 25.0;
/// Between two changes of one contact, at least.
const APART: f64 = 1.0;

/// Where a stick is to be, and from when on; the way there lies before that.
pub(crate) type Target = (f64, Option<Direction>);

#[derive(Debug)]
pub(crate) struct Sketch<'h> {
    pub(crate) hand: &'h Hand,
    pub(crate) dice: Dice,
    /// What devices say, in any order.
    events: Vec<(f64, Event)>,
    fingers: u64,
}

impl<'h> Sketch<'h> {
    pub(crate) fn new(hand: &'h Hand, dice: Dice) -> Sketch<'h> {
        Sketch { hand, dice, events: Vec::new(), fingers: 0 }
    }

    fn put(&mut self, at: f64, make: impl Fn(Moment) -> Event) {
        // Its moment is set at the end.
        self.events.push((at, make(Moment::ZERO)));
    }

    /// When its first event is, and its last.
    pub(crate) fn ends(&self) -> (f64, f64) {
        let all = self.events.iter().map(|(at, _)| *at);
        all.fold((f64::MAX, f64::MIN), |(first, last), at| (first.min(at), last.max(at)))
    }

    /// What the hand's device says, in order and in whole microseconds.
    pub(crate) fn finish(mut self) -> Vec<Event> {
        self.events.sort_by(|one, other| one.0.total_cmp(&other.0));
        let (wear, mut dice) = (self.hand.wear, self.dice);
        let moment = |at: f64| Moment::from_micros(libm::round((at + wear.lead()).max(0.0) * 1e3) as u64);
        wear.says(self.events, &mut dice).into_iter().map(|(at, event)| Event { at: moment(at), ..event }).collect()
    }

    fn finger(&mut self) -> u64 {
        self.fingers += 1;
        self.fingers
    }

    /// Down at a moment, up a while later.
    pub(crate) fn press(&mut self, press: Press, at: f64, held: f64) {
        let until = at + held;
        match press {
            Press::Button(control) => {
                let device = device(control.family());
                self.put(at, |moment| Event::button(moment, device, control, true));
                self.put(until, |moment| Event::button(moment, device, control, false));
            }
            Press::Notch(control) => {
                self.put(at, |moment| Event::level(moment, device(Family::Mouse), control, 1.0));
            }
            Press::Trigger(control) => {
                // It counts as pressed from about half way on.
                for (after, level) in [(-5.0, 0.3), (0.0, 0.75), (5.0, 1.0)] {
                    self.put(at + after, |moment| Event::level(moment, device(Family::Pad), control, level));
                }
                for (after, level) in [(-2.0, 0.7), (0.0, 0.2), (4.0, 0.0)] {
                    self.put(until.max(at + 8.0) + after, |moment| {
                        Event::level(moment, device(Family::Pad), control, level)
                    });
                }
            }
            Press::Pair(control, x, y) => {
                self.put(at, |moment| Event::pair(moment, device(Family::Pad), control, x, y));
                self.put(until, |moment| Event::pair(moment, device(Family::Pad), control, 0.0, 0.0));
            }
            Press::Finger(x, y) => {
                let finger = self.finger();
                self.touch(at, finger, Phase::Down, (x, y));
                self.touch(until, finger, Phase::Up, (x, y));
            }
        }
    }

    fn touch(&mut self, at: f64, finger: u64, phase: Phase, (x, y): (f32, f32)) {
        self.put(at, |moment| Event::touch(moment, device(Family::Touch), finger, phase, x, y));
    }

    /// Holds what a name is in the hand.
    pub(crate) fn hold(&mut self, grip: Grip, at: f64, held: f64) {
        match grip {
            Grip::Press(press) => self.press(press, at, held),
            Grip::Push(pointing, direction) => {
                self.point(pointing, &[(at, Some(direction)), (at + held, None)]);
            }
        }
    }

    /// Goes through directions one after the other. When each was reached.
    pub(crate) fn point(&mut self, pointing: Pointing, targets: &[Target]) -> Vec<f64> {
        self.point_within(pointing, targets, TRAVEL)
    }

    /// The same, taking at most so long from one to the next.
    pub(crate) fn point_within(&mut self, pointing: Pointing, targets: &[Target], travel: f64) -> Vec<f64> {
        match pointing {
            Pointing::Legs(legs) => {
                return self.contacts(targets, 1.0, |sketch, contact, at, down| {
                    if let Some(press) = legs[contact] {
                        sketch.leg(press, at, down);
                    }
                });
            }
            Pointing::Rocker(control) => return self.rock(control, targets),
            Pointing::Thumb(control) => {
                for (at, x, y) in self.path(targets, travel) {
                    let device = device(Family::Pad);
                    self.put(at, |moment| Event::pair(moment, device, control, x as f32, y as f32));
                }
            }
            Pointing::Finger { middle, half } => self.slide(targets, travel, middle, half),
        }
        targets.iter().map(|(at, _)| *at).collect()
    }

    fn leg(&mut self, press: Press, at: f64, down: bool) {
        match press {
            Press::Button(control) => {
                self.put(at, |moment| Event::button(moment, device(control.family()), control, down));
            }
            Press::Trigger(control) => {
                let level = if down { 1.0 } else { 0.0 };
                self.put(at, |moment| Event::level(moment, device(Family::Pad), control, level));
            }
            Press::Finger(x, y) => {
                // One finger a leg; it has the leg's place as its name.
                let finger = 1_000 + (x * 1e3) as u64 * 1_000 + (y * 1e3) as u64;
                self.touch(at, finger, if down { Phase::Down } else { Phase::Up }, (x, y));
            }
            Press::Notch(_) | Press::Pair(..) => {}
        }
    }

    /// Four contacts that go down and up, each with a finger's error of its own; the first of all sets the time.
    fn contacts(
        &mut self,
        targets: &[Target],
        error: f64,
        mut turn: impl FnMut(&mut Self, usize, f64, bool),
    ) -> Vec<f64> {
        let (mut down, mut last) = ([false; 4], [f64::MIN; 4]);
        let (mean, deviation) = self.hand.fingers;
        let (mut reached, mut is_first) = (Vec::with_capacity(targets.len()), true);
        for (at, direction) in targets {
            let wanted = wanted(*direction);
            let mut there = f64::MIN;
            for contact in 0..4 {
                if wanted[contact] != down[contact] {
                    let off = self.dice.about((mean, deviation * error));
                    let off = if core::mem::take(&mut is_first) { 0.0 } else { off };
                    let when = (at + off).max(last[contact] + APART);
                    turn(self, contact, when, wanted[contact]);
                    (down[contact], last[contact]) = (wanted[contact], when);
                    there = there.max(when);
                }
            }
            reached.push(if there == f64::MIN { *at } else { there });
        }
        reached
    }

    /// A directional pad under one thumb: its contacts differ less than two fingers do.
    fn rock(&mut self, control: Control, targets: &[Target]) -> Vec<f64> {
        let mut turns: Vec<(f64, usize, bool)> = Vec::new();
        let reached = self.contacts(targets, 0.5, |_, contact, at, down| turns.push((at, contact, down)));
        turns.sort_by(|one, other| one.0.total_cmp(&other.0));
        let mut down = [0.0f32; 4];
        for (at, contact, is_down) in turns {
            down[contact] = if is_down { 1.0 } else { 0.0 };
            let (x, y) = (down[3] - down[1], down[0] - down[2]);
            self.put(at, |moment| Event::pair(moment, device(Family::Pad), control, x, y));
        }
        reached
    }

    /// A thumb's way on a stick, from report to report.
    fn path(&mut self, targets: &[Target], travel: f64) -> Vec<(f64, f64, f64)> {
        let hand = self.hand;
        let mut way: Vec<(f64, f64, f64)> = Vec::new();
        let (mut angle, mut size, mut now) = (0.0f64, 0.0f64, f64::MIN);
        let last = targets.iter().rposition(|(_, direction)| direction.is_some());
        for (place, (at, direction)) in targets.iter().enumerate() {
            // Until it moves on it trembles where it is.
            let start = (*at - travel).max(now);
            if size > 0.0 && now > f64::MIN {
                let mut at = now + 4.0 * hand.report;
                while at < start {
                    way.push(point(at, angle + self.dice.about((0.0, hand.tremble)), size));
                    at += 4.0 * hand.report;
                }
            }
            let Some(direction) = direction else {
                let start = at.max(now);
                for (after, part) in [(0.0, 0.9), (0.4, 0.5), (0.8, 0.15), (1.0, 0.0)] {
                    way.push(point(start + after * BACK, angle, size * part));
                }
                (size, now) = (0.0, start + BACK);
                let (share, past) = hand.spring;
                if self.dice.chance(share) {
                    way.push(point(now + 7.0, angle + 180.0, past));
                    way.push(point(now + 16.0, angle + 180.0, past * 0.4));
                    way.push((now + 26.0, 0.0, 0.0));
                    now += 26.0;
                }
                continue;
            };
            let is_diagonal = direction.degrees() % 90 != 0;
            let error = self.dice.about((0.0, if is_diagonal { hand.diagonal } else { hand.aim }));
            let goal = f64::from(direction.degrees()) + error;
            let reach = self.dice.about(hand.reach).clamp(0.3, 1.0);
            let turn = rest_of_circle(goal - angle);
            let reports = libm::ceil(((at - start) / hand.report).clamp(1.0, 40.0)) as usize;
            for report in 1..=reports {
                let part = report as f64 / reports as f64;
                let when = start + (at - start) * part;
                let tremble = self.dice.about((0.0, hand.tremble));
                let (angle, size) = match () {
                    () if size == 0.0 => (goal, reach * part),
                    // The opposite lies across the centre.
                    () if turn.abs() > 150.0 => {
                        (if part < 0.5 { angle } else { goal }, reach * (1.0 - 2.0 * part).abs())
                    }
                    () => (angle + turn * part, size + (reach - size) * part),
                };
                way.push(point(when, angle + tremble, size));
            }
            let passes = size > 0.0 && last == Some(place) && self.dice.chance(hand.overshoot.0);
            (angle, size, now) = (goal, reach, at.max(start));
            if passes {
                let past = angle + hand.overshoot.1 * if turn < 0.0 { -1.0 } else { 1.0 };
                way.push(point(now + hand.report, past, size));
                way.push(point(now + 3.0 * hand.report, angle, size));
                now += 3.0 * hand.report;
            }
        }
        way
    }

    /// A finger on the glass: it lands in the middle, slides, and is lifted for neutral.
    fn slide(&mut self, targets: &[Target], travel: f64, middle: (f32, f32), half: (f32, f32)) {
        let place = |x: f64, y: f64| (middle.0 + half.0 * x as f32, middle.1 - half.1 * y as f32);
        // One finger from each first direction to the next neutral.
        for stretch in targets.split_inclusive(|(_, direction)| direction.is_none()) {
            let on: Vec<Target> = stretch.iter().copied().filter(|(_, direction)| direction.is_some()).collect();
            let Some((first, _)) = on.first() else { continue };
            let lifted = stretch.last().filter(|(_, direction)| direction.is_none()).map(|(at, _)| *at);
            let finger = self.finger();
            self.touch(first - travel - self.hand.report, finger, Phase::Down, place(0.0, 0.0));
            let way = self.path(&on, travel);
            let mut end = *first;
            for (at, x, y) in way {
                if lifted.is_none_or(|lifted| at < lifted) {
                    self.touch(at, finger, Phase::Move, place(x, y));
                    end = at;
                }
            }
            let (x, y) = on.last().and_then(|(_, direction)| *direction).map_or((0.0, 0.0), unit);
            self.touch(lifted.unwrap_or(end + 60.0).max(end + APART), finger, Phase::Up, place(x, y));
        }
    }
}

/// Which of up, left, down and right a direction needs.
fn wanted(direction: Option<Direction>) -> [bool; 4] {
    let (x, y) = direction.map_or((0.0, 0.0), unit);
    [y > 0.1, x < -0.1, y < -0.1, x > 0.1]
}

/// An angle from −180 to 180 degrees.
fn rest_of_circle(angle: f64) -> f64 {
    angle - 360.0 * libm::floor((angle + 180.0) / 360.0)
}

fn point(at: f64, angle: f64, size: f64) -> (f64, f64, f64) {
    let angle = angle * core::f64::consts::PI / 180.0;
    (at, size * libm::cos(angle), size * libm::sin(angle))
}
