//! Cues: reads, checks and compiles each cue line of an action, with the action's tolerances.

use super::*;

impl Builder<'_> {
    /// Compiles all cues of an action.
    pub(super) fn cues(&mut self, number: usize, action: &Action, path: &str) -> Vec<Heeds> {
        let path = &format!("{path}.cue");
        if action.cues.is_empty() {
            if action.given.iter().any(|key| key.value == "cue") && self.faults.is_empty() {
                self.fault(action.name.spot, path, "with an empty list of cues the action never pulls; remove `cue`");
            }
            let plain = (action.kind.value == Kind::Button).then(Cue::default);
            let line = plain.and_then(|line| self.cue((number, action), line, Written::new("", Spot::NONE), path));
            let all: Vec<Heeds> = line.into_iter().collect();
            self.check_forgiving(action, &all);
            return all;
        }
        let mut all = Vec::new();
        for (place, text) in action.cues.iter().enumerate() {
            if action.cues[..place].iter().any(|other| other.value == text.value) {
                self.fault(text.spot, path, format!("the cue `{}` is listed twice", text.value));
                continue;
            }
            let Some(line) = self.cue_line(text, path) else { continue };
            if RulePlan::new(&line.rule).is_only() && action.cues.len() > 1 {
                let problem = format!(
                    "`{line}` must be the only cue of its action; give it an action of its own, or remove the others"
                );
                self.fault(text.spot, path, problem);
            }
            let written = match &text.value {
                CueEntry::Line(line) => line,
                CueEntry::Built(_) => "",
            };
            all.extend(self.cue((number, action), line, Written::new(written, text.spot), path));
        }
        self.check_forgiving(action, &all);
        all
    }

    /// A cue as declared, read or built.
    fn cue_line(&mut self, entry: &Placed<CueEntry>, path: &str) -> Option<Cue> {
        match &entry.value {
            CueEntry::Built(cue) => match cue.unfit() {
                None => Some(cue.clone()),
                Some(problem) => {
                    self.fault(entry.spot, path, format!("`{cue}`: {problem}"));
                    None
                }
            },
            CueEntry::Line(line) => match Cue::read(line) {
                Ok(cue) => Some(cue),
                Err(error) => {
                    let mut fault = Written::new(line, entry.spot).fault(&error, path);
                    fault.nearest = nearest_rule(error.found.trim_matches('`')).map(Into::into);
                    self.faults.push(fault);
                    None
                }
            },
        }
    }

    /// Reports tolerance keys that no cue of the action uses.
    fn check_forgiving(&mut self, action: &Action, all: &[Heeds]) {
        let name = &action.name.value;
        let keys = action.forgives.iter().map(|(key, span)| (*key, span.spot));
        let keys = keys.chain(action.from_push.as_ref().map(|level| ("from_push", level.spot)));
        let keys: Vec<_> = keys.chain(action.paced.as_ref().map(|spans| ("paced", spans.spot))).collect();
        for (key, spot) in keys {
            let what = match key {
                "early" => "a motion that ends with a button, as in `steer rolls 236 then toss within 350ms`",
                "fresh" | "astray" | "key_gap" | "from_push" => {
                    "a motion, as in `steer rolls 236 then toss within 350ms`"
                }
                "brush" => "a motion or `twice`, as in `steer twice within 240ms`",
                "rested" => "a flick, as in `steer flicks over 0.8 within 60ms`",
                "paced" => "taps, `twice` or `mash`, as in `double tap within 240ms`",
                _ => continue,
            };
            // A stick's tolerances apply to all cues that listen to it. A cue that could not be read has its own fault.
            let of_stick = matches!(action.kind.value, Kind::Stick | Kind::Axis) && key != "paced";
            if !of_stick && !all.iter().any(|heeds| heeds.line.rule.forgives(key)) && all.len() >= action.cues.len() {
                self.fault(spot, format!("action.{name}.cue"), format!("`{key}` needs {what}"));
            }
        }
    }

    /// A tolerance in µs: from the action, else from the stick that it listens to, else the default; scaled by `leeway`.
    pub(super) fn forgiven(&mut self, actions: &[&Action], key: &str, default: u64) -> u64 {
        let span = self.declared_span(actions, key, default);
        if span == u64::MAX { span } else { self.access.within(span) }
    }

    /// The same as the profile has it.
    fn declared_span(&mut self, actions: &[&Action], key: &str, default: u64) -> u64 {
        let given = actions.iter().find_map(|action| Some((action, action.forgives.iter().find(|(k, _)| *k == key)?)));
        given.map_or(default, |(action, (_, span))| self.span(span, &format!("action.{}.{key}", action.name.value)))
    }

    /// The push from which a motion's positions count, in millionths.
    fn push_level(&mut self, actions: &[&Action], default: i32) -> i32 {
        let Some((action, level)) = actions.iter().find_map(|action| Some((action, action.from_push.as_ref()?))) else {
            return default;
        };
        if level.value > 0.0 && level.value <= 1.0 {
            return fixed::from_f64(level.value).unwrap_or(0) as i32;
        }
        let problem = format!("`from_push` must be above 0, up to and including 1, found {}", level.value);
        self.fault(level.spot, format!("action.{}.from_push", action.name.value), problem);
        default
    }

    /// Adds the tolerances to a compiled rule.
    fn forgiving(&mut self, mut rule: RulePlan, line: &Cue, action: &Action, subject: Option<u16>) -> RulePlan {
        let stick = subject.and_then(|subject| self.profile.actions.get(usize::from(subject)));
        let from = [action, stick.unwrap_or(action)];
        let pace = self.pace(action, &mut rule);
        rule.forgive(&line.rule, &mut Forgiving { builder: self, from });
        rule.pace().into_iter().for_each(|own| *own = pace);
        rule
    }

    /// The two limits of `paced`, in µs.
    fn pace(&mut self, action: &Action, rule: &mut RulePlan) -> Pace {
        let spans = action.paced.as_ref()?;
        rule.pace()?;
        let window = rule.window()?;
        let path = format!("action.{}.paced", action.name.value);
        let [least, most] = [&spans.value[0], &spans.value[1]].map(|span| self.span(span, &path));
        if least < window || most < least {
            let window = core::time::Duration::from_micros(window);
            let problem = format!(
                "`paced` needs two spans, the first no shorter than the cue's own limit ({window:?}) and no longer than the second"
            );
            self.fault(spans.spot, path, problem);
        }
        Some((self.access.within(least), self.access.within(most)))
    }

    /// The rule made ready, its subject, who else it listens to, and the line.
    fn cue(
        &mut self,
        (number, action): (usize, &Action),
        line: Cue,
        written: Written<'_>,
        path: &str,
    ) -> Option<Heeds> {
        let spot = written.spot;
        let subject = match &line.subject {
            None => Some(number as u16),
            Some(name) => self.subject(name, written.spot_of(name), path),
        };
        let mut others = Vec::new();
        if let Some(other) = line.rule.with() {
            let other = self.subject(other, written.spot_of(other), path)?;
            if Some(other) == subject {
                self.fault(spot, path, "a chord needs two different actions");
            }
            others.push((other, Role::Other));
        }
        if let Some(finisher) = line.rule.finished_by() {
            self.subject(finisher, written.spot_of(finisher), path)?;
        }
        if let Some(names) = line.rule.hears_only() {
            others = self.order((number, &line), names, written, path)?;
        }
        let kind = subject.and_then(|subject| self.profile.actions.get(usize::from(subject))).map(|a| a.kind.value);
        let rule = RulePlan::new(&line.rule);
        if let Some(problem) = rule.needs_stick()
            && kind != Some(Kind::Stick)
            && kind != Some(Kind::Axis)
            // One that is not there is told already.
            && subject.is_some()
        {
            self.fault(spot, path, problem);
        }
        if kind == Some(Kind::Gauge) && line.subject.is_none() {
            self.fault(spot, path, "a gauge pulls through its own key `pulls`; remove the cue");
        }
        // Motions hear their stick all together, and orders only what they name.
        if !rule.is_motion() && rule.names().is_none() {
            others.extend(subject.map(|subject| (subject, Role::Subject)));
        }
        let rule = self.forgiving(rule, &line, action, subject);
        let rule = self.access.rule(rule);
        subject.map(|subject| Heeds { rule, subject, others, line })
    }

    /// Whom an order listens to: actions, and directions of a stick.
    fn order(
        &mut self,
        (number, line): (usize, &Cue),
        names: &[String],
        written: Written<'_>,
        path: &str,
    ) -> Option<Vec<(u16, Role)>> {
        if !(2..=MOST_NAMES).contains(&names.len()) {
            let problem = format!("an order needs 2 to {MOST_NAMES} presses, found {}", names.len());
            self.fault(written.spot, path, problem);
            return None;
        }
        let profile = self.profile;
        let sticks = || profile.actions.iter().filter(|action| action.kind.value == Kind::Stick);
        let own = &profile.actions[number];
        // Whose a bare direction is: the subject's, the action's own, or that of the only stick.
        let only = || if sticks().count() == 1 { sticks().next() } else { None };
        let stick = match &line.subject {
            Some(name) => Some(name.as_str()),
            None if own.kind.value == Kind::Stick => Some(own.name.value.as_str()),
            None => only().map(|stick| stick.name.value.as_str()),
        };
        let mut heard = Vec::new();
        for (place, name) in names.iter().enumerate() {
            let full = match (Direction::from_name(name), stick) {
                (None, _) => name.clone(),
                (Some(_), Some(stick)) => format!("{stick}.{name}"),
                (Some(_), None) => {
                    let problem = format!(
                        "the profile has several sticks, so `{name}` is ambiguous; write `steer.{name}`, or name the stick first: `steer order …`"
                    );
                    self.fault(written.spot_of(name), path, problem);
                    return None;
                }
            };
            let role = Role::Named(names.iter().position(|first| first == name).unwrap_or(place) as u8);
            let action = self.subject(&full, written.spot_of(&full), path)?;
            if !heard.contains(&(action, role)) {
                heard.push((action, role));
            }
        }
        Some(heard)
    }

    /// The action, or direction of a stick, that a cue names.
    pub(super) fn subject(&mut self, name: &str, spot: Spot, path: &str) -> Option<u16> {
        let found = self.names.get(name).copied();
        if found.is_none() {
            let problem = format!("the cue listens to `{name}`, and there is no such action");
            let fault = Fault::new(spot, path, problem);
            let fault = self.near(fault, name, self.names.keys().map(String::as_str));
            self.faults.push(fault);
        }
        found.map(|number| number as u16)
    }
}

/// What an action and the stick that it listens to forgive.
struct Forgiving<'f, 'p> {
    builder: &'f mut Builder<'p>,
    from: [&'f Action; 2],
}

impl Tolerances for Forgiving<'_, '_> {
    fn span(&mut self, key: &'static str, default: u64) -> u64 {
        self.builder.forgiven(&self.from, key, default)
    }

    fn declared_span(&mut self, key: &'static str, default: u64) -> u64 {
        self.builder.declared_span(&self.from, key, default)
    }

    fn push_level(&mut self, default: i32) -> i32 {
        self.builder.push_level(&self.from, default)
    }

    fn levels(&self, default: (i32, i32)) -> (i32, i32) {
        let [own, _] = self.from;
        let micro = |level: f64| fixed::from_f64(level).unwrap_or(0).clamp(0, i64::from(fixed::ONE)) as i32;
        let down_at = own.down_at.as_ref().map_or(default.0, |level| micro(level.value));
        (down_at, own.up_at.as_ref().map_or(default.1, |level| micro(level.value)))
    }

    fn fault(&mut self, key: &'static str, problem: &str) {
        let given = self.from.iter().find_map(|own| Some((own, own.forgives.iter().find(|(known, _)| *known == key)?)));
        if let Some((own, (_, span))) = given {
            self.builder.fault(span.spot, format!("action.{}.{key}", own.name.value), problem);
        }
    }
}
