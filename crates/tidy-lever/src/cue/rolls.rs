//! `steer rolls down, down-forward, forward then toss within 350ms`: motions. All motions of one stick are worked
//! together, as bits in a row:
//!
//! ```text
//!   236 + toss                623 + toss            …      one bit a step: set while the motion has come so far and
//!   [down|down-f.|forward]    [forward|down|down-f.]       may go on. A direction that is entered
//!      1     1        0           0      0      0            moves bits on whose next step it is,
//!            └──── waits for forward                         keeps those that pass it over, drops the others.
//! ```
//!
//! So an event costs a few operations for 64 steps, and besides only what moves. A motion with positions of the body
//! stands twice in the row, as it is for either side; which one counts is decided when the first position is left.
//!
//! A stick's motions that ask for the same push, roll and brush are one set, which sees where the stick stands by that
//! push. What is one eighth beyond the way is borne for a while: the bit stays, and it is remembered since when.

use alloc::vec;
use alloc::vec::Vec;

use super::Presses;
use crate::direction::Direction;
use crate::index::NONE;

/// The place of neutral behind the eight directions.
const NEUTRAL: usize = 8;
/// A finish that came earlier still, in µs, was not meant for it.
const NEARLY: u64 = 100_000;
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
    pub(crate) roll: u64,
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
        Seen { from_push: 350_000, roll: 35_000, brush: 45_000 }
    }
}

/// 64 steps of a stick's motions, by direction.
#[derive(Clone, Debug, Default, PartialEq, Hash)]
struct Row {
    /// First steps, by their direction.
    start: [u64; 8],
    /// Steps, by where they are entered.
    enter: [u64; 9],
    /// Steps that stay as they are while this direction is passed.
    keep: [u64; 8],
    /// Steps that bear this direction for a while.
    bear: [u64; 8],
    maybe: u64,
    /// Steps that must be held for a while: none can be jumped across.
    timed: u64,
}

/// One step of one motion.
#[derive(Clone, Copy, Debug, PartialEq, Hash)]
pub(crate) struct StepPlan {
    /// Which of the set's motions.
    motion: u16,
    /// Counted from 0.
    pub(crate) index: u8,
    /// On the screen; `None` is neutral.
    pub(crate) position: Option<Direction>,
    maybe: bool,
    /// In µs.
    pub(crate) held: u64,
}

/// One motion, for one side that the body may face or for both.
#[derive(Clone, Copy, Debug, PartialEq, Hash)]
pub(crate) struct MotionPlan {
    /// The cue that it is.
    pub(crate) cue: u16,
    /// The bit of its first step.
    first: u16,
    pub(crate) count: u8,
    pub(crate) within: u64,
    pub(crate) how: RollsPlan,
    /// Which of the set's finishers, or `NONE`.
    finisher: u16,
    on_release: bool,
    /// The value of `facing` that it is meant for; `None` for both.
    facing: Option<u16>,
    /// Its timer, if it ends with a step that must be held.
    timer: u16,
}

/// An action whose press or letting go finishes motions.
#[derive(Clone, Debug, PartialEq, Hash)]
struct FinisherPlan {
    action: u16,
    on_release: bool,
    /// The last steps of its motions, a row each.
    lasts: Vec<u64>,
}

/// All motions of one stick.
#[derive(Clone, Debug, Default, PartialEq, Hash)]
pub(crate) struct MotionSet {
    pub(crate) seen: Seen,
    rows: Vec<Row>,
    /// By bit.
    steps: Vec<StepPlan>,
    pub(crate) motions: Vec<MotionPlan>,
    finishers: Vec<FinisherPlan>,
    /// The cues whose motions others wait for: their windows must be watched.
    pub(crate) awaited: Vec<u16>,
}

/// What a motion is made of, before it has its place in a set.
#[derive(Clone, Debug)]
pub(crate) struct MotionDraft {
    pub(crate) cue: u16,
    /// Positions on the screen, whether each may be left out, and how long it must be held.
    pub(crate) steps: Vec<(Option<Direction>, bool, u64)>,
    pub(crate) finisher: u16,
    pub(crate) on_release: bool,
    pub(crate) within: u64,
    pub(crate) how: RollsPlan,
    pub(crate) facing: Option<u16>,
    pub(crate) timer: u16,
    pub(crate) awaited: bool,
}

/// Whether a direction lies on the short way between two, ends included; straight across, both ways are.
fn on_the_way(from: Option<Direction>, to: Option<Direction>, direction: Direction) -> bool {
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
    fn reached(&self, before: u64) -> u64 {
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

    /// Gives a motion its place.
    pub(crate) fn add(&mut self, draft: &MotionDraft) {
        // No motion straddles two rows.
        let (mut first, count) = (self.steps.len(), draft.steps.len());
        if first % 64 + count > 64 {
            first = first.next_multiple_of(64);
        }
        let spare = StepPlan { motion: NONE, index: 0, position: None, maybe: false, held: 0 };
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
        let (first, count) = (first as u16, count as u8);
        self.motions.push(MotionPlan { cue, first, count, within, how, finisher, on_release, facing, timer });
    }

    fn finisher(&mut self, draft: &MotionDraft, last: usize) -> u16 {
        if draft.finisher == NONE {
            return NONE;
        }
        let same = |known: &FinisherPlan| (known.action, known.on_release) == (draft.finisher, draft.on_release);
        let number = self.finishers.iter().position(same).unwrap_or_else(|| {
            let (action, on_release) = (draft.finisher, draft.on_release);
            self.finishers.push(FinisherPlan { action, on_release, lasts: Vec::new() });
            self.finishers.len() - 1
        });
        let lasts = &mut self.finishers[number].lasts;
        lasts.resize(lasts.len().max(last / 64 + 1), 0);
        lasts[last / 64] |= 1 << (last % 64);
        number as u16
    }

    /// The action that finishes a motion.
    pub(crate) fn finished_by(&self, motion: &MotionPlan) -> Option<u16> {
        Some(self.finishers.get(usize::from(motion.finisher))?.action)
    }

    /// Whether a finisher counts at letting go.
    pub(crate) fn finishes_on_release(&self, number: u16) -> bool {
        self.finishers[usize::from(number)].on_release
    }

    /// The actions that finish motions, with their numbers here.
    pub(crate) fn finishers(&self) -> impl Iterator<Item = (u16, u16)> {
        self.finishers.iter().enumerate().map(|(number, finisher)| (finisher.action, number as u16))
    }

    /// The motion of another set that is the same as one here; `after` and `cue_after` say which action and which cue of
    /// that set is which here.
    pub(crate) fn twin(
        &self,
        motion: &MotionPlan,
        other: &MotionSet,
        after: impl Fn(u16) -> u16,
        cue_after: impl Fn(u16) -> u16,
    ) -> Option<usize> {
        let path = |set: &MotionSet, motion: &MotionPlan| {
            let first = usize::from(motion.first);
            let steps = set.steps[first..first + usize::from(motion.count)].iter();
            steps.map(|step| (step.position, step.maybe, step.held)).collect::<Vec<_>>()
        };
        let own = path(self, motion);
        other.motions.iter().position(|was| {
            let finisher = other.finished_by(was).map(&after);
            (cue_after(was.cue), finisher, was.facing) == (motion.cue, self.finished_by(motion), motion.facing)
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

    /// The bits of a cue's motions.
    fn bits_of(&self, cue: u16) -> impl Iterator<Item = (usize, u64)> {
        let own = self.motions.iter().filter(move |motion| motion.cue == cue);
        own.map(|motion| {
            let first = usize::from(motion.first);
            (first / 64, ((1u64 << motion.count) - 1) << (first % 64))
        })
    }
}

/// How a motion came to its last matched step.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Slot {
    /// When the first position was left.
    pub(crate) began: u64,
    /// The directions entered.
    presses: Presses,
    /// What `facing` was then.
    facing: u16,
    /// It is meant for the other side.
    averted: bool,
    /// Since when the stick stands one eighth beyond the way; only read where it does.
    strayed: u64,
    strayed_to: Option<Direction>,
}

/// The last press, or letting go, of an action that finishes motions.
#[derive(Clone, Copy, Debug, Default)]
struct Finish {
    at: u64,
    /// 0 for none yet.
    press: u64,
}

/// How far the motions of one stick have come.
#[derive(Clone, Debug, Default)]
pub(crate) struct MotionState {
    active: Vec<u64>,
    /// The bits, of those, whose stick stands one eighth beyond the way.
    strayed: Vec<u64>,
    slots: Vec<Slot>,
    /// When each direction was entered and left last, and what `facing` was at leaving.
    entered: [u64; 8],
    left: [u64; 8],
    facing: [u16; 8],
    /// Since when the stick stood in a direction or beside it, when it was entered last.
    fresh: [u64; 8],
    /// The directions, a bit each, that only neighbours were visited from since they were left.
    brushed: u8,
    pub(crate) stands: Option<Direction>,
    /// Where keys stood before the stick came to rest.
    stood: Option<Direction>,
    digital: bool,
    finishes: Vec<Finish>,
    /// The devices that moved the stick since the last time nothing was under way.
    pub(crate) by: u64,
}

/// What became of a motion.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Motion {
    /// It came as far as this bit.
    Came { bit: u16, from: u16 },
    /// The next step, or the finish, came this many µs too late.
    Late { bit: u16, by: u64 },
    /// A step was left this many µs too soon.
    Short { bit: u16, by: u64 },
    /// The first position had been held this many µs too long.
    Stale { bit: u16, by: u64 },
    /// The finish came this many µs too early before the last direction.
    Early { bit: u16, by: u64 },
    /// The stick stood beside the way this many µs too long when the finish came.
    Strayed { bit: u16, by: u64 },
    /// Another direction came; what was borne for a while broke at that moment.
    Broken { bit: u16, borne_until: Option<u64> },
    /// It was finished, but is meant for the other side.
    Averted { bit: u16 },
    /// It is complete.
    Done { bit: u16, presses: Presses, facing: u16, pressed: u64 },
    /// Its last direction is entered, and must be held until then.
    Holds { bit: u16, until: u64 },
}

/// A moment of a stick: where it turns, as which press, and what `facing` is.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Turned {
    pub(crate) at: u64,
    pub(crate) to: Option<Direction>,
    pub(crate) press: u64,
    pub(crate) facing: u16,
    /// Keys, a cross or a directional pad push it.
    pub(crate) digital: bool,
}

fn each_bit(mut word: u64) -> impl Iterator<Item = usize> {
    core::iter::from_fn(move || {
        let top = 63u32.checked_sub(word.leading_zeros())?;
        word &= !(1 << top);
        Some(top as usize)
    })
}

impl MotionState {
    pub(crate) fn new(set: &MotionSet) -> MotionState {
        MotionState {
            active: vec![0; set.rows.len()],
            strayed: vec![0; set.rows.len()],
            slots: vec![Slot::default(); set.steps.len()],
            finishes: vec![Finish::default(); set.finishers.len()],
            ..MotionState::default()
        }
    }

    /// Becomes `other` without allocating, where both are of the same set.
    pub(crate) fn copy_from(&mut self, other: &MotionState) {
        self.active.clone_from(&other.active);
        self.strayed.clone_from(&other.strayed);
        self.slots.clone_from(&other.slots);
        self.finishes.clone_from(&other.finishes);
        self.track_like(other);
    }

    /// Takes over where the stick stands and stood.
    fn track_like(&mut self, other: &MotionState) {
        (self.entered, self.left, self.facing, self.fresh) = (other.entered, other.left, other.facing, other.fresh);
        (self.stands, self.stood, self.digital) = (other.stands, other.stood, other.digital);
        (self.brushed, self.by) = (other.brushed, other.by);
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self, word: &mut impl FnMut(u64)) {
        let MotionState { active, strayed, slots, entered, left, facing, fresh, brushed, .. } = self;
        let MotionState { stands, stood, digital, finishes, by, .. } = self;
        let number = |direction: &Option<Direction>| direction.map_or(0, |direction| direction as u64 + 1);
        word(number(stands) | number(stood) << 8 | u64::from(*brushed) << 16 | u64::from(*digital) << 24);
        word(*by);
        for place in 0..8 {
            let facing = u64::from(facing[place]);
            [entered[place], left[place], facing, fresh[place]].into_iter().for_each(&mut *word);
        }
        for finish in finishes {
            let Finish { at, press } = *finish;
            word(at);
            word(press);
        }
        for (row, active) in active.iter().enumerate() {
            word(*active);
            // What is not set is set before it is read.
            for bit in each_bit(*active).map(|bit| &slots[row * 64 + bit]) {
                let Slot { began, presses, facing, averted, strayed: _, strayed_to: _ } = *bit;
                word(began);
                word(u64::from(facing) << 1 | u64::from(averted));
                presses.words().into_iter().for_each(&mut *word);
            }
            word(strayed[row]);
            each_bit(strayed[row]).for_each(|bit| word(slots[row * 64 + bit].strayed));
        }
    }

    fn has(&self, bit: usize) -> bool {
        self.active[bit / 64] >> (bit % 64) & 1 == 1
    }

    /// Whether anything is under way behind a first position.
    pub(crate) fn is_idle(&self) -> bool {
        self.active.iter().all(|active| *active == 0)
    }

    /// Drops what a cue's motions have come to.
    pub(crate) fn drop_cue(&mut self, set: &MotionSet, cue: u16) {
        for (row, mask) in set.bits_of(cue) {
            self.active[row] &= !mask;
            self.strayed[row] &= !mask;
        }
    }

    /// Drops everything; the motions that had begun are shown.
    pub(crate) fn drop_all(&mut self, mut show: impl FnMut(usize)) {
        for (row, active) in self.active.iter_mut().enumerate() {
            each_bit(core::mem::take(active)).for_each(|bit| show(row * 64 + bit));
        }
        self.strayed.fill(0);
        (self.stood, self.brushed, self.by) = (None, 0, 0);
        self.finishes.fill(Finish::default());
    }

    /// The finishing presses by which a cue's motions may still be completed.
    pub(crate) fn finished_on(&self, set: &MotionSet, cue: u16) -> impl Iterator<Item = u32> {
        let own = set.motions.iter().filter(move |motion| motion.cue == cue);
        own.filter_map(|motion| self.finishes.get(usize::from(motion.finisher))).map(|finish| finish.press as u32)
    }

    /// Forgets the finishing presses that are gone.
    pub(crate) fn drop_finishes(&mut self, gone: impl Fn(u32) -> bool) {
        for finish in self.finishes.iter_mut().filter(|finish| gone(finish.press as u32)) {
            *finish = Finish::default();
        }
    }

    /// The bits that are set: how far each motion has come.
    pub(crate) fn bits(&self) -> impl Iterator<Item = usize> {
        self.active.iter().enumerate().flat_map(|(row, active)| each_bit(*active).map(move |bit| row * 64 + bit))
    }

    /// Takes over how far another set's motions of the same stick have come, where they are the same; `after` says which
    /// action is which here.
    pub(crate) fn carry(
        &mut self,
        set: &MotionSet,
        from: &MotionState,
        old: &MotionSet,
        (after, cue_after): (impl Fn(u16) -> u16, impl Fn(u16) -> u16),
    ) {
        self.track_like(from);
        for (finish, plan) in self.finishes.iter_mut().zip(&set.finishers) {
            let same = |known: &FinisherPlan| (after(known.action), known.on_release) == (plan.action, plan.on_release);
            if let Some(place) = old.finishers.iter().position(same) {
                *finish = from.finishes[place];
            }
        }
        for motion in &set.motions {
            let Some(was) = set.twin(motion, old, &after, &cue_after).map(|was| &old.motions[was]) else { continue };
            for step in 0..usize::from(motion.count) {
                let (to, source) = (usize::from(motion.first) + step, usize::from(was.first) + step);
                self.active[to / 64] |= u64::from(from.has(source)) << (to % 64);
                self.strayed[to / 64] |= (from.strayed[source / 64] >> (source % 64) & 1) << (to % 64);
                self.slots[to] = from.slots[source];
            }
        }
    }

    /// How long the position of a step was held last, in µs.
    fn held(&self, position: Direction, at: u64) -> u64 {
        let place = position as usize;
        let until = if self.stands == Some(position) { at } else { self.left[place] };
        until.saturating_sub(self.entered[place])
    }

    /// Whether what a bit stands for is meant for the side that the body does not face.
    pub(crate) fn is_averted(&self, set: &MotionSet, bit: usize) -> bool {
        let (step, motion) = set.step(bit);
        match (step.index, step.position) {
            (0, Some(position)) => motion.facing.is_some_and(|meant| meant != self.facing[position as usize]),
            _ => self.slots[bit].averted,
        }
    }

    /// What `facing` was when the motion of a bit left its first position.
    pub(crate) fn facing_of(&self, bit: usize) -> u16 {
        self.slots[bit].facing
    }

    /// When a direction was entered last.
    pub(crate) fn entered(&self, direction: Direction) -> u64 {
        self.entered[direction as usize]
    }

    /// When the motion of a set bit left its first position; `None` while it is there.
    pub(crate) fn began(&self, set: &MotionSet, bit: usize) -> Option<u64> {
        let (step, _) = set.step(bit);
        match (step.index, step.position) {
            (0, position) if self.stands == position => None,
            (0, Some(position)) => Some(self.left[position as usize]),
            _ => Some(self.slots[bit].began),
        }
    }

    /// The same of what was set before this moment, when its first position may have been entered again.
    pub(crate) fn began_before(&self, set: &MotionSet, bit: usize, at: u64) -> Option<u64> {
        match set.step(bit).0 {
            StepPlan { index: 0, position: Some(position), .. } if self.entered(position) == at => {
                Some(self.left[position as usize])
            }
            _ => self.began(set, bit),
        }
    }

    /// The stick stands there, and nothing entered it: what is held is a level.
    pub(crate) fn stands_at(&mut self, to: Option<Direction>, at: u64) {
        (self.stands, self.stood, self.brushed) = (to, None, 0);
        if let Some(to) = to {
            (self.entered[to as usize], self.fresh[to as usize]) = (at, 0);
        }
    }

    /// The stick turns. What comes of it is shown, furthest steps first within a motion.
    pub(crate) fn turn(&mut self, set: &MotionSet, turned: Turned, mut show: impl FnMut(Motion)) {
        let Turned { at, to, press, facing, digital } = turned;
        let from = self.stands;
        if let Some(from) = from {
            (self.left[from as usize], self.facing[from as usize]) = (at, facing);
        }
        self.stands = to;
        self.stray_too_long(set, at, &mut show);
        match (from, to) {
            (Some(from), Some(to)) => {
                let eighths = from.eighths_to(to);
                // A jump of more than a quarter tells no way.
                if eighths.abs() == 2 {
                    self.cross(set, from.turned_by(eighths.signum()), (at, press), &mut show);
                }
            }
            (None, Some(to)) if digital => {
                let rolled = self.stood.filter(|stood| at - self.left[*stood as usize] <= set.seen.roll);
                if let Some(stood) = rolled.filter(|stood| !stood.is_diagonal() && !to.is_diagonal())
                    && stood.eighths_to(to).abs() == 2
                {
                    self.cross(set, stood.turned_by(stood.eighths_to(to).signum()), (at, press), &mut show);
                }
            }
            _ => {}
        }
        self.enter(set, to, (at, press), &mut show);
        self.track(set, from, turned);
    }

    /// Notes where the stick stands now, and what it makes of where it stood.
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
        let beside = from.filter(|from| from.eighths_to(to).abs() <= 1);
        self.fresh[place] = beside.map_or(at, |from| self.fresh[from as usize]);
        if !is_brush {
            self.entered[place] = at;
        }
        // Those that stand beside this one may still be returned to; where it came from is one of them, if it is.
        let near = [-1, 0, 1].into_iter().fold(0u8, |near, step| near | 1 << (to.turned_by(step) as u8));
        let left = from.map_or(0, |from| 1u8 << from as u8);
        self.brushed = (self.brushed | left) & near & !(1 << place);
    }

    /// What stood one eighth beyond the way for too long is broken.
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
    fn stands_until(&self, set: &MotionSet, bit: usize) -> u64 {
        let strays = self.strayed[bit / 64] >> (bit % 64) & 1 == 1;
        if strays { self.slots[bit].strayed + set.step(bit).1.how.astray } else { u64::MAX }
    }

    /// A direction is passed over within one event: it may carry a motion on, and breaks none.
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

    fn enter(&mut self, set: &MotionSet, to: Option<Direction>, entered: (u64, u64), show: &mut impl FnMut(Motion)) {
        let place = to.map_or(NEUTRAL, |direction| direction as usize);
        for (number, row) in set.rows.iter().enumerate() {
            let before = self.active[number];
            let steps = row.reached(before) & row.enter[place];
            let (now, gone) = self.go_on(set, number, (before, steps), entered, show);
            // Without a direction nothing begins, and nothing is beside the way.
            let (mut kept, mut bears, mut starts) = (u64::MAX, 0, 0);
            if let Some(to) = to {
                (kept, bears, starts) = (row.keep[to as usize], row.bear[to as usize], row.start[to as usize]);
            }
            let stray = before & bears & !kept & !now & !starts;
            for bit in each_bit(stray & !self.strayed[number]).map(|bit| number * 64 + bit) {
                (self.slots[bit].strayed, self.slots[bit].strayed_to) = (entered.0, to);
            }
            let stays = now | before & kept | stray | starts;
            self.strayed[number] = stray & !gone;
            self.active[number] = stays & !gone | starts;
            for bit in each_bit(before & !stays & !gone) {
                show(Motion::Broken { bit: (number * 64 + bit) as u16, borne_until: None });
            }
        }
    }

    /// Motions go on to these steps: the bits that are set now, and those that are gone.
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
    fn same(&self, set: &MotionSet, motion: &MotionPlan, began: Option<u64>) -> u64 {
        let first = usize::from(motion.first);
        let bits = (first..first + usize::from(motion.count)).filter(|bit| self.has(*bit));
        bits.filter(|bit| self.began(set, *bit) == began).map(|bit| 1 << (bit % 64)).sum()
    }

    /// Drops one attempt of a motion.
    fn forget(&mut self, set: &MotionSet, motion: &MotionPlan, began: u64) {
        let (bits, row) = (self.same(set, motion, Some(began)), usize::from(motion.first) / 64);
        self.active[row] &= !bits;
        self.strayed[row] &= !bits;
    }

    /// The furthest step of a motion before this one, with only such between as may be left out.
    fn source(&self, set: &MotionSet, bit: usize, before: u64) -> Option<usize> {
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
    fn moved_on(&self, set: &MotionSet, source: usize, (at, press): (u64, u64)) -> Result<Slot, Motion> {
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

    /// What the last step of a motion that was just entered, or jumped across, leads to.
    pub(crate) fn arrive(&self, set: &MotionSet, bit: usize, at: u64, used: impl Fn(u64) -> bool) -> Option<Motion> {
        let (step, motion) = set.step(bit);
        if step.index + 1 < motion.count {
            return None;
        }
        let slot = self.slots[bit];
        let number = bit as u16;
        if motion.finisher != NONE {
            let finish = self.finishes[usize::from(motion.finisher)];
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

    fn done(&self, bit: usize, finish: Option<Finish>) -> Motion {
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

    fn held_out_at(&self, set: &MotionSet, bit: usize, at: u64) -> Option<Motion> {
        let (step, motion) = set.step(bit);
        let stays = self.has(bit) && step.position == self.stands && self.held(self.stands?, at) >= step.held;
        if !stays {
            return None;
        }
        let late = (at - self.slots[bit].began).saturating_sub(motion.within);
        Some(if late > 0 { Motion::Late { bit: bit as u16, by: late } } else { self.done(bit, None) })
    }

    /// An action that finishes motions was pressed, or let go.
    pub(crate) fn finish(
        &mut self,
        set: &MotionSet,
        number: u16,
        (at, press): (u64, u64),
        mut show: impl FnMut(Motion),
    ) {
        let finish = Finish { at, press };
        let plan = &set.finishers[usize::from(number)];
        self.finishes[usize::from(number)] = finish;
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
    fn windows(&self, set: &MotionSet, cue: u16) -> impl Iterator<Item = (u64, usize, Option<Finish>)> {
        let own = set.motions.iter().filter(move |motion| motion.cue == cue);
        own.flat_map(move |motion| {
            let first = usize::from(motion.first);
            let bits = (first..first + usize::from(motion.count)).filter(|bit| self.has(*bit));
            bits.filter_map(move |bit| self.window(set, motion, bit))
        })
    }

    fn window(&self, set: &MotionSet, motion: &MotionPlan, bit: usize) -> Option<(u64, usize, Option<Finish>)> {
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
        if motion.finisher != NONE && next_is_last {
            let finish = self.finishes[usize::from(motion.finisher)];
            if finish.press > 0 {
                return Some((until.min(finish.at + motion.how.early), bit, Some(finish)));
            }
        }
        (!is_first).then_some((until, bit, None))
    }
}

impl MotionPlan {
    pub(crate) fn timer(&self) -> Option<usize> {
        (self.timer != NONE).then_some(usize::from(self.timer))
    }

    pub(crate) fn finisher(&self) -> Option<u16> {
        (self.finisher != NONE).then_some(self.finisher)
    }

    pub(crate) fn on_release(&self) -> bool {
        self.on_release
    }
}
