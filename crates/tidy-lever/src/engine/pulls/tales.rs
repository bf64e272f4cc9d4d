//! What the ledger is told, while it is kept. It decides nothing: without it everything happens just the same.

use crate::cause::Cause;
use crate::cue::rolls::{Motion, MotionState, Turned};
use crate::cue::{CompiledRule, Edge, Role, RulePlan, Verdict};
use crate::end::{Did, End};
use crate::engine::pulls::Pulls;
use crate::engine::pulls::motions::toward;
use crate::engine::pulls::pending::PendingPull;
use crate::index::run;
use crate::ledger::{Attempt, Ledger, Nearly};
use crate::linkage::{ActionPlan, Listener, Plan};

/// What is to be told of an edge that a cue heard, and whose it was.
#[derive(Clone, Copy)]
pub(crate) struct HeardEdge<'e> {
    pub(crate) edge: &'e Edge<'e>,
    pub(crate) subject: u16,
}

impl Pulls {
    /// A rule made something of an edge.
    pub(crate) fn tell_heard(
        &mut self,
        plan: &Plan,
        cue: usize,
        heard: HeardEdge<'_>,
        (missed, stepped): (Option<End>, Option<Did>),
        verdict: Verdict,
        at: u64,
    ) {
        let (rule, edge, subject) = (plan.cues.all[cue].rule, *heard.edge, heard.subject);
        let trial_open = self.cues.rule_states[cue].open;
        let Some(ledger) = &mut self.ledger else { return };
        let did = match edge {
            Edge::Down { .. } => Did::Press(subject),
            Edge::Up { .. } => Did::Release(subject),
            Edge::Turn { to, .. } => toward(to),
            Edge::Push(push) => toward(push.to),
        };
        let turns_on = rule.turns_on();
        let late = matches!(missed, Some(End::Late { .. }));
        if let Some(end) = missed {
            // What came wrong, or late, is part of the story.
            let end = if matches!(end, End::Wrong(Did::Neutral)) { End::Wrong(did) } else { end };
            let did = if let End::Wrong(did) = end { did } else { did };
            // What interrupts one direction begins, or goes on with, its own.
            let goes_on = stepped.is_some() && ledger.begins_with(cue) == Some(did);
            if (late || matches!(end, End::Wrong(_))) && ledger.is_trying(cue) && !goes_on {
                ledger.step(cue, steps(rule), at, did);
            }
            if !goes_on {
                ledger.missed(cue, at, end);
            }
        }
        let pending = matches!(verdict, Verdict::Matched(_));
        let again = rule.steps_anew();
        if let (Some(names), Edge::Down { .. }, Some(came)) = (rule.names(), edge, ledger.came(cue)) {
            // Of an order only what comes next is late; anything else is just something else.
            let lacked = names.get(came).and_then(|name| named(plan, cue, *name)).map(Did::Press);
            ledger.comes_late(cue, at, did, lacked.or(Some(Did::Neutral)));
        }
        if let (Some(did), Some(within)) = (stepped, rule.again_within()) {
            match verdict {
                Verdict::Matched(cue_match) => ledger.given_twice(cue, (cue_match.pressed, at), did),
                _ => ledger.given(cue, at, did, within),
            }
        } else if rule.counts(edge) && !(late && turns_on) && (pending || trial_open || again) {
            ledger.step(cue, steps(rule), at, did);
        }
        match (verdict, edge) {
            (Verdict::Matched(cue_match), _) => ledger.matched(cue, at, newest(&cue_match.presses)),
            (_, Edge::Up { cause, .. } | Edge::Turn { cause, .. }) if cause != Cause::LetGo => {
                ledger.missed(cue, at, End::Lost(cause));
            }
            (_, Edge::Turn { to: None, .. }) if turns_on => ledger.missed(cue, at, End::RanOut),
            _ => {}
        }
    }

    /// A rule's timer fell due.
    pub(crate) fn tell_due(&mut self, cue: usize, missed: Option<End>, verdict: Verdict, at: u64) {
        let trial_open = self.cues.rule_states[cue].open;
        let Some(ledger) = &mut self.ledger else { return };
        match verdict {
            Verdict::Matched(cue_match) => ledger.matched(cue, at, newest(&cue_match.presses)),
            // A direction that began an attempt of its own interrupts the others.
            _ if let Some(End::Wrong(did)) = missed => {
                let other = ledger.begins_with(cue).filter(|first| *first != did);
                if other.is_some() {
                    ledger.step(cue, (2, false), at, did);
                    ledger.missed(cue, at, End::Wrong(did));
                }
            }
            _ if !trial_open => ledger.ran_out(cue, at),
            _ => {}
        }
    }

    /// The motions of a stick went on or broke.
    pub(crate) fn tell_motions(&mut self, plan: &Plan, set_number: usize, shown: &[Motion], turned: Turned) {
        let Some(mut ledger) = self.ledger.take() else { return };
        let (set, state) = (&plan.cues.motions[set_number], &self.cues.motions[set_number]);
        let Turned { at, to, .. } = turned;
        ledger.nearly_turns(set, set_number, at, to);
        self.tell_skipped(plan, &mut ledger, set_number, shown, turned);
        for motion in shown {
            match *motion {
                Motion::Came { bit, from: source } => {
                    let mut trail = first_step(plan, &mut ledger, state, (set_number, usize::from(source)), at);
                    trail.began = state.began(set, bit.into()).unwrap_or(at);
                    trail.push(at, toward(set.step(usize::from(bit)).0.position));
                    *ledger.trail(set_number, usize::from(bit)) = trail;
                }
                Motion::Broken { bit, borne_until } => {
                    let bit = usize::from(bit);
                    let (_, motion) = set.step(bit);
                    // Another step of the same attempt may live on, and the side not faced was never tried.
                    let began = state.began(set, bit);
                    let lives = state.bits().any(|other| {
                        let (_, of) = set.step(other);
                        other != bit && of.cue == motion.cue && began.is_some() && state.began(set, other) == began
                    });
                    let further = shown.iter().any(|other| match *other {
                        Motion::Broken { bit: other, .. } => {
                            set.step(other.into()).1.cue == motion.cue && usize::from(other) > bit
                        }
                        _ => false,
                    });
                    if lives
                        || ledger.follows(set_number, bit, at)
                        || further
                        || state.is_averted(set, bit)
                        || !self.listening[plan.owner(motion.cue.into())]
                    {
                        continue;
                    }
                    let mut trail = first_step(plan, &mut ledger, state, (set_number, bit), at);
                    let over = state.began(set, bit).is_some_and(|began| at - began > motion.within);
                    let strayed = borne_until.map(|until| (until - motion.how.astray, state.strayed_to(bit)));
                    let (came, wrong) = strayed.unwrap_or((at, to));
                    let ended = if over { state.began(set, bit).unwrap_or(at) + motion.within } else { came };
                    if !over {
                        trail.push(came, toward(wrong));
                    }
                    let end = if over { End::RanOut } else { End::Wrong(toward(wrong)) };
                    ledger.motion_missed(trail, ended, end);
                }
                Motion::Late { bit, by } => {
                    let bit = usize::from(bit);
                    let mut trail = first_step(plan, &mut ledger, state, (set_number, bit), at);
                    trail.push(at, toward(to));
                    ledger.motion_missed(trail, at, End::Late { by });
                }
                Motion::Short { bit, by } => {
                    let bit = usize::from(bit);
                    let trail = first_step(plan, &mut ledger, state, (set_number, bit), at);
                    ledger.motion_missed(trail, at, End::Soon { by });
                }
                Motion::Stale { bit, by } => {
                    let bit = usize::from(bit);
                    let mut trail = first_step(plan, &mut ledger, state, (set_number, bit), at);
                    if !state.is_averted(set, bit) {
                        trail.push(at, toward(to));
                        let end = End::Stale { by };
                        ledger.follow(Nearly { set: set_number, from: bit, at, bit: bit + 1, trail, end });
                    }
                }
                _ => {}
            }
        }
        self.tell_nearly(&mut ledger, plan, set_number, None, at);
        self.ledger = Some(ledger);
    }

    /// A motion was finished, or not.
    pub(crate) fn tell_motion(&mut self, plan: &Plan, set_number: usize, outcome: Motion, at: u64) {
        let Some(mut ledger) = self.ledger.take() else { return };
        let (set, state) = (&plan.cues.motions[set_number], &self.cues.motions[set_number]);
        let finished = |ledger: &mut Ledger, bit: usize| {
            let mut trail = *ledger.trail(set_number, bit);
            if let Some(action) = set.finished_by(set.step(bit).1) {
                let release = set.step(bit).1.on_release();
                trail.push(at, if release { Did::Release(action) } else { Did::Press(action) });
            }
            trail
        };
        let heard = |bit: usize| self.listening[plan.owner(set.step(bit).1.cue.into())];
        match outcome {
            Motion::Done { bit, presses, .. } if heard(bit.into()) => {
                let trail = finished(&mut ledger, bit.into());
                ledger.drop_nearly(trail.cue);
                ledger.motion_matched(trail, newest(&presses));
            }
            Motion::Late { bit, by } if heard(bit.into()) && !state.is_averted(set, bit.into()) => {
                let trail = finished(&mut ledger, bit.into());
                ledger.motion_missed(trail, at, End::Late { by });
            }
            Motion::Short { bit, by } if heard(bit.into()) => {
                let trail = finished(&mut ledger, bit.into());
                ledger.motion_missed(trail, at, End::Soon { by });
            }
            Motion::Strayed { bit, by } if heard(bit.into()) && !state.is_averted(set, bit.into()) => {
                let trail = finished(&mut ledger, bit.into());
                if let Some(to) = state.strayed_to(bit.into()) {
                    ledger.motion_missed(trail, at, End::Strayed { to, by });
                }
            }
            Motion::Averted { bit } if heard(bit.into()) => {
                let trail = finished(&mut ledger, bit.into());
                let left = self.cues.motions[set_number].facing_of(bit.into()) == 0;
                ledger.motion_missed(trail, at, End::Faced { left });
            }
            Motion::Early { bit, by } => ledger.trail(set_number, bit.into()).early = by,
            _ => {}
        }
        self.ledger = Some(ledger);
    }

    /// All motions of a stick were dropped.
    pub(crate) fn tell_lost(&mut self, plan: &Plan, set_number: usize, shown: &[Motion], end: End, at: u64) {
        let Some(mut ledger) = self.ledger.take() else { return };
        let (set, state) = (&plan.cues.motions[set_number], &self.cues.motions[set_number]);
        for motion in shown {
            let Motion::Broken { bit, .. } = *motion else { continue };
            let bit = usize::from(bit);
            let (step, motion) = set.step(bit);
            if step.index > 0 && !state.is_averted(set, bit) && self.listening[plan.owner(motion.cue.into())] {
                let trail = *ledger.trail(set_number, bit);
                ledger.motion_missed(trail, at, end);
            }
        }
        self.ledger = Some(ledger);
    }

    /// The record ends: motions that ran out and were followed by nothing are told as well, each cue's farthest one.
    pub(crate) fn tell_unfinished(&mut self, plan: &Plan, at: u64) {
        let Some(mut ledger) = self.ledger.take() else { return };
        for (set_number, set) in plan.cues.motions.iter().enumerate() {
            let state = &self.cues.motions[set_number];
            let over = |bit: &usize| {
                let (step, motion) = set.step(*bit);
                let began = state.began(set, *bit).filter(|began| at.saturating_sub(*began) > motion.within);
                step.index > 0 && began.is_some() && !state.is_averted(set, *bit)
            };
            let bits: alloc::vec::Vec<usize> = state.bits().filter(over).collect();
            for (place, bit) in bits.iter().enumerate() {
                let cue = set.step(*bit).1.cue;
                let is_last = !bits[place + 1..].iter().any(|later| set.step(*later).1.cue == cue);
                if is_last && self.listening[plan.owner(cue.into())] {
                    let (step, motion) = set.step(*bit);
                    let began = state.began(set, *bit).unwrap_or(at);
                    // It may have come farther, and gone back to the centre.
                    let behind = *bit..*bit + usize::from(motion.count - step.index);
                    let farthest = behind.rev().find(|later| ledger.trail(set_number, *later).began == began);
                    let trail = core::mem::take(ledger.trail(set_number, farthest.unwrap_or(*bit)));
                    ledger.motion_missed(trail, began + motion.within, End::RanOut);
                    for told in *bit..*bit + usize::from(motion.count - step.index) {
                        *ledger.trail(set_number, told) = Attempt::default();
                    }
                }
            }
        }
        self.ledger = Some(ledger);
    }

    /// A gate refused what was met; if it is kept, it takes the place of what its action had kept before.
    #[cold]
    pub(crate) fn tell_refused(&mut self, pending: &PendingPull, end: End, at: u64, for_good: bool) {
        let press = newest(&pending.cue_match.presses);
        let replaces = !for_good && self.lists.kept.iter().any(|kept| kept.action == pending.action);
        if let Some(ledger) = &mut self.ledger {
            ledger.refused(pending.cue, press, at, end, for_good);
            if replaces {
                ledger.replaced(usize::from(pending.action), press, at);
            }
        }
    }

    /// Tells the ledger something, if it is kept: out of the way of those who keep none.
    #[inline(always)]
    pub(crate) fn note(&mut self, note: impl FnOnce(&mut Ledger)) {
        #[cold]
        #[inline(never)]
        fn tell(ledger: &mut Ledger, note: impl FnOnce(&mut Ledger)) {
            note(ledger);
        }
        if let Some(ledger) = &mut self.ledger {
            tell(ledger, note);
        }
    }
}

/// The trail of a motion's step; that of a first step begins here.
pub(crate) fn first_step(
    plan: &Plan,
    ledger: &mut Ledger,
    state: &MotionState,
    (set_number, bit): (usize, usize),
    at: u64,
) -> Attempt {
    let set = &plan.cues.motions[set_number];
    let (step, motion) = set.step(bit);
    if step.index > 0 {
        return *ledger.trail(set_number, bit);
    }
    let began = state.began_before(set, bit, at);
    // Entered again in this very moment, it is known when it was left.
    let entered =
        step.position.map(|position| state.entered(position)).filter(|entered| *entered < at).or(began).unwrap_or(at);
    let of = motion.count + u8::from(motion.finisher().is_some());
    let action = plan.cues.all[usize::from(motion.cue)].action;
    let mut trail = Attempt { action, cue: motion.cue, of, ..Attempt::default() };
    trail.began = began.unwrap_or_default();
    trail.push(entered, toward(step.position));
    trail
}

/// The action that an order hears by one of its names.
fn named(plan: &Plan, cue: usize, name: u8) -> Option<u16> {
    let hears = |listener: &Listener| usize::from(listener.cue) == cue && listener.role == Role::Named(name);
    let listens = |subject: &ActionPlan| plan.cues.listeners[run(&subject.listeners)].iter().any(hears);
    plan.actions.iter().position(listens).map(|number| number as u16)
}

/// How many steps a rule has, and whether two actions make them.
fn steps(rule: RulePlan) -> (u8, bool) {
    (rule.steps(), rule.is_of_two())
}

pub(crate) fn newest(presses: &crate::cue::Presses) -> u32 {
    presses.iter().next().unwrap_or(0)
}
