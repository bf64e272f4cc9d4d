//! Moments for events that carry no time: what came since the last poll is spread over the time since then.

use alloc::vec::Vec;
use core::time::Duration;

use super::{Gap, GapWatch};
use crate::event::{Event, Spread};
use crate::time::{Moment, micros};

/// Events are spread over no more than this: else they would count before facts that the game told at its frame.
const WIDEST: u64 = 100_000;
/// A longer stretch is a gap.
const LONGEST: Duration = Duration::from_millis(250);

/// What came in from one source since it was polled last. Its events get moments of their own: those without a time are spread
/// evenly over the stretch between the two polls (at most its last 100 ms), in their order, between those that have one.
///
/// A host that hands over all events of a frame at once would otherwise give all of them the frame's moment, and a double tap
/// within a frame would be lost. Give each source that is polled apart arrivals of its own, and tell facts for the moment at
/// which they came true, not for the frame's.
///
/// ```
/// use tidy_lever::adapter::Arrivals;
/// use tidy_lever::{Control, Device, Event, Moment};
///
/// let (at, space) = (Moment::from_millis, "keys:Space".parse::<Control>()?);
/// let mut arrivals = Arrivals::new(at(0));
/// // Two edges came during a frame of 32 ms, and nobody knows when.
/// for down in [true, false] {
///     arrivals.came(Event::button(at(0), Device::default(), space, down));
/// }
/// let mut moments = Vec::new();
/// let gap = arrivals.poll(at(32), at(0), |event| moments.push((event.at, event.spread.as_micros())));
/// assert_eq!(moments, [(at(8), 32_000), (at(24), 32_000)]);
/// assert_eq!(gap, None);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct Arrivals {
    polled: Moment,
    gaps: GapWatch,
    /// In the order of coming: whether it has a time of its own.
    came: Vec<(bool, Event)>,
}

impl Arrivals {
    /// For a source that was polled first at this moment.
    pub fn new(at: Moment) -> Arrivals {
        let mut gaps = GapWatch::new(LONGEST);
        gaps.pass(at);
        Arrivals { polled: at, gaps, came: Vec::new() }
    }

    /// An event came, and nobody knows when: its `at` doesn't matter.
    pub fn came(&mut self, event: Event) {
        self.came.push((false, event));
    }

    /// An event came with its own time.
    pub fn came_at(&mut self, event: Event) {
        self.came.push((true, event));
    }

    /// The source was polled, and has told all that came. `feed` takes the events in their order; those without a time of
    /// their own have the stretch as their `spread`. No event that was spread gets a moment up to
    /// `played`, the last one that the seat has played.
    ///
    /// Returns the gap since the last poll, if it was longer than 250 ms: feed the events, then [`skip`](crate::Seat::skip) it.
    pub fn poll(&mut self, now: Moment, played: Moment, mut feed: impl FnMut(Event)) -> Option<Gap> {
        let (to, soonest) = (now.as_micros(), played.as_micros() + 1);
        let stretch = micros(now - self.polled).min(WIDEST);
        let (mut from, mut rest) = (to - stretch, self.came.as_slice());
        while !rest.is_empty() {
            // Up to the next event with a time of its own.
            let count = rest.iter().take_while(|(is_timed, _)| !is_timed).count();
            let end = rest.get(count).map_or(to, |(_, event)| event.at.as_micros().clamp(from, to.max(from)));
            for (number, (_, event)) in (1..).zip(&rest[..count]) {
                let at = from + (2 * number - 1) * (end - from) / (2 * count as u64);
                let (at, spread) = (Moment::from_micros(at.max(soonest)), Spread::from(Duration::from_micros(stretch)));
                feed(Event { at, spread, ..*event });
            }
            if let Some((_, event)) = rest.get(count) {
                feed(*event);
            }
            (from, rest) = (end, rest.get(count + 1..).unwrap_or_default());
        }
        self.came.clear();
        self.polled = self.polled.max(now);
        self.gaps.pass(now)
    }
}
