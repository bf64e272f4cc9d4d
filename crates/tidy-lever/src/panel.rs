//! The panel: on-screen touch controls, for drawing them and for checking that hands can hit them.

use alloc::format;
use alloc::string::String;
use alloc::vec::Vec;

use crate::engine::inputs::fingers::Finger;
use crate::fixed::{self, ONE};
use crate::linkage::{Linkage, PatchPlan, Place, length};
use crate::mode::meet;
pub use crate::profile::PatchKind;

/// Below this, a patch is hard to hit (EN 301 549 and ISO 9241-9 ask for 9 mm and more).
const SMALLEST_MM: f64 = 9.0;

/// A patch, for drawing: what it is and where it lies.
#[derive(Clone, Copy, Debug)]
pub struct PatchView<'l> {
    pub(crate) plan: &'l PatchPlan,
    pub(crate) linkage: &'l Linkage,
}

/// Where a patch lies on a screen, in pixels from the top left.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct PatchFrame {
    /// Its middle.
    pub middle: (f32, f32),
    /// Half its width and height; a radius, but for zones.
    pub half: (f32, f32),
}

fn pixels(place: Place) -> (f32, f32) {
    ((place.0 as f64 / 1e6) as f32, (place.1 as f64 / 1e6) as f32)
}

impl<'l> PatchView<'l> {
    /// The touch control's name in the profile.
    pub fn name(&self) -> &'l str {
        &self.plan.name
    }

    /// What it is.
    pub fn kind(&self) -> PatchKind {
        self.plan.kind
    }

    /// Whether its middle is where the thumb goes down.
    pub fn floats(&self) -> bool {
        self.plan.floats
    }

    /// The actions that hear it.
    pub fn actions(&self) -> impl Iterator<Item = &'l str> {
        let linkage = self.linkage;
        self.plan.actions.iter().map(move |action| linkage.action_name(usize::from(*action)))
    }

    /// Where it lies on a screen of this many pixels.
    pub fn frame(&self, width: u32, height: u32) -> PatchFrame {
        let (middle, half) = self.plan.frame([width, height]);
        PatchFrame { middle: pixels(middle), half: pixels(half) }
    }
}

/// The state of a patch, for drawing.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct PatchReading {
    /// Whether any action uses it now; otherwise it need not be drawn.
    pub is_heard: bool,
    /// Whether a finger holds it.
    pub is_held: bool,
    /// What is lit: right and up, −1 to 1; a held button is 1, 0.
    pub lit: (f32, f32),
    /// Its middle in pixels; of a floating stick, where the thumb went down.
    pub middle: (f32, f32),
    /// Where the thumb is, in pixels.
    pub thumb: Option<(f32, f32)>,
}

impl PatchReading {
    pub(crate) fn new(plan: &PatchPlan, finger: Option<&Finger>, view: [u32; 2], is_heard: bool) -> PatchReading {
        let lit = finger.map_or((0, 0), |finger| plan.level((finger.origin, finger.place), finger.direction, view).0);
        let (middle, _) = plan.frame(view);
        let floated = finger.filter(|_| plan.floats).map_or(middle, |finger| finger.origin);
        PatchReading {
            is_heard,
            is_held: finger.is_some(),
            lit: (fixed::to_f32(lit.0), fixed::to_f32(lit.1)),
            middle: pixels(floated),
            thumb: finger.map(|finger| pixels(finger.place)),
        }
    }
}

impl Linkage {
    /// The panel's patches, in the order of the profile.
    pub fn patches(&self) -> impl Iterator<Item = PatchView<'_>> {
        self.0.inputs.panel.iter().map(|plan| PatchView { plan, linkage: self })
    }

    /// Problems of the panel on a screen of this many pixels and dots per inch: patches that reach beyond it, overlap while
    /// both are active, or are too small to hit.
    pub fn panel_problems(&self, width: u32, height: u32, dpi: f64) -> Vec<String> {
        let mut problems = Vec::new();
        let plan = &*self.0;
        let name = |patch: &PatchPlan| format!("panel.{}", patch.name);
        for (place, patch) in plan.inputs.panel.iter().enumerate() {
            let (middle, half) = patch.frame([width, height]);
            let beyond =
                |at: i64, half: i64, whole: u32| at - half < 0 || at + half > i64::from(whole) * i64::from(ONE);
            if beyond(middle.0, half.0, width) || beyond(middle.1, half.1, height) {
                problems.push(format!("{}: it reaches beyond the edge of a {width}x{height} screen", name(patch)));
            }
            let across = 2.0 * half.0.min(half.1) as f64 / 1e6 / dpi * 25.4;
            if across < SMALLEST_MM {
                let dots = format!("{width}x{height} at {dpi} dots per inch");
                problems.push(format!(
                    "{}: it is {across:.1} mm wide at {dots}; below {SMALLEST_MM} mm it is hard to hit",
                    name(patch)
                ));
            }
            for other in &plan.inputs.panel[..place] {
                let (there, size) = other.frame([width, height]);
                let (dx, dy) = ((middle.0 - there.0).abs(), (middle.1 - there.1).abs());
                let zones = [patch.kind, other.kind].contains(&PatchKind::Zone);
                let over = !zones && length(dx, dy) < half.0 + size.0;
                let together = patch.actions.iter().any(|a| {
                    let heard = |number: u16| &plan.actions[usize::from(number)].heard;
                    other.actions.iter().any(|b| meet(&plan.world.modes, heard(*a), heard(*b)))
                });
                if over && together {
                    problems.push(format!(
                        "{}: it overlaps `{}`, and both can be active at the same time",
                        name(patch),
                        other.name
                    ));
                }
            }
            if patch.actions.is_empty() {
                problems.push(format!(
                    "{}: no action uses this touch control; bind it with `touch = \"{}\"`",
                    name(patch),
                    patch.name
                ));
            }
        }
        problems
    }
}
