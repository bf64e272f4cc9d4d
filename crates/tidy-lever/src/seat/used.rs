//! Which family of controls the player used last: for prompts, and for showing or hiding the panel.
//!
//! A press counts at once, a finger too; a stick or a trigger from half its way on, a mouse after some way: noise changes
//! nothing.

use super::block::Block;
use crate::control::{Family, Sort};
use crate::fixed::{self, ONE};
use crate::index::run;
use crate::linkage::Plan;

/// A stick or a trigger is used from here on.
const HALF: i32 = ONE / 2;
/// So many counts, or this many millionths of the view, a mouse goes before it is used.
const COUNTS: i64 = 40 * ONE as i64;
const SHARE: i64 = ONE as i64 / 50;

/// The family used last.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Used {
    /// By its number and 1; 0 for none yet.
    family: u8,
    /// How often it changed.
    pub(crate) changes: u32,
    /// The changes before the last `advance`.
    pub(crate) before: u32,
    /// How far the mouse went since another family was used; and where its pointer was last.
    gone: i64,
    place: Option<(i32, i32)>,
}

impl Used {
    pub(crate) fn family(&self) -> Option<Family> {
        Family::ALL.get(usize::from(self.family).wrapping_sub(1)).copied()
    }

    fn take(&mut self, family: Family) {
        let number = family.index() as u8 + 1;
        if family != Family::Mouse {
            self.gone = 0;
        }
        if core::mem::replace(&mut self.family, number) != number {
            self.changes = self.changes.wrapping_add(1);
        }
    }

    /// What a state's hash is made of. How often it changed, and how often before the last tick, tells of the past alone.
    pub(crate) fn words(&self) -> [u64; 3] {
        let Used { family, changes: _, before: _, gone, place } = *self;
        let place = place.map_or(u64::MAX, |(x, y)| u64::from(x as u32) << 32 | u64::from(y as u32));
        [u64::from(family), gone as u64, place]
    }
}

impl Block {
    /// A control said something: maybe its family is the one in use now.
    #[inline]
    pub(super) fn uses(&mut self, plan: &Plan, slot: u16, (x, y): (i32, i32)) {
        let how = &plan.inputs.slots[usize::from(slot)];
        let family = how.control.family();
        match how.sort {
            Sort::Button | Sort::Notch if x > 0 => self.used.take(family),
            Sort::Level if x >= HALF => self.used.take(family),
            Sort::Pair => {
                // By the shaped level where there is one: a dead zone swallows the noise.
                let pressed = run(&how.contacts).any(|contact| self.board.contacts[contact].turned > 0);
                if pressed || fixed::reaches(x, y, HALF) {
                    self.used.take(family);
                }
            }
            Sort::Counts => {
                self.used.gone += i64::from(fixed::length(x, y));
                if self.used.gone >= COUNTS {
                    self.used.take(family);
                }
            }
            Sort::Place => {
                let (px, py) = self.used.place.replace((x, y)).unwrap_or((x, y));
                // In counts, so that both ways of moving add up.
                let way = i64::from(fixed::length(x.saturating_sub(px), y.saturating_sub(py)));
                self.used.gone += way * COUNTS / SHARE;
                if self.used.gone >= COUNTS {
                    self.used.take(family);
                }
            }
            _ => {}
        }
    }

    /// A finger went down.
    pub(super) fn uses_touch(&mut self) {
        self.used.take(Family::Touch);
    }
}
