//! Who waits for whom, who outranks whom, and who would pull on one press together.

use super::*;

/// With this many of its like an action is compared at most: enough for any profile that a person writes.
const MOST_COMPARED: usize = 64;
/// The most rivals that a warning names one by one.
const MOST_NAMED: usize = 3;
/// The most actions that one outranks, directly or through others.
const MOST_OUTRANKED: usize = 1_024;

impl Builder<'_> {
    /// Checks what the actions say of each other, once all are built.
    pub(super) fn rivalries(&mut self) {
        for number in 0..self.actions.len() {
            for rival in self.actions[number].waits_for.clone() {
                let endless = self.cues_of(rival.into()).iter().find(|cue| cue.rule.longest_wait().is_none());
                if let Some(line) = endless.map(|cue| cue.line.to_string()) {
                    let name = self.actions[usize::from(rival)].name.clone();
                    let problem = format!(
                        "waiting for `{name}` has no time limit, because its cue is `{line}`; wait for an action with a limit, such as a hold or a tap"
                    );
                    self.rival_fault(number, rival, "waits_for", problem);
                }
            }
        }
        self.circles("waits_for", |action| &action.waits_for);
        self.circles("outranks", |action| &action.outranks);
        self.outrank_on();
        self.members_in_vain();
        self.overlaps();
        self.overlapping_motions();
    }

    /// Warns of a member of a group that can never pull: another one takes each of its presses at once.
    fn members_in_vain(&mut self) {
        let mut groups = vec![Vec::new(); self.groups.len()];
        for (number, action) in self.actions.iter().enumerate() {
            if let Some(group) = action.group {
                groups[usize::from(group)].push(number);
            }
        }
        for members in groups {
            for member in members.iter().copied() {
                let others = members.iter().copied().filter(|other| *other != member).take(MOST_COMPARED);
                let takes = others.into_iter().find(|other| self.takes_all(*other, member));
                if let Some(other) = takes {
                    let problem = format!(
                        "this action can never pull: `{}` is in the same group and takes every press first; add `outranks` here, or `waits_for` there",
                        self.actions[other].name
                    );
                    let name = &self.profile.actions[member].name;
                    let (spot, path) = (name.spot, format!("action.{}", name.value));
                    self.warn(spot, path, problem);
                }
            }
        }
    }

    /// Whether one action pulls at every press that another one could pull on, before it or at the same moment, always.
    fn takes_all(&self, one: usize, other: usize) -> bool {
        let (taker, loser) = (&self.actions[one], &self.actions[other]);
        // A loser with several cues may have one that is left to it.
        let ([rival], takers) = (self.cues_of(other), self.cues_of(one)) else { return false };
        takers.iter().any(|rule| self.takes((one, taker, rule), (other, loser, rival)))
    }

    fn takes(
        &self,
        (one, taker, own_cue): (usize, &ActionPlan, &CuePlan),
        (other, loser, rival_cue): (usize, &ActionPlan, &CuePlan),
    ) -> bool {
        let (rule, rival) = (own_cue.rule, rival_cue.rule);
        let is_open = taker.gate.is_empty() && taker.cooldown == 0 && taker.waits_for.is_empty();
        let is_heard = matches!(taker.heard, HeardPlan::Always) || taker.heard == loser.heard;
        let own = |cue: &CuePlan, number: usize| usize::from(cue.subject) == number;
        let has_all = !loser.controls.is_empty()
            && loser.controls.iter().all(|view| taker.controls.iter().any(|other| other.name == view.name));
        let same = own_cue.subject == rival_cue.subject || (own(own_cue, one) && own(rival_cue, other) && has_all);
        // Of two that pull at the press, the first of the file does.
        let comes_first = rule.is_eager() && (!rival.is_eager() || one < other);
        // A chord also stands on another action's press, which is its newest half the time.
        let alone = !rival.is_of_several();
        is_open && is_heard && same && comes_first && alone && !loser.outranks.contains(&(one as u16))
    }

    /// Whom those outrank that an action outranks, it outranks, too.
    fn outrank_on(&mut self) {
        let count = self.actions.len();
        let direct: Vec<Vec<u16>> = self.actions.iter().map(|action| action.outranks.clone()).collect();
        let mut seen = vec![usize::MAX; count];
        for number in 0..count {
            let (mut all, mut next) = (Vec::new(), direct[number].clone());
            while let Some(loser) = next.pop() {
                if usize::from(loser) < count && core::mem::replace(&mut seen[usize::from(loser)], number) != number {
                    all.push(loser);
                    next.extend(&direct[usize::from(loser)]);
                }
            }
            if all.len() > MOST_OUTRANKED {
                let problem = format!(
                    "this action outranks {} actions, directly and through others; the limit is {MOST_OUTRANKED}",
                    all.len()
                );
                let (spot, name) = (self.profile.actions[number].name.spot, &self.profile.actions[number].name.value);
                let path = format!("action.{name}.outranks");
                self.fault(spot, path, problem);
                return;
            }
            all.sort_unstable();
            self.actions[number].outranks = all;
        }
    }

    /// Warns of a motion that its finish, or a longer motion, pulls beside, where nothing says who wins.
    fn overlapping_motions(&mut self) {
        let mut pairs: Vec<(u16, u16)> = Vec::new();
        let path = |draft: &MotionDraft| -> Vec<Option<Direction>> {
            draft.steps.iter().filter(|(_, maybe, _)| !maybe).map(|(position, ..)| *position).collect()
        };
        let action_of = |draft: &MotionDraft| self.cues.all[usize::from(draft.cue)].action;
        for (place, (set, one)) in self.motion_drafts.iter().enumerate() {
            if let Some(finisher) = one.finisher.map(ActionIndex::number) {
                let finishes = |cue: &CuePlan| cue.subject == finisher && cue.rule.is_eager();
                if self.cues_of(finisher.into()).iter().any(finishes) {
                    pairs.push((finisher, action_of(one)));
                }
            }
            // Of motions with one finish, the shorter that is the other's end; last steps first, as most differ there.
            let others = self.motion_drafts.iter().enumerate().filter(|(other, (of, draft))| {
                let same_end = draft.steps.last().map(|last| last.0) == one.steps.last().map(|last| last.0);
                *other != place
                    && (of, draft.finisher, draft.on_release) == (set, one.finisher, one.on_release)
                    && same_end
                    && action_of(draft) != action_of(one)
            });
            for (_, (_, other)) in others {
                if path(other).ends_with(&path(one)) {
                    pairs.push((action_of(one).min(action_of(other)), action_of(one).max(action_of(other))));
                }
            }
        }
        pairs.sort_unstable();
        pairs.dedup();
        for (one, other) in pairs {
            let (a, b) = (&self.actions[usize::from(one)], &self.actions[usize::from(other)]);
            if self.are_related(one, other) || !self.meet_in_a_mode(a, b) {
                continue;
            }
            let problem = format!(
                "this action and `{}` will both pull on the same motion; add `outranks`, a shared `group`, or `waits_for`",
                a.name
            );
            let (spot, path) = (self.profile.actions[usize::from(other)].name.spot, format!("action.{}", b.name));
            self.warn(spot, path, problem);
        }
    }

    /// Whether the profile says what becomes of two actions that share a press.
    fn are_related(&self, one: u16, other: u16) -> bool {
        let (a, b) = (&self.actions[usize::from(one)], &self.actions[usize::from(other)]);
        a.outranks.contains(&other)
            || b.outranks.contains(&one)
            || (a.group.is_some() && a.group == b.group)
            || a.waits_for.contains(&other)
            || b.waits_for.contains(&one)
    }

    fn rival_fault(&mut self, number: usize, rival: u16, key: &str, problem: String) {
        let action = &self.profile.actions[number];
        let listed = if key == "outranks" { &action.outranks } else { &action.waits_for };
        let name = &self.profile.actions[usize::from(rival)].name.value;
        let spot = listed.iter().find(|listed| listed.value == *name).map_or(action.name.spot, |listed| listed.spot);
        let path = format!("action.{}.{key}", action.name.value);
        self.fault(spot, path, problem);
    }

    /// Finds actions that reach themselves by a list.
    fn circles(&mut self, key: &str, list: fn(&ActionPlan) -> &Vec<u16>) {
        for number in 0..self.actions.len() {
            let Some(circle) = self.circle_from(number, list) else { continue };
            // Each circle is one fault, of its first action.
            if circle.iter().any(|other| usize::from(*other) < number) {
                continue;
            }
            let ends = [number as u16];
            let way = ends.iter().chain(&circle).chain(&ends);
            let names: Vec<&str> = way.map(|one| self.actions[usize::from(*one)].name.as_ref()).collect();
            let problem =
                format!("the list leads back to the action itself: {}; remove one of the links", names.join(" → "));
            self.rival_fault(number, circle.first().copied().unwrap_or(number as u16), key, problem);
        }
    }

    /// The shortest way by a list from an action back to itself, without both ends; `None` if there is none.
    fn circle_from(&self, number: usize, list: fn(&ActionPlan) -> &Vec<u16>) -> Option<Vec<u16>> {
        // Whom each was reached from.
        let mut from: Vec<Option<u16>> = vec![None; self.actions.len()];
        let mut next = alloc::collections::VecDeque::from([number as u16]);
        while let Some(one) = next.pop_front() {
            for other in list(self.actions.get(usize::from(one))?) {
                if usize::from(*other) == number {
                    let back = core::iter::successors(Some(one), |one| from[usize::from(*one)]);
                    let mut way: Vec<u16> = back.take_while(|one| usize::from(*one) != number).collect();
                    way.reverse();
                    return Some(way);
                }
                let place = from.get_mut(usize::from(*other))?;
                if place.is_none() {
                    *place = Some(one);
                    next.push_back(*other);
                }
            }
        }
        None
    }

    /// Warns of two actions on one control that will both pull, where nothing says who wins.
    fn overlaps(&mut self) {
        // By contact, so that the cost is one of neighbours and not of all pairs.
        let mut pairs: Vec<(u16, u16)> = Vec::new();
        for contact in &self.contacts {
            let buttons: Vec<u16> =
                contact.wires.iter().filter(|wire| wire.leg.is_none()).map(|wire| wire.action).collect();
            for (place, one) in buttons.iter().enumerate() {
                pairs.extend(buttons[place + 1..].iter().take(16).map(|other| (*one, *other)));
            }
        }
        // The later one of each pair is told of the earlier ones.
        pairs.sort_unstable_by_key(|(one, other)| (*other, *one));
        pairs.dedup();
        for own in pairs.chunk_by(|one, other| one.1 == other.1) {
            let later = own[0].1;
            let rivals: Vec<u16> =
                own.iter().map(|(one, _)| *one).filter(|one| self.will_both_pull(*one, later)).collect();
            let name = |number: &u16| format!("`{}`", self.actions[usize::from(*number)].name);
            let (names, both) = match rivals.as_slice() {
                [] => continue,
                [one] => (name(one), "both"),
                few if few.len() <= MOST_NAMED => (few.iter().map(name).collect::<Vec<_>>().join(", "), "all"),
                [first, second, rest @ ..] => {
                    (format!("{}, {} and {} others", name(first), name(second), rest.len()), "all")
                }
            };
            let problem = format!(
                "this action and {names} will {both} pull on the same press; add `outranks`, a shared `group`, or `waits_for`"
            );
            let action = &self.profile.actions[usize::from(later)].name;
            let (spot, path) = (action.spot, format!("action.{}", action.value));
            self.warn(spot, path, problem);
        }
    }

    /// Whether two actions pull on the same press, and nothing says who wins.
    fn will_both_pull(&self, one: u16, other: u16) -> bool {
        let (a, b) = (&self.actions[usize::from(one)], &self.actions[usize::from(other)]);
        let own = |number: u16| self.cues_of(number.into()).iter().filter(move |cue| cue.subject == number);
        let overlap =
            || own(one).any(|rule| own(other).any(|rival| rule.rule.pressing().overlaps(rival.rule.pressing())));
        !self.are_related(one, other) && overlap() && self.meet_in_a_mode(a, b)
    }

    /// Whether two actions can be heard at the same time.
    pub(super) fn meet_in_a_mode(&self, a: &ActionPlan, b: &ActionPlan) -> bool {
        crate::mode::meet(&self.world.modes, &a.heard, &b.heard)
    }
}
