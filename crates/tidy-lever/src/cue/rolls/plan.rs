//! Motions compiled: the steps of all motions of a stick as bits in rows.

use alloc::vec::Vec;

use crate::direction::Direction;
use crate::fixed;
use crate::index::{ActionIndex, CueIndex, FinisherIndex, HeldIndex, Index};

/// The place of neutral behind the eight directions.
pub(super) const NEUTRAL: usize = 8;
/// The most steps in a row that may be left out.
pub(crate) const MOST_MAYBES: usize = 3;

/// What motions forgive, in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct RollsPlan {
    /// How long before the last direction the finish may come.
    pub(crate) early: u64,
    /// How long the first position may have been held; `u64::MAX` for as long as one likes.
    pub(crate) fresh: u64,
    /// How long one eighth beyond the way is borne.
    pub(crate) astray: u64,
    pub(crate) seen: Seen,
}

/// How a set of motions sees its stick.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Seen {
    /// From which push on a position counts, in millionths.
    pub(crate) from_push: i32,
    /// How long one key may be up before the next goes down, in µs, for the diagonal between them to count.
    pub(crate) key_gap: u64,
    /// For less than this a neighbour doesn't interrupt what is held, in µs.
    pub(crate) brush: u64,
}

/// How fresh `forward` and `back` must be as a first position.
pub(crate) const FRESH: u64 = 300_000;

impl Default for RollsPlan {
    fn default() -> RollsPlan {
        RollsPlan { early: 60_000, fresh: u64::MAX, astray: 70_000, seen: Seen::default() }
    }
}

impl Default for Seen {
    fn default() -> Seen {
        Seen { from_push: 350_000, key_gap: 35_000, brush: 45_000 }
    }
}

/// 64 steps of a stick's motions, by direction.
#[derive(Clone, Debug, Default, PartialEq, Hash)]
pub(super) struct Row {
    /// First steps, by their direction.
    pub(super) start: [u64; 8],
    /// Steps, by where they are entered.
    pub(super) enter: [u64; 9],
    /// Steps that stay as they are while this direction is passed.
    pub(super) keep: [u64; 8],
    /// Steps that bear this direction for a while.
    pub(super) bear: [u64; 8],
    pub(super) maybe: u64,
    /// Steps that must be held for a while: none can be jumped across.
    pub(super) timed: u64,
}

/// One step of one motion.
#[derive(Clone, Copy, Debug, PartialEq, Hash)]
pub(crate) struct StepPlan {
    /// Which of the set's motions.
    pub(super) motion: u16,
    /// Counted from 0.
    pub(crate) index: u8,
    /// On the screen; `None` is neutral.
    pub(crate) position: Option<Direction>,
    pub(super) maybe: bool,
    /// In µs.
    pub(crate) held: u64,
}

/// One motion, for one side that the body may face or for both.
#[derive(Clone, Copy, Debug, PartialEq, Hash)]
pub(crate) struct MotionPlan {
    /// The cue that it is.
    pub(crate) cue: u16,
    /// The bit of its first step.
    pub(super) first: u16,
    pub(crate) count: u8,
    pub(crate) within: u64,
    pub(crate) how: RollsPlan,
    pub(super) finisher: Option<FinisherIndex>,
    pub(super) on_release: bool,
    /// The value of `facing` that it is meant for; `None` for both.
    pub(super) facing: Option<u16>,
    /// Its timer, if it ends with a step that must be held.
    pub(super) timer: Option<HeldIndex>,
}

/// An action whose press or letting go finishes motions.
#[derive(Clone, Debug, PartialEq, Hash)]
pub(super) struct FinisherPlan {
    pub(super) action: u16,
    pub(super) on_release: bool,
    /// The last steps of its motions, a row each.
    pub(super) lasts: Vec<u64>,
    /// The cues of its motions.
    pub(super) cues: Vec<u16>,
}

/// All motions of one stick.
#[derive(Clone, Debug, Default, PartialEq, Hash)]
pub(crate) struct MotionSet {
    pub(crate) seen: Seen,
    pub(super) rows: Vec<Row>,
    /// By bit.
    pub(super) steps: Vec<StepPlan>,
    pub(crate) motions: Vec<MotionPlan>,
    pub(super) finishers: Vec<FinisherPlan>,
    /// The cues whose motions nothing finishes: they are on until the stick is at rest.
    pub(super) unfinished: Vec<u16>,
    /// The cues whose motions others wait for: their windows must be watched.
    pub(crate) awaited: Vec<u16>,
}

/// What a motion is made of, before it has its place in a set.
#[derive(Clone, Debug)]
pub(crate) struct MotionDraft {
    pub(crate) cue: u16,
    /// Positions on the screen, whether each may be left out, and how long it must be held.
    pub(crate) steps: Vec<(Option<Direction>, bool, u64)>,
    pub(crate) finisher: Option<ActionIndex>,
    pub(crate) on_release: bool,
    pub(crate) within: u64,
    pub(crate) how: RollsPlan,
    pub(crate) facing: Option<u16>,
    pub(crate) timer: Option<HeldIndex>,
    pub(crate) awaited: bool,
}

/// Whether a direction lies on the short way between two, ends included; straight across, both ways are.
pub(super) fn on_the_way(from: Option<Direction>, to: Option<Direction>, direction: Direction) -> bool {
    match (from, to) {
        (Some(from), Some(to)) => {
            let (whole, part) = (from.eighths_to(to), from.eighths_to(direction));
            whole == 4 || part == 0 || (part.signum() == whole.signum() && part.abs() <= whole.abs())
        }
        (Some(only), None) | (None, Some(only)) => only == direction,
        (None, None) => false,
    }
}

impl Row {
    /// The steps that come next, those behind some that may be left out among them.
    pub(super) fn reached(&self, before: u64) -> u64 {
        let mut reach = before << 1;
        for _ in 0..if self.maybe == 0 { 0 } else { MOST_MAYBES } {
            reach |= (reach & self.maybe) << 1;
        }
        reach
    }
}

impl MotionSet {
    pub(crate) fn new(seen: Seen) -> MotionSet {
        MotionSet { seen, ..MotionSet::default() }
    }

    /// Where its stick stands to it.
    #[inline(always)]
    pub(crate) fn sees(&self, push: (i32, i32), direction: Option<Direction>) -> Option<Direction> {
        direction.filter(|_| fixed::reaches(push.0, push.1, self.seen.from_push))
    }

    /// Gives a motion its place.
    pub(crate) fn add(&mut self, draft: &MotionDraft) {
        // No motion straddles two rows.
        let (mut first, count) = (self.steps.len(), draft.steps.len());
        if first % 64 + count > 64 {
            first = first.next_multiple_of(64);
        }
        let spare = StepPlan { motion: u16::MAX, index: 0, position: None, maybe: false, held: 0 };
        self.steps.resize(first, spare);
        let row_number = first / 64;
        self.rows.resize(row_number + 1, Row::default());
        let row = &mut self.rows[row_number];
        let motion = self.motions.len() as u16;
        for (index, (position, maybe, held)) in draft.steps.iter().enumerate() {
            let (position, maybe, held) = (*position, *maybe, *held);
            let bit = 1u64 << ((first + index) % 64);
            match (index, position) {
                (0, Some(direction)) => row.start[direction as usize] |= bit,
                _ => row.enter[position.map_or(NEUTRAL, |direction| direction as usize)] |= bit,
            }
            row.maybe |= if maybe { bit } else { 0 };
            row.timed |= if held > 0 { bit } else { 0 };
            for direction in Direction::ALL {
                // What may come next: the step behind, and those behind it while each may be left out. Behind the last
                // one it may fall back a little, until the finish.
                let behind = &draft.steps[index + 1..];
                let open = behind.iter().take_while(|(_, maybe, _)| *maybe).count();
                let next = behind.iter().take(open + 1).map(|(next, ..)| *next);
                let is_passed = |direction: Direction| match index.checked_sub(1) {
                    Some(before) if behind.is_empty() => on_the_way(draft.steps[before].0, position, direction),
                    _ => next.clone().any(|next| on_the_way(position, next, direction)),
                };
                if is_passed(direction) {
                    row.keep[direction as usize] |= bit;
                } else if is_passed(direction.turned_by(1)) || is_passed(direction.turned_by(-1)) {
                    row.bear[direction as usize] |= bit;
                }
            }
            self.steps.push(StepPlan { motion, index: index as u8, position, maybe, held });
        }
        let finisher = self.finisher(draft, first + count - 1);
        let &MotionDraft { cue, within, how, on_release, facing, timer, awaited, .. } = draft;
        if awaited && !self.awaited.contains(&cue) {
            self.awaited.push(cue);
        }
        // A motion for either side stands twice, one behind the other.
        let cues = finisher.map_or(&mut self.unfinished, |number| &mut self.finishers[usize::from(number)].cues);
        if cues.last() != Some(&cue) {
            cues.push(cue);
        }
        let (first, count) = (first as u16, count as u8);
        debug_assert!(self.motions.last().is_none_or(|before| before.cue <= cue), "motions come in the order of cues");
        self.motions.push(MotionPlan { cue, first, count, within, how, finisher, on_release, facing, timer });
    }

    pub(super) fn finisher(&mut self, draft: &MotionDraft, last: usize) -> Option<FinisherIndex> {
        let (action, on_release) = (draft.finisher?.number(), draft.on_release);
        let same = |known: &FinisherPlan| (known.action, known.on_release) == (action, on_release);
        let number = self.finishers.iter().position(same).unwrap_or_else(|| {
            self.finishers.push(FinisherPlan { action, on_release, lasts: Vec::new(), cues: Vec::new() });
            self.finishers.len() - 1
        });
        let lasts = &mut self.finishers[number].lasts;
        lasts.resize(lasts.len().max(last / 64 + 1), 0);
        lasts[last / 64] |= 1 << (last % 64);
        Some(Index::new(number as u16))
    }

    /// The action that finishes a motion.
    pub(crate) fn finished_by(&self, motion: &MotionPlan) -> Option<u16> {
        Some(self.finishers[usize::from(motion.finisher?)].action)
    }

    /// The cues whose motions end with this finisher, or, without one, with the stick's rest.
    #[inline(always)]
    pub(crate) fn ends_with(&self, finisher: Option<FinisherIndex>) -> &[u16] {
        finisher.map_or(&self.unfinished, |number| &self.finishers[usize::from(number)].cues)
    }

    /// Whether a finisher counts at letting go.
    pub(crate) fn finishes_on_release(&self, number: FinisherIndex) -> bool {
        self.finishers[usize::from(number)].on_release
    }

    /// The actions that finish motions, with their numbers here.
    pub(crate) fn finishers(&self) -> impl Iterator<Item = (u16, FinisherIndex)> {
        self.finishers.iter().enumerate().map(|(number, finisher)| (finisher.action, Index::new(number as u16)))
    }

    /// The motion of another set that is the same as one here; `after` and `cue_after` say which action and which cue of
    /// that set is which here.
    pub(crate) fn twin(
        &self,
        motion: &MotionPlan,
        other: &MotionSet,
        after: impl Fn(u16) -> Option<ActionIndex>,
        cue_after: impl Fn(u16) -> Option<CueIndex>,
    ) -> Option<usize> {
        let path = |set: &MotionSet, motion: &MotionPlan| {
            let first = usize::from(motion.first);
            let steps = set.steps[first..first + usize::from(motion.count)].iter();
            steps.map(|step| (step.position, step.maybe, step.held)).collect::<Vec<_>>()
        };
        let own = path(self, motion);
        other.motions.iter().position(|was| {
            let finisher = other.finished_by(was).map(&after);
            let own_finisher = self.finished_by(motion).map(|action| Some(ActionIndex::new(action)));
            let own_cue = Some(CueIndex::new(motion.cue));
            (cue_after(was.cue), finisher, was.facing) == (own_cue, own_finisher, motion.facing)
                && (was.within, was.how, was.on_release) == (motion.within, motion.how, motion.on_release)
                && was.timer().is_some() == motion.timer().is_some()
                && path(other, was) == own
        })
    }

    /// How many steps there are.
    pub(crate) fn step_count(&self) -> usize {
        self.steps.len()
    }

    /// The step of a bit, and its motion.
    pub(crate) fn step(&self, bit: usize) -> (StepPlan, &MotionPlan) {
        let step = self.steps[bit];
        (step, &self.motions[usize::from(step.motion)])
    }

    /// A cue's motions.
    pub(super) fn of_cue(&self, cue: u16) -> &[MotionPlan] {
        // They stand in the order of their cues.
        let first = self.motions.partition_point(|motion| motion.cue < cue);
        let count = self.motions[first..].iter().take_while(|motion| motion.cue == cue).count();
        &self.motions[first..first + count]
    }

    /// The bits of a cue's motions.
    pub(super) fn bits_of(&self, cue: u16) -> impl Iterator<Item = (usize, u64)> {
        self.of_cue(cue).iter().map(|motion| {
            let first = usize::from(motion.first);
            (first / 64, ((1u64 << motion.count) - 1) << (first % 64))
        })
    }
}

impl MotionPlan {
    pub(crate) fn timer(&self) -> Option<usize> {
        self.timer.map(usize::from)
    }

    pub(crate) fn finisher(&self) -> Option<FinisherIndex> {
        self.finisher
    }

    pub(crate) fn on_release(&self) -> bool {
        self.on_release
    }
}
