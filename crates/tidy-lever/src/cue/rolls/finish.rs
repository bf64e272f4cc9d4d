//! Motions are finished by a press, by their last direction, or by holding it; and until when they may be.

use super::plan::{MotionPlan, MotionSet};
use super::state::{Finish, Motion, MotionState, each_bit};
use crate::cue::Presses;
use crate::index::FinisherIndex;

/// A finish that came earlier still, in µs, was not meant for it.
pub(super) const NEARLY: u64 = 100_000;

impl MotionState {
    /// What the last step of a motion that was just entered, or jumped across, leads to.
    pub(crate) fn arrive(&self, set: &MotionSet, bit: usize, at: u64, used: impl Fn(u64) -> bool) -> Option<Motion> {
        let (step, motion) = set.step(bit);
        if step.index + 1 < motion.count {
            return None;
        }
        let slot = self.slots[bit];
        let number = bit as u16;
        if let Some(finisher) = motion.finisher {
            let finish = self.finishes[usize::from(finisher)];
            if finish.press == 0 || used(finish.press) || finish.at < slot.began.saturating_sub(motion.how.early) {
                return None;
            }
            let before = at - finish.at;
            if before > motion.how.early + NEARLY {
                return None;
            }
            if step.held > 0 || before > motion.how.early {
                return Some(Motion::Early { bit: number, by: before.saturating_sub(motion.how.early) });
            }
            return Some(self.done(bit, Some(finish)));
        }
        if step.held > 0 {
            // After a brush it goes on from where it was.
            let until = step.position.map_or(at, |position| self.entered[position as usize]) + step.held;
            if until <= at {
                return self.held_out_at(set, bit, at);
            }
            let late = (until - slot.began).saturating_sub(motion.within);
            let holds = Motion::Holds { bit: number, until };
            return Some(if late > 0 { Motion::Late { bit: number, by: late } } else { holds });
        }
        Some(self.done(bit, None))
    }

    pub(super) fn done(&self, bit: usize, finish: Option<Finish>) -> Motion {
        let slot = self.slots[bit];
        if slot.averted {
            return Motion::Averted { bit: bit as u16 };
        }
        let mut presses = slot.presses;
        if let Some(finish) = finish {
            presses.push(finish.press);
        }
        let pressed = finish.map_or(slot.began, |finish| finish.at);
        Motion::Done { bit: bit as u16, presses, facing: slot.facing, pressed }
    }

    /// The last step of a motion was held as long as it must be.
    pub(crate) fn held_out(&self, set: &MotionSet, motion: usize, at: u64) -> Option<Motion> {
        let plan = &set.motions[motion];
        let bit = usize::from(plan.first) + usize::from(plan.count) - 1;
        self.held_out_at(set, bit, at)
    }

    pub(super) fn held_out_at(&self, set: &MotionSet, bit: usize, at: u64) -> Option<Motion> {
        let (step, motion) = set.step(bit);
        let stays = self.has(bit) && step.position == self.stands && self.held(self.stands?, at) >= step.held;
        if !stays {
            return None;
        }
        let late = (at - self.slots[bit].began).saturating_sub(motion.within);
        Some(if late > 0 { Motion::Late { bit: bit as u16, by: late } } else { self.done(bit, None) })
    }

    /// Notes that an action that finishes motions was pressed, or let go; whether any is at its last step.
    #[inline]
    pub(crate) fn note_finish(&mut self, set: &MotionSet, number: FinisherIndex, (at, press): (u64, u64)) -> bool {
        self.finishes[usize::from(number)] = Finish { at, press };
        let lasts = &set.finishers[usize::from(number)].lasts;
        self.active.iter().zip(lasts).any(|(active, lasts)| active & lasts != 0)
    }

    /// What becomes of motions that are at their last step, by the finish that was noted last.
    pub(crate) fn finish(&mut self, set: &MotionSet, number: FinisherIndex, mut show: impl FnMut(Motion)) {
        let finish = self.finishes[usize::from(number)];
        let (at, plan) = (finish.at, &set.finishers[usize::from(number)]);
        for (row, lasts) in plan.lasts.iter().enumerate() {
            for bit in each_bit(self.active[row] & lasts).map(|bit| row * 64 + bit) {
                let strayed = at.saturating_sub(self.stands_until(set, bit));
                if strayed > 0 {
                    show(Motion::Strayed { bit: bit as u16, by: strayed });
                    let motion = *set.step(bit).1;
                    self.forget(set, &motion, self.slots[bit].began);
                    continue;
                }
                let (step, motion) = set.step(bit);
                let (slot, number) = (self.slots[bit], bit as u16);
                let motion = *motion;
                let held = step.position.map_or(0, |position| self.held(position, at));
                let late = (at - slot.began).saturating_sub(motion.within);
                let outcome = if late > 0 {
                    Motion::Late { bit: number, by: late }
                } else if held < step.held {
                    Motion::Short { bit: number, by: step.held - held }
                } else {
                    self.done(bit, Some(finish))
                };
                show(outcome);
                if late > 0 {
                    self.forget(set, &motion, slot.began);
                }
            }
        }
    }

    /// Whether a cue's motion shares a press and may still be completed: behind its first position, or with its
    /// finish come early, unless that press is used. `over` says whether this moment's windows have ended already.
    pub(crate) fn may_complete(
        &self,
        set: &MotionSet,
        cue: u16,
        presses: &Presses,
        (at, over): (u64, bool),
        used: impl Fn(u32) -> bool,
    ) -> bool {
        let open = |until: u64| until > at || (until == at && !over);
        self.windows(set, cue).any(|(until, bit, finish)| {
            let shared = match finish {
                Some(finish) => presses.has(finish.press as u32) && !used(finish.press as u32),
                None => self.slots[bit].presses.shares(presses),
            };
            shared && open(until)
        })
    }

    /// When the next window of a cue's motions ends, behind a moment.
    pub(crate) fn next_end(&self, set: &MotionSet, cue: u16, behind: u64) -> Option<u64> {
        self.windows(set, cue).map(|(until, ..)| until).filter(|until| *until > behind).min()
    }

    /// The windows that others may wait for: until when, of which bit, and on which early finish.
    pub(super) fn windows(&self, set: &MotionSet, cue: u16) -> impl Iterator<Item = (u64, usize, Option<Finish>)> {
        let own = set.of_cue(cue).iter();
        own.flat_map(move |motion| {
            let first = usize::from(motion.first);
            let bits = (first..first + usize::from(motion.count)).filter(|bit| self.has(*bit));
            bits.filter_map(move |bit| self.window(set, motion, bit))
        })
    }

    pub(super) fn window(
        &self,
        set: &MotionSet,
        motion: &MotionPlan,
        bit: usize,
    ) -> Option<(u64, usize, Option<Finish>)> {
        let (step, _) = set.step(bit);
        let until = self.began(set, bit).map_or(u64::MAX, |began| began + motion.within);
        let until = until.min(self.stands_until(set, bit));
        let is_first = step.index == 0;
        // Which side counts is not known before the first position is left.
        if (!is_first || until < u64::MAX) && self.is_averted(set, bit) {
            return None;
        }
        // With the last direction alone missing, a finish that came early may still count.
        let ahead = usize::from(motion.count - 1 - step.index);
        let next_is_last = ahead > 0 && set.steps[bit + 1..bit + ahead].iter().all(|between| between.maybe);
        if let Some(finisher) = motion.finisher.filter(|_| next_is_last) {
            let finish = self.finishes[usize::from(finisher)];
            if finish.press > 0 {
                return Some((until.min(finish.at + motion.how.early), bit, Some(finish)));
            }
        }
        (!is_first).then_some((until, bit, None))
    }
}
