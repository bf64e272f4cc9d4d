//! Which family of controls the player used last: for prompts, and for showing or hiding the panel.
//!
//! A press counts at once, a finger too; a stick or a trigger from half its way on, a mouse after some way: noise changes
//! nothing.

use crate::control::{Family, Sort};
use crate::engine::inputs::Inputs;
use crate::engine::inputs::used::{COUNTS, HALF, SHARE};
use crate::fixed;
use crate::index::run;
use crate::linkage::SlotPlan;

impl Inputs {
    /// A control said something: maybe its family is the one in use now.
    #[inline(always)]
    pub(crate) fn uses(&mut self, how: &SlotPlan, (x, y): (i32, i32)) {
        if how.sort != Sort::Pair || !how.contacts.is_empty() {
            self.uses_any(how, (x, y));
        } else {
            // A stick without a direction as a button, as most are.
            self.uses_pair(how.family, (x, y));
        }
    }

    #[inline(always)]
    pub(crate) fn uses_pair(&mut self, family: Family, (x, y): (i32, i32)) {
        if !self.used.is_by(family) && fixed::reaches(x, y, HALF) {
            self.used.take(family);
        }
    }

    #[inline(never)]
    fn uses_any(&mut self, how: &SlotPlan, (x, y): (i32, i32)) {
        let family = how.family;
        match how.sort {
            Sort::Button | Sort::Notch if x > 0 => self.used.take(family),
            Sort::Level if x >= HALF => self.used.take(family),
            Sort::Pair => {
                // By the shaped level where there is one: a dead zone swallows the noise.
                let pressed = run(&how.contacts).any(|contact| self.board.turned[contact] > 0);
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
                // In counts, so that both map of moving add up.
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
    pub(crate) fn uses_touch(&mut self) {
        self.used.take(Family::Touch);
    }
}
