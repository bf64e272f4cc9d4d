//! The stick turns: which motions go on, which stray, and which break.

use super::plan::{MotionPlan, MotionSet, NEUTRAL};
use super::state::{Motion, MotionState, Slot, Turned, Wanted, each_bit};
use alloc::vec::Vec;

use crate::cue::Presses;
use crate::direction::Direction;

impl MotionState {
    /// The stick stands there, and nothing entered it: what is held is a level.
    pub(crate) fn stands_at(&mut self, to: Option<Direction>, at: u64) {
        (self.stands, self.stood, self.brushed) = (to, None, 0);
        if let Some(to) = to {
            (self.entered[to as usize], self.fresh[to as usize]) = (at, 0);
        }
    }

    /// The stick turns. What comes of it is shown, furthest steps first within a motion: all of it if that is `wanted`, or
    /// only that a motion came as far as its last step.
    #[inline(never)]
    pub(crate) fn turn(&mut self, set: &MotionSet, turned: Turned, wanted: Wanted, shown: &mut Vec<Motion>) {
        let mut show = |motion: Motion| {
            let leads = |bit: u16| {
                let (step, motion) = set.step(usize::from(bit));
                step.index + 1 == motion.count
            };
            if wanted == Wanted::All || matches!(motion, Motion::Came { bit, .. } if leads(bit)) {
                motion.put(shown);
            }
        };
        let Turned { at, to, press, facing, digital } = turned;
        let from = self.stands;
        if let Some(from) = from {
            (self.left[from as usize], self.facing[from as usize]) = (at, facing);
        }
        self.stands = to;
        if self.strayed.iter().any(|strayed| *strayed != 0) {
            self.stray_too_long(set, at, &mut show);
        }
        match (from, to) {
            (Some(from), Some(to)) => {
                let eighths = from.eighths_to(to);
                // A jump of more than a quarter tells no way.
                if eighths.abs() == 2 {
                    self.cross(set, from.turned_by(eighths.signum()), (at, press), &mut show);
                }
            }
            (None, Some(to)) if digital => {
                let rolled = self.stood.filter(|stood| at - self.left[*stood as usize] <= set.seen.key_gap);
                if let Some(stood) = rolled.filter(|stood| !stood.is_diagonal() && !to.is_diagonal())
                    && stood.eighths_to(to).abs() == 2
                {
                    self.cross(set, stood.turned_by(stood.eighths_to(to).signum()), (at, press), &mut show);
                }
            }
            _ => {}
        }
        self.enter(set, to, (at, press), wanted, &mut show);
        self.track(set, from, turned);
    }

    /// Notes where the stick stands now, and what it makes of where it stood.
    #[inline(always)]
    fn track(&mut self, set: &MotionSet, from: Option<Direction>, Turned { at, to, digital, .. }: Turned) {
        self.stood = from.filter(|_| to.is_none() && self.digital);
        self.digital = digital;
        let Some(to) = to else {
            self.brushed = 0;
            return;
        };
        let place = to as usize;
        let is_brush = self.brushed >> place & 1 == 1 && at - self.left[place] < set.seen.brush;
        // From beside it is as fresh as what it came from.
        let beside = from.filter(|from| from.is_beside(to));
        self.fresh[place] = beside.map_or(at, |from| self.fresh[from as usize]);
        if !is_brush {
            self.entered[place] = at;
        }
        // Those that stand beside this one may still be returned to; where it came from is one of them, if it is.
        let near = 0b111u8.rotate_left(place as u32 + 7);
        let left = from.map_or(0, |from| 1u8 << from as u8);
        self.brushed = (self.brushed | left) & near & !(1 << place);
    }

    /// What stood one eighth beyond the way for too long is broken.
    #[inline(never)]
    fn stray_too_long(&mut self, set: &MotionSet, at: u64, show: &mut impl FnMut(Motion)) {
        for row in 0..self.strayed.len() {
            for bit in each_bit(self.strayed[row]) {
                let place = row * 64 + bit;
                let until = self.slots[place].strayed + set.step(place).1.how.astray;
                if at > until {
                    self.active[row] &= !(1 << bit);
                    self.strayed[row] &= !(1 << bit);
                    show(Motion::Broken { bit: place as u16, borne_until: Some(until) });
                }
            }
        }
    }

    /// Where the stick of a bit strayed to last.
    pub(crate) fn strayed_to(&self, bit: usize) -> Option<Direction> {
        self.slots[bit].strayed_to
    }

    /// Until when a bit may stand as it is: one that strays, for a while.
    pub(super) fn stands_until(&self, set: &MotionSet, bit: usize) -> u64 {
        let strays = self.strayed[bit / 64] >> (bit % 64) & 1 == 1;
        if strays { self.slots[bit].strayed + set.step(bit).1.how.astray } else { u64::MAX }
    }

    /// A direction is passed over within one event: it may carry a motion on, and breaks none.
    #[inline(never)]
    fn cross(&mut self, set: &MotionSet, over: Direction, entered: (u64, u64), show: &mut impl FnMut(Motion)) {
        for number in 0..set.rows.len() {
            let row = &set.rows[number];
            let before = self.active[number];
            let steps = row.reached(before) & row.enter[over as usize] & !row.timed;
            let (now, gone) = self.go_on(set, number, (before, steps), entered, show);
            self.active[number] = (before | now) & !gone;
            self.strayed[number] &= self.active[number] & !now;
        }
    }

    #[inline(always)]
    fn enter(
        &mut self,
        set: &MotionSet,
        to: Option<Direction>,
        entered: (u64, u64),
        wanted: Wanted,
        show: &mut impl FnMut(Motion),
    ) {
        let place = to.map_or(NEUTRAL, |direction| direction as usize);
        for (number, row) in set.rows.iter().enumerate() {
            let before = self.active[number];
            let steps = row.reached(before) & row.enter[place];
            let (mut now, mut gone) = (0, 0);
            if steps != 0 {
                (now, gone) = self.go_on(set, number, (before, steps), entered, show);
            }
            // Without a direction nothing begins, and nothing is beside the way.
            let (mut kept, mut bears, mut starts) = (u64::MAX, 0, 0);
            if let Some(to) = to {
                (kept, bears, starts) = (row.keep[to as usize], row.bear[to as usize], row.start[to as usize]);
            }
            let stray = before & bears & !kept & !now & !starts;
            let again = stray & !self.strayed[number];
            if again != 0 {
                for bit in each_bit(again).map(|bit| number * 64 + bit) {
                    (self.slots[bit].strayed, self.slots[bit].strayed_to) = (entered.0, to);
                }
            }
            let stays = now | before & kept | stray | starts;
            self.strayed[number] = stray & !gone;
            self.active[number] = stays & !gone | starts;
            if wanted == Wanted::All {
                for bit in each_bit(before & !stays & !gone) {
                    show(Motion::Broken { bit: (number * 64 + bit) as u16, borne_until: None });
                }
            }
        }
    }

    /// Motions go on to these steps: the bits that are set now, and those that are gone.
    #[inline(never)]
    fn go_on(
        &mut self,
        set: &MotionSet,
        number: usize,
        (before, steps): (u64, u64),
        entered: (u64, u64),
        show: &mut impl FnMut(Motion),
    ) -> (u64, u64) {
        let (mut now, mut gone) = (0, 0);
        // The furthest first, so that each finds the one behind it as it was.
        for bit in each_bit(steps) {
            let bit = number * 64 + bit;
            let Some(source) = self.source(set, bit, before) else { continue };
            // Back from beside the way it stands where it stood: the same direction again asks for more.
            let strays = self.strayed[number] >> (source % 64) & 1 == 1;
            if strays && set.steps[source].position == set.steps[bit].position {
                continue;
            }
            match self.moved_on(set, source, entered) {
                Ok(slot) => {
                    if slot.averted && before >> (bit % 64) & 1 == 1 && !self.slots[bit].averted {
                        continue;
                    }
                    self.slots[bit] = slot;
                    now |= 1 << (bit % 64);
                    // An attempt that is out of time makes room for the next one in this very moment.
                    gone &= !(1 << (bit % 64));
                    show(Motion::Came { bit: bit as u16, from: source as u16 });
                }
                Err(missed) => {
                    let began = self.began(set, source);
                    let same = self.same(set, set.step(source).1, began) | 1 << (source % 64);
                    // What had come further already is told of that.
                    let furthest = number * 64 + 63 - same.leading_zeros() as usize;
                    show(if furthest > source {
                        Motion::Broken { bit: furthest as u16, borne_until: None }
                    } else {
                        missed
                    });
                    gone |= same;
                }
            }
        }
        (now, gone)
    }

    /// The bits, in its row, of one attempt of a motion: those that began together.
    pub(super) fn same(&self, set: &MotionSet, motion: &MotionPlan, began: Option<u64>) -> u64 {
        let first = usize::from(motion.first);
        let bits = (first..first + usize::from(motion.count)).filter(|bit| self.has(*bit));
        bits.filter(|bit| self.began(set, *bit) == began).map(|bit| 1 << (bit % 64)).sum()
    }

    /// Drops one attempt of a motion.
    pub(super) fn forget(&mut self, set: &MotionSet, motion: &MotionPlan, began: u64) {
        let (bits, row) = (self.same(set, motion, Some(began)), usize::from(motion.first) / 64);
        self.active[row] &= !bits;
        self.strayed[row] &= !bits;
    }

    /// The furthest step of a motion before this one, with only such between as may be left out.
    pub(super) fn source(&self, set: &MotionSet, bit: usize, before: u64) -> Option<usize> {
        let own = set.steps[bit];
        for back in 1..=usize::from(own.index) {
            let source = bit - back;
            if before >> (source % 64) & 1 == 1 {
                return Some(source);
            }
            if !set.steps[source].maybe {
                return None;
            }
        }
        None
    }

    /// A motion goes on from a step, if it is in time and was held long enough.
    pub(super) fn moved_on(&self, set: &MotionSet, source: usize, (at, press): (u64, u64)) -> Result<Slot, Motion> {
        let (step, motion) = set.step(source);
        let bit = source as u16;
        let mut slot = self.slots[source];
        if let Some(position) = step.position {
            let place = position as usize;
            if step.held > 0 && self.held(position, at) < step.held {
                return Err(Motion::Short { bit, by: step.held - self.held(position, at) });
            }
            if step.index == 0 {
                let stale = (self.left[place] - self.fresh[place]).saturating_sub(motion.how.fresh);
                if stale > 0 {
                    return Err(Motion::Stale { bit, by: stale });
                }
                let (facing, averted) = (self.facing[place], self.is_averted(set, source));
                // The first position may be held long before: what entered it is nobody's rival.
                slot =
                    Slot { began: self.left[place], presses: Presses::default(), facing, averted, ..Slot::default() };
            }
        }
        if at - slot.began > motion.within {
            return Err(Motion::Late { bit, by: at - slot.began - motion.within });
        }
        if !slot.presses.has(press as u32) {
            slot.presses.push(press);
        }
        Ok(slot)
    }
}
