//! Readings: what happened since a reader looked last, and how things stand. Pure questions, small answers.

mod answers;

pub use answers::{AxisReading, ButtonReading, GaugeReading, PointerReading, StickReading, SweepReading};

use alloc::vec::Vec;

use crate::engine::inputs::held::ButtonState;
use crate::engine::inputs::pointer::PointerState;
use crate::engine::inputs::signal::AxisState;
use crate::engine::{ActionState, Sums};
use crate::handle::{self, ActionHandle};
use crate::history::{Happening, Point, What};
use crate::index::ActionIndex;
use crate::seat::Seat;

/// One reader's position in a seat's history. Create it with [`Seat::bookmark`] and continue with [`Seat::read`].
///
/// Each reader has its own bookmark and gets every press, release and pull exactly once, at any rate of reading. A bookmark
/// belongs to its seat (and copies of it). If it is read on another seat, was left out of a relink, or comes from a future
/// that was rolled back, it starts again from the current moment, and [`Reading::restarted`] returns `true`.
#[derive(Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[must_use]
pub struct Bookmark {
    /// The sums at the last reading, and at the one before it.
    now: Vec<Sums>,
    before: Vec<Sums>,
    /// The sweeps' totals, the same way.
    swept: Vec<[i64; 2]>,
    swept_before: Vec<[i64; 2]>,
    /// Where the history stood at the last reading.
    point: Point,
    /// How often the family in use had changed by then.
    families: u32,
}

impl Bookmark {
    pub(crate) fn new(seat: &Seat) -> Bookmark {
        let mut bookmark = Bookmark::default();
        bookmark.stand_at(seat);
        // Capacity for reading on without allocating.
        (bookmark.before, bookmark.swept_before) = (bookmark.now.clone(), bookmark.swept.clone());
        bookmark
    }

    /// Stands at what is played now.
    fn stand_at(&mut self, seat: &Seat) {
        let engine = &seat.engine;
        let played = engine.played();
        self.now.clear();
        self.now.extend(engine.log.sums.iter().map(|sums| sums.now));
        self.swept.clear();
        self.swept.extend(engine.inputs.sweeps.iter().map(|sweep| sweep.nanos(played)));
        (self.point, self.families) = (engine.log.ring.point(), engine.inputs.used.changes);
    }

    /// Whether it is of a point that the seat went through.
    fn is_of(&self, seat: &Seat) -> bool {
        let engine = &seat.engine;
        let fits = self.now.len() == engine.log.sums.len() && self.swept.len() == engine.inputs.sweeps.len();
        fits && engine.log.ring.went_through(self.point)
    }

    /// Goes over to another profile with its seat: actions and sweeps by their numbers before.
    pub(crate) fn relink(&mut self, actions: &[Option<ActionIndex>], sweeps: &[Option<usize>], point: Option<Point>) {
        let sums = |old: &[Sums]| -> Vec<Sums> {
            let before = |before: &Option<ActionIndex>| old.get(usize::from((*before)?)).copied();
            actions.iter().map(|action| before(action).unwrap_or_default()).collect()
        };
        let swept = |old: &[[i64; 2]]| -> Vec<[i64; 2]> {
            sweeps.iter().map(|before| before.and_then(|before| old.get(before).copied()).unwrap_or_default()).collect()
        };
        (self.now, self.before) = (sums(&self.now), sums(&self.before));
        (self.swept, self.swept_before) = (swept(&self.swept), swept(&self.swept_before));
        self.point = point.unwrap_or_default();
    }

    /// The same place in the history of a seat of this lineage.
    #[cfg(feature = "serde")]
    pub(crate) fn rooted(self, root: u64) -> Bookmark {
        Bookmark { point: self.point.rooted(root), ..self }
    }

    pub(crate) fn point(&self) -> Point {
        self.point
    }
}

impl Clone for Bookmark {
    fn clone(&self) -> Bookmark {
        let mut copy = Bookmark::default();
        copy.clone_from(self);
        copy
    }

    /// Without allocating, for bookmarks of one profile.
    fn clone_from(&mut self, other: &Bookmark) {
        self.now.clone_from(&other.now);
        self.before.clone_from(&other.before);
        self.swept.clone_from(&other.swept);
        self.swept_before.clone_from(&other.swept_before);
        (self.point, self.families) = (other.point, other.families);
    }
}

/// Everything that happened since this reader read last.
#[derive(Clone, Copy, Debug)]
pub struct Reading<'s> {
    seat: &'s Seat,
    /// The sums before, for a bookmark; the last tick's otherwise.
    before: Option<&'s [Sums]>,
    swept_before: &'s [[i64; 2]],
    from: u64,
    families: u32,
    restarted: bool,
}

impl<'s> Reading<'s> {
    pub(crate) fn latest(seat: &'s Seat) -> Reading<'s> {
        let (families, from) = (seat.engine.inputs.used.before, seat.engine.log.tick_began);
        Reading { seat, before: None, swept_before: &seat.engine.inputs.swept, from, families, restarted: false }
    }

    pub(crate) fn since(seat: &'s Seat, bookmark: &'s mut Bookmark) -> Reading<'s> {
        let restarted = !bookmark.is_of(seat);
        if restarted {
            bookmark.stand_at(seat);
        }
        core::mem::swap(&mut bookmark.now, &mut bookmark.before);
        core::mem::swap(&mut bookmark.swept, &mut bookmark.swept_before);
        let (from, families) = (bookmark.point.total, bookmark.families);
        bookmark.stand_at(seat);
        let (before, swept_before) = (Some(bookmark.before.as_slice()), bookmark.swept_before.as_slice());
        Reading { seat, from, before, swept_before, families, restarted }
    }

    /// Whether the bookmark did not fit this seat and started again from here: it was made by another seat, an earlier state
    /// was restored without it, or it was left out of a relink. What happened before is not reported.
    ///
    /// ```
    /// use tidy_lever::{Linkage, Moment, Profile};
    ///
    /// let linkage = Linkage::build(&Profile::new("Otter Post"))?;
    /// let (one, other) = (linkage.seat(Moment::ZERO), linkage.seat(Moment::ZERO));
    /// let mut bookmark = one.bookmark();
    /// assert!(!one.read(&mut bookmark).restarted());
    /// assert!(other.read(&mut bookmark).restarted());
    /// assert!(!other.read(&mut bookmark).restarted());
    /// # Ok::<(), tidy_lever::profile::Faults>(())
    /// ```
    pub fn restarted(&self) -> bool {
        self.restarted
    }

    /// The family of controls that the player switched to since the last reading; `None` if it has not changed.
    pub fn family_changed(&self) -> Option<crate::control::Family> {
        let used = &self.seat.engine.inputs.used;
        if used.changes == self.families { None } else { used.family() }
    }

    /// What an action did since, as differences of running sums.
    fn sums(&self, number: usize) -> Sums {
        let state = &self.seat.engine.log.sums[number];
        let before = match self.before {
            Some(before) => before.get(number).copied().unwrap_or_default(),
            None if state.tick == self.seat.engine.log.tick => state.before,
            None => state.now,
        };
        // Sums wrap around; none goes back, and none grows by half of its range.
        let since = |now: u32, before: u32| Some(now.wrapping_sub(before)).filter(|n| *n < 1 << 31).unwrap_or(0);
        Sums {
            pressed: since(state.now.pressed, before.pressed),
            released: since(state.now.released, before.released),
            pulled: since(state.now.pulled, before.pulled),
        }
    }

    fn of(&self, number: Option<usize>) -> ButtonReading {
        match number {
            Some(number) => ButtonReading::new(
                &self.seat.engine.inputs.buttons[number],
                self.seat.engine.pulls.actions.get(number).unwrap_or(&ActionState::default()),
                self.sums(number),
                self.seat.played(),
            ),
            None => ButtonReading::new(
                &ButtonState::default(),
                &ActionState::default(),
                Sums::default(),
                self.seat.played(),
            ),
        }
    }

    /// What a button did since the last reading, and its state now.
    pub fn button(&self, button: handle::Button) -> ButtonReading {
        self.of(self.seat.asked(button))
    }

    /// The state of an axis, and its presses and releases.
    pub fn axis(&self, axis: handle::Axis) -> AxisReading {
        let number = self.seat.asked(axis);
        let edges = self.of(number);
        let moved = self.moved(number);
        let range = moved.map_or([0; 3], |number| self.seat.plan().inputs.moved[number].range);
        let level = moved.map_or(0, |number| self.seat.engine.inputs.moved[number].x);
        AxisReading::new(edges, level, range)
    }

    /// The state of a stick, and its presses and releases.
    pub fn stick(&self, stick: handle::Stick) -> StickReading {
        let number = self.seat.asked(stick);
        let edges = self.of(number);
        let state = self.moved(number).map_or(AxisState::default(), |number| self.seat.engine.inputs.moved[number]);
        let facing = self.seat.plan().world.facing;
        StickReading::new(edges, &state, self.seat.engine.world.facts[facing] == 0, self.seat.played())
    }

    /// How far a sweep turned since the last reading, and in total.
    pub fn sweep(&self, sweep: handle::Sweep) -> SweepReading {
        let number = self.moved(self.seat.asked(sweep)).and_then(|moved| self.seat.plan().inputs.moved[moved].sweep);
        let Some((number, _)) = number else { return SweepReading::default() };
        let number = usize::from(number);
        let now = self.seat.engine.inputs.sweeps[number].nanos(self.seat.engine.played());
        let before = self.swept_before.get(number).copied().unwrap_or_default();
        SweepReading { since: [now[0] - before[0], now[1] - before[1]], total: now }
    }

    /// The position of a pointer, and its presses and releases.
    pub fn pointer(&self, pointer: handle::Pointer) -> PointerReading {
        let number = self.seat.asked(pointer);
        let edges = self.of(number);
        let number = number.and_then(|number| self.seat.plan().actions[number].pointer).map(usize::from);
        let clicks = number.map_or(0, |n| self.sums(usize::from(self.seat.plan().inputs.pointers[n].click)).pressed);
        let state = number.map_or(PointerState::default(), |number| self.seat.engine.inputs.pointers[number]);
        PointerReading { edges, state, clicks, view: self.seat.engine.inputs.view }
    }

    /// The value of a gauge, and its presses and pulls.
    pub fn gauge(&self, gauge: handle::Gauge) -> GaugeReading {
        let (plan, number) = (self.seat.plan(), self.seat.asked(gauge));
        let edges = self.of(number);
        let Some(number) = number.and_then(|number| plan.actions[number].gauge).map(usize::from) else {
            return GaugeReading::new(edges, 0, 0, 1);
        };
        let (how, engine) = (&plan.world.gauges[number], &self.seat.engine);
        let micros = engine.world.gauges[number].value(how, engine.world.now(engine.played()));
        GaugeReading::new(edges, micros, how.floor, how.ceiling)
    }

    /// As [`button`](Reading::button); `None` for a handle of another profile, or of a name that the profile no longer has.
    pub fn try_button(&self, button: handle::Button) -> Option<ButtonReading> {
        self.seat.knows(button).then(|| self.button(button))
    }

    /// As [`axis`](Reading::axis); `None` for a handle of another profile, or of a name that the profile no longer has.
    pub fn try_axis(&self, axis: handle::Axis) -> Option<AxisReading> {
        self.seat.knows(axis).then(|| self.axis(axis))
    }

    /// As [`stick`](Reading::stick); `None` for a handle of another profile, or of a name that the profile no longer has.
    pub fn try_stick(&self, stick: handle::Stick) -> Option<StickReading> {
        self.seat.knows(stick).then(|| self.stick(stick))
    }

    /// As [`sweep`](Reading::sweep); `None` for a handle of another profile, or of a name that the profile no longer has.
    pub fn try_sweep(&self, sweep: handle::Sweep) -> Option<SweepReading> {
        self.seat.knows(sweep).then(|| self.sweep(sweep))
    }

    /// As [`gauge`](Reading::gauge); `None` for a handle of another profile, or of a name that the profile no longer has.
    pub fn try_gauge(&self, gauge: handle::Gauge) -> Option<GaugeReading> {
        self.seat.knows(gauge).then(|| self.gauge(gauge))
    }

    /// As [`pointer`](Reading::pointer); `None` for a handle of another profile, or of a name that the profile no longer has.
    pub fn try_pointer(&self, pointer: handle::Pointer) -> Option<PointerReading> {
        self.seat.knows(pointer).then(|| self.pointer(pointer))
    }

    fn moved(&self, number: Option<usize>) -> Option<usize> {
        self.seat.plan().actions[number?].moved.map(usize::from)
    }

    /// Everything that happened since the last reading, oldest first, as far as the history still holds it.
    pub fn happenings(&self) -> impl Iterator<Item = &'s Happening> {
        let ring = &self.seat.engine.log.ring;
        ring.between(self.from, ring.total())
    }

    /// How many happenings since the last reading the history no longer holds.
    pub fn lost(&self) -> u64 {
        self.seat.engine.log.ring.oldest().saturating_sub(self.from)
    }

    /// An action's pulls, oldest first, each with its details; and how many are no longer held.
    pub fn pulls<H: ActionHandle>(&self, action: H) -> Recent<impl Iterator<Item = &'s Happening> + use<'s, H>> {
        let number = self.seat.asked(action);
        let total = u64::from(self.of(number).pulls());
        self.kept(number, total, |what| what == What::Pulled)
    }

    /// An action's presses, oldest first; and how many are no longer held.
    pub fn presses<H: ActionHandle>(&self, action: H) -> Recent<impl Iterator<Item = &'s Happening> + use<'s, H>> {
        let number = self.seat.asked(action);
        let total = u64::from(self.of(number).presses());
        self.kept(number, total, |what| what == What::Pressed)
    }

    /// An action's releases, oldest first; and how many are no longer held.
    pub fn releases<H: ActionHandle>(&self, action: H) -> Recent<impl Iterator<Item = &'s Happening> + use<'s, H>> {
        let number = self.seat.asked(action);
        let total = u64::from(self.of(number).releases());
        self.kept(number, total, |what| matches!(what, What::Released(_)))
    }

    fn kept(
        &self,
        number: Option<usize>,
        total: u64,
        which: fn(What) -> bool,
    ) -> Recent<impl Iterator<Item = &'s Happening> + use<'s>> {
        let of = move |happening: &&Happening| Some(usize::from(happening.action)) == number && which(happening.what);
        let ring = &self.seat.engine.log.ring;
        let (from, to) = (self.from, ring.total());
        let lost = total.saturating_sub(ring.between(from, to).filter(of).count() as u64);
        Recent { lost, kept: ring.between(from, to).filter(of) }
    }
}

/// Happenings that the history still holds, oldest first, and the number of those that it no longer holds.
#[derive(Clone, Debug)]
pub struct Recent<I> {
    lost: u64,
    kept: I,
}

impl<I> Recent<I> {
    /// How many of the oldest are no longer held.
    pub fn lost(&self) -> u64 {
        self.lost
    }
}

impl<I: Iterator> Iterator for Recent<I> {
    type Item = I::Item;
    fn next(&mut self) -> Option<I::Item> {
        self.kept.next()
    }
}
