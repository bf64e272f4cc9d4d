//! Controls by name, and the contacts and feeds they become.

use super::*;

impl Builder<'_> {
    /// A place that a pointer follows.
    pub(super) fn place(&mut self, number: usize, found: Found, name: &Placed<String>, path: &str) {
        if self.note(number, found, None, name, path) {
            self.feed(found, FeedPlan::new(number as u16, Part::Whole));
        }
    }

    /// The control that a family knows under this name.
    pub(super) fn control(&mut self, family: Family, name: &Placed<String>, path: &str) -> Option<Found> {
        let (plain, part) = name.split_once('.').map_or((name.as_str(), None), |(plain, part)| (plain, Some(part)));
        let found = if family == Family::Touch {
            let number = self.patches.iter().take(MOST_PATCHES).position(|(patch, _)| patch == plain);
            number.map(|number| (Control::patch(number), self.patches[number].1))
        } else {
            Control::in_family(family, plain).map(|control| (control, control.sort()))
        };
        let Some((control, sort)) = found else {
            self.no_control(family, name, path);
            return None;
        };
        let part = match part {
            None => Part::Whole,
            Some(text) => {
                let part = Part::from_name(text).filter(|_| matches!(sort, Sort::Pair | Sort::Counts));
                let Some(part) = part.filter(|part| sort == Sort::Pair || !part.is_half()) else {
                    let problem = match sort {
                        Sort::Pair => format!("`{plain}` has no part `{text}`; it has x, y, up, down, left, right"),
                        Sort::Counts => format!("`{plain}` has no part `{text}`; it has x, y"),
                        _ => format!("`{plain}` has no parts; write it without `.{text}`"),
                    };
                    self.faults.push(Fault::new(name.spot, path, problem));
                    return None;
                };
                part
            }
        };
        Some(Found { control, sort, part })
    }

    /// Whether a control is a cross of the panel.
    pub(super) fn is_cross(&self, control: Control) -> bool {
        let patch = |number: usize| self.panel.get(number).is_some_and(|patch| patch.kind == PatchKind::Cross);
        (0..self.panel.len()).any(|number| Control::patch(number) == control && patch(number))
    }

    pub(super) fn no_control(&mut self, family: Family, name: &Placed<String>, path: &str) {
        let mut problem = format!("`{family}` has no control `{}`", name.value);
        if family == Family::Touch {
            problem += "; declare it under `[panel]`";
            let names: Vec<String> = self.patches.iter().map(|(patch, _)| patch.clone()).collect();
            let fault = self.near(Fault::new(name.spot, path, problem), name, names.iter().map(String::as_str));
            return self.faults.push(fault);
        }
        let plain = name.split('.').next().unwrap_or_default();
        if let Some(other) = Family::ALL.into_iter().find(|other| Control::in_family(*other, plain).is_some()) {
            problem += &format!("; it belongs to `{other}`");
            return self.faults.push(Fault::new(name.spot, path, problem));
        }
        let advice = crate::control::advice(family, name);
        if !advice.is_empty() {
            return self.faults.push(Fault::new(name.spot, path, problem + &advice));
        }
        let names: Vec<String> = Control::all(family).map(|control| control.name().to_string()).collect();
        let mut fault = self.near(Fault::new(name.spot, path, problem), name, names.iter().map(String::as_str));
        if fault.nearest.is_none() {
            fault.problem += &format!("; `tidy-lever controls {family}` lists them");
        }
        self.faults.push(fault);
    }

    pub(super) fn slot(&mut self, found: Found) -> u16 {
        let known = self.inputs.slot_of[found.control.number()];
        if let Some(known) = known {
            return known.number();
        }
        let family = found.control.family();
        let lane = self.inputs.slots.iter().filter(|slot| slot.control.family() == family).count() as u16;
        let number = self.inputs.slots.len() as u16;
        let guard = self.guard(found.control, found.sort);
        self.inputs.slots.push(SlotPlan {
            control: found.control,
            sort: found.sort,
            family: found.control.family(),
            lane,
            contacts: 0..0,
            feeds: 0..0,
            only: None,
            is_plain: false,
            guard,
            has_level: matches!(found.sort, Sort::Button | Sort::Level | Sort::Pair),
        });
        self.inputs.slot_of[found.control.number()] = Some(Index::new(number));
        number
    }

    /// What guards a new control of a family.
    fn guard(&mut self, control: Control, sort: Sort) -> GuardPlan {
        let (mut bounces, mut sticks) = (0, 0);
        for slot in self.inputs.slots.iter().filter(|slot| slot.family == control.family()) {
            guard::of(slot.control, slot.sort, &mut bounces, &mut sticks);
        }
        let own = guard::of(control, sort, &mut bounces, &mut sticks);
        let (most_bounces, most_sticks) = &mut self.inputs.guarded;
        (*most_bounces, *most_sticks) = ((*most_bounces).max(bounces), (*most_sticks).max(sticks));
        own
    }

    /// The contact of a control at these thresholds, made if new.
    pub(super) fn contact(&mut self, found: Found, levels: (i32, i32)) -> usize {
        let slot = self.slot(found);
        let (down_at, up_at) = levels;
        let same =
            |draft: &Draft| (draft.slot, draft.part, draft.down_at, draft.up_at) == (slot, found.part, down_at, up_at);
        self.contacts.iter().position(same).unwrap_or_else(|| {
            self.contacts.push(Draft { slot, part: found.part, down_at, up_at, wires: Vec::new() });
            self.contacts.len() - 1
        })
    }

    pub(super) fn feed(&mut self, found: Found, plan: FeedPlan) -> u32 {
        let slot = self.slot(found);
        self.feeds.push((slot, plan));
        self.feeds.len() as u32 - 1
    }

    pub(super) fn works_as_button(&mut self, found: Found, name: &Placed<String>, path: &str) -> bool {
        let problem = match (found.sort, found.part) {
            (Sort::Pair, Part::Whole | Part::X | Part::Y) => {
                let plain = name.split('.').next().unwrap_or_default();
                format!("`{}` has several directions; name one, as in `{plain}.up`", name.value)
            }
            (Sort::Counts | Sort::Place, _) => {
                format!("`{}` can't be a button, because it never goes down", name.value)
            }
            _ => return true,
        };
        self.fault(name.spot, path, problem);
        false
    }

    /// Keeps a control of an action for people; false if the action has it already.
    pub(super) fn note(
        &mut self,
        number: usize,
        found: Found,
        leg: Option<Leg>,
        name: &Placed<String>,
        path: &str,
    ) -> bool {
        let full = format!("{}:{}", found.control.family(), name.value);
        let twice = self.actions[number].controls.iter().any(|view| view.name == full);
        if twice {
            self.fault(name.spot, path, format!("`{}` is bound twice in one action", name.value));
            return false;
        }
        self.actions[number].controls.push(ControlView { control: found.control, part: found.part, leg, name: full });
        true
    }
}
