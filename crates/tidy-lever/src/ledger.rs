//! The ledger: why each cue pulled, or how close it came. Off by default; a record that decides nothing.
//!
//! ```text
//!   a step counts ──▶ trying ──met──▶ at the gate ──▶ pulled
//!                        │                │ refused, kept, …
//!                        └── missed ──────┴──▶ over ──(was it near?)──▶ done, into the ring
//! ```
//!
//! An attempt that ran out stays at hand for a second: if what was missing comes then, it is known by how much it was late.

mod attempt;
mod nearly;
mod story;

use alloc::vec;
use alloc::vec::Vec;

pub use attempt::{Attempt, Distance, Outcome, Step};
pub(crate) use nearly::Nearly;

use crate::cue::rolls::MotionSet;
use crate::end::{Did, End};
use crate::index::CueIndex;
use crate::linkage::Plan;

/// How long what ran out is kept at hand, in µs.
const AT_HAND: u64 = 1_000_000;
/// The most attempts that are under way or at hand; beyond, the oldest are done.
const MOST_OPEN: usize = 128;

/// How far an attempt is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Progress {
    /// Steps come in.
    Trying,
    /// The cue was met; its newest press.
    Matched(u32),
    /// It ran out, or the gate refused it for good; since then it is only at hand.
    Over,
}

#[derive(Clone, Copy, Debug)]
struct Open {
    attempt: Attempt,
    progress: Progress,
}

#[derive(Clone, Debug)]
pub(crate) struct Ledger {
    open: Vec<Open>,
    done: Vec<Attempt>,
    room: usize,
    /// The first number of its own, and the next.
    first: u64,
    total: u64,
    /// The steps that each step of a motion stands on, by set.
    trails: Vec<Vec<Attempt>>,
    /// The names that its attempts' numbers are of.
    stamp: u32,
    /// The action of each cue.
    owners: Vec<u16>,
    /// Motions that can't pull any more and are followed all the same.
    nearly: Vec<Nearly>,
}

impl Ledger {
    /// A fresh one, whose attempts are numbered from `first` on.
    pub(crate) fn new(plan: &Plan, room: usize, first: u64) -> Ledger {
        let trail = |set: &MotionSet| vec![Attempt::default(); set.step_count()];
        Ledger {
            open: Vec::with_capacity(MOST_OPEN),
            done: Vec::with_capacity(room),
            room,
            first,
            total: first,
            stamp: plan.stamp,
            trails: plan.cues.motions.iter().map(trail).collect(),
            nearly: Vec::with_capacity(nearly::MOST_NEARLY),
            owners: plan.cues.all.iter().map(|cue| cue.action).collect(),
        }
    }

    /// A fresh one for another plan, with as much room, that numbers its attempts on.
    pub(crate) fn again(&self, plan: &Plan) -> Ledger {
        Ledger::new(plan, self.room, self.total)
    }

    /// The seat went back to an earlier moment. What began after it never was; what was under way then is told from its
    /// later steps on. What was told already stays.
    pub(crate) fn goes_back(&mut self, played: u64) {
        self.nearly.retain(|nearly| nearly.trail.began <= played);
        self.open.retain_mut(|open| {
            let attempt = &mut open.attempt;
            let forgot = attempt.forget_after(played);
            if (forgot && open.progress != Progress::Trying)
                || (open.progress == Progress::Over && attempt.ended > played)
            {
                (open.progress, attempt.end, attempt.ended) = (Progress::Trying, End::RanOut, 0);
            }
            attempt.began <= played
        });
        for trail in self.trails.iter_mut().flatten() {
            trail.forget_after(played);
        }
    }

    /// How many there have ever been.
    pub(crate) fn total(&self) -> u64 {
        self.total
    }

    /// Those from number `from` on that are still kept, oldest first, with their numbers.
    pub(crate) fn since(&self, from: u64) -> impl Iterator<Item = &Attempt> {
        let from = from.max(self.total - self.done.len() as u64);
        (from..self.total).filter_map(|number| self.done.get(self.place(number)))
    }

    /// Where an attempt of this number stands in the ring.
    fn place(&self, number: u64) -> usize {
        ((number - self.first) % self.room.max(1) as u64) as usize
    }

    fn close(&mut self, place: usize) {
        let Open { mut attempt, .. } = self.open.remove(place);
        if self.room == 0 {
            return;
        }
        (attempt.number, attempt.stamp) = (self.total, self.stamp);
        let place = self.place(self.total);
        match self.done.get_mut(place) {
            Some(old) => *old = attempt,
            None => self.done.push(attempt),
        }
        self.total += 1;
    }

    fn put(&mut self, attempt: Attempt, progress: Progress) -> usize {
        if self.open.len() == MOST_OPEN {
            self.close(0);
        }
        self.open.push(Open { attempt, progress });
        self.open.len() - 1
    }

    /// The newest attempt of a cue in some phase.
    fn find(&self, cue: usize, progress: impl Fn(Progress) -> bool) -> Option<usize> {
        self.open.iter().rposition(|open| usize::from(open.attempt.cue) == cue && progress(open.progress))
    }

    /// The same of any cue of an action.
    fn find_of(&self, action: usize, progress: impl Fn(Progress) -> bool) -> Option<usize> {
        self.open.iter().rposition(|open| usize::from(open.attempt.action) == action && progress(open.progress))
    }

    /// A fresh attempt of a cue.
    fn begin(&mut self, cue: usize, at: u64, (of, pair): (u8, bool)) -> usize {
        let action = self.owners[cue];
        self.put(Attempt { action, cue: cue as u16, began: at, of, pair, ..Attempt::default() }, Progress::Trying)
    }

    fn find_met(&self, cue: Option<CueIndex>, press: u32) -> Option<usize> {
        self.find(cue?.into(), |progress| progress == Progress::Matched(press))
    }

    /// Closes what has been at hand for long enough, or all of it at the end.
    pub(crate) fn tidy(&mut self, at: u64, all: bool) {
        while let Some(place) = self.open.iter().position(|open| {
            (open.progress == Progress::Over && at > open.attempt.ended + AT_HAND)
                || (all && open.progress != Progress::Trying)
        }) {
            self.close(place);
        }
    }

    /// A step of a cue came; it belongs to the attempt under way, or begins one.
    pub(crate) fn step(&mut self, cue: usize, (of, pair): (u8, bool), at: u64, did: Did) {
        self.comes_late(cue, at, did, None);
        let place =
            self.find(cue, |progress| progress == Progress::Trying).unwrap_or_else(|| self.begin(cue, at, (of, pair)));
        self.open[place].attempt.push(at, did);
    }

    /// What the attempt under way begins with.
    pub(crate) fn begins_with(&self, cue: usize) -> Option<Did> {
        let place = self.find(cue, |progress| progress == Progress::Trying)?;
        Some(self.open[place].attempt.steps[0].1)
    }

    /// A direction was given that may be the first of two. Each direction counts for itself, and one of them is told.
    pub(crate) fn given(&mut self, cue: usize, at: u64, did: Did, within: u64) {
        if let Some(place) = self.find(cue, |progress| progress == Progress::Trying) {
            let open = &mut self.open[place];
            let over = open.attempt.began + within;
            if at <= over && open.attempt.steps[0].1 != did {
                return;
            }
            (open.attempt.end, open.attempt.ended, open.progress) = (End::RanOut, over.min(at), Progress::Over);
        }
        self.step(cue, (2, false), at, did);
    }

    /// It was given twice.
    pub(crate) fn given_twice(&mut self, cue: usize, (first, at): (u64, u64), did: Did) {
        if let Some(place) = self.find(cue, |progress| progress == Progress::Trying) {
            if self.open[place].attempt.steps[0].1 == did {
                self.open.remove(place);
            } else {
                self.step(cue, (2, false), at, did);
                self.missed(cue, at, End::Wrong(did));
            }
        }
        let place = self.begin(cue, first, (2, false));
        let attempt = &mut self.open[place].attempt;
        attempt.push(first, did);
        attempt.push(at, did);
    }

    /// What ran out a moment ago may have lacked just this; otherwise it is done.
    pub(crate) fn comes_late(&mut self, cue: usize, at: u64, did: Did, lacked: Option<Did>) {
        if let Some(place) = self.find(cue, |progress| progress == Progress::Over) {
            let open = &mut self.open[place];
            let fits = lacked.map_or_else(|| open.attempt.lacks(did), |lacked| lacked == did);
            let at_hand = at <= open.attempt.ended + AT_HAND;
            if open.attempt.end == End::RanOut && fits && at_hand {
                open.attempt.push(at, did);
                open.attempt.end = End::Late { by: at.saturating_sub(open.attempt.ended) };
            }
            self.close(place);
        }
    }

    /// How many steps of what ran out a moment ago had come.
    pub(crate) fn came(&self, cue: usize) -> Option<usize> {
        let place = self.find(cue, |progress| progress == Progress::Over)?;
        Some(usize::from(self.open[place].attempt.count))
    }

    /// The attempt under way, or at hand, came to nothing.
    pub(crate) fn missed(&mut self, cue: usize, at: u64, end: End) {
        let trying = |progress: Progress| matches!(progress, Progress::Trying | Progress::Over);
        if let Some(place) = self.find(cue, trying) {
            (self.open[place].attempt.end, self.open[place].attempt.ended) = (end, at);
            self.close(place);
        }
    }

    /// The window of the attempt under way is over.
    pub(crate) fn ran_out(&mut self, cue: usize, at: u64) {
        if let Some(place) = self.find(cue, |progress| progress == Progress::Trying) {
            let open = &mut self.open[place];
            (open.attempt.end, open.attempt.ended, open.progress) = (End::RanOut, at, Progress::Over);
        }
    }

    /// The cue was met, by this press.
    pub(crate) fn matched(&mut self, cue: usize, at: u64, press: u32) {
        let place =
            self.find(cue, |progress| progress == Progress::Trying).unwrap_or_else(|| self.begin(cue, at, (0, false)));
        self.open[place].attempt.met = at;
        self.open[place].progress = Progress::Matched(press);
    }

    /// Whether a step of an attempt under way is known, so that a timer's pull isn't taken for one.
    pub(crate) fn is_trying(&self, cue: usize) -> bool {
        self.find(cue, |progress| progress == Progress::Trying).is_some()
    }

    pub(crate) fn pulled(&mut self, cue: Option<CueIndex>, press: u32, at: u64, kept: u64) {
        if let Some(place) = self.find_met(cue, press) {
            (self.open[place].attempt.end, self.open[place].attempt.ended) = (End::Pulled { kept }, at);
            self.close(place);
        }
    }

    /// The gate refused it: for good, or it is kept.
    pub(crate) fn refused(&mut self, cue: Option<CueIndex>, press: u32, at: u64, end: End, for_good: bool) {
        if let Some(place) = self.find_met(cue, press) {
            let open = &mut self.open[place];
            (open.attempt.end, open.attempt.ended) = (end, at);
            if for_good {
                open.progress = Progress::Over;
            }
        }
    }

    /// What was kept gives way to a newer one of the same action.
    pub(crate) fn replaced(&mut self, action: usize, by: u32, at: u64) {
        let older = |progress: Progress| matches!(progress, Progress::Matched(press) if press != by);
        if let Some(place) = self.find_of(action, older) {
            self.open[place].attempt.ended = at;
            self.close(place);
        }
    }

    /// What was kept runs out.
    pub(crate) fn keep_over(&mut self, action: usize, at: u64) {
        let kept = |progress: Progress| matches!(progress, Progress::Matched(_));
        if let Some(place) = self.find_of(action, kept) {
            (self.open[place].attempt.ended, self.open[place].progress) = (at, Progress::Over);
        }
    }

    /// Another action took its press.
    pub(crate) fn beaten(&mut self, cue: Option<CueIndex>, press: u32, by: u16, at: u64) {
        if let Some(place) = self.find_met(cue, press) {
            (self.open[place].attempt.end, self.open[place].attempt.ended) = (End::Outranked { by }, at);
            self.close(place);
        }
    }

    /// Everything of an action that is under way is dropped.
    pub(crate) fn dropped(&mut self, action: usize, at: u64, end: End) {
        while let Some(place) = self.find_of(action, |progress| progress != Progress::Over) {
            (self.open[place].attempt.end, self.open[place].attempt.ended) = (end, at);
            self.close(place);
        }
    }

    /// Gates that refused something a moment ago, and stand open now, are told.
    pub(crate) fn opened(&mut self, at: u64, is_open: impl Fn(usize) -> bool) {
        let shut = |open: &Open| {
            open.progress == Progress::Over && open.attempt.end.is_shut() && is_open(usize::from(open.attempt.action))
        };
        while let Some(place) = self.open.iter().position(shut) {
            // Told by the clock and not by when it is looked at: later than that, no opening belongs to it.
            let attempt = &mut self.open[place].attempt;
            let by = at.saturating_sub(attempt.ended);
            attempt.opened = Some(by).filter(|by| *by <= AT_HAND);
            self.close(place);
        }
    }

    /// The steps that a bit of a motion stands on.
    pub(crate) fn trail(&mut self, set: usize, bit: usize) -> &mut Attempt {
        &mut self.trails[set][bit]
    }

    /// An attempt of a motion is under way no longer, or was met.
    pub(crate) fn motion_missed(&mut self, attempt: Attempt, at: u64, end: End) {
        // It was told when the record was closed.
        if attempt.count == 0 {
            return;
        }
        let place = self.put(Attempt { ended: at, end, ..attempt }, Progress::Over);
        // What ran out stays at hand; the rest is known.
        if end != End::RanOut {
            self.close(place);
        }
    }

    pub(crate) fn motion_matched(&mut self, attempt: Attempt, press: u32) {
        self.put(attempt, Progress::Matched(press));
    }
}
