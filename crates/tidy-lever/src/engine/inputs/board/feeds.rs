//! Feeds: levels by device; and which sticks and axes have one away from rest, as nearly always one look is enough.

use super::Board;
use crate::engine::inputs::value::Value;
use crate::engine::press::ORDER_BITS;
use crate::fixed;
use crate::linkage::{FeedPlan, InputsPlan};
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
    /// How long its pair is.
    pub(in crate::engine) fn size(&self) -> i32 {
        fixed::length(self.x, self.y)
    }

    #[inline(always)]
    pub(in crate::engine) fn value(&self, digital: bool) -> Value {
        Value::given((self.x, self.y), self.push, digital)
    }
}

/// How many whole feeds of a stick or an axis are away from rest, and the one that left it last.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct ActiveFeeds {
    pub(crate) count: u32,
    pub(crate) feed: u32,
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

    /// Sets a feed's level on one device; it left its rest when it was at 0.
    #[inline(always)]
    pub(crate) fn set_feed(&mut self, (how, number): (&FeedPlan, u32), local: u8, bent: Bent) {
        let Bent { to: (x, y), push } = bent;
        let feed = &mut self.feeds[usize::from(local) * self.away.len() + number as usize];
        let was_at_rest = (feed.x | feed.y) == 0;
        (feed.x, feed.y, feed.push) = (x, y, push);
        if ((x | y) == 0) != was_at_rest {
            self.feed_stirs((how, number), local, was_at_rest);
        }
    }

    /// A feed left its rest on one device, or came to it.
    #[inline(never)]
    fn feed_stirs(&mut self, (how, number): (&FeedPlan, u32), local: u8, leaves: bool) {
        let place = usize::from(local) * self.away.len() + number as usize;
        let (away, left) = (&mut self.away[number as usize], &mut self.feeds[place].left);
        if leaves {
            *away |= 1 << local;
            self.order += 1;
            *left = self.order << ORDER_BITS;
        } else {
            *away &= !(1 << local);
            *left = 0;
        }
        if let Some(stick) = how.moved.filter(|_| !how.leg) {
            let stirred = &mut self.stirred[usize::from(stick)];
            if leaves {
                (stirred.count, stirred.feed) = (stirred.count.saturating_add(1), number);
            } else {
                stirred.count = stirred.count.saturating_sub(1);
            }
        }
    }

    /// Counts again which feeds are away from rest.
    pub(crate) fn stir(&mut self, plan: &InputsPlan) {
        self.stirred.clear();
        self.stirred.resize(plan.moved.len(), ActiveFeeds::default());
        for (number, away) in self.away.iter().enumerate().filter(|(_, away)| **away != 0) {
            let feed = &plan.feeds[number];
            if let Some(stick) = feed.moved.filter(|_| !feed.leg) {
                let stirred = &mut self.stirred[usize::from(stick)];
                *stirred = ActiveFeeds { count: stirred.count + away.count_ones(), feed: number as u32 };
            }
        }
    }

    /// The feed of a stick or an axis that is away from rest, and what it gives, where one alone is.
    #[inline(always)]
    pub(in crate::engine) fn only_stirred(&self, moved: usize) -> Option<(usize, &Feed)> {
        let feed = self.stirred[moved].feed as usize;
        let devices = *self.away.get(feed)?;
        let place = devices.trailing_zeros() as usize * self.away.len() + feed;
        if devices.is_power_of_two() { Some((feed, self.feeds.get(place)?)) } else { None }
    }

    /// How many feeds of a stick or an axis are away from rest, counted by device.
    #[inline(always)]
    pub(crate) fn stirred(&self, moved: usize) -> u32 {
        self.stirred[moved].count
    }
}
