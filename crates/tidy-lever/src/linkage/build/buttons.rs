//! What actions of every kind have: levels, marks, rivals, groups; and buttons and gauges.

use super::*;

impl Builder<'_> {
    pub(super) fn thresholds(&mut self, action: &Action, path: &str) -> (i32, i32) {
        let down_at = action.down_at.as_ref().map_or(DOWN_AT, |n| n.value);
        let up_at = action.up_at.as_ref().map_or(UP_AT.min(down_at), |n| n.value);
        // Each fault blames a key that was written.
        if let Some(wrong) = action.down_at.as_ref().filter(|_| !(down_at > 0.0 && down_at <= 1.0)) {
            let problem = format!("`down_at` must be above 0, up to and including 1, found {down_at}");
            self.fault(wrong.spot, format!("{path}.down_at"), problem);
        } else if let Some(wrong) = action.up_at.as_ref().filter(|_| !(up_at >= 0.0 && up_at <= down_at && up_at < 1.0))
        {
            let default = if action.down_at.is_some() { "" } else { ", the default" };
            let problem =
                format!("`up_at` must be from 0 to `down_at` ({down_at}{default}) and below 1, found {up_at}");
            self.fault(wrong.spot, format!("{path}.up_at"), problem);
        }
        let micro = |level: f64| fixed::from_f64(level).unwrap_or(0).clamp(0, i64::from(fixed::ONE)) as i32;
        (micro(down_at), micro(up_at))
    }

    pub(super) fn cooldown(&mut self, action: &Action, path: &str) -> u64 {
        action.cooldown.as_ref().map_or(0, |span| self.span(span, &format!("{path}.cooldown")))
    }

    pub(super) fn marks(&mut self, action: &Action, path: &str) -> Vec<(String, u64)> {
        let path = format!("{path}.marks");
        if action.marks.len() > MOST_MARKS {
            self.fault(action.name.spot, &path, format!("an action can have at most {MOST_MARKS} marks"));
        }
        let mut marks: Vec<(String, u64)> = Vec::new();
        for (name, span) in &action.marks {
            if !valid_name(name) {
                self.fault(
                    name.spot,
                    &path,
                    "a mark's name must consist of letters, digits, `_` and `-`, with a letter first",
                );
            }
            let span = self.span(span, &path);
            marks.push((name.value.clone(), span));
        }
        self.world.marks += marks.len();
        marks
    }

    /// The numbers of other actions named in a list.
    pub(super) fn rivals(&mut self, number: usize, names: &[Placed<String>], path: &str) -> Vec<u16> {
        let mut rivals = Vec::new();
        for name in names {
            let found = self.declared(&name.value);
            match found {
                Some(own) if own == number => self.fault(name.spot, path, "an action can't name itself here"),
                Some(rival) => rivals.push(rival as u16),
                None => {
                    let all: Vec<&str> = self.profile.actions.iter().map(|action| action.name.value.as_str()).collect();
                    let problem = format!("there is no action `{}`", name.value);
                    let fault = self.near(Fault::new(name.spot, path, problem), name, all);
                    self.faults.push(fault);
                }
            }
        }
        rivals
    }

    pub(super) fn group(&mut self, action: &Action, path: &str) -> Option<GroupIndex> {
        let group = action.group.as_ref()?;
        if !valid_name(group) {
            self.fault(group.spot, format!("{path}.group"), "a group must be one word of letters, digits, `_` and `-`");
        }
        let known = self.groups.iter().position(|known| *known == group.value);
        let number = known.unwrap_or_else(|| {
            self.groups.push(group.value.clone());
            self.groups.len() - 1
        });
        Some(Index::new(number as u16))
    }

    pub(super) fn gauge(&mut self, number: usize, action: &Action, levels: (i32, i32), path: &str) {
        let gauge = match &action.gauge {
            Some(gauge) => gauge.clone(),
            None => {
                self.fault(
                    action.name.spot,
                    path,
                    "a gauge needs its table; add `gauge = { push = \"+1\", ceiling = 6 }`",
                );
                Placed::default()
            }
        };
        let mut problems = Vec::new();
        let plan = GaugePlan::build(&gauge, |key, problem| problems.push((key.to_string(), problem)));
        for (key, problem) in problems {
            self.fault(gauge.spot, format!("{path}.gauge.{key}"), problem);
        }
        self.actions[number].gauge = Some(Index::new(self.world.gauges.len() as u16));
        self.world.gauges.push(plan);
        self.world.gauge_actions.push(number as u16);
        self.button(number, action, levels, path);
    }

    /// The stick whose direction the pulls carry, by its place among actions.
    pub(super) fn aim(&mut self, action: &Action, path: &str) -> Option<ActionIndex> {
        let name = action.aim.as_ref()?;
        let sticks = || self.profile.actions.iter().enumerate().filter(|(_, a)| a.kind.value == Kind::Stick);
        match sticks().find(|(_, a)| a.name.value == name.value) {
            Some((number, _)) => Some(Index::new(number as u16)),
            None => {
                let names: Vec<&str> = sticks().map(|(_, a)| a.name.value.as_str()).collect();
                let problem = format!("`aim` needs a stick, and there is no stick `{}`", name.value);
                let fault = self.near(Fault::new(name.spot, format!("{path}.aim"), problem), name, names);
                self.faults.push(fault);
                None
            }
        }
    }

    pub(super) fn button(&mut self, number: usize, action: &Action, levels: (i32, i32), path: &str) {
        for family in Family::ALL {
            let Some(inputs) = &action.inputs[family.index()] else { continue };
            let path = format!("{path}.{family}");
            let names = match &inputs.value {
                Inputs::Any(names) => names,
                Inputs::Legs(_) => {
                    self.fault(inputs.spot, path, "a button has no legs; give a control or a list of controls");
                    continue;
                }
            };
            for name in names {
                if action.kind.value == Kind::Pointer && family == Family::Touch && name.value == "place" {
                    // Fingers that hit no patch.
                    if let Some(pointer) = self.inputs.pointers.last_mut() {
                        pointer.touch = Some(Index::new(number as u16));
                    }
                    let found = Found { control: Control::TOUCH_PLACE, sort: Sort::Place, part: Part::Whole };
                    self.note(number, found, None, name, &path);
                    continue;
                }
                let Some(found) = self.control(family, name, &path) else { continue };
                if action.kind.value == Kind::Pointer && found.sort == Sort::Place {
                    self.place(number, found, name, &path);
                    continue;
                }
                if !self.works_as_button(found, name, &path) {
                    continue;
                }
                if !self.note(number, found, None, name, &path) {
                    continue;
                }
                let contact = self.contact(found, levels);
                self.contacts[contact].wires.push(Wire { action: number as u16, leg: None });
            }
        }
    }
}
