//! The guards of all devices that a seat knows.

use alloc::vec;
use alloc::vec::Vec;

use super::bounce::Bounce;
use super::memory::StickMemory;
use super::stick::{StickGuard, StickHeard};
use super::swallowed::GuardedBy;
use super::{ARMS, FamilyGuard, GuardPlan, SetMiddle, Spans};
use crate::sparse::{Sparse, copy_list};
use crate::time::NEVER;

/// What counts of what a guarded control says.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Heard {
    /// Nothing: it counts as before.
    Nothing,
    /// This level.
    Level((i32, i32)),
    /// A stick's.
    Stick(StickHeard),
}

/// A guard that decides something now.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Decided {
    pub(crate) heard: Heard,
    /// Whether nothing may be pressed by it: a stick has a new middle.
    pub(crate) as_level: bool,
}

/// All guards, by the seat's own number of a device.
#[derive(Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Guards {
    bounces: Sparse<Bounce>,
    sticks: Sparse<StickGuard>,
    /// How many of each a device has.
    each: (u16, u16),
    /// The controls on which something may be under way, in no order.
    busy: Vec<Control>,
    /// No guard decides anything before this. Where one changed its mind, it may be too early.
    due: u64,
}

/// A guarded control of a device: the seat's own number of the device, and the slot.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Control {
    pub(crate) local: u8,
    pub(crate) slot: u16,
}

impl Guards {
    /// For so many devices with so many bounces and sticks each.
    pub(crate) fn new((bounces, sticks): (u16, u16), devices: usize) -> Guards {
        Guards {
            bounces: vec![Bounce::default(); devices * usize::from(bounces)].into(),
            sticks: vec![StickGuard::default(); devices * usize::from(sticks)].into(),
            each: (bounces, sticks),
            busy: Vec::with_capacity(devices * (usize::from(bounces) + usize::from(sticks))),
            due: NEVER,
        }
    }

    #[inline(always)]
    fn bounce(&self, local: u8, place: u16) -> usize {
        usize::from(local) * usize::from(self.each.0) + usize::from(place)
    }

    #[inline(always)]
    fn stick(&self, local: u8, place: u16) -> usize {
        usize::from(local) * usize::from(self.each.1) + usize::from(place)
    }

    /// No guard decides anything before this moment.
    #[inline(always)]
    pub(crate) fn next_due(&self) -> u64 {
        self.due
    }

    /// A button says something that a clean one would say, too. False, and nothing is changed, where a guard has more to do.
    #[inline(always)]
    pub(crate) fn button_passes(&mut self, spans: Spans, (local, place): (u8, u16), at: u64, level: i32) -> bool {
        let place = self.bounce(local, place);
        self.bounces.changing(place, Bounce::spoke).passes(spans, at, level)
    }

    /// A stick says something that a clean one would say, too: what counts of it. `None`, and nothing is changed, where a guard
    /// has more to do.
    #[inline(always)]
    pub(crate) fn stick_passes(&mut self, (local, place): (u8, u16), to: (i32, i32)) -> Option<(i32, i32)> {
        let place = self.stick(local, place);
        self.sticks.changing(place, StickGuard::spoke).passes(to)
    }

    /// Something may be under way on a control from now on.
    pub(crate) fn watches(&mut self, how: GuardPlan, control: Control) {
        if let Some((due, _)) = self.due_of(how, control.local) {
            self.due = self.due.min(due);
            if !self.busy.contains(&control) {
                self.busy.push(control);
            }
        }
    }

    /// The controls on which something may be under way.
    pub(crate) fn busy(&self) -> &[Control] {
        &self.busy
    }

    /// Those on which nothing is under way any more are left alone; the others decide nothing before the next one is due.
    pub(crate) fn tidy(&mut self, how: impl Fn(Control) -> GuardPlan) {
        let mut busy = core::mem::take(&mut self.busy);
        self.due = NEVER;
        busy.retain(|control| {
            let due = self.due_of(how(*control), control.local);
            self.due = self.due.min(due.map_or(NEVER, |(due, _)| due));
            due.is_some()
        });
        self.busy = busy;
    }

    /// A button says a level: whether it counts.
    pub(crate) fn button_says(&mut self, spans: Spans, (local, place): (u8, u16), at: u64, level: i32) -> bool {
        let place = self.bounce(local, place);
        self.bounces.changing(place, Bounce::spoke).says(spans, at, level)
    }

    /// The d-pad says where it stands: what counts of that, and whether an arm of it was not heard.
    pub(crate) fn arms_say(
        &mut self,
        spans: Spans,
        (local, place): (u8, u16),
        at: u64,
        to: (i32, i32),
    ) -> (Heard, bool) {
        let first = self.bounce(local, place);
        let (mut counts, mut unheard) = (false, false);
        for (arm, level) in arms(to).into_iter().enumerate() {
            let bounce = &mut self.bounces[first + arm];
            if level != bounce.heard || bounce.due().is_some() {
                let is_news = level != bounce.heard;
                let is_heard = bounce.says(spans, at, level);
                (counts, unheard) = (counts || is_heard, unheard || is_news && !is_heard);
            }
        }
        (if counts { Heard::Level(self.stand_of_arms(first)) } else { Heard::Nothing }, unheard)
    }

    fn stand_of_arms(&self, first: usize) -> (i32, i32) {
        let arm = |number: usize| self.bounces[first + number].heard;
        (arm(0) - arm(1), arm(2) - arm(3))
    }

    /// A stick says where it is: what counts of that.
    #[inline]
    pub(crate) fn stick_says(
        &mut self,
        guard: FamilyGuard,
        (local, place): (u8, u16),
        at: u64,
        to: (i32, i32),
    ) -> StickHeard {
        let place = self.stick(local, place);
        let stick = self.sticks.changing(place, StickGuard::spoke);
        stick.says(guard, at, to)
    }

    /// The span in which a control is not heard at a moment: its beginning, its end, and whose it is.
    pub(crate) fn deaf_at(&self, how: GuardPlan, local: u8, spans: Spans, at: u64) -> Option<(u64, u64, GuardedBy)> {
        match how {
            GuardPlan::Nothing => None,
            GuardPlan::Button(place) => self.bounces[self.bounce(local, place)].deaf_at(spans, at),
            GuardPlan::Arms(place) => {
                let first = self.bounce(local, place);
                // The span that runs for longest is that of the arm that bounces.
                (0..ARMS).filter_map(|arm| self.bounces[first + arm].deaf_at(spans, at)).min_by_key(|(from, ..)| *from)
            }
            GuardPlan::Stick(place) => {
                let (from, until) = self.sticks[self.stick(local, place)].guards_since()?;
                Some((from, until, GuardedBy::Snapback))
            }
        }
    }

    /// A control was asked where it stands, which ends its spans: what counts of that.
    pub(crate) fn is_asked(&mut self, how: GuardPlan, local: u8, to: (i32, i32)) -> Heard {
        match how {
            GuardPlan::Nothing => Heard::Level(to),
            GuardPlan::Button(place) => {
                let place = self.bounce(local, place);
                self.bounces[place].stands(to.0);
                Heard::Level(to)
            }
            GuardPlan::Arms(place) => {
                let first = self.bounce(local, place);
                arms(to).into_iter().enumerate().for_each(|(arm, level)| self.bounces[first + arm].stands(level));
                Heard::Level(to)
            }
            GuardPlan::Stick(place) => {
                let place = self.stick(local, place);
                Heard::Stick(self.sticks[place].is_asked(to))
            }
        }
    }

    /// When the next part of a control decides something: the moment, and which part.
    pub(crate) fn due_of(&self, how: GuardPlan, local: u8) -> Option<(u64, usize)> {
        match how {
            GuardPlan::Nothing => None,
            GuardPlan::Button(place) => Some((self.bounces[self.bounce(local, place)].due()?, 0)),
            GuardPlan::Arms(place) => {
                let first = self.bounce(local, place);
                (0..ARMS).filter_map(|arm| Some((self.bounces[first + arm].due()?, arm))).min()
            }
            GuardPlan::Stick(place) => Some((self.sticks[self.stick(local, place)].due()?, 0)),
        }
    }

    /// A part of a control decides something, and the control stands here.
    pub(crate) fn decides(
        &mut self,
        (how, part): (GuardPlan, usize),
        spans: Spans,
        local: u8,
        at: u64,
        to: (i32, i32),
    ) -> Decided {
        let plainly = |heard| Decided { heard, as_level: false };
        match how {
            GuardPlan::Nothing => plainly(Heard::Nothing),
            GuardPlan::Button(place) => {
                let place = self.bounce(local, place);
                let counts = self.bounces[place].ends(spans, to.0);
                plainly(if counts { Heard::Level((to.0, 0)) } else { Heard::Nothing })
            }
            GuardPlan::Arms(place) => {
                let first = self.bounce(local, place);
                let counts = self.bounces[first + part].ends(spans, arms(to)[part]);
                plainly(if counts { Heard::Level(self.stand_of_arms(first)) } else { Heard::Nothing })
            }
            GuardPlan::Stick(place) => {
                let place = self.stick(local, place);
                let (heard, as_level) = self.sticks[place].decides(at);
                Decided { heard: Heard::Stick(heard), as_level }
            }
        }
    }

    /// What a control counts as; a stick may count as another thing for sweeps.
    pub(crate) fn stands(&self, how: GuardPlan, local: u8, to: (i32, i32), for_sweeps: bool) -> (i32, i32) {
        match how {
            GuardPlan::Nothing => to,
            GuardPlan::Button(place) => (self.bounces[self.bounce(local, place)].heard, 0),
            GuardPlan::Arms(place) => self.stand_of_arms(self.bounce(local, place)),
            GuardPlan::Stick(place) => {
                let stands = self.sticks[self.stick(local, place)].stands();
                if for_sweeps { stands.seen } else { stands.heard }
            }
        }
    }

    /// What is under way on a control ends here and now, and it counts as it stands: what that is, if it is news.
    pub(crate) fn settles(&mut self, how: GuardPlan, local: u8, to: (i32, i32)) -> Heard {
        match how {
            GuardPlan::Nothing => Heard::Nothing,
            GuardPlan::Stick(place) => {
                let place = self.stick(local, place);
                let stick = &mut self.sticks[place];
                let before = stick.stands();
                let now = stick.settles();
                if now == before { Heard::Nothing } else { Heard::Stick(now) }
            }
            GuardPlan::Button(_) | GuardPlan::Arms(_) => {
                let before = self.stands(how, local, to, false);
                if self.is_asked(how, local, to) == Heard::Level(before) { Heard::Nothing } else { Heard::Level(to) }
            }
        }
    }

    /// Forgets all that it knows of a control: its device is gone.
    pub(crate) fn forgets(&mut self, how: GuardPlan, local: u8) {
        match how {
            GuardPlan::Nothing => {}
            GuardPlan::Stick(place) => {
                let place = self.stick(local, place);
                self.sticks[place] = StickGuard::default();
            }
            GuardPlan::Button(_) | GuardPlan::Arms(_) => _ = self.is_asked(how, local, (0, 0)),
        }
    }

    /// The middle of a stick was set, or to be learnt (`None`), and is set now, or to be learnt: what counts now, if that is news.
    pub(crate) fn is_seen_from(
        &mut self,
        how: GuardPlan,
        local: u8,
        (before, now): (SetMiddle, SetMiddle),
    ) -> Option<StickHeard> {
        let GuardPlan::Stick(place) = how else { return None };
        let middle = now.or(before.map(|_| (0, 0)))?;
        let place = self.stick(local, place);
        self.sticks.changing(place, StickGuard::spoke).is_seen_from(middle)
    }

    /// A control goes on as another one did that other guards knew, on a device of the same number.
    pub(crate) fn carry(&mut self, how: GuardPlan, from: &Guards, before: GuardPlan, local: u8) {
        match (how, before) {
            (GuardPlan::Button(own), GuardPlan::Button(other)) => {
                let own = self.bounce(local, own);
                self.bounces[own] = from.bounces[from.bounce(local, other)];
            }
            (GuardPlan::Arms(own), GuardPlan::Arms(other)) => {
                let (own, other) = (self.bounce(local, own), from.bounce(local, other));
                (0..ARMS).for_each(|arm| self.bounces[own + arm] = from.bounces[other + arm]);
            }
            (GuardPlan::Stick(own), GuardPlan::Stick(other)) => {
                let own = self.stick(local, own);
                self.sticks[own] = from.sticks[from.stick(local, other)];
                // Its settings may be others.
                self.sticks[own].looks_again();
            }
            _ => {}
        }
    }

    /// Whether anything is being learnt of a stick at a moment.
    #[cfg(all(feature = "files", feature = "std"))]
    pub(crate) fn is_learning(&self, at: u64) -> bool {
        self.sticks.iter().any(|stick| stick.is_learning(at))
    }

    /// What was learnt of a stick by a moment.
    pub(crate) fn memory(&self, how: GuardPlan, local: u8, at: u64) -> Option<StickMemory> {
        let GuardPlan::Stick(place) = how else { return None };
        Some(self.sticks[self.stick(local, place)].memory(at))
    }

    /// This was learnt of a stick: its middle, where it rested, and whether it swung.
    pub(crate) fn remember(
        &mut self,
        (how, local): (GuardPlan, u8),
        (middle, rests): ((i32, i32), &[(i32, i32)]),
        swings: &[bool],
    ) {
        if let GuardPlan::Stick(place) = how {
            let place = self.stick(local, place);
            self.sticks.changing(place, StickGuard::spoke).remembers((middle, rests), swings);
        }
    }

    /// Where the middle of a stick is.
    pub(crate) fn middle(&self, how: GuardPlan, local: u8) -> Option<(i32, i32)> {
        let GuardPlan::Stick(place) = how else { return None };
        Some(self.sticks[self.stick(local, place)].middle())
    }
}

/// The levels of the arms of a d-pad that stands here: right, left, up, down.
fn arms((x, y): (i32, i32)) -> [i32; ARMS] {
    [x.max(0), (-x).max(0), y.max(0), (-y).max(0)]
}

impl Guards {
    pub(crate) fn copy_from(&mut self, other: &Guards) {
        self.bounces.copy_from(&other.bounces);
        self.sticks.copy_from(&other.sticks);
        copy_list(&mut self.busy, &other.busy);
        self.due = other.due;
    }

    /// What a state's hash is made of. When it wakes follows from that.
    pub(crate) fn words(&self, mut word: impl FnMut(u64)) {
        let is_other = |bounce: &&(usize, &Bounce)| *bounce.1 != Bounce::default();
        for (place, bounce) in self.bounces.iter().enumerate().filter(|one| is_other(&one)) {
            word(place as u64);
            bounce.words().into_iter().for_each(&mut word);
        }
        for (place, stick) in self.sticks.iter().enumerate().filter(|(_, stick)| stick.spoke()) {
            word(place as u64);
            stick.words(&mut word);
        }
    }

    /// Whether one that was read is of the size of one that was made.
    #[cfg(feature = "serde")]
    pub(crate) fn fits(&self, made: &Guards, is_guarded: impl Fn(&Control) -> bool) -> bool {
        (self.each, self.bounces.len(), self.sticks.len()) == (made.each, made.bounces.len(), made.sticks.len())
            && self.busy.iter().all(is_guarded)
    }
}
