//! How the stamps of another clock become moments.

use crate::event::{Device, MOST_DEVICES};
use crate::time::Moment;

/// A jump of another clock by more than this, in µs, is not a delay: its offset is measured again.
const JUMP: i128 = 250_000;

/// For so long, in µs, the smallest difference is looked for; then it is looked for again, as clocks drift apart.
const WINDOW: u64 = 4_000_000;

/// The offset moves by no less than this, in µs.
const STEP: i128 = 100;

/// Turns the stamps of another clock (a kernel's, a browser's) into moments of the game's clock.
///
/// An event arrives some time after its stamp, never before. So the smallest difference of arrival and stamp that was seen in
/// the last seconds is taken as the offset between the clocks; it is too large by the shortest delay. If the difference jumps by more than 250 ms,
/// the other clock was set: the offset is measured again from there, and counted. A moment never lies in the future, and
/// never goes back on a device.
///
/// The arrival is the moment at which the adapter took the event, not the one to which the loop will advance.
///
/// ```
/// use tidy_lever::adapter::StampClock;
/// use tidy_lever::{Device, Moment};
///
/// let (mut clock, pad) = (StampClock::new(), Device::default());
/// let micros = Moment::from_micros;
/// // The first event took some time to arrive, nobody knows how long.
/// assert_eq!(clock.moment(pad, 5_000_000, micros(1_000)), micros(1_000));
/// // This one took 400 µs less, so both clocks are 400 µs closer than it seemed.
/// assert_eq!(clock.moment(pad, 5_010_000, micros(10_600)), micros(10_600));
/// // And of this one it is known now when it happened: 900 µs before it arrived.
/// assert_eq!(clock.moment(pad, 5_020_000, micros(21_500)), micros(20_600));
/// assert_eq!(clock.jumps(), 0);
/// ```
#[derive(Clone, Debug)]
pub struct StampClock {
    /// The smallest difference in the window before this one, and in this one.
    offsets: Option<[i128; 2]>,
    /// The offset that is used: it follows the smallest difference in steps, so that spans between events stay exact.
    used: i128,
    /// When this window began.
    began: Moment,
    jumps: u64,
    last: [Moment; MOST_DEVICES],
}

impl Default for StampClock {
    fn default() -> StampClock {
        StampClock { offsets: None, used: 0, began: Moment::ZERO, jumps: 0, last: [Moment::ZERO; MOST_DEVICES] }
    }
}

impl StampClock {
    /// A clock whose offset is not known yet.
    pub fn new() -> StampClock {
        StampClock::default()
    }

    /// The other clock read this just before `now`: where it can be asked, no event's delay has to be guessed.
    pub fn sync(&mut self, stamp: u64, now: Moment) {
        self.measure(stamp, now);
    }

    /// The moment of an event of a device, stamped in microseconds of the other clock, that arrived now.
    pub fn moment(&mut self, device: Device, stamp: u64, arrived: Moment) -> Moment {
        let offset = self.measure(stamp, arrived);
        let at = u64::try_from(i128::from(stamp) + offset).unwrap_or(0);
        self.in_order(device, Moment::from_micros(at), arrived)
    }

    fn measure(&mut self, stamp: u64, arrived: Moment) -> i128 {
        let apart = i128::from(arrived.as_micros()) - i128::from(stamp);
        let [before, now] = match self.offsets {
            Some([before, now]) if (apart - before.min(now)).abs() > JUMP => {
                self.jumps += 1;
                self.began = arrived;
                [apart; 2]
            }
            Some([_, now]) if arrived.as_micros() > self.began.as_micros() + WINDOW => {
                self.began = arrived;
                [now, apart]
            }
            Some([before, now]) => [before, now.min(apart)],
            None => {
                (self.began, self.used) = (arrived, apart);
                [apart; 2]
            }
        };
        self.offsets = Some([before, now]);
        let smallest = before.min(now);
        if (smallest - self.used).abs() >= STEP {
            self.used = smallest;
        }
        self.used
    }

    /// The moment of an event that has no stamp: its arrival.
    pub fn unstamped(&mut self, device: Device, arrived: Moment) -> Moment {
        self.in_order(device, arrived, arrived)
    }

    /// Not before the device's last event, and not in the future.
    fn in_order(&mut self, device: Device, at: Moment, arrived: Moment) -> Moment {
        let last = &mut self.last[device.number()];
        *last = at.max(*last).min(arrived.max(*last));
        *last
    }

    /// How often the other clock jumped.
    pub fn jumps(&self) -> u64 {
        self.jumps
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_clock_that_is_set_is_measured_again_and_no_device_goes_back_or_ahead() {
        let mut dice = fastrand::Rng::with_seed(3);
        let (mut clock, mut now, mut ahead) = (StampClock::new(), 0u64, 1_000_000_000_000i64);
        let (mut last, mut set) = ([0; 2], 0);
        for _ in 0..20_000 {
            now += dice.u64(1..30_000);
            if dice.u32(0..500) == 0 {
                let by = dice.i64(300_000..5_000_000);
                ahead += if dice.bool() { by } else { -by };
                set += 1;
            }
            // Told up to 20 ms late.
            let late = dice.u64(0..20_000).min(now);
            let stamp = (now - late) as i64 + ahead;
            let place = dice.usize(0..2);
            let at = clock.moment(Device::new(place).unwrap(), stamp as u64, Moment::from_micros(now)).as_micros();
            assert!(at <= now && at >= last[place], "{at} of {now}, after {}", last[place]);
            assert!(now - at <= 40_000, "{} behind", now - at);
            last[place] = at;
        }
        assert_eq!(clock.jumps(), set);
    }

    #[test]
    fn clocks_that_drift_apart_stay_together_for_hours() {
        // The other clock loses, or gains, 100 µs a second; events take 200 µs to 5 ms.
        for drift in [-100i64, 100] {
            let mut dice = fastrand::Rng::with_seed(9);
            let (mut clock, mut now) = (StampClock::new(), 0u64);
            while now < 3 * 3_600_000_000 {
                now += dice.u64(1_000..500_000);
                let happened = now;
                let stamp = 1_000_000_000_000 + happened as i64 + happened as i64 / 1_000_000 * drift;
                let arrived = happened + dice.u64(200..5_000);
                let at = clock.moment(Device::default(), stamp as u64, Moment::from_micros(arrived)).as_micros();
                assert!(at + 1_000 >= happened && at <= arrived, "{at} for {happened}, arrived at {arrived}");
                now = arrived;
            }
            assert_eq!(clock.jumps(), 0);
        }
    }

    #[test]
    fn a_device_whose_stamps_go_back_a_little_stands_still() {
        let (mut clock, pad) = (StampClock::new(), Device::default());
        let at = |clock: &mut StampClock, stamp, now| clock.moment(pad, stamp, Moment::from_micros(now)).as_micros();
        assert_eq!(at(&mut clock, 9_000, 100), 100);
        assert_eq!(at(&mut clock, 9_500, 700), 600);
        assert_eq!(at(&mut clock, 9_400, 800), 600);
        assert_eq!(clock.unstamped(pad, Moment::from_micros(500)).as_micros(), 600);
        assert_eq!((at(&mut clock, 400_000_000, 900), clock.jumps()), (900, 1), "far ahead: it was set");
    }
}
