//! Gates: `when`, what a pull spends, keeps, stages, and the modes that pulls switch.

use alloc::collections::BTreeSet;

use super::*;

/// The most ways to tell facts and actions that are tried to open a gate.
const MOST_WAYS: usize = 1 << 16;

/// Why a cue can't pull again while it is held: it is never on.
fn instant(rule: RulePlan, line: Option<&Cue>) -> Option<String> {
    let what = rule.never_held()?;
    let line = line.map_or(String::new(), ToString::to_string);
    Some(format!("`while_held` can't be combined with the cue `{line}`: {what}; remove one of them"))
}

impl Builder<'_> {
    pub(super) fn gate(&mut self, number: usize, action: &Action, path: &str) {
        let (mut steps, mut terms) = (Vec::new(), Vec::new());
        if let Some(line) = &action.when {
            let path = format!("{path}.when");
            match Gate::read(line) {
                Ok(gate) => {
                    let before = self.faults.len();
                    self.steps(&gate, Written::new(line, line.spot), &path, &mut steps, 0);
                    // With a term missing, what is left means nothing.
                    if self.faults.len() > before {
                        steps.clear();
                    }
                    gate.terms(false, &mut terms);
                }
                Err(error) => self.faults.push(Written::new(line, line.spot).fault(&error, &path)),
            }
        }
        let keep = action.keep.as_ref().map_or(0, |span| self.span(span, &format!("{path}.keep")));
        let keep = self.access.within(keep);
        let through: Vec<(u16, u64)> = steps
            .iter()
            .filter_map(|step| if let Step::Within(truth, within) = step { Some((*truth, *within)) } else { None })
            .collect();
        let spends = match &action.spends {
            None => through,
            Some(facts) => {
                facts.iter().flat_map(|fact| self.spent(fact, &through, &format!("{path}.spends"))).collect()
            }
        };
        let stages = action.stages.as_ref().and_then(|stages| self.stages(stages, &spends, &format!("{path}.stages")));
        if action.while_held
            && let Some(problem) = self.cues_of(number).iter().find_map(|cue| instant(cue.rule, Some(&cue.line)))
        {
            let spot =
                action.given.iter().find(|key| key.value == "while_held").map_or(action.name.spot, |key| key.spot);
            self.fault(spot, format!("{path}.while_held"), problem);
        }
        let modes = |builder: &mut Self, names: &[Placed<String>], key: &str| -> Vec<u16> {
            names.iter().filter_map(|name| builder.mode(name, &format!("{path}.{key}"))).collect()
        };
        let (turns_on, turns_off) =
            (modes(self, &action.turns_on, "turns_on"), modes(self, &action.turns_off, "turns_off"));
        let plan = &mut self.actions[number];
        (plan.gate, plan.terms, plan.keep, plan.while_held) = (steps, terms, keep, action.while_held);
        (plan.spends, plan.stages, plan.turns_on, plan.turns_off) = (spends, stages, turns_on, turns_off);
    }

    /// The truth that a fact is a value, made if new.
    fn truth(&mut self, fact: u16, value: u16, within: u64) -> u16 {
        let truths = &mut self.world.truths;
        let number = *self.truths.entry((fact, value)).or_insert_with(|| {
            truths.push(TruthPlan { fact, value, lingers: Vec::new() });
            (truths.len() - 1) as u16
        });
        truths[usize::from(number)].lingers_for(within);
        number
    }

    fn fact_named(&mut self, name: &str, spot: Spot, path: &str) -> Option<u16> {
        let found = self.world.facts.iter().position(|fact| fact.name == name);
        if found.is_none() {
            let names: Vec<String> = self.world.facts.iter().map(|fact| fact.name.clone()).collect();
            let action = self.declared(name).is_some();
            let hint = if action {
                format!("; to test the action, write `{name} on`")
            } else {
                "; declare it under `[facts]`".into()
            };
            let fault = Fault::new(spot, path, format!("there is no fact `{name}`{hint}"));
            let fault = if action { fault } else { self.near(fault, name, names.iter().map(String::as_str)) };
            self.faults.push(fault);
        }
        found.map(|number| number as u16)
    }

    /// Adds a gate's steps in postfix order.
    fn steps(&mut self, gate: &Gate, line: Written<'_>, path: &str, steps: &mut Vec<Step>, depth: usize) {
        if depth > DEEPEST {
            return self.fault(line.spot, path, format!("a gate can be nested at most {DEEPEST} deep"));
        }
        match gate {
            Gate::Fact { name, word, within } => {
                let spot = line.spot_of(name);
                let Some(fact) = self.fact_named(name, spot, path) else { return };
                let plan = &self.world.facts[usize::from(fact)];
                let value = match word {
                    None if plan.flag => Some(1),
                    None => {
                        let words = plan.words.join(", ");
                        return self.fault(
                            spot,
                            path,
                            format!("`{name}` holds one of several words; write `{name} is …` ({words})"),
                        );
                    }
                    Some(word) => plan.value(word),
                };
                let Some(value) = value else {
                    let words = plan.words.clone();
                    let word = word.clone().unwrap_or_default();
                    let spot = line.spot_of(&word);
                    let problem = format!("`{name}` can't be `{word}`; its words are {}", words.join(", "));
                    let fault = self.near(Fault::new(spot, path, problem), &word, words.iter().map(String::as_str));
                    self.faults.push(fault);
                    return;
                };
                let within = within.map(|within| self.access.within(micros(within)));
                let truth = self.truth(fact, value, within.unwrap_or(0));
                steps.push(within.map_or(Step::Plain(truth), |within| Step::Within(truth, within)));
            }
            Gate::On(name) => {
                let found = self.declared(name);
                match found {
                    Some(number) => steps.push(Step::On(number as u16)),
                    None => {
                        let names: Vec<&str> = self.profile.actions.iter().map(|a| a.name.value.as_str()).collect();
                        let fault = Fault::new(line.spot_of(name), path, format!("there is no action `{name}`"));
                        let fault = self.near(fault, name, names);
                        self.faults.push(fault);
                    }
                }
            }
            Gate::Not(inner) => {
                self.steps(inner, line, path, steps, depth + 1);
                steps.push(Step::Not);
            }
            Gate::All(terms) | Gate::Any(terms) => {
                if terms.len() + depth > DEEPEST {
                    return self.fault(line.spot, path, format!("a gate can join at most {DEEPEST} terms"));
                }
                for term in terms {
                    self.steps(term, line, path, steps, depth + terms.len());
                }
                let count = terms.len() as u16;
                steps.push(if matches!(gate, Gate::All(_)) { Step::All(count) } else { Step::Any(count) });
            }
        }
    }

    /// The truths of a fact that a pull spends.
    fn spent(&mut self, fact: &Placed<String>, through: &[(u16, u64)], path: &str) -> Vec<(u16, u64)> {
        let Some(number) = self.fact_named(fact, fact.spot, path) else { return Vec::new() };
        let of_fact = |truth: u16, truths: &[TruthPlan]| truths[usize::from(truth)].fact == number;
        let mut all: Vec<(u16, u64)> =
            through.iter().copied().filter(|(truth, _)| of_fact(*truth, &self.world.truths)).collect();
        if all.is_empty() && self.world.facts[usize::from(number)].flag {
            let truth = self.truth(number, 1, 0);
            all.push((truth, self.world.truths[usize::from(truth)].longest()));
        }
        all
    }

    fn stages(
        &mut self,
        stages: &Placed<crate::profile::Stages>,
        spends: &[(u16, u64)],
        path: &str,
    ) -> Option<(u8, u16, u64)> {
        let within = self.span(&stages.within, &format!("{path}.within"));
        let within = self.access.within(within);
        if !(2..=100).contains(&stages.count) {
            self.fault(
                stages.spot,
                format!("{path}.count"),
                format!("`count` must be from 2 to 100, found {}", stages.count),
            );
        }
        let fact = self.fact_named(&stages.after, stages.after.spot, &format!("{path}.after"))?;
        let truth = spends.iter().find(|(truth, _)| self.world.truths[usize::from(*truth)].fact == fact);
        if truth.is_none() {
            let problem = format!(
                "`after` must be a fact that the pull uses up: read it with `within`, as in `when = \"{} within 90ms\"`",
                stages.after.value
            );
            self.fault(stages.after.spot, format!("{path}.after"), problem);
        }
        truth.map(|(truth, _)| (stages.count as u8, *truth, within))
    }

    /// Suits actions to the player, once all are built: what toggles, what mashes, and how long a tap may last.
    pub(super) fn suit(&mut self) {
        let period = self.access.mash_period();
        let mashes = self.cues.all.iter().filter(|cue| cue.rule.is_rate());
        let mashed_by: BTreeSet<u16> = mashes.map(|cue| cue.subject).collect();
        for number in 0..self.actions.len() {
            let action = &self.actions[number];
            let latched = action.kind == Kind::Button && self.access.toggled.has(&action.name);
            let gauge = self.profile.actions[number].gauge.as_ref();
            let pushed = gauge.is_some_and(|gauge| gauge.push.is_some() || !gauge.steps.is_empty());
            let mashed = pushed || mashed_by.contains(&(number as u16));
            let action = &mut self.actions[number];
            action.latched = latched;
            action.mash_period = if mashed { period } else { 0 };
        }
        // As they were declared, taps need no look at holds.
        if self.access.leeway > 1.0 {
            self.keep_taps_below_holds();
        }
        if let crate::access::Which::Named(names) = &self.access.toggled {
            let button = |action: &&Action| action.kind.value == Kind::Button;
            let buttons: Vec<&str> =
                self.profile.actions.iter().filter(button).map(|action| action.name.value.as_str()).collect();
            for name in names.iter().filter(|name| !buttons.contains(&name.as_str())) {
                let problem = format!("there is no button `{name}` to toggle; the other entries still work");
                let fault = Fault::new(Spot::NONE, "access.toggled", problem);
                self.faults.push(fault.near(name, buttons.iter().copied()).warning());
            }
        }
    }

    /// A stretched tap never reaches the shortest hold on its controls; as short as the profile has it, it stays.
    fn keep_taps_below_holds(&mut self) {
        let held = |cue: &CuePlan| cue.rule.held_for();
        for number in 0..self.cues.all.len() {
            let CuePlan { line, rule, .. } = &mut self.cues.all[number];
            let declared = RulePlan::new(&line.rule).let_go_under().copied();
            let (Some(plain), Some(under)) = (declared, rule.let_go_under().copied()) else { continue };
            let shortest = self.share_controls(number).filter_map(held).min();
            let Some(longest) = shortest.map(|hold| plain.max(hold)).filter(|longest| *longest < under) else {
                continue;
            };
            self.cues.all[number].rule.let_go_under().into_iter().for_each(|under| *under = longest);
            let name = &self.actions[usize::from(self.cues.all[number].action)].name;
            let longest = core::time::Duration::from_micros(longest);
            let problem =
                format!("the tap of `{name}` stays under {longest:?}, where the hold on the same control begins");
            self.warn(Spot::NONE, "access.leeway", problem);
        }
    }

    /// The cues that listen to controls that this one listens to; a direction of a stick has none of its own.
    fn share_controls(&self, cue: usize) -> impl Iterator<Item = &CuePlan> {
        let own = |subject: u16| self.actions.get(usize::from(subject)).map_or(&[][..], |action| &action.controls);
        let tap = own(self.cues.all[cue].subject);
        let shares = move |cue: &&CuePlan| own(cue.subject).iter().any(|one| tap.iter().any(|o| one.name == o.name));
        self.cues.all.iter().filter(shares)
    }

    /// Warns of gates and keeps that may not do what was meant.
    pub(super) fn check_gates(&mut self) {
        let profile = self.profile;
        for (number, action) in profile.actions.iter().enumerate() {
            let Some(plan) = self.actions.get(number).cloned() else { continue };
            let path = format!("action.{}", action.name.value);
            if let Some(line) = &action.when {
                if !plan.gate.is_empty() && !self.can_open(&plan.gate) {
                    self.warn(
                        line.spot,
                        format!("{path}.when"),
                        "this gate can never be true: its terms exclude each other",
                    );
                }
                let reads_facts = plan.gate.iter().any(|step| matches!(step, Step::Plain(_) | Step::Within(..)));
                let is_eager = self.cues_of(number).iter().any(|cue| cue.rule.is_eager());
                if reads_facts && action.keep.is_none() && is_eager && !plan.while_held {
                    let problem = "a press shortly before the gate opens is lost; add an input buffer, `keep = \"150ms\"`, or write `keep = \"0ms\"` if no buffer is wanted";
                    self.warn(line.spot, format!("{path}.when"), problem);
                }
            }
            if let Some(keep) = &action.keep
                && plan.keep > 0
                && plan.gate.is_empty()
                && plan.cooldown == 0
            {
                self.warn(
                    keep.spot,
                    format!("{path}.keep"),
                    "`keep` has no effect, because nothing blocks this action; add `when` or `cooldown`",
                );
            }
            let subjects = self.cues_of(number).iter().map(|cue| usize::from(cue.subject));
            let silent: Vec<&ActionPlan> = subjects
                .filter(|subject| *subject != number)
                .filter_map(|subject| self.actions.get(subject))
                .filter(|subject| !self.meet_in_a_mode(&plan, subject))
                .collect();
            if let Some(subject) = silent.first().filter(|_| silent.len() == self.cues_of(number).len()) {
                let problem = format!(
                    "this action can never pull: it listens to `{}`, and the two are never active in the same mode",
                    subject.name
                );
                self.warn(action.name.spot, path.clone(), problem);
            }
            self.warn_of_idle_controls(action, number, &plan);
            if let HeardPlan::In(modes) = &plan.heard {
                let covers_it = |other: &ModePlan| other.on && modes.iter().all(|m| other.covers[usize::from(*m)]);
                let turned_off =
                    |name: &str| profile.actions.iter().any(|a| a.turns_off.iter().any(|m| m.value == name));
                let always = self.world.modes.iter().find(|other| covers_it(other) && !turned_off(&other.name));
                if let Some(other) = always.map(|other| other.name.clone()) {
                    let problem = format!(
                        "this action is inactive until the game turns `{other}` off: that mode is on at the start and covers all modes of this action"
                    );
                    self.warn(action.name.spot, format!("{path}.modes"), problem);
                }
            }
        }
        for (name, _) in &profile.facts {
            let number = self.world.facts.iter().position(|fact| fact.name == name.value);
            let used = self.world.truths.iter().any(|truth| Some(usize::from(truth.fact)) == number);
            if !used && name.value != "facing" && name.value != "frozen" {
                self.warn(name.spot, format!("facts.{}", name.value), "no gate uses this fact");
            }
        }
    }

    /// Whether any telling of facts opens a gate; a gate that asks for much is taken to, and one that lingers, as a lingering
    /// truth and another value of its fact may hold together.
    fn can_open(&self, steps: &[Step]) -> bool {
        // What each fact may be that makes a difference: each word that is asked for, and one that is not.
        let mut facts: BTreeMap<u16, Vec<Option<u16>>> = BTreeMap::new();
        let mut actions: BTreeSet<u16> = BTreeSet::new();
        for step in steps {
            match step {
                Step::Within(..) => return true,
                Step::Plain(truth) => {
                    let TruthPlan { fact, value, .. } = self.world.truths[usize::from(*truth)];
                    let values = facts.entry(fact).or_insert_with(|| vec![None]);
                    if !values.contains(&Some(value)) {
                        values.push(Some(value));
                    }
                }
                Step::On(action) => _ = actions.insert(*action),
                Step::Not | Step::All(_) | Step::Any(_) => {}
            }
        }
        for (fact, values) in &mut facts {
            if values.len() > self.world.facts[usize::from(*fact)].words.len() {
                values.remove(0);
            }
        }
        let counts = facts.values().map(Vec::len).chain(actions.iter().map(|_| 2));
        let ways = counts.fold(1usize, usize::saturating_mul);
        ways > MOST_WAYS
            || (0..ways).any(|way| {
                let mut rest = way;
                let mut next = |count: usize| {
                    let own = rest % count;
                    rest /= count;
                    own
                };
                let told: BTreeMap<u16, Option<u16>> =
                    facts.iter().map(|(fact, values)| (*fact, values[next(values.len())])).collect();
                let on: BTreeSet<u16> = actions.iter().copied().filter(|_| next(2) == 1).collect();
                crate::gate::is_open_where(steps, |_, step| match step {
                    Step::Plain(truth) => {
                        let TruthPlan { fact, value, .. } = self.world.truths[usize::from(truth)];
                        told[&fact] == Some(value)
                    }
                    Step::On(action) => on.contains(&action),
                    _ => false,
                })
            })
    }

    /// Warns of controls that a cue on a stick or its directions never listens to.
    fn warn_of_idle_controls(&mut self, action: &Action, number: usize, plan: &ActionPlan) {
        let (Some(control), Some(cue)) = (plan.controls.first(), action.cues.first()) else { return };
        let listens = self.cues_of(number).iter().enumerate().any(|(place, line)| {
            let moved = self.profile.actions.get(usize::from(line.subject));
            let is_moved = moved.is_none_or(|subject| matches!(subject.kind.value, Kind::Axis | Kind::Stick));
            let cue = plan.cues.start as usize + place;
            let own =
                || self.listening.iter().any(|(heard, by, _)| (usize::from(*heard), usize::from(*by)) == (number, cue));
            let finishes = line.line.rule.finished_by() == Some(action.name.value.as_str());
            finishes || usize::from(line.subject) == number || !is_moved || own()
        });
        if listens || plan.cues.is_empty() {
            return;
        }
        let problem =
            format!("its own control `{}` pulls nothing: the cue `{}` never listens to it", control.name, cue.value);
        self.warn(action.name.spot, format!("action.{}", action.name.value), problem);
    }
}
