//! From a cue's line to what a hand does: each rule as a player would mean it.
//!
//! Gaps, steps and errors are the hand's own. Only what a line asks for as such is taken from it: how long to hold, how many
//! presses, which directions. No hand hurries because a window is short.

use core::time::Duration;

use tidy_lever::cue::{Cue, PathStep, Position, Rule};
use tidy_lever::profile::Kind;
use tidy_lever::{Direction, Linkage};

use crate::grip::{Grip, Pointing, Press, Way, grip, pointing};
use crate::sketch::{Sketch, Target};

/// What a cue needs, in the hand.
#[derive(Clone, Debug)]
pub(crate) struct Part {
    rule: Rule,
    /// The subject as something that is pressed; of a motion the action that finishes it.
    press: Option<Grip>,
    /// The subject as something that points.
    point: Option<Pointing>,
    /// The other of a chord, or the names of an order.
    others: Vec<Grip>,
    /// The actions that are meant to be played for it.
    pub(crate) names: Vec<String>,
}

/// When a trial was complete, and what was pressed last.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Played {
    /// When all that was asked for had been done, in ms.
    pub(crate) done: f64,
    /// When the last button was let go, and which: a nervous hand presses it again.
    pub(crate) again: Option<(Press, f64)>,
}

fn millis(span: Duration) -> f64 {
    span.as_micros() as f64 / 1e3
}

impl Part {
    /// What a cue of an action needs, played this way; why it can't be, otherwise.
    pub(crate) fn new(linkage: &Linkage, action: &str, cue: &Cue, way: Way) -> Option<Part> {
        let subject = cue.subject.as_deref().unwrap_or(action).to_owned();
        let named = |name: &str| grip(linkage, name, way);
        let mut names = vec![subject.split('.').next().unwrap_or_default().to_owned()];
        let point = linkage.action(&subject).and_then(|action| pointing(linkage, action, way));
        let mut part =
            Part { rule: cue.rule.clone(), press: named(&subject), point, others: Vec::new(), names: vec![] };
        let directions = [Direction::Left, Direction::Right, Direction::Up, Direction::Down];
        let reaches = |direction: Direction| point.is_some_and(|point| point.reaches(direction));
        let fits = match &cue.rule {
            Rule::With { other, .. } => {
                names.push(other.clone());
                part.others.extend(named(other));
                part.press.is_some() && part.others.len() == 1
            }
            Rule::Order { names: all, .. } => {
                for name in all {
                    let direction = Direction::from_name(name).filter(|_| linkage.action(name).is_none());
                    part.others.extend(match direction {
                        Some(direction) => named(&format!("{}.{}", stick(linkage, &subject), direction.name())),
                        None => named(name),
                    });
                    names.push(name.split('.').next().unwrap_or_default().to_owned());
                }
                part.others.len() == all.len()
            }
            Rule::Motion { steps, then, .. } => {
                part.press = then.as_deref().and_then(named);
                names.extend(then.clone());
                let screen = |step: &PathStep| step.position.on_screen(false);
                let all = steps.iter().filter_map(screen).all(|to| reaches(to) && reaches(to.mirrored()));
                all && part.press.is_some() == then.is_some()
            }
            Rule::Spins { .. } => directions.into_iter().all(reaches),
            Rule::Flicks { .. } => point.is_some_and(|point| point.is_analogue()),
            Rule::Twice { .. } => directions.into_iter().any(reaches),
            _ => part.press.is_some(),
        };
        part.names = names;
        (fits && (!part.is_path() || part.point.is_some())).then_some(part)
    }

    /// What is pressed for it.
    pub(crate) fn grips(&self) -> impl Iterator<Item = Grip> + '_ {
        let points = self.point.filter(|_| self.is_path()).map(|point| Grip::Push(point, Direction::Right));
        self.press
            .into_iter()
            .filter(|_| !self.is_path() || self.finishes())
            .chain(self.others.iter().copied())
            .chain(points)
    }

    fn is_path(&self) -> bool {
        matches!(self.rule, Rule::Motion { .. } | Rule::Spins { .. } | Rule::Flicks { .. } | Rule::Twice { .. })
    }

    fn finishes(&self) -> bool {
        matches!(&self.rule, Rule::Motion { then: Some(_), .. })
    }

    /// Plays it from a moment on.
    pub(crate) fn play(&self, sketch: &mut Sketch<'_>, at: f64, faces_left: bool) -> Played {
        match &self.rule {
            Rule::Motion { steps, on_release, .. } => self.rolls(sketch, at, steps, *on_release, faces_left),
            Rule::Spins { eighths, .. } => self.spins(sketch, at, *eighths),
            Rule::Flicks { .. } => self.flicks(sketch, at),
            Rule::Twice { .. } => self.twice(sketch, at),
            Rule::With { .. } => self.with(sketch, at),
            Rule::Order { .. } => self.order(sketch, at),
            rule => self.press.map_or(Played { done: at, again: None }, |grip| presses(sketch, at, rule, grip)),
        }
    }

    fn with(&self, sketch: &mut Sketch<'_>, at: f64) -> Played {
        let (held, error) = (sketch.dice.span(sketch.hand.press), sketch.dice.about(sketch.hand.fingers));
        let mut both = [self.press, self.others.first().copied()];
        if sketch.dice.chance(0.5) {
            both.reverse();
        }
        let (first, second) = if error < 0.0 { (at - error, at) } else { (at, at + error) };
        for (grip, at) in both.into_iter().flatten().zip([first, second]) {
            sketch.hold(grip, at, held + 30.0);
        }
        Played { done: first.max(second), again: None }
    }

    fn order(&self, sketch: &mut Sketch<'_>, at: f64) -> Played {
        let gaps: Vec<f64> = self.others.iter().map(|_| sketch.dice.span(sketch.hand.order)).collect();
        let (mut now, mut again) = (at, None);
        for (place, grip) in self.others.iter().enumerate() {
            if place > 0 {
                now += gaps[place - 1];
            }
            // The same control must be up again before it goes down.
            let held = sketch.dice.span(sketch.hand.press).min(gaps[place] * 0.6);
            sketch.hold(*grip, now, held);
            again = if let Grip::Press(press) = grip { Some((*press, now + held)) } else { None };
        }
        Played { done: now, again }
    }

    fn twice(&self, sketch: &mut Sketch<'_>, at: f64) -> Played {
        let Some(point) = self.point else { return Played { done: at, again: None } };
        let straight = [Direction::Left, Direction::Right, Direction::Up, Direction::Down];
        let all: Vec<Direction> = straight.into_iter().filter(|direction| point.reaches(*direction)).collect();
        // Mostly sideways, as one runs.
        let place =
            if sketch.dice.chance(0.8) { sketch.dice.pick(all.len().min(2)) } else { sketch.dice.pick(all.len()) };
        let to = Some(all[place]);
        let gap = sketch.dice.span(sketch.hand.gap);
        let pushed = sketch.dice.span(sketch.hand.press).min(gap * 0.45);
        let held = sketch.dice.span(sketch.hand.press);
        let travel = if point.is_analogue() { sketch.dice.span(sketch.hand.flick).min(gap * 0.4) } else { 0.0 };
        let targets = [(at, to), (at + pushed, None), (at + gap, to), (at + gap + held + 60.0, None)];
        let reached = sketch.point_within(point, &targets, travel);
        Played { done: reached[2], again: None }
    }

    fn rolls(&self, sketch: &mut Sketch<'_>, at: f64, steps: &[PathStep], on_release: bool, left: bool) -> Played {
        let Some(point) = self.point else { return Played { done: at, again: None } };
        let hand = sketch.hand;
        let mut targets: Vec<Target> = Vec::new();
        let mut now = at;
        let mut stays = 0.0;
        for (place, step) in steps.iter().enumerate() {
            if step.maybe && !targets.is_empty() && sketch.dice.chance(0.5) {
                continue;
            }
            let to = step.position.on_screen(left);
            if let Some((before, _)) = targets.last().copied().filter(|(_, before)| to.is_some() && *before == to) {
                // The same direction again: let go between, as in giving it twice.
                let gap = sketch.dice.span(hand.gap);
                targets.push((before + gap * 0.45, None));
                now = before + gap;
            } else if place > 0 {
                now += sketch.dice.span(hand.step).max(stays);
            }
            targets.push((now, if step.position == Position::Neutral { None } else { step.position.on_screen(left) }));
            let held = millis(step.held) * sketch.dice.span(hand.hold);
            stays = if step.held.is_zero() && place == 0 { sketch.dice.span(hand.first) } else { held };
        }
        let (arrived, last) = (now, targets.len() - 1);
        let mut played = Played { done: arrived, again: None };
        let mut until = arrived + sketch.dice.span(hand.press);
        if let (true, Some(grip)) = (self.finishes(), self.press) {
            let finish = arrived + sketch.dice.about(hand.finish);
            let held = sketch.dice.span(hand.press);
            let down = if on_release { finish - held } else { finish };
            sketch.hold(grip, down, held);
            until = until.max(finish + 20.0);
            played.done = arrived.max(finish);
            if let Grip::Press(press) = grip {
                played.again = Some((press, down + held));
            }
        }
        if targets.last().is_some_and(|(_, to)| to.is_some()) {
            targets.push((until, None));
        }
        let reached = sketch.point(point, &targets);
        played.done = played.done.max(reached[last]);
        played
    }

    fn spins(&self, sketch: &mut Sketch<'_>, at: f64, eighths: u32) -> Played {
        let Some(point) = self.point else { return Played { done: at, again: None } };
        let start = sketch.dice.pick(4) * 2;
        let way = if sketch.dice.chance(0.5) { 1 } else { 7 };
        // Round corners are quicker than single directions; and nobody stops on the point.
        let step = sketch.dice.span(sketch.hand.step) * 0.6;
        let first = sketch.dice.span(sketch.hand.first) * 0.5;
        let mut targets: Vec<Target> = Vec::new();
        let mut now = at;
        for eighth in 0..=eighths as usize + 1 {
            targets.push((now, Some(Direction::ALL[(start + way * eighth) % 8])));
            now += if eighth == 0 { first } else { step * sketch.dice.span((1.0, sketch.hand.step.1 * 0.5)) };
        }
        targets.push((now + 40.0, None));
        let reached = sketch.point(point, &targets);
        Played { done: reached[eighths as usize], again: None }
    }

    fn flicks(&self, sketch: &mut Sketch<'_>, at: f64) -> Played {
        let Some(point) = self.point else { return Played { done: at, again: None } };
        let to = Direction::ALL[sketch.dice.pick(4) * 2];
        let (travel, held) = (sketch.dice.span(sketch.hand.flick), sketch.dice.span(sketch.hand.press));
        sketch.point_within(point, &[(at + travel, Some(to)), (at + travel + held, None)], travel);
        Played { done: at + travel, again: None }
    }
}

/// The stick whose directions an order means: its subject, or the only one of the profile.
fn stick<'n>(linkage: &'n Linkage, subject: &'n str) -> &'n str {
    let is_stick = |action: &tidy_lever::linkage::ActionView<'_>| action.kind() == Kind::Stick;
    if linkage.action(subject).is_some_and(|action| is_stick(&action)) {
        return subject;
    }
    linkage.actions().find(is_stick).map_or(subject, |stick| stick.name())
}

/// Rules of one button.
fn presses(sketch: &mut Sketch<'_>, at: f64, rule: &Rule, grip: Grip) -> Played {
    let hand = sketch.hand;
    let press = |sketch: &mut Sketch<'_>, at: f64, held: f64| {
        sketch.hold(grip, at, held);
        if let Grip::Press(press) = grip { Some((press, at + held)) } else { None }
    };
    match rule {
        Rule::Release => {
            let held = sketch.dice.span(hand.press);
            Played { again: press(sketch, at, held), done: at + held }
        }
        Rule::Tap { .. } => {
            let held = sketch.dice.span(hand.press);
            Played { again: press(sketch, at, held), done: at + held }
        }
        Rule::Hold { span } => {
            let held = millis(*span) * sketch.dice.span(hand.hold);
            press(sketch, at, held);
            Played { done: at + millis(*span), again: None }
        }
        Rule::Charge { from, to } => {
            let goal = sketch.dice.between(millis(*from) * 1.1, millis(*to));
            let held = goal * sketch.dice.span((1.0, hand.hold.1));
            press(sketch, at, held);
            Played { done: at + held, again: None }
        }
        Rule::Taps { count, on_release, .. } => {
            let (mut now, mut done, mut again) = (at, at, None);
            for _ in 0..*count {
                let gap = sketch.dice.span(hand.gap);
                let held = sketch.dice.span(hand.press).min(gap * 0.6);
                again = press(sketch, now, held);
                done = if *on_release { now + held } else { now };
                now += gap;
            }
            Played { done, again }
        }
        Rule::Mash { count, .. } => {
            let rate = sketch.dice.span(hand.mash);
            let (mut now, mut done, mut gap) = (at, at, 1_000.0 / rate);
            // A mashing hand goes on a little.
            for number in 0..count + 4 {
                let next = gap * sketch.dice.span((1.0, hand.mash.1));
                press(sketch, now, next * 0.5);
                if number + 1 == *count {
                    done = now;
                }
                now += next;
                gap *= 1.0 + hand.fatigue;
            }
            Played { done, again: None }
        }
        // Each going down counts.
        _ => {
            let held = sketch.dice.span(hand.press);
            Played { again: press(sketch, at, held), done: at }
        }
    }
}
