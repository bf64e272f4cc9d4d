//! How the panel stands.

use super::Seat;
use crate::engine::inputs::Here;
use crate::index::PatchIndex;
use crate::panel::PatchReading;

impl Seat {
    /// How each patch of the panel stands, in the order of [`Linkage::patches`](crate::Linkage::patches).
    pub fn panel(&self) -> impl Iterator<Item = PatchReading> {
        let (plan, engine) = (self.plan(), &self.engine);
        let here = Here::new(&plan.inputs, &engine.world.listening, engine.played());
        plan.inputs.panel.iter().enumerate().map(move |(number, patch)| {
            let finger = engine
                .inputs
                .fingers
                .owner(PatchIndex::new(number as u16))
                .map(|slot| &engine.inputs.fingers.played[slot]);
            PatchReading::new(
                patch,
                finger,
                engine.inputs.view,
                engine.inputs.hears_patch(here, PatchIndex::new(number as u16)),
            )
        })
    }
}
