//! What was fed or told and is not yet played: a queue of fixed size, in the order in which it will play, whatever the
//! order of feeding.

use alloc::vec;
use alloc::vec::Vec;
use core::cmp::Reverse;

use crate::control::Sort;
use crate::event::Device;
use crate::time::NEVER;

/// One thing that waits.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct QueuedInput {
    pub(crate) at: u64,
    pub(crate) x: i32,
    pub(crate) y: i32,
    pub(crate) number: u16,
    /// The device that says it, or is named; the first for what else is told.
    pub(crate) device: Device,
    pub(crate) what: InputKind,
    pub(crate) late: Lateness,
}

/// How long after its own moment an event plays, in µs: it came late, or was moved on. Within a moment, what was moved on plays
/// first, in the order in which it was moved; then what is latest, so that late events keep the order of their own moments.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Lateness(u32);

/// Set once an event was moved on.
const MOVED: u32 = 1 << 31;
/// The most that is told apart of how late an event is, in µs.
pub(crate) const MOST_LATE: u32 = MOVED - 1;

impl Lateness {
    pub(crate) fn late(by: u64) -> Lateness {
        Lateness(by.min(u64::from(MOST_LATE)) as u32)
    }

    fn micros(self) -> u32 {
        self.0 & !MOVED
    }
}

/// What a waiting thing is, in the order in which one moment plays them: what is told, then events.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) enum InputKind {
    /// Fact `number` is `x`.
    Fact,
    /// Mode `number` is on if `x` is 1.
    Mode,
    /// Toggle `number` is on if `x` is 1.
    Set,
    /// The game refused the last pull of action `number`.
    GiveBack,
    /// The view is `x` by `y` pixels.
    View,
    /// The panel is shown if `x` is 1.
    Panel,
    /// The device is a pad of the name whose bits are `x` and `y`.
    Named,
    /// The finger whose name is the low byte of `number` (its phase lies above) is at `x`, `y` of the view.
    Touch,
    /// Slot `number` on its device stands at `x`, `y`. Of a wheel: it turns by `x`; or, with a `y` of 1, its notch goes
    /// up and `x` more are to come.
    Control,
    /// As `Control`, of a button whose moment is known so roughly that it is not debounced.
    RoughControl,
    /// The window has the focus if `x` is 1.
    Focus,
    /// Device `number` is plugged in if `x` is 1.
    Plugged,
    /// Slot `number` on its device stands at `x`, `y`, as the device said when it was asked.
    Stands,
}

impl InputKind {
    pub(crate) fn is_event(self) -> bool {
        !matches!(
            self,
            InputKind::Fact
                | InputKind::Mode
                | InputKind::Set
                | InputKind::GiveBack
                | InputKind::View
                | InputKind::Panel
                | InputKind::Named
        )
    }
}

impl QueuedInput {
    fn key(&self) -> (u64, bool, Reverse<u32>) {
        let Lateness(late) = self.late;
        let late = if late & MOVED != 0 { u32::MAX } else { late };
        (self.at, self.what.is_event(), Reverse(late))
    }

    /// Its turn, as its control or its finger is asked for it.
    pub(crate) fn due(&self) -> Due {
        let Lateness(late) = self.late;
        Due { at: self.at, moved: late & MOVED != 0 }
    }

    /// The place of the finger's name, if it is a finger's.
    pub(crate) fn finger(&self) -> Option<usize> {
        (self.what == InputKind::Touch).then_some(usize::from(self.number & 0xff))
    }

    /// What follows from it 1 µs later: it plays before anything else of that moment, however early that was fed.
    pub(crate) fn followed_by(self, x: i32, y: i32) -> QueuedInput {
        QueuedInput { x, y, ..self.moved_to(self.at + 1) }
    }

    /// This input, moved on to a later moment.
    pub(crate) fn moved_to(self, at: u64) -> QueuedInput {
        let Lateness(late) = Lateness::late(u64::from(self.late.micros()) + (at - self.at));
        QueuedInput { at, late: Lateness(late | MOVED), ..self }
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self) -> [u64; 3] {
        // Where a finger's name stands decides nothing.
        let number = if self.finger().is_some() { self.number & 0xff00 } else { self.number };
        QueuedInput { number, ..*self }.parts()
    }

    /// All that it is.
    #[inline(always)]
    pub(crate) fn parts(&self) -> [u64; 3] {
        let values = u64::from(self.x as u32) << 32 | u64::from(self.y as u32);
        let Lateness(late) = self.late;
        let rest = u64::from(self.number) << 16 | (self.device.number() as u64) << 8 | self.what as u64;
        [self.at, values, u64::from(late) << 32 | rest]
    }
}

/// An event of a control or a finger whose turn it is.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Due {
    pub(crate) at: u64,
    /// It was moved on to here: nothing stands before it.
    pub(crate) moved: bool,
}

#[derive(Debug)]
pub(crate) struct Incoming {
    /// As many places as there is room for: those from `first` to before `end` wait.
    places: Vec<QueuedInput>,
    first: usize,
    end: usize,
    capacity: usize,
    /// When the first is due, or `NEVER`: asked for far more often than anything is taken out.
    next: u64,
    /// When the last one of all is due, or was.
    last: u64,
    /// How many of those that wait were told.
    told: usize,
}

/// Written as what waits, and how much can.
#[cfg(feature = "serde")]
impl serde::Serialize for Incoming {
    fn serialize<S: serde::Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        (&self.places[self.first..self.end], self.capacity).serialize(to)
    }
}

/// One that was read has the places of what waits; the others come when it is copied, after its capacity was checked.
#[cfg(feature = "serde")]
impl<'de> serde::Deserialize<'de> for Incoming {
    fn deserialize<D: serde::Deserializer<'de>>(from: D) -> Result<Incoming, D::Error> {
        let (places, capacity) = <(Vec<QueuedInput>, usize)>::deserialize(from)?;
        let mut queue = Incoming { places, capacity, ..Incoming::new(0) };
        for place in 0..queue.places.len() {
            queue.counts(queue.places[place]);
        }
        Ok(queue)
    }
}

/// A place where nothing waits.
const NOTHING: QueuedInput =
    QueuedInput { at: NEVER, x: 0, y: 0, number: 0, device: Device::FIRST, what: InputKind::Fact, late: Lateness(0) };

impl Incoming {
    pub(crate) fn new(capacity: usize) -> Incoming {
        Incoming { places: vec![NOTHING; capacity], first: 0, end: 0, capacity, next: NEVER, last: 0, told: 0 }
    }

    pub(crate) fn len(&self) -> usize {
        self.end - self.first
    }

    pub(crate) fn capacity(&self) -> usize {
        self.capacity
    }

    #[inline]
    pub(crate) fn room(&self) -> usize {
        self.capacity - self.len()
    }

    /// Adds behind everything that plays no later; the caller has seen that there is room.
    #[inline]
    pub(crate) fn push(&mut self, waiting: QueuedInput) {
        if self.end == self.places.len() {
            self.close_up();
        }
        // Devices report in order, so the place is nearly always the end.
        if self.push_last(waiting) {
            self.told += usize::from(!waiting.what.is_event());
        } else {
            self.push_between(waiting);
        }
    }

    /// Adds an event behind everything, if it plays later than that and a place is free there; whether it was added.
    #[inline(always)]
    pub(crate) fn push_last(&mut self, waiting: QueuedInput) -> bool {
        let is_last = self.last < waiting.at;
        let Some(place) = self.places.get_mut(self.end).filter(|_| is_last) else { return false };
        *place = waiting;
        self.end += 1;
        self.last = waiting.at;
        self.next = self.next.min(waiting.at);
        true
    }

    #[inline(never)]
    fn push_between(&mut self, waiting: QueuedInput) {
        let key = waiting.key();
        let place = self.first + self.places[self.first..self.end].partition_point(|other| other.key() <= key);
        self.places.copy_within(place..self.end, place + 1);
        self.places[place] = waiting;
        self.counts(waiting);
    }

    /// One more waits.
    fn counts(&mut self, waiting: QueuedInput) {
        self.end += 1;
        self.told += usize::from(!waiting.what.is_event());
        (self.next, self.last) = (self.next.min(waiting.at), self.last.max(waiting.at));
    }

    /// Gives the room of those that were taken out back.
    #[cold]
    #[inline(never)]
    fn close_up(&mut self) {
        self.places.copy_within(self.first..self.end, 0);
        (self.first, self.end) = (0, self.len());
    }

    /// When the next thing is due, or `NEVER`.
    #[inline]
    pub(crate) fn next_at(&self) -> u64 {
        self.next
    }

    /// Whether anything waits that was told.
    #[inline(always)]
    pub(crate) fn has_told(&self) -> bool {
        self.told > 0
    }

    /// Takes out the next thing that was told, if it is due by this moment.
    #[inline]
    pub(crate) fn take_told(&mut self, at: u64) -> Option<QueuedInput> {
        if self.next > at || self.places.get(self.first)?.what.is_event() {
            return None;
        }
        self.told -= 1;
        Some(self.take_first())
    }

    /// Takes out the first thing, of which there must be one; told ones are counted by who takes them.
    #[inline(always)]
    pub(crate) fn take_first(&mut self) -> QueuedInput {
        let waiting = self.places[self.first];
        self.first += 1;
        if self.first == self.end {
            (self.first, self.end, self.next) = (0, 0, NEVER);
        } else {
            self.next = self.places[self.first].at;
        }
        waiting
    }

    pub(crate) fn iter(&self) -> impl Iterator<Item = &QueuedInput> {
        self.places[self.first..self.end].iter()
    }

    /// Merges each mouse move into the next one of its device, where only places of that device's pointer lie between them; how
    /// many were merged. `sort` tells what a waiting control is. Sums that a level can't hold stay apart.
    #[cold]
    #[inline(never)]
    pub(crate) fn merge_moves(&mut self, sort: impl Fn(&QueuedInput) -> Option<Sort>) -> usize {
        // The last move that nothing has separated from what comes next.
        let (mut open, mut merged): (Option<usize>, usize) = (None, 0);
        for place in self.first..self.end {
            let waiting = self.places[place];
            match (sort(&waiting), open.map(|open| self.places[open])) {
                (Some(Sort::Counts), Some(before))
                    if (before.device, before.number) == (waiting.device, waiting.number) =>
                {
                    if let (Some(x), Some(y)) = (before.x.checked_add(waiting.x), before.y.checked_add(waiting.y)) {
                        self.places[place] = QueuedInput { x, y, ..waiting };
                        if let Some(open) = open {
                            self.places[open].at = NEVER;
                        }
                        merged += 1;
                    }
                    open = Some(place);
                }
                (Some(Sort::Counts), _) => open = Some(place),
                (Some(Sort::Place), Some(before)) if before.device == waiting.device => {}
                _ => open = None,
            }
        }
        let mut end = self.first;
        for place in self.first..self.end {
            if self.places[place].at != NEVER {
                self.places[end] = self.places[place];
                end += 1;
            }
        }
        self.end = end;
        self.next = self.places[self.first..self.end].first().map_or(NEVER, |waiting| waiting.at);
        merged
    }

    /// Makes room for this many; less than there is room for changes nothing.
    pub(crate) fn reserve(&mut self, capacity: usize) {
        if capacity > self.capacity {
            self.places.resize(capacity, NOTHING);
            self.capacity = capacity;
        }
    }

    /// Becomes `other` without allocating, where the capacity is the same.
    pub(crate) fn copy_from(&mut self, other: &Incoming) {
        if self.places.len() != other.capacity {
            self.places.resize(other.capacity, NOTHING);
        }
        (self.first, self.end, self.capacity) = (0, other.len(), other.capacity);
        if self.end > 0 {
            self.places[..self.end].copy_from_slice(&other.places[other.first..other.end]);
        }
        (self.next, self.last, self.told) = (other.next, other.last, other.told);
    }
}
