//! Where a stick's middle is: the place at which it comes to rest after springing back, when three places agree.

use super::{PUSHED, STILL, hundredths, is_still};
use crate::fixed::{ONE, square};

/// A spring-back ends below this push.
const NEAR: i64 = hundredths(25);
/// It takes no longer than this, in µs.
const SPRING: u64 = 60_000;
/// A stick rests after so long in one place; and so long before it is first pushed.
const REST: u64 = 100_000;
const FIRST_REST: u64 = 250_000;
/// A place beyond this push is not a middle.
const FARTHEST: i64 = hundredths(20);
/// How far places may lie apart that agree, on either axis.
const AGREES: i32 = ONE / 20;
/// How many places are known, and how many of them must agree.
const PLACES: usize = 5;
const ENOUGH: usize = 3;

/// What is looked for.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
enum Looks {
    /// The stick has not spoken, or its middle as found is known.
    #[default]
    No,
    /// For the first rest, before any push.
    First,
    /// For the rest after a spring-back.
    Rest,
}

/// The middle of one stick.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Centre {
    pub(super) middle: (i32, i32),
    /// Where it came to rest, the newest last.
    places: [(i32, i32); PLACES],
    known: u8,
    /// It was pushed before, or its first rest is over.
    began: bool,
    looks: Looks,
    /// The moment at which a push of 0.6 ended, plus 1; 0 if none did lately.
    fell: u64,
    /// It is pushed by 0.6 or more.
    pushed: bool,
    /// The first sample of the stretch of rest, and its moment.
    first: (i32, i32),
    since: u64,
}

impl Centre {
    /// Its middle, and the places at which the stick came to rest, the newest last.
    pub(super) fn known(&self) -> ((i32, i32), &[(i32, i32)]) {
        (self.middle, &self.places[..usize::from(self.known)])
    }

    /// One that knows its middle and the last of these places.
    pub(super) fn that_knows(middle: (i32, i32), places: &[(i32, i32)]) -> Centre {
        let last = &places[places.len().saturating_sub(PLACES)..];
        let mut centre = Centre { middle, known: last.len() as u8, began: true, ..Centre::default() };
        centre.places[..last.len()].copy_from_slice(last);
        centre
    }

    /// One with a middle that is told, and no place seen yet.
    pub(super) fn at(middle: (i32, i32)) -> Centre {
        Centre { middle, ..Centre::default() }
    }

    /// Whether nothing but a fall, or a push, is news.
    pub(super) fn is_idle(&self) -> bool {
        self.looks == Looks::No && self.fell == 0 && self.began
    }

    /// Where the stick was is forgotten.
    pub(super) fn is_asked(&mut self) {
        (self.pushed, self.fell, self.looks) = (false, 0, Looks::No);
    }

    /// A sample, as the device says it.
    pub(super) fn says(&mut self, at: u64, now: (i32, i32)) {
        let push = square(now.0, now.1);
        if push >= PUSHED {
            (self.pushed, self.began, self.looks) = (true, true, Looks::No);
            return;
        }
        if core::mem::take(&mut self.pushed) {
            self.fell = at + 1;
        }
        if self.fell > 0 && push < NEAR {
            if at < self.fell + SPRING {
                self.looks_from(Looks::Rest, at, now);
            }
            self.fell = 0;
            return;
        }
        match self.looks {
            Looks::No if !self.began => {
                self.began = push >= NEAR;
                if !self.began {
                    self.looks_from(Looks::First, at, now);
                }
            }
            Looks::No => {}
            Looks::First if push >= NEAR => (self.looks, self.began) = (Looks::No, true),
            Looks::First | Looks::Rest => {
                if !is_still(now, self.first) {
                    (self.first, self.since) = (now, at);
                }
            }
        }
    }

    fn looks_from(&mut self, looks: Looks, at: u64, now: (i32, i32)) {
        (self.looks, self.first, self.since) = (looks, now, at);
    }

    /// When it will have rested for long enough; `None` while it doesn't rest.
    pub(super) fn due(&self) -> Option<u64> {
        match self.looks {
            Looks::No => None,
            Looks::First => Some(self.since + FIRST_REST),
            Looks::Rest => Some(self.since + REST),
        }
    }

    /// It rested for long enough, and stands here: whether its middle is another one now.
    pub(super) fn rested(&mut self, now: (i32, i32)) -> bool {
        let before = self.middle;
        let looked = core::mem::take(&mut self.looks);
        let first_of_all = looked == Looks::First;
        self.began = true;
        if square(now.0, now.1) > FARTHEST {
            return false;
        }
        if first_of_all {
            self.middle = now;
            return before != now;
        }
        if usize::from(self.known) == PLACES {
            self.places.rotate_left(1);
            self.known -= 1;
        }
        self.places[usize::from(self.known)] = now;
        self.known += 1;
        let near = |place: &&(i32, i32)| (place.0 - now.0).abs() <= AGREES && (place.1 - now.1).abs() <= AGREES;
        let agreeing = || self.places[..usize::from(self.known)].iter().filter(near);
        if agreeing().count() >= ENOUGH {
            let median = |axis: fn(&(i32, i32)) -> i32| {
                let (mut all, mut count) = ([0; PLACES], 0);
                for place in agreeing() {
                    all[count] = axis(place);
                    count += 1;
                }
                all[..count].sort_unstable();
                // Between the two in the middle, if there are two.
                (all[(count - 1) / 2] + all[count / 2]) / 2
            };
            self.middle = (median(|place| place.0), median(|place| place.1));
        }
        before != self.middle
    }

    /// A sample as seen from the middle: the short side is stretched, so that all the way stays all the way.
    #[inline]
    pub(super) fn seen(&self, (x, y): (i32, i32)) -> (i32, i32) {
        if self.middle == (0, 0) { (x, y) } else { (from_middle(x, self.middle.0), from_middle(y, self.middle.1)) }
    }

    /// What a state's hash is made of.
    pub(super) fn words(&self, mut word: impl FnMut(u64)) {
        let pair = |(x, y): (i32, i32)| u64::from(x as u32) << 32 | u64::from(y as u32);
        word(pair(self.middle));
        self.places[..usize::from(self.known)].iter().for_each(|place| word(pair(*place)));
        word(u64::from(self.known) << 8 | u64::from(self.began) << 4 | u64::from(self.pushed) << 3 | self.looks as u64);
        word(self.fell);
        word(pair(self.first));
        word(self.since);
    }
}

/// One axis as seen from its middle.
fn from_middle(value: i32, middle: i32) -> i32 {
    let by = i64::from(value) - i64::from(middle);
    // The short side is the one that the middle lies on.
    let by = if by.signum() == i64::from(middle.signum()) {
        let rest = i64::from(ONE) - i64::from(middle).abs();
        (by * i64::from(ONE) + by.signum() * rest / 2) / rest.max(1)
    } else {
        by
    };
    by.clamp(-i64::from(ONE), i64::from(ONE)) as i32
}

const _: () = assert!(STILL < AGREES);
