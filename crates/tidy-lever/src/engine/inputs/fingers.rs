//! Fingers on the panel: where its patches lie, and which of them a finger moves.
//!
//! ```text
//!   finger down ──▶ the nearest heard patch within reach owns it until it lifts
//!              └──▶ none: the zone it lies in, and the pointer
//! ```
//!
//! Lengths are in units of the screen's shorter side, so that one layout fits all screens; places on the screen are
//! whole millionths of a pixel.

use super::busy::{Busy, Taken};
use crate::direction::Direction;
use crate::engine::incoming::Due;
use crate::engine::part::own_fields;
use crate::event::Phase;
use crate::index::PatchIndex;
use crate::linkage::{PatchPlan, Place};
use crate::profile::PatchKind;

/// How far beside a patch a finger still hits it, in millionths of the shorter side.
const BESIDE: i64 = 25_000;
/// The most fingers at a time; more are counted and not heard.
pub(crate) const FINGERS: usize = 16;
/// The most fingers that are down or have events waiting; with more, the seat must be advanced before it takes another.
const NAMES: usize = 32;
/// What a finger moves.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) enum Stage {
    /// It is up.
    #[default]
    Free,
    /// A patch.
    Owned(PatchIndex),
    /// A zone or none, and the pointer or not.
    Wild(Option<PatchIndex>, bool),
    /// Nothing any more, until it lifts.
    Dead,
}

/// A finger on the screen.
#[derive(Clone, Copy, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Finger {
    pub(crate) stage: Stage,
    pub(crate) local: u8,
    /// Its place among the names.
    pub(crate) name: u8,
    pub(crate) origin: Place,
    pub(crate) place: Place,
    /// Where the thumb on a cross points.
    pub(crate) direction: Option<Direction>,
}

/// What a device calls a finger, while it is down or events of it wait.
#[derive(Clone, Copy, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
struct Name {
    device: u8,
    number: u64,
    /// How many events of it wait.
    waiting: u32,
    busy: Busy,
}

/// All fingers: by what their devices call them, and as played.
#[derive(Clone, Copy, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Fingers {
    names: [Name; NAMES],
    pub(crate) played: [Finger; FINGERS],
    pub(crate) hidden: bool,
    /// Whether there was ever a finger: many seats have none.
    touched: bool,
}

impl Default for Fingers {
    fn default() -> Fingers {
        let (names, played) = ([Name::default(); NAMES], [Finger::default(); FINGERS]);
        Fingers { names, played, hidden: false, touched: false }
    }
}

impl Fingers {
    /// Becomes another one.
    #[inline]
    pub(crate) fn copy_from(&mut self, other: &Fingers) {
        if self.touched || other.touched {
            *self = *other;
        }
        self.hidden = other.hidden;
    }

    /// Whether fingers that were read move patches that there are.
    #[cfg(feature = "serde")]
    pub(crate) fn fits(&self, patches: usize) -> bool {
        self.played.iter().all(|finger| match finger.stage {
            Stage::Owned(patch) | Stage::Wild(Some(patch), _) => usize::from(patch) < patches,
            Stage::Free | Stage::Wild(None, _) | Stage::Dead => true,
        })
    }

    fn is_free(&self, name: usize) -> bool {
        self.names[name].waiting == 0 && self.down(name).is_none()
    }

    fn find(&self, device: u8, number: u64) -> Option<usize> {
        (0..NAMES).find(|name| {
            let known = &self.names[*name];
            (known.device, known.number) == (device, number) && !self.is_free(*name)
        })
    }

    /// Whether an event of this finger finds a name, or a free place for one.
    pub(crate) fn has_name_for(&self, device: u8, number: u64) -> bool {
        self.find(device, number).is_some() || (0..NAMES).any(|name| self.is_free(name))
    }

    /// The place of a finger's name for one more event that will wait, made if new.
    pub(crate) fn name(&mut self, device: u8, number: u64) -> Option<u16> {
        let known = self.find(device, number);
        let place = known.or_else(|| (0..NAMES).find(|name| self.is_free(*name)))?;
        if known.is_none() {
            self.names[place] = Name { device, number, ..Name::default() };
        }
        self.names[place].waiting += 1;
        self.touched = true;
        Some(place as u16)
    }

    /// The finger of a name that is down.
    pub(crate) fn down(&self, name: usize) -> Option<usize> {
        self.played.iter().position(|finger| finger.stage != Stage::Free && usize::from(finger.name) == name)
    }

    /// Whether a waiting event of a finger plays now; unless it plays later, it waits no longer.
    pub(crate) fn turn(&mut self, name: usize, phase: Phase, due: Due) -> Taken {
        let level = |down: bool| (i32::from(down), 0);
        let stands = level(self.down(name).is_some());
        let name = &mut self.names[name];
        let turn = match phase {
            // One that is down already lost its lifting.
            Phase::Down => name.busy.change(due, stands, level(true), true),
            Phase::Move => name.busy.follow(due),
            Phase::Up | Phase::Cancel => name.busy.change(due, stands, level(false), false),
        };
        if !matches!(turn, Taken::Later(_)) {
            name.waiting -= 1;
        }
        turn
    }

    /// The finger that owns a patch.
    pub(crate) fn owner(&self, patch: PatchIndex) -> Option<usize> {
        let owns = |finger: &Finger| match finger.stage {
            Stage::Owned(own) => own == patch,
            Stage::Wild(zone, _) => zone == Some(patch),
            Stage::Free | Stage::Dead => false,
        };
        self.played.iter().position(owns)
    }

    /// Whether a finger moves the pointer.
    pub(crate) fn points(&self) -> bool {
        self.played.iter().any(|finger| matches!(finger.stage, Stage::Wild(_, true)))
    }

    /// What a state's hash is made of for one waiting event: the finger's number and until when it lines up.
    pub(crate) fn waiting_words(&self, name: usize) -> [u64; 4] {
        let Name { device: _, number, waiting: _, busy } = self.names[name];
        let [changed, until, pending] = busy.words();
        [number, changed, until, pending]
    }

    /// What a state's hash is made of.
    pub(crate) fn words(&self, mut word: impl FnMut(u64)) {
        // Names matter through what is down, and through what waits.
        let Fingers { names, played, hidden, touched: _ } = self;
        word(u64::from(*hidden));
        for finger in played {
            let Finger { stage, local, name, origin, place, direction } = *finger;
            let number = match stage {
                Stage::Free => 0,
                Stage::Owned(patch) => 1 << 32 | u64::from(patch.number()),
                Stage::Wild(zone, points) => {
                    let zone = zone.map_or(u64::from(u16::MAX), |zone| u64::from(zone.number()));
                    2 << 32 | zone << 1 | u64::from(points)
                }
                Stage::Dead => 3 << 32,
            };
            word(number);
            if stage != Stage::Free {
                word(names[usize::from(name)].number);
                [origin.0, origin.1, place.0, place.1].into_iter().for_each(|n| word(n as u64));
                word(u64::from(local) << 8 | direction.map_or(0, |d| d as u64 + 1));
            }
        }
    }
}

/// The patch that a finger going down here hits: the nearest of those that are heard, zones behind all others.
pub(crate) fn hit(
    patches: &[PatchPlan],
    place: Place,
    view: [u32; 2],
    heard: impl Fn(PatchIndex) -> bool,
) -> Option<PatchIndex> {
    let beside = BESIDE * i64::from(view[0].min(view[1]));
    let reach = |zone: bool| {
        let near = move |(_, patch): &(usize, &PatchPlan)| (patch.kind == PatchKind::Zone) == zone;
        let all = patches
            .iter()
            .enumerate()
            .filter(near)
            .map(|(number, patch)| (patch.outside(place, view), PatchIndex::new(number as u16)));
        let within = if zone { 0 } else { beside };
        all.filter(|(outside, number)| *outside <= within && heard(*number)).min().map(|(_, number)| number)
    };
    reach(false).or_else(|| reach(true))
}

own_fields! {
    Fingers, (own, _, word) => own.words(word);
}
