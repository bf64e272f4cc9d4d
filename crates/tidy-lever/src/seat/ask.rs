//! What can be asked of a seat. Questions change nothing.

use super::Seat;
use crate::handle;
use crate::seat::reading::{
    AxisReading, Bookmark, ButtonReading, GaugeReading, PointerReading, Reading, StickReading, SweepReading,
};

impl Seat {
    /// Everything that the last `advance` played.
    pub fn latest(&self) -> Reading<'_> {
        Reading::latest(self)
    }

    /// A new reader's position, at the current moment.
    pub fn bookmark(&self) -> Bookmark {
        Bookmark::new(self)
    }

    /// Reads everything from a bookmark to the current moment, and moves the bookmark there. Every reader gets every press,
    /// release and pull exactly once.
    pub fn read<'s>(&'s self, bookmark: &'s mut Bookmark) -> Reading<'s> {
        Reading::since(self, bookmark)
    }

    /// What a button did in the last `advance`, and its state now.
    pub fn button(&self, button: handle::Button) -> ButtonReading {
        self.latest().button(button)
    }

    /// The state of an axis.
    pub fn axis(&self, axis: handle::Axis) -> AxisReading {
        self.latest().axis(axis)
    }

    /// The state of a stick.
    pub fn stick(&self, stick: handle::Stick) -> StickReading {
        self.latest().stick(stick)
    }

    /// How far a sweep turned in the last `advance`, and in total.
    pub fn sweep(&self, sweep: handle::Sweep) -> SweepReading {
        self.latest().sweep(sweep)
    }

    /// The state of a gauge.
    pub fn gauge(&self, gauge: handle::Gauge) -> GaugeReading {
        self.latest().gauge(gauge)
    }

    /// The position of a pointer.
    pub fn pointer(&self, pointer: handle::Pointer) -> PointerReading {
        self.latest().pointer(pointer)
    }

    /// Whether a true-or-false fact is true now.
    pub fn is(&self, fact: handle::Fact) -> bool {
        self.asked(fact)
            .is_some_and(|number| self.plan().world.facts[number].flag && self.engine.world.facts[number] == 1)
    }

    /// What a fact is now: `true`, `false`, or one of its words. Empty for another profile's handle.
    pub fn fact(&self, fact: handle::Fact) -> &str {
        let number = self.asked(fact);
        number.map_or("", |number| &self.plan().world.facts[number].words[usize::from(self.engine.world.facts[number])])
    }

    /// Whether a mode is on now, covered or not.
    pub fn is_mode_on(&self, mode: handle::Mode) -> bool {
        self.asked(mode).is_some_and(|number| self.engine.world.modes.is_on(number))
    }

    /// As [`button`](Seat::button); `None` for a handle of another profile, or of a name that the profile no longer has.
    pub fn try_button(&self, button: handle::Button) -> Option<ButtonReading> {
        self.knows(button).then(|| self.button(button))
    }

    /// As [`axis`](Seat::axis); `None` for a handle of another profile, or of a name that the profile no longer has.
    pub fn try_axis(&self, axis: handle::Axis) -> Option<AxisReading> {
        self.knows(axis).then(|| self.axis(axis))
    }

    /// As [`stick`](Seat::stick); `None` for a handle of another profile, or of a name that the profile no longer has.
    pub fn try_stick(&self, stick: handle::Stick) -> Option<StickReading> {
        self.knows(stick).then(|| self.stick(stick))
    }

    /// As [`sweep`](Seat::sweep); `None` for a handle of another profile, or of a name that the profile no longer has.
    pub fn try_sweep(&self, sweep: handle::Sweep) -> Option<SweepReading> {
        self.knows(sweep).then(|| self.sweep(sweep))
    }

    /// As [`gauge`](Seat::gauge); `None` for a handle of another profile, or of a name that the profile no longer has.
    pub fn try_gauge(&self, gauge: handle::Gauge) -> Option<GaugeReading> {
        self.knows(gauge).then(|| self.gauge(gauge))
    }

    /// As [`pointer`](Seat::pointer); `None` for a handle of another profile, or of a name that the profile no longer has.
    pub fn try_pointer(&self, pointer: handle::Pointer) -> Option<PointerReading> {
        self.knows(pointer).then(|| self.pointer(pointer))
    }

    /// As [`is`](Seat::is); `None` for a handle of another profile, or of a fact that the profile no longer has.
    pub fn try_is(&self, fact: handle::Fact) -> Option<bool> {
        self.knows(fact).then(|| self.is(fact))
    }

    /// As [`fact`](Seat::fact); `None` for a handle of another profile, or of a fact that the profile no longer has.
    pub fn try_fact(&self, fact: handle::Fact) -> Option<&str> {
        self.knows(fact).then(|| self.fact(fact))
    }

    /// As [`is_mode_on`](Seat::is_mode_on); `None` for a handle of another profile, or of a mode that the profile no longer has.
    pub fn try_is_mode_on(&self, mode: handle::Mode) -> Option<bool> {
        self.knows(mode).then(|| self.is_mode_on(mode))
    }
}
