//! Motions: each stick's into one set, checked for what no hand could do.

use alloc::collections::BTreeSet;

use super::*;

impl Builder<'_> {
    /// Gives all motions their places, once all actions are built.
    pub(super) fn motions(&mut self) {
        let awaited: BTreeSet<u16> = self.actions.iter().flat_map(|action| &action.waits_for).copied().collect();
        for number in 0..self.cues.all.len() {
            let CuePlan { action, rule, subject, line, .. } = self.cues.all[number].clone();
            let action = usize::from(action);
            let Some(moved) = self.actions.get(usize::from(subject)).and_then(|subject| subject.moved) else {
                continue;
            };
            let moved = usize::from(moved);
            let stick = &mut self.inputs.moved[moved];
            stick.pushes |= rule.kinds() & Edge::PUSH != 0;
            let (Some(motion), Some(made)) = (MotionLine::of(&line.rule), rule.motion()) else { continue };
            let own = self.profile.actions[action].cues.iter().find(|own| own.is(&line));
            let Some(spot) = own.map(|own| own.spot) else { continue };
            let path = format!("action.{}.cue", self.profile.actions[action].name.value);
            let stick = &self.inputs.moved[moved];
            if let Some(problem) = motion.unlikely(stick.stick, stick.compass.four) {
                self.fault(spot, path, problem);
                continue;
            }
            let spans: Vec<u64> = motion.steps.iter().map(|step| micros(step.held)).collect();
            let (within, held, cut) = self.access.motion(motion.within, &spans);
            if let Some(key) = cut {
                let problem = format!(
                    "the held steps of `{}` are shortened to fit into its time limit",
                    self.actions[action].name
                );
                self.warn(Spot::NONE, format!("access.{key}"), problem);
            }
            // What has to be held first stays possible: it is as fresh as that takes.
            let (mut how, first) = (made.how, held.first().copied().unwrap_or(0));
            if how.fresh < first {
                how.fresh = first;
                let first = core::time::Duration::from_micros(first);
                let problem = format!(
                    "`fresh` of `{}` stays {first:?}, as long as its first position must be held",
                    self.actions[action].name
                );
                self.warn(Spot::NONE, "access.leeway", problem);
            }
            let finisher = match motion.then {
                Some(then) => self.subject(then, spot, &path).map(ActionIndex::new),
                None => None,
            };
            let awaited = awaited.contains(&(action as u16));
            let set = self.motion_set(moved, made.how.seen);
            let cue = &mut self.cues.all[number];
            (cue.rule, cue.set) = (rule.within(within), Some(Index::new(set as u16)));
            let ends_held = motion.ends_held();
            // `facing` is left, its value 0, or right, its value 1.
            for facing in if motion.is_of_body() { &[Some(1), Some(0)][..] } else { &[None] } {
                let timer = ends_held.then_some(Index::new(self.cues.motion_timers as u16));
                self.cues.motion_timers += usize::from(ends_held);
                let on_screen =
                    |(step, held): (&PathStep, &u64)| (step.position.on_screen(*facing == Some(0)), step.maybe, *held);
                let draft = MotionDraft {
                    cue: number as u16,
                    steps: motion.steps.iter().zip(&held).map(on_screen).collect(),
                    finisher,
                    on_release: motion.on_release,
                    within,
                    how,
                    facing: *facing,
                    timer,
                    awaited,
                };
                self.cues.motions[set].add(&draft);
                self.motion_drafts.push((set, draft));
            }
            if self.cues.motions[set].step_count() > super::super::MOST_STEPS {
                let most = super::super::MOST_STEPS;
                let problem = format!(
                    "the motions of one stick can have at most {most} steps together (`forward` and `back` count twice)"
                );
                self.fault(spot, path, problem);
                return;
            }
        }
        for (number, set) in self.cues.motions.iter().enumerate() {
            self.finishes.extend(set.finishers().map(|(action, finisher)| (action, number as u16, finisher)));
        }
    }

    /// The set of a stick's motions that see it in one way, made if new.
    fn motion_set(&mut self, moved: usize, seen: Seen) -> usize {
        let of_stick = &mut self.inputs.moved[moved].motions;
        let known = of_stick.iter().find(|set| self.cues.motions[usize::from(**set)].seen == seen);
        if let Some(known) = known {
            return usize::from(*known);
        }
        of_stick.push(self.cues.motions.len() as u16);
        self.cues.motions.push(MotionSet::new(seen));
        self.cues.motions.len() - 1
    }
}
