//! Motions: each stick's into one set, checked for what no hand could do.

use super::*;

impl Builder<'_> {
    /// Gives all motions their places, once all actions are built.
    pub(super) fn motions(&mut self) {
        for number in 0..self.cues.len() {
            let CuePlan { action, rule, subject, line, .. } = self.cues[number].clone();
            let action = usize::from(action);
            let Some(moved) = self.actions.get(usize::from(subject)).and_then(|subject| subject.moved) else {
                continue;
            };
            let moved = usize::from(moved);
            let stick = &mut self.moved[moved];
            stick.pushes |= rule.kinds() & Edge::PUSH != 0;
            let Rule::Rolls { steps, then, on_release, within: declared } = &line.rule else { continue };
            let RulePlan::Rolls(rolls) = rule else { continue };
            let own = self.profile.actions[action].cues.iter().find(|own| own.is(&line));
            let Some(spot) = own.map(|own| own.spot) else { continue };
            let path = format!("action.{}.cue", self.profile.actions[action].name.value);
            if let Some(problem) = self.unlikely(steps, micros(*declared), then.is_some(), moved) {
                self.fault(spot, path, problem);
                continue;
            }
            let spans: Vec<u64> = steps.iter().map(|step| micros(step.held)).collect();
            let (within, held, cut) = self.access.motion(micros(*declared), &spans);
            if let Some(key) = cut {
                let problem = format!(
                    "the held steps of `{}` are shortened to fit into its time limit",
                    self.actions[action].name
                );
                self.warn(Spot::NONE, format!("access.{key}"), problem);
            }
            let finisher = match then {
                Some(then) => self.subject(then, spot, &path).map(ActionIndex::new),
                None => None,
            };
            let awaited = self.actions.iter().any(|other| other.waits_for.contains(&(action as u16)));
            let set = self.motion_set(moved, rolls.how.seen);
            let cue = &mut self.cues[number];
            (cue.rule, cue.set) = (RulePlan::Rolls(Rolls { within, ..rolls }), Some(Index::new(set as u16)));
            let of_body = steps.iter().any(|step| matches!(step.position, Position::Body(_)));
            let ends_held = then.is_none() && steps.last().is_some_and(|last| !last.held.is_zero());
            // `facing` is left, its value 0, or right, its value 1.
            for facing in if of_body { &[Some(1), Some(0)][..] } else { &[None] } {
                let timer = ends_held.then_some(Index::new(self.motion_timers));
                self.motion_timers += u16::from(ends_held);
                let on_screen =
                    |(step, held): (&PathStep, &u64)| (step.position.on_screen(*facing == Some(0)), step.maybe, *held);
                let draft = MotionDraft {
                    cue: number as u16,
                    steps: steps.iter().zip(&held).map(on_screen).collect(),
                    finisher,
                    on_release: *on_release,
                    within,
                    how: rolls.how,
                    facing: *facing,
                    timer,
                    awaited,
                };
                self.motion_sets[set].add(&draft);
                self.motion_drafts.push((set, draft));
            }
            if self.motion_sets[set].step_count() > super::super::MOST_STEPS {
                let most = super::super::MOST_STEPS;
                let problem = format!(
                    "the motions of one stick can have at most {most} steps together (`forward` and `back` count twice)"
                );
                self.fault(spot, path, problem);
                return;
            }
        }
        for (number, set) in self.motion_sets.iter().enumerate() {
            self.finishes.extend(set.finishers().map(|(action, finisher)| (action, number as u16, finisher)));
        }
    }

    /// The set of a stick's motions that see it in one way, made if new.
    fn motion_set(&mut self, moved: usize, seen: Seen) -> usize {
        let of_stick = &mut self.moved[moved].motions;
        let known = of_stick.iter().find(|set| self.motion_sets[usize::from(**set)].seen == seen);
        if let Some(known) = known {
            return usize::from(*known);
        }
        of_stick.push(self.motion_sets.len() as u16);
        self.motion_sets.push(MotionSet::new(seen));
        self.motion_sets.len() - 1
    }

    /// What is wrong with a motion's path, if anything is.
    fn unlikely(&self, steps: &[PathStep], within: u64, finished: bool, moved: usize) -> Option<String> {
        let (first, last) = (steps.first()?, steps.last()?);
        let stick = &self.moved[moved];
        if !(2..=MOST_NAMES).contains(&steps.len()) {
            return Some(format!("a motion needs 2 to {MOST_NAMES} steps, found {}", steps.len()));
        }
        if first.position == Position::Neutral || (last.position == Position::Neutral && !finished) {
            return Some("a motion must begin and end with a direction, not with `neutral`".into());
        }
        if first.maybe || last.maybe {
            return Some("the first and the last step of a motion can't be `maybe`".into());
        }
        if steps.iter().any(|step| step.maybe && !step.held.is_zero()) {
            return Some("a `maybe` step can't be `held`".into());
        }
        if steps.windows(MOST_MAYBES + 1).any(|row| row.iter().all(|step| step.maybe)) {
            return Some(format!("at most {MOST_MAYBES} steps in a row can be `maybe`"));
        }
        let held: u64 = steps[1..].iter().map(|step| micros(step.held)).sum();
        if held >= within {
            return Some("the held steps take the whole time limit; make `within` longer".into());
        }
        for step in steps {
            if step.position == Position::Neutral && !step.held.is_zero() {
                return Some("`neutral` can't be `held`; `within` limits the time".into());
            }
            let direction = step.position.on_screen(false);
            let beyond = direction.is_some_and(|direction| {
                let diagonal = direction.is_diagonal();
                (!stick.stick && direction.signs().1 != 0)
                    || (diagonal && stick.compass.four && (step == first || step == last || !step.held.is_zero()))
            });
            if beyond {
                let name = step.position.name();
                let which = if stick.stick { "a stick read in four directions" } else { "an axis" };
                return Some(format!("{which} never reaches `{name}`"));
            }
        }
        None
    }
}
