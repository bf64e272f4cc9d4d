//! `release`: pulls at letting go, an instant. A going up that the system made up pulls nothing.

use super::{Bench, Edge, Presses, Verdict};
use crate::history::Cause;

pub(super) fn hears(edge: Edge, bench: &mut Bench<'_>) -> Verdict {
    match edge {
        Edge::Down { press, first, .. } => {
            if first {
                bench.trial.presses = Presses::default();
            }
            bench.trial.presses.push(press);
            bench.trial.open = true;
            Verdict::None
        }
        Edge::Up { cause, held } => {
            let presses = core::mem::take(&mut bench.trial.presses);
            let was_open = core::mem::take(&mut bench.trial.open);
            if cause == Cause::LetGo && was_open { Verdict::instant(presses, bench.at - held) } else { Verdict::None }
        }
        Edge::Turn { .. } | Edge::Push { .. } => Verdict::None,
    }
}
