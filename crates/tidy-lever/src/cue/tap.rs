//! `tap under 200ms`: pulls at letting go, if it was down for less; an instant.

use super::{Bench, Edge, Presses, Verdict};
use crate::history::Cause;
use crate::ledger::End;

pub(super) fn hears(under: u64, edge: Edge, bench: &mut Bench<'_>) -> Verdict {
    match edge {
        Edge::Down { press, first: true, .. } => {
            let at = bench.at;
            (bench.trial.presses, bench.trial.open) = (Presses::one(press), true);
            // At `under` itself it is too late, so the attempt ends before that moment's events.
            bench.due(at + under);
            Verdict::None
        }
        Edge::Up { cause, held } => {
            let presses = bench.trial.presses;
            let in_time = bench.trial.open && held < under && cause == Cause::LetGo;
            bench.trial.drop_attempt();
            bench.no_timer();
            if held >= under && cause == Cause::LetGo {
                bench.missed(End::Long { by: held - under + 1 });
            }
            if in_time { Verdict::instant(presses, bench.at - held) } else { Verdict::None }
        }
        _ => Verdict::None,
    }
}
