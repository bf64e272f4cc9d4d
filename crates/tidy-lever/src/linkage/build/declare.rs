//! What others refer to by name: modes, facts, patches, the actions' own names.

use super::*;

impl Builder<'_> {
    /// Checks a name, and that it wasn't given before among its like.
    pub(super) fn name(&mut self, name: &Placed<String>, path: &str, before: bool) {
        if !valid_name(name) {
            // A name of 100,000 letters is not repeated.
            let shown: String = name.chars().take(80).collect();
            let problem = format!(
                "`{shown}` can't be a name: use the letters a to z and A to Z, digits, `_` and `-`, a letter first, 64 characters at most, \
                 as in `hop-2`"
            );
            self.fault(name.spot, path, problem);
        } else if is_reserved(name) {
            self.fault(name.spot, path, {
                let words = crate::profile::reserved().join(", ");
                format!("`{}` can't be a name; these words have a meaning of their own: {words}", name.value)
            });
        } else if before {
            self.fault(name.spot, path, format!("the name `{}` is used twice", name.value));
        }
    }

    pub(super) fn limit(&mut self, count: usize, most: usize, what: &str) {
        if count > most {
            self.fault(Spot::NONE, "", format!("a profile can have at most {most} {what}, found {count}"));
        }
    }

    /// Checks how much is declared, before anything is looked at one by one.
    pub(super) fn limits(&mut self) {
        let profile = self.profile;
        self.limit(profile.modes.len(), MOST_MODES, "modes");
        self.limit(profile.facts.len(), MOST_FACTS, "facts");
        let count = profile.actions.iter().map(|action| 1 + directions(action.kind.value).len()).sum();
        self.limit(count, MOST_ACTIONS, "actions (a stick counts for nine, an axis for three)");
        self.limit(profile.panel.len(), MOST_PATCHES, "touch controls, a zone counted twice");
    }

    /// Stops if a limit was exceeded: numbers would mean something else, and what follows would only take long.
    pub(super) fn fits(&mut self) -> Result<(), Faults> {
        self.stop_at(|fault| fault.spot == Spot::NONE && fault.path.is_empty())
    }

    /// Stops with all faults, and no warnings, if one of the faults is of a kind.
    pub(super) fn stop_at(&mut self, which: impl Fn(&Fault) -> bool) -> Result<(), Faults> {
        let is_fault = |fault: &Fault| fault.severity == Severity::Fault;
        if !self.faults.iter().any(|fault| is_fault(fault) && which(fault)) {
            return Ok(());
        }
        self.faults.retain(is_fault);
        Err(Faults(core::mem::take(&mut self.faults)))
    }

    /// Everything that others refer to by name: modes, facts, patches, the actions' own names.
    pub(super) fn declare(&mut self) {
        let profile = self.profile;
        if let Some(problem) = title_problem(&profile.title) {
            self.fault(Spot::NONE, "title", problem);
        }
        for (number, mode) in profile.modes.iter().enumerate() {
            let before = profile.modes[..number].iter().any(|m| m.name.value == mode.name.value);
            self.name(&mode.name, "modes", before);
            let path = format!("modes.{}.covers", mode.name.value);
            let mut covers = vec![matches!(mode.covers, Covers::All); profile.modes.len()];
            if let Covers::Named(names) = &mode.covers {
                for name in names {
                    match self.mode(name, &path) {
                        Some(covered) if usize::from(covered) == number => {
                            self.fault(name.spot, &path, "a mode can't cover itself");
                        }
                        Some(covered) => covers[usize::from(covered)] = true,
                        None => {}
                    }
                }
            }
            covers[number] = false;
            let covers_all = matches!(mode.covers, Covers::All);
            self.world.modes.push(ModePlan { name: mode.name.value.clone(), on: mode.on, covers_all, covers });
        }
        for (number, (name, entry)) in profile.facts.iter().enumerate() {
            let before = profile.facts[..number].iter().any(|(n, _)| n.value == name.value);
            self.name(name, "facts", before);
            self.fact(name, entry);
        }
        // Built in, whether declared or not.
        if !self.world.facts.iter().any(|fact| fact.name == "facing") {
            self.world.facts.push(facing(1));
        }
        if !self.world.facts.iter().any(|fact| fact.name == "frozen") {
            self.world.facts.push(flag("frozen", false));
        }
        for (number, patch) in profile.panel.iter().enumerate() {
            let before = profile.panel[..number].iter().any(|p| p.name.value == patch.name.value);
            let path = format!("panel.{}", patch.name.value);
            self.name(&patch.name, "panel", before);
            let kind = PatchKind::from_name(&patch.kind.value);
            if kind.is_none() {
                let problem = "a touch control's kind must be \"cross\", \"stick\", \"button\" or \"zone\"";
                let fault = Fault::new(patch.kind.spot, format!("{path}.kind"), problem);
                self.faults.push(fault.near(&patch.kind, PatchKind::ALL.map(PatchKind::name)));
            }
            let corner = Corner::from_name(&patch.from.value);
            if corner.is_none() {
                let corners = Corner::ALL.map(Corner::name);
                let problem = format!("`from` must be a corner: {}", corners.join(", "));
                let fault = Fault::new(patch.from.spot, format!("{path}.from"), problem);
                self.faults.push(fault.near(&patch.from, corners));
            }
            let inside = |n: f64| (0.0..=10.0).contains(&n);
            if !patch.at.iter().all(|n| inside(*n)) {
                self.fault(
                    patch.name.spot,
                    format!("{path}.at"),
                    "a touch control needs its distance from the corner: add `at = [0.2, 0.2]`",
                );
            }
            if !patch.size.iter().all(|n| inside(*n) && *n > 0.0) {
                self.fault(
                    patch.name.spot,
                    format!("{path}.size"),
                    "a touch control needs a size above 0: add `size = 0.16`",
                );
            }
            let kind = kind.unwrap_or(PatchKind::Button);
            if kind != PatchKind::Zone && patch.size[0] != patch.size[1] {
                self.fault(
                    patch.name.spot,
                    format!("{path}.size"),
                    "only a zone has a width and a height; write one number",
                );
            }
            if patch.floats && kind != PatchKind::Stick {
                self.fault(patch.name.spot, format!("{path}.floats"), "only a stick can float");
            }
            let sort = if matches!(kind, PatchKind::Cross | PatchKind::Stick) { Sort::Pair } else { Sort::Button };
            self.patches.push((patch.name.value.clone(), sort));
            let micro = |n: f64| fixed::from_f64(n).unwrap_or(0);
            self.panel.push(PatchPlan {
                name: patch.name.value.clone(),
                kind,
                from_right: matches!(corner, Some(Corner::BottomRight | Corner::TopRight)),
                from_bottom: matches!(corner, Some(Corner::BottomLeft | Corner::BottomRight)),
                at: patch.at.map(micro),
                half: patch.size.map(micro),
                floats: patch.floats,
                slot: None,
                swipe: None,
                actions: Vec::new(),
            });
        }
        // A zone's swipes are a second control of it.
        let zones = self.panel.iter().filter(|patch| patch.kind == PatchKind::Zone);
        let swipes: Vec<(String, Sort)> = zones.map(|patch| (format!("{}-swipe", patch.name), Sort::Pair)).collect();
        self.patches.extend(swipes);
        self.limit(self.patches.len(), MOST_PATCHES, "touch controls, a zone counted twice");
        self.learn_names();
        for (number, action) in profile.actions.iter().enumerate() {
            let before = self.declared(&action.name.value).is_some_and(|first| first < number);
            self.name(&action.name, "action", before);
        }
    }

    pub(super) fn fact(&mut self, name: &Placed<String>, entry: &FactEntry) {
        let path = format!("facts.{}", name.value);
        let plan = match (name.value.as_str(), entry) {
            ("facing", FactEntry::Facing(word)) if word.value == "left" || word.value == "right" => {
                facing(u16::from(word.value == "right"))
            }
            ("facing", _) => {
                self.fault(name.spot, path, "`facing` is built in: it is \"left\" or \"right\"");
                facing(1)
            }
            ("frozen", FactEntry::Words(_)) => {
                self.fault(name.spot, path, "`frozen` is built in: it is true or false");
                flag("frozen", false)
            }
            (_, FactEntry::Facing(_)) => {
                self.fault(name.spot, path, "a fact must be true, false or a list of words");
                flag(name, false)
            }
            (_, FactEntry::Flag(first)) => flag(name, *first),
            (_, FactEntry::Words(words)) => {
                if words.is_empty() || words.len() > MOST_WORDS {
                    self.fault(
                        name.spot,
                        &path,
                        format!("a fact can have 1 to {MOST_WORDS} words, found {}", words.len()),
                    );
                }
                for (i, word) in words.iter().enumerate().take(MOST_WORDS) {
                    let before = words[..i].iter().any(|w| w.value == word.value);
                    if !valid_name(word) {
                        self.fault(
                            word.spot,
                            &path,
                            "a word must consist of letters, digits, `_` and `-`, with a letter first",
                        );
                    } else if before {
                        self.fault(word.spot, &path, format!("the word `{}` is listed twice", word.value));
                    }
                }
                let words = words.iter().map(|word| word.value.clone()).collect();
                FactPlan { name: name.value.clone(), words, flag: false, first: 0 }
            }
        };
        self.world.facts.push(plan);
    }

    pub(super) fn mode(&mut self, name: &Placed<String>, path: &str) -> Option<u16> {
        let found = self.profile.modes.iter().position(|mode| mode.name.value == name.value);
        if found.is_none() {
            let names: Vec<&str> = self.profile.modes.iter().map(|mode| mode.name.value.as_str()).collect();
            let problem = format!("there is no mode `{}`; declare it under `[modes]`", name.value);
            let fault = self.near(Fault::new(name.spot, path, problem), name, names);
            self.faults.push(fault);
        }
        found.map(|number| number as u16)
    }
}
