//! Feeds: levels by device; and which sticks and axes have one away from rest, as nearly always one look is enough.

use super::{Board, ORDER_BITS};
use crate::fixed;
use crate::inputs::{InputsPlan, Points, Stand};
use crate::shape::Bent;

/// A control used as a level, on one device: shaped, unless it is a leg.
#[derive(Clone, Copy, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Feed {
    pub(crate) x: i32,
    pub(crate) y: i32,
    /// What the dead zone leaves, before curve and scale.
    pub(crate) push: (i32, i32),
    /// Which left its rest later; 0 while at rest.
    pub(crate) left: u64,
}

impl Feed {
    #[inline]
    pub(in crate::inputs) fn stand(&self) -> Stand {
        let size = fixed::length(self.x, self.y);
        Stand { to: (self.x, self.y), push: self.push, size, points: Points::Unknown }
    }
}

/// How many whole feeds of a stick or an axis are away from rest, and the one that left it last.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Stirred {
    pub(super) count: u32,
    pub(super) feed: u32,
}

/// What a feed stirs, if it is a whole one.
#[inline(always)]
fn stirred_by<'s>(plan: &InputsPlan, all: &'s mut [Stirred], number: usize) -> Option<&'s mut Stirred> {
    let feed = &plan.feeds[number];
    if feed.leg { None } else { all.get_mut(usize::from(feed.moved)) }
}

impl Board {
    /// A feed on each of the devices on which it is away from rest.
    #[inline]
    pub(crate) fn away(&self, feed: usize) -> impl Iterator<Item = &Feed> {
        let mut bits = self.away[feed];
        core::iter::from_fn(move || {
            let local = (bits != 0).then_some(bits.trailing_zeros() as usize)?;
            bits &= bits - 1;
            self.feeds.get(local * self.away.len() + feed)
        })
    }

    /// What a feed gives on one device.
    #[inline]
    fn feed(&self, feed: usize, local: usize) -> Stand {
        self.feeds.get(local * self.away.len() + feed).map_or(Stand::default(), Feed::stand)
    }

    /// Sets a feed's level on one device; it left its rest when it was at 0.
    #[inline]
    pub(crate) fn set_feed(&mut self, plan: &InputsPlan, number: usize, local: usize, Bent { to: (x, y), push }: Bent) {
        let place = local * self.away.len() + number;
        let (away, feed) = (&mut self.away[number], &mut self.feeds[place]);
        let was_at_rest = (feed.x, feed.y) == (0, 0);
        (feed.x, feed.y, feed.push) = (x, y, push);
        let is_at_rest = (x, y) == (0, 0);
        if is_at_rest == was_at_rest {
            return;
        }
        if is_at_rest {
            *away &= !(1 << local);
            feed.left = 0;
        } else {
            *away |= 1 << local;
            self.order += 1;
            feed.left = self.order << ORDER_BITS;
        }
        if let Some(stirred) = stirred_by(plan, &mut self.stirred, number) {
            if is_at_rest {
                stirred.count = stirred.count.saturating_sub(1);
            } else {
                (stirred.count, stirred.feed) = (stirred.count.saturating_add(1), number as u32);
            }
        }
    }

    /// Counts again which feeds are away from rest.
    pub(crate) fn stir(&mut self, plan: &InputsPlan) {
        self.stirred.clear();
        self.stirred.resize(plan.moved.len(), Stirred::default());
        for (number, away) in self.away.iter().enumerate().filter(|(_, away)| **away != 0) {
            if let Some(stirred) = stirred_by(plan, &mut self.stirred, number) {
                *stirred = Stirred { count: stirred.count + away.count_ones(), feed: number as u32 };
            }
        }
    }

    /// The feed of a stick or an axis that is away from rest, and what it gives, where one alone is.
    #[inline(always)]
    pub(in crate::inputs) fn only_stirred(&self, moved: usize) -> Option<(usize, Stand)> {
        let feed = self.stirred[moved].feed as usize;
        let devices = *self.away.get(feed)?;
        devices.is_power_of_two().then(|| (feed, self.feed(feed, devices.trailing_zeros() as usize)))
    }

    /// How many feeds of a stick or an axis are away from rest, counted by device.
    #[inline(always)]
    pub(in crate::inputs) fn stirred(&self, moved: usize) -> u32 {
        self.stirred[moved].count
    }
}
