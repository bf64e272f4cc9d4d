//! Feeding: an event is checked, brought into range and put into the queue, or handed back.

use super::Seat;
use crate::control::{Family, Sort as ControlSort};
use crate::engine::incoming::{InputKind, Lateness, QueuedInput};
use crate::engine::inputs::board::Board;
use crate::event::{Event, Input};
use crate::fixed::{self, ONE};
use crate::guard::GuardPlan;
use crate::index::SlotIndex;
use crate::linkage::SlotPlan;

/// Why an event was not taken. The event is handed back.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum FeedErrorKind {
    /// The queue is full, and merging mouse moves made no room: advance, then feed it again.
    #[error("the seat's queue is full; advance it, then feed this again")]
    Full,
    /// A level that is not a finite number. Counted; drop it.
    #[error("a level must be a finite number; it was refused")]
    NotFinite,
    /// A pair of levels for a control with one, or the other way round. Counted; mend the adapter.
    #[error("the control has a different number of axes: a stick needs a pair, a button one level")]
    WrongSort,
    /// There is no room for one more device: give the seat more with `Capacity::devices` in [`Capacity`](super::Capacity).
    #[error("the seat has no room for one more device; make it with a larger `Capacity::devices`")]
    TooManyDevices,
}

/// An event that was not taken, and why.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct FeedError {
    /// The event, as it was fed.
    pub event: Event,
    /// Why it was not taken.
    pub why: FeedErrorKind,
}

impl core::fmt::Display for FeedError {
    fn fmt(&self, f: &mut core::fmt::Formatter<'_>) -> core::fmt::Result {
        let Event { at, device, input, .. } = self.event;
        let why = self.why;
        match input {
            Input::Level { control, value } => write!(f, "{control} = {value} from {device:?} at {at}: {why}"),
            Input::Pair { control, x, y } => write!(f, "{control} = {x}, {y} from {device:?} at {at}: {why}"),
            Input::Stands { control, x, y } => write!(f, "{control} at {x}, {y} from {device:?} at {at}: {why}"),
            _ => write!(f, "{input:?} from {device:?} at {at}: {why}"),
        }
    }
}

impl core::error::Error for FeedError {}

/// Cuts a level to a range; whether that changed it.
fn cut(value: i64, low: i32, high: i32) -> (i32, bool) {
    let cut = value.clamp(i64::from(low), i64::from(high));
    (cut as i32, cut != value)
}

/// The most notches of a wheel in one event.
const MOST_NOTCHES: i32 = 64;
/// The farthest that a pointer can be from the view's top left: 1,000 views, in millionths.
const FARTHEST: i32 = 1_000 * ONE;

/// What would become of an event.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Weighed {
    /// Nothing hears its control.
    Unheard,
    /// It says nothing new.
    NoNews,
    /// It goes into the queue, from a device of this family if it has one, and of this finger.
    Taken { family: Option<Family>, waiting: QueuedInput, finger: Option<u64>, clamped: bool },
}

impl Seat {
    /// Takes an event. It plays in the `advance` that reaches its moment; events may be fed in any order. If that moment was
    /// played already, the event plays 1 µs after the last one played. A second change of one control at the same moment
    /// moves to the next microsecond.
    ///
    /// When the queue is full, mouse moves of one device between which only its pointer moved are merged into the last of them:
    /// their sum counts at its moment.
    ///
    /// Levels are rounded to millionths; a level outside its control's range is cut to it and counted.
    ///
    /// # Errors
    /// A [`FeedError`] hands the event back: the queue is full, a level is not finite or of the wrong sort, or there is
    /// no room for one more device. The seat is as before.
    pub fn feed(&mut self, event: Event) -> Result<(), FeedError> {
        if self.takes_plainly(&event) { Ok(()) } else { self.feed_with_care(event) }
    }

    /// Takes what nearly every event is: a level or a pair within its range, in time, of a known device, with room for it.
    /// False for any other, which is not taken then.
    #[inline(always)]
    fn takes_plainly(&mut self, event: &Event) -> bool {
        let control = match event.input {
            Input::Level { control, .. } | Input::Pair { control, .. } if event.spread.is_none() => control,
            _ => return false,
        };
        let (plan, engine, at) = (&self.linkage.0.inputs, &mut self.engine, event.at.as_micros());
        let Some(Some(number)) = plan.slot_of.get(control.number()).copied() else { return false };
        let (slot, number) = (&plan.slots[usize::from(number)], number.number());
        let (x, y) = match (slot.sort, event.input) {
            (ControlSort::Button | ControlSort::Level, Input::Level { value: 0.0, .. }) => (0, 0),
            (ControlSort::Button | ControlSort::Level, Input::Level { value: 1.0, .. }) => (ONE, 0),
            (ControlSort::Button | ControlSort::Level, Input::Level { value, .. }) if (0.0..1.0).contains(&value) => {
                (fixed::within(value), 0)
            }
            (ControlSort::Pair, Input::Pair { x, y, .. }) if x.abs() <= 1.0 && y.abs() <= 1.0 => {
                (fixed::within(x), fixed::within(y))
            }
            _ => return false,
        };
        if at < engine.next || !engine.inputs.board.expects(event.device, slot.family) {
            return false;
        }
        let (what, late) = (InputKind::Control, Lateness::default());
        let waiting = QueuedInput { at, x, y, number, device: event.device, what, late };
        let taken = engine.queue.push_last(waiting);
        if taken {
            engine.wake = 0;
            engine.input_digest.fed(&waiting);
        }
        taken
    }

    #[inline(never)]
    fn feed_with_care(&mut self, event: Event) -> Result<(), FeedError> {
        self.make_room();
        self.take(&event).map_err(|why| {
            match why {
                FeedErrorKind::NotFinite | FeedErrorKind::WrongSort => self.stats.refused += 1,
                FeedErrorKind::Full | FeedErrorKind::TooManyDevices => self.stats.handed_back += 1,
            }
            FeedError { event, why }
        })
    }

    fn take(&mut self, event: &Event) -> Result<(), FeedErrorKind> {
        match self.weigh(event)? {
            Weighed::Unheard => self.stats.unheard += 1,
            Weighed::NoNews => self.stats.repeats += 1,
            Weighed::Taken { family, mut waiting, finger, clamped } => {
                let engine = &mut self.engine;
                if let Some(number) = finger {
                    engine.input_digest.named(number);
                    waiting.number |=
                        engine.inputs.fingers.name(waiting.device.number() as u8, number).ok_or(FeedErrorKind::Full)?;
                }
                if let Some(family) = family {
                    engine.inputs.board.expect(event.device, family);
                }
                self.stats.clamped += u64::from(clamped);
                self.put(waiting);
            }
        }
        Ok(())
    }

    /// What would happen to an event that is fed now. Changes nothing.
    ///
    /// # Errors
    /// Why the seat would not take it.
    pub(crate) fn weigh(&self, event: &Event) -> Result<Weighed, FeedErrorKind> {
        let (plan, engine) = (&*self.linkage.0, &self.engine);
        let finite = |value: f32| fixed::from_f64(f64::from(value)).ok_or(FeedErrorKind::NotFinite);
        let waiting = |what, number, x, y| QueuedInput {
            at: event.at.as_micros(),
            x,
            y,
            number,
            device: event.device,
            what,
            late: Lateness::default(),
        };
        let taken = |family: Option<Family>, waiting, finger: Option<u64>, clamped| {
            if engine.queue.room() == 0 {
                return Err(FeedErrorKind::Full);
            }
            if family.is_some_and(|family| !engine.inputs.board.has_room_for(event.device, family)) {
                return Err(FeedErrorKind::TooManyDevices);
            }
            Ok(Weighed::Taken { family, waiting, finger, clamped })
        };
        let (control, x, y, pair) = match event.input {
            Input::Stands { control, x, y } => (control, finite(x)?, finite(y)?, control.sort() == ControlSort::Pair),
            Input::Level { control, value } => (control, finite(value)?, 0, false),
            Input::Pair { control, x, y } => (control, finite(x)?, finite(y)?, true),
            Input::Plugged(plugged) => {
                let number = event.device.number() as u16;
                return taken(None, waiting(InputKind::Plugged, number, i32::from(plugged), 0), None, false);
            }
            Input::Touch { finger, phase, x, y } => {
                let (x, y) = (finite(x)?, finite(y)?);
                if plan.inputs.panel.is_empty() && plan.inputs.pointers.iter().all(|pointer| pointer.touch.is_none()) {
                    return Ok(Weighed::Unheard);
                }
                if !engine.inputs.fingers.has_name_for(event.device.number() as u8, finger) {
                    return Err(FeedErrorKind::Full);
                }
                let ((x, cx), (y, cy)) = (cut(x, -ONE, 2 * ONE), cut(y, -ONE, 2 * ONE));
                return taken(
                    Some(Family::Touch),
                    waiting(InputKind::Touch, crate::engine::inputs::says::phased(phase), x, y),
                    Some(finger),
                    cx || cy,
                );
            }
        };
        let Some(slot) = Board::slot(&plan.inputs, control) else { return Ok(Weighed::Unheard) };
        let sort = plan.inputs.slots[usize::from(slot)].sort;
        let is_asked = matches!(event.input, Input::Stands { .. });
        if is_asked && !matches!(sort, ControlSort::Button | ControlSort::Level | ControlSort::Pair) {
            // What has no level that stays can't be asked for it.
            return Err(FeedErrorKind::WrongSort);
        }
        let (x, y, clamped) = match (sort, pair) {
            (ControlSort::Button | ControlSort::Level, false) => {
                let (x, clamped) = cut(x, 0, ONE);
                (x, 0, clamped)
            }
            (ControlSort::Notch, false) => {
                let (x, clamped) = cut(x, 0, MOST_NOTCHES * ONE);
                ((x + ONE / 2) / ONE * ONE, 0, clamped)
            }
            (ControlSort::Pair, true) => {
                let ((x, cx), (y, cy)) = (cut(x, -ONE, ONE), cut(y, -ONE, ONE));
                (x, y, cx || cy)
            }
            (ControlSort::Counts, true) => {
                let ((x, cx), (y, cy)) = (cut(x, i32::MIN + 1, i32::MAX), cut(y, i32::MIN + 1, i32::MAX));
                (x, y, cx || cy)
            }
            (ControlSort::Place, true) => {
                let ((x, cx), (y, cy)) = (cut(x, -FARTHEST, FARTHEST), cut(y, -FARTHEST, FARTHEST));
                (x, y, cx || cy)
            }
            _ => return Err(FeedErrorKind::WrongSort),
        };
        if sort == ControlSort::Notch && x == 0 {
            return Ok(Weighed::NoNews);
        }
        let what = match is_asked {
            true => InputKind::Stands,
            false if self.is_rough(event, slot) => InputKind::RoughControl,
            false => InputKind::Control,
        };
        taken(Some(control.family()), waiting(what, slot.number(), x, y), None, clamped)
    }

    /// Whether the moment of a button's event is known so roughly that it is not debounced.
    fn is_rough(&self, event: &Event, slot: SlotIndex) -> bool {
        if event.spread.is_none() {
            return false;
        }
        let (inputs, board) = (&self.linkage.0.inputs, &self.engine.inputs.board);
        let SlotPlan { guard, family, .. } = inputs.slots[usize::from(slot)];
        if !matches!(guard, GuardPlan::Button(_) | GuardPlan::Arms(_)) {
            return false;
        }
        let own = board.known(event.device, family).map(|local| board.guard(inputs, local));
        u64::from(event.spread.as_micros()) > own.unwrap_or(&inputs.guards[family.index()]).spans.debounce
    }

    /// Merges mouse moves where the queue is full.
    pub(super) fn make_room(&mut self) {
        if self.engine.queue.room() > 0 {
            return;
        }
        let slots = &self.linkage.0.inputs.slots;
        let sort = |waiting: &QueuedInput| match waiting.what {
            InputKind::Control => Some(slots[usize::from(waiting.number)].sort),
            _ => None,
        };
        self.stats.merged += self.engine.queue.merge_moves(sort) as u64;
    }

    /// Puts an event into the queue, which has room; late if its moment is played already.
    pub(super) fn put(&mut self, waiting: QueuedInput) {
        let by = self.engine.next.saturating_sub(waiting.at);
        self.stats.late += u64::from(by > 0);
        // What was told counts in the order of telling.
        let late = if waiting.what.is_event() { Lateness::late(by) } else { Lateness::default() };
        let waiting = QueuedInput { at: waiting.at + by, late, ..waiting };
        self.engine.wake = 0;
        self.engine.input_digest.fed(&waiting);
        self.engine.queue.push(waiting);
    }
}
